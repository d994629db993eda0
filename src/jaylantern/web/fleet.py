"""Many films: the runs of recipes on this machine's data folder, as they go and as they ended."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TextIO

from flask import Blueprint, Response, render_template
from flask.typing import ResponseReturnValue

from jaylantern.errors import NotFound
from jaylantern.fleet import board
from jaylantern.fleet.board import Going, Row, Seen
from jaylantern.fleet.outcome import Outcome, as_text, by_need, write_csv, write_json
from jaylantern.support import own_python
from jaylantern.web.connection import workspace

blueprint = Blueprint("fleet", __name__, url_prefix="/films")
MOST_ROWS = 250  # of a table; all of them are in CSV and JSON
FORMS: dict[str, tuple[str, Callable[[TextIO, Sequence[Outcome]], None]]] = {
    "csv": ("text/csv", write_csv),
    "json": ("application/json", write_json),
}


def _folder() -> Path:
    return workspace().folder.path / board.FOLDER


def _found(name: str) -> Seen:
    found = board.seen(_folder(), name)
    if found is None:
        raise NotFound("That run is not kept any more.")
    return found


def by_look(rows: Sequence[Row]) -> list[Row]:
    """Rows as they are wanted: what is not made, what needs a look, what is being made, what is made, what waits."""
    done = {id(row.outcome): row for row in rows if row.outcome is not None}
    ordered = [done[id(each)] for each in by_need([row.outcome for row in rows if row.outcome is not None])]
    bad = [row for row in ordered if row.outcome is not None and (row.outcome.bad or row.outcome.look)]
    fine = [row for row in ordered if row not in bad]
    making, waiting = ([row for row in rows if row.going is going] for going in (Going.MAKING, Going.WAITING))
    return [*bad, *making, *fine, *waiting]


def kind(row: Row) -> str:
    """How a film of a run is marked."""
    if row.outcome is None:
        return str(row.going)
    return "failed" if row.outcome.bad else "look" if row.outcome.look else "fine"


def _card(seen: Seen) -> dict[str, object]:
    return {"run": seen, "rows": by_look(seen.rows)[:MOST_ROWS], "kind": kind}


@blueprint.get("")
def page() -> ResponseReturnValue:
    """All runs, the newest first; the newest open."""
    runs = board.seen_in(_folder())
    return render_template(
        "fleet/page.html", runs=runs, newest=_card(runs[0]) if runs else None, called=own_python.called()
    )


@blueprint.get("/<name>")
def run(name: str) -> ResponseReturnValue:
    """One run as it stands."""
    return render_template("fleet/_run.html", **_card(_found(name)))


@blueprint.get("/<name>.<any(csv, json):form>")
def table(name: str, form: str) -> ResponseReturnValue:
    """What became of the films of a run, to be kept: those that need a look first."""
    kind, write = FORMS[form]
    text = as_text(write, by_need([row.outcome for row in _found(name).rows if row.outcome is not None]))
    headers = {"Content-Disposition": f"attachment; filename=films-{name}.{form}"}
    return Response(text, mimetype=kind, headers=headers)
