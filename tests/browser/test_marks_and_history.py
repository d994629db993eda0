"""Lay out, by hand: markers, going about, pauses, the history, keys, menus, two windows."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import (
    RATE,
    after,
    click,
    clip,
    drag,
    ids,
    lane_of,
    middle,
    n_per_px,
    put_playhead,
    px_of,
    spans,
    split_talk,
)

pytestmark = pytest.mark.usefixtures("ducked_project")


# — markers, going from edit to edit —


def test_markers_are_set_named_dragged_gone_to_and_removed(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    page.get_by_role("tab", name="Markers").click()
    for at_s in (4, 9):
        put_playhead(page, at_s * RATE)
        after(page, score, lambda: page.keyboard.press("m"))
    field = page.get_by_label(re.compile("Name of marker|Name of Marker")).first
    field.click()
    field.fill("Storm")
    after(page, score, lambda: field.press("Enter"))
    assert [marker["name"] for marker in score()["markers"]] == ["Storm", "Marker 2"]
    expect(page.get_by_label("Name of marker Storm")).to_be_focused()
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    page.keyboard.press("Control+ArrowRight")
    expect(page.locator("#now")).to_have_value("00:04.000")
    page.keyboard.press("Control+ArrowRight")
    expect(page.locator("#now")).to_have_value("00:09.000")
    ruler = page.locator(".tl-ruler canvas").bounding_box()
    flag = (px_of(page, 4 * RATE) + 5, ruler["y"] + 7)
    put_playhead(page, 30 * RATE)
    doc = after(page, score, lambda: drag(page, flag, (flag[0] + 50, flag[1]), keys=("Alt",)))
    assert doc["markers"][0]["time_n"] == pytest.approx(4 * RATE + 50 * n_per_px(page), abs=2 * n_per_px(page))


def test_in_and_out_points_are_dragged_on_the_ruler(page: Page, score):
    for key, at_s in (("i", 8), ("o", 20)):
        put_playhead(page, at_s * RATE)
        after(page, score, lambda key=key: page.keyboard.press(key))
    put_playhead(page, 30 * RATE)
    y = page.locator(".tl-ruler canvas").bounding_box()["y"] + 16
    x = px_of(page, 20 * RATE)
    doc = after(page, score, lambda: drag(page, (x, y), (x + 40, y)))
    assert doc["out_n"] == pytest.approx(20 * RATE + 40 * n_per_px(page), abs=2 * n_per_px(page))
    assert doc["in_n"] == 8 * RATE
    page.keyboard.press("Shift+I")
    expect(page.locator("#now")).to_have_value("00:08.000")


def test_page_keys_go_from_edit_to_edit(page: Page, score):
    split_talk(page, score, at_s=10)
    page.keyboard.press("Home")
    page.keyboard.press("PageDown")
    expect(page.locator("#now")).to_have_value("00:10.000")
    page.keyboard.press("PageDown")
    expect(page.locator("#now")).to_have_value("00:34.000")
    page.keyboard.press("PageUp")
    expect(page.locator("#now")).to_have_value("00:10.000")


# — pauses —


def test_pauses_are_shown_before_they_are_cut_out_in_one_step(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    click(page, middle(clip(page, "Talk")))
    page.keyboard.press("p")
    expect(page.locator("#pauses-found")).to_contain_text("pause")
    longest = page.get_by_label("Pauses longer than")
    longest.fill("3")
    longest.press("Enter")
    expect(page.locator("#pauses-found")).to_contain_text(re.compile(r"^(One|[2-9]) pause"))
    before = score()
    assert len(lane_of(before, "Talk")["clips"]) == 1  # looked at only
    doc = after(page, score, lambda: page.get_by_role("button", name="Cut them out").click())
    assert len(lane_of(doc, "Talk")["clips"]) > 1
    assert doc["length_n"] < before["length_n"] or lane_of(doc, "Talk")["clips"][-1]["start_n"] < 20 * RATE
    after(page, score, lambda: page.keyboard.press("Control+z"))
    assert len(lane_of(score(), "Talk")["clips"]) == 1


# — history, keys, menus, windows —


def test_the_history_is_seen_and_jumped_in(page: Page, score):
    split_talk(page, score, at_s=10)
    clip(page, "Bed").focus()
    after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    page.keyboard.press("y")
    history = page.locator("#history")
    expect(history.get_by_role("button").first).to_contain_text("Move Bed.flac")
    doc = after(page, score, lambda: history.get_by_role("button", name="The beginning").click())
    assert doc["lanes"] == []
    expect(history.locator(".undone").first).to_contain_text("Move Bed.flac")
    doc = after(page, score, lambda: history.get_by_role("button", name="Split Talk.wav").click())
    assert len(lane_of(doc, "Talk")["clips"]) == 2
    assert spans(doc, "Bed")[0][0] == 0


def test_the_list_of_keys_is_made_from_the_table_that_binds_them(page: Page):
    page.keyboard.press("?")
    shown = page.locator("#keys kbd").all_inner_texts()
    assert len(shown) > 60
    assert len(shown) == len(set(shown))
    for key in ("Space", "S", "Alt+Delete", "Ctrl+V", "Alt+←", "T", "R"):
        assert key in shown


def test_a_mac_writes_and_takes_its_own_keys(page_of_its_own: Page, score):
    page = page_of_its_own
    page.add_init_script(
        """for (const [name, value] of [["platform", "MacIntel"], ["userAgentData", undefined]])
             Object.defineProperty(navigator, name, { get: () => value });"""
    )
    page.reload()
    expect(clip(page, "Talk")).to_be_visible()
    expect(page.locator("#snap")).to_have_attribute("title", re.compile("⌥ while dragging"))
    page.keyboard.press("?")
    shown = page.locator("#keys kbd").all_inner_texts()
    assert {"⌘Z", "⇧⌘Z", "⌥⌦", "⌘V", "⌥←", "Space", "⌥,"} <= set(shown)
    assert not [key for key in shown if "Ctrl" in key or "Alt" in key or "+" in key[1:]]
    page.get_by_role("searchbox").fill("ctrl click")  # by the word of other systems, too
    expect(page.locator(".keys-list li:visible")).to_have_text([re.compile("⌘ click")])
    page.keyboard.press("Escape")
    clip(page, "Bed").click(position={"x": 40, "y": 30})
    clip(page, "Talk").click(position={"x": 40, "y": 30}, modifiers=["Control"])  # asks for the menu there
    expect(page.locator(".clip.chosen")).to_have_count(1)
    clip(page, "Talk").click(position={"x": 40, "y": 30}, modifiers=["Meta"])
    expect(page.locator(".clip.chosen")).to_have_count(2)
    before = score()["lanes"]
    after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    page.keyboard.press("Control+z")  # none of a Mac's
    after(page, score, lambda: page.keyboard.press("Meta+z"))
    assert score()["lanes"] == before


def test_a_right_click_offers_what_can_be_done(page: Page, score):
    page.mouse.click(*middle(clip(page, "Talk")), button="right")
    menu = page.get_by_role("menu")
    expect(menu).to_contain_text("Split at the playhead")
    expect(menu).to_contain_text("Duplicate")
    page.keyboard.press("Escape")
    expect(menu).to_have_count(0)
    page.mouse.click(*middle(clip(page, "Talk")), button="right")
    doc = after(page, score, lambda: page.get_by_role("menuitem", name="Duplicate").click())
    assert len(lane_of(doc, "Talk")["clips"]) == 2


def test_a_second_window_follows_and_overwrites_nothing(page: Page, score):
    second = page.context.new_page()
    try:
        second.goto(page.url)
        expect(second.locator("body.ready")).to_be_visible()
        doc = split_talk(page, score, at_s=10)
        expect(second.locator('.lane[data-lane="Talk"] .clip')).to_have_count(2)
        gone = ids(doc, "Talk")[1]
        answer = second.evaluate(
            """async ([id, seen]) => {
                const token = document.querySelector('meta[name=csrf]').content;
                const headers = {'Content-Type': 'application/json', 'X-CSRFToken': token};
                const body = JSON.stringify({clip_ids: [id], by_n: 48000, seen});
                const url = `/projects/${document.body.dataset.project}/do/move_clips`;
                return (await fetch(url, {method: 'POST', headers, body})).status;
            }""",
            [gone, doc["revision"] - 1],
        )
        assert answer == 409
        assert spans(score(), "Talk")[1][0] == 10 * RATE
    finally:
        second.close()


PRESSED = {"Ctrl": "Control", "←": "ArrowLeft", "→": "ArrowRight", "↑": "ArrowUp", "↓": "ArrowDown", "−": "-"}


def press_all(page: Page) -> int:
    """Press every key of the list once, putting away what opens."""
    page.keyboard.press("?")
    shown = page.locator("#keys kbd").all_inner_texts()
    page.keyboard.press("Escape")
    for key in shown:
        if key in ("R", "F5"):
            continue  # recording waits for a microphone; it has tests of its own
        page.keyboard.press("+".join(PRESSED.get(part, part) for part in key.split("+")) if key != "+" else "+")
        if page.locator("#keys").is_visible() or page.locator(".menu, dialog[open], #history:popover-open").count():
            page.keyboard.press("Escape")
        if page.evaluate("document.activeElement.matches('input, select')"):
            page.keyboard.press("Escape")  # a panel that took the focus: back to the film
    return len(shown)


def test_every_key_is_safe_on_an_empty_film(page: Page, new_project, score):
    new_project("Empty")
    assert press_all(page) > 70
    expect(page.locator("#keys")).not_to_be_visible()
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    assert [lane["clips"] for lane in score()["lanes"]] in ([], [[]])  # a lane may have been added, no more


def test_every_key_pressed_in_turn_can_be_undone_to_the_beginning(page: Page, score):
    before = score()
    clip(page, "Talk").focus()
    put_playhead(page, 9 * RATE)
    press_all(page)
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.undo !== null")
    page.keyboard.press("Escape")
    page.keyboard.press("y")
    shown = page.locator("#history")
    expect(shown).to_be_visible()
    shown.get_by_role("button", name="The beginning").click()  # what the last keys asked for may still be on its way
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.undo === null")
    assert score()["lanes"] == []
    shown.get_by_role("button", name="Tag lane Bed as music").click()
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.undo === 'Tag lane Bed as music'")
    doc = score()
    same = ("lanes", "markers", "in_n", "out_n", "settings", "passages")
    assert {name: doc[name] for name in same} == {name: before[name] for name in same}


def test_a_double_click_does_it_once_and_a_held_key_cuts_once(page: Page, score):
    page.get_by_role("link", name="Lay out").click()
    after(page, score, lambda: page.get_by_role("button", name="Place Bed.flac").dblclick())
    page.wait_for_function("() => document.querySelectorAll('.lane').length === 5")
    clip(page, "Talk").focus()
    put_playhead(page, 10 * RATE)
    page.keyboard.down("d")  # a key of its own: the passage is no speech; then Ctrl+D, held
    page.keyboard.up("d")
    page.keyboard.down("Control")
    for _ in range(4):
        page.keyboard.down("d")
    page.keyboard.up("d")
    page.keyboard.up("Control")
    expect(page.locator('.lane[data-lane="Talk"] .clip:not([hidden])')).to_have_count(2)
    assert len(lane_of(score(), "Talk")["clips"]) == 2
    assert len(score()["lanes"]) == 5


def test_a_card_is_not_drawn_anew_under_the_pointer(page: Page, ducked_project, score):
    """What comes in between press and release is shown after it: else the click would be lost."""
    page.get_by_role("button", name="History").click()
    card = page.get_by_role("dialog", name="History")
    beginning = card.get_by_role("button").last
    beginning.hover()
    page.mouse.down()
    page.evaluate("window.jayLantern.pageDoc.do('set_settings', { settings: { amount_db: -21 } })")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.amount_db === -21")
    page.wait_for_timeout(500)  # the new history would have come by now
    assert beginning.is_visible()
    expect(card).not_to_contain_text("Duck amount −21 dB")
    page.mouse.up()
    expect(card).to_contain_text("Duck amount −21 dB")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.settings.amount_db === -14")
