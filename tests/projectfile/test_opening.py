"""Projects as files: opened in another data folder they sound the same; files that are missing are found."""

from __future__ import annotations

import json
import shutil
import zipfile
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest
import soundfile

from jaylantern.core.captions import placing
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError, Refused
from jaylantern.jobs import work
from jaylantern.projectfile import opening
from jaylantern.store import jobs, projects
from jaylantern.store import media as media_store
from jaylantern.workspace.workspace import Workspace
from tests import films, sounds
from tests.whole_project import rendered


def quiet(share: float, doing: str) -> None:
    pass


def opened_in(workspace: Workspace, path: Path, **more) -> tuple[int, str]:
    db = workspace.folder.connect()
    try:
        number = projects.create(db, "New")
        return number, opening.open_project(workspace, db, number, path, path.name, quiet, **more).in_words("")
    finally:
        db.close()


def plain(project) -> dict:
    """What was result, without the numbers of the place."""
    held = project.held
    return {
        "name": project.name,
        "settings": vars(project.settings),
        "lanes": [
            [
                (lane.name, lane.kind, lane.tag, lane.gain_db),
                [
                    (
                        c.name,
                        c.media.sha256,
                        c.start_n,
                        c.offset_n,
                        c.length_n,
                        c.gain_db,
                        c.fade_out,
                        c.tag,
                        c.link is None,
                    )
                    for c in lane.clips
                ],
            ]
            for lane in project.lanes
        ],
        "markers": [(marker.time_n, marker.name) for marker in project.markers],
        "between": (project.in_n, project.out_n),
        "pairs": [pair.own for pair in project.pairs],
        "perches": len(project.perches),
        "heard": [(pin.heard, pin.start_n, pin.stop_n) for pin in project.speech_pins],
        "dips": [(pin.own, pin.start_n, pin.stop_n) for pin in project.dip_pins],
        "points": [(pin.at_n, pin.gain_db) for pin in project.point_pins],
        "captions": [
            (
                (each.name, each.form, each.checked, each.head, each.tail, each.encoding),
                [(cue.text, cue.settings, cue.lead) for cue in each.cues],
            )
            for each in project.captions
        ],
        "cues": [[(each.start_n, each.stop_n) for each in placing.shown(project, some)] for some in project.captions],
        "held": held
        and (
            held.letter,
            held.settings.lead_in_ms,
            [pin.at_n for pin in held.point_pins],
            [pin.own for pin in held.dip_pins],
            [pair.own for pair in held.pairs],
        ),
    }


@pytest.mark.parametrize("what", ["archive", "archive-alone", "timeline"])
def test_a_project_opened_elsewhere_is_the_same_and_renders_the_same_samples(
    workspace, db, film, handed, elsewhere, files, what
):
    path = handed(what)
    number, said = opened_in(elsewhere, path, folders=() if what == "archive" else (files,))
    assert said == ""
    there = elsewhere.folder.connect()
    project = projects.load(there, number)
    there.close()
    assert plain(project) == plain(projects.load(db, film))
    ours, theirs = rendered(workspace, film), rendered(elsewhere, number)
    assert np.array_equal(ours, theirs)
    assert np.abs(ours).max() > 0.05


def test_the_document_of_an_archive_is_json_as_it_is_described(handed, film, db):
    with zipfile.ZipFile(handed("archive")) as archive:
        assert archive.testzip() is None
        document = json.loads(archive.read("project.json"))
        entries = {each["entry"] for each in document["media"]}
        assert entries <= set(archive.namelist())
        assert len(entries) == 3
    words = (Path(__file__).parents[2] / "docs" / "project-file.md").read_text(encoding="utf-8")
    for name in [*document, *document["lanes"][0], *document["lanes"][0]["clips"][0], *document["media"][0]]:
        assert f"`{name}`" in words, name


def test_facts_that_do_not_fit_are_left_alone(handed, elsewhere, tmp_path):
    """What was heard elsewhere is only taken for the same sound, and never as anything but figures."""
    path, other = handed("archive"), tmp_path / "meddled.zip"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(other, "w") as new:
        for name in old.namelist():
            new.writestr(name, b"\x80\x04not figures" if name.startswith("facts/") else old.read(name))
    number, said = opened_in(elsewhere, other)
    assert said == ""
    assert np.abs(rendered(elsewhere, number)).max() > 0.05


