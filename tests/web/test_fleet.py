"""The page of many films: runs as they stand, what needs a look first, tables to keep."""

from __future__ import annotations

import csv
import io

import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.fleet import board as boards
from jaylantern.fleet.board import Board, Going, Kept, Row
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.web.fleet import by_look, kind


@pytest.fixture
def folder(workspace):
    return workspace.folder.path / boards.FOLDER


def test_without_a_run_it_says_how_one_begins(visitor):
    page = visitor.client.get("/films").get_data(as_text=True)
    assert "jaylantern batch FOLDER --recipe FILE --out DONE" in page
    assert 'href="/films"' in visitor.client.get("/").get_data(as_text=True)


def test_a_run_is_seen_while_it_goes_and_afterwards(visitor, folder):
    about = {"recipe": "r.json", "from": "in", "to": "out", "dashboard": "http://127.0.0.1:8787/status"}
    board = Board(["fine", "odd", "<b>bad</b>", "now", "later"], about)
    with Kept(board, folder):
        board.done(0, Outcome("fine", length_n=61 * RATE, passages=3, lufs=-16.04, dbtp=-1.2, least_clear_lu=9.96))
        board.done(1, Outcome("odd", look=("It is silent.",)))
        board.done(2, Outcome("<b>bad</b>", State.FAILED, failed="It can't be read."))
        board.doing(3, 0.42, "rendering")
        Kept(board, folder)._write()
        page = visitor.client.get("/films").get_data(as_text=True)
        assert 'hx-trigger="every 2s"' in page
        assert 'href="http://127.0.0.1:8787/status"' in page
        assert "<b>bad</b>" not in page
        order = [page.index(f'scope="row">{name}') for name in ("&lt;b&gt;bad", "odd", "now", "fine", "later")]
        assert order == sorted(order)
        for words in ("01:01", "−16.0", "10.0 LU", "It can&#39;t be read.", 'aria-valuenow="42"', "rendering",
                      'aria-label="2 made, 0 there already, 1 not made, 1 being made, 1 waiting, of 5"'):  # fmt: skip
            assert words in page
    (name,) = [path.stem for path in folder.iterdir()]
    ended = visitor.client.get(f"/films/{name}").get_data(as_text=True)
    assert "hx-get" not in ended
    assert ">ended<" in ended
    rows = list(csv.DictReader(io.StringIO(visitor.client.get(f"/films/{name}.csv").get_data(as_text=True))))
    assert [row["film"] for row in rows] == ["<b>bad</b>", "odd", "fine"]
    assert [row["film"] for row in visitor.client.get(f"/films/{name}.json").json] == ["<b>bad</b>", "odd", "fine"]


def test_of_very_many_films_the_page_shows_those_that_need_a_look(visitor, folder):
    board = Board([f"film {k}" for k in range(1000)], {"recipe": "r.json", "from": "in", "to": "out", "dashboard": ""})
    board.done(999, Outcome("film 999", State.FAILED, failed="No."))
    with Kept(board, folder):
        page = visitor.client.get("/films").get_data(as_text=True)
    assert page.count('scope="row"') == 250
    assert "750 more in the tables" in page
    assert page.index("film 999</th>") < page.index("film 0</th>")


@pytest.mark.parametrize("path", ["/films/none", "/films/none.csv", "/films/..%2f..%2fsecret", "/films/a.xml"])
def test_a_run_that_is_not_there(visitor, path):
    assert visitor.client.get(path).status_code == 404


@pytest.mark.parametrize(
    ("row", "wanted"),
    [
        (Row("a"), "waiting"),
        (Row("a", Going.MAKING), "making"),
        (Row("a", Going.DONE, outcome=Outcome("a")), "fine"),
        (Row("a", Going.DONE, outcome=Outcome("a", State.THERE)), "fine"),
        (Row("a", Going.DONE, outcome=Outcome("a", look=("x",))), "look"),
        (Row("a", Going.DONE, outcome=Outcome("a", State.SET_ASIDE)), "failed"),
        (Row("a", Going.DONE, outcome=Outcome("a", State.NO_ROOM)), "failed"),
    ],
)
def test_how_a_film_is_marked(row, wanted):
    assert kind(row) == wanted


def test_the_order_of_rows():
    rows = [Row("w"), Row("m", Going.MAKING), Row("f", Going.DONE, outcome=Outcome("f")),
            Row("l", Going.DONE, outcome=Outcome("l", look=("x",)))]  # fmt: skip
    assert [row.film for row in by_look(rows)] == ["l", "m", "f", "w"]
