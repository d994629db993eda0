"""Makes the demo's files: run `python -m jaylantern.demo.making` once and commit what it writes to demo/files."""
