"""An environment that has what the wheel asks for and nothing else, made without a network from the one that tests."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import venv
from importlib.metadata import distribution
from pathlib import Path

ROOT = Path(__file__).parent.parent.parent
PIP = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check"]
OF_THE_WHEEL = ["LICENSE", "NOTICE.md", "README.md", "pyproject.toml", "src"]


def wheel(folder: Path) -> Path:
    """Build the wheel from a copy of what it is made of."""
    source = folder / "source"
    source.mkdir()
    for name in OF_THE_WHEEL:
        path = ROOT / name
        if path.is_dir():
            shutil.copytree(path, source / name, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
        else:
            shutil.copyfile(path, source / name)
    command = [*PIP, "wheel", "--no-deps", "--no-index", "--no-build-isolation", "-w", str(folder), str(source)]
    subprocess.run(command, check=True, capture_output=True)
    [built] = folder.glob("*.whl")
    return built


def locked(name: str) -> list[str]:
    """The packages that a file of locks/ names, as they are on this system."""
    lines = (ROOT / f"locks/{name}.txt").read_text(encoding="utf-8").splitlines()
    found = [line for line in lines if line and not line.startswith(" ")]
    here = [line.split("==")[0] for line in found if "win32" not in line and "darwin" not in line.lower()]
    return sorted({*here} - {"setuptools"})


def environment(folder: Path, built: Path) -> Path:
    """An environment with the wheel and what its lock names; answers where its programs lie."""
    venv.create(folder, with_pip=False, symlinks=os.name != "nt")
    [site] = folder.glob("lib/python*/site-packages")
    for name in locked("app"):
        one = distribution(name)
        for top in {Path(each).parts[0] for each in one.files or () if Path(each).parts[0] not in ("..", "/")}:
            source, target = Path(str(one.locate_file(top))), site / top
            if source.exists() and not target.exists():
                target.symlink_to(source)
    python = folder / "bin" / "python"
    install = [*PIP, "--python", str(python), "install", "--no-deps", "--no-index", str(built)]
    subprocess.run(install, check=True, capture_output=True)
    return python.parent
