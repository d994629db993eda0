"""Step 8: what is handed off, measured from the files themselves; step 9: everything is as it was."""

from __future__ import annotations

import csv
import json
import shutil
import time
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from jaylantern.export import data
from tests.browser import views
from tests.browser.conftest import Server, ducked, media_of
from tests.sounds import rms_db
from tests.watched_files import unwatched

RATE = 48_000


@pytest.fixture
def hand_off(page: Page, tmp_path: Path):
    """A function that makes a file under Hand off and saves it as a person would."""

    def make(button: str) -> list[Path]:
        views.step(page, "handoff")
        before = page.locator(".made-item").count()
        if button in [form.label for form in data.FORMS.values()]:
            page.get_by_label("Which data").select_option(label=button)
        page.get_by_role(
            "button", name="Make" if button in [form.label for form in data.FORMS.values()] else button, exact=True
        ).click()
        expect(page.locator(".made-item")).to_have_count(before + 1)
        newest = page.locator(".made-item").first
        expect(newest.locator("progress")).to_have_count(0)
        saved = []
        for link in newest.get_by_role("link").all():
            with page.expect_download() as download:
                link.click()
            saved.append(tmp_path / download.value.suggested_filename)
            download.value.save_as(saved[-1])
        return saved

    return make


def spans(doc: dict) -> tuple[slice, slice, slice]:
    """Where the music is down, where it is up after it, and where it was up before."""
    first, second = (passage["dip"] for passage in doc["passages"])
    return (
        slice(first["down_n"], first["rise_n"]),
        slice(first["up_n"], second["from_n"]),
        slice(0, first["from_n"]),
    )


def test_the_ducked_music_is_14_db_lower_in_passages_measured_from_the_wav(
    page: Page, ducked_project, hand_off, files, score
):
    doc = score()
    [path] = hand_off("Ducked music")
    music, rate = soundfile.read(path, always_2d=True)
    plain, _ = soundfile.read(files["bed"], always_2d=True)
    info = soundfile.info(path)
    assert (rate, info.subtype, info.channels) == (RATE, "PCM_24", 2)
    down, up, before = spans(doc)
    assert rms_db(music[down]) - rms_db(plain[down]) == pytest.approx(-14, abs=0.01)
    assert rms_db(music[up]) - rms_db(plain[up]) == pytest.approx(0, abs=0.01)
    assert rms_db(music[before]) - rms_db(plain[before]) == pytest.approx(0, abs=0.01)


def test_the_mix_holds_speech_and_ducked_music_and_is_what_was_heard(page: Page, ducked_project, hand_off, score):
    doc = score()
    [path] = hand_off("Mix")
    mix, _ = soundfile.read(path, dtype="float32", always_2d=True)
    assert len(mix) == doc["length_n"]
    heard = page.request.get(f"/projects/{doc['id']}/listen/ducked?start={5 * RATE - 7}&stop={7 * RATE + 1}").body()
    window = np.frombuffer(heard, "<f4").reshape(-1, 2)
    written = mix[5 * RATE - 7 : 7 * RATE + 1]
    assert np.abs(window - written).max() <= 0.5 / 2**23  # rounded to 24 bits, nothing else


def test_the_film_has_the_picture_copied_packet_by_packet_and_the_mix_as_its_sound(
    page: Page, ducked_project, hand_off, files
):
    [path] = hand_off("Film with its new sound")
    assert path.suffix == ".mp4"

    def packets(film: Path) -> list[bytes]:
        with av.open(str(film)) as container:
            return [bytes(packet) for packet in container.demux(video=0) if packet.size]

    assert packets(path) == packets(files["film"])
    with av.open(str(path)) as film:
        assert film.streams.audio[0].codec_context.name == "aac"
        assert float(film.streams.audio[0].duration * film.streams.audio[0].time_base) == pytest.approx(34, abs=0.05)


def test_keyframes_as_csv_describe_the_same_curve(page: Page, ducked_project, hand_off, score):
    doc = score()
    [path] = hand_off("Keyframes, CSV")
    rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    times = [round(float(row["time_s"]) * RATE) for row in rows]
    gains = [float(row["gain_db"]) for row in rows]
    at = np.arange(0, doc["length_n"] - RATE, 997)
    curve = doc["curves"][doc["leading"]]
    assert np.allclose(np.interp(at, times, gains), np.interp(at, curve["time_n"], curve["gain_db"]), atol=0.01)
    assert {row["gain_percent"] for row in rows if row["gain_db"] == "-14.000"} == {"19.953"}


def test_without_a_picture_the_film_cannot_be_asked_for(page: Page, new_project, files):
    new_project()
    page.locator("#pick").set_input_files(files["song"])
    expect(page.locator(".lane")).to_have_count(1)
    page.get_by_role("link", name="Hand off").click()
    expect(page.get_by_role("button", name="Film with its new sound")).to_be_disabled()
    page.get_by_role("button", name="Ducked music").click()
    expect(page.locator(".made-item")).to_contain_text("No lane that is heard is tagged music")


