"""Who may: a browser that was let in by the key, and nobody else who reaches the loopback address."""

from __future__ import annotations

import re
import subprocess
import sys
import urllib.request
from urllib.error import HTTPError

import pytest

from jaylantern.web import create_app
from jaylantern.web.doorkeeper import WORDS

ADDRESSES = ["/", "/projects/{0}/duck", "/projects/{0}/document", "/projects/{0}/pulse", "/exports/1/0", "/nowhere",
             "/?key=", "/?key=wrong", "/projects/{0}/listen/ducked?start=0&stop=48000"]  # fmt: skip


@pytest.fixture
def door(workspace):
    app = create_app(workspace)
    app.testing = True
    return app


@pytest.mark.parametrize("address", ADDRESSES)
@pytest.mark.parametrize("method", ["GET", "POST", "PUT", "DELETE"])
def test_without_key_or_cookie_there_is_one_answer(door, project_id, address, method):
    answer = door.test_client().open(address.format(project_id), method=method)
    assert (answer.status_code, answer.get_data(as_text=True)) == (401, WORDS.format(called="jaylantern"))
    assert "Set-Cookie" not in answer.headers


def test_the_key_lets_a_browser_in_once_and_the_cookie_from_then_on(door, workspace, project_id):
    mine, other, key = door.test_client(), door.test_client(), workspace.folder.key()
    welcome = mine.get(f"/?key={key}")
    assert (welcome.status_code, welcome.headers["Location"]) == (302, "/")  # the key is nobody else's to see
    cookie = welcome.headers["Set-Cookie"]
    assert all(word in cookie for word in ("HttpOnly", "SameSite=Strict", "Max-Age="))
    assert key not in cookie
    assert mine.get("/").status_code == 200
    assert mine.get(f"/projects/{project_id}/document").status_code == 200
    assert other.get(f"/?key={key}").status_code == 401  # it is used up
    assert mine.get(f"/?key={key}").status_code == 302  # who is in already may open the address again
    assert workspace.folder.key() != key
    assert other.get(f"/projects/{project_id}/duck?key={workspace.folder.key()}").headers["Location"] == (
        f"/projects/{project_id}/duck"
    )


def test_who_is_let_in_is_sent_to_no_other_host(door, workspace):
    address = {"PATH_INFO": "//elsewhere.example/x", "QUERY_STRING": f"key={workspace.folder.key()}"}
    answer = door.test_client().get("/", environ_overrides=address)
    assert answer.headers["Location"] == "/elsewhere.example/x"


def test_a_browser_that_was_let_in_stays_in_over_a_restart(door, workspace, project_id):
    browser = door.test_client()
    browser.get(f"/?key={workspace.folder.key()}")
    workspace.folder.new_key()  # as a start does
    again = create_app(workspace)
    later = again.test_client()
    for name in [each for each in browser._cookies.values() if each.key.startswith("jay-door")]:
        later.set_cookie(name.key, name.value)
    assert later.get(f"/projects/{project_id}/document").status_code == 200


def test_the_cookie_of_another_data_folder_opens_nothing(door, workspace, elsewhere):
    browser = door.test_client()
    browser.get(f"/?key={workspace.folder.key()}")
    [cookie] = [each for each in browser._cookies.values() if each.key.startswith("jay-door")]
    other = create_app(elsewhere).test_client()
    other.set_cookie(f"jay-door-{elsewhere.folder.name}", cookie.value)
    assert other.get("/").status_code == 401
    assert elsewhere.folder.name != workspace.folder.name  # two servers of one machine do not take each other's


def test_the_key_is_its_owners_alone(workspace):
    key = workspace.folder.key()
    assert len(key) >= 32
    if sys.platform != "win32":  # there rights are the account's
        assert (workspace.folder.path / "key").stat().st_mode & 0o777 == 0o600
    (workspace.folder.path / "key").write_text("")  # one that was not written whole opens nothing
    assert len(workspace.folder.key()) >= 32


@pytest.mark.parametrize("origin", ["http://[", "http://[::1", "null", "http://127.0.0.1:1/", "", "//", "\x7f"])
def test_any_origin_but_ours_is_refused_in_words(visitor, project_id, origin):
    url = f"/projects/{project_id}/do/rename_project"
    answer = visitor.post(url, json={"name": "x"}, headers={"Origin": origin})
    assert (answer.status_code, answer.json["error"]) == (403, "This change was asked for by another page.")


@pytest.mark.parametrize(
    ("path", "sent"),
    [
        ("/projects/{0}/targets", {"name": "a\0b", "lufs": -20, "dbtp": -1, "tolerance_lu": 1}),
        ("/projects/{0}/do/rename_project", {"name": "a\0b"}),
        ("/projects/{0}/do/add_marker", {"at_n": 0, "name": "\0"}),
        ("/projects/{0}/exports", {"what": "mix", "pattern": "\0"}),
        ("/projects/{0}/do/set_settings", {"settings": {"\0": [1, {"x": "\0"}]}}),
    ],
)
def test_a_nul_is_refused_in_words(visitor, project_id, path, sent):
    answer = visitor.post(path.format(project_id), json=sent)
    assert (answer.status_code, "NUL" in answer.json["error"]) == (422, True)


def test_a_started_server_prints_the_key_and_address_prints_another(tmp_path):
    run = [sys.executable, "-m", "jaylantern.cli.main"]
    data = ["--data", str(tmp_path / "data")]
    with subprocess.Popen([*run, "serve", *data, "--port", "0"], stdout=subprocess.PIPE, text=True) as server:
        try:
            line = server.stdout.readline()
            assert "the key lets one browser in" in line
            plain, key = re.search(r"(http://127\.0\.0\.1:\d+/)\?key=([\w-]+)", line).groups()
            with pytest.raises(HTTPError, match="401"):
                urllib.request.urlopen(plain, timeout=180)
            opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
            assert opener.open(f"{plain}?key={key}", timeout=180).status == 200
            assert opener.open(plain, timeout=180).status == 200
            said = subprocess.run([*run, "address", *data], capture_output=True, text=True, timeout=180, check=True)
            another = re.fullmatch(rf"{re.escape(plain)}\?key=([\w-]+)\n", said.stdout)[1]
            assert another != key
            opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
            assert opener.open(said.stdout.strip(), timeout=180).status == 200
        finally:
            server.kill()
    gone = subprocess.run([*run, "address", *data], capture_output=True, text=True, timeout=180, check=False)
    assert (gone.returncode, "No Jay Lantern is running" in gone.stderr) == (2, True)
