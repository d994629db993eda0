"""Projects opened over HTTP, and everything odd or hostile that can be sent: a clear word each, nothing left behind.

The table of what is tried stands in docs/odd-files.md.
"""

from __future__ import annotations

import io
import json
import re
import struct
import wave
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.store import jobs, projects
from jaylantern.workspace.folder import DataFolder
from tests import films, sounds

GIB = 1024**3


def wav(samples: int = RATE, *, channels: int = 1) -> bytes:
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(channels)
        file.setsampwidth(2)
        file.setframerate(RATE)
        file.writeframes(b"\0\1" * samples * channels)
    return out.getvalue()


def header(**changed: int) -> bytes:
    """A WAV file whose header says something else than is so."""
    values = {"channels": 1, "rate": RATE, "block": 2, "bits": 16, "data": 2000} | changed
    fmt = struct.pack(
        "<HHIIHH", 1, values["channels"], values["rate"], values["rate"] * 2, values["block"], values["bits"]
    )
    return b"RIFF" + struct.pack("<I", 36 + 2000) + b"WAVEfmt " + struct.pack("<I", 16) + fmt + b"data" + struct.pack(
        "<I", values["data"]
    ) + b"\0\1" * 1000  # fmt: skip


def zipped(entries: dict[str, bytes], *, how: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", how) as archive:
        for name, data in entries.items():
            archive.writestr(name, data)
    return out.getvalue()


DOCUMENT = json.dumps({"format": "jay lantern project", "version": 1, "rate": RATE, "name": "Empty"}).encode()


def linked() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("project.json", DOCUMENT)
        entry = zipfile.ZipInfo("media/link")
        entry.external_attr = 0xA1FF << 16
        archive.writestr(entry, "/etc/passwd")
    return out.getvalue()


def lying() -> bytes:
    """An archive whose directory says a medium is smaller than it is."""
    data = bytearray(zipped({"project.json": DOCUMENT, "media/a.wav": b"\0" * 100_000}))
    at = data.rfind(b"PK\x01\x02")
    data[at + 24 : at + 28] = struct.pack("<I", 10)
    return bytes(data)


@pytest.fixture(scope="module")
def real(tmp_path_factory) -> dict[str, bytes]:
    """Whole files, to be damaged."""
    folder = tmp_path_factory.mktemp("real")
    made = {}
    for name in ("song.flac", "song.mp3", "song.ogg"):
        soundfile.write(folder / name, sounds.noise(seconds=2, channels=2), RATE)
        made[name] = (folder / name).read_bytes()
    films.write_film(folder / "film.mp4", seconds=3, sound=sounds.sine(hz=300, seconds=3, channels=2))
    return {**made, "film.mp4": (folder / "film.mp4").read_bytes(), "song.wav": wav(2 * RATE)}


def send(visitor, project_id: int, name: str, data: bytes):
    """Announce and send a file; the last answer."""
    answer = visitor.post(f"/projects/{project_id}/imports", json={"name": name, "size_bytes": len(data), "at_n": 0})
    if answer.status_code != 200:
        return answer
    return visitor.send("PUT", f"/imports/{answer.json['token']}?offset=0", data=data)


def outcome(visitor, db, do_jobs, project_id: int, name: str, data: bytes) -> tuple[str, str]:
    """What became of a file: "refused" at once, or the state of its job; and the words."""
    answer = send(visitor, project_id, name, data)
    if answer.status_code != 200:
        return "refused", answer.json["error"]
    do_jobs()
    job = jobs.get(db, answer.json["job"])
    return job.state, job.message


def left_behind(workspace) -> list[str]:
    """Files in the data folder that belong to nothing."""
    return [
        str(path)
        for name in ("incoming", "media")
        for path in (workspace.folder.path / name).rglob("*")
        if path.is_file()
    ]


BAD = [
    ("empty.wav", lambda real: b"", "is empty"),
    ("cut in the header.wav", lambda real: real["song.wav"][:20], "cut short"),
    ("cut short.mp4", lambda real: real["film.mp4"][: len(real["film.mp4"]) // 3], "damaged or cut short"),
    ("no channels.wav", lambda real: header(channels=0, block=0), "."),
    ("no rate.wav", lambda real: header(rate=0), "."),
    ("no bits.wav", lambda real: header(bits=0, block=0), "."),
    ("text.wav", lambda real: b"Dear editor,\nthis is a letter.\n" * 200, "not a film or sound file"),
    ("page.mp4", lambda real: b"<!doctype html><title>Not found</title>" * 50, "not a film or sound file"),
    ("noise.mp3", lambda real: np.random.default_rng(1).bytes(40_000), "."),
    ("zeros.mp4", lambda real: bytes(100_000), "not a film or sound file"),
    ("picture.png", lambda real: b"\x89PNG\r\n\x1a\n" + bytes(200), "."),
    ("playlist.m3u8", lambda real: b"#EXTM3U\n#EXTINF:1,\nfile:///etc/passwd\n", "."),
    ("concat.txt", lambda real: b"ffconcat version 1.0\nfile /etc/passwd\n", "."),
    ("not.zip", lambda real: b"PK\x03\x04 nothing follows", "no project archive"),
    ("sound.zip", lambda real: real["song.wav"], "no project archive"),
    ("no project.zip", lambda real: zipped({"media/a.wav": wav()}), "there is no project.json"),
    ("leads out.zip", lambda real: zipped({"project.json": DOCUMENT, "../../evil.txt": b"x"}), "does not belong"),
    ("absolute.zip", lambda real: zipped({"project.json": DOCUMENT, "/etc/evil": b"x"}), "does not belong"),
    ("backslash.zip", lambda real: zipped({"project.json": DOCUMENT, "media\\..\\evil": b"x"}), "does not belong"),
    ("deeper.zip", lambda real: zipped({"project.json": DOCUMENT, "media/a/b": b"x"}), "does not belong"),
    ("link.zip", lambda real: linked(), "does not belong"),
    ("bomb.zip", lambda real: zipped({"project.json": DOCUMENT, "media/a.wav": bytes(200 << 20)}), "times its size"),
    ("long text.zip", lambda real: zipped({"project.json": b" " * (65 << 20)}), "times its size|no text"),
    ("other.zip", lambda real: zipped({"project.json": b'{"format": "another"}'}), "not a project of Jay Lantern"),
    ("odd.zip", lambda real: zipped({"project.json": b"\xff\xfe\x00"}), "no JSON"),
    ("deep.zip", lambda real: zipped({"project.json": b"[" * 100_000}), "no JSON"),
    ("sound.otio", lambda real: real["song.wav"], "no JSON"),
    ("deep.otio", lambda real: b'{"a":' * 50_000, "no JSON"),
    ("other.otio", lambda real: b'{"OTIO_SCHEMA": "Gap.1"}', "no timeline|no OpenTimelineIO"),
    ("sound.edl", lambda real: real["song.wav"], "no edit decision list"),
    ("letter.edl", lambda real: b"Dear editor,\n", "no edit decision list"),
    ("odd.edl", lambda real: b"001 A V C 01:00:00:00 01:00:61:00 01:00:00:00 01:00:01:00", "no timecode"),
]


@pytest.mark.parametrize(("name", "make", "word"), BAD, ids=[name for name, *_ in BAD])
def test_what_can_not_be_used_gets_a_clear_word_and_leaves_nothing(
    visitor, db, workspace, project_id, do_jobs, real, name, make, word
):
    state, said = outcome(visitor, db, do_jobs, project_id, name, make(real))
    assert state in ("refused", "failed")
    assert re.search(word, said)
    assert "unforeseen" not in said
    assert "Traceback" not in said
    assert left_behind(workspace) == []
    assert projects.load(db, project_id).lanes == ()
    assert visitor.client.get("/").status_code == 200
    assert not jobs.uploads(db)


def test_an_archive_whose_directory_lies_opens_without_what_it_lies_about(visitor, db, workspace, project_id, do_jobs):
    state, _ = outcome(visitor, db, do_jobs, project_id, "lying.zip", lying())
    assert state in ("refused", "failed", "done")
    assert left_behind(workspace) == []


USABLE = [
    ("cut short.wav", lambda real: real["song.wav"][:RATE], 0.4),
    ("cut short.mp3", lambda real: real["song.mp3"][: len(real["song.mp3"]) // 2], 0.5),
    ("cut short.ogg", lambda real: real["song.ogg"][: len(real["song.ogg"]) * 2 // 3], 0.5),
    ("cut short.flac", lambda real: real["song.flac"][: len(real["song.flac"]) * 2 // 3], 0.5),
    ("longer than it is.wav", lambda real: header(data=4_000_000_000), 0.01),
    ("really flac.wav", lambda real: real["song.flac"], 1.9),
    ("really mp4.mp3", lambda real: real["film.mp4"], 2.9),
    ("without ending", lambda real: real["song.mp3"], 1.9),
]


@pytest.mark.parametrize(("name", "make", "least_s"), USABLE, ids=[name for name, *_ in USABLE])
def test_what_is_damaged_or_called_wrong_is_used_as_far_as_it_goes(
    visitor, db, project_id, do_jobs, real, name, make, least_s
):
    state, said = outcome(visitor, db, do_jobs, project_id, name, make(real))
    assert state == "done"
    assert said in ("", "A part of its sound can't be read: the file may be damaged or cut short.")
    assert projects.load(db, project_id).length_n >= least_s * RATE


NAMES = [
    "../../etc/passwd.wav", "C:\\Windows\\system.wav", "..wav", "a" * 400 + ".wav", "line\nbreak.wav", "null\0byte.wav",
    "<script>alert(1)</script>.wav", "'; DROP TABLE clip; --.wav", "{{ 7*7 }}.wav", "%2e%2e%2f.wav", "😀 \u202egnp.wav",
    "Ärger & „Unfug“ (1) [2] {project}.wav", " .wav", "CON.wav", "$(reboot).wav", "-rf.wav", "'\"`.wav", "\ud800.wav",
]  # fmt: skip


def test_names_with_every_character_are_only_names(visitor, db, workspace, project_id, do_jobs, real):
    before = set(workspace.folder.path.parent.iterdir())
    for name in NAMES:
        assert outcome(visitor, db, do_jobs, project_id, name, real["song.wav"])[0] == "done", ascii(name)
    names = [clip.name for _, clip in projects.load(db, project_id).placed()]
    assert len(names) == len(NAMES)
    for name in names:
        assert 1 <= len(name) <= 200
        assert name.isprintable()
    page = visitor.client.get(f"/projects/{project_id}/layout").get_data(as_text=True)
    assert "<script>alert" not in page
    assert "49.wav" not in page
    assert set(workspace.folder.path.parent.iterdir()) == before
    job_id = visitor.post(f"/projects/{project_id}/exports", json={"what": "archive"}).json["job"]
    do_jobs()
    (made,) = workspace.folder.exports(job_id).iterdir()
    with zipfile.ZipFile(made) as archive:
        assert all(len(Path(each).parts) <= 2 and ".." not in Path(each).parts for each in archive.namelist())
    again = visitor.post("/projects", data={"name": "Again"}).json["id"]
    assert outcome(visitor, db, do_jobs, again, "again.zip", made.read_bytes())[0] == "done"
    assert [clip.name for _, clip in projects.load(db, again).placed()] == names


def test_twenty_gigabytes_are_refused_or_taken_without_being_kept_in_memory(
    visitor, workspace, project_id, monkeypatch
):
    """A sparse upload: announced as 20 GiB; one part of it sent far ahead is refused, nothing is written for it."""
    answer = visitor.post(
        f"/projects/{project_id}/imports", json={"name": "big.mov", "size_bytes": 20 * GIB, "at_n": 0}
    )
    if answer.status_code != 200:
        assert "are free" in answer.json["error"]
        monkeypatch.setattr(DataFolder, "free_bytes", lambda self: 100 * GIB)
        answer = visitor.post(
            f"/projects/{project_id}/imports", json={"name": "big.mov", "size_bytes": 20 * GIB, "at_n": 0}
        )
    token = answer.json["token"]
    far = visitor.send("PUT", f"/imports/{token}?offset={20 * GIB - 10}", data=b"0123456789")
    assert (far.status_code, far.json["received_bytes"]) == (409, 0)
    assert workspace.folder.incoming(token).stat().st_size == 0
    assert visitor.send("DELETE", f"/imports/{token}").status_code == 204
    too_much = visitor.post(
        f"/projects/{project_id}/imports", json={"name": "b.mov", "size_bytes": 65 * GIB, "at_n": 0}
    )
    assert "up to 64.0 GiB" in too_much.json["error"]


# — opening —


def test_an_archive_sent_to_an_empty_project_fills_it(visitor, db, workspace, do_jobs, film, handed):
    data = handed("archive").read_bytes()
    number = visitor.post("/projects", data={"name": "New"}).json["id"]
    assert outcome(visitor, db, do_jobs, number, "Film.zip", data) == ("done", "")
    assert projects.load(db, number).name == projects.load(db, film).name
    assert len(visitor.client.get(f"/projects/{number}/document").json["lanes"]) == 4


def test_into_a_project_with_something_in_it_nothing_is_opened(visitor, db, do_jobs, film, handed):
    before = projects.load(db, film)
    state, said = outcome(visitor, db, do_jobs, film, "Film.otio", handed("timeline").read_bytes())
    assert (state, "its own" in said) == ("failed", True)
    assert projects.load(db, film) == before


def packed(text: bytes) -> bytes:
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("project.json", text)
    return made.getvalue()


TRACK = b'{"OTIO_SCHEMA":"Track.1","kind":"Audio","name":"a","children":[]}'
HOSTILE = [  # each of them ended the server, froze it, or was taken, before documents were read apart
    ("twice.otio", b'{"OTIO_SCHEMA":"Stack.1","children":[],"children":[%b]}' % TRACK, "'children' twice"),
    ("nan.otio", b'{"OTIO_SCHEMA":"Timeline.1","name":NaN}', "NaN is no number"),
    ("deep.otio", b"[" * 200_000 + b"]" * 200_000, "no JSON document"),
    ("large.zip", packed(b'{"lanes":[' + b"[]," * 23_000_000 + b"[]]}"), "times its size"),
    ("tight.zip", packed(b'{"lanes":[' + b"[]," * 2_000_000 + b"[]]}"), "many times its size"),
    ("large.otio", b" " * (33 << 20), "33 MiB"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "data", "words"), HOSTILE, ids=[each[0] for each in HOSTILE])
def test_a_hostile_document_is_told_no_by_its_job(visitor, db, do_jobs, workspace, name, data, words):
    number = visitor.post("/projects", data={"name": "New"}).json["id"]
    state, said = outcome(visitor, db, do_jobs, number, name, data)
    assert (state, words in said) == ("failed", True), said
    assert not left_behind(workspace)
    assert visitor.send("DELETE", f"/projects/{number}").status_code == 204


def test_a_project_made_for_a_file_that_can_not_be_opened_is_forgotten(visitor, db, do_jobs, film):
    number = visitor.post("/projects", data={"name": "New"}).json["id"]
    assert send(visitor, number, "odd.edl", b"Dear editor").status_code == 200
    assert visitor.send("DELETE", f"/projects/{number}").status_code == 409  # while it may still become one
    do_jobs()
    assert visitor.send("DELETE", f"/projects/{number}").status_code == 204
    assert number not in {card.id for card in projects.cards(db)}
    assert visitor.send("DELETE", f"/projects/{film}").status_code == 409  # never one with something in it


def test_the_rate_of_a_list_can_be_told(visitor, db, do_jobs):
    number = visitor.post("/projects", data={"name": "New"}).json["id"]
    text = b"TITLE: T\n\n001  REEL  A  C  00:00:00:00 00:00:10:00 01:00:00:00 01:00:10:00\n"
    told = {"name": "cut.edl", "size_bytes": len(text), "at_n": 0, "fps": "24000/1001"}
    token = visitor.post(f"/projects/{number}/imports", json=told).json["token"]
    visitor.send("PUT", f"/imports/{token}?offset=0", data=text)
    do_jobs()
    assert projects.load(db, number).length_n == 10 * RATE * 1001 // 1000
    refused = visitor.post(f"/projects/{number}/imports", json={**told, "fps": "fast"})
    assert refused.status_code == 422