def jobs_of(page: Page, server: Server, number: int) -> list[dict]:
    return page.request.get(f"{server.url}/projects/{number}/pulse").json()["jobs"]


def test_after_a_kill_and_a_new_start_everything_is_as_it_was(page: Page, files, demo_data: Path, tmp_path: Path):
    with unwatched():  # as the program has made it
        shutil.copytree(demo_data, tmp_path / "data")
    first = Server(tmp_path / "data")
    with_page = page.context.new_page()
    with_page.clock.install()
    try:
        number = ducked(first, files, media_of(first, files), "Ended in the middle")
        with_page.goto(f"{first.url}/")
        with_page.get_by_role("link", name="Ended in the middle").click()
        expect(with_page.locator("body.ready")).to_be_visible()
        views.step(with_page, "duck")
        field = with_page.get_by_label("Duck amount", exact=True)
        field.fill("-18")
        field.press("Enter")
        expect(with_page.locator("tr[data-passage]").first).to_contain_text("−18")
        until = time.monotonic() + 120
        while any(job["state"] in ("queued", "running") for job in jobs_of(with_page, first, number)):
            assert time.monotonic() < until  # what the background does makes a new revision, too
            time.sleep(0.1)
        views.step(with_page, "handoff")
        with_page.get_by_role("button", name="Mix", exact=True).click()
        expect(with_page.locator(".made-file")).to_have_count(1)
        for _ in range(2):  # the word about it goes by after nine seconds, the file does not
            with_page.clock.run_for(10_000)
            expect(with_page.locator(".busy-row")).to_have_count(0)
            expect(with_page.locator(".made-file")).to_have_count(1)
        views.step(with_page, "duck")
        before = with_page.request.get(f"{first.url}/projects/{number}/document").json()
        first.kill()
        second = Server(tmp_path / "data", port=first.port)
        try:
            with_page.reload()
            expect(with_page.locator("body.ready")).to_be_visible()
            expect(with_page.get_by_label("Duck amount", exact=True)).to_have_value("−18")
            assert with_page.request.get(f"{second.url}/projects/{number}/document").json() == before
            with_page.get_by_role("button", name="Undo").click()
            expect(with_page.get_by_label("Duck amount", exact=True)).to_have_value("−14")
            views.step(with_page, "handoff")
            expect(with_page.locator(".made-file")).to_have_count(1)
            with_page.get_by_role("button", name="Remove").click()
            expect(with_page.locator(".made-file")).to_have_count(0)
            with_page.get_by_role("button", name="Bring back").click()
            expect(with_page.locator(".made-file")).to_have_count(1)
        finally:
            second.end()
    finally:
        with_page.close()


def test_objects_a_recipe_and_a_film_with_parts_in_it(page: Page, ducked_project, hand_off):
    """What is chosen on the page is what is made, and is as it was chosen after a reload."""
    page.get_by_role("link", name="Hand off").click()
    page.locator("[name=gains]").select_option("printed")
    [path] = hand_off("Objects")
    data = path.read_bytes()
    assert b"chna" in data
    assert b"AP_00031001" not in data  # nothing moves: the ducking is in the sound
    page.locator("[name=gains]").select_option("over time")
    [path] = hand_off("Objects")
    assert b"audioBlockFormat" in path.read_bytes()

    [path] = hand_off("Recipe for many films, JSON")
    recipe = json.loads(path.read_text())
    assert {"talk": ["Talk*"], "music": ["Bed*"], "picture": ["*.mp4"], "hand_off": ["film"]}.items() <= recipe.items()

    page.get_by_label("speech, music alone").check()
    page.get_by_label("Language").fill("eng")
    page.get_by_label("Language").press("Tab")
    page.reload()
    expect(page.get_by_label("speech, music alone")).to_be_checked()
    expect(page.get_by_label("original sound")).not_to_be_checked()
    expect(page.get_by_label("Language")).to_have_value("eng")
    [path] = hand_off("Film with its new sound")
    with av.open(str(path)) as film:
        assert [each.language for each in film.streams.audio] == ["eng"] * 3


def test_other_frames_a_second_say_that_the_picture_is_encoded_anew_and_offer_its_quality(page: Page, ducked_project):
    views.step(page, "handoff")
    expect(page.locator(".film-how")).to_have_text("Picture copied, not encoded anew.", use_inner_text=True)
    expect(page.get_by_label("Quality")).to_be_hidden()
    page.get_by_label("Frames").select_option("24")
    expect(page.locator(".film-how")).to_have_text(
        "Picture encoded anew, for other frames a second.", use_inner_text=True
    )
    expect(page.get_by_label("Quality")).to_be_visible()
    page.get_by_label("Frames").select_option("")
    expect(page.get_by_label("Quality")).to_be_hidden()
