"""Captions over HTTP: brought in, drawn, moved, tied, compared, handed off; what can't be read is refused in words."""

from __future__ import annotations

import io
import zipfile

import pytest
import webvtt

from jaylantern.core.signal.timebase import RATE
from jaylantern.store import jobs, projects
from tests import films

SRT = "1\n00:00:03,000 --> 00:00:05,000\nThank you & <i>goodbye</i>\n\n2\n00:00:13,500 --> 00:00:16,000\nOver the end\n"


@pytest.fixture
def send(visitor, talk_and_bed, do_jobs, db):
    """Bring a file in, as the page does; answers what became of it."""

    def bring(text: str, name: str = "Film.srt"):
        data = text.encode()
        url = f"/projects/{talk_and_bed}/imports"
        answer = visitor.post(url, json={"name": name, "size_bytes": len(data), "at_n": 0})
        put = visitor.send("PUT", f"/imports/{answer.json['token']}?offset=0", data=data)
        assert put.status_code == 200, put.json
        do_jobs()
        return jobs.get(db, put.json["job"])

    return bring


@pytest.fixture
def film(visitor, talk_and_bed):
    """The project, spoken to by short names."""

    class Film:
        id, url = talk_and_bed, f"/projects/{talk_and_bed}"

        def doc(self) -> dict:
            return visitor.client.get(f"{self.url}/document").json

        def do(self, kind: str, status: int = 200, **values) -> dict:
            answer = visitor.post(f"{self.url}/do/{kind}", json=values)
            assert answer.status_code == status, answer.json
            return answer.json

        def cues(self) -> list[list]:
            return next(iter(visitor.client.get(f"{self.url}/captions").json["cues"].values()), [])

        def get(self, path: str) -> str:
            return visitor.client.get(f"{self.url}{path}").text

    return Film()


def test_a_file_becomes_captions_and_undo_takes_them_back(send, film, visitor, workspace):
    job = send(SRT)
    assert job.state == "done"
    assert job.message.startswith("2 captions.")
    [captions] = film.doc()["captions"]
    assert (captions["name"], captions["count"], captions["checked"]) == ("Film.srt", 2, True)
    assert film.cues() == [[3 * RATE, 5 * RATE, "Thank you & goodbye"], [int(13.5 * RATE), 16 * RATE, "Over the end"]]
    assert not list((workspace.folder.path / "incoming").iterdir())
    assert len(film.doc()["lanes"]) == 2  # they are no lane of sound
    visitor.post(f"{film.url}/undo")
    assert film.doc()["captions"] == []
    assert film.cues() == []
    visitor.post(f"{film.url}/redo")
    assert len(film.cues()) == 2


def test_a_film_that_comes_after_its_captions_takes_them(bring, film, send, tmp_path):
    send("1\n00:00:18,000 --> 00:00:19,000\nAfter the talk\n")
    assert film.doc()["captions"][0]["loose"] == 1
    assert bring(films.write_film(tmp_path / "Film.mp4", seconds=20)).state == "done"
    after = film.doc()
    assert after["captions"][0]["loose"] == 0
    picture = next(lane for lane in after["lanes"] if lane["kind"] == "picture")
    film.do("move_clips", clip_ids=[picture["clips"][0]["id"]], by_n=RATE)
    assert film.cues()[0][0] == 19 * RATE


def test_what_should_be_known_of_a_file_is_said_when_it_has_come(send):
    said = send("2\n01:00:05,000 --> 01:00:06,000\nB\n\n1\n01:00:01,000 --> 01:00:02,000\nA\n").message
    for words in ("2 captions.", "1 cue stood out of order", "Its times begin at 1:00:00"):
        assert words in said


@pytest.mark.parametrize(
    ("text", "words"), [("hello\n", "There are no captions in Film.srt"), ("\x00" * 50, "no captions")]
)
def test_what_can_not_be_read_is_told_and_leaves_nothing(send, film, text, words, workspace):
    job = send(text)
    assert (job.state, words in job.message) == ("failed", True)
    assert film.doc()["captions"] == []
    assert not list((workspace.folder.path / "incoming").iterdir())


