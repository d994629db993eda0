"""A data folder looked through: what is damaged is named and made again where it can be; what is unused is freed."""

from __future__ import annotations

import os
import time

import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.tailoring.cut import Cut, Piece
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.tailoring import Tailoring
from jaylantern.store import edits, jobs, media, projects
from jaylantern.workspace import inspecting
from jaylantern.workspace.workspace import Workspace
from tests import sounds
from tests.watched_files import unwatched
from tests.whole_project import rendered


def talk(db, film):
    return next(clip.media for _, clip in projects.load(db, film).placed() if clip.name == "Talk.wav")


def test_all_of_a_sound_folder_is_sound_and_used(workspace, db, film):
    found = inspecting.inspect(workspace, db)
    assert (found.projects, found.media, found.troubles, found.damaged, found.unused) == (1, 3, [], [], [])


def turned(path) -> None:
    """One byte is another, the size stays."""
    data = bytearray(path.read_bytes())
    data[len(data) // 2] ^= 0x40
    path.write_bytes(data)


@pytest.mark.parametrize(
    ("name", "harm", "words", "mended"),
    [
        ("sound.raw", turned, "Talk.wav: sound.raw can be made again.", True),
        ("peaks.bin", turned, "Talk.wav: peaks.bin can be made again.", True),
        ("facts.npz", turned, "Talk.wav: facts.npz can be made again.", True),
        ("sound.raw", lambda path: path.unlink(), "Talk.wav: what is known of it can be made again.", True),
        ("about.json", lambda path: path.write_text("{"), "Talk.wav: what is known of it can be made again.", True),
        ("original", lambda path: path.unlink(), "the file itself is gone; it is still heard", False),
        ("original", turned, "the file itself is damaged. Bring it in again.", False),
    ],
)
def test_what_is_damaged_is_named_and_made_again_where_it_can_be(workspace, db, film, name, harm, words, mended):
    whole = rendered(workspace, film).tobytes()
    harm(workspace.folder.media(talk(db, film).sha256) / name)
    found = inspecting.inspect(workspace, db)
    assert [words in line for line in found.troubles] == [True]
    assert len(found.damaged) == mended
    said = inspecting.mend(workspace, db, found)
    assert said == (["Talk.wav was made again."] if mended else [])
    assert bool(inspecting.inspect(workspace, db).troubles) != mended
    assert rendered(Workspace(workspace.folder.path), film).tobytes() == whole


def test_a_damaged_file_is_not_made_again_of_a_damaged_original(workspace, db, film):
    folder = workspace.folder.media(talk(db, film).sha256)
    (folder / "sound.raw").unlink()
    turned(folder / "original")
    [said] = inspecting.mend(workspace, db, inspecting.inspect(workspace, db))
    assert "itself is damaged or gone" in said
    assert media.get(db, media.everything(db)[-1].id).missing or any(each.missing for each in media.everything(db))


@pytest.fixture
def spare(tmp_path, bring, db, project_id):
    """A file that was brought in and whose clip was removed."""
    soundfile.write(tmp_path / "Spare.wav", sounds.noise(seconds=2, channels=1, seed=9), RATE)
    assert bring(tmp_path / "Spare.wav").state == "done"
    [clip] = [clip for _, clip in projects.load(db, project_id).placed() if clip.name == "Spare.wav"]
    commands.do(db, project_id, "delete_clips", {"clip_ids": [clip.id]})
    return clip.media


def test_what_a_history_can_bring_back_is_used(workspace, db, film, spare):
    assert inspecting.inspect(workspace, db).unused == []
    edits.undo(db, film)
    assert spare.id in {clip.media.id for _, clip in projects.load(db, film).placed()}


def test_what_nothing_uses_is_freed(workspace, db, film, spare):
    db.execute("DELETE FROM edit")  # nobody can bring it back any more
    alone = workspace.folder.path / "media" / "ab" / f"ab{0:062x}"
    alone.mkdir(parents=True)
    with unwatched():
        (alone / "original").write_bytes(b"x" * 1000)
    made = jobs.create(db, film, kind="export", title="Mix", payload={"what": "mix"})
    jobs.finish(db, made, state="done")
    workspace.folder.exports(made).mkdir(parents=True)
    with unwatched():
        (workspace.folder.exports(made) / "mix.wav").write_bytes(b"x" * 2000)
    assert len(inspecting.inspect(workspace, db).unused) == 2  # what was made today is not old
    os.utime(workspace.folder.exports(made), (time.time() - 40 * 86400,) * 2)
    found = inspecting.inspect(workspace, db)
    assert [each.what.split(",")[0].split("(")[0].strip() for each in found.unused] == [
        "Spare.wav", "Mix", "a media folder that no project knows",
    ]  # fmt: skip
    before = rendered(workspace, film).tobytes()
    freed = inspecting.free(workspace, db, found.unused)
    assert freed == sum(each.size_bytes for each in found.unused) > 2 * RATE
    again = inspecting.inspect(Workspace(workspace.folder.path), db)
    assert (again.unused, again.troubles) == ([], [])
    assert rendered(Workspace(workspace.folder.path), film).tobytes() == before
    assert not alone.exists()
    assert not workspace.folder.exports(made).exists()


def test_a_row_that_speaks_of_nothing_is_named(workspace, db, film):
    db.execute("PRAGMA foreign_keys = OFF")
    db.execute("DELETE FROM lane WHERE id = (SELECT min(id) FROM lane)")
    assert "The database: rows of clip speak of what is not there." in inspecting.inspect(workspace, db).troubles


def test_a_recording_is_used_by_what_is_tailored_from_it(workspace, db, film, spare):
    cut = Cut((Piece(0, RATE, RATE),))
    made = media.insert(
        db, sha256="ab" * 32, name="Cut", size_bytes=0, length_n=RATE, has_sound=True, has_picture=False,
        tailored=Tailoring(spare.sha256, Wish(RATE), cut),
    )  # fmt: skip
    db.execute("DELETE FROM edit")
    db.execute("UPDATE clip SET media_id = ? WHERE name = 'Talk.wav'", (made.id,))
    assert spare.id not in {each.id for each in media.unused(db)}
    db.execute("DELETE FROM clip WHERE media_id = ?", (made.id,))
    assert {spare.id, made.id} <= {each.id for each in media.unused(db)}
