"""The structure that ARCHITECTURE.md promises: direction of imports, where SQL lives, what the documents name."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "jaylantern"
FILES = sorted(SOURCE.rglob("*.py"))

# who may import whom, by the first part after `jaylantern`
MAY = {
    "core": {"core", "errors"},
    "errors": set(),
    "detect": {"core", "detect", "errors"},
    "media": {"core", "media", "errors"},
    "interchange": {"core", "interchange", "errors"},
    "pipeline": {"core", "detect", "media", "interchange", "errors"},
    "store": {"core", "store", "errors"},
}
NOT_IN_CORE = {"flask", "sqlite3", "av", "soundfile", "soxr", "pathlib", "io", "os", "socket", "subprocess"}


def imported(path: Path) -> set[str]:
    names = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            names |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            names.add(node.module)
            if node.module == "jaylantern":
                names |= {f"jaylantern.{alias.name}" for alias in node.names}
    return names


def part_of(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_imports_go_one_way(path):
    parts = {name.split(".")[1] for name in imported(path) if name.startswith("jaylantern.")}
    allowed = MAY.get(part_of(path))
    if allowed is not None:
        assert parts <= allowed
    elif part_of(path) not in ("web", "server", "cli"):
        assert "web" not in parts


@pytest.mark.parametrize("path", [p for p in FILES if part_of(p) == "core"], ids=lambda path: path.name)
def test_the_core_does_no_input_or_output(path):
    assert not {name.split(".")[0] for name in imported(path)} & NOT_IN_CORE


@pytest.mark.parametrize(
    "path", [p for p in FILES if part_of(p) != "store"], ids=lambda path: str(path.relative_to(SOURCE))
)
def test_sql_lives_under_store_only(path):
    assert not re.search(r'"(SELECT|INSERT INTO|UPDATE|DELETE FROM) ', path.read_text(encoding="utf-8"))


def test_every_file_says_what_it_is_for():
    assert not [path for path in FILES if not ast.get_docstring(ast.parse(path.read_text(encoding="utf-8")))]


def test_every_public_function_of_the_core_says_what_it_does():
    silent = []
    for path in FILES:
        if part_of(path) == "core":
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if (
                    isinstance(node, (ast.FunctionDef, ast.ClassDef))
                    and not node.name.startswith("_")
                    and not ast.get_docstring(node)
                ):
                    silent.append(f"{path.name}: {node.name}")
    assert not silent


def test_what_the_architecture_names_is_there():
    named = re.findall(
        r"`((?:src|tests|benchmarks|docs)/[\w./-]+)`", (ROOT / "ARCHITECTURE.md").read_text(encoding="utf-8")
    )
    assert len(named) > 15
    assert not [name for name in named if not (ROOT / name).exists()]


def test_pictures_in_the_readme_are_there():
    named = re.findall(r"\((docs/screenshots/[\w.-]+)\)", (ROOT / "README.md").read_text(encoding="utf-8"))
    assert named
    assert not [name for name in named if not (ROOT / name).exists()]


def test_nothing_is_fetched_from_elsewhere():
    pages = [*SOURCE.rglob("*.html"), *SOURCE.rglob("*.css"), *(SOURCE / "web/static/js").rglob("*.js")]
    outside = re.compile(r"""(?:src|href|url|import|fetch)\W{1,3}https?://""")
    assert not [
        path for path in pages if "vendor" not in path.parts and outside.search(path.read_text(encoding="utf-8"))
    ]


def test_the_demo_is_small():
    assert sum(path.stat().st_size for path in (SOURCE / "demo" / "files").iterdir()) < 15_000_000