def test_moved_renamed_tied_not_compared_removed(send, film):
    send(SRT)
    [number] = [each["id"] for each in film.doc()["captions"]]
    film.do("shift_captions", captions_id=number, by_n=-RATE)
    assert film.cues()[0][:2] == [2 * RATE, 4 * RATE]
    film.do("set_captions", captions_id=number, name="English")
    film.do("set_captions", captions_id=number, checked=False)
    after = film.do("tie_captions", captions_id=number)
    assert [(each["name"], each["checked"]) for each in after["captions"]] == [("English", False)]
    assert film.do("remove_captions", captions_id=number)["captions"] == []
    for kind in ("tie_captions", "remove_captions"):
        film.do(kind, status=404, captions_id=number)


@pytest.mark.parametrize("values", [
    {"name": "", "form": "srt", "cues": [[0, 1, "a", ""]]}, {"name": "x", "form": "ass", "cues": [[0, 1, "a", ""]]},
    {"name": "x", "form": "srt", "cues": []}, {"name": "x", "form": "srt", "cues": [[1, 1, "a", ""]]},
    {"name": "x", "form": "srt", "cues": [[0, 1, "a"]]}, {"name": "x", "form": "srt", "cues": [[0, 1, 7, ""]]},
    {"name": "x", "form": "srt", "cues": [[0, 1 << 62, "a", ""]]}, {"name": "x", "form": "srt", "cues": "abc"},
    {"name": "x", "form": "srt", "cues": [[0, 1, "a" * 5000, ""]]}, {"name": "x", "form": "srt", "cues": [None]},
])  # fmt: skip
def test_captions_that_can_not_be_are_refused(film, values):
    film.do("add_captions", status=422, **values)


def test_the_check_up_names_places_and_offers_to_move_them(send, film):
    send(SRT)
    assert "Captions without talk" in film.get("/part/checkup")
    [number] = [each["id"] for each in film.doc()["captions"]]
    film.do("remove_captions", captions_id=number)
    [clip] = next(lane for lane in film.doc()["lanes"] if lane["name"] == "Talk")["clips"]
    for _ in range(2):
        film.do("duplicate_clips", clip_ids=[clip["id"]])
    doc = film.doc()
    talk = doc["passages"][0]
    assert len(doc["passages"]) == 3
    spans = [[p["start_n"] + 4 * RATE, p["stop_n"] + 4 * RATE, "Salt", ""] for p in doc["passages"]]
    film.do("add_captions", name="Late.srt", form="srt", cues=spans)
    card = film.get("/part/checkup")
    assert "The captions Late.srt fit the talk best" in card
    assert 'data-command="shift_captions"' in card
    assert talk["start_n"] < spans[0][0]


def test_letters_that_were_guessed_wrong_are_read_again(send, film, visitor):
    said = "Часы на набережной остановились ночью в январе, и стояли они девять лет"
    data = f"1\n00:00:01,000 --> 00:00:02,000\n{said}\n".encode("cp1251")
    answer = visitor.post(f"{film.url}/imports", json={"name": "Old.srt", "size_bytes": len(data), "at_n": 0})
    visitor.send("PUT", f"/imports/{answer.json['token']}?offset=0", data=data)
    send(SRT)
    old, new = film.doc()["captions"]
    assert (old["encoding"], new["encoding"]) == ("cp1251", "")
    film.do("reread_captions", captions_id=old["id"], encoding="cp1252")
    assert film.cues()[0][2].startswith("×àñû íà íàáåðåæíîé")
    film.do("reread_captions", captions_id=old["id"], encoding="cp1251")
    assert film.cues()[0][2] == said
    film.do("reread_captions", status=409, captions_id=new["id"], encoding="cp1251")  # it is in UTF-8
    film.do("reread_captions", status=422, captions_id=old["id"], encoding="klingon")


def test_talk_counts_where_they_stand(send, film):
    send("1\n00:00:01,000 --> 00:00:02,000\nA\n\n2\n00:00:09,000 --> 00:00:11,000\nB\n")
    talk = next(lane for lane in film.doc()["lanes"] if lane["name"] == "Talk")
    after = film.do("set_lane", lane_id=talk["id"], trigger="captions")
    assert [(p["start_n"], p["stop_n"]) for p in after["passages"]] == [(RATE, 2 * RATE), (9 * RATE, 11 * RATE)]


