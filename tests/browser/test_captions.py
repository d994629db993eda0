"""Captions by mouse and by keys: brought in, shown over the picture, moved by a cut, compared, a trigger, removed."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

RATE = 48_000
SRT = (
    "1\n00:00:04,000 --> 00:00:06,000\nThe tide came in\n\n2\n00:00:20,000 --> 00:00:23,000\nAnd went\n\n"
    "3\n00:00:28,000 --> 00:00:30,000\nNobody spoke\n"
)


@pytest.fixture
def captioned(page: Page, ducked_project) -> Page:
    """The ducked project with captions brought in as a file."""
    page.locator("#pick").set_input_files({"name": "Film.srt", "mimeType": "text/plain", "buffer": SRT.encode()})
    expect(page.locator(".tl-caption")).to_have_count(1)
    expect(page.locator(".caption-name")).to_have_text("Film.srt")
    expect(page.locator(".tl-caption canvas")).to_have_attribute(
        "aria-label", "Captions Film.srt: 3, 3 of them in view"
    )
    return page


def cues(page: Page) -> list[tuple[float, str]]:
    number = page.evaluate("document.body.dataset.project")
    [found] = page.request.get(f"/projects/{number}/captions").json()["cues"].values()
    return [(cue[0] / RATE, cue[2]) for cue in found]


def seek(page: Page, at_s: float) -> None:
    page.evaluate("(at_n) => window.jayLantern.player.seek(at_n)", round(at_s * RATE))


def choose(page: Page, item: str) -> None:
    page.get_by_role("button", name="Menu of the captions Film.srt").click()
    page.get_by_role("menu").get_by_role("menuitem", name=item).or_(
        page.get_by_role("menu").get_by_role("menuitemcheckbox", name=item)
    ).first.click()


def test_they_are_told_when_they_come_and_stand_over_the_picture(captioned: Page):
    expect(captioned.locator("#busy")).to_contain_text("3 captions.")
    seek(captioned, 5)
    expect(captioned.locator(".picture-caption")).to_have_text("The tide came in")
    seek(captioned, 10)
    expect(captioned.locator(".picture-caption")).to_be_hidden()
    choose(captioned, "Show over the picture")
    seek(captioned, 5)
    expect(captioned.locator(".picture-caption")).to_be_hidden()
    captioned.reload()
    expect(captioned.locator(".tl-caption")).to_have_count(1)
    expect(captioned.locator(".picture-caption")).to_be_hidden()  # as it was chosen


def test_a_press_on_one_goes_there_and_its_words_stand_under_the_pointer(captioned: Page):
    canvas = captioned.locator(".tl-caption canvas")
    x = captioned.evaluate(f"window.jayLantern.timeline.view.x({21 * RATE})")
    canvas.hover(position={"x": x, "y": 10})
    expect(canvas).to_have_attribute("title", "And went\n00:20.00 to 00:23.00")
    canvas.click(position={"x": x, "y": 10})
    captioned.wait_for_function(f"() => window.jayLantern.player.now_n === {20 * RATE}")


def test_a_cut_through_the_film_takes_them_along_and_undo_brings_them_back(captioned: Page):
    for at_s, key in ((8, "i"), (10, "o")):
        seek(captioned, at_s)
        captioned.keyboard.press(key)
    captioned.wait_for_function("() => window.jayLantern.pageDoc.doc.out_n !== null")
    captioned.evaluate(
        f"() => {{ window.jayLantern.pageDoc.do('cut_out', {{ start_n: {8 * RATE}, stop_n: {10 * RATE} }}) }}"
    )
    captioned.wait_for_function("() => window.jayLantern.pageDoc.doc.lanes[0].clips.length === 2")
    assert cues(captioned) == [(4, "The tide came in"), (18, "And went"), (26, "Nobody spoke")]
    captioned.keyboard.press("Control+z")
    captioned.wait_for_function("() => window.jayLantern.pageDoc.doc.lanes[0].clips.length === 1")
    assert cues(captioned) == [(4, "The tide came in"), (20, "And went"), (28, "Nobody spoke")]


def test_the_check_up_names_what_does_not_agree_until_it_is_not_asked(captioned: Page):
    card = captioned.locator("#checkup")
    expect(card).to_contain_text("Captions without talk for 2.0 s (Film.srt).")
    choose(captioned, "Compare with the talk")
    expect(card).not_to_contain_text("Film.srt")


def test_talk_counts_where_they_stand_in_one_step(captioned: Page):
    choose(captioned, "Talk counts where captions stand")
    expect(captioned.locator("tr[data-passage]")).to_have_count(3)
    captioned.keyboard.press("Control+z")
    expect(captioned.locator("tr[data-passage]")).to_have_count(2)


def test_they_are_moved_by_seconds_and_removed(captioned: Page):
    choose(captioned, "Move by …")
    captioned.get_by_label("Later by seconds, earlier with a minus").fill("-1.5")
    captioned.keyboard.press("Enter")
    expect(captioned.locator("#undo")).to_have_attribute("title", "Undo: Captions Film.srt 1.50 s earlier")
    assert cues(captioned)[0][0] == 2.5
    choose(captioned, "Remove")
    expect(captioned.locator(".tl-captions")).to_be_hidden()
    captioned.keyboard.press("Control+z")
    expect(captioned.locator(".tl-caption")).to_have_count(1)


def test_a_file_without_captions_is_refused_in_words(page: Page, ducked_project):
    page.locator("#pick").set_input_files({"name": "Notes.srt", "mimeType": "text/plain", "buffer": b"hello"})
    expect(page.locator("#busy")).to_contain_text("There are no captions in Notes.srt")
    expect(page.locator(".tl-captions")).to_be_hidden()


def test_the_menu_opens_by_keys_and_by_the_other_button(captioned: Page):
    captioned.get_by_role("button", name="Menu of the captions Film.srt").focus()
    captioned.keyboard.press("Enter")
    expect(captioned.get_by_role("menu")).to_be_visible()
    captioned.keyboard.press("Escape")
    expect(captioned.get_by_role("menu")).to_have_count(0)
    captioned.locator(".tl-caption canvas").click(button="right", position={"x": 30, "y": 8})
    expect(captioned.get_by_role("menu")).to_be_visible()


def test_keys_go_from_caption_to_caption(captioned: Page):
    for key, at_s in (("w", 4), ("w", 20), ("w", 28), ("Shift+W", 20), ("Shift+W", 4)):
        captioned.keyboard.press(key)
        captioned.wait_for_function(f"() => window.jayLantern.player.now_n === {at_s * RATE}")
