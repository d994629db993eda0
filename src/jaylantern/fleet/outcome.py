"""What became of a film, and of all of them: as a table, as CSV, as JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Any, TextIO

from jaylantern.core.signal.timebase import clock, n_to_seconds, seconds_to_n
from jaylantern.interchange.passages import no_formula

COLUMNS = ("film", "state", "length_s", "passages", "lufs", "dbtp", "least_clear_lu", "deepest_db", "look", "said",
           "failed", "took_s")  # fmt: skip


class State(StrEnum):
    """What became of a film."""

    MADE = "made"
    THERE = "there already"
    FAILED = "not made"
    SET_ASIDE = "set aside"  # what made it was killed each time
    NO_ROOM = "no room"  # the disk was full: no fault of the film


@dataclass(frozen=True)
class Outcome:
    """What became of one film. `look` is what needs a look, `said` what should be known, `failed` why it is not
    made."""

    film: str
    state: State = State.MADE
    length_n: int = 0
    passages: int = 0
    lufs: float | None = None
    dbtp: float | None = None
    least_clear_lu: float | None = None
    deepest_db: float = 0.0
    look: tuple[str, ...] = ()
    said: tuple[str, ...] = ()
    failed: str = ""
    took_s: float = 0.0

    @property
    def bad(self) -> bool:
        """Is it not there?"""
        return self.state in (State.FAILED, State.SET_ASIDE, State.NO_ROOM)

    @property
    def plain(self) -> dict[str, Any]:
        """As values fit for JSON."""
        values = asdict(self)
        length_n = values.pop("length_n")
        return {**values, "length_s": round(n_to_seconds(length_n), 3), "state": str(self.state)}


def outcome_of(values: dict[str, Any]) -> Outcome:
    """An outcome from values as `plain` gives them."""
    length_n = seconds_to_n(float(values["length_s"]))
    known = {name: values[name] for name in Outcome.__dataclass_fields__ if name in values and name != "length_n"}
    many = {name: tuple(values.get(name, ())) for name in ("look", "said")}
    return Outcome(**{**known, **many, "state": State(values["state"]), "length_n": length_n})


def by_need(found: Sequence[Outcome]) -> list[Outcome]:
    """Those that need a look first: what is not made, then by how much there is to look at, then by name."""
    return sorted(found, key=lambda each: (not each.bad, -len(each.look), each.film))


def write_csv(out: TextIO, found: Sequence[Outcome]) -> None:
    """A line for each, sentences joined; what a spreadsheet would take for a formula is marked as text."""
    lines = csv.writer(out)
    lines.writerow(COLUMNS)
    for each in found:
        values = each.plain
        joined = {name: " ".join(values[name]) for name in ("look", "said")}
        lines.writerow([_cell({**values, **joined}[name]) for name in COLUMNS])


def _cell(value: Any) -> Any:
    return no_formula(value) if isinstance(value, str) else "" if value is None else value


def write_json(out: TextIO, found: Sequence[Outcome]) -> None:
    """All of it, in the order given."""
    json.dump([each.plain for each in found], out, indent=2, ensure_ascii=False)
    out.write("\n")


def as_text(write: Callable[[TextIO, Sequence[Outcome]], None], found: Sequence[Outcome]) -> str:
    """What `write_csv` or `write_json` writes."""
    out = io.StringIO(newline="")
    write(out, found)
    return out.getvalue()


def table(found: Sequence[Outcome]) -> list[str]:
    """Lines for a terminal."""
    width = max(4, *(len(each.film) for each in found)) if found else 4
    lines = [f"{'Film':<{width}}  {'Length':>9}  {'Dips':>4}  {'LUFS':>6}  {'dBTP':>5}  {'Least clear':>11}  Result"]
    for each in found:
        length = clock(each.length_n, decimals=0) if each.length_n else "—"
        figures = f"{length:>9}  {each.passages or '—':>4}  {_figure(each.lufs):>6}  {_figure(each.dbtp):>5}"
        least = "—" if each.least_clear_lu is None else f"{each.least_clear_lu:.1f} LU"
        words = " ".join(filter(None, (f"{each.state}:" if each.failed else each.state, each.failed, *each.look)))
        lines.append(f"{each.film:<{width}}  {figures}  {least:>11}  {words}")
    return lines


def _figure(value: float | None) -> str:
    return "—" if value is None else f"{value:.1f}"
