"""Clocks are put back: an hour in autumn by hand, more by a battery. Pages go on, and no project's time does."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from itsdangerous import timed

from jaylantern.store import connection, edits, projects

BACK = timedelta(hours=1)


@pytest.fixture
def put_back(monkeypatch):
    """Put the clock back by an hour, or by some."""
    get, now = timed.TimestampSigner.get_timestamp, connection.now

    def put(by: timedelta = BACK) -> None:
        monkeypatch.setattr(timed.TimestampSigner, "get_timestamp", lambda self: get(self) - int(by.total_seconds()))
        earlier = (datetime.fromisoformat(now()) - by).isoformat(timespec="seconds")
        for module in (connection, edits):
            monkeypatch.setattr(module, "now", lambda: earlier)

    return put


@pytest.mark.parametrize("by", [BACK, timedelta(days=400), -timedelta(days=400)])
def test_a_page_that_is_open_goes_on(visitor, project_id, put_back, by):
    put_back(by)
    answer = visitor.post(f"/projects/{project_id}/do/rename_project", json={"name": "Noon"})
    assert (answer.status_code, answer.json.get("name")) == (200, "Noon")


def test_a_projects_time_never_goes_backwards(db, project_id, put_back):
    from jaylantern import commands

    def do(k):
        commands.do(db, project_id, "add_marker", {"at_n": k})
        return projects.card(db, project_id).updated_at, edits.history(db, project_id)[-1].at

    before = do(1)
    put_back()
    assert connection.now() < before[0]
    assert do(2) == before  # later, never earlier
    assert datetime.fromisoformat(before[0]) <= datetime.now(UTC)
    edits.undo(db, project_id)
    assert projects.card(db, project_id).updated_at == before[0]
