"""Lay out, by hand: choosing, moving, snapping, trimming, slipping, splitting, closing gaps, copies, links."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.hands import (
    RATE,
    after,
    chosen,
    click,
    clip,
    drag,
    expect_undo,
    ids,
    lane_of,
    middle,
    n_per_px,
    put_playhead,
    px_of,
    spans,
    split_talk,
    spot,
)

pytestmark = pytest.mark.usefixtures("ducked_project")


# — choosing —


def test_clips_are_chosen_one_several_a_range_all_of_a_lane_and_by_a_frame(page: Page, score):
    doc = split_talk(page, score, at_s=10)
    doc = split_talk(page, score, at_s=20)
    talk, bed = ids(doc, "Talk"), ids(doc, "Bed")
    click(page, middle(clip(page, "Talk", 0)))
    assert chosen(page) == {talk[0]}
    click(page, middle(clip(page, "Bed")), keys=("Control",))
    assert chosen(page) == {talk[0], bed[0]}
    click(page, middle(clip(page, "Bed")), keys=("Control",))
    assert chosen(page) == {talk[0]}
    click(page, middle(clip(page, "Talk", 0)))
    click(page, middle(clip(page, "Talk", 2)), keys=("Shift",))
    assert chosen(page) == set(talk)
    click(page, middle(clip(page, "Talk", 1)))
    page.keyboard.press("Shift+A")
    assert chosen(page) == set(talk)
    page.keyboard.press("Escape")
    assert chosen(page) == set()
    x, y = spot(clip(page, "Talk", 2), 1.0)
    drag(page, (x + 60, y), (spot(clip(page, "Talk", 1), 0.5)[0], y))
    assert chosen(page) == set(talk[1:])
    page.keyboard.press("Control+a")
    assert len(chosen(page)) == 6


def test_arrows_walk_from_clip_to_clip_and_lane_to_lane(page: Page, score):
    doc = split_talk(page, score, at_s=10)
    talk = ids(doc, "Talk")
    clip(page, "Talk", 0).focus()
    page.keyboard.press("Alt+Shift+PageDown")
    assert chosen(page) == set(talk)
    page.keyboard.press("Alt+PageUp")
    assert chosen(page) == {talk[0]}
    page.keyboard.press("Alt+PageDown")
    assert chosen(page) == {talk[1]}
    names = [lane["name"] for lane in doc["lanes"]]
    there, back = ("ArrowDown", "ArrowUp") if names.index("Bed") > names.index("Talk") else ("ArrowUp", "ArrowDown")
    page.keyboard.press(there)
    assert chosen(page) <= {each["id"] for lane in doc["lanes"] if lane["name"] != "Talk" for each in lane["clips"]}
    page.keyboard.press(back)
    assert chosen(page) <= set(talk)


# — moving and snapping —


def test_a_moved_clip_snaps_to_the_edge_of_another_and_alt_suspends_it(page: Page, score):
    doc = score()
    start_s = 40
    move = "([id, by_n]) => window.jayLantern.pageDoc.do('move_clips', {clip_ids: [id], by_n})"
    after(page, score, lambda: page.evaluate(move, [ids(doc, "Bed")[0], start_s * RATE]))
    page.keyboard.press("f")
    edges = {spans(score(), name)[0][1] for name in ("Talk", "Film")}
    talk_stop = spans(score(), "Talk")[0][1]
    x, y = middle(clip(page, "Bed"))
    near = px_of(page, talk_stop) - px_of(page, start_s * RATE) + 5
    doc = after(page, score, lambda: drag(page, (x, y), (x + near, y)))
    assert spans(doc, "Bed")[0][0] in edges
    page.keyboard.press("Control+z")
    expect(page.locator("#said")).to_contain_text("Undone")
    x, y = middle(clip(page, "Bed"))
    doc = after(page, score, lambda: drag(page, (x, y), (x + near, y), keys=("Alt",)))
    assert spans(doc, "Bed")[0][0] not in edges
    assert abs(spans(doc, "Bed")[0][0] - talk_stop) == pytest.approx(5 * n_per_px(page), abs=1.5 * n_per_px(page))


def test_snapping_holds_on_to_markers_and_passages(page: Page, score):
    put_playhead(page, 7 * RATE + 1234)
    after(page, score, lambda: page.keyboard.press("m"))
    put_playhead(page, 0)
    x, y = middle(clip(page, "Talk"))
    step = px_of(page, 7 * RATE + 1234) - px_of(page, 0) + 4
    doc = after(page, score, lambda: drag(page, (x, y), (x + step, y)))
    assert spans(doc, "Talk")[0][0] == 7 * RATE + 1234
    passage = doc["passages"][0]["start_n"]
    x, y = middle(clip(page, "Bed"))
    step = px_of(page, passage) - px_of(page, 0) - 4
    doc = after(page, score, lambda: drag(page, (x, y), (x + step, y)))
    assert spans(doc, "Bed")[0][0] == passage


def test_a_clip_is_dragged_to_another_lane_and_its_tag_follows_the_lane(page: Page, score):
    clip(page, "Talk").focus()
    page.keyboard.press("Shift+N")
    expect(page.locator(".lane")).to_have_count(5)
    doc = score()
    new = next(lane for lane in doc["lanes"] if not lane["clips"])
    x, y = middle(clip(page, "Talk"))
    target = page.locator(f'.lane[data-lane="{new["name"]}"] .lane-body').bounding_box()
    doc = after(page, score, lambda: drag(page, (x, y), (x, target["y"] + target["height"] / 2)))
    assert not lane_of(doc, "Talk")["clips"]
    moved = lane_of(doc, new["name"])["clips"][0]
    assert (moved["start_n"], moved["shown_tag"]) == (0, "untagged")
    doc = after(page, score, lambda: page.keyboard.press("Alt+ArrowUp"))
    assert lane_of(doc, "Talk")["clips"][0]["shown_tag"] == "dialogue"


def test_nudging_moves_by_a_frame_and_by_a_second(page: Page, score):
    clip(page, "Bed").focus()
    fps = next(medium["fps"] for medium in score()["media"].values() if medium["fps"])
    doc = after(page, score, lambda: page.keyboard.press("Alt+ArrowRight"))
    assert spans(doc, "Bed")[0][0] == round(RATE / fps)
    doc = after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    assert spans(doc, "Bed")[0][0] == round(RATE / fps) + RATE


# — trimming, slipping, splitting —


def test_ends_are_dragged_to_trim_and_never_past_the_media(page: Page, score):
    doc = score()
    (start, stop), media_n = spans(doc, "Talk")[0], list(doc["media"].values())
    x, y = spot(clip(page, "Talk"), 1)
    doc = after(page, score, lambda: drag(page, (x - 2, y), (x - 82, y), keys=("Alt",)))
    expect_undo(page, "Trim the end of Talk.wav")
    assert spans(doc, "Talk")[0][1] == pytest.approx(stop - 80 * n_per_px(page), abs=2 * n_per_px(page))
    x, y = spot(clip(page, "Talk"), 1)
    doc = after(page, score, lambda: drag(page, (x - 2, y), (x + 300, y), keys=("Alt",)))
    assert spans(doc, "Talk")[0] == (start, stop)
    assert stop - start in {medium["length_n"] for medium in media_n}
    x, y = spot(clip(page, "Talk"), 0)
    doc = after(page, score, lambda: drag(page, (x + 2, y), (x + 42, y), keys=("Alt",)))
    talk = lane_of(doc, "Talk")["clips"][0]
    assert talk["start_n"] == talk["offset_n"] > 0
    assert talk["start_n"] + talk["length_n"] == stop


def test_clips_begin_and_end_at_the_playhead(page: Page, score):
    click(page, middle(clip(page, "Talk")))
    put_playhead(page, 5 * RATE)
    after(page, score, lambda: page.keyboard.press("Shift+Home"))
    put_playhead(page, 25 * RATE)
    doc = after(page, score, lambda: page.keyboard.press("Shift+End"))
    assert spans(doc, "Talk") == [(5 * RATE, 25 * RATE)]


def test_splitting_keeps_tags_and_the_sound_and_can_be_of_all_lanes(page: Page, score):
    page.get_by_role("link", name="Tag").click()
    page.locator("#clip-table").get_by_role("button", name="Talk.wav", exact=True).click()
    after(page, score, lambda: page.locator(".tag-bar").get_by_role("button", name="dialogue").click())
    before = score()["passages"]
    doc = split_talk(page, score, at_s=22)
    assert [each["tag"] for each in lane_of(doc, "Talk")["clips"]] == ["dialogue", "dialogue"]
    assert [(p["start_n"], p["stop_n"]) for p in doc["passages"]] == [(p["start_n"], p["stop_n"]) for p in before]
    put_playhead(page, 12 * RATE)
    doc = after(page, score, lambda: page.keyboard.press("Shift+S"))
    assert len(lane_of(doc, "Talk")["clips"]) == 3
    assert len(lane_of(doc, "Bed")["clips"]) == 2
    films = [lane for lane in doc["lanes"] if lane["name"] == "Film"]
    assert [len(lane["clips"]) for lane in films] == [2, 2]
    links = [[each["link"] for each in lane["clips"]] for lane in films]
    assert links[0] == links[1]
    assert links[0][0] != links[0][1]


def test_splitting_outside_the_clip_says_so(page: Page, score):
    clip(page, "Talk").focus()
    put_playhead(page, 0)
    page.keyboard.press("s")
    expect(page.locator("#said .trouble, #said > *").last).to_contain_text(re.compile("playhead|split", re.I))


def test_slipping_shows_other_media_in_the_same_place(page: Page, score):
    split_talk(page, score, at_s=10)
    box = clip(page, "Talk", 1)
    x, y = middle(box)
    was = lane_of(score(), "Talk")["clips"][1]
    doc = after(page, score, lambda: drag(page, (x, y), (x + 30, y), keys=("Shift",)))
    now = lane_of(doc, "Talk")["clips"][1]
    assert (now["start_n"], now["length_n"]) == (was["start_n"], was["length_n"])
    assert now["offset_n"] == pytest.approx(was["offset_n"] - 30 * n_per_px(page), abs=2 * n_per_px(page))
    doc = after(page, score, lambda: page.keyboard.press("Alt+."))
    assert lane_of(doc, "Talk")["clips"][1]["offset_n"] > now["offset_n"]


# — deleting —


def test_deleting_leaves_a_gap_and_with_alt_closes_it_on_the_lane_or_with_control_on_all(page: Page, score):
    split_talk(page, score, at_s=10)
    doc = split_talk(page, score, at_s=20)
    bed = spans(doc, "Bed")
    click(page, middle(clip(page, "Talk", 1)))
    doc = after(page, score, lambda: page.keyboard.press("Delete"))
    assert spans(doc, "Talk") == [(0, 10 * RATE), (20 * RATE, 34 * RATE)]
    after(page, score, lambda: page.keyboard.press("Control+z"))
    click(page, middle(clip(page, "Talk", 1)))
    doc = after(page, score, lambda: page.keyboard.press("Alt+Delete"))
    assert spans(doc, "Talk") == [(0, 10 * RATE), (10 * RATE, 24 * RATE)]
    assert spans(doc, "Bed") == bed
    after(page, score, lambda: page.keyboard.press("Control+z"))
    click(page, middle(clip(page, "Talk", 1)))
    doc = after(page, score, lambda: page.keyboard.press("Control+Delete"))
    assert spans(doc, "Talk") == [(0, 10 * RATE), (10 * RATE, 24 * RATE)]
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute(
        "title", re.compile("close up all lanes")
    )


def test_all_gaps_of_a_lane_are_closed_at_once(page: Page, score):
    split_talk(page, score, at_s=10)
    click(page, middle(clip(page, "Talk", 1)))
    after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    doc = after(page, score, lambda: page.keyboard.press("g"))
    assert spans(doc, "Talk") == [(0, 10 * RATE), (10 * RATE, 34 * RATE)]


def test_in_to_out_is_cut_out_of_all_lanes(page: Page, score):
    put_playhead(page, 8 * RATE)
    after(page, score, lambda: page.keyboard.press("i"))
    put_playhead(page, 12 * RATE)
    after(page, score, lambda: page.keyboard.press("o"))
    doc = after(page, score, lambda: page.keyboard.press("x"))
    assert spans(doc, "Talk") == [(0, 8 * RATE), (8 * RATE, 30 * RATE)]
    assert lane_of(doc, "Talk")["clips"][1]["offset_n"] == 12 * RATE


# — copies —


def test_copy_paste_cut_and_duplicate(page: Page, score):
    click(page, middle(clip(page, "Talk")))
    page.keyboard.press("Control+c")
    put_playhead(page, 36 * RATE)
    doc = after(page, score, lambda: page.keyboard.press("Control+v"))
    assert spans(doc, "Talk") == [(0, 34 * RATE), (36 * RATE, 70 * RATE)]
    assert len(doc["passages"]) == 4
    expect(page.locator(".clip.chosen")).to_have_count(1)
    doc = after(page, score, lambda: page.keyboard.press("Control+d"))
    assert spans(doc, "Talk")[2] == (70 * RATE, 104 * RATE)
    after(page, score, lambda: page.keyboard.press("Control+x"))
    put_playhead(page, 150 * RATE)
    doc = after(page, score, lambda: page.keyboard.press("Control+v"))
    assert len(spans(doc, "Talk")) == 3


def test_pasting_with_nothing_copied_says_so(page: Page):
    page.evaluate("localStorage.clear()")
    page.keyboard.press("Control+v")
    expect(page.locator("#said")).to_contain_text(re.compile("[Nn]othing"))


# — linked picture and sound —


def test_unlinked_sound_moves_alone_and_linked_again_they_move_together(page: Page, score):
    clip(page, "Film").focus()
    after(page, score, lambda: page.keyboard.press("Shift+K"))
    doc = after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    films = [lane["clips"][0]["start_n"] for lane in doc["lanes"] if lane["name"] == "Film"]
    assert sorted(films) == [0, RATE]
    click(page, middle(page.locator('.lane[data-lane="Film"]').first.locator(".clip")))
    click(page, middle(clip(page, "Film")), keys=("Control",))
    after(page, score, lambda: page.keyboard.press("Alt+k"))
    doc = after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowRight"))
    films = [lane["clips"][0]["start_n"] for lane in doc["lanes"] if lane["name"] == "Film"]
    assert sorted(films) == [RATE, 2 * RATE]
