"""Faults that were there once, put back one at a time; each with deeds among which a sitting finds it."""

from __future__ import annotations

from dataclasses import dataclass

from tests.sitting.walk import Planted, altered


@dataclass(frozen=True)
class Fault:
    """What is planted (`server`: by name in the program's processes; `page`: in a script or sheet), which rules tell
    it, and how often what is done."""

    rules: tuple[str, ...]
    deeds: dict[str, float]
    server: str = ""
    page: Planted | None = None


FAULTS = {
    "a hand-off that deletes itself": Fault(
        ("nothing made disappears",), {"make": 1, "wait": 2, "go": 2},
        page=altered("js/page/busy.js", "if (!active && !quiet) this._tell(job);",
                     "if (!active && job.kind === 'export') sendJson(`/exports/${job.id}/remove`).catch(() => {});"),
    ),
    "a foreign folder emptied": Fault(
        ("theirs is as it was",), {"wrong_folder": 1, "key": 3}, server="a foreign folder emptied",
    ),
    "one window's long edit refuses another's": Fault(
        ("both_windows",), {"both_windows": 1, "key": 3}, server="one window's long edit refuses another's",
    ),
    "a note over Undo": Fault(
        ("what is seen can be pressed",), {"undo": 2, "key": 6},
        page=altered("css/ground.css", ".said { flex: 1 1 20rem; min-width: 0; }",
                     ".said { position: fixed; top: 6px; left: 30%; width: 46%; height: 40px; z-index: 60; }"),
    ),
    "the choice jumps after Not speech": Fault(
        ("what was corrected stays in hand",), {"mark_no_speech": 1, "key": 2},
        page=altered("js/project/selection.js", "const inHand = followed(held, doc);",
                     "const inHand = { passage: Math.min(this.passage ?? 0, doc.passages.length - 1), aside: null };"),
    ),
    "the cut in the silent part of a film": Fault(
        ("no traceback", "no trouble of the program"), {"cut_late": 1, "key": 1},
        server="the cut in the silent part of a film",
    ),
}  # fmt: skip
