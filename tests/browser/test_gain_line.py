"""The gain line in hand: stretches, points, whole lines and riding a fader, by mouse and by keys."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import after, drag, lane_of, px_of

RATE = 48_000


@pytest.fixture
def line(page: Page, ducked_project) -> Page:
    """The ducked project with the gain line in hand."""
    page.keyboard.press("q")
    expect(page.get_by_role("toolbar", name="Gain line")).to_be_visible()
    return page


def undo_says(page: Page, words: str) -> None:
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", re.compile(words))


def place(page: Page, lane: str, at_s: float, gain_db: float | None = None) -> tuple[float, float]:
    """A place on a lane: at a gain of its line (from 12 to −24 dB), or well off it."""
    box = page.locator(f'.lane[data-lane="{lane}"] .lane-body').bounding_box()
    y = box["height"] - 5 if gain_db is None else 6 + (12 - gain_db) * (box["height"] - 12) / 36
    return px_of(page, round(at_s * RATE)), box["y"] + y


def drawn(doc: dict, lane: str) -> list[tuple[float, float]]:
    """The line of the first clip of a lane over the timeline, in seconds and dB."""
    clip = lane_of(doc, lane)["clips"][0]
    return [((each[0] + clip["start_n"] - clip["offset_n"]) / RATE, each[1]) for each in clip["line"]]


def stretch(page: Page, lane: str, from_s: float, to_s: float) -> None:
    drag(page, place(page, lane, from_s), place(page, lane, to_s), keys=("Alt",))
    expect(page.locator(".line-stretch")).to_be_visible()


def test_a_stretch_is_dragged_over_a_clip_and_its_line_up(line: Page, score):
    stretch(line, "Talk", 2, 4)
    doc = after(line, score, lambda: drag(line, place(line, "Talk", 3, 0), place(line, "Talk", 3, 6)))
    points = drawn(doc, "Talk")
    assert [db for _, db in points] == [0, pytest.approx(6, abs=1), pytest.approx(6, abs=1), 0]
    assert [at for at, _ in points] == pytest.approx([1.95, 2, 4, 4.05], abs=0.1)
    undo_says(line, r"by \+\d")
    line.keyboard.press("Alt+ArrowDown")  # the stretch is still chosen
    line.keyboard.press("Alt+ArrowDown")
    line.keyboard.press("Shift+ArrowDown")
    line.wait_for_function(
        """(db) => window.jayLantern.pageDoc.doc.lanes.some((lane) =>
            lane.name === "Talk" && Math.abs(lane.clips[0].line[1][1] - db) < 1e-3)""",
        arg=points[1][1] - 2,
    )
    line.keyboard.press("Control+z")
    line.keyboard.press("Control+z")
    expect(line.get_by_role("button", name="Undo", exact=True)).not_to_have_attribute("title", re.compile(r"by [+−]\d"))
    assert drawn(score(), "Talk") == []


def test_a_stretch_is_typed_levelled_and_given_up(line: Page, score):
    stretch(line, "Talk", 2, 4)
    field = line.get_by_label("Level of the stretch")
    field.fill("-4.5")
    doc = after(line, score, lambda: field.press("Enter"))
    assert [db for _, db in drawn(doc, "Talk")] == [0, -4.5, -4.5, 0]
    line.locator(".tl-line").get_by_role("button", name="As its surroundings").click()
    undo_says(line, "as loud as its surroundings|by −4.5")
    line.locator(".tl-rows").focus()
    line.keyboard.press("Escape")
    expect(line.locator(".line-stretch")).to_be_hidden()
    line.keyboard.press("q")
    expect(line.get_by_role("toolbar", name="Gain line")).to_be_hidden()


def test_in_to_out_passage_and_markers_are_stretches_too(line: Page, score):
    line.locator('.lane[data-lane="Bed"] .clip').first.focus()
    line.locator(".tl-line").get_by_role("button", name="In to out").click()
    expect(line.get_by_text("Set an in and an out point first.")).to_be_visible()
    passage = score()["passages"][0]
    line.locator("tr[data-passage]").first.click()
    line.locator(".tl-line").get_by_role("button", name="Passage").click()
    doc = after(line, score, lambda: line.keyboard.press("Shift+ArrowUp"))
    middle = [at for at, db in drawn(doc, "Bed") if db == 1]
    assert middle == pytest.approx([passage["start_n"] / RATE, passage["stop_n"] / RATE])


def test_points_are_added_dragged_typed_shaped_and_taken_away(line: Page, score):
    doc = after(line, score, lambda: line.mouse.dblclick(*place(line, "Bed", 3, 0)))
    assert drawn(doc, "Bed") == [(pytest.approx(3, abs=0.1), 0)]
    line.mouse.dblclick(*place(line, "Bed", 5, 0))
    line.wait_for_function(
        "() => window.jayLantern.pageDoc.doc.lanes.some((lane) => lane.clips.some((clip) => clip.line.length === 2))"
    )
    at = drawn(score(), "Bed")[1][0]
    doc = after(line, score, lambda: drag(line, place(line, "Bed", at, 0), place(line, "Bed", at + 1, -12)))
    assert drawn(doc, "Bed")[1] == (pytest.approx(at + 1, abs=0.15), pytest.approx(-12, abs=1))
    line.keyboard.press("e")
    line.get_by_label("Gain of the point in dB").fill("-7.25")
    doc = after(line, score, lambda: line.keyboard.press("Enter"))
    assert drawn(doc, "Bed")[1][1] == -7.25
    line.keyboard.press("[")
    line.mouse.click(*place(line, "Bed", drawn(doc, "Bed")[0][0], 0), button="right")
    after(line, score, lambda: line.get_by_role("menuitem", name="Ramp eased").click())
    assert lane_of(score(), "Bed")["clips"][0]["line"][0][2] == "eased"
    doc = after(line, score, lambda: line.keyboard.press("Delete"))
    assert len(drawn(doc, "Bed")) == 1


def test_ducking_is_taken_over_as_a_line_and_given_back(line: Page, score):
    line.locator('.lane[data-lane="Bed"] .clip').first.focus()

    def whole(name: str) -> None:
        line.locator("#line-more").click()
        line.get_by_role("menuitem", name=name).click()

    doc = after(line, score, lambda: whole("Take over ducking"))
    assert min(db for _, db in drawn(doc, "Bed")) == pytest.approx(-14, abs=0.1)
    assert lane_of(doc, "Bed")["clips"][0]["curve"] is None
    doc = after(line, score, lambda: whole("Half"))
    assert min(db for _, db in drawn(doc, "Bed")) == pytest.approx(-7, abs=0.1)
    doc = after(line, score, lambda: whole("Give to ducking"))
    assert drawn(doc, "Bed") == []
    assert min(doc["curves"][lane_of(doc, "Bed")["clips"][0]["curve"]]["gain_db"]) == pytest.approx(-7, abs=0.2)


def test_dips_keep_their_points_while_the_line_is_in_hand(line: Page, score):
    """A press where a point of the ducking curve lies is meant for the line."""
    curve = score()["curves"][score()["leading"]]
    before = score()["revision"]
    stretch(line, "Bed", curve["time_n"][0] / RATE + 0.1, curve["time_n"][0] / RATE + 1)
    assert score()["revision"] == before


TURNED = """async (fader) => {  // within the page: after a rest the fader is let go, however busy the machine
    for (let k = 0; k < 8; k += 1) {
        fader.dispatchEvent(new WheelEvent('wheel', { deltaY: 100, bubbles: true, cancelable: true }));
        await new Promise((done) => setTimeout(done, 60));
    }
}"""


@pytest.mark.parametrize("by", ["mouse", "keys", "wheel"])
def test_a_fader_held_while_it_plays_is_written_as_one_step(line: Page, score, by):
    before = score()
    fader = line.get_by_label("Fader of Bed")
    line.keyboard.press("Space")
    line.wait_for_function("() => window.jayLantern.player.now_n > 24000")
    if by == "mouse":
        box = fader.bounding_box()
        y = box["y"] + box["height"] / 2
        line.mouse.move(box["x"] + box["width"] * 0.8, y)
        line.mouse.down()
        line.mouse.move(box["x"] + box["width"] * 0.6, y, steps=4)
        line.wait_for_timeout(500)
        line.mouse.move(box["x"] + box["width"] * 0.5, y, steps=4)
        line.wait_for_timeout(300)
        line.mouse.up()
    elif by == "keys":
        fader.focus()
        for _ in range(8):  # held down, it repeats
            line.keyboard.down("ArrowLeft")
        line.keyboard.up("ArrowLeft")
    else:
        fader.hover()
        fader.evaluate(TURNED)
    expect(line.locator("#said")).to_contain_text(re.compile(r"Ride Bed, .*: \d+ points, within 0\.\d\d dB"))
    expect(fader).to_have_value("0")
    doc = score()
    assert lane_of(doc, "Bed")["gain_db"] == 0
    points = drawn(doc, "Bed")
    assert min(db for _, db in points) < -3
    assert points[0][1] == points[-1][1] == 0
    undo_says(line, "Undo: Ride Bed")
    line.keyboard.press("Space")
    line.get_by_role("button", name="Undo", exact=True).click()
    line.wait_for_function(
        "() => window.jayLantern.pageDoc.doc.lanes.every((lane) => lane.clips.every((clip) => !clip.line.length))"
    )
    assert lane_of(score(), "Bed") == lane_of(before, "Bed")


def test_a_ride_that_is_undone_while_it_is_held_is_undone_whole(line: Page, score):
    before = score()
    fader = line.get_by_label("Fader of Bed")
    line.keyboard.press("Space")
    line.wait_for_function("() => window.jayLantern.player.now_n > 24000")
    box = fader.bounding_box()
    line.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2)
    line.mouse.down()
    line.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] / 2, steps=4)
    undo_says(line, "Undo: Ride Bed")
    line.keyboard.press("Control+z")
    undo_says(line, "^(?!Undo: Ride)")
    line.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] / 2, steps=4)
    line.wait_for_timeout(400)
    line.mouse.up()
    line.wait_for_timeout(400)
    assert lane_of(score(), "Bed") == lane_of(before, "Bed")


def test_what_is_heard_is_as_loud_as_the_line_says(line: Page, score):
    doc = score()
    passage = doc["passages"][0]
    start, stop = passage["start_n"] + RATE // 2, passage["start_n"] + RATE

    def heard() -> np.ndarray:
        body = line.request.get(f"/projects/{doc['id']}/listen/speech?start={start}&stop={stop}").body()
        return np.frombuffer(body, "<f4")

    before = heard()
    assert np.abs(before).max() > 0.01
    stretch(line, "Talk", start / RATE - 0.3, stop / RATE + 0.3)
    after(line, score, lambda: line.keyboard.press("Shift+ArrowDown"))
    np.testing.assert_allclose(heard(), before * 10 ** (-1 / 20), atol=1e-6)
