"""The command that looks through a data folder, as it is typed."""

from __future__ import annotations

import json
from contextlib import closing

import pytest

from jaylantern.cli.main import main
from jaylantern.store import projects
from tests.watched_files import unwatched


def test_it_says_what_is_sound_mends_and_asks_nothing_where_nobody_answers(workspace, db, film, capsys):
    data = str(workspace.folder.path)
    assert main(["check", "--data", data]) == 0
    assert capsys.readouterr().out == "1 project, 3 files.\nAll of it is sound.\n"
    sha256 = next(clip.media.sha256 for _, clip in projects.load(db, film).placed())
    (workspace.folder.media(sha256) / "peaks.bin").unlink()
    assert main(["check", "--data", data]) == 1
    assert "Say --yes" in capsys.readouterr().err
    assert main(["check", "--data", data, "--json"]) == 1
    found = json.loads(capsys.readouterr().out)
    assert (len(found["troubles"]), len(found["can_be_mended"]), found["unused"]) == (1, 1, [])
    assert main(["check", "--data", data, "--yes"]) == 0
    assert main(["check", "--data", data, "--no"]) == 0


def test_it_is_refused_where_a_server_has_the_folder_and_where_there_is_none(workspace, tmp_path, capsys):
    with closing(workspace.folder.connect()):
        lock = workspace.folder.hold()
        assert main(["check", "--data", str(workspace.folder.path)]) == 2
        lock.release()
    assert "in use by another Jay Lantern" in capsys.readouterr().err
    assert main(["check", "--data", str(tmp_path / "nothing")]) == 2
    assert not (tmp_path / "nothing").exists()


@pytest.mark.parametrize(("answer", "there"), [("n", True), ("", True), ("y", False), ("yes", False)])
def test_nothing_is_freed_without_a_yes(workspace, film, monkeypatch, answer, there):
    alone = workspace.folder.path / "media" / "ab" / f"ab{0:062x}"
    alone.mkdir(parents=True)
    with unwatched():
        (alone / "original").write_bytes(b"x")
    monkeypatch.setattr("sys.stdin.isatty", lambda: True, raising=False)
    monkeypatch.setattr("builtins.input", lambda question: answer)
    assert main(["check", "--data", str(workspace.folder.path)]) == 0
    assert alone.exists() == there
