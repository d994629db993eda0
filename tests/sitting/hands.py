"""What the tireless user does, as one table: each deed takes plain figures and names, so that it can be written down
and done once more."""

from __future__ import annotations

import json
import random
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from playwright.sync_api import Page

from tests.sitting.world import World

Values = dict[str, Any]
STEPS = ("layout", "tag", "duck", "level", "tailor", "handoff")
KEYS = (
    "s", "Shift+s", "Delete", "Alt+Delete", "Control+Delete", "Control+c", "Control+x", "Control+v", "Control+d",
    "Alt+ArrowRight", "Alt+ArrowLeft", "Alt+Shift+ArrowRight", "Alt+ArrowDown", "Alt+ArrowUp", "Control+.",
    "Shift+ArrowUp", "Shift+ArrowDown", "h", "Shift+t", "d", "d", "z", "u", "Shift+j", "Alt+j", "Shift+d", "m",
    "i", "o", "Shift+x", "x", "g", "n", "q", "[", "]", ",", ".", "ArrowLeft", "ArrowRight", "Shift+ArrowLeft",
    "Shift+ArrowRight", "Home", "End", "PageDown", "PageUp", "ArrowDown", "ArrowUp", "Control+a", "Escape", "b",
    "Shift+b", "c", "f", "+", "-", "y", "?", "Control+z", "Control+z", "Control+Shift+z", "F6", "Tab", "Tab",
    "Shift+Tab", "Enter", "Space", "{", "}", "<", ">", "Shift+s", "Shift+Home", "Shift+End", "Shift+n", "Alt+e",
    "Shift+e", "t", "v", "Shift+m",
)  # fmt: skip
TYPED = ("abc", "-6", "18", "50 %", "0:05", "3.5 s", "", "9999999", "1e9", "Ünïcode „x“ ✓", "-0,5", "12 frames")
NOT_PRESSED = (
    "To the shelf", "Jay Lantern", "File:", "All as a file", "Report", "as JSON", "Record", "#bring-in",
    "Bring in", "Choose", "Search a folder", "Find:", "Take off", ".wav", ".mp4", ".csv",
    "Film with its new sound", "Mix", "Stems", "Objects", "Ducked music", "Make", "As a file", "Remove",
    "Bring back", "Stop", "Unlink", "take in hand", "Voice take", "Put away", "Move ", "#now",
)  # fmt: skip
MADE_S = 180.0


@dataclass(frozen=True)
class Deed:
    """One thing done: its name in the table, and the values it was done with."""

    name: str
    values: Values

    def __str__(self) -> str:
        said = ", ".join(f"{name} {value!r}" for name, value in self.values.items())
        return f"{self.name}({said})"


@dataclass
class Hand:
    """A user at one window, or two, and what they remember."""

    world: World
    page: Page
    chance: random.Random
    other: Page | None = None
    aside: tuple[int, int] | None = None  # what was just said to be no speech
    told: dict[str, Any] | None = None  # what a hand-off was asked for with


# — finding —


def _controls(hand: Hand, *kinds: str) -> list[dict[str, Any]]:
    found = hand.page.evaluate("() => window.sitting.pressable()")
    return [c for c in found if c["kind"] in kinds and not any(word in c["name"] for word in NOT_PRESSED)]


def _named(hand: Hand, name: str) -> dict[str, Any] | None:
    return next((c for c in hand.page.evaluate("() => window.sitting.pressable()") if c["name"] == name), None)


def _place(hand: Hand, lane: int, share: float) -> tuple[float, float] | None:
    bodies = hand.page.locator(".lane-body")
    count = bodies.count()
    box = bodies.nth(lane % count).bounding_box() if count else None
    if box is None:
        return None
    return box["x"] + share * box["width"], box["y"] + 0.62 * box["height"]


# — the deeds: what is chosen by chance, and how it is done —


def _some_key(hand: Hand) -> Values:
    return {"key": hand.chance.choice(KEYS)}


