"""Folders of results on a disk where small and large letters don't count."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from jaylantern.errors import Refused
from jaylantern.fleet.folders import FolderShelf


@pytest.fixture
def no_case_counts(monkeypatch):
    """A disk that takes names that differ in small and large letters alone for the same; one that does so by itself is
    left as it is."""
    exists = Path.exists

    def there(path: Path) -> bool:
        found = exists(path)
        if not found and exists(path.parent):
            found = path.name.casefold() in {name.casefold() for name in os.listdir(path.parent)}
        return found

    monkeypatch.setattr(Path, "exists", there)


@pytest.mark.parametrize(
    ("there", "name", "other"),
    [("Talk", "talk", "Talk"), ("day/Talk", "day/talk", "Talk"), ("Day/talk", "day/talk", "Day"), ("é", "É", "é")],
)
def test_another_films_results_are_not_written_over(tmp_path, no_case_counts, there, name, other):
    shelf = FolderShelf(tmp_path / "out")
    for folder in (there, name):
        made = tmp_path / "made"
        made.mkdir()
        (made / "mix.wav").write_text(folder)
        (made / "made.json").write_text("{}")
        if folder == there:
            shelf.put(made, folder, "made.json", before=["mix.wav"], beside=False)
            continue
        with pytest.raises(Refused, match=f"{other} is there, and this disk does not tell it from"):
            shelf.put(made, folder, "made.json", before=["mix.wav"], beside=False)
    assert (tmp_path / "out" / there / "mix.wav").read_text() == there


def test_the_same_spelling_is_the_same_film(tmp_path, no_case_counts):
    shelf = FolderShelf(tmp_path / "out")
    for word in ("one", "two"):
        made = tmp_path / word
        made.mkdir()
        (made / "mix.wav").write_text(word)
        shelf.put(made, "Talk", "made.json", before=["mix.wav"], beside=False)
    assert (tmp_path / "out" / "Talk" / "mix.wav").read_text() == "two"