def handed(visitor, film, do_jobs, db, workspace, what: str, **values) -> dict[str, str]:
    """The texts of what was handed off, by name."""
    job = visitor.post(f"{film.url}/exports", json={"what": what, **values}).json["job"]
    do_jobs()
    assert jobs.get(db, job).state == "done", jobs.get(db, job).message
    return {path.name: path.read_text(encoding="utf-8") for path in sorted(workspace.folder.exports(job).iterdir())}


def test_what_is_handed_off_is_cut_and_moved_as_the_film_is(send, film, visitor, do_jobs, db, workspace):
    send(SRT)
    film.do("cut_out", start_n=RATE, stop_n=2 * RATE)
    [(name, text)] = handed(visitor, film, do_jobs, db, workspace, "captions-vtt").items()
    assert " captions " in name
    assert name.endswith(".vtt")
    found = webvtt.from_buffer(io.StringIO(text))
    assert [(cue.start, cue.end, cue.text) for cue in found] == [
        ("00:00:02.000", "00:00:04.000", "Thank you &amp; goodbye"),
        ("00:00:12.500", "00:00:13.000", "Over the end"),
    ]
    [(name, text)] = handed(visitor, film, do_jobs, db, workspace, "captions-srt").items()
    assert " captions " in name
    assert name.endswith(".srt")
    assert "Thank you & <i>goodbye</i>" in text


def test_what_lies_after_the_film_is_not_in_it_and_that_is_said(send, film, visitor, do_jobs, db, workspace):
    send(SRT + "\n3\n00:00:20,000 --> 00:00:21,000\nAfter it\n")
    [(_, text)] = handed(visitor, film, do_jobs, db, workspace, "captions-srt").items()
    assert "After it" not in text
    [job] = jobs.of_project(db, film.id, kind="export")
    assert job.message == "1 cue of Film.srt lies after the end of the film and is not in it."


def test_of_in_to_out_they_are_counted_from_in(send, film, visitor, do_jobs, db, workspace):
    send(SRT)
    film.do("set_in", at_n=4 * RATE)
    film.do("set_out", at_n=14 * RATE)
    [(_, text)] = handed(visitor, film, do_jobs, db, workspace, "captions-srt", range="in-out").items()
    assert "00:00:00,000 --> 00:00:01,000" in text
    assert "00:00:09,500 --> 00:00:10,000" in text


def test_of_several_each_has_a_file_of_its_own_name(send, film, visitor, do_jobs, db, workspace):
    send(SRT, "Film.en.srt")
    send(SRT, "Film.de.srt")
    names = list(handed(visitor, film, do_jobs, db, workspace, "captions-vtt"))
    assert len(names) == 2
    assert any("Film.en" in name for name in names)
    assert any("Film.de" in name for name in names)


def test_without_captions_there_is_nothing_to_hand_off(visitor, film, do_jobs, db):
    job = visitor.post(f"{film.url}/exports", json={"what": "captions-vtt"}).json["job"]
    do_jobs()
    assert "There are no captions" in jobs.get(db, job).message


def test_a_kill_while_they_come_in_leaves_them_once(send, film, db, visitor, talk_and_bed, do_jobs):
    """The command and the end of the job are one transaction: done again, there is still one."""
    job = send(SRT)
    assert job.state == "done"
    db.execute("UPDATE job SET state = 'queued' WHERE id = ?", (job.id,))
    do_jobs()  # its file is gone
    assert len(projects.load(db, talk_and_bed).captions) == 1


def test_sent_as_a_missing_file_they_are_none(bring, film, tmp_path):
    path = tmp_path / "Film.srt"
    path.write_text(SRT)
    job = bring(path, relink="any")
    assert job.state == "failed"
    assert "none of the files that are missing" in job.message
    assert film.doc()["captions"] == []


def test_zip_is_not_taken_for_captions(send):
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w") as archive:
        archive.writestr("x", "y")
    assert send(made.getvalue().decode("latin-1"), "a.vtt").state == "failed"
