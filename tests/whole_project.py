"""Fixtures: a project with everything a person can decide in it, handed off as files."""

from __future__ import annotations

from dataclasses import replace
from hashlib import sha256
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.mixing.mix import Variant, render
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.pin import DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.jobs import work
from jaylantern.store import jobs, projects
from jaylantern.workspace.workspace import Workspace
from tests import films, sounds
from tests.build import rewrite


@pytest.fixture
def files(tmp_path) -> Path:
    """A folder with talk, two beds that are called alike but for their folder, and a film with sound."""
    folder = tmp_path / "files"
    folder.mkdir()
    soundfile.write(folder / "Talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=8), RATE)
    soundfile.write(folder / "Bed „1“ & more.flac", sounds.noise(seconds=8, channels=2, seed=4), RATE)
    films.write_film(folder / "Film.mp4", seconds=6, sound=sounds.sine(hz=200, seconds=6, channels=2))
    return folder


@pytest.fixture
def talk_over_music(workspace, db, project_id, bring_known, tmp_path, laid_out):
    """Has a film with talk and music brought in and tagged; answers the project's number."""

    def lay_out(music: np.ndarray, *, spoken_at_s: float, talk_s: int, film_s: int) -> int:
        name = f"talk over music {sha256(music.tobytes()).hexdigest()} {spoken_at_s} {talk_s} {film_s}"
        return laid_out(name, lambda: bring_in(music, spoken_at_s, talk_s, film_s))

    def bring_in(music: np.ndarray, spoken_at_s: float, talk_s: int, film_s: int) -> int:
        soundfile.write(tmp_path / "Bed.wav", music, RATE, subtype="FLOAT")
        soundfile.write(tmp_path / "Talk.wav", sounds.talk({"vm-intro": spoken_at_s}, seconds=talk_s), RATE)
        films.write_film(tmp_path / "Film.mp4", seconds=film_s)
        for name in ("Film.mp4", "Talk.wav", "Bed.wav"):
            assert bring_known(tmp_path / name).state == "done"
        for lane in projects.load(db, project_id).lanes:
            tag = {"Talk.wav": "dialogue", "Bed.wav": "music"}.get(lane.clips[0].name)
            if tag:
                workspace.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
        return project_id

    return lay_out


@pytest.fixture
def film(db, project_id, bring_known, files, laid_out):
    """A project with everything a person can decide in it."""
    return laid_out("everything a person can decide", lambda: _decided(db, project_id, bring_known, files))


def _decided(db, project_id, bring_known, files) -> int:
    for path in sorted(files.iterdir()):
        assert bring_known(path).state == "done"

    def do(kind, **values):
        commands.do(db, project_id, kind, values)
        return projects.load(db, project_id)

    now = projects.load(db, project_id)
    bed, talk = (next(lane for lane in now.lanes if lane.name.startswith(name)) for name in ("Bed", "Talk"))
    do("tag_lane", lane_id=talk.id, tag="dialogue")
    do("tag_lane", lane_id=bed.id, tag="music")
    do("split_clips", clip_ids=[bed.clips[0].id], at_n=3 * RATE)
    do("set_settings", settings={"amount_db": -11, "fall": "eased", "target_lufs": -19})
    do("raise_lane", lane_id=talk.id)
    do("set_pair", upper=f"lane {talk.id}", lower="music", own={"amount_db": -9})
    do("add_marker", at_n=2 * RATE, name="Bell")
    do("set_in", at_n=RATE)
    do("set_out", at_n=5 * RATE)
    now = projects.load(db, project_id)
    bed = next(lane for lane in now.lanes if lane.id == bed.id)
    do("set_clips", clip_ids=[bed.clips[1].id], gain_db=-2.5)
    do("raise_stretch", clip_ids=[bed.clips[0].id], start_n=RATE, stop_n=2 * RATE, by_db=2.5)
    do("fade_clips", clip_ids=[bed.clips[1].id], end="fade_out", length_n=RATE, shape="late")

    def pinned(project, new_id):
        spoken = talk.clips[0].media.id
        heard = SpeechPin(new_id(), spoken, Heard.SPEECH, 5 * RATE, 6 * RATE)
        dip = DipPin(new_id(), spoken, RATE, 2 * RATE, Own({"amount_db": -20.0}))
        point = PointPin(new_id(), bed.clips[0].id, 4 * RATE, -3.0)
        return replace(project, speech_pins=(heard,), dip_pins=(dip,), point_pins=(point,))

    rewrite(db, project_id, pinned)
    do("add_captions", name="Film.en.vtt", form="vtt", head="STYLE\n::cue { color: lime }", tail="NOTE the end",
       encoding="cp1252",
       cues=[[RATE, 2 * RATE, "<b>Salt</b>", "line:10%"],
             [5 * RATE, 7 * RATE, "Tide", "", "NOTE n\n\nlast\n"]])  # fmt: skip
    do("hold_draft")
    do("set_settings", settings={"lead_in_ms": 90})
    return project_id


@pytest.fixture
def handed(workspace, db, film, tmp_path):
    """Hand the project off in a form; answers the only file."""

    def make(what: str, **values) -> Path:
        payload = {"what": what, "pattern": "{what}", **values}
        job_id = jobs.create(db, film, kind="export", title=what, payload=payload)
        work.run(workspace, job_id)
        job = jobs.get(db, job_id)
        assert job.state == "done", job.message
        (path,) = workspace.folder.exports(job_id).iterdir()
        return path

    return make


@pytest.fixture
def elsewhere(tmp_path) -> Workspace:
    made = Workspace(tmp_path / "elsewhere")
    made.folder.prepare()
    return made


def rendered(workspace: Workspace, project_id: int) -> np.ndarray:
    """The ducked mix of a project, whole."""
    db = workspace.folder.connect()
    try:
        project, result = workspace.load(db, project_id)
        return render(result.programme, workspace.library.reader(project), 0, project.length_n, Variant.DUCKED)
    finally:
        db.close()
