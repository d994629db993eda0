"""Jay Lantern from its checkout: makes the environment, installs what is meant by its hashes, and does what is asked.

Begun by `jay` (Linux, macOS) and `jay.cmd` (Windows), which look for a Python. Needs nothing but the standard library.
"""

from __future__ import annotations

import importlib.util
import os
import platform
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from zlib import crc32

HERE = Path(__file__).resolve().parent
WINDOWS = os.name == "nt"
OLDEST, NEWEST = (3, 11), (3, 13)  # opentimelineio has no wheels for 3.14
DEBIAN_OF_TESTS = (
    "chromium",
    "chromium-headless-shell",
    "asterisk-core-sounds-en-g722",
    "asterisk-moh-opsound-g722",
    "node-typescript",
)
DEBIAN_IF_CAN = ("firefox-esr", "webkit2gtk-driver", "xvfb", "pulseaudio")
SYSTEMS = ("linux", "darwin", "win32")

HELP = """\
{jay} demo     start with the demo project   (--port N, --open, --data FOLDER)
{jay} serve    start without it
{jay} address  print an address that lets one more browser in
{jay} test     all tests; with arguments: what pytest is to run
{jay} lowest   the tests that need no browser, with the lowest versions of what the program runs with
{jay} lacking  the tests that need no browser, with what only Linux has taken away
{jay} windows  the tests that need neither browser nor Linux, on a Python for Windows under Wine
{jay} lint     what the tests run first: style, types, the scripts that need no page
{jay} mutate   faults planted in what decides, and how many of them the tests notice
{jay} bench    benchmarks, as ratios
{jay} build    the wheel, into dist/, installed into a clean environment and tried
{jay} lock     take the newest versions of what is installed: locks/ is written anew
{jay} detect | duck | tailor | loudness | render | batch | watch | recipe | backup | restore | check …
               the command line; --help says more
{jay} scheduler | worker ADDRESS   of many machines: docs/fleet.md"""


class Wrong(Exception):
    """What keeps us from going on, in one line."""


def called() -> str:
    """How the person calls us."""
    return "jay.cmd" if WINDOWS else "./jay"


def missing(
    version: tuple[int, int] = sys.version_info[:2],
    system: str = sys.platform,
    machine: str = platform.machine(),
    bits: int = 64 if sys.maxsize > 2**32 else 32,
    libc: str = platform.libc_ver()[0],
    has: Callable[[str], object] = importlib.util.find_spec,
) -> str:
    """What is missing on this machine, in one line; "" where nothing is. Nothing is installed to find that out."""
    number, machine = ".".join(map(str, version)), machine.lower()
    if version < OLDEST:
        return f"Python 3.{OLDEST[1]} to 3.{NEWEST[1]} is needed; this is {number}."
    if version > NEWEST:
        return (
            f"Python 3.{OLDEST[1]} to 3.{NEWEST[1]} is needed; this is {number}, for which opentimelineio has no wheel"
            " yet. Name another with PYTHON=…"
        )
    if bits != 64:
        return "A Python of 64 bit is needed; this one has 32."
    if system == "win32" and machine not in ("amd64", "x86_64"):
        return "Windows on ARM: opentimelineio has no wheel; take the Python for x64, which runs there."
    if system == "darwin" and machine != "arm64":
        return "Macs with Intel's processors: opentimelineio has no wheel since 0.18."
    if system == "linux" and libc != "glibc":
        return "Linux without glibc (such as Alpine): opentimelineio has no wheel."
    if not all(map(has, ("venv", "ensurepip"))):
        remedy = "; on Debian: apt-get install python3-venv" if system == "linux" else ""
        return f"Python has no venv here{remedy}."
    return ""


