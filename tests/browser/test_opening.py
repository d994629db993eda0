"""Projects that come as files: dropped on the shelf they open; what is missing is found."""

from __future__ import annotations

import re
import shutil

import opentimelineio as otio
import pytest
from opentimelineio.opentime import RationalTime, TimeRange
from playwright.sync_api import Page, expect


@pytest.fixture
def timeline(files, tmp_path):
    """A timeline of another program whose files lie in a folder of theirs, under names that are not known here."""
    made = otio.schema.Timeline("Cut elsewhere")
    for name, kind in (("Rushes.mp4", "Video"), ("Speaker.wav", "Audio"), ("Theme.mp3", "Audio")):
        reference = otio.schema.ExternalReference(f"file:///elsewhere/{name}")
        span = TimeRange(RationalTime(0, 25), RationalTime(50, 25))
        made.tracks.append(otio.schema.Track(name, kind=kind, children=[otio.schema.Clip(name, reference, span)]))
    path = tmp_path / "Elsewhere.otio"
    otio.adapters.write_to_file(made, str(path))
    folder = tmp_path / "rolls"
    folder.mkdir()
    shutil.copyfile(files["film"], folder / "Rushes.mp4")
    shutil.copyfile(files["talk"], folder / "speaker.WAV")
    shutil.copyfile(files["song"], tmp_path / "Somewhere else.mp3")
    return path


def test_a_timeline_opens_with_what_is_missing_said_and_found(page: Page, timeline, tmp_path):
    page.goto("/")
    page.locator("#pick").set_input_files(timeline)
    page.wait_for_url("**/layout")
    expect(page.locator("#film-name")).to_have_value("Cut elsewhere")
    expect(page.locator(".missing-files")).to_contain_text("3 files are missing")
    expect(page.locator(".clip.file-missing")).to_have_count(3)
    expect(page.locator("#checkup")).to_contain_text("missing")
    page.locator("#relink-folder").set_input_files(tmp_path / "rolls")
    expect(page.locator(".missing-files")).to_contain_text("1 file is missing")
    expect(page.locator(".clip.file-missing")).to_have_count(1)
    expect(page.locator("#busy .busy-row progress:visible")).to_have_count(0)  # nothing is drawn anew under the hand
    page.wait_for_function("() => !document.querySelector('.htmx-request')")
    page.locator("[data-relink]").set_input_files(tmp_path / "Somewhere else.mp3")
    expect(page.locator(".missing-files")).to_have_count(0)
    expect(page.locator("#busy")).to_contain_text("It takes the place of Theme.mp3.")
    page.reload()
    expect(page.locator(".clip.file-missing")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.locator(".clip.file-missing")).to_have_count(1)
    page.keyboard.press("Control+Shift+z")
    expect(page.locator(".clip.file-missing")).to_have_count(0)


def test_a_file_chosen_while_the_list_is_drawn_anew_is_found_all_the_same(page: Page, timeline, tmp_path):
    page.goto("/")
    page.locator("#pick").set_input_files(timeline)
    page.wait_for_url("**/layout")
    before = page.locator(".missing-files").inner_text()  # what earlier tests brought in is known by its content
    with page.expect_file_chooser() as chooser:
        page.locator(".media-item.is-missing button", has_text="Find").last.click()
    with page.expect_response("**/part/media"):
        page.evaluate("() => document.body.dispatchEvent(new CustomEvent('jay:changed'))")
    page.wait_for_function("() => !document.querySelector('.htmx-request')")
    chooser.value.set_files(tmp_path / "Somewhere else.mp3")
    page.wait_for_function("(was) => document.querySelector('.missing-files')?.innerText !== was", arg=before)


def test_a_folder_without_the_files_says_so(page: Page, timeline, tmp_path):
    page.goto("/")
    page.locator("#pick").set_input_files(timeline)
    page.wait_for_url("**/layout")
    expect(page.locator(".missing-files")).to_be_visible()
    other = tmp_path / "other"
    other.mkdir()
    (other / "letter.txt").write_text("Dear editor")
    page.locator("#relink-folder").set_input_files(other)
    expect(page.locator("#said")).to_contain_text("None of the 1 files in that folder")


def test_what_can_not_be_opened_leaves_no_film_behind(page: Page, tmp_path):
    page.goto("/")
    before = page.locator(".shelf-card").count()
    (tmp_path / "letter.otio").write_text("Dear editor")
    page.locator("#pick").set_input_files(tmp_path / "letter.otio")
    expect(page.locator("#arriving")).to_contain_text("is not a project that can be read")
    page.reload()
    expect(page.locator(".shelf-card")).to_have_count(before)


def test_a_list_is_asked_for_its_rate_first(page: Page, tmp_path):
    line = "001  TALK  A  C  00:00:00:00 00:00:10:00 01:00:00:00 01:00:10:00"
    (tmp_path / "cut.edl").write_text(f"TITLE: BY HAND\n\n{line}\n* FROM CLIP NAME: Talk.wav\n")
    page.goto("/")
    page.locator("#pick").set_input_files(tmp_path / "cut.edl")
    page.locator(".rate-row select").select_option("24000/1001")
    page.locator(".rate-row").get_by_role("button", name="Open").click()
    page.wait_for_url("**/layout")
    expect(page.locator("#film-name")).to_have_value("BY HAND")
    expect(page.locator(".transport")).to_contain_text(re.compile(r"00:10\.010"))


def test_an_archive_handed_off_opens_as_the_same_film(page: Page, ducked_project, score, tmp_path):
    before = score()
    page.locator('.steps a[data-step="handoff"]').click()
    page.locator("#data-form").select_option("archive")
    page.locator('[data-export="data"]').click()
    with page.expect_download() as coming:
        page.locator(".made-file", has_text=".zip").first.click()
    path = tmp_path / "Handed off.zip"
    coming.value.save_as(path)
    page.goto("/")
    page.locator("#pick").set_input_files(path)
    page.wait_for_url("**/layout")
    expect(page.locator(".lane")).to_have_count(len(before["lanes"]))
    after = score()
    assert after["id"] != before["id"]
    assert [p["start_n"] for p in after["passages"]] == [p["start_n"] for p in before["passages"]]
    assert after["settings"] == before["settings"]
    expect(page.locator(".missing-files")).to_have_count(0)
