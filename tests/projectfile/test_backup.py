"""Backup and restore of a data folder: while it is in use, and of files that are no backup."""

from __future__ import annotations

import shutil
import zipfile

import numpy as np
import pytest
import soundfile

from jaylantern import commands
from jaylantern.cli.main import main
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue, MediaError, Refused
from jaylantern.projectfile import backup
from jaylantern.store import jobs, projects
from jaylantern.workspace.workspace import Workspace
from tests import sounds
from tests.whole_project import rendered


@pytest.fixture
def song(tmp_path):
    soundfile.write(tmp_path / "song.wav", sounds.noise(seconds=3, channels=2), RATE)
    return tmp_path / "song.wav"


def test_a_restored_folder_renders_the_same_samples(workspace, db, project_id, bring, song, tmp_path):
    bring(song)
    waiting = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    (workspace.folder.path / "incoming" / "half").write_bytes(b"half a file")
    count = backup.backup(workspace.folder.path, tmp_path / "all.zip")
    commands.do(db, project_id, "rename_project", {"name": "Changed since"})  # the original is still in use
    assert backup.restore(tmp_path / "all.zip", tmp_path / "elsewhere") == count
    other = Workspace(tmp_path / "elsewhere")
    other.folder.prepare()
    assert np.array_equal(rendered(other, project_id), rendered(workspace, project_id))
    again = other.folder.connect()
    assert projects.load(again, project_id).name != "Changed since"
    assert jobs.get(again, waiting).state == "stopped"
    again.close()
    assert not (tmp_path / "elsewhere" / "incoming" / "half").exists()
    assert sorted(path.name for path in tmp_path.iterdir() if path.name.startswith(("part-", "jaylantern-"))) == []


def test_nothing_is_written_over(workspace, project_id, tmp_path):
    backup.backup(workspace.folder.path, tmp_path / "all.zip")
    with pytest.raises(Refused, match="already"):
        backup.backup(workspace.folder.path, tmp_path / "all.zip")
    with pytest.raises(Refused, match="not empty"):
        backup.restore(tmp_path / "all.zip", workspace.folder.path)
    with pytest.raises(InvalidValue, match="no data folder"):
        backup.backup(tmp_path, tmp_path / "other.zip")


def hostile(path, *names: str, database: bool = True):
    with zipfile.ZipFile(path, "w") as archive:
        if database:
            archive.writestr(backup.DATABASE, b"x")
        for name in names:
            archive.writestr(name, b"x")
    return path


@pytest.mark.parametrize(
    "name", ["../out", "media/../../out", "/etc/out", "media\\..\\out", "secret", "notes.txt", "takes/1/a"]
)
def test_what_leads_out_or_does_not_belong_is_refused(tmp_path, name):
    with pytest.raises(MediaError, match="does not belong"):
        backup.restore(hostile(tmp_path / "bad.zip", name), tmp_path / "new")
    assert not (tmp_path / "new").exists()
    assert not (tmp_path / "out").exists()


def test_what_is_no_backup_is_said_to_be_none(tmp_path):
    (tmp_path / "text.zip").write_text("no zip")
    with pytest.raises(MediaError, match="no backup"):
        backup.restore(tmp_path / "text.zip", tmp_path / "new")
    with pytest.raises(MediaError, match="no backup"):
        backup.restore(hostile(tmp_path / "empty.zip", database=False), tmp_path / "new")
    with pytest.raises(MediaError, match="no backup"):
        backup.restore(tmp_path / "missing.zip", tmp_path / "new")


def test_a_bomb_and_a_full_disk_are_refused_before_anything_is_written(tmp_path, monkeypatch):
    path = hostile(tmp_path / "bomb.zip", "media/ab/abc/sound.raw")
    monkeypatch.setattr(shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(1 << 40, 1 << 40, 1 << 20))
    with pytest.raises(Refused, match="not enough room"):
        backup.restore(path, tmp_path / "new")
    assert sorted(each.name for each in tmp_path.iterdir()) == ["bomb.zip"]


def test_a_damaged_backup_leaves_nothing(workspace, project_id, bring, song, tmp_path):
    bring(song)
    backup.backup(workspace.folder.path, tmp_path / "all.zip")
    raw = bytearray((tmp_path / "all.zip").read_bytes())
    middle = len(raw) // 2
    raw[middle : middle + 64] = bytes(64 * [0x55])
    (tmp_path / "bad.zip").write_bytes(raw)
    with pytest.raises(MediaError, match="damaged"):
        backup.restore(tmp_path / "bad.zip", tmp_path / "new")
    assert not (tmp_path / "new").exists()
    assert not list(tmp_path.glob("part-*"))


def test_from_the_command_line(workspace, project_id, tmp_path, capsys):
    assert main(["backup", str(tmp_path / "all.zip"), "--data", str(workspace.folder.path)]) == 0
    assert main(["restore", str(tmp_path / "all.zip"), "--data", str(tmp_path / "new")]) == 0
    assert "new" in capsys.readouterr().out
    assert main(["restore", str(tmp_path / "all.zip"), "--data", str(tmp_path / "new")]) == 2
    assert "not empty" in capsys.readouterr().err
