"""Every step of every job hears "stop" at once, and what has ended is left alone."""

from __future__ import annotations

import threading
import time

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.jobs import work
from jaylantern.library import ingest
from jaylantern.media import picture
from jaylantern.store import jobs, projects
from tests import films, sounds

HEARD_S = 6.0  # two on a machine that has nothing else to do; the step itself would last sixty


def endless(*_, **__):
    """A step that never looks up."""
    until = time.monotonic() + 60
    while time.monotonic() < until:
        sum(range(1000))
    raise AssertionError("it was not stopped")


def stopped_after(db, job_id, run):
    """How long a job takes to stop once it is asked to, a moment after it began."""
    asked = []

    def ask():
        asked.append(time.monotonic())
        jobs.ask_stop(db, job_id)

    timer = threading.Timer(0.5, ask)
    timer.start()
    run()
    took_s = time.monotonic() - asked[0]
    timer.join()
    return took_s


STEPS = [  # of an import, all that come before it is written in one quick transaction
    (ingest, "probe"), (ingest, "write_bands"), (ingest, "write_character"), (ingest, "write_sums"),
    (ingest, "save_voice"), (ingest, "listened"), (picture, "write_thumbs"), (picture, "write_preview"),
    (ingest, "keep_file"),
]  # fmt: skip


@pytest.mark.parametrize(("module", "step"), STEPS)
def test_an_import_stops_in_whichever_step_it_is(workspace, db, project_id, tmp_path, monkeypatch, module, step):
    monkeypatch.setattr(module, step, endless)
    path = films.write_film(tmp_path / "Film.mp4", seconds=2, sound=sounds.noise(seconds=2, channels=2))
    token = jobs.create_upload(db, project_id, name=path.name, size_bytes=1, at_n=0)
    workspace.folder.incoming(token).write_bytes(path.read_bytes())
    payload = {"token": token, "name": path.name, "at_n": 0}
    job_id = jobs.create(db, project_id, kind="import", title=path.name, payload=payload)
    jobs.drop_upload(db, token)
    took_s = stopped_after(db, job_id, lambda: work.run(workspace, job_id))
    assert jobs.get(db, job_id).state == "stopped"
    assert took_s < HEARD_S
    assert not projects.load(db, project_id).lanes
    assert not workspace.folder.incoming(token).exists()
    assert not list((workspace.folder.path / "media").glob("*/*"))


@pytest.mark.parametrize("step", ["decide"])
def test_a_hand_off_stops_in_whichever_step_it_is(workspace, db, project_id, bring_known, tmp_path, monkeypatch, step):
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=2), RATE)
    bring_known(tmp_path / "Bed.wav")
    monkeypatch.setattr(workspace, step, endless)
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    assert stopped_after(db, job_id, lambda: work.run(workspace, job_id)) < HEARD_S
    assert jobs.get(db, job_id).state == "stopped"
    assert not workspace.folder.exports(job_id).exists()


def test_a_stop_that_comes_when_it_is_done_changes_nothing(
    workspace, db, project_id, bring_known, tmp_path, monkeypatch
):
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=2), RATE)
    bring_known(tmp_path / "Bed.wav")
    tidy = work._tidy

    def late(space, connection, job):
        assert job.state == "done"
        jobs.ask_stop(db, job.id)
        time.sleep(1.5)
        tidy(space, connection, job)

    monkeypatch.setattr(work, "_tidy", late)
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "done"
    assert list(workspace.folder.exports(job_id).iterdir())


def test_a_swallowed_word_is_said_again(workspace, db, project_id, monkeypatch):
    """What calls back from a library may take an exception for its own."""
    swallowed = []

    def deaf(*_):
        while len(swallowed) < 2:
            try:
                endless()
            except BaseException as error:  # as a callback from a library does
                swallowed.append(error)
        endless()

    monkeypatch.setitem(work.DOES, "export", deaf)
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    assert stopped_after(db, job_id, lambda: work.run(workspace, job_id)) < 2 * HEARD_S
    assert jobs.get(db, job_id).state == "stopped"
    assert len(swallowed) == 2
