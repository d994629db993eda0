"""Imports and exports as the worker does them: once per content, stoppable, nothing left behind."""

from __future__ import annotations

import json
import shutil

import numpy as np
import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import Stopped
from jaylantern.jobs import work
from jaylantern.library import bringing, ingest
from jaylantern.store import jobs, projects
from jaylantern.store import media as media_store
from jaylantern.workspace.folder import DataFolder
from tests import films, sounds


@pytest.fixture
def song(tmp_path):
    soundfile.write(tmp_path / "Song.wav", sounds.noise(seconds=4, channels=2), RATE, subtype="PCM_16")
    return tmp_path / "Song.wav"


def left_in(folder) -> list[str]:
    return sorted(str(path.relative_to(folder)) for path in folder.rglob("*") if path.is_file())


def export(workspace, db, project_id, what: str) -> jobs.Job:
    job_id = jobs.create(db, project_id, kind="export", title=what, payload={"what": what, "pattern": "out"})
    work.run(workspace, job_id)
    return jobs.get(db, job_id)


def test_the_same_content_under_another_name_is_stored_once(workspace, db, bring, song, tmp_path, project_id):
    shutil.copy(song, tmp_path / "Copy.wav")
    assert bring(song).state == bring(tmp_path / "Copy.wav").state == "done"
    assert db.execute("SELECT count(*) FROM media").fetchone()[0] == 1
    assert [lane.clips[0].name for lane in projects.load(db, project_id).lanes] == ["Song.wav", "Copy.wav"]
    assert left_in(workspace.folder.path / "incoming") == []


def test_a_medium_is_complete_and_the_original_is_kept(workspace, bring, db, song):
    bring(song)
    found = media_store.find(db, bringing.hash_of(song, lambda share, doing: None))
    folder = workspace.folder.media(found.sha256)
    assert left_in(folder) == [
        "about.json",
        "bands.npz",
        "character.npz",
        "facts.npz",
        "original",
        "peaks.bin",
        "sound.raw",
        "sums.json",
    ]
    assert (folder / "original").read_bytes() == song.read_bytes()
    about = workspace.library.about(found)
    assert sum(about.level_counts) * 4 == (folder / "peaks.bin").stat().st_size
    track = workspace.library.facts(found).track
    for each in (track.probability, track.level_db, track.over_db, track.singing, track.music):
        assert each.shape == (400,)
    assert not track.older


def test_a_broken_file_fails_in_words_and_leaves_nothing(workspace, bring, tmp_path, project_id, db):
    (tmp_path / "odd.mp4").write_bytes(b"no film at all" * 99)
    job = bring(tmp_path / "odd.mp4")
    assert job.state == "failed"
    assert job.message.startswith("odd.mp4 is not a film or sound file that can be read")
    assert left_in(workspace.folder.path / "media") == left_in(workspace.folder.path / "incoming") == []
    assert not projects.load(db, project_id).lanes


def test_silent_sound_and_no_sound_are_told_apart(bring, tmp_path):
    soundfile.write(tmp_path / "Hush.wav", np.zeros((RATE, 1)), RATE)
    assert bring(tmp_path / "Hush.wav").message == "Its sound is silent."
    assert bring(films.write_film(tmp_path / "Mute.mp4", seconds=2)).message == "It has no sound."


@pytest.mark.parametrize("share", [0.0, 0.2, 0.45, 0.6])
def test_an_import_stopped_at_any_point_leaves_nothing(workspace, db, project_id, song, share, monkeypatch):
    class StopsAt(work.Reporter):
        def __call__(self, done: float, doing: str) -> None:
            if done >= share:
                jobs.ask_stop(db, self._job_id)
                raise Stopped("Stopped.")

    monkeypatch.setattr(work, "Reporter", StopsAt)
    token = jobs.create_upload(db, project_id, name="Song.wav", size_bytes=1, at_n=0)
    workspace.folder.incoming(token).write_bytes(song.read_bytes())
    job_id = jobs.create(db, project_id, kind="import", title="Song.wav",
                         payload={"token": token, "name": "Song.wav", "at_n": 0})  # fmt: skip
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "stopped"
    assert left_in(workspace.folder.path / "media") == left_in(workspace.folder.path / "incoming") == []
    assert not projects.load(db, project_id).lanes


