"""Faults planted one at a time in what decides, and how many of them the tests notice. The faults are mutmut's.

    ./jay mutate                          all modules that decide, a table at the end
    ./jay mutate core/ducking/points      one of them; what no test noticed is listed
    ./jay mutate plain                    the page's plain scripts (benchmarks/mutate_scripts.py)

It works on a copy, so that the tree stays as it is. Which tests are run: those of the room the module is in.
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path

from benchmarks import mutate_scripts

ROOT = Path(__file__).parent.parent
DECIDES = (
    "core/ducking/plan",
    "core/ducking/passages",
    "core/ducking/triggers",
    "core/ducking/pecking_order",
    "core/ducking/points",
    "core/timeline/pin",
    "core/ducking/clearance",
    "core/ducking/curve",
    "core/ducking/compressor",
    "core/signal/limiter",
    "core/speech/voice_track",
)
ALSO = {  # tests of other rooms that hold a module, too
    "core/ducking/plan": ["tests/core/edit"],
    "core/ducking/passages": ["tests/core/edit"],
    "core/timeline/pin": ["tests/core/edit", "tests/core/ducking", "tests/commands"],
    "core/ducking/curve": ["tests/core/mixing"],
    "core/signal/limiter": ["tests/core/mixing/test_mix.py", "tests/core/mixing/test_mix_metering.py"],
}
CONFIG = """

[tool.mutmut]
source_paths = ["src/jaylantern/{module}.py"]
pytest_add_cli_args_test_selection = {tests}
also_copy = ["src", "tests", "pyproject.toml"]
"""


def results(copy: Path, module: str) -> dict[str, str]:
    """What became of every fault, by its name: "caught", "missed"."""
    tests = [f"tests/{module.rsplit('/', 1)[0]}", *ALSO.get(module, [])]
    plain = (ROOT / "pyproject.toml").read_text(encoding="utf-8")
    (copy / "pyproject.toml").write_text(plain + CONFIG.format(module=module, tests=tests), encoding="utf-8")
    shutil.rmtree(copy / "mutants", ignore_errors=True)
    mutmut = Path(sys.executable).with_name("mutmut")
    environment = {**os.environ, "PYTHONPATH": "src", "OPENBLAS_NUM_THREADS": "1"}
    with (copy / "mutmut.log").open("w") as log:
        subprocess.run(
            [mutmut, "run", "--max-children", str(os.cpu_count() or 1)],
            cwd=copy,
            env=environment,
            stdout=log,
            stderr=log,
        )
        answer = subprocess.run(
            [mutmut, "results", "--all", "true"], cwd=copy, env=environment, capture_output=True, text=True
        )
    found = dict(re.findall(r"^\s*(\S+): (.+)$", answer.stdout, flags=re.MULTILINE))
    return {name: "caught" if said in ("killed", "timeout", "suspicious") else "missed" for name, said in found.items()}


def main(modules: list[str]) -> int:
    """Run the modules and print a table."""
    scripts = [each for each in modules if each.split("/")[0] == "plain"]
    there = {each: mutate_scripts.modules(each) for each in scripts}
    there |= {
        each: [each] if (ROOT / "src" / "jaylantern" / f"{each}.py").exists() else []
        for each in (modules or DECIDES)
        if each not in scripts
    }
    unknown = [each for each, found in there.items() if not found]
    if unknown:
        print(f"mutate: there is no module {unknown[0]}; name one such as core/ducking/points", file=sys.stderr)
        return 2
    with tempfile.TemporaryDirectory(prefix="jaylantern-mutate-") as folder:
        copy = Path(folder) / "copy"
        skip = shutil.ignore_patterns(".venv", ".git", "__pycache__", "*.pyc", "mutants", "screenshots", ".*_cache")
        shutil.copytree(ROOT, copy, ignore=skip)
        print(f"{'module':<28} {'faults':>7} {'caught':>7}  share", flush=True)
        for asked, names in there.items():
            for module in names:
                found = mutate_scripts.results(module) if asked in scripts else results(copy, module)
                count = Counter(found.values())
                share = count["caught"] / len(found) if found else 0.0
                print(f"{module:<28} {len(found):>7} {count['caught']:>7}  {share:5.0%}", flush=True)
                if module in modules:
                    print("\n".join(f"  missed: {name}" for name, said in found.items() if said == "missed"))
    return 0


if __name__ == "__main__":
    sys.exit(
        main([each.removeprefix("src/jaylantern/").removesuffix(".py").removesuffix(".js") for each in sys.argv[1:]])
    )
