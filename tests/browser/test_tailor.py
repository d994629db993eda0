"""Tailor in the page: a length wished for, the ribbon and its folds, what stays and what goes, and back again."""

from __future__ import annotations

import re
from contextlib import closing

import pytest
import soundfile
from playwright.sync_api import Page, expect

from jaylantern import commands
from jaylantern.library.bringing import bring_in
from jaylantern.store import projects
from jaylantern.workspace.workspace import Workspace
from tests.browser.conftest import Server, place
from tests.tunes import RATE, tune


@pytest.fixture(scope="session")
def waltz(server: Server, files, media, tmp_path_factory):
    """Music of known bars, brought in once."""
    path = tmp_path_factory.mktemp("waltz") / "Waltz.wav"
    soundfile.write(path, tune("VABAAVBA", bpm=104, meter=3).sound, RATE)
    workspace = Workspace(server.data)
    with closing(workspace.folder.connect()) as db:
        return bring_in(workspace.library, db, path, "Waltz.wav", lambda share, doing: None)


@pytest.fixture
def tailor(page: Page, server: Server, media, waltz) -> Page:
    """A project with a film and the waltz, which nobody has tailored; open at the Tailor step."""
    with closing(Workspace(server.data).folder.connect()) as db:
        project_id = projects.create(db, "Waltz")
        for found in (media["film"], waltz):
            place(db, project_id, found, name=found.name, at_n=0)
        lane = projects.load(db, project_id).lanes[-1]
        commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "music"})
    page.goto(f"/projects/{project_id}/duck")
    expect(page.locator("body.ready")).to_be_visible()
    page.keyboard.press("5")
    expect(page.locator("#ribbon canvas")).to_be_visible()
    return page


def wish(page: Page, length: str) -> None:
    page.get_by_label("Length", exact=True).fill(length)
    page.keyboard.press("Enter")
    expect(page.locator(".fold-handle").first).to_be_visible()


def waltz_clip(score) -> tuple[dict, dict]:
    document = score()
    clip = next(clip for lane in document["lanes"] for clip in lane["clips"] if clip["name"] == "Waltz.wav")
    return clip, document["media"][str(clip["media_id"])]


def test_the_beats_are_found_in_the_background_and_said(tailor: Page):
    expect(tailor.get_by_text(re.compile(r"104\.\d bpm · 3 in a bar"))).to_be_visible()


def test_a_length_is_typed_and_the_clip_has_it(tailor: Page, score):
    wish(tailor, "0:40")
    clip, medium = waltz_clip(score)
    assert abs(clip["length_n"] - 40 * RATE) < 0.9 * RATE  # half a bar of 1.73 s
    assert medium["folds"]
    expect(tailor.locator("#undo")).to_have_attribute("title", re.compile("Tailor Waltz.wav to 00:40.0"))
    expect(tailor.locator(".folds tbody tr")).to_have_count(len(medium["folds"]))
    tailor.get_by_role("button", name="exact").click()
    expect(tailor.locator("#had")).to_contain_text("as wished")
    assert waltz_clip(score)[0]["length_n"] == 40 * RATE
    tailor.locator("#undo").click()
    tailor.locator("#undo").click()
    expect(tailor.locator("#had")).to_contain_text("Plain")


def test_what_is_no_length_is_said_and_nothing_is_lost(tailor: Page, score):
    before = waltz_clip(score)[0]
    tailor.get_by_label("Length", exact=True).fill("soon")
    tailor.keyboard.press("Enter")
    expect(tailor.get_by_text("such as 1:30")).to_be_visible()
    tailor.get_by_label("Length", exact=True).fill("2")
    tailor.keyboard.press("Enter")
    expect(tailor.get_by_text("comes near 2.0 s")).to_be_visible()
    assert waltz_clip(score)[0] == before


def test_until_the_end_of_the_picture_and_again_after_a_cut(tailor: Page, score):
    tailor.get_by_role("button", name="picture", exact=True).click()
    expect(tailor.get_by_role("button", name="picture", exact=True)).to_have_attribute("aria-pressed", "true")
    clip, _ = waltz_clip(score)
    assert abs(clip["length_n"] - 34 * RATE) < 0.9 * RATE
    film = next(clip for lane in score()["lanes"] for clip in lane["clips"] if clip["name"] == "Film.mp4")
    tailor.evaluate(
        "(id) => jayLantern.pageDoc.do('trim_clips', { clip_ids: [id], edge: 'stop', by_n: -8 * 48000 })", film["id"]
    )
    tailor.get_by_role("button", name="Fit anew").click()
    expect(tailor.get_by_role("button", name="Fit anew")).to_have_count(0)
    assert abs(waltz_clip(score)[0]["length_n"] - 26 * RATE) < 0.9 * RATE


