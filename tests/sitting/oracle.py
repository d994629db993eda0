"""What must always hold, as one table. A rule answers sentences; none when it holds."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import numpy as np
import soundfile

from tests.sitting import hands

if TYPE_CHECKING:
    from tests.sitting.walk import Sitting

STEP = 2.0**-23  # of a file of 24 bit
NOTE_MS = 6000.0  # how long a note may go on after something else has succeeded: it is to be read
SHOWN = ("name", "lanes", "settings", "markers", "in_n", "out_n", "captions", "pairs", "passages", "set_aside", "held")


def document(sitting: Sitting) -> dict[str, Any]:
    """The project as the server has it, without what tells one state from the same one come to another way."""
    doc = json.loads(sitting.world.get(f"/projects/{sitting.world.project}/document"))
    return {name: doc[name] for name in SHOWN}


def no_trouble_of_the_program(sitting: Sitting) -> list[str]:
    """No script error, no error in the console, nothing against the page's policy, no answer of 500 and more."""
    found, sitting.troubles[:] = list(sitting.troubles), []
    if sitting.last.name in ("reload", "restart"):  # what was on its way to a page that is left is given up
        found = [each for each in found if "htmx:" not in each]
    return found


def no_traceback(sitting: Sitting) -> list[str]:
    """Nothing the server had not foreseen."""
    text = sitting.world.log.read_text()
    fresh, sitting.log_read = text[sitting.log_read :], len(text)
    return [fresh[fresh.index("Traceback") :][:1500]] if "Traceback" in fresh else []


def focus_is_somewhere(sitting: Sitting) -> list[str]:
    """On something that can be seen, once somebody has done something."""
    if sitting.last.name in ("reload", "restart"):
        return []
    at = sitting.page.evaluate("() => window.sitting.focus()")
    return [f"the focus is on {at}"] if at else []


def what_is_seen_can_be_pressed(sitting: Sitting) -> list[str]:
    """No control lies under something else."""
    return list(sitting.page.evaluate("() => window.sitting.covered()"))


def what_takes_long_says_so(sitting: Sitting) -> list[str]:
    """What is not done within 700 ms shows that it works."""
    silent = sitting.page.evaluate("() => window.sitting.seen.silent.splice(0)")
    return [f"{each} took long and nothing showed it" for each in silent]


def no_note_outlives_its_cause(sitting: Sitting) -> list[str]:
    """A trouble goes when something else has succeeded since, that of a silent server when it answers."""
    page = sitting.page
    now = page.evaluate("() => window.sitting.now()")
    since = sitting.succeeded_ms
    return [
        f"“{note['text']}” still stands {(now - since) / 1000:.0f} s after something else was done"
        for note in page.evaluate("() => window.sitting.notes()")
        if note["about"] in ("deed", "") and since is not None and note["since"] < since and now - since > NOTE_MS
    ]


def what_was_corrected_stays_in_hand(sitting: Sitting) -> list[str]:
    """After “Not speech” it is the same stretch that is in hand."""
    hand = sitting.hand
    aside, hand.aside = hand.aside, None
    if aside is None:
        return []
    held = sitting.page.evaluate("() => window.sitting.inHand()")
    if held and held[0] < aside[1] and aside[0] < held[1]:
        return []
    return [f"{aside} was said to be no speech; now {held} is in hand"]


def nothing_made_disappears(sitting: Sitting) -> list[str]:
    """What was made is listed as long as nobody removed it by name, and its files are there."""
    if sitting.hand.told is not None:
        sitting.made.setdefault(sitting.hand.told["job"], [])  # it was seen in the list
    if not sitting.made:
        return []
    now = hands.made(sitting.world)
    gone = [f"hand-off {job} is not there any more" for job in sitting.made if job not in now]
    sitting.made = {**sitting.made, **now}
    return gone


