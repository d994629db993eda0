"""What is recorded and nobody woke is woken by the worker itself, once."""

from __future__ import annotations

from contextlib import closing

import pytest

from jaylantern.jobs import work
from jaylantern.jobs.queue import Queue
from jaylantern.store import jobs


def left(queue: Queue) -> list[int]:
    return sorted(task.args[0] for task in queue.huey.pending())


@pytest.fixture
def queue(workspace):
    with closing(Queue(workspace)) as queue:
        yield queue


def test_a_job_that_nobody_woke_is_woken_at_the_second_look(queue, db, project_id):
    number = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    queue.look()
    assert left(queue) == []  # who recorded it may be about to wake it
    for _ in range(3):
        queue.look()
        assert left(queue) == [number]


def test_what_waits_in_the_queue_is_at_work_or_ended_is_let_be(queue, db, project_id, monkeypatch):
    waiting, at_work, ended = (
        jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"}) for _ in range(3)
    )
    queue.wake(waiting)
    jobs.finish(db, ended, state="done")

    def looking(workspace, job_id) -> bool:
        for _ in range(3):
            queue.look()
        assert left(queue) == [waiting]
        jobs.finish(db, job_id, state="done")
        return True

    monkeypatch.setattr(work, "run", looking)
    queue._run(at_work)
    for _ in range(3):
        queue.look()
    assert left(queue) == [waiting]


def test_what_is_at_work_and_waits_is_listed_first_however_much_was_made(db, project_id):
    first = jobs.create(db, project_id, kind="export", title="running", payload={})
    second = jobs.create(db, project_id, kind="export", title="waiting", payload={})
    with db:
        db.execute("UPDATE job SET state = 'running' WHERE id = ?", (first,))
    for i in range(220):
        done = jobs.create(db, project_id, kind="export", title=str(i), payload={})
        with db:
            db.execute("UPDATE job SET state = 'done' WHERE id = ?", (done,))
    listed = [job.id for job in jobs.of_project(db, project_id, kind="export")]
    assert listed[:3] == [first, second, done]
