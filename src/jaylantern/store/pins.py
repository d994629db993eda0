"""Pins, perches and pairs as rows, and back."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

from jaylantern.core.timeline.perch import Pair
from jaylantern.core.timeline.pin import DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.project import Project

Row = dict[str, Any]


def own_text(own: Own) -> str:
    """What a dip has of its own, as JSON."""
    return json.dumps(own.plain, sort_keys=True)


def own_of(text: str) -> Own:
    """And back."""
    return Own.of(json.loads(text))


def read(connection: sqlite3.Connection, project_id: int) -> dict[str, Any]:
    """Perches, pairs and pins of a project, by the names of the project's fields."""

    def rows(sql: str) -> list[sqlite3.Row]:
        return connection.execute(sql, (project_id,)).fetchall()

    return {
        "perches": tuple(
            r["name"] for r in rows("SELECT name FROM perch WHERE project_id = ? ORDER BY position, name")
        ),
        "pairs": tuple(
            Pair(r["upper"], r["lower"], own_of(r["own"]))
            for r in rows("SELECT upper, lower, own FROM pair WHERE project_id = ? ORDER BY upper, lower")
        ),
        "speech_pins": tuple(
            SpeechPin(r["id"], r["media_id"], Heard(r["heard"]), r["start_n"], r["stop_n"])
            for r in rows(
                "SELECT id, media_id, heard, start_n, stop_n FROM speech_pin WHERE project_id = ? ORDER BY id"
            )
        ),
        "dip_pins": tuple(
            DipPin(r["id"], r["media_id"], r["start_n"], r["stop_n"], own_of(r["own"]))
            for r in rows("SELECT id, media_id, start_n, stop_n, own FROM dip_pin WHERE project_id = ? ORDER BY id")
        ),
        "point_pins": tuple(
            PointPin(r["id"], r["root"], r["at_n"], r["gain_db"], r["instead_n"], bool(r["dipped"]))
            for r in rows(
                "SELECT id, root, at_n, gain_db, instead_n, dipped FROM point_pin WHERE project_id = ? ORDER BY id"
            )
        ),
    }


def perch_rows(project: Project) -> dict[str, Row]:
    """Rows by key."""
    return {
        str(name): {"project_id": project.id, "name": str(name), "position": float(i)}
        for i, name in enumerate(project.perches)
    }


def pair_rows(project: Project) -> dict[tuple[str, str], Row]:
    """Rows by key."""
    return {
        (str(p.upper), str(p.lower)): {
            "project_id": project.id, "upper": str(p.upper), "lower": str(p.lower), "own": own_text(p.own),
        }
        for p in project.pairs
    }  # fmt: skip


def pin_rows(project: Project) -> dict[str, dict[int, Row]]:
    """Rows of every kind of pin, by table and number."""
    mine = {"project_id": project.id}
    return {
        "speech_pin": {p.id: {**mine, **vars(p), "heard": str(p.heard)} for p in project.speech_pins},
        "dip_pin": {p.id: {**mine, **vars(p), "own": own_text(p.own)} for p in project.dip_pins},
        "point_pin": {p.id: {**mine, **vars(p), "dipped": int(p.dipped)} for p in project.point_pins},
    }
