"""What is said of work that broke off is what happened, and nothing that was recorded goes with it."""

from __future__ import annotations

import os
import signal
from contextlib import closing
from pathlib import Path

import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.fleet import child
from jaylantern.fleet.films import films_in
from jaylantern.fleet.outcome import State
from jaylantern.fleet.results import results_in
from jaylantern.interchange.recipe import recipe_of
from jaylantern.jobs import work
from jaylantern.jobs.queue import Queue
from jaylantern.library import take_file
from jaylantern.store import jobs, takes
from jaylantern.support.progress import silent
from jaylantern.support.system import in_words

RECIPE = recipe_of({"talk": "talk*.wav", "hand_off": [{"what": "mix"}]})


@pytest.mark.parametrize(
    ("code", "said"),
    [
        (None, "the program ended while it was at it"),
        (-9, "its process was ended from outside, or because memory ran out"),
        (-11, "its process crashed (SIGSEGV): something in it breaks what reads it"),
        (-6, "its process crashed (SIGABRT): something in it breaks what reads it"),
        (3, "its process ended by itself (code 3)"),
    ],
)
def test_how_a_process_ended_in_words(code, said):
    assert in_words(code) == said


@pytest.mark.parametrize("code", [-9, -11])
def test_work_whose_worker_was_killed_three_times_says_how_and_blames_nothing_else(workspace, db, project_id, code):
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    for _ in range(jobs.MOST_ATTEMPTS):
        jobs.begin(db, job_id)
        with closing(Queue(workspace)) as queue:
            queue.begin_again(how=in_words(code))
    work.run(workspace, job_id)
    message = jobs.get(db, job_id).message
    assert message == (
        f"Mix: work on this broke off 3 times, so it is not begun again by itself. Last time {in_words(code)}."
    )
    assert "damaged" not in message


def test_a_program_that_was_ended_is_no_fault_of_what_it_was_doing(workspace, db, project_id):
    """Ten power cuts in the middle of it, and it is still begun again."""
    job_id = jobs.create(db, project_id, kind="export", title="Mix", payload={"what": "mix"})
    for _ in range(10):
        jobs.begin(db, job_id)
        workspace.folder.prepare_alone().release()
    job = jobs.get(db, job_id)
    assert (job.state, job.attempts) == ("queued", 0)


@pytest.fixture
def kept(workspace, db, project_id):
    """A take that was recorded and kept, waiting to be taken in; its token and its job."""
    take = takes.create(db, project_id, at_n=0, latency_n=0)
    path = workspace.folder.take(take.token)
    path.touch()
    take_file.append(path, b"\1\2\3\4" * RATE)
    take_file.write_wav(path, workspace.folder.incoming(take.token))
    payload = {"token": take.token, "name": "Take 1.wav", "at_n": 0, "take": {"offset_n": 0, "lane_id": None}}
    job_id = jobs.create(db, project_id, kind="import", title="Take 1", payload=payload)
    takes.set_state(db, take.token, "kept")
    return take.token, job_id


@pytest.mark.parametrize("how", ["fails", "is stopped", "is given up"])
def test_a_take_that_could_not_be_taken_in_is_in_hand_again(workspace, db, project_id, kept, monkeypatch, how):
    token, job_id = kept
    if how == "fails":
        monkeypatch.setattr(work, "hash_of", lambda *_: (_ for _ in ()).throw(OSError(5, "the disk")))
    elif how == "is stopped":
        jobs.ask_stop(db, job_id)
    else:
        for _ in range(jobs.MOST_ATTEMPTS):
            jobs.begin(db, job_id)
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state in ("failed", "stopped")
    assert [each.token for each in takes.in_hand(db, project_id)] == [token]
    workspace.folder.prepare_alone().release()  # also after a restart
    assert take_file.received_n(workspace.folder.take(token)) == RATE


def test_one_that_lies_on_the_timeline_is_in_hand_no_more(workspace, db, project_id, kept):
    token, job_id = kept
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "done", jobs.get(db, job_id).message
    assert takes.in_hand(db, project_id) == []
    assert not workspace.folder.take(token).exists()


def films_of(root: Path, *names: bytes):
    for name in names:
        path = Path(os.fsdecode(os.fsencode(root) + b"/" + name))
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"x")
    return films_in(root, RECIPE)


@pytest.mark.parametrize("name", [b"one/talk\xff.wav", b"t\xe9l\xe9/talk.wav", b"\xff\xfe/talk \xff.wav"])
def test_a_film_whose_name_is_no_text_says_so(tmp_path, name):
    plain, odd = sorted(films_of(tmp_path, name, b"two/talk.wav"), key=lambda film: bool(film.wrong))
    assert not plain.wrong
    assert "holds bytes that are no text (UTF-8). Rename it" in odd.wrong
    f"{odd.name} {odd.wrong}".encode()  # both can be written


def test_what_nobody_foresaw_in_a_film_is_said_by_name_and_not_taken_for_a_kill(tmp_path, monkeypatch):
    [film] = films_of(tmp_path / "films", b"two/talk.wav")

    def unforeseen(*_):
        raise ZeroDivisionError

    monkeypatch.setattr(child.one_film, "make", unforeseen)
    job = child.Job(film, RECIPE, results_in(tmp_path / "out"), ".tries-run")
    outcome = child.one(job, silent)
    assert (outcome.state, outcome.failed) == (State.FAILED, "Something unforeseen went wrong (ZeroDivisionError).")


def test_files_of_a_persons_own_among_results_stay_and_are_not_written_over(tmp_path):
    results = results_in(tmp_path / "out")
    [film] = films_of(tmp_path / "films", b"two/talk.wav")
    outcome = child.Outcome(film.name, State.MADE)

    def put(**files):
        with results.unfinished() as folder:
            for name, text in files.items():
                (folder / name).write_text(text)
            results.put(film, folder, "key", outcome)

    put(mix="first")
    there = tmp_path / "out" / "two"
    (there / "notes.txt").write_text("mine")
    put(mix="second")
    assert {path.name: path.read_text() for path in there.iterdir() if path.name != "made.json"} == {
        "mix": "second", "notes.txt": "mine",
    }  # fmt: skip
    with pytest.raises(child.JayError, match="is no result of ours"):
        put(**{"notes.txt": "theirs"})
    assert (there / "notes.txt").read_text() == "mine"


def test_the_signal_of_a_childs_end_reaches_whoever_sets_a_film_aside(tmp_path):
    [film] = films_of(tmp_path / "films", b"two/talk.wav")
    job = child.Job(film, RECIPE, results_in(tmp_path / "out"), ".tries-run")
    said = child.aside(job, silent, -signal.SIGSEGV).failed
    assert "broke off 3 times; last time its process crashed (SIGSEGV)" in said