def key(hand: Hand, *, key: str) -> None:
    """Press a key."""
    if key == "d":
        passages = hand.page.evaluate("() => window.sitting.inHand()")
        revision = hand.page.evaluate("() => window.jayLantern.pageDoc.doc?.revision")
        hand.page.keyboard.press(key)
        settle(hand.page)
        label = hand.page.evaluate("() => window.jayLantern.pageDoc.doc?.undo ?? ''")
        changed = hand.page.evaluate("() => window.jayLantern.pageDoc.doc?.revision") != revision
        hand.aside = tuple(passages) if passages and changed and label.endswith("is not speech") else None
        return
    hand.page.keyboard.press(key)


def _some_control(hand: Hand) -> Values:
    found = _controls(hand, "button")
    return {"name": hand.chance.choice(found)["name"] if found else ""}


def press(hand: Hand, *, name: str) -> None:
    """Press a button where it is seen."""
    found = _named(hand, name)
    if found:
        hand.page.mouse.click(found["x"], found["y"])


def _some_field(hand: Hand) -> Values:
    found = _controls(hand, "field")
    return {"name": hand.chance.choice(found)["name"] if found else "", "text": hand.chance.choice(TYPED)}


def type_in(hand: Hand, *, name: str, text: str) -> None:
    """Type into a field and press Enter."""
    found = _named(hand, name)
    if found:
        hand.page.mouse.click(found["x"], found["y"])
        hand.page.keyboard.press("Control+a")
        hand.page.keyboard.type(text)
        hand.page.keyboard.press("Enter")


def _some_range(hand: Hand) -> Values:
    found = _controls(hand, "range")
    return {"name": hand.chance.choice(found)["name"] if found else "", "by": hand.chance.randint(-20, 20)}


def slide(hand: Hand, *, name: str, by: int) -> None:
    """Drag a slider a little way."""
    found = _named(hand, name)
    if found:
        _drag(hand, (found["x"], found["y"]), (found["x"] + by, found["y"]), ())


def _some_drag(hand: Hand) -> Values:
    keys = hand.chance.choice(((), (), (), ("Shift",), ("Control",), ("Alt",), ("Control", "Shift")))
    return {
        "lane": hand.chance.randrange(6),
        "at": round(hand.chance.random(), 3),
        "by": [hand.chance.randint(-160, 160), hand.chance.choice((0, 0, 0, 60, -60))],
        "keys": list(keys),
    }


def drag(hand: Hand, *, lane: int, at: float, by: list[int], keys: list[str]) -> None:
    """Drag whatever lies at a place of a lane."""
    start = _place(hand, lane, at)
    if start:
        _drag(hand, start, (start[0] + by[0], start[1] + by[1]), tuple(keys))


def _drag(hand: Hand, start: tuple[float, float], end: tuple[float, float], keys: tuple[str, ...]) -> None:
    hand.page.mouse.move(*start)
    for each in keys:
        hand.page.keyboard.down(each)
    hand.page.mouse.down()
    hand.page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=2)
    hand.page.mouse.move(*end, steps=2)
    hand.page.mouse.up()
    for each in keys:
        hand.page.keyboard.up(each)


def _some_place(hand: Hand) -> Values:
    return {"lane": hand.chance.randrange(6), "at": round(hand.chance.random(), 3)}


def click(hand: Hand, *, lane: int, at: float) -> None:
    """Click on a lane: a clip, or beside one."""
    place = _place(hand, lane, at)
    if place:
        hand.page.mouse.click(*place)


def wheel(hand: Hand, *, lane: int, at: float) -> None:
    """Turn the wheel there, with Ctrl half of the time."""
    place = _place(hand, lane, at)
    if place:
        hand.page.mouse.move(*place)
        hand.page.mouse.wheel(0, 120 if at < 0.5 else -120)


def _some_step(hand: Hand) -> Values:
    return {"step": hand.chance.choice(STEPS)}


