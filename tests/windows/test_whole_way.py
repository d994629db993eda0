"""The whole way through on a Windows, or the nearest to one that runs here: what a first day has in it."""

from __future__ import annotations

import hashlib
import json
import re
import time
from pathlib import Path

import av
import pytest
import soundfile
from playwright.sync_api import Page, expect

from tests import sounds
from tests.browser import views
from tests.browser.hands import RATE, after, clip, lane_of, put_playhead
from tests.browser.test_voice_take import kept, open_panel, record
from tests.windows.conftest import of_ours

FILMS = 6
LONG_S = 240


def test_a_first_day(page: Page, server, files, score, command, tmp_path):
    brings_in(page, files)
    tags(page)
    ducks_and_plays(page, score)
    cuts_and_undoes(page, score)
    records(page, score)
    tailors(page, score)
    hands_off(page, tmp_path)
    is_alone(server, command)
    survives_a_kill(page, server, score, tmp_path)
    starts_again(page, server, score, command)


def brings_in(page: Page, files) -> None:
    page.goto("/")
    with page.expect_file_chooser() as chooser:
        page.locator(".shelf-drop").click()
    chooser.value.set_files([files["film"], files["talk"], files["bed"]])
    page.wait_for_url("**/layout")
    expect(page.locator(".lane")).to_have_count(4)


def tags(page: Page) -> None:
    views.step(page, "tag")
    page.get_by_role("button", name="Accept all").click()
    expect(page.locator("#missing")).to_contain_text("Ready to duck")


def ducks_and_plays(page: Page, score) -> None:
    views.step(page, "duck")
    expect(page.locator("tr[data-passage]")).to_have_count(2)
    assert len(score()["passages"]) == 2
    page.keyboard.press("Space")
    page.wait_for_function("() => window.jayLantern.player.now_n > 48000")
    page.keyboard.press("Space")
    page.wait_for_function("() => !window.jayLantern.player.playing")


def cuts_and_undoes(page: Page, score) -> None:
    clip(page, "Bed").focus()
    put_playhead(page, 10 * RATE)
    assert len(lane_of(after(page, score, lambda: page.keyboard.press("s")), "Bed")["clips"]) == 2
    assert len(lane_of(after(page, score, lambda: page.keyboard.press("Control+z")), "Bed")["clips"]) == 1


def records(page: Page, score) -> None:
    open_panel(page)
    record(page, at_s=2, for_s=2)
    kept(page, score)


def tailors(page: Page, score) -> None:
    clip(page, "Bed").click()
    views.step(page, "tailor")
    page.get_by_label("Length", exact=True).fill("0:24")
    page.keyboard.press("Enter")
    expect(page.locator(".fold-handle").first).to_be_visible()
    length_n = lane_of(score(), "Bed")["clips"][0]["length_n"]
    assert length_n == pytest.approx(24 * RATE, abs=3 * RATE)


def hands_off(page: Page, tmp_path: Path) -> None:
    views.step(page, "handoff")
    page.get_by_role("button", name="Film with its new sound", exact=True).click()
    expect(page.locator(".made-file")).to_have_count(1)
    with page.expect_download() as download:
        page.locator(".made-file").click()
    path = tmp_path / download.value.suggested_filename
    download.value.save_as(path)
    with av.open(str(path)) as film:
        assert [stream.type for stream in film.streams] == ["video", "audio"]
        assert film.duration / av.time_base == pytest.approx(34, abs=0.2)


def is_alone(server, command) -> None:
    """A second server over the same folder is refused, and the first goes on."""
    code, said = command("serve", "--no-key", "--port", "0", "--data", server.data)
    assert (code, "in use by another Jay Lantern" in said, server.url in said) == (2, True, True), said


def survives_a_kill(page: Page, server, score, tmp_path: Path) -> None:
    """The worker is killed in the middle of an import, which is done again."""
    path = tmp_path / "Long.wav"
    soundfile.write(path, sounds.noise(seconds=LONG_S), RATE, subtype="PCM_16")
    views.step(page, "layout")
    with page.expect_file_chooser() as chooser:
        page.locator("#bring-in").click()
    chooser.value.set_files(path)
    expect(page.locator("progress").first).to_be_visible()
    page.wait_for_function(
        "() => [...document.querySelectorAll('progress')].some((each) => each.value > 0.3 * each.max)"
    )
    [worker] = of_ours("jaylantern.jobs.worker", server.data)
    worker.kill()
    expect(page.locator('.lane[data-lane="Long"]')).to_be_visible()
    assert lane_of(score(), "Long")["clips"][0]["length_n"] == LONG_S * RATE
    [again] = of_ours("jaylantern.jobs.worker", server.data)
    assert again.pid != worker.pid


def starts_again(page: Page, server, score, command) -> None:
    """After a kill everything is as it was, and the folder is sound."""
    before = score()
    server.kill()
    code, said = command("check", "--no", "--data", server.data)
    assert (code, "All of it is sound." in said) == (0, True), said
    server.again()
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    assert score() == before
    views.step(page, "handoff")
    expect(page.locator(".made-file")).to_have_count(1)


def test_six_films_of_which_one_is_killed_are_the_same_six(server, begun, tmp_path):
    """The same talk and music six times; the process of one is ended while it is at it."""
    root, out = tmp_path / "films", tmp_path / f"out-{tmp_path.name}"
    for i in range(FILMS):
        (root / f"Lesson {i}").mkdir(parents=True)
        soundfile.write(root / f"Lesson {i}" / "talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=8), RATE)
        soundfile.write(root / f"Lesson {i}" / "music.wav", sounds.music()[: 10 * RATE], RATE)
    recipe = tmp_path / "lessons.json"
    recipe.write_text(json.dumps({"talk": "talk*", "music": "music*", "hand_off": ["mix"]}))
    running = begun("batch", root, "--recipe", recipe, "--out", out)
    until = time.monotonic() + 120
    while not (making := of_ours("jaylantern.fleet.child", Path("python.exe"))) or not list(out.glob(".making-*")):
        assert time.monotonic() < until
        assert running.poll() is None
        time.sleep(0.05)
    making[0].kill()
    said, _ = running.communicate(timeout=300)
    assert running.returncode == 0, said
    mixes = sorted(out.glob("*/*.wav"))
    assert [path.parent.name for path in mixes] == [f"Lesson {i}" for i in range(FILMS)]
    assert len({hashlib.sha256(path.read_bytes()).hexdigest() for path in mixes}) == 1
    assert not list(out.glob(".making-*"))
    assert re.search(r"6 films", said) or (out / "films.csv").is_file()
