"""Every view at five sizes lies well on the screen; axe finds nothing in any of them, and the focus is never lost."""

from __future__ import annotations

from importlib.resources import files as package_files
from pathlib import Path

import pytest

from tests.browser import views

CHECK = (Path(__file__).parent / "layout.js").read_text(encoding="utf-8")
SMALL = [(640, 400), (1024, 640)]
LARGE = [*[(1920, 1080)] * 5, (3840, 2160)]  # with room in plenty each view is seen at one
RULES = (package_files("axe_playwright_python") / "axe.min.js").read_text(encoding="utf-8")
OVER = ".menu, dialog[open], .drop-card"  # what lies over a page that was looked at before
AXE = (
    "(over) =>"
    " axe.run([...document.querySelectorAll(over)].find((each) => each.checkVisibility()) ?? document,"
    " {resultTypes: ['violations'], rules: {'label-content-name-mismatch': {enabled: true},"
    " 'target-size': {enabled: true}}})"
)
DRAWN = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 30))))"


def lies(page) -> list:
    """What overlaps, is cut off, or scrolls sideways."""
    page.evaluate(DRAWN)
    return page.evaluate(CHECK)


def axe(page, *, over: str = OVER) -> list:
    """What breaks a rule of WCAG 2.2 A and AA or a best practice of Deque's axe-core, two that are off by default among
    them; within what lies over the page where anything does."""
    page.evaluate("() => Promise.all(document.getAnimations().map((each) => each.finished))")
    if not page.evaluate("() => 'axe' in window"):
        page.evaluate(RULES)
    return broken(page.evaluate(AXE, over))


def broken(answer: dict) -> list:
    """The rules that axe found broken, and where."""
    return [(each["id"], [node["html"][:160] for node in each["nodes"]]) for each in answer["violations"]]


def lost(page) -> list:
    """Is the focus on nothing when Tab is pressed?"""
    page.keyboard.press("Tab")
    found = ["Tab leads nowhere"] if page.evaluate("document.activeElement === document.body") else []
    page.keyboard.press("Shift+Tab")
    return found


def at_size(page, size, show=None) -> list:
    """What lies badly at another size; what lies over the page is opened anew there by `show`."""
    if show is not None:
        views.close(page)
    page.set_viewport_size({"width": size[0], "height": size[1]})
    if show is not None:
        show(page)
    return [f"at {size[0]} x {size[1]}: {each}" for each in lies(page)]


def looked_at(page, sizes, show=None) -> list:
    page.set_viewport_size({"width": 1280, "height": 720})
    if show is not None:
        show(page)
    found = [*lies(page), *axe(page), *lost(page)]
    over = page.locator(OVER).filter(visible=True).count() > 0
    return found + [each for size in sizes for each in at_size(page, size, show if over else None)]


@pytest.mark.parametrize("half", [0, 1])
def test_every_view_lies_well_at_each_size_breaks_no_rule_and_keeps_the_focus(page, ducked_project, half):
    """In one visit: nothing overlaps, is cut off or scrolls sideways, axe finds nothing, Tab leads somewhere."""
    wrong, project = {}, page.evaluate("document.body.dataset.project")
    for i, (name, show) in enumerate(views.VIEWS.items()):
        if (i < len(views.VIEWS) // 2) != half:
            wrong[name] = looked_at(page, [*SMALL, LARGE[i % len(LARGE)]], show)
            views.close(page)
    for name, path in list(views.BESIDE.items())[half::2]:
        page.goto(path.format(project=project))
        wrong[name] = looked_at(page, [*SMALL, LARGE[0]])
    assert not {name: found for name, found in wrong.items() if found}
    assert len(views.VIEWS) + len(views.BESIDE) >= 28


FAULTS = {
    "is cut off": ".knobs { overflow: hidden; max-height: 20px; }",
    "overlaps": "#show-presets { margin-left: -60px; }",
    "cut off across": ".transport { min-width: 1500px; }",
    "is only": "#show-points { min-height: 12px; height: 12px; padding: 0; }",
    "scrolls sideways": ".passages-scroll { overflow-x: auto; } .passages { width: 900px; }",
    "is covered": ".word-line { position: fixed !important; inset: 0; max-height: none !important; z-index: 60; }",
    "spill over": ".shape-card .knob label { width: 10px; }",
}  # fmt: skip


def test_planted_faults_are_found(page, ducked_project):
    views.mode("passage")(page)
    for words, rules in {"": "", **FAULTS}.items():
        page.evaluate(
            "(rules) => { const sheet = new CSSStyleSheet(); sheet.replaceSync(rules);"
            " document.adoptedStyleSheets = [sheet]; }",
            rules,
        )
        page.evaluate(DRAWN)
        found = page.evaluate(CHECK)
        assert any(words in each for each in found) if words else found == [], words
