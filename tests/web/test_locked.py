"""Another program holds the database: who reads is answered, who writes waits briefly in line and is told."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing

import pytest

from jaylantern.errors import Refused
from jaylantern.store import projects
from jaylantern.store.connection import Line, atomic
from jaylantern.web import connection
from tests.web.conftest import Visitor


@pytest.fixture
def held(workspace):
    """The database, held by a program that writes to it."""
    with closing(workspace.folder.connect()) as other:
        other.execute("BEGIN IMMEDIATE")
        yield other
        if other.in_transaction:
            other.execute("ROLLBACK")


READS = ["/", "/projects/{0}/duck", "/projects/{0}/document", "/projects/{0}/pulse", "/projects/{0}/report"]


@pytest.mark.parametrize("address", READS)
def test_reads_are_answered_meanwhile(visitor, talk_and_bed, held, address, monkeypatch):
    monkeypatch.setattr(connection, "PATIENCE_S", 0.0)  # who would wait, fails
    assert visitor.client.get(address.format(talk_and_bed)).status_code == 200


def edit(visitor, number: int, at_n: int = 0):
    return visitor.post(f"/projects/{number}/do/add_marker", json={"at_n": at_n})


def test_a_write_is_told_and_goes_through_when_the_other_lets_go(visitor, talk_and_bed, held, monkeypatch):
    monkeypatch.setattr(connection, "PATIENCE_S", 0.05)
    told = edit(visitor, talk_and_bed)
    assert (told.status_code, "something else is writing to it just now" in told.json["error"]) == (507, True)
    monkeypatch.setattr(connection, "PATIENCE_S", 60.0)
    letting_go = threading.Timer(0.2, lambda: held.execute("ROLLBACK"))
    letting_go.start()
    assert edit(visitor, talk_and_bed).status_code == 200
    letting_go.join()


def test_no_more_wait_than_there_are_places_in_the_line(app, visitor, talk_and_bed, held, monkeypatch):
    monkeypatch.setattr(connection, "PATIENCE_S", 60.0)
    everybody = [Visitor(app.test_client()) for _ in range(connection.MOST_WAITING + 5)]
    with ThreadPoolExecutor(len(everybody)) as pool:
        waiting = [pool.submit(edit, each, talk_and_bed, k) for k, each in enumerate(everybody)]
        until = time.monotonic() + 60
        while sum(each.done() for each in waiting) < 5:  # they are refused at once; the others wait
            assert time.monotonic() < until
            time.sleep(0.01)
        held.execute("ROLLBACK")
        codes = sorted(each.result().status_code for each in waiting)
    assert codes == [200] * connection.MOST_WAITING + [409] * 5


def test_a_place_is_free_again_whatever_becomes_of_who_had_it(workspace):
    line = Line(1)
    with closing(workspace.folder.connect(line=line)) as db:
        for _ in range(3):
            with pytest.raises(ValueError, match="no"), atomic(db):
                raise ValueError("no")
        with atomic(db):
            projects.create(db, "In one transaction, and one place")
    with line.place(), pytest.raises(Refused, match="Try again"), line.place():
        pass
