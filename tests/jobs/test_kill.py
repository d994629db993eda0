"""Killed at any moment: what was acknowledged is there afterwards, what was half done is done again or gone."""

from __future__ import annotations

import subprocess
import sys
import time
from contextlib import closing, contextmanager

import numpy as np
import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.jobs.queue import Queue
from jaylantern.store import edits, jobs, projects
from jaylantern.support.child_process import Child
from jaylantern.workspace.workspace import Workspace
from tests import sounds


def wait_for(condition, seconds: float = 600.0) -> None:
    until = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < until, "waited too long"
        time.sleep(0.02)


@contextmanager
def worker(workspace: Workspace):
    """A worker, killed at the end at the latest."""
    child = Child("from jaylantern.jobs.worker import main; main()", str(workspace.folder.path))
    try:
        yield child.process
    finally:
        child.end()


@pytest.mark.parametrize("share", [0.02, 0.3, 0.7])
def test_a_worker_killed_in_the_middle_of_an_import_does_it_again(workspace, db, project_id, share):
    token = jobs.create_upload(db, project_id, name="Long.wav", size_bytes=1, at_n=0)
    with workspace.folder.incoming(token).open("wb") as out:
        soundfile.write(
            out, np.tile(sounds.noise(seconds=20, channels=2), (6, 1)), RATE, format="WAV", subtype="PCM_16"
        )
    payload = {"token": token, "name": "Long.wav", "at_n": 0}
    job_id = jobs.create(db, project_id, kind="import", title="Long.wav", payload=payload)
    jobs.drop_upload(db, token)
    with closing(Queue(workspace)) as queue:
        queue.wake(job_id)
    with worker(workspace):
        wait_for(lambda: jobs.get(db, job_id).share >= share or not jobs.get(db, job_id).active)
        assert jobs.get(db, job_id).state == "running"
    assert not projects.load(db, project_id).lanes
    with worker(workspace):
        wait_for(lambda: not jobs.get(db, job_id).active)
    assert jobs.get(db, job_id).state == "done"
    [lane] = projects.load(db, project_id).lanes
    assert lane.clips[0].length_n == 120 * RATE
    assert not [
        path for path in workspace.folder.path.rglob("*") if path.name.startswith("part-") or path.suffix == ".part"
    ]


def test_a_worker_whose_server_was_gone_before_it_began_ends(workspace):
    late = Child("from jaylantern.jobs.worker import main; main()", str(workspace.folder.path))
    late.process.stdin.close()
    assert late.code(120) == 0


EDITOR = """
import sys
from pathlib import Path
from jaylantern import commands
from jaylantern.support.child_process import Child
from jaylantern.workspace.workspace import Workspace
db = Workspace(Path(sys.argv[1])).folder.connect()
for k in range(100000):
    commands.do(db, int(sys.argv[2]), "rename_project", {"name": f"Name {k}"})
    print(k, flush=True)
"""


def test_an_editor_killed_in_the_middle_of_edits_loses_nothing_acknowledged(workspace, db, project_id):
    editing = subprocess.Popen(
        [sys.executable, "-c", EDITOR, str(workspace.folder.path), str(project_id)], stdout=subprocess.PIPE, text=True
    )
    acknowledged = -1
    while acknowledged < 40:
        acknowledged = int(editing.stdout.readline())
    editing.kill()
    rest, _ = editing.communicate()
    acknowledged = max([acknowledged, *map(int, rest.split())])
    number = int(projects.load(db, project_id).name.removeprefix("Name "))
    assert number in (acknowledged, acknowledged + 1)
    assert projects.revision(db, project_id) == number + 1
    assert db.execute("SELECT count(*) FROM edit").fetchone()[0] == number + 1
    edits.undo(db, project_id)
    assert projects.load(db, project_id).name == f"Name {number - 1}"
    assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
