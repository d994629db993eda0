"""The film that is handed off: copied whole or in pieces, or encoded anew with the reason; the original sound kept."""

from __future__ import annotations

import av
import pytest

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.jobs import work
from jaylantern.store import jobs, projects
from jaylantern.workspace.folder import DataFolder
from tests import films, sounds


@pytest.fixture
def film(db, project_id, bring_known, tmp_path):
    """A film of six seconds with sound, and key frames each second."""
    path = films.write_film(tmp_path / "Film.mp4", seconds=6, sound=sounds.sine(hz=300, seconds=6, channels=2))
    assert bring_known(path).state == "done"
    return project_id


@pytest.fixture
def cut(db, film):
    """Cut a stretch of seconds out of the film."""

    def cut(start_s: float, stop_s: float) -> None:
        commands.do(db, film, "cut_out", {"start_n": round(start_s * RATE), "stop_n": round(stop_s * RATE)})

    return cut


@pytest.fixture
def made(workspace, db, film):
    """Make the film; what is said of it, its frames, its sound tracks and their seconds."""

    def make(**values):
        job_id = jobs.create(db, film, kind="export", title="film", payload={"what": "film", **values})
        work.run(workspace, job_id)
        job = jobs.get(db, job_id)
        assert job.state == "done", job.message
        (path,) = workspace.folder.exports(job_id).iterdir()
        with av.open(str(path)) as container:
            frames = sum(1 for _ in container.decode(video=0))
        seconds = []
        for track in range(8):
            with av.open(str(path)) as container:
                if track >= len(container.streams.audio):
                    break
                seconds.append(sum(frame.samples for frame in container.decode(audio=track)) / RATE)
        return job.message, frames, seconds

    return make


def test_one_uncut_clip_is_copied_and_its_sound_kept(made):
    message, frames, seconds = made(keep="keep")
    assert (message, frames) == ("", 150)
    assert seconds == pytest.approx([6, 6], abs=0.05)


def test_without_keeping_there_is_one_track(made):
    assert len(made()[2]) == 1


def test_room_is_asked_for_the_picture_too(workspace, db, film, monkeypatch):
    size = next(workspace.folder.path.glob("media/*/*/original")).stat().st_size
    payload = {"what": "film"}
    for free, state in ((size, "failed"), (size + 200_000, "done")):
        monkeypatch.setattr(DataFolder, "free_bytes", lambda self, free=free: free)
        job_id = jobs.create(db, film, kind="export", title="film", payload=payload)
        work.run(workspace, job_id)
        assert jobs.get(db, job_id).state == state


def test_cuts_at_key_frames_are_copied_in_pieces(made, cut):
    cut(2, 4)
    message, frames, seconds = made(keep="keep")
    assert message.startswith("The picture was copied in 2 pieces")
    assert frames == 100
    assert seconds == pytest.approx([4, 4], abs=0.05)


def test_cuts_elsewhere_are_encoded_anew_and_it_is_said_why(made, cut):
    cut(2, 3.4)
    message, frames, seconds = made()
    assert message == "The picture was encoded anew, because the cut at 00:02.00 lies within a group of frames."
    assert frames == 115
    assert seconds == pytest.approx([4.6], abs=0.05)


def test_of_a_film_without_sound_none_is_kept(workspace, db, bring, project_id, tmp_path):
    bring(films.write_film(tmp_path / "Mute.mp4", seconds=1))
    job_id = jobs.create(db, project_id, kind="export", title="film", payload={"what": "film", "keep": "keep"})
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).message == "The film has no sound of its own to be kept."
    assert projects.load(db, project_id).length_n == RATE
