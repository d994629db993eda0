"""What is seen of a run: figures by a table, what is written down and read again, a log, the bars of a terminal."""

from __future__ import annotations

import io
import json
import sys
from datetime import UTC, datetime, timedelta

import pytest

from jaylantern.cli import fleet as terminal
from jaylantern.fleet import board as boards
from jaylantern.fleet.board import Board, Figures, Going, Kept, Row, figures, seen_in
from jaylantern.fleet.outcome import Outcome, State

MADE, THERE = Outcome("a"), Outcome("a", State.THERE)
FAILED, ASIDE = Outcome("a", State.FAILED, failed="No."), Outcome("a", State.SET_ASIDE, failed="No.")
WAITS, HALF = Row("a"), Row("a", Going.MAKING, 0.5)


def done(outcome: Outcome) -> Row:
    return Row("a", Going.DONE, 1.0, "", outcome)


@pytest.mark.parametrize(
    ("rows", "ran_s", "wanted"),
    [
        ([], 10, Figures(0, 0, 0, 0, 0, 0, None, None)),
        ([WAITS, WAITS], 10, Figures(2, 2, 0, 0, 0, 0, None, None)),
        ([done(MADE), WAITS], 36, Figures(2, 1, 0, 1, 0, 0, 100.0, 36.0)),
        ([done(MADE), HALF], 36, Figures(2, 0, 1, 1, 0, 0, 100.0, 18.0)),
        ([done(MADE), done(THERE), done(FAILED), done(ASIDE)], 60, Figures(4, 0, 0, 1, 1, 2, 180.0, 0.0)),
        ([done(THERE), WAITS], 60, Figures(2, 1, 0, 0, 1, 0, None, None)),
    ],
)
def test_figures(rows, ran_s, wanted):
    assert figures(rows, ran_s) == wanted


def test_a_film_that_is_done_is_not_being_made_again_by_what_is_told_late():
    board = Board(["a", "b"], {})
    board.doing(0, 1.7, "rendering")
    assert (board.rows[0].going, board.rows[0].share, board.rows[0].doing) == (Going.MAKING, 1.0, "rendering")
    board.done(0, FAILED)
    board.doing(0, 0.2, "late")
    assert (board.rows[0].going, board.rows[0].outcome) == (Going.DONE, FAILED)
    assert board.rows[1].going is Going.WAITING
    assert board.add("c") == 2


def test_a_board_of_months_keeps_what_was_done_last(monkeypatch):
    monkeypatch.setattr(boards, "MOST_ROWS", 3)
    board = Board([], {})
    numbers = [board.add(name) for name in "abc"]
    assert board.add("d") == 3  # nothing is done yet
    board.done(numbers[1], MADE)
    board.done(numbers[0], FAILED)
    assert [board.add("e"), board.add("f"), board.add("g")] == [1, 0, 4]
    assert [row.film for row in board.rows] == ["f", "e", "c", "d", "g"]
    assert board.rows[1].going is Going.WAITING


def test_where_nothing_can_be_written_the_run_goes_on(tmp_path):
    (tmp_path / "file").write_text("")
    with Kept(Board(["one"], {}), tmp_path / "file" / "runs"):
        pass
    assert seen_in(tmp_path / "file" / "runs") == []


def test_what_is_written_is_read_again_and_only_so_many_are_kept(tmp_path, monkeypatch):
    monkeypatch.setattr(boards, "MOST_KEPT", 2)
    for number in range(4):
        board = Board(["one", "two"], {"recipe": f"{number}.json"})
        with Kept(board, tmp_path):
            board.done(0, Outcome("one", length_n=48_000, look=("Look.",)))
    (tmp_path / "99999999-odd.json").write_text('{"rows": [{}]}')
    (found, *rest) = seen_in(tmp_path)
    assert (found.about["recipe"], found.ended, found.runs) == ("3.json", True, False)
    assert found.rows[0].outcome.look == ("Look.",)
    assert found.rows[1].going is Going.WAITING
    assert len(list(tmp_path.glob("2*.json"))) == 2
    assert [each.about["recipe"] for each in rest] == []  # the odd one is one of the two that are read


@pytest.mark.parametrize(
    ("ended", "seen_before_s", "runs"), [(False, 1, True), (False, 59, True), (False, 61, False), (True, 1, False)]
)
def test_a_run_that_was_not_seen_for_a_minute_has_broken_off(tmp_path, ended, seen_before_s, runs):
    board = Board(["one"], {})
    board.ended = ended
    seen = datetime.now(UTC) - timedelta(seconds=seen_before_s)
    (tmp_path / "a.json").write_text(json.dumps({**board.plain, "seen": seen.isoformat()}))
    assert [each.runs for each in seen_in(tmp_path)] == [runs]


def test_it_is_written_while_it_changes(tmp_path, monkeypatch):
    monkeypatch.setattr(boards, "WRITTEN_EVERY_S", 0.02)
    board = Board(["one"], {})
    with Kept(board, tmp_path):
        board.doing(0, 0.5, "rendering")
        while seen_in(tmp_path)[0].rows[0].share != 0.5:
            pass
        assert seen_in(tmp_path)[0].runs


@pytest.mark.parametrize(
    ("seconds", "words"), [(0, "0 s"), (99.4, "99 s"), (100, "2 min"), (5999, "100 min"), (6000, "1.7 h")]
)
def test_durations(seconds, words):
    assert terminal.duration(seconds) == words


def test_a_log_has_a_line_for_each_film_that_is_done(capsys):
    board = Board(["one", "two"], {}, shown=[terminal.Shown()])
    board.doing(0, 0.3, "listening")
    board.done(0, FAILED)
    (line,) = capsys.readouterr().err.splitlines()
    assert line.split(" ", 1)[1].startswith("1 of 2 (1 not made, ")
    assert line.endswith(": one: not made: No.")


def test_a_terminal_has_a_bar_for_all_and_one_for_each_that_is_being_made(monkeypatch):
    class Terminal(io.StringIO):
        def isatty(self) -> bool:
            return True

    monkeypatch.setattr(sys, "stderr", Terminal())
    shown = terminal.Shown()
    board = Board(["one", "two", "three"], {}, shown=[shown])
    board.doing(0, 0.25, "listening")
    board.doing(1, 0.5, "rendering")
    board.done(0, MADE)
    board.doing(2, 0.75, "ducking")
    shown.close()
    text = sys.stderr.getvalue()
    for words in ("0/3", "1/3", "one  25%", "listening", "two  50%", "three  75%", "an hour"):
        assert words in text