def test_a_job_that_broke_off_three_times_is_given_up(workspace, db, project_id):
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix", "pattern": "out"})
    for _ in range(jobs.MOST_ATTEMPTS):
        jobs.begin(db, job_id)
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "failed"
    assert "broke off 3 times" in jobs.get(db, job_id).message


def test_exports_refuse_what_cannot_be_made(workspace, db, project_id, bring, song):
    assert (
        export(workspace, db, project_id, "mix").message
        == "The timeline is empty: there is nothing to hand off. Bring in files first."
    )
    bring(song)
    assert "tagged music" in export(workspace, db, project_id, "music").message
    assert "no picture" in export(workspace, db, project_id, "film").message
    assert left_in(workspace.folder.path / "exports") == []


def test_an_export_stopped_leaves_no_half_file(workspace, db, project_id, bring, song):
    bring(song)
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix", "pattern": "out"})
    jobs.ask_stop(db, job_id)
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "stopped"
    assert left_in(workspace.folder.path / "exports") == []


def test_without_room_an_export_says_so(workspace, db, project_id, bring, song, monkeypatch):
    bring(song)
    monkeypatch.setattr(DataFolder, "free_bytes", lambda self: 1000)
    job = export(workspace, db, project_id, "mix")
    assert job.state == "failed"
    assert "not enough room" in job.message


def test_a_mix_is_as_long_as_the_project_and_a_second_film_is_encoded_anew(workspace, db, project_id, bring, tmp_path):
    film = films.write_film(tmp_path / "Film.mp4", seconds=2, sound=sounds.noise(seconds=2, channels=2))
    bring(film)
    job = export(workspace, db, project_id, "mix")
    written = workspace.folder.exports(job.id) / "out mix.wav"
    assert soundfile.info(written).frames == projects.load(db, project_id).length_n
    assert export(workspace, db, project_id, "film").state == "done"
    bring(film, at_n=5 * RATE)
    assert "encoded anew, because there is no picture at 00:02.0" in export(workspace, db, project_id, "film").message


def test_each_music_clip_gets_its_own_keyframes(workspace, db, project_id, bring, song):
    for at_n in (0, 10 * RATE):
        bring(song, at_n=at_n)
    for lane in projects.load(db, project_id).lanes:
        commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "music"})
    job = export(workspace, db, project_id, "keyframes")
    assert left_in(workspace.folder.exports(job.id)) == ["out keyframes 1.csv", "out keyframes 2.csv"]


def test_a_gain_line_is_handed_off_apart_from_the_ducking(workspace, db, project_id, bring, song):
    bring(song)
    [lane] = projects.load(db, project_id).lanes
    stretch = {"clip_ids": [lane.clips[0].id], "start_n": RATE, "stop_n": 2 * RATE, "by_db": -4.5}
    commands.do(db, project_id, "raise_stretch", stretch)
    job = export(workspace, db, project_id, "keyframes-json")
    assert left_in(workspace.folder.exports(job.id)) == ["out gain line.json"]
    found = json.loads((workspace.folder.exports(job.id) / "out gain line.json").read_text(encoding="utf-8"))
    assert found["curve"] == "gain line"
    assert [(each["time_s"], each["gain_db"]) for each in found["points"]][1:5] == [
        (0.95, 0), (1.0, -4.5), (2.0, -4.5), (2.05, 0),
    ]  # fmt: skip


def test_an_unreadable_data_folder_is_told_plainly(workspace, bring, song, monkeypatch):
    def full(*args, **kwargs):
        raise OSError(13, "Permission denied")

    monkeypatch.setattr(ingest, "take_in", full)
    job = bring(song)
    assert job.message == "The data folder can't be used: it can't be written to; check its rights."
