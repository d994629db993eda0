"""Films and results in an object store: a real local server that speaks S3 (moto), reached through fsspec."""

from __future__ import annotations

import hashlib
import json
from contextlib import closing

import pytest

from jaylantern.cli.main import main
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.fleet import child, one_film, places, running
from jaylantern.fleet.board import Board
from jaylantern.fleet.child import Job
from jaylantern.fleet.films import films_in
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.fleet.results import RECEIPT
from jaylantern.interchange.recipe import recipe_of
from jaylantern.support.progress import silent
from tests.fleet.fleets import hashes, make_all

RECIPE = recipe_of({"talk": "talk*", "music": "music*", "hand_off": ["mix"]})


@pytest.fixture(scope="module")
def server():
    """A server that runs for these tests."""
    from moto.server import ThreadedMotoServer

    made = ThreadedMotoServer(ip_address="127.0.0.1", port=0, verbose=False)
    made.start()
    host, port = made.get_host_and_port()
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("AWS_ENDPOINT_URL", f"http://{host}:{port}")
        patch.setenv("AWS_DEFAULT_REGION", "us-east-1")
        for name in ("AWS_ACCESS_KEY_ID", "AWS_SECRET_ACCESS_KEY"):
            patch.setenv(name, "test")
        yield made
    made.stop()


@pytest.fixture
def bucket(server):
    """An empty bucket of it, called films."""
    import fsspec

    files = fsspec.filesystem("s3", use_listings_cache=False)
    files.mkdir("films")
    yield files
    files.rm("films", recursive=True)


@pytest.fixture
def laid(bucket, lay, tmp_path):
    """Two films in it, as in a folder."""
    for k, name in enumerate(("one", "more/two")):
        bucket.put(str(lay(tmp_path / "here" / name, k * 100)), f"films/in/{name}", recursive=True)
    return tmp_path / "here"


def one(film, out: str, *, again: bool = False) -> Outcome:
    return child.one(Job(film, RECIPE, places.results_at(out), ".tries-test", again), silent)


def test_films_of_a_store_are_those_of_a_folder_and_so_are_their_results(laid, bucket, tmp_path):
    found = places.films_at("s3://films/in", RECIPE, but="s3://films/in/out")
    assert [(film.name, [file.name for file in film.files]) for film in found] == [
        (name, ["music.flac", "talk.wav"]) for name in ("more/two", "one")
    ]
    with closing(running.Cores(2)) as cores:
        board = Board([film.name for film in found], {})
        made = running.run(found, RECIPE, places.results_at("s3://films/in/out"), board, engine=cores)
        assert [each.state for each in made] == [State.MADE] * 2
        again = running.run(found, RECIPE, places.results_at("s3://films/in/out"), Board(["", ""], {}), engine=cores)
        assert [each.state for each in again] == [State.THERE] * 2
    make_all(films_in(laid, RECIPE), RECIPE, tmp_path / "out")
    there = {
        path.removeprefix("films/in/out/"): hashlib.sha256(bucket.cat_file(path)).hexdigest()
        for path in bucket.find("films/in/out")
    }
    assert {name: each for name, each in there.items() if name.endswith(".wav")} == hashes(tmp_path / "out") != {}
    assert set(there) - set(hashes(tmp_path / "out")) == {
        "films.csv", "films.json", "one/made.json", "more/two/made.json",
    }  # fmt: skip
    assert [film.name for film in places.films_at("s3://films/in", RECIPE, but="s3://films/in/out")] == [
        "more/two", "one",
    ]  # fmt: skip


def pretended(film, recipe, out, progress) -> Outcome:
    (out / "mix.wav").write_bytes(b"made")
    return Outcome(film.name)


