"""Two drafts by mouse and by keys: held, heard in turn while playing without a gap, chosen; a blind round."""

from __future__ import annotations

from itertools import pairwise

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_listening import FADE_S, RATE, WATCH, scheduled


@pytest.fixture
def drafted(page_of_its_own: Page, ducked_project) -> Page:
    """The ducked project with draft A held and less ducking as B; every scheduled window noted."""
    page = page_of_its_own
    page.add_init_script(WATCH)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator("#hear-draft")).to_be_hidden()
    page.locator("#show-drafts").click()
    page.get_by_role("button", name="Hold this as draft A").click()
    expect(page.get_by_role("button", name="Choose A")).to_be_visible()
    page.keyboard.press("Escape")
    page.evaluate("() => { window.jayLantern.pageDoc.do('set_settings', { settings: { amount_db: -3 } }) }")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.amount_db === -3")
    page.wait_for_function("() => Object.values(window.jayLantern.pageDoc.held_curves).length > 0")
    page.locator(".tl-rows").focus()
    return page


def letter(page: Page, name: str):
    return page.get_by_role("group", name="Which draft is heard").get_by_role("button", name=name)


def amount(page: Page) -> float:
    return page.evaluate("window.jayLantern.pageDoc.doc.settings.amount_db")


def test_the_letters_say_which_is_heard_and_a_key_turns(drafted: Page):
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")
    drafted.keyboard.press("a")
    expect(letter(drafted, "A")).to_have_attribute("aria-pressed", "true")
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "false")
    letter(drafted, "B").click()
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")
    assert amount(drafted) == -3  # only what is heard has changed


def test_turning_while_it_plays_leaves_no_gap_and_is_the_other_drafts_sound(drafted: Page):
    drafted.keyboard.press("Space")
    drafted.wait_for_function("() => window.scheduled.length >= 3")
    with drafted.expect_request(lambda asked: "held=1" in asked.url):
        drafted.keyboard.press("a")
    drafted.wait_for_function("() => window.scheduled.some((each) => each.stopped !== null)")
    windows = scheduled(drafted)
    drafted.keyboard.press("Space")
    old = [each for each in windows if each["stopped"] is not None]
    over = min(each["stopped"] for each in old) - FADE_S
    new = [each for each in windows if each["stopped"] is None and each["when"] >= over - 1e-6]
    assert abs(new[0]["when"] - over) < 1e-6  # the other begins where this one fades out
    before = [each for each in windows if each["when"] < over]
    assert max(each["when"] + each["length"] / RATE for each in before) >= over  # which sounds until then
    for one, two in pairwise(before):
        assert two["when"] <= one["when"] + one["length"] / RATE + 1e-6


def test_a_change_makes_what_is_set_now_heard_again(drafted: Page):
    drafted.keyboard.press("a")
    expect(letter(drafted, "A")).to_have_attribute("aria-pressed", "true")
    drafted.get_by_label("Duck amount slider").press("ArrowLeft")
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")
    assert drafted.evaluate("window.jayLantern.player.held") is False


def test_equally_loud_takes_the_louder_one_down(drafted: Page):
    drafted.locator("#show-drafts").click()
    drafted.get_by_label("Equally loud when heard in turn").check()
    drafted.keyboard.press("Escape")
    levels = []
    for _ in range(2):
        levels.append(drafted.evaluate("window.jayLantern.player.amplitude"))
        drafted.keyboard.press("a")
    url = drafted.evaluate("window.jayLantern.pageDoc.url")
    louder_db = drafted.request.get(f"{url}/drafts/held").json()["louder_db"]
    assert louder_db < -0.1
    assert levels == pytest.approx([10 ** (louder_db / 20), 1.0])  # B, which is set now, then A


def test_choosing_is_one_step_back(drafted: Page):
    drafted.locator("#show-drafts").click()
    drafted.get_by_role("button", name="Choose A").click()
    drafted.wait_for_function("() => window.jayLantern.pageDoc.doc.held === null")
    assert amount(drafted) == -14
    expect(drafted.locator("#hear-draft")).to_be_hidden()
    expect(drafted.get_by_role("button", name="Hold this as draft A")).to_be_visible()
    drafted.keyboard.press("Escape")
    drafted.keyboard.press("Control+z")
    drafted.wait_for_function("() => window.jayLantern.pageDoc.doc.held === 'A'")
    assert amount(drafted) == -3
    drafted.reload()
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")


def test_going_on_as_the_held_one_and_a_double_click(drafted: Page):
    drafted.locator("#show-drafts").click()
    drafted.get_by_role("button", name="Go on as A").dblclick()
    drafted.wait_for_function("() => window.jayLantern.pageDoc.doc.held === 'B'")
    assert amount(drafted) == -14
    expect(drafted.get_by_role("button", name="Go on as B")).to_be_visible()


def test_a_blind_round_tells_only_at_the_end(drafted: Page):
    drafted.locator("#show-drafts").click()
    drafted.get_by_role("button", name="Blind round").click()
    card = drafted.get_by_role("dialog", name="Two drafts")
    tell = card.get_by_role("button", name="Which was it?")
    for k in "1234":
        expect(tell).to_be_disabled()
        card.get_by_role("button", name=k, exact=True).click()
        expect(card.get_by_role("button", name=k, exact=True)).to_have_attribute("aria-pressed", "true")
        drafted.wait_for_function("() => window.jayLantern.player.playing")
        for name in "AB":
            expect(letter(drafted, name)).to_have_attribute("aria-pressed", "false")
            expect(letter(drafted, name)).to_be_disabled()
        assert drafted.evaluate("window.jayLantern.player.drafts_matched") is True
    expect(card.locator("[data-told]").first).to_have_text("")
    card.get_by_label("liked").first.check()
    tell.click()
    expect(card.locator("#blind-said")).to_contain_text("Rather draft")
    told = card.locator("[data-told]").all_inner_texts()
    assert sorted(told) == ["A", "A", "B", "B"]
    assert f"Rather draft {told[0]}" in card.locator("#blind-said").inner_text()
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")
    assert drafted.evaluate("window.jayLantern.player.playing") is False


def test_leaving_a_blind_round_in_the_middle_ends_it(drafted: Page):
    drafted.locator("#show-drafts").click()
    drafted.get_by_role("button", name="Blind round").click()
    drafted.get_by_role("dialog", name="Two drafts").get_by_role("button", name="2", exact=True).click()
    drafted.wait_for_function("() => window.jayLantern.player.playing")
    drafted.keyboard.press("Escape")
    expect(letter(drafted, "B")).to_have_attribute("aria-pressed", "true")
    expect(letter(drafted, "A")).to_be_enabled()
    drafted.wait_for_function("() => !window.jayLantern.player.playing && !window.jayLantern.player.held")
