"""Who may talk to the application, and with what."""

import sys

import pytest

from jaylantern.web import safety


def test_every_answer_is_locked_down(visitor, project_id):
    for url in ("/", f"/projects/{project_id}/duck", "/nowhere", f"/projects/{project_id}/document"):
        headers = visitor.client.get(url).headers
        policy = headers["Content-Security-Policy"]
        assert "default-src 'self'" in policy
        assert "unsafe" not in policy
        assert headers["X-Content-Type-Options"] == "nosniff"


@pytest.mark.parametrize(
    "url", ["/", "/projects/{}/duck", "/projects/{}/layout", "/projects/{}/tag", "/projects/{}/handoff"]
)
def test_pages_hold_no_inline_script_style_or_handler(visitor, project_id, url):
    page = visitor.client.get(url.format(project_id)).get_data(as_text=True)
    assert "<script>" not in page
    assert " style=" not in page
    assert " onclick=" not in page
    assert "hx-on" not in page


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.7:8420", "localhost.evil:80"])
def test_other_hosts_are_turned_away(visitor, host):
    answer = visitor.client.get("/", headers={"Host": host})
    assert answer.status_code == 400
    assert answer.get_data(as_text=True) == "This address is not one Jay Lantern answers to."
    assert visitor.client.post("/projects", data={"name": "theirs"}, headers={"Host": host}).status_code == 400


@pytest.mark.parametrize("host", ["127.0.0.1:8420", "localhost", "127.0.0.1", "localhost:9000"])
def test_this_machine_is_let_in(visitor, host):
    assert visitor.client.get("/", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize("origin", ["http://evil.example", "https://localhost:1", "null"])
def test_changes_asked_for_by_other_pages_are_refused(visitor, project_id, origin):
    answer = visitor.post(f"/projects/{project_id}/undo", headers={"Origin": origin})
    assert answer.status_code == 403


FILLED = {
    "<int:project_id>": "1",
    "<int:job_id>": "1",
    "<int:edit_id>": "1",
    "<token>": "a",
    "<name>": "x",
    "<int:preset_id>": "1",
    "<int:target_id>": "1",
    "<any(remove, restore):way>": "remove",
}


def changes(app):
    """Every address that changes something, with a method."""
    for rule in app.url_map.iter_rules():
        url = rule.rule
        for blank, value in FILLED.items():
            url = url.replace(blank, value)
        assert "<" not in url or "GET" in rule.methods
        yield from ((method, url) for method in rule.methods - safety.SAFE_METHODS)


def test_every_change_needs_the_token_of_our_page(app, visitor):
    tried = 0
    for method, url in changes(app):
        assert visitor.client.open(url, method=method).status_code == 400, (method, url)
        tried += 1
    assert tried >= 20


def test_reading_never_changes_anything(app, visitor, workspace, db, talk_and_bed):
    before = "\n".join(db.iterdump())
    for rule in app.url_map.iter_rules():
        if "GET" in rule.methods and not {"media_id", "job_id", "token", "filename"} & rule.arguments:
            url = rule.rule.replace("<int:project_id>", str(talk_and_bed)).replace("<variant>", "ducked")
            visitor.client.get(
                url.replace("<name>", "passages").replace("<any(layout, tag, duck, handoff):step>", "duck")
            )
    assert "\n".join(db.iterdump()) == before


def test_the_key_of_the_sessions_is_kept_and_readable_by_its_owner_only(workspace):
    first = workspace.folder.secret()
    assert workspace.folder.secret() == first
    assert len(first) == 32
    if sys.platform != "win32":  # there rights are the account's
        assert (workspace.folder.path / "secret").stat().st_mode & 0o077 == 0