@pytest.mark.parametrize(
    ("change", "state"),
    [
        ("nothing", State.THERE),
        ("bytes", State.MADE),
        ("bytes, no fewer", State.MADE),
        ("a result gone", State.MADE),
        ("the receipt gone", State.MADE),
        ("a result cut short", State.MADE),
    ],
)
def test_what_is_made_anew(laid, bucket, monkeypatch, change, state):
    monkeypatch.setattr(one_film, "make", pretended)
    film = places.films_at("s3://films/in", RECIPE)[1]
    assert one(film, "s3://films/out").state is State.MADE
    if change == "bytes":
        bucket.pipe_file("films/in/one/talk.wav", b"other")
    elif change == "bytes, no fewer":
        bucket.pipe_file("films/in/one/talk.wav", bucket.cat_file("films/in/one/talk.wav")[::-1])
    elif change == "a result gone":
        bucket.rm("films/out/one/mix.wav")
    elif change == "a result cut short":
        bucket.pipe_file("films/out/one/mix.wav", b"m")
    elif change == "the receipt gone":
        bucket.rm(f"films/out/one/{RECEIPT}")
    found = places.films_at("s3://films/in", RECIPE)[1]
    if change == "the receipt gone":  # what is left could be anybody's
        assert "is no result of ours" in one(found, "s3://films/out").failed
        return
    assert one(found, "s3://films/out").state is state
    assert bucket.cat_file("films/out/one/mix.wav") == b"made"


@pytest.mark.parametrize("at", [RECEIPT, "mix.wav"])
def test_what_breaks_off_while_it_is_put_has_no_receipt(laid, bucket, monkeypatch, at):
    monkeypatch.setattr(one_film, "make", pretended)
    film = places.films_at("s3://films/in", RECIPE)[1]
    one(film, "s3://films/out")
    files, _ = places.store.opened("s3://films/out")
    put = files.put_file

    def breaks_off(here, there, **how):
        if there.endswith(at):
            raise OSError(5, "the line broke off")
        return put(here, there, **how)

    monkeypatch.setattr(files, "put_file", breaks_off)
    assert "the line broke off" in one(film, "s3://films/out", again=True).failed
    assert not bucket.exists(f"films/out/one/{RECEIPT}")


def test_a_film_set_aside_and_tries_are_known_to_all_who_use_the_store(laid, bucket):
    film = places.films_at("s3://films/in", RECIPE)[0]
    here, there = places.results_at("s3://films/out"), places.results_at("s3://films/out")
    assert [here.begun(".tries-a", film), there.begun(".tries-a", film), there.begun(".tries-b", film)] == [1, 2, 1]
    here.keep_aside(film, "key")
    assert there.set_aside(film) == "key"
    there.keep_aside(film, None)
    assert here.set_aside(film) is None
    there.ended(".tries-a")
    assert here.begun(".tries-a", film) == 1


@pytest.mark.parametrize(
    ("where", "error", "words"),
    [
        ("s3://films/nothing", MediaError, "can't be read: it is not there"),
        ("s3://no-such-bucket/x", MediaError, "can't be read: it is not there"),
        ("moon://films", InvalidValue, "can't be reached"),
    ],
)
def test_what_is_not_there_is_told(bucket, where, error, words):
    with pytest.raises(error, match=words):
        places.films_at(where, RECIPE)


def test_a_server_that_is_gone_is_told_in_one_line(bucket, monkeypatch):
    files, _ = places.store.opened("s3://films")

    def no_server(*_, **__):
        raise RuntimeError("could not connect")  # every store's package has errors of its own

    monkeypatch.setattr(files, "walk", no_server)
    with pytest.raises(MediaError, match=r"s3://films/in can't be reached: could not connect\."):
        places.films_at("s3://films/in", RECIPE)


def test_a_file_that_goes_meanwhile_fails_its_film_alone(laid, bucket):
    film = places.films_at("s3://films/in", RECIPE)[1]
    bucket.rm("films/in/one/talk.wav")
    failed = one(film, "s3://films/out")
    assert failed.failed.startswith("talk.wav can't be fetched")
    assert not bucket.exists("films/out/one")


def test_the_command_takes_addresses(laid, bucket, tmp_path, capsys):
    (tmp_path / "r.json").write_text(json.dumps(dict(RECIPE.plain)))
    assert main(["recipe", "check", str(tmp_path / "r.json"), "--on", "s3://films/in"]) == 0
    assert capsys.readouterr().out.splitlines()[-1] == "one: music.flac (music), talk.wav (talk)"
    args = ["--recipe", tmp_path / "r.json", "--data", tmp_path / "data", "--json"]
    assert main(["batch", "s3://films/in", *map(str, args), "--out", "s3://films/out"]) == 0
    assert [each["state"] for each in json.loads(capsys.readouterr().out)] == ["made", "made"]
    assert bucket.exists("films/out/more/two/two - mix.wav")
