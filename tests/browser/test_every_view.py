"""Every view at five sizes lies well on the screen; axe finds nothing in any of them, and the focus is never lost."""

from __future__ import annotations

from importlib.resources import files as package_files
from pathlib import Path

import pytest

from tests.browser import views

CHECK = (Path(__file__).parent / "layout.js").read_text(encoding="utf-8")
LARGE = [(1920, 1080), (1920, 1080), (3840, 2160)]  # with room in plenty each view is seen at one
SIZES = [[(640, 400)], [(1024, 640)], LARGE]
RULES = (package_files("axe_playwright_python") / "axe.min.js").read_text(encoding="utf-8")
AXE = (
    "() => axe.run({resultTypes: ['violations'],"
    " rules: {'label-content-name-mismatch': {enabled: true}, 'target-size': {enabled: true}}})"
)
DRAWN = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 30))))"


def lies(page) -> list:
    """What overlaps, is cut off, or scrolls sideways."""
    page.evaluate(DRAWN)
    return page.evaluate(CHECK)


def axe(page) -> list:
    """What breaks a rule of WCAG 2.2 A and AA or a best practice of Deque's axe-core, two that are off by default among
    them."""
    page.evaluate("() => Promise.all(document.getAnimations().map((each) => each.finished))")
    page.evaluate(RULES)
    return [(each["id"], [node["html"][:160] for node in each["nodes"]]) for each in page.evaluate(AXE)["violations"]]


def lost(page) -> list:
    """Is the focus on nothing when Tab is pressed?"""
    page.keyboard.press("Tab")
    found = ["Tab leads nowhere"] if page.evaluate("document.activeElement === document.body") else []
    page.keyboard.press("Shift+Tab")
    return found


def walk(page, sizes, *looks) -> dict:
    """What each look finds in each view, those beside the project last."""
    wrong, project = {}, page.evaluate("document.body.dataset.project")

    def look(name: str) -> None:
        found = [each for looked in looks for each in looked(page)]
        if found:
            wrong[name] = found

    for i, (name, show) in enumerate(views.VIEWS.items()):
        width, height = sizes[i % len(sizes)]
        page.set_viewport_size({"width": width, "height": height})
        show(page)
        look(name)
        views.close(page)
    for name, path in views.BESIDE.items():
        page.goto(path.format(project=project))
        look(name)
    return wrong


@pytest.mark.parametrize("sizes", SIZES, ids=["640x400", "1024x640", "large"])
def test_nothing_overlaps_is_cut_off_or_scrolls_sideways(page, ducked_project, sizes):
    assert not walk(page, sizes, lies)


def test_every_view_lies_well_breaks_no_rule_and_keeps_the_focus(page, ducked_project):
    assert not walk(page, [(1280, 720)], lies, axe, lost)
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
