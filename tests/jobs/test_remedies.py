"""What a person is told to do about a damaged file does mend it: every kind of medium, every kind of damage, every way
that is offered."""

from __future__ import annotations

import shutil

import numpy as np
import pytest
import soundfile

from jaylantern.jobs import repair, work
from jaylantern.store import jobs, media, projects
from jaylantern.workspace import inspecting
from jaylantern.workspace.workspace import Workspace
from tests import sounds
from tests.tunes import RATE, tune
from tests.whole_project import rendered


@pytest.fixture(scope="module")
def music():
    return tune("VABA", bpm=104).sound


@pytest.fixture
def cut(workspace, db, project_id, talk_over_music, music, laid_out):
    """A film with talk over tailored music."""
    return laid_out("talk over tailored music", lambda: tailored(workspace, db, project_id, talk_over_music, music))


def tailored(workspace, db, project_id, talk_over_music, music):
    talk_over_music(music, spoken_at_s=1.0, talk_s=8, film_s=8)
    bed = next(clip for _, clip in projects.load(db, project_id).placed() if clip.name == "Bed.wav")
    workspace.do(db, project_id, "tailor_clip", {"clip_id": bed.id, "length_n": 20 * RATE})
    assert playing(db, project_id, "Bed.wav").tailored is not None
    return project_id


def playing(db, number, name):
    return next(clip.media for _, clip in projects.load(db, number).placed() if clip.name == name)


def flip(path):
    raw = bytearray(path.read_bytes())
    for at in range(len(raw) // 2, min(len(raw), len(raw) // 2 + 2000)):
        raw[at] ^= 0x55
    path.write_bytes(raw)


DAMAGES = {
    "what is known of it is gone": lambda folder: (folder / "about.json").unlink(),
    "what was heard of it can't be read": lambda folder: (folder / "facts.npz").write_bytes(b"nonsense"),
    "its sound is cut short": lambda folder: (folder / "sound.raw").write_bytes(b"1234"),
    "its sound is gone": lambda folder: (folder / "sound.raw").unlink(),
    "its peaks are gone": lambda folder: (folder / "peaks.bin").unlink(),
    "all of it is gone": lambda folder: shutil.rmtree(folder),
}
OF_THE_FILE = {
    "there": lambda folder: None,
    "damaged": lambda folder: flip(folder / "original"),
    "gone": lambda folder: (folder / "original").unlink(),
}


def opened_page(workspace, db, number):
    """What opening the project's page does, and the work that leaves."""
    for job in repair.look_after(workspace, db, projects.load(db, number)):
        work.run(workspace, job)


def missing(db, number):
    return sorted({clip.name for _, clip in projects.load(db, number).placed() if clip.media.missing})


WAYS = ["bring", "find any", "find this one"]
CASES = [(("Talk.wav", "Bed.wav")[k % 2], damage, file, WAYS[k % 3])
         for k, (damage, file) in enumerate((d, f) for d in DAMAGES for f in OF_THE_FILE)]  # fmt: skip
CASES += [("Bed.wav", "all of it is gone", "gone", way) for way in WAYS]
CASES += [("Film.mp4", "all of it is gone", "gone", way) for way in WAYS]
CASES += [("Film.mp4", "what is known of it is gone", file, "find any") for file in OF_THE_FILE]


@pytest.mark.parametrize(("name", "damage", "file", "way"), sorted(set(CASES)))
def test_the_remedy_is_the_remedy(workspace, db, cut, bring_known, tmp_path, name, damage, file, way):
    before, clips = rendered(workspace, cut), len(list(projects.load(db, cut).placed()))
    recording = media.recording(db, playing(db, cut, name))
    folder = workspace.folder.media(recording.sha256)
    OF_THE_FILE[file](folder)
    DAMAGES[damage](folder)
    afresh = Workspace(workspace.folder.path)  # as after a restart
    opened_page(afresh, db, cut)
    if file != "there" or damage == "all of it is gone":
        assert missing(db, cut) == [name]
        wanted = media.wanted_in(db, cut)
        assert [each.name for each in wanted.values()] == [name]  # and so it is listed, with a button
        how = {"bring": {}, "find any": {"relink": "any"}, "find this one": {"relink": next(iter(wanted))}}[way]
        done = bring_known(tmp_path / name, **how)
        assert (done.state, done.message) == ("done", f"{name} is here again.")
    assert missing(db, cut) == []
    assert media.wanted_in(db, cut) == {}
    assert len(list(projects.load(db, cut).placed())) == clips
    again = Workspace(workspace.folder.path)
    assert rendered(again, cut).tobytes() == before.tobytes()
    assert inspecting.inspect(again, db).troubles == []


@pytest.mark.parametrize("name", ["Talk.wav", "Bed.wav", "Film.mp4"])
@pytest.mark.parametrize("file", ["damaged", "gone"])
def test_a_file_that_is_still_heard_is_whole_again_when_it_is_brought_in(
    workspace, db, cut, bring_known, tmp_path, name, file
):
    recording = media.recording(db, playing(db, cut, name))
    OF_THE_FILE[file](workspace.folder.media(recording.sha256))
    assert [each for each in inspecting.inspect(workspace, db).troubles if each.startswith(f"{name}: the file itself")]
    assert bring_known(tmp_path / name).message == f"{name} is here again."
    assert inspecting.inspect(workspace, db).troubles == []


def test_sound_whose_bytes_were_changed_is_made_again_when_it_is_brought_in(workspace, db, cut, bring_known, tmp_path):
    before = rendered(workspace, cut)
    flip(workspace.folder.media(playing(db, cut, "Talk.wav").sha256) / "sound.raw")
    assert not np.array_equal(rendered(Workspace(workspace.folder.path), cut), before)
    assert bring_known(tmp_path / "Talk.wav").message == "Talk.wav is here again."
    assert np.array_equal(rendered(Workspace(workspace.folder.path), cut), before)


def test_another_recording_is_no_remedy_for_tailored_music_and_that_is_said(workspace, db, cut, bring, tmp_path):
    shutil.rmtree(workspace.folder.media(media.recording(db, playing(db, cut, "Bed.wav")).sha256))
    opened_page(workspace, db, cut)
    soundfile.write(tmp_path / "Other.wav", sounds.noise(seconds=9), RATE)
    [number] = media.wanted_in(db, cut)
    done = bring(tmp_path / "Other.wav", relink=number)
    assert (done.state, "Find that very file" in done.message) == ("failed", True)
    assert missing(db, cut) == ["Bed.wav"]
    assert jobs.get(db, done.id).message == done.message
