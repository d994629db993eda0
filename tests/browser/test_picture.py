"""The picture: in step across cuts and gaps, frame by frame, and for films the browser can't play."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests import films, sounds
from tests.browser.hands import RATE, after, clip, lane_of, put_playhead

FRONT = "document.querySelector('video.front')"


def in_step(page: Page, *, from_s: float, to_s: float, off_s: float) -> None:
    """While it plays from one time to the other, the picture comes to lie within `off_s` of the sound."""
    page.wait_for_function(
        f"""([from_s, to_s, off_s]) => {{
            const {{ player, pageDoc }} = window.jayLantern;
            const now = player.now_n;
            if (now > to_s * {RATE}) throw new Error('the picture was never in step');
            const lane = pageDoc.doc.lanes.find((each) => each.kind === 'picture');
            const clip = lane.clips.find((each) => each.start_n <= now && now < each.start_n + each.length_n);
            if (!clip || now < from_s * {RATE}) return false;
            return Math.abs({FRONT}.currentTime - (now - clip.start_n + clip.offset_n) / {RATE}) < off_s;
        }}""",
        arg=[from_s, to_s, off_s],
    )


def test_the_picture_plays_across_cuts_and_gaps_in_step(page: Page, ducked_project, score):
    for at_s in (3, 5):
        clip(page, "Film", 0).focus()
        put_playhead(page, at_s * RATE)
        after(page, score, lambda: page.keyboard.press("Shift+S"))
    picture = page.locator('.lane[data-lane="Film"]').first
    picture.locator(".clip").nth(1).focus()
    doc = after(page, score, lambda: page.keyboard.press("Delete"))
    assert [len(lane["clips"]) for lane in doc["lanes"] if lane["name"] == "Film"] == [2, 2]
    picture.locator(".clip").nth(1).focus()
    after(page, score, lambda: page.keyboard.press("Alt+Shift+ArrowLeft"))  # from 5 s to 4 s: a gap of a second
    put_playhead(page, RATE)
    page.wait_for_function(f"() => {FRONT}.readyState >= 2")
    page.keyboard.press("Space")
    in_step(page, from_s=1.5, to_s=3, off_s=0.15)
    expect(page.locator("#picture")).to_have_class("picture without")
    expect(page.locator(".picture-none")).to_have_text("No picture at this place")
    expect(page.locator("#picture")).to_have_class("picture")
    in_step(page, from_s=4, to_s=5.5, off_s=0.15)
    in_step(page, from_s=6, to_s=9, off_s=0.08)
    page.keyboard.press("Space")


def test_a_frame_on_and_a_frame_back(page: Page, ducked_project, score):
    fps = next(medium["fps"] for medium in score()["media"].values() if medium["fps"])
    page.wait_for_function(f"() => {FRONT}.readyState >= 2")
    for _ in range(3):
        page.keyboard.press("Shift+ArrowRight")
    expect(page.locator("#now")).to_have_value(f"00:00.{round(3000 / fps):03d}")
    page.wait_for_function(f"() => Math.abs({FRONT}.currentTime - 3.25 / {fps}) < 0.4 / {fps}")
    page.keyboard.press("Shift+ArrowLeft")
    expect(page.locator("#now")).to_have_value(f"00:00.{round(2000 / fps):03d}")


@pytest.mark.parametrize("codec", ["mpeg2video", "mpeg4"])
def test_a_film_the_browser_cannot_play_gets_a_picture_made_in_the_background(
    page: Page, new_project, tmp_path, score, codec
):
    film = films.write_film(tmp_path / f"{codec}.mkv", seconds=40, codec=codec, sound=sounds.noise(seconds=40))
    new_project(f"Film in {codec}")
    page.locator("#place").select_option("start")
    page.locator("#pick").set_input_files(film)
    expect(page.locator(".lane")).to_have_count(2)
    lane_of(score(), codec)  # it can be worked on before its picture is there
    page.wait_for_function(f"() => {FRONT}.readyState >= 2")
    expect(page.locator("#picture")).to_have_class("picture")
    put_playhead(page, 3 * RATE)
    page.wait_for_function(f"() => Math.abs({FRONT}.currentTime - 3) < 0.1")


def test_frames_of_the_film_lie_on_the_picture_lane(page: Page, ducked_project):
    """Reads the pixels of the lane: the film brightens, so that its frames differ from left to right."""
    page.wait_for_function(
        """() => {
            const canvas = document.querySelector('.lane[data-lane="Film"] canvas');
            const row = (x) => canvas.getContext('2d').getImageData(x, canvas.height / 3, 1, 1).data[0];
            const seen = new Set();
            for (let x = 20; x < canvas.width * 0.9; x += 15) seen.add(row(x));
            return seen.size > 4;
        }"""
    )
