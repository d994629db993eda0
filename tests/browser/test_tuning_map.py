"""The tuning map by mouse and by keys: drawn coarse and refined, figures under the pointer, set, walked, undone."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect


@pytest.fixture
def tuned(page: Page, ducked_project) -> Page:
    expect(page.locator("tr[data-passage]")).to_have_count(2)
    page.locator("#show-map").click()
    drawn(page)
    return page


def drawn(page: Page) -> None:
    """Wait until all of it is there."""
    expect(page.get_by_role("dialog", name="Tuning map")).to_be_visible()
    expect(page.locator("#map-said")).to_contain_text("least clear")
    expect(page.locator("#map-state")).to_have_text("", timeout=120_000)


def at(page: Page, x: float, y: float) -> tuple[float, float]:
    """A point of the field, in shares of it from the lower left."""
    box = page.locator("#map-field").bounding_box()
    left, right, top, bottom = box["x"] + 46, box["x"] + box["width"] - 10, box["y"] + 8, box["y"] + box["height"] - 30
    return left + x * (right - left), bottom - y * (bottom - top)


def settings(page: Page, *names: str) -> list[float]:
    return page.evaluate("(names) => names.map((name) => window.jayLantern.pageDoc.doc.settings[name])", list(names))


def test_figures_stand_under_the_pointer_and_a_press_sets_both(tuned: Page):
    before = settings(tuned, "sensitivity", "hold_ms")
    tuned.mouse.move(*at(tuned, 0.99, 0.01))
    expect(tuned.locator("#map-said")).to_contain_text("Sensitivity 100, Hold 0: full")
    said = tuned.locator("#map-said").inner_text()
    tuned.mouse.click(*at(tuned, 0.99, 0.01))
    tuned.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.hold_ms === 0")
    assert settings(tuned, "sensitivity", "hold_ms") == [100, 0]
    expect(tuned.locator("#map-said")).to_have_text(said)  # the map is as it was: it is over both
    tuned.keyboard.press("Escape")
    tuned.keyboard.press("Control+z")
    tuned.wait_for_function("([hold]) => window.jayLantern.pageDoc.doc.settings.hold_ms === hold", arg=[before[1]])
    assert settings(tuned, "sensitivity", "hold_ms") == before


def test_arrow_keys_walk_and_one_undo_takes_the_walk_back(tuned: Page):
    before = settings(tuned, "sensitivity", "hold_ms")
    tuned.locator("#map-field").focus()
    for key in ("ArrowUp", "ArrowUp", "ArrowRight"):
        tuned.keyboard.press(key)
    tuned.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.sensitivity > 50")
    expect(tuned.locator("#map-said")).to_contain_text("Sensitivity 57, Hold 780")
    now = settings(tuned, "sensitivity", "hold_ms")
    assert now[1] > before[1]
    tuned.keyboard.press("Escape")
    tuned.keyboard.press("Control+z")
    tuned.wait_for_function("([hold]) => window.jayLantern.pageDoc.doc.settings.hold_ms === hold", arg=[before[1]])
    assert settings(tuned, "sensitivity", "hold_ms") == before


def test_other_settings_and_other_figures_are_chosen_and_the_map_is_drawn_anew(tuned: Page):
    tuned.locator("#map-look").select_option("clear")
    tuned.locator("#map-x").select_option("hold_ms")  # the other one takes what this was
    expect(tuned.locator("#map-y")).to_have_value("sensitivity")
    drawn(tuned)
    tuned.locator("#map-x").select_option("amount_db")
    drawn(tuned)
    tuned.mouse.move(*at(tuned, 0.01, 0.5))
    expect(tuned.locator("#map-said")).to_contain_text("Duck amount −30")
    clear = [tuned.locator("#map-said").inner_text()]
    tuned.mouse.move(*at(tuned, 0.99, 0.5))
    expect(tuned.locator("#map-said")).to_contain_text("Duck amount 0")
    clear.append(tuned.locator("#map-said").inner_text())
    deep, none = (float(text.split("least clear ")[1].split(" LU")[0].replace("−", "-")) for text in clear)
    assert deep > none + 5


def test_another_setting_changed_meanwhile_draws_the_map_anew(tuned: Page):
    tuned.evaluate("() => window.jayLantern.pageDoc.do('set_settings', { settings: { amount_db: -2 } })")
    tuned.mouse.move(*at(tuned, 0.5, 0.3))
    drawn(tuned)
    text = tuned.locator("#map-said").inner_text()
    assert float(text.split("least clear ")[1].split(" LU")[0].replace("−", "-")) < 12


def test_an_even_bed_has_nothing_to_tune(page: Page, ducked_project):
    page.get_by_role("button", name="Even bed").click()
    page.locator("#show-map").click()
    expect(page.get_by_role("dialog", name="Tuning map")).to_contain_text("An even bed has no dips to tune")