class Environment:
    """A virtual environment in the checkout, with what files of locks/ name."""

    def __init__(self, name: str = ".venv") -> None:
        self.folder = HERE / name

    def program(self, name: str) -> str:
        """The path of a program that lies in it."""
        return str(self.folder / ("Scripts" if WINDOWS else "bin") / (f"{name}.exe" if WINDOWS else name))

    def pip(self, *arguments: str) -> None:
        """Install. Raises Wrong."""
        command = [self.program("python"), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
        done = subprocess.run([*command, *arguments], cwd=HERE, stderr=subprocess.PIPE, text=True, errors="replace")
        if done.returncode:
            none = re.search(r"No matching distribution found for (\S+)", done.stderr)
            if none:
                raise Wrong(f"there is no wheel of {none[1]} for this machine ({platform.platform()}), or no way to it")
            raise Wrong(f"could not install:\n{done.stderr.strip()}")

    def install(self, name: str) -> None:
        """Install what a file of locks/ names, by its hashes: once, and again when that has changed."""
        lock, alone = HERE / f"locks/{name}.txt", HERE / f"locks/{name}-alone.txt"
        want = f"{crc32((HERE / 'pyproject.toml').read_bytes() + lock.read_bytes()):08x}\n"
        kept = self.folder / f".installed-{name}"
        if kept.is_file() and kept.read_text(encoding="ascii") == want:
            return
        if not Path(self.program("python")).exists():
            lacks = missing()
            if lacks:
                raise Wrong(lacks)
            if subprocess.run([sys.executable, "-m", "venv", str(self.folder)]).returncode:
                raise Wrong("python -m venv failed; on Debian: apt-get install python3-venv")
        _say(f"installing into {self.folder.name} …")
        # who only wants to use it needs no compiler, and hears at once where one would be needed
        wheels = ("--only-binary=:all:",) if name == "app" else ()
        self.pip("--require-hashes", *wheels, "-r", str(lock))
        if alone.is_file():  # what names older versions than ours, and works with these
            self.pip("--require-hashes", "--no-deps", "-r", str(alone))
        self.pip("--no-deps", "--no-build-isolation", "-e", ".")
        kept.write_text(want, encoding="ascii")


def _say(words: str) -> None:
    print(f"jay: {words}", file=sys.stderr, flush=True)


def _run(*command: str) -> None:
    """Run it here. Raises SystemExit where it fails."""
    code = subprocess.run(command, cwd=HERE).returncode
    if code:
        raise SystemExit(code)


def _become(*command: str, at: Path = HERE) -> int:
    """Let it take our place, so that signals go to it; where a system has no such thing, wait for it."""
    os.chdir(at)
    if not WINDOWS:
        sys.stdout.flush()
        os.execv(command[0], command)
    while True:
        with subprocess.Popen(command) as process:
            try:
                return process.wait()
            except KeyboardInterrupt:  # the same key has told it to stop
                return process.wait()


def _not_there(packages: Sequence[str]) -> list[str]:
    """Which of these packages of Debian are not there."""
    found = []
    for package in packages:
        asked = subprocess.run(["dpkg-query", "-W", "-f=${Status}", package], capture_output=True, text=True)
        if "ok installed" not in asked.stdout:
            found.append(package)
    return found


def debian(*packages: str, needed: bool = True) -> None:
    """Packages of Debian the tests need: installed where we may, else named. What is not needed is left out where it
    can't be had; so is all on systems that are not Debian. Raises Wrong."""
    if not shutil.which("dpkg-query"):
        return
    wanted = _not_there(packages)
    may = os.name == "posix" and os.geteuid() == 0 and shutil.which("apt-get")
    if not wanted or (not may and not needed):
        return
    if not may:
        raise Wrong(f"the tests need these packages of Debian; install them first: apt-get install {' '.join(wanted)}")
    _say(f"installing {' '.join(wanted)} …")
    quiet = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    update = subprocess.run(["apt-get", "update", "-qq"], stdout=subprocess.DEVNULL, env=quiet)
    command = ["apt-get", "install", "-y", "-qq", "--no-install-recommends", *wanted]
    if update.returncode or subprocess.run(command, stdout=subprocess.DEVNULL, env=quiet).returncode:
        if needed:
            raise Wrong(f"could not install {' '.join(wanted)}")
        _say(f"could not install {' '.join(wanted)}; the tests in Firefox and WebKit are left out")


def lint(env: Environment) -> None:
    """Style and types of Python and of the page's scripts, and the tests of the scripts that need no page."""
    _run(env.program("ruff"), "check", ".")
    _run(env.program("ruff"), "format", "--check", ".")
    types = [
        subprocess.Popen(
            [env.program("mypy"), "--platform", system, "--cache-dir", f".mypy_cache/{system}"],
            cwd=HERE,
        )
        for system in SYSTEMS
    ]
    if [code for each in types if (code := each.wait())]:
        raise SystemExit(1)
    _run(shutil.which("tsc") or "tsc", "-p", "tsconfig.json")
    _run(env.program("oxlint"), "--deny-warnings", "src/jaylantern/web/static/js", "tests/js")
    scripts = sorted(str(path.relative_to(HERE)) for path in (HERE / "tests/js").glob("*.test.js"))
    _run(shutil.which("node") or "node", "--test", "--test-reporter=dot", *scripts)


def locks(env: Environment) -> None:
    """Write locks/ anew: the newest versions that are allowed, for every system, with the hashes of all their files."""
    compile_ = [env.program("uv"), "pip", "compile", "--universal", "--python-version", f"3.{OLDEST[1]}", "--quiet"]
    ours = ["pyproject.toml", "locks/build.in"]

    def lock(name: str, *arguments: str) -> None:
        silent = ("--no-header", "--no-annotate", "--no-emit-index-url", "--no-emit-find-links")
        _run(*compile_, *arguments, "--upgrade", "--generate-hashes", *silent, "-o", f"locks/{name}.txt")

    lock("test", *ours, "--extra", "test")
    lock("app", *ours, "-c", "locks/test.txt")  # a program runs with the versions it is tested with
    lock("cluster", *ours, "--extra", "cluster", "-c", "locks/test.txt")
    lock("tools", *ours, "--extra", "test", "--extra", "tools", "-c", "locks/test.txt")
    lock("test-alone", "locks/test-alone.in", "--no-deps")
    with tempfile.TemporaryDirectory() as folder:
        # the lowest versions pyproject.toml allows of what the program runs with, under the newest tools
        lowest = str(Path(folder) / "app.txt")
        _run(*compile_, "pyproject.toml", "--resolution", "lowest-direct", "-o", lowest)
        lock("lowest", *ours, "--extra", "test", "-c", lowest)
    shutil.copyfile(HERE / "locks/test-alone.txt", HERE / "locks/lowest-alone.txt")


def build(env: Environment) -> None:
    """The wheel, and what it does in an environment that has nothing else than what it asks for."""
    for name in ("build", "dist"):
        shutil.rmtree(HERE / name, ignore_errors=True)
    command = ("-m", "pip", "wheel", "--quiet", "--disable-pip-version-check", "--no-deps", "--no-build-isolation")
    _run(env.program("python"), *command, "-w", "dist", ".")
    shutil.rmtree(HERE / "build", ignore_errors=True)
    for path in (HERE / "dist").iterdir():
        print(f"{path.relative_to(HERE)}  {path.stat().st_size / 1e6:.1f} MB", flush=True)
    _run(env.program("python"), "-m", "pytest", "tests/packaging")


def main(command: str, *arguments: str) -> int:
    """Do what is asked; answers the exit code. Raises Wrong, SystemExit."""
    here, env = Path.cwd(), Environment()
    # What is compiled is kept, whatever the shell says: each process would compile all of the program anew.
    os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    many = ("-n", "auto", "--dist", "loadgroup")
    match command:
        case "help" | "-h" | "--help":
            print(HELP.format(jay=called()))
        case "test":
            debian(*DEBIAN_OF_TESTS)
            debian(*DEBIAN_IF_CAN, needed=False)
            env.install("test")
            if arguments:
                return _become(env.program("python"), "-m", "pytest", *arguments)
            lint(env)
            why_not = "from tests.windows import wine; print(wine.why_not())"
            lacks = subprocess.run(
                [env.program("python"), "-c", why_not], cwd=HERE, capture_output=True, text=True
            ).stdout
            if lacks.strip():
                _say(f"the tests on a Windows are left out: {lacks.strip()}")
            return _become(env.program("python"), "-m", "pytest", *many)
        case "lowest":
            env = Environment(".venv-lowest")
            env.install("lowest")
            left = ("--ignore=tests/browser", "--ignore=tests/sitting")
            return _become(env.program("python"), "-m", "pytest", *many, *left, *arguments)
        case "lacking":
            env.install("test")
            os.environ["PYTHONPATH"] = str(HERE / "tests/lacking/shim")
            left = ("--ignore=tests/browser", "--ignore=tests/sitting", "--ignore=tests/windows")
            return _become(env.program("python"), "-m", "pytest", *many, *left, *arguments)
        case "windows":
            env.install("test")
            return _become(env.program("python"), "-m", "tests.windows.wine", *(arguments or ("--all",)))
        case "lint":
            debian("node-typescript")
            env.install("test")
            lint(env)
        case "build":
            env.install("test")
            build(env)
        case "lock":
            env.install("tools")
            locks(env)
        case "mutate":
            env.install("tools")
            return _become(env.program("python"), "-m", "benchmarks.mutate", *arguments)
        case "vocabulary":
            env.install("test")
            return _become(env.program("python"), "-m", "jaylantern.web.vocabulary")
        case "bench":
            env.install("test")
            return _become(env.program("python"), "-m", "benchmarks", *arguments)
        case "scheduler" | "worker":
            env.install("cluster")
            return _become(env.program("dask"), command, *arguments, at=here)
        case _:
            # what many machines and object stores need is installed when they are meant
            far = any(each.startswith("--cluster") or "://" in each for each in arguments)
            env.install("cluster" if far else "app")
            os.environ["JAYLANTERN_CALLED"] = called()
            return _become(env.program("jaylantern"), command, *arguments, at=here)  # files are named from there
    return 0


if __name__ == "__main__":
    try:
        raise SystemExit(main(*(sys.argv[1:] or ["help"])))
    except Wrong as wrong:
        _say(str(wrong))
        raise SystemExit(2) from None
    except KeyboardInterrupt:
        raise SystemExit(130) from None