def go(hand: Hand, *, step: str) -> None:
    """Go to another step."""
    hand.page.evaluate("() => { for (const each of document.querySelectorAll('dialog[open]')) each.close(); }")
    for _ in range(2):
        hand.page.keyboard.press("Escape")
    hand.page.locator(f'.steps a[data-step="{step}"]').click(timeout=5000)
    hand.page.wait_for_selector(f'[data-tray="{step}"]', timeout=20_000)


def _some_count(hand: Hand) -> Values:
    return {"count": hand.chance.randint(1, 3)}


def undo(hand: Hand, *, count: int) -> None:
    """Press Undo with the mouse, several times without a pause: as many steps are taken back."""
    _head(hand, "undo", count)


def redo(hand: Hand, *, count: int) -> None:
    """The same with Redo."""
    _head(hand, "redo", count)


def _head(hand: Hand, way: str, count: int) -> None:
    hand.page.evaluate("() => { for (const each of document.querySelectorAll('dialog[open]')) each.close(); }")
    hand.page.keyboard.press("Escape")
    for _ in range(count):
        box = hand.page.locator(f"#{way}").bounding_box()
        if box:
            hand.page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)


def _nothing(hand: Hand) -> Values:
    return {}


def reload(hand: Hand) -> None:
    """Load the page anew."""
    hand.page.reload()
    hand.page.wait_for_selector("body.ready", timeout=60_000)


def restart(hand: Hand) -> None:
    """The power goes, and comes again."""
    settle(hand.page)
    hand.world.kill()
    hand.world.start()
    reload(hand)


def _some_time(hand: Hand) -> Values:
    return {"seconds": hand.chance.choice((0.1, 0.4, 1.0, 4.0))}


def wait(hand: Hand, *, seconds: float) -> None:
    """Do nothing for a while."""
    hand.page.wait_for_timeout(1000 * seconds)


def mark_no_speech(hand: Hand) -> None:
    """Take a passage in hand and say that it is no speech."""
    go(hand, step="duck")
    rows = hand.page.locator("tr[data-passage] button")
    if rows.count():
        rows.first.click()
        settle(hand.page)
        key(hand, key="d")


def cut_late(hand: Hand) -> None:
    """Cut a second out where the film has a picture and no sound any more, all lanes closing up."""
    hand.page.evaluate(
        "async () => { const { player, pageDoc } = window.jayLantern;"
        " const at = Math.max(0, Math.min(20 * 48000, pageDoc.doc.length_n - 3 * 48000)); player.seek(at); }"
    )
    hand.page.locator(".tl-rows").focus()
    hand.page.keyboard.press("Shift+s")
    settle(hand.page)
    hand.page.evaluate("() => { const { player } = window.jayLantern; player.seek(player.now_n + 48000); }")
    hand.page.keyboard.press("Shift+s")


def both_windows(hand: Hand) -> None:
    """Change something in two windows at once: neither refuses the other."""
    if hand.other is None:
        hand.other = hand.page.context.new_page()
        hand.other.goto(f"{hand.world.page}/duck")
        hand.other.wait_for_selector("body.ready", timeout=60_000)
    at_once = (
        "(name) => { const { pageDoc } = window.jayLantern; window.bothSaid = '';"
        " const hold_ms = pageDoc.doc.settings.hold_ms === 650 ? 660 : 650;"
        " const at_n = Math.round(Math.random() * 480000);"
        " const deed = name === 'settings' ? ['set_settings', { settings: { hold_ms } }] : ['add_marker', { at_n }];"
        " pageDoc.do(...deed)"
        " .then(() => (window.bothSaid = 'done'), (error) => (window.bothSaid = error.message)); }"
    )
    hand.page.evaluate(at_once, "settings")
    hand.other.evaluate(at_once, "marker")
    for page in (hand.page, hand.other):
        page.wait_for_function("() => window.bothSaid !== ''", timeout=20_000)
        said = page.evaluate("() => window.bothSaid")
        if said != "done":
            raise AssertionError(f"one of two windows was refused: {said}")