def meddled(path: Path, target: Path, change) -> Path:
    """The archive with its document changed."""
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(target, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            if name == "project.json":
                document = json.loads(data)
                data = json.dumps(change(document) or document).encode()
            new.writestr(name, data)
    return target


@pytest.mark.parametrize(
    ("change", "word"),
    [
        (lambda d: d.update(format="another"), "not a project of Jay Lantern"),
        (lambda d: d.update(version=99), "newer version"),
        (lambda d: d.update(lanes="none"), "lanes must be a list"),
        (lambda d: d["lanes"][0].update(kind="smell"), r"lanes\[0\]\.kind must be one of"),
        (lambda d: d["lanes"][0]["clips"][0].update(media=10**6), "the number of a medium"),
        (lambda d: d["lanes"][0]["clips"][0].update(start_n=-1), r"clips\[0\]\.start_n"),
        (lambda d: d["lanes"][0]["clips"][0].update(gain_db=float("nan")), "NaN is no number"),
        (lambda d: d["lanes"][0]["clips"][0].update(gain_db="loud"), "gain_db must be a number"),
        (lambda d: d["lanes"][1]["clips"].append(d["lanes"][1]["clips"][0]), "same number"),
        (lambda d: d["lanes"][1]["clips"].append({**d["lanes"][1]["clips"][0], "id": 10**7}), "wholly over each other"),
        (lambda d: d["settings"].update(amount_db=40), "Duck amount must be between"),
        (lambda d: d["media"][0].update(sha256="../../etc"), "64 hexadecimal"),
        (lambda d: [d], "must be an object"),
    ],
)
def test_a_document_that_can_not_be_is_refused_with_the_place(handed, elsewhere, tmp_path, change, word):
    path = meddled(handed("archive-alone"), tmp_path / "meddled.zip", change)
    with pytest.raises(MediaError, match=word):
        opened_in(elsewhere, path)
    assert not list((elsewhere.folder.path / "incoming").iterdir())


def test_what_a_newer_version_knows_besides_is_left_out_and_said(handed, elsewhere, tmp_path):
    path = meddled(handed("archive"), tmp_path / "newer.zip", lambda d: d["settings"].update(sparkle=1))
    assert "sparkle" in opened_in(elsewhere, path)[1]


def test_a_file_that_is_not_what_it_says_stays_missing(handed, elsewhere, tmp_path):
    path, other = handed("archive"), tmp_path / "swapped.zip"
    with zipfile.ZipFile(path) as old, zipfile.ZipFile(other, "w") as new:
        for name in old.namelist():
            data = old.read(name)
            new.writestr(name, data[:-2000] if name.endswith("Talk.wav") else data)
    number, said = opened_in(elsewhere, other)
    assert "not the file the project was made with" in said
    assert "1 file is missing: Talk.wav" in said
    there = elsewhere.folder.connect()
    project = projects.load(there, number)
    assert [c.name for _, c in project.placed() if c.media.missing] == ["Talk.wav"]
    assert not list((elsewhere.folder.path / "incoming").iterdir())
    there.close()


def test_a_film_the_browser_can_not_play_gets_its_picture_made_after_opening(elsewhere, tmp_path):
    film = films.write_film(tmp_path / "Rushes.mov", seconds=1, codec="prores_ks")
    document = {
        "format": "jay lantern project", "version": 1, "rate": RATE, "name": "Rushes",
        "media": [{"id": 1, "name": "Rushes.mov", "length_n": RATE, "entry": "media/Rushes.mov"}],
        "lanes": [{"id": 1, "name": "V", "kind": "picture", "clips": [
            {"id": 2, "media": 1, "start_n": 0, "offset_n": 0, "length_n": RATE}]}],
    }  # fmt: skip
    with zipfile.ZipFile(tmp_path / "rushes.zip", "w") as archive:
        archive.writestr("project.json", json.dumps(document))
        archive.write(film, "media/Rushes.mov")
    there = elsewhere.folder.connect()
    number = projects.create(there, "New")
    assert arrive(elsewhere, there, number, tmp_path / "rushes.zip", "rushes.zip").message == ""
    (job,) = jobs.unfinished(there)
    assert (job.kind, job.title) == ("picture", "Rushes.mov")
    work.run(elsewhere, job.id)
    (clip,) = [clip for _, clip in projects.load(there, number).placed()]
    assert elsewhere.library.picture_mime(clip.media) == "video/mp4"
    there.close()


# — missing files —


@pytest.fixture
def waiting(handed, elsewhere):
    """The project without its media, in another data folder: its number and the folder's connection."""
    number, said = opened_in(elsewhere, handed("archive-alone"))
    assert said.startswith("3 files are missing")
    there = elsewhere.folder.connect()
    yield number, there
    there.close()


def arrive(workspace: Workspace, db, project_id: int, path: Path, name: str, **more) -> jobs.Job:
    token = jobs.create_upload(db, project_id, name=name, size_bytes=path.stat().st_size, at_n=0, more=more)
    shutil.copyfile(path, workspace.folder.incoming(token))
    payload = {"token": token, "name": name, "at_n": 0, **more}
    job_id = jobs.create(db, project_id, kind="import", title=name, payload=payload)
    jobs.drop_upload(db, token)
    work.run(workspace, job_id)
    return jobs.get(db, job_id)


def missing(db, number: int) -> list[str]:
    return sorted({clip.media.name for _, clip in projects.load(db, number).placed() if clip.media.missing})


def test_without_its_media_a_project_opens_silent_and_says_so(elsewhere, waiting):
    number, there = waiting
    assert np.abs(rendered(elsewhere, number)).max() == 0
    _, result = elsewhere.load(there, number)
    assert "missing" in result.findings[0].text


def test_files_are_known_by_content_whatever_they_are_called(workspace, elsewhere, waiting, files, film):
    number, there = waiting
    for path in sorted(files.iterdir()):
        job = arrive(elsewhere, there, number, path, f"renamed{path.suffix}")
        assert (job.state, job.message) == ("done", f"It takes the place of {path.name}.")
    assert missing(there, number) == []
    assert np.array_equal(rendered(elsewhere, number), rendered(workspace, film))


def test_relinking_is_one_step_that_can_be_undone(elsewhere, waiting, files):
    from jaylantern.store import edits

    number, there = waiting
    arrive(elsewhere, there, number, files / "Talk.wav", "Talk.wav", relink="any")
    assert "Talk.wav" not in missing(there, number)
    edits.undo(there, number)
    assert "Talk.wav" in missing(there, number)


def test_another_file_takes_the_place_only_when_it_is_meant(elsewhere, waiting, files, tmp_path):
    number, there = waiting
    soundfile.write(tmp_path / "other.wav", sounds.noise(seconds=2), RATE)
    job = arrive(elsewhere, there, number, tmp_path / "other.wav", "Talk.wav", relink="any")
    assert (job.state, "none of the files" in job.message) == ("failed", True)  # its content is known, and another
    wanted = {each.name: key for key, each in media_store.wanted_in(there, number).items()}
    job = arrive(elsewhere, there, number, tmp_path / "other.wav", "other.wav", relink=wanted["Talk.wav"])
    assert job.state == "done"
    assert "another file" in job.message
    assert "1 clip reaches beyond" in job.message
    clip = next(
        c for _, c in projects.load(there, number).placed() if c.media.name == "Talk.wav" or c.length_n == 2 * RATE
    )
    assert clip.length_n == 2 * RATE


def test_a_file_brought_in_for_its_own_sake_is_laid_down_as_usual(elsewhere, waiting, tmp_path):
    number, there = waiting
    soundfile.write(tmp_path / "new.wav", sounds.noise(seconds=1), RATE)
    before = len(projects.load(there, number).lanes)
    assert (
        arrive(elsewhere, there, number, tmp_path / "new.wav", "Talk.wav").state == "done"
    )  # the name alone is no proof
    assert len(projects.load(there, number).lanes) == before + 1


def test_handing_off_says_what_is_silent(elsewhere, waiting, files):
    number, there = waiting
    arrive(elsewhere, there, number, files / "Talk.wav", "Talk.wav")
    job_id = jobs.create(there, number, kind="export", title="mix", payload={"what": "mix"})
    work.run(elsewhere, job_id)
    assert "clips are silent or black" in jobs.get(there, job_id).message


def test_a_project_opens_only_as_a_project_of_its_own(workspace, db, film, handed):
    path = handed("timeline")
    before = projects.load(db, film)
    with pytest.raises(Refused, match="its own"):
        opening.open_project(workspace, db, film, path, path.name, quiet)
    assert projects.load(db, film) == before


def test_a_timeline_of_another_program_is_found_by_names_and_places(elsewhere, files, tmp_path):
    """Addresses of another machine; files in two folders are called alike, and the address tells which is meant."""
    for folder, level in (("one", 0.1), ("two", 0.4)):
        (tmp_path / "search" / folder).mkdir(parents=True)
        sound = sounds.sine(hz=440, seconds=2, amplitude=level, channels=2)
        soundfile.write(tmp_path / "search" / folder / "take.wav", sound, RATE)
    timeline = otio.schema.Timeline("Elsewhere")
    track = otio.schema.Track("A1", kind="Audio")
    time = otio.opentime.RationalTime
    for folder in ("two", "one"):
        reference = otio.schema.ExternalReference(f"file:///Volumes/Mine/{folder}/take.wav")
        track.append(otio.schema.Clip("take", reference, otio.opentime.TimeRange(time(0, 25), time(25, 25))))
    timeline.tracks.append(track)
    path = tmp_path / "elsewhere.otio"
    otio.adapters.write_to_file(timeline, str(path))
    number, said = opened_in(elsewhere, path, folders=(tmp_path / "search",))
    assert said == ""
    sound = rendered(elsewhere, number)
    assert np.abs(sound[:RATE]).max() == pytest.approx(0.4, abs=0.01)
    assert np.abs(sound[RATE : 2 * RATE]).max() == pytest.approx(0.1, abs=0.01)