def test_a_stretch_is_protected_left_out_and_freed(tailor: Page, score):
    wish(tailor, "0:40")
    ribbon = tailor.locator("#ribbon").bounding_box()
    y = ribbon["y"] + ribbon["height"] - 12

    def drag(first: float, last: float) -> None:
        tailor.mouse.move(ribbon["x"] + ribbon["width"] * first, y)
        tailor.mouse.down()
        tailor.mouse.move(ribbon["x"] + ribbon["width"] * last, y, steps=4)
        tailor.mouse.up()

    drawn = "JSON.parse(document.getElementById('ribbon-drawn').textContent)"
    for name, key in (("Protect", "protect"), ("Leave out", "leave_out")):
        drag(0.4, 0.55)
        tailor.get_by_role("button", name=name, exact=True).click()
        tailor.wait_for_function(f"() => {drawn}.{key}.length === 1")
    assert tailor.evaluate(f"{drawn}.protect") == []
    (first, last) = tailor.evaluate(f"{drawn}.leave_out[0]")
    assert all(not (a < last and first < b) for a, b, *_ in tailor.evaluate(f"{drawn}.pieces"))
    drag(0.38, 0.6)
    tailor.get_by_role("button", name="Free again").click()
    tailor.wait_for_function(f"() => {drawn}.leave_out.length === 0")


def test_a_fold_is_moved_by_keys_and_by_dragging_and_replaced(tailor: Page, score):
    wish(tailor, "0:40")
    drawn = "JSON.parse(document.getElementById('ribbon-drawn').textContent)"
    before = tailor.evaluate(f"{drawn}.folds[0]")
    beat_n = 60 / 104 * RATE
    handle = tailor.locator(".fold-handle").first
    handle.focus()
    tailor.keyboard.press("ArrowRight")
    tailor.wait_for_function(f"(was) => {drawn}.folds[0].left_n > was", arg=before["left_n"])
    after = tailor.evaluate(f"{drawn}.folds[0]")
    assert abs(after["left_n"] - before["left_n"] - beat_n) < 0.05 * RATE
    box = tailor.locator(".fold-handle").first.bounding_box()
    tailor.mouse.move(box["x"] + 9, box["y"] + 9)
    tailor.mouse.down()
    tailor.mouse.move(box["x"] - 1, box["y"] + 9, steps=5)
    tailor.mouse.up()
    tailor.wait_for_function(f"(was) => {drawn}.folds[0].left_n < was", arg=after["left_n"])
    tailor.get_by_role("button", name="Another").first.click()
    expect(tailor.get_by_text("not to be used")).to_be_visible()


def test_folds_are_heard(tailor: Page):
    wish(tailor, "0:40")
    at_n = tailor.evaluate("JSON.parse(document.getElementById('ribbon-drawn').textContent).folds[0].at_n")
    tailor.get_by_role("button", name="Hear fold 1").click()
    tailor.wait_for_function(
        "(at) => jayLantern.player.playing && Math.abs(jayLantern.player.now_n - at) < 2.2 * 48000", arg=at_n
    )
    tailor.wait_for_function("(at) => !jayLantern.player.playing && jayLantern.player.now_n > at", arg=at_n)


def test_another_solution_stretching_and_plain_again(tailor: Page, score):
    wish(tailor, "0:40")
    ways = tailor.locator(".way")
    assert ways.count() >= 2
    other = tailor.locator('.way[aria-pressed="false"]').first
    folds = int(re.match(r"\d+", other.inner_text())[0])
    other.click()
    expect(tailor.locator(".folds tbody tr")).to_have_count(folds)
    expect(tailor.locator(".audible")).to_be_visible()
    tailor.get_by_role("button", name="Stretch it instead").click()
    expect(tailor.get_by_role("button", name="Stretch it instead")).to_have_attribute("aria-pressed", "true")
    tailor.get_by_role("button", name="Plain again").click()
    expect(tailor.locator("#had")).to_contain_text("Plain")
    assert "folds" not in waltz_clip(score)[1]


def test_the_end_is_dragged_on_the_timeline(tailor: Page, score):
    clip, _ = waltz_clip(score)
    tailor.evaluate("jayLantern.timeline.fit()")
    box = tailor.locator(f'[data-clip="{clip["id"]}"]').bounding_box()
    tailor.mouse.move(box["x"] + box["width"] - 3, box["y"] + box["height"] / 2)
    tailor.mouse.down()
    tailor.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + box["height"] / 2, steps=6)
    tailor.mouse.up()
    expect(tailor.locator(".fold-handle").first).to_be_visible()
    assert abs(waltz_clip(score)[0]["length_n"] / clip["length_n"] - 0.6) < 0.05


def test_a_reload_in_the_middle_loses_nothing(tailor: Page, score):
    wish(tailor, "0:40")
    before = waltz_clip(score)[0]
    tailor.reload()
    expect(tailor.locator(".fold-handle").first).to_be_visible()
    assert waltz_clip(score)[0] == before