def _some_making(hand: Hand) -> Values:
    return {"then": hand.chance.choice(("", "h", "Shift+ArrowUp"))}


def make(hand: Hand, *, then: str) -> None:
    """Hand off the mix, going on editing while it is made; what comes is what was heard when it was asked for."""
    go(hand, step="handoff")
    doc = hand.page.evaluate("() => window.jayLantern.pageDoc.doc")
    if not doc["length_n"] or doc["length_n"] > 90 * 48_000:
        return
    spans = [(at, min(at + 24_000, doc["length_n"])) for at in (0, doc["length_n"] // 2)]
    heard = [hand.world.get(f"/projects/{hand.world.project}/listen/ducked?start={a}&stop={b}") for a, b in spans]
    with hand.page.expect_response(lambda answer: answer.url.endswith("/exports")) as asked:
        hand.page.locator('[data-export="mix"]').click(timeout=5000)
    job = asked.value.json()["job"]
    settle(hand.page)
    if then:
        hand.page.keyboard.press("Control+a")
        hand.page.keyboard.press(then)
    until = time.monotonic() + MADE_S
    while at_work(hand.world, job):
        if time.monotonic() > until:
            raise AssertionError(f"a mix that was asked for was not made within {MADE_S:g} s")
        hand.page.wait_for_timeout(150)
    hand.told = {"job": str(job), "spans": spans, "heard": heard}


def at_work(world: World, job: int) -> bool:
    """Whether what was asked for is still waited for."""
    jobs = json.loads(world.get(f"/projects/{world.project}/pulse"))["jobs"]
    return any(each["id"] == job and each["state"] in ("queued", "running") for each in jobs)


def made(world: World) -> dict[str, list[str]]:
    """What the list under Hand off has: addresses of files by the number of what made them."""
    text = world.get(f"/projects/{world.project}/part/made").decode()
    found: dict[str, list[str]] = {}
    for item in text.split('<li class="made-item')[1:]:
        job = item.split('data-job="')[1].split('"')[0]
        files = [part.split('"')[0] for part in item.split('href="')[1:]]
        if files:
            found[job] = files
    return found


def wrong_folder(hand: Hand) -> None:
    """Start the program over a folder that is not ours."""
    hand.world.start_elsewhere()


def settle(page: Page) -> None:
    """Wait until nothing that was asked for is on its way, and what follows is drawn."""
    page.wait_for_function(
        "() => !window.sitting?.seen.pending && !document.querySelector('#tray.htmx-request')", timeout=60_000
    )
    page.evaluate(
        "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 20))))"
    )


@dataclass(frozen=True)
class Kind:
    """How often something is done, what is chosen by chance for it, and the doing."""

    weight: float
    chosen: Callable[[Hand], Values]
    do: Callable[..., None]


DEEDS: dict[str, Kind] = {
    "key": Kind(30, _some_key, key),
    "press": Kind(22, _some_control, press),
    "type_in": Kind(8, _some_field, type_in),
    "slide": Kind(5, _some_range, slide),
    "drag": Kind(14, _some_drag, drag),
    "click": Kind(12, _some_place, click),
    "wheel": Kind(2, _some_place, wheel),
    "go": Kind(7, _some_step, go),
    "undo": Kind(5, _some_count, undo),
    "redo": Kind(3, _some_count, redo),
    "reload": Kind(0.8, _nothing, reload),
    "restart": Kind(0.3, _nothing, restart),
    "wait": Kind(2, _some_time, wait),
    "mark_no_speech": Kind(1.5, _nothing, mark_no_speech),
    "cut_late": Kind(1, _nothing, cut_late),
    "both_windows": Kind(0.8, _nothing, both_windows),
    "make": Kind(0.8, _some_making, make),
    "wrong_folder": Kind(0.3, _nothing, wrong_folder),
}
