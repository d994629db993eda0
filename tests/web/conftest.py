"""The application in process, spoken to as a visitor would."""

from __future__ import annotations

import re
from contextlib import closing

import pytest
import soundfile
from flask.testing import FlaskClient

from jaylantern.core.signal.timebase import RATE
from jaylantern.jobs import work
from jaylantern.jobs.queue import Queue
from jaylantern.store import jobs
from jaylantern.web import create_app
from jaylantern.workspace.workspace import Workspace
from tests import sounds


class Visitor:
    """A client that carries the token its pages give it."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        page = client.get("/").get_data(as_text=True)
        self.token = re.search(r'name="csrf" content="([^"]+)"', page)[1]

    def send(self, method: str, url: str, **kwargs):
        """A change with everything a page of ours sends."""
        headers = {"X-CSRFToken": self.token, "Accept": "application/json", **kwargs.pop("headers", {})}
        return self.client.open(url, method=method, headers=headers, **kwargs)

    def post(self, url: str, **kwargs):
        return self.send("POST", url, **kwargs)


@pytest.fixture(scope="session")
def one_app(empty_folder):
    """The pages, whose addresses and templates are compiled once for all tests."""
    made = create_app(Workspace(empty_folder), keyed=False)
    made.testing = True
    return made


@pytest.fixture
def app(one_app, workspace):
    """The pages over this test's data folder."""
    with closing(Queue(workspace)) as queue:
        one_app.extensions.update(workspace=workspace, queue=queue)
        yield one_app


@pytest.fixture
def visitor(app) -> Visitor:
    return Visitor(app.test_client())


@pytest.fixture
def talk_and_bed(bring_known, tmp_path, project_id, visitor, laid_out) -> int:
    """A project with tagged talk and bed; its number."""
    return laid_out("talk and bed", lambda: _talk_and_bed(bring_known, tmp_path, project_id, visitor))


def _talk_and_bed(bring_known, tmp_path, project_id, visitor) -> int:
    soundfile.write(tmp_path / "Talk.wav", sounds.talk({"vm-intro": 3.0}, seconds=12), RATE)
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=14, channels=2), RATE)
    for name, tag in (("Talk", "dialogue"), ("Bed", "music")):
        assert bring_known(tmp_path / f"{name}.wav").state == "done"
        lanes = visitor.client.get(f"/projects/{project_id}/document").json["lanes"]
        lane = next(lane for lane in lanes if lane["name"] == name)
        answer = visitor.post(f"/projects/{project_id}/do/tag_lane", json={"lane_id": lane["id"], "tag": tag})
        assert answer.status_code == 200
    return project_id


@pytest.fixture
def do_jobs(workspace, db):
    """A function that does all waiting jobs as the worker would."""

    def do() -> None:
        for job in jobs.unfinished(db):
            work.run(workspace, job.id)

    return do
