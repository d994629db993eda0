"""What is installed: the files of locks/ name all that pyproject.toml asks for, in versions it allows, with hashes."""

from __future__ import annotations

import tomllib
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name
from packaging.version import Version

ROOT = Path(__file__).parent.parent
LOCKS = ROOT / "locks"
ASKED = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
EXTRAS = {"app": [], "lowest": ["test"], "cluster": ["cluster"], "test": ["test"], "tools": ["test", "tools"]}


def pinned(name: str) -> dict[str, set[str]]:
    """The versions of each package that a lock names: one, or one for each range of Pythons."""
    found: dict[str, set[str]] = {}
    for line in (LOCKS / f"{name}.txt").read_text(encoding="utf-8").splitlines():
        if not line.startswith(" "):
            package, version = line.split(";")[0].strip(" \\").split("==")
            found.setdefault(package, set()).add(version.strip())
    return found


@pytest.mark.parametrize("name", EXTRAS)
def test_a_lock_names_all_that_is_asked_for_in_versions_that_are_allowed(name):
    there = pinned(name)
    extras = [each for extra in EXTRAS[name] for each in ASKED["optional-dependencies"][extra]]
    asked = [*ASKED["dependencies"], *extras]
    for each in map(Requirement, asked):
        versions = there[canonicalize_name(each.name)]
        assert all(each.specifier.contains(version) for version in versions), (each, versions)


@pytest.mark.parametrize("name", ["app", "cluster", "tools"])
def test_what_runs_has_the_versions_that_are_tested(name):
    tested = pinned("test")
    assert {each: versions for each, versions in pinned(name).items() if versions - tested.get(each, versions)} == {}


def test_the_lowest_versions_are_the_bounds():
    there = pinned("lowest")
    for each in map(Requirement, ASKED["dependencies"]):
        [bound] = [Version(said.version) for said in each.specifier]
        [version] = map(Version, there[canonicalize_name(each.name)])
        assert version.release[: len(bound.release)] == bound.release, each


@pytest.mark.parametrize("path", sorted(LOCKS.glob("*.txt")), ids=lambda path: path.name)
def test_every_version_has_its_hashes_and_no_place_it_comes_from(path):
    text = path.read_text(encoding="utf-8")
    entries = text.replace("\\\n", " ").splitlines()
    assert all("--hash=sha256:" in each for each in entries)
    assert "://" not in text
    assert "index" not in {line.split("=")[0].strip("-") for line in text.splitlines() if line.startswith("-")}
