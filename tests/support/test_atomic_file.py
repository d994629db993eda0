"""A file is whole or not there, and what was there before stays until the new one is."""

from __future__ import annotations

import os
from contextlib import ExitStack

import pytest

from jaylantern.support.atomic_file import unfinished, whole, whole_text


def broken(part):
    part.write_text("half")
    raise ValueError("the disk is full")


def test_it_has_its_name_only_when_it_is_done(tmp_path):
    path = tmp_path / "a.txt"
    with unfinished(path) as part:
        part.write_text("half")
        assert not path.exists()
    assert path.read_text() == "half"
    assert os.listdir(tmp_path) == ["a.txt"]


def test_whole_answers_what_writing_answers(tmp_path):
    assert whole(tmp_path / "a.txt", lambda part: part.write_text("abc"), sync=True) == 3


@pytest.mark.parametrize("before", [None, "old"])
def test_what_breaks_off_leaves_what_was_there(tmp_path, before):
    path = tmp_path / "a.txt"
    if before:
        path.write_text(before)
    with pytest.raises(ValueError, match="disk"):
        whole(path, broken)
    assert (path.read_text() if path.exists() else None) == before
    assert os.listdir(tmp_path) == (["a.txt"] if before else [])


def test_several_files_are_there_together_or_not_at_all(tmp_path):
    def write(fail: bool) -> None:
        with ExitStack() as stack:
            for name in ("a", "b"):
                stack.enter_context(unfinished(tmp_path / name)).write_text(name)
            if fail:
                raise ValueError("stopped")

    with pytest.raises(ValueError, match="stopped"):
        write(fail=True)
    assert os.listdir(tmp_path) == []
    write(fail=False)
    assert sorted(os.listdir(tmp_path)) == ["a", "b"]


def test_two_that_write_a_shared_file_at_once_do_not_disturb_each_other(tmp_path):
    path = tmp_path / "shared"
    with unfinished(path) as first:
        first.write_text("first")
        with unfinished(path) as second:
            assert second != first
            second.write_text("second")
        assert path.read_text() == "second"
    assert path.read_text() == "first"
    assert list(tmp_path.iterdir()) == [path]


def test_text_is_utf_8_with_its_own_ends_of_lines(tmp_path):
    whole_text(tmp_path / "a.csv", lambda out: out.write("ä\r\nb\n"))
    assert (tmp_path / "a.csv").read_bytes() == "ä\r\nb\n".encode()
