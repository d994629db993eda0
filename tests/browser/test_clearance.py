"""Ducking by clearance, by mouse and by keys: the whole film, one passage, a pecking pair, the limits, a preset."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import drag, middle


@pytest.fixture
def duck(page: Page, ducked_project) -> Page:
    expect(page.locator("tr[data-passage]")).to_have_count(2)
    return page


def dips(page: Page) -> list[float]:
    """How deep the dip under each passage is, as the list says."""
    cells = page.locator("tr[data-passage] td:nth-child(5)").all_inner_texts()
    return [float(text.split("⚲")[0].replace("−", "-")) for text in cells]


def until_clear(page: Page, lu: list[float | None]) -> None:
    """Wait until the list says that passages stand so clear; None: whatever."""
    for place, each in enumerate(lu):
        if each is not None:
            cell = page.locator("tr[data-passage]").nth(place).locator("td:nth-child(4)")
            expect(cell).to_have_text(f"{each:.1f}".replace("-", "−"))


def by(page: Page, choice: str) -> None:
    page.get_by_label("Duck by").select_option(choice)


def test_speech_is_let_stand_as_clear_as_wished(duck: Page, score):
    expect(duck.get_by_label("Duck amount", exact=True)).to_be_visible()
    by(duck, "clearance")
    expect(duck.get_by_label("Duck amount", exact=True)).to_be_hidden()
    field = duck.get_by_label("Clearance", exact=True)
    field.fill("16")
    field.press("Enter")
    until_clear(duck, [16.0, 16.0])
    curve = score()["curves"][score()["leading"]]
    assert min(curve["gain_db"]) == pytest.approx(min(dips(duck)), abs=0.06)
    slider = duck.get_by_label("Clearance slider")
    slider.focus()
    duck.keyboard.press("ArrowRight")
    until_clear(duck, [16.5, 16.5])
    by(duck, "amount")
    until_clear(duck, [21.6, 19.5])
    for _ in range(2):
        duck.keyboard.press("Control+z")
    until_clear(duck, [16.0, 16.0])


def test_a_corner_dragged_deeper_wishes_for_more(duck: Page, score):
    by(duck, "clearance")
    until_clear(duck, [10.0, 10.0])
    corner = duck.get_by_label("Corner of lead-in and duck amount")
    x, y = middle(corner.locator(".knot"))
    drag(duck, (x, y), (x, y + 20))
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.wish_lu > 10")
    corner.focus()
    duck.keyboard.press("ArrowUp")
    wish = score()["settings"]["wish_lu"]
    assert wish > 10
    assert score()["settings"]["amount_db"] == -14


def test_one_passage_wishes_for_more_then_goes_by_an_amount_and_follows_again(duck: Page, score):
    by(duck, "clearance")
    until_clear(duck, [10.0, 10.0])
    duck.locator("tr[data-passage]").first.click()
    duck.get_by_label("Set for").select_option("passage")
    field = duck.get_by_label("Clearance", exact=True)
    field.fill("18")
    field.press("Enter")
    until_clear(duck, [18.0, None])
    assert score()["passages"][0]["own"] == {"wish_lu": 18.0}
    deep = dips(duck)[0]
    by(duck, "amount")
    expect(duck.get_by_label("Duck amount", exact=True)).to_be_visible()
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.passages[0].own.amount_db !== undefined")
    assert score()["passages"][0]["own"] == {"amount_db": pytest.approx(deep, abs=0.3)}
    duck.locator(".tl-rows").focus()
    duck.keyboard.press("u")
    until_clear(duck, [10.0, 10.0])


def test_limits_are_set_on_a_card_and_what_keeps_passages_from_it_is_said(duck: Page, score):
    by(duck, "clearance")
    duck.get_by_role("button", name="Limits").click()
    card = duck.get_by_role("dialog", name="Limits of clearance")
    expect(card).to_contain_text("2 of 2 passages stand as clear as was wished for.")
    field = card.get_by_label("Deepest dip", exact=True)
    field.fill("−1")
    field.press("Enter")
    expect(card).to_contain_text("2 would need a dip deeper than the deepest.")
    duck.keyboard.press("Escape")
    expect(card).to_be_hidden()
    expect(duck.locator("tr[data-passage] .pill", has_text="deepest")).to_have_count(2)
    expect(duck.locator(".checkup, #checkup").first).to_contain_text(
        re.compile(r"stand .* LU clear at the least, not 10: the deepest dip")
    )
    assert dips(duck) == [-1, -1]


def test_a_pecking_pair_is_given_a_clearance_where_the_perches_are(duck: Page, score):
    by(duck, "clearance")
    duck.keyboard.press("2")
    field = duck.get_by_label("music under dialogue")
    expect(field).to_have_value("10")
    field.fill("−9 dB")
    field.press("Enter")
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.pairs.some((pair) => pair.own.amount_db === -9)")
    expect(duck.get_by_label("music under dialogue")).to_have_value("−9")
    field = duck.get_by_label("music under dialogue")
    field.fill("14 lu")
    field.press("Enter")
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.wish_lu === 14")
    assert all(pair["own"] == {} for pair in score()["pairs"])
    field = duck.get_by_label("music under dialogue")
    field.press("ArrowUp")
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.wish_lu === 14.5")


def test_what_is_half_typed_into_a_panel_stays_while_the_panel_is_fetched_anew(duck: Page, score):
    duck.keyboard.press("2")
    field = duck.get_by_label("music under dialogue")
    field.fill("−9 dB")
    with duck.expect_response(re.compile("/part/")):
        duck.evaluate("() => document.body.dispatchEvent(new CustomEvent('jay:changed'))")
    duck.wait_for_function("() => !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')")
    expect(field).to_have_value("−9 dB")
    expect(field).to_be_focused()
    field.press("Enter")
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.amount_db === -9")
    expect(field).to_have_value("−9")


def test_a_preset_ducks_by_clearance(duck: Page, score):
    duck.get_by_role("button", name="Presets").click()
    duck.get_by_role("button", name=re.compile("^Just enough")).click()
    duck.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.duck_by === 'clearance'")
    duck.keyboard.press("Escape")
    expect(duck.get_by_label("Duck by")).to_have_value("clearance")
    until_clear(duck, [10.0, 10.0])


def test_the_least_clear_come_first_where_that_is_wanted_and_stay_so(duck: Page, score):
    order = duck.locator("tr[data-passage] td:first-child")
    expect(order).to_have_text(["1", "2"])
    duck.get_by_role("button", name="clear by").click()
    expect(order).to_have_text(["2", "1"])  # 19.5 and 21.6 LU
    field = duck.get_by_label("Duck amount", exact=True)
    field.fill("−6")
    field.press("Enter")
    expect(duck.locator("tr[data-passage]").first.locator("td:nth-child(5)")).to_have_text("−6")
    expect(order).to_have_text(["2", "1"])
    duck.get_by_role("button", name="clear by").focus()
    duck.keyboard.press("Enter")
    expect(order).to_have_text(["1", "2"])
    expect(duck.locator("#passages .card-head")).to_contain_text("0 under 10 LU")


# — by ear —


def figures(page: Page) -> list[float]:
    """How clear speech stands in each passage, as the list says."""
    return [float(text) for text in page.locator("tr[data-passage] td:nth-child(4)").all_inner_texts()]


def by_ear(page: Page) -> None:
    """Measure clearance by how well speech is made out."""
    page.locator("#clear-in").click()
    expect(page.locator("#clear-in")).to_have_text("SII")


def test_the_list_says_how_well_speech_is_made_out_and_a_press_goes_back(duck: Page, score):
    by_ear(duck)
    expect(duck.locator("#passages .card-head")).to_contain_text("under SII 0.75")
    assert all(0 < each <= 1 for each in figures(duck))
    assert score()["settings"]["clear_in"] == "intelligibility"
    duck.locator("#clear-in").focus()
    duck.keyboard.press("Enter")
    expect(duck.locator("#clear-in")).to_have_text("LU")
    expect(duck.locator("#passages .card-head")).to_contain_text("under 10 LU")
    duck.keyboard.press("Control+z")
    expect(duck.locator("#clear-in")).to_have_text("SII")


def test_dips_go_as_deep_as_it_takes_to_be_made_out(duck: Page, score):
    by_ear(duck)
    by(duck, "clearance")
    expect(duck.get_by_label("Clearance", exact=True)).to_be_hidden()
    field = duck.get_by_label("Intelligibility", exact=True)
    field.fill("0.97")
    field.press("Enter")
    expect(duck.locator("#passages .card-head")).to_contain_text("under SII 0.97")
    expect(duck.locator("tr[data-passage] td:nth-child(4)")).to_have_text(["0.97", "0.97"])
    before = dips(duck)
    group = duck.locator(".dip [role=slider]", has_text=re.compile("down|floor", re.I)).first
    group = group if group.count() else duck.locator("#dip [tabindex='0']").nth(1)
    group.focus()
    duck.keyboard.press("ArrowDown")
    expect(field).to_have_value("0.98")
    assert score()["settings"]["wish_sii"] == 0.98
    expect(duck.locator("tr[data-passage] td:nth-child(4)")).to_have_text(["0.98", "0.98"])
    assert max(dips(duck)) < min(before) + 3
    duck.locator("#show-limits").click()
    expect(duck.get_by_role("dialog")).to_contain_text("words to be made out with SII 0.98, between these")


def test_the_least_made_out_come_first_and_a_preset_goes_by_ear(duck: Page, score):
    duck.locator("#show-presets").click()
    duck.get_by_role("dialog").get_by_role("button", name="By ear", exact=False).first.click()
    expect(duck.locator("#clear-in")).to_have_text("SII")
    assert score()["settings"]["duck_by"] == "clearance"
    duck.keyboard.press("Escape")
    duck.locator("#least-clear").click()
    expect(duck.locator("#least-clear")).to_have_attribute("aria-pressed", "true")
    assert figures(duck) == sorted(figures(duck))
