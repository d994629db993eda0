"""Every view at five sizes lies well on the screen, and axe finds nothing in any of them."""

from __future__ import annotations

from importlib.resources import files as package_files
from pathlib import Path

import pytest

from tests.browser import views

CHECK = (Path(__file__).parent / "layout.js").read_text(encoding="utf-8")
SIZES = [  # where there is room in plenty each view is seen at one of two
    [(640, 400)], [(1024, 640)], [(1280, 720)], [(1920, 1080), (3840, 2160)],
]  # fmt: skip
AXE = (
    "() => axe.run({resultTypes: ['violations'],"
    " rules: {'label-content-name-mismatch': {enabled: true}, 'target-size': {enabled: true}}})"
)
DRAWN = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 30))))"


def number_of(page) -> str:
    return page.evaluate("document.body.dataset.project")


@pytest.mark.parametrize("sizes", SIZES, ids=lambda sizes: " and ".join(f"{width}x{height}" for width, height in sizes))
def test_nothing_overlaps_is_cut_off_or_scrolls_sideways(page, ducked_project, sizes):
    wrong = {}
    for i, (name, show) in enumerate(views.VIEWS.items()):
        width, height = sizes[i % len(sizes)]
        page.set_viewport_size({"width": width, "height": height})
        show(page)
        page.evaluate(DRAWN)
        if found := page.evaluate(CHECK):
            wrong[name] = found
        views.close(page)
    project = number_of(page)
    for name, path in views.BESIDE.items():
        page.goto(path.format(project=project))
        page.evaluate(DRAWN)
        if found := page.evaluate(CHECK):
            wrong[name] = found
    assert not wrong


def test_axe_finds_nothing_in_any_view(page, ducked_project):
    """Rules of WCAG 2.2 A and AA and the best practices of Deque's axe-core, with the two that are off by default."""
    axe = (package_files("axe_playwright_python") / "axe.min.js").read_text(encoding="utf-8")
    wrong = {}

    def look(name: str) -> None:
        page.evaluate("() => Promise.all(document.getAnimations().map((each) => each.finished))")
        page.evaluate(axe)
        found = page.evaluate(AXE)["violations"]
        if found:
            wrong[name] = [(each["id"], [node["html"][:160] for node in each["nodes"]]) for each in found]

    for name, show in views.VIEWS.items():
        show(page)
        look(name)
        views.close(page)
    project = number_of(page)
    for name, path in views.BESIDE.items():
        page.goto(path.format(project=project))
        look(name)
    assert not wrong
    assert len(views.VIEWS) + len(views.BESIDE) >= 28


FAULTS = {
    "is cut off": ".knobs { overflow: hidden; max-height: 20px; }",
    "overlaps": "#show-presets { margin-left: -60px; }",
    "too wide": ".transport { min-width: 1500px; }",
    "is only": "#show-points { min-height: 12px; height: 12px; padding: 0; }",
    "scrolls sideways": ".passages-scroll { overflow-x: auto; } .passages { width: 900px; }",
    "is covered": "#said { inset: 0; width: 100vw; max-width: none; translate: 0; pointer-events: auto; }",
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
