"""The fifty commonest actions, one after another: after each nothing overlaps or lies under anything, the focus is
somewhere, axe finds nothing, and the console is empty."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser import views
from tests.browser.test_every_view import RULES, axe, broken, lies

pytestmark = pytest.mark.usefixtures("ducked_project")
LOOK = (Path(__file__).parent.parent / "sitting" / "look.js").read_text(encoding="utf-8")

BEGUN = "() => new Promise((done) => requestAnimationFrame(() => setTimeout(done, 80)))"  # what follows is asked for
QUIET = (  # and is there, its colours as they stay
    "() => !window.sitting.seen.pending && !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')"
    " && document.getAnimations().every((each) => each.playState === 'finished')"
)


WATCH = """() => {
    window.touched = new Set();
    new MutationObserver((all) => {
        for (const { target, type } of all) {
            const at = target.nodeType === 1 ? target : target.parentElement;
            if (!(at === document.body && type === 'attributes')) window.touched.add(at);
        }
    }).observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true });
}"""
PARTS = """() => {
    const PART = 'header, section, article, dialog, form, table, [popover], [role=group], [data-tray]';
    const parts = [...window.touched].map((each) => each.closest(PART) ?? document.body);
    window.touched.clear();
    const shown = [...new Set(parts)].filter((each) => each.isConnected && each.checkVisibility());
    return axe.run(shown, {
        resultTypes: ['violations'],
        rules: {'label-content-name-mismatch': {enabled: true}, 'color-contrast': {enabled: false}},
    });
}"""
PARTS_EACH = 3  # after so many actions axe goes over what has changed since
SMALL_EACH = 2  # after so many it is looked at on a small screen, too
WHOLE = 9  # after so many over the page as a whole, colours and sizes too


def of_parts(page: Page) -> list:
    """What axe finds in those parts of the page that have changed since it was asked last, colours and sizes aside."""
    return broken(page.evaluate(PARTS)) if page.evaluate("() => window.touched.size") else []


def key(name: str):
    return lambda page: page.keyboard.press(name)


def button(selector: str):
    return lambda page: page.locator(selector).first.click()


def typed(selector: str, text: str):
    def do(page: Page) -> None:
        page.locator(selector).first.fill(text)
        page.locator(selector).first.press("Enter")

    return do


def at(seconds: float):
    return lambda page: page.evaluate("(n) => window.jayLantern.player.seek(n)", round(seconds * 48_000))


def talk(page: Page) -> None:
    page.locator('.lane[data-lane="Talk"] .clip').first.focus()


def step(name: str):
    return lambda page: views.step(page, name)


ACTIONS = [
    ("choose a passage", button("#passage-1")), ("not speech", button('[data-act="not-speech"]')),
    ("lift it", button('[data-act="lift-passage"]')), ("no dip", key("z")), ("a dip again", key("z")),
    ("amount", typed("#knob-amount_db", "18")), ("undo in the field", key("Control+z")),
    ("redo in the field", key("Control+Shift+z")),
    ("nonsense", typed("#knob-attack_ms", "abc")),
    ("leave", key("Escape")),
    ("by clearance", lambda page: page.locator("#duck-by").select_option("clearance")),
    ("limits", button("#show-limits")), ("close them", key("Escape")),
    ("by amount", lambda page: page.locator("#duck-by").select_option("amount")),
    ("compressor", button('[data-set-mode="compressor"]')), ("passages", button('[data-set-mode="passage"]')),
    ("presets", button("#show-presets")), ("one of them", button(".preset")), ("close", key("Escape")),
    ("to the film", lambda page: page.locator(".tl-rows").focus()),
    ("play", key("Space")), ("pause", key("Space")), ("plain", button("#hear-plain")),
    ("ducked", button("#hear-ducked")),
    ("choose a clip", talk), ("to 8 s", at(8)), ("split", key("s")), ("nudge", key("Alt+ArrowRight")),
    ("duplicate", key("Control+d")), ("delete it", key("Delete")), ("copy", key("Control+c")), ("to 30 s", at(30)),
    ("paste", key("Control+v")), ("undo it", button("#undo")), ("redo it", button("#redo")), ("mute", key("h")),
    ("marker", key("m")), ("in", key("i")), ("zoom", key("+")), ("all", key("f")), ("history", button("#show-history")),
    ("back", key("Escape")), ("tag", step("tag")), ("a clip of the list", button("tr[data-clip]")),
    ("effects", button('[data-act="tag-effects"]')), ("undo", key("Control+z")), ("level", step("level")),
    ("bring the mix there", lambda page: page.get_by_role("button", name="Bring the mix there").click(timeout=60_000)),
    ("voice", button('[data-level-tab="voice"]')), ("a switch", button(".voice-switch")),
    ("match", button('[data-level-tab="match"]')),
    ("tailor", step("tailor")), ("hand off", step("handoff")), ("keyframes", button('[data-export="data"]')),
    ("lay out", step("layout")), ("a place", button("[data-place]")), ("markers", button("#tab-markers")),
    ("a time in the clock", typed("#now", "0:07.5")), ("lane's gain", typed(".fader-said", "-3")),
    ("the film's name", typed("#film-name", "Another name")), ("next part", key("F6")),
]  # fmt: skip


def found_at(page: Page, size: tuple[int, int]) -> list[str]:
    """What lies badly, or where no focus is, on a page of that size."""
    page.set_viewport_size({"width": size[0], "height": size[1]})
    found = lies(page) + page.evaluate("() => window.sitting.covered()")
    if at_focus := page.evaluate("() => window.sitting.focus()"):
        found.append(f"the focus is on {at_focus}")
    return [f"at {size[0]} x {size[1]}: {each}" for each in found]


def test_after_each_of_the_commonest_actions_nothing_is_in_the_way(page: Page, page_of_its_own):
    assert len(ACTIONS) >= 50
    errors: list[str] = []
    page.on("console", lambda said: errors.append(said.text) if said.type == "error" else None)
    page.add_init_script(LOOK)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    page.set_viewport_size({"width": 1280, "height": 800})
    page.evaluate(RULES)
    page.evaluate(WATCH)
    wrong = {}
    for k, (name, do) in enumerate(ACTIONS):
        do(page)
        page.evaluate(BEGUN)
        page.wait_for_function(QUIET)
        sizes = ((1024, 640), (1280, 800)) if k % SMALL_EACH == 0 else ((1280, 800),)
        found = [each for size in sizes for each in found_at(page, size)]
        if k % PARTS_EACH == 0:
            found += axe(page, over=":not(*)") if k % WHOLE == 0 else of_parts(page)
        if found or errors:
            wrong[name] = [*found, *errors]
            errors.clear()
    assert not wrong, "\n".join(f"after {name}: {found}" for name, found in wrong.items())