def a_hand_off_is_what_was_heard(sitting: Sitting) -> list[str]:
    """To the last bit of the file, whatever was edited while it was made."""
    told, sitting.hand.told = sitting.hand.told, None
    if told is None:
        return []
    there = hands.made(sitting.world).get(told["job"])
    if there is None:
        return []  # another rule says so
    address = there[0]
    samples, rate = soundfile.read(io.BytesIO(sitting.world.get(address)), dtype="float64", always_2d=True)
    found = []
    for (start_n, stop_n), raw in zip(told["spans"], told["heard"], strict=True):
        heard = np.clip(np.frombuffer(raw, "<f4").reshape(-1, 2), -1.0, 1.0)
        part = samples[start_n:stop_n]
        if rate != 48_000 or len(part) != len(heard) or np.abs(part - heard).max(initial=0) > 2 * STEP:
            worst = np.abs(part[: len(heard)] - heard[: len(part)]).max(initial=0)
            found.append(f"the mix differs from what was heard at {start_n / 48_000:.1f} s by {worst:.2e}")
    return found


def sound_stays_with_its_picture(sitting: Sitting) -> list[str]:
    """No clip of sound is late or early against the picture it is linked with."""
    doc = json.loads(sitting.world.get(f"/projects/{sitting.world.project}/document"))
    late = [
        (lane["name"], clip["name"], clip["late_n"])
        for lane in doc["lanes"]
        for clip in lane["clips"]
        if clip.get("late_n")
    ]
    return [f"{name} on {lane} is {late_n / 48_000:.2f} s off its picture" for lane, name, late_n in late]


def the_page_shows_what_is_kept(sitting: Sitting) -> list[str]:
    """The document on the page is the one in the database."""
    try:
        sitting.page.wait_for_function(
            "async () => { const { pageDoc } = window.jayLantern;"
            " const at = await (await fetch(pageDoc.url + '/pulse')).json();"
            " return pageDoc.doc?.revision === at.revision; }",
            timeout=15_000,
        )
    except Exception as error:
        return [f"the page did not come to what the server has: {str(error)[:200]}"]
    return []


def theirs_is_as_it_was(sitting: Sitting) -> list[str]:
    """Nothing in a folder that is not ours was touched."""
    now = sitting.world.theirs()
    return (
        []
        if now == sitting.theirs
        else [f"a foreign folder was changed: {sorted(sitting.theirs)} became {sorted(now)}"]
    )


FORTH = (
    "async () => { const { pageDoc } = window.jayLantern; while (pageDoc.doc.redo_id !== null) await pageDoc.redo(); }"
)
BACK = (
    "async () => { const { pageDoc } = window.jayLantern; while (pageDoc.doc.undo_id !== null) await pageDoc.undo(); }"
)


def the_first(sitting: Sitting) -> dict[str, Any]:
    """The document when all is undone."""
    sitting.page.evaluate(BACK)
    return document(sitting)


def undo_leads_to_the_first_and_redo_to_the_last(sitting: Sitting) -> list[str]:
    """Undo of all gives back the first document, redo of all the last."""
    page = sitting.page
    hands.settle(page)
    here = page.evaluate("() => window.jayLantern.pageDoc.doc.undo_id")
    page.evaluate(FORTH)
    last = document(sitting)
    first = the_first(sitting)
    page.evaluate(FORTH)
    again = document(sitting)
    page.evaluate("async (id) => { await window.jayLantern.pageDoc.goTo(id ?? 0); }", here)
    hands.settle(page)
    found = []
    if first != sitting.first:
        found.append(f"undo of all does not give the first document back: {_differs(first, sitting.first)}")
    if again != last:
        found.append(f"redo of all does not give the last document back: {_differs(again, last)}")
    return found


def _differs(one: dict[str, Any], other: dict[str, Any]) -> str:
    return "; ".join(f"{name}: {one[name]!r:.300} for {other[name]!r:.300}" for name in one if one[name] != other[name])


Rule = Callable[["Sitting"], list[str]]
AFTER_EACH: tuple[Rule, ...] = (
    no_trouble_of_the_program, no_traceback, focus_is_somewhere, what_is_seen_can_be_pressed, what_takes_long_says_so,
    no_note_outlives_its_cause, what_was_corrected_stays_in_hand, nothing_made_disappears, a_hand_off_is_what_was_heard,
    theirs_is_as_it_was,
)  # fmt: skip
NOW_AND_THEN: tuple[Rule, ...] = (
    the_page_shows_what_is_kept, sound_stays_with_its_picture, undo_leads_to_the_first_and_redo_to_the_last,
)  # fmt: skip
