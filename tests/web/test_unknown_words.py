"""Words and columns that this version does not know, in a database it opened: said, no fault, nothing touched."""

from __future__ import annotations

import sqlite3

import pytest

WORDS = [
    ("lane", "kind", "smell"),
    ("lane", "tag", "scent"),
    ("clip", "fade_in_shape", "wavy"),
    ("clip", "trigger", "by mood"),
    ("clip", "line", '[["a"]]'),
    ("clip", "care", '{"hush": "x", "glow": 1}'),
    ("clip", "channels", "third"),
    ("media", "tailored", "{}"),
    ("setting", "value", "louder"),
    ("captions", "form", "scroll"),
    ("captions", "cues", "no list"),
    ("draft", "body", "{}"),
    ("marker", "time_n", -5),
]


def columns(db, table: str) -> set[str]:
    return {row["name"] for row in db.execute(f"PRAGMA table_info({table})")}


@pytest.mark.parametrize(("table", "column", "word"), WORDS, ids=[f"{table}.{column}" for table, column, _ in WORDS])
def test_a_word_that_is_not_known_is_told(visitor, db, film, table, column, word):
    if column not in columns(db, table):
        pytest.fail(f"{table} has no column {column}: name one that it has")
    db.execute("PRAGMA ignore_check_constraints = ON")
    db.execute(f"UPDATE {table} SET {column} = ?", (word,))
    db.execute("UPDATE project SET revision = revision + 1000")  # nobody remembers it as it was
    before = list(db.iterdump())
    for address in ("/", f"/projects/{film}/duck", f"/projects/{film}/document", f"/projects/{film}/pulse"):
        assert visitor.client.get(address).status_code < 500, address
    answer = visitor.post(f"/projects/{film}/do/add_marker", json={"at_n": 480_00})
    assert answer.status_code < 500
    if answer.status_code != 200:
        assert list(db.iterdump()) == before


@pytest.mark.parametrize(("table", "column"), [("clip", "offset_n"), ("project", "in_n"), ("media", "sha256")])
def test_a_column_called_otherwise_is_told(visitor, db, film, table, column):
    try:
        db.execute(f"ALTER TABLE {table} RENAME COLUMN {column} TO renamed")
    except sqlite3.OperationalError:
        pytest.skip("this SQLite can't rename columns")
    db.execute("UPDATE project SET revision = revision + 1000")
    answer = visitor.client.get(f"/projects/{film}/document")
    assert (answer.status_code, "not as this version knows it" in answer.json["error"]) == (507, True)
