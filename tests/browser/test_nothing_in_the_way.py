"""What stopped people who used the page for hours, each as it was tried by mouse and keys."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser import views
from tests.browser.hands import after, chosen, clip, drag, ids, lane_of, middle, put_playhead, px_of, spans

pytestmark = pytest.mark.usefixtures("ducked_project")
RATE = 48_000
IN_HAND = "() => { const { selection } = window.jayLantern; return [selection.passage, selection.aside]; }"


def in_hand(page: Page) -> list:
    return page.evaluate(IN_HAND)


def focus(page: Page) -> str:
    return page.evaluate("() => document.activeElement.id || document.activeElement.className")


def test_undo_undo_redo_redo_by_mouse_without_a_pause(page: Page, score):
    before = score()["settings"]
    page.evaluate(
        "async () => { const { pageDoc } = window.jayLantern;"
        " for (const hold_ms of [700, 800]) await pageDoc.do('set_settings', { settings: { hold_ms } }); }"
    )
    for way, hold_ms in (("undo", before["hold_ms"]), ("redo", 800)):
        at = middle(page.locator(f"#{way}"))
        page.mouse.click(*at)
        page.mouse.click(*at)
        page.wait_for_function("(ms) => window.jayLantern.pageDoc.doc.settings.hold_ms === ms", arg=hold_ms)


def test_steps_back_work_from_within_a_field_while_nothing_is_half_typed_there(page: Page, score):
    field = page.locator("#knob-amount_db")
    field.fill("18")
    after(page, score, lambda: field.press("Enter"))
    assert score()["settings"]["amount_db"] == -18  # downwards is meant: there is nothing above
    expect(field).to_be_focused()
    after(page, score, lambda: page.keyboard.press("Control+z"))
    expect(field).to_have_value("−14")
    after(page, score, lambda: page.keyboard.press("Control+Shift+z"))
    field.press("End")
    field.press("9")  # half typed: the field has its own undo
    page.keyboard.press("Control+z")
    page.wait_for_timeout(300)
    assert score()["settings"]["amount_db"] == -18
    expect(field).to_be_focused()


@pytest.mark.parametrize("button", ["show-history", "show-presets", "show-points", "show-map", "show-drafts"])
def test_escape_from_a_card_gives_the_focus_back_to_its_button(page: Page, button):
    page.locator(f"#{button}").click()
    expect(page.locator(".drop-card:visible")).to_have_count(1)
    page.keyboard.press("Escape")
    expect(page.locator(".drop-card:visible")).to_have_count(0)
    expect(page.locator(f"#{button}")).to_be_focused()


def test_what_was_said_to_be_no_speech_stays_in_hand_until_it_is_lifted(page: Page, score):
    passages = score()["passages"]
    page.locator("#passage-1").click()
    after(page, score, lambda: page.locator('[data-act="not-speech"]').click())
    aside = {"start_n": passages[0]["start_n"], "stop_n": passages[0]["stop_n"]}
    page.wait_for_function(f"() => ({IN_HAND})()[1] !== null")
    assert in_hand(page) == [None, aside]
    row = page.locator("tr[data-aside]")
    expect(row).to_have_class(re.compile("chosen"))
    expect(row).to_contain_text("not speech")
    page.keyboard.press("d")
    expect(page.locator("#said")).to_contain_text("counts as no speech")
    after(page, score, lambda: page.locator('[data-act="lift-passage"]').click())
    expect(page.locator("tr[data-passage]")).to_have_count(2)
    assert in_hand(page) == [0, None]
    assert score()["passages"] == passages


def test_a_server_that_is_gone_is_said_and_what_is_typed_meanwhile_is_sent_when_it_is_back(page: Page, score):
    gone = re.compile(r"/(do/|pulse|undo|part/)")
    page.route(gone, lambda route: route.abort())
    expect(page.locator("#said .trouble")).to_contain_text("The server does not answer", timeout=3000)
    expect(page.locator("#said .trouble")).to_contain_text("start Jay Lantern again")
    page.locator("#knob-hold_ms").fill("777")
    page.locator("#knob-hold_ms").press("Enter")
    page.locator("#film-name").fill("Named meanwhile")
    page.locator("#film-name").press("Enter")
    page.wait_for_timeout(1500)
    expect(page.locator("#knob-hold_ms")).to_have_value("777")
    expect(page.locator("#film-name")).to_have_value("Named meanwhile")
    page.unroute(gone)
    expect(page.locator("#said .trouble")).to_have_count(0)
    page.wait_for_function(
        "() => { const { doc } = window.jayLantern.pageDoc;"
        " return doc.settings.hold_ms === 777 && doc.name === 'Named meanwhile'; }"
    )


def test_a_copy_is_chosen_and_a_time_typed_into_the_clock_is_gone_to(page: Page, score):
    (talk,) = ids(score(), "Talk")
    clip(page, "Talk").focus()
    doc = after(page, score, lambda: page.keyboard.press("Control+d"))
    page.wait_for_function("(id) => ![...window.jayLantern.selection.clips].includes(id)", arg=talk)
    assert chosen(page) == set(ids(doc, "Talk")) - {talk}
    now = page.locator("#now")
    now.fill("0:12.5")
    now.press("Enter")
    page.wait_for_function("() => Math.round(window.jayLantern.player.now_n) === 600000")
    expect(now).to_be_focused()
    now.fill("soon")
    now.press("Enter")
    expect(page.locator("#said .trouble")).to_contain_text("“soon” is not understood here: type a time")


def test_where_a_clip_begins_and_ends_is_typed(page: Page, score):
    views.step(page, "layout")
    page.evaluate("(id) => window.jayLantern.selection.choose([id])", ids(score(), "Talk")[0])
    begins = page.locator("#clip-begins")
    begins.fill("0:03")
    doc = after(page, score, lambda: begins.press("Enter"))
    assert spans(doc, "Talk")[0][0] == 3 * RATE
    page.locator("#clip-ends").fill("20 s")
    doc = after(page, score, lambda: page.locator("#clip-ends").press("Enter"))
    assert spans(doc, "Talk") == [(3 * RATE, 20 * RATE)]


def test_a_card_of_the_media_is_dragged_onto_a_lane(page: Page, score):
    views.step(page, "layout")
    card = page.locator(".media-item", has_text="Bed.flac")
    lane = page.locator('.lane[data-lane="Talk"] .lane-body')
    before = len(ids(score(), "Talk"))
    at = px_of(page, 34 * RATE) - lane.bounding_box()["x"]
    doc = after(page, score, lambda: card.drag_to(lane, target_position={"x": at, "y": 20}))
    assert len(ids(doc, "Talk")) == before + 1
    assert lane_of(doc, "Talk")["clips"][-1]["start_n"] == 34 * RATE  # snapped to the end of what is there


@pytest.mark.parametrize(
    ("keys", "word", "expected"),
    [
        (("Control",), "Lay over", [(0, 5), (5, 29)]),  # half of the first piece lies under it
        (
            ("Control", "Shift"),
            "Insert",
            [(0, 5), (5, 29), (29, 34)],
        ),  # the first piece is cut, what was behind it follows
    ],
)
def test_a_clip_is_laid_over_or_inserted_by_dragging_with_keys_held(page: Page, score, keys, word, expected):
    clip(page, "Talk").focus()
    put_playhead(page, 10 * RATE)
    after(page, score, lambda: page.keyboard.press("s"))
    box = page.locator('.lane[data-lane="Talk"] .lane-body').bounding_box()
    y = box["y"] + 0.62 * box["height"]
    doc = after(page, score, lambda: drag(page, (px_of(page, 20 * RATE), y), (px_of(page, 15 * RATE), y), keys=keys))
    assert [(round(a / RATE), round(b / RATE)) for a, b in spans(doc, "Talk")] == expected
    assert page.locator("#undo").get_attribute("title").startswith(f"Undo: {word} Talk.wav")


def test_a_box_is_as_wide_as_its_clip(page: Page, score):
    clip(page, "Talk").focus()
    for at_s in (10.0, 10.6):
        put_playhead(page, round(at_s * RATE))
        after(page, score, lambda: page.keyboard.press("Shift+s"))
    box = page.locator('.lane[data-lane="Talk"] .clip').nth(1).bounding_box()
    n_per_px = page.evaluate("window.jayLantern.timeline.view.n_per_px")
    assert box["width"] == pytest.approx(0.6 * RATE / n_per_px, abs=1.5)


def test_perches_are_dragged_and_lanes_onto_them(page: Page, score):
    views.step(page, "tag")
    lane = page.locator("[data-perched]", has_text="Bed")
    doc = after(page, score, lambda: lane.drag_to(page.locator('[data-perch-tag="effects"]')))
    assert lane_of(doc, "Bed")["tag"] == "effects"
    order = "() => [...document.querySelectorAll('[data-perch]')].map((each) => each.dataset.perch)"
    was = page.evaluate(order)
    page.locator(f'[data-perch="{was[2]}"] .perch-word').drag_to(page.locator(f'[data-perch="{was[0]}"] .perch-word'))
    page.wait_for_function(f"(first) => ({order})()[0] === first", arg=was[2])


def test_several_forms_of_sound_are_made_with_one_press(page: Page):
    views.step(page, "handoff")
    page.locator("#also-forms").click()
    page.get_by_role("menuitemcheckbox", name=re.compile("MP3")).first.click()
    page.locator('[data-export="mix"]').click()
    expect(page.locator(".made-item a", has_text=".wav")).to_have_count(1)
    expect(page.locator(".made-item a", has_text=".mp3")).to_have_count(1)


def test_few_steps_lead_from_bringing_in_to_the_first_clip(page: Page):
    views.step(page, "layout")
    page.locator("#bring-in").focus()
    page.keyboard.press("F6")
    page.keyboard.press("F6")
    assert page.evaluate("() => document.activeElement.classList.contains('clip')")
    page.keyboard.press("Shift+F6")
    assert page.evaluate("() => Boolean(document.activeElement.closest('.transport'))")


def test_the_keys_sheet_is_searched_and_has_wheel_and_mouse_in_it(page: Page):
    page.keyboard.press("?")
    search = page.get_by_role("searchbox")
    expect(search).to_be_focused()
    page.keyboard.type("zoom wheel")
    expect(page.locator(".keys-list li:visible")).to_have_text([re.compile("Ctrl.wheel, pinch")])
    search.fill("fade")
    expect(page.locator(".keys-list li:visible").first).to_contain_text("Fade")
    page.keyboard.press("Escape")
    expect(page.locator("dialog[open]")).to_have_count(0)


def test_what_listens_hears_lengths_units_and_what_a_button_is_about(page: Page):
    expect(clip(page, "Talk")).to_have_attribute(
        "aria-label", re.compile(r"Clip Talk.wav, dialogue, at .*, 34\.0 s long")
    )
    slider = page.locator("[data-knob=attack_ms] input[type=range]")
    expect(slider).to_have_attribute("aria-valuetext", re.compile(r"^\d+ ms$"))
    corner = page.get_by_role("slider", name="Corner of attack")
    expect(corner).to_have_attribute("aria-valuetext", re.compile(r"attack \d+ milliseconds"))
    assert page.get_by_role("textbox", name="Name of picture lane Film").count() == 1
    names = page.evaluate(
        "() => [...document.querySelectorAll('.lane button')].map((b) => b.getAttribute('aria-label') ?? '')"
    )
    named = [name for name in names if name.startswith(("Menu", "Fold", "Mute", "Solo"))]
    assert len(named) == len(set(named))


def test_the_report_prints_on_white_with_no_heading_alone(page: Page):
    page.goto(page.url.replace("/duck", "/report"))
    page.emulate_media(media="print")
    look = page.evaluate(
        "() => { const style = (at) => getComputedStyle(document.querySelector(at));"
        " return [style('body').backgroundColor, style('.report').backgroundColor, style('.report-links').display,"
        " style('.report h2').breakAfter, style('.report tbody tr').breakInside]; }"
    )
    assert look == ["rgb(255, 255, 255)", "rgb(255, 255, 255)", "none", "avoid", "avoid"]
    expect(page.locator(".report table").last).to_contain_text("min:s")
