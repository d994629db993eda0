"""Steps 2 and 3: the shelf, a new project, files by picker and by drop."""

from __future__ import annotations

import base64

import numpy as np
import soundfile
from playwright.sync_api import Page, expect

from tests import sounds


def test_the_shelf_shows_the_demo_with_its_length_and_passages(page: Page):
    page.goto("/")
    card = page.locator(".shelf-card", has_text="The Clock at Alder Quay")
    expect(card).to_contain_text("02:04")
    expect(card).to_contain_text("passages")
    card.click(position={"x": 60, "y": 60})  # anywhere on the card
    expect(page.locator("tr[data-passage]").first).to_be_visible()
    expect(page).to_have_title("The Clock at Alder Quay · Jay Lantern")


def test_an_empty_project_says_what_to_do_next(page: Page, new_project):
    new_project("Empty film")
    expect(page.get_by_text("Nothing here yet.")).to_be_visible()
    expect(page.locator(".tl-empty")).to_contain_text("The timeline is empty.")
    expect(page.locator("#checkup")).to_contain_text("The timeline is empty")
    page.keyboard.press("Space")
    expect(page.locator("#said")).to_contain_text("There is nothing to play yet")


def test_several_files_at_once_each_land_on_a_lane_of_their_own(page: Page, new_project, files):
    new_project()
    page.locator("#pick").set_input_files([files["film"], files["talk"], files["song"]])
    expect(page.locator(".lane")).to_have_count(4)  # picture, its sound, talk, song
    expect(page.locator('.lane[data-lane="Film"]')).to_have_count(2)
    expect(page.locator(".media-item")).to_have_count(3)
    expect(page.locator(".media-item", has_text="Song.mp3")).to_contain_text("MP3, 48 kHz, stereo")
    expect(page.locator("#busy .busy-row")).to_have_count(0)


def test_a_film_without_sound_says_so(page: Page, new_project, files):
    new_project()
    page.locator("#pick").set_input_files(files["mute film"])
    expect(page.locator(".media-item")).to_contain_text("no sound")
    expect(page.locator("#busy")).to_contain_text("It has no sound.")
    expect(page.locator(".lane")).to_have_count(1)


def test_a_file_that_cannot_be_read_says_why_and_leaves_nothing_behind(page: Page, new_project, files, server, score):
    new_project()
    page.locator("#pick").set_input_files(files["broken"])
    expect(page.locator("#busy")).to_contain_text("Broken.mp4 is not a film or sound file that can be read")
    assert score()["lanes"] == []
    assert not list((server.data / "incoming").iterdir())
    page.get_by_role("button", name="Put away: Broken.mp4").click()
    expect(page.locator("#busy .busy-row")).to_have_count(0)


def test_an_empty_file_is_refused_before_it_is_sent(page: Page, new_project, tmp_path):
    (tmp_path / "Empty.wav").write_bytes(b"")
    new_project()
    page.locator("#pick").set_input_files(tmp_path / "Empty.wav")
    expect(page.locator("#busy")).to_contain_text("Empty.wav is empty (0 bytes)")


def test_the_same_file_twice_is_two_clips_and_one_medium(page: Page, new_project, files, score):
    new_project()
    page.locator("#place").select_option("end")
    page.locator("#pick").set_input_files(files["song"])
    expect(page.locator(".lane")).to_have_count(1)
    page.locator("#pick").set_input_files(files["song"])
    expect(page.locator(".lane")).to_have_count(2)
    expect(page.locator(".media-item")).to_have_count(1)
    first, second = (lane["clips"][0] for lane in score()["lanes"])
    assert second["start_n"] == first["length_n"]  # after everything
    assert first["media_id"] == second["media_id"]


def drop(page: Page, path) -> None:
    """Let a file fall on the page."""
    data = page.evaluate_handle(
        """([bytes, name]) => {
            const carried = new DataTransfer();
            carried.items.add(new File([Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0))], name));
            return carried;
        }""",
        [base64.b64encode(path.read_bytes()).decode(), path.name],
    )
    page.dispatch_event("body", "dragenter", {"dataTransfer": data})
    expect(page.locator("body.drop-here")).to_be_visible()
    page.dispatch_event("body", "drop", {"dataTransfer": data})


def test_a_file_dropped_on_a_project_is_brought_in(page: Page, new_project, files):
    new_project()
    drop(page, files["song"])
    expect(page.locator('.lane[data-lane="Song"]')).to_be_visible()
    expect(page.locator("body.drop-here")).to_have_count(0)


def test_a_file_dropped_on_the_shelf_begins_a_film_named_after_it(page: Page, files):
    page.goto("/")
    drop(page, files["song"])
    expect(page.get_by_label("Name of the project")).to_have_value("Song")
    expect(page.locator('.lane[data-lane="Song"]')).to_be_visible()


def test_names_with_every_character_are_shown_as_they_are(page: Page, new_project, files, tmp_path):
    odd = tmp_path / "<b>Ünter & 'the' \"quay\"</b>%00 🎵;rm -rf.mp3".replace("/", "⁄")
    odd.write_bytes(files["song"].read_bytes())
    new_project("<script>alert(1)</script>")
    page.locator("#pick").set_input_files(odd)
    expect(page.locator(".media-item strong")).to_have_text(odd.name)
    expect(page.get_by_label("Name of the project")).to_have_value("<script>alert(1)</script>")


def test_a_long_import_shows_its_progress_and_can_be_stopped(page: Page, new_project, tmp_path, score, server):
    soundfile.write(
        tmp_path / "Long.wav", np.tile(sounds.noise(seconds=30, channels=2), (20, 1)), 48_000, subtype="PCM_16"
    )
    new_project()
    page.locator("#pick").set_input_files(tmp_path / "Long.wav")
    row = page.locator("#busy .busy-row", has_text="Long.wav")
    expect(row).to_contain_text("listening for speech")
    expect(row.locator("progress")).to_have_js_property("max", 1)
    row.get_by_role("button", name="Stop").click()
    expect(page.locator("#busy .busy-row")).to_have_count(0)
    assert score()["lanes"] == []
    assert not list((server.data / "incoming").iterdir())


def test_a_double_click_on_new_project_begins_one_film(page: Page):
    page.goto("/")
    before = page.locator(".shelf-card").count()
    page.get_by_label("Name of the new film").fill("Only once")
    page.get_by_role("button", name="New project").dblclick()
    expect(page.locator("body.ready")).to_be_visible()
    page.goto("/")
    expect(page.locator(".shelf-card")).to_have_count(before + 1)


def test_a_film_taken_off_the_shelf_can_be_put_back(page: Page, new_project):
    new_project("Fleeting film")
    page.goto("/")
    page.get_by_role("button", name="Take off: Fleeting film").click()
    expect(page.locator(".shelf-card", has_text="Fleeting film")).to_have_count(0)
    page.get_by_text("Taken off the shelf").click()
    page.get_by_role("button", name="Put back: Fleeting film").click()
    expect(page.locator(".shelf-card", has_text="Fleeting film")).to_be_visible()
