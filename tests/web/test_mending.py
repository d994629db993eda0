"""Files of the data folder that are damaged or gone: the project opens, what is lost is made again, no mix is wrong."""

from __future__ import annotations

import hashlib
import shutil
from pathlib import Path

import numpy as np
import pytest

from jaylantern.core.mixing.mix import Variant, render
from jaylantern.errors import Damaged
from jaylantern.jobs import work
from jaylantern.store import edits, jobs, media, projects
from jaylantern.workspace.workspace import Workspace
from tests import films
from tests.whole_project import rendered

HARM = {
    "gone": lambda path: path.unlink(),
    "empty": lambda path: path.write_bytes(b""),
    "cut": lambda path: path.write_bytes(path.read_bytes()[: path.stat().st_size // 2]),
    "noise": lambda path: path.write_bytes(np.random.default_rng(1).bytes(path.stat().st_size)),
}
DERIVED = [  # damage that leaves the size of sound and peaks as it is is found by `check`
    ("about.json", "gone"), ("about.json", "cut"), ("facts.npz", "empty"), ("facts.npz", "noise"),
    ("peaks.bin", "gone"), ("peaks.bin", "cut"), ("sound.raw", "empty"), ("sound.raw", "cut"),
    ("character.npz", "noise"), ("bands.npz", "empty"),
]  # fmt: skip


def of(db, film: int, begins: str):
    return next(clip.media for _, clip in projects.load(db, film).placed() if clip.name.startswith(begins))


def digest(workspace, film: int) -> str:
    """Of the whole mix, as another process would render it that has nothing in memory."""
    return hashlib.sha256(rendered(Workspace(workspace.folder.path), film).tobytes()).hexdigest()


def missing(visitor, film: int) -> list[str]:
    document = visitor.client.get(f"/projects/{film}/document")
    assert document.status_code == 200
    return sorted(medium["name"] for medium in document.json["media"].values() if medium["missing"])


@pytest.mark.parametrize(("name", "harm"), DERIVED)
def test_what_is_derived_is_made_again_by_itself(workspace, db, visitor, do_jobs, film, name, harm):
    whole, talk = digest(workspace, film), of(db, film, "Talk")
    folder = workspace.folder.media(talk.sha256)
    before = (folder / name).read_bytes()
    HARM[harm](folder / name)
    for _ in range(3):  # the first look may be what finds it out
        page = visitor.client.get(f"/projects/{film}/duck", headers={"Accept": "text/html"}, follow_redirects=True)
        assert page.status_code == 200
        names = missing(visitor, film)
        assert names in ([], ["Talk.wav"])
        do_jobs()
    assert missing(visitor, film) == []
    assert digest(workspace, film) == whole
    if name in ("sound.raw", "peaks.bin"):
        assert (folder / name).read_bytes() == before
    assert [job.message for job in jobs.of_project(db, film) if job.state == "failed"] == []


def test_all_that_is_derived_may_go_at_once(workspace, db, visitor, do_jobs, film):
    whole = digest(workspace, film)
    for path in (workspace.folder.path / "media").glob("*/*/*"):
        if path.name != "original":
            shutil.rmtree(path) if path.is_dir() else path.unlink()
    visitor.client.get(f"/projects/{film}/duck")
    assert len(missing(visitor, film)) == 3
    do_jobs()
    assert missing(visitor, film) == []
    assert digest(workspace, film) == whole


@pytest.mark.parametrize("gone", ["all", "picture"])
def test_a_picture_that_was_made_for_the_page_is_made_again(
    workspace, db, visitor, do_jobs, bring, project_id, tmp_path, gone
):
    films.write_film(tmp_path / "Odd.avi", seconds=2, codec="mpeg4")
    assert bring(tmp_path / "Odd.avi").state == "done"
    do_jobs()
    [film] = [clip.media for _, clip in projects.load(db, project_id).placed()]
    assert workspace.library.picture_mime(film) == "video/mp4"
    for path in workspace.folder.media(film.sha256).iterdir():
        if path.name != "original" and gone in ("all", path.name):
            path.unlink()
    for _ in range(2):
        assert visitor.client.get(f"/projects/{project_id}/layout").status_code == 200
        do_jobs()
    assert missing(visitor, project_id) == []
    assert Workspace(workspace.folder.path).library.picture_mime(film) == "video/mp4"
    assert len([job for job in jobs.of_project(db, project_id) if job.kind == "picture"]) == 2


@pytest.mark.parametrize("how", ["original gone", "original damaged"])
def test_a_project_with_a_lost_file_opens_and_takes_it_back_when_it_comes(
    workspace, db, visitor, do_jobs, bring, film, files, how
):
    whole, talk = digest(workspace, film), of(db, film, "Talk")
    folder = workspace.folder.media(talk.sha256)
    (folder / "sound.raw").unlink()
    HARM["gone" if how == "original gone" else "noise"](folder / "original")
    assert visitor.client.get(f"/projects/{film}/layout").status_code == 200
    do_jobs()
    assert missing(visitor, film) == ["Talk.wav"]
    edit = visitor.post(f"/projects/{film}/do/add_marker", json={"at_n": 0, "name": "goes on"})
    assert edit.status_code == 200
    job = bring(files / "Talk.wav", relink="any")
    assert (job.state, job.message) == ("done", "Talk.wav is here again.")
    assert missing(visitor, film) == []
    assert digest(workspace, film) == whole


def test_with_its_derived_files_a_project_is_heard_without_the_file_itself(workspace, db, visitor, film):
    whole = digest(workspace, film)
    (workspace.folder.media(of(db, film, "Talk").sha256) / "original").unlink()
    assert visitor.client.get(f"/projects/{film}/layout").status_code == 200
    assert missing(visitor, film) == []
    assert digest(workspace, film) == whole


@pytest.mark.parametrize("harm", ["gone", "empty", "cut"])
def test_no_mix_is_made_of_sound_that_is_not_whole(workspace, db, film, harm, monkeypatch):
    project, result = workspace.load(db, film)
    read = workspace.library.reader(project)  # it was whole when it was opened
    HARM[harm](workspace.folder.media(of(db, film, "Bed").sha256) / "sound.raw")
    with pytest.raises(Damaged):
        render(result.programme, read, 0, project.length_n, Variant.DUCKED)
    for several in (False, True):
        if several:
            monkeypatch.setattr("jaylantern.render.pool.LONG_N", 0)
        number = jobs.create(db, film, kind="export", title="mix", payload={"what": "mix"})
        work.run(workspace, number)
        assert jobs.get(db, number).state == "failed"
        assert not list(Path(workspace.folder.exports(number)).glob("*"))
        bed = of(db, film, "Bed")
        media.here_again(db, bed.id, bed.length_n, has_sound=True, has_picture=False)  # as if nobody had found it out
        edits.news(db, [bed.id])
