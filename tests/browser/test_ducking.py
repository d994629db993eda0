"""Steps 5 to 7: tags, settings, listening."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

RATE = 48_000


def leading(doc: dict) -> dict:
    """The curve of the music."""
    return doc["curves"][doc["leading"]]


def test_the_music_dips_as_soon_as_there_is_dialogue_and_music(page: Page, new_project, files, score):
    new_project()
    page.locator("#place").select_option("start")
    page.locator("#pick").set_input_files([files["talk"], files["bed"]])
    expect(page.locator(".lane")).to_have_count(2)
    expect(page.locator("#checkup")).to_contain_text("Nothing is tagged dialogue")
    page.get_by_role("link", name="Tag").click()
    page.locator("#clip-table").get_by_role("button", name="Talk.wav", exact=True).click()
    page.locator(".tag-bar").get_by_role("button", name="dialogue").click()
    expect(page.locator("#checkup")).to_contain_text("Nothing is tagged music")
    page.locator("#clip-table").get_by_role("button", name="Bed.flac", exact=True).click()
    page.locator(".tag-bar").get_by_role("button", name="music").click()
    expect(page.locator("#checkup")).to_contain_text("Every passage stands clear")
    doc = score()
    assert len(doc["passages"]) == 2
    assert min(doc["curves"][doc["leading"]]["gain_db"]) == -14


def test_a_clip_can_have_a_tag_of_its_own_and_go_back_to_its_lanes(page: Page, ducked_project, score):
    page.get_by_role("link", name="Tag").click()
    page.locator("#clip-table").get_by_role("button", name="Talk.wav", exact=True).click()
    page.locator(".tag-bar").get_by_role("button", name="effects").click()
    expect(page.locator("#missing")).to_contain_text("Nothing is tagged dialogue")
    expect(page.locator("tr[data-clip]", has_text="Talk.wav")).to_contain_text("effects own")
    assert score()["passages"] == []
    page.locator(".tag-bar").get_by_role("button", name="as their lane").click()
    expect(page.locator("tr[data-clip]", has_text="Talk.wav")).to_contain_text("dialogue lane's")
    assert len(score()["passages"]) == 2


def test_duck_amount_is_typed_with_its_percent_beside_it(page: Page, ducked_project, score):
    field = page.get_by_label("Duck amount", exact=True)
    field.fill("-20 dB")
    field.press("Enter")
    expect(page.locator('[data-knob="amount_db"] .knob-also')).to_have_text("10.0 %")
    expect(page.locator("tr[data-passage]").first).to_contain_text("−20")
    assert min(leading(score())["gain_db"]) == -20


def test_a_value_outside_its_limits_is_refused_in_words_and_the_old_one_stays(page: Page, ducked_project, score):
    field = page.locator("#knob-attack_ms")
    field.fill("99999")
    field.press("Enter")
    expect(page.locator("#said")).to_contain_text("Attack must be between 0 and 5000 ms")
    expect(field).to_have_value("350")
    field.fill("quick")
    field.press("Enter")
    expect(page.locator("#said")).to_contain_text("“quick” is not understood here: type a time")
    assert score()["settings"]["attack_ms"] == 350


def test_a_slider_dragged_is_one_step_of_the_history(page: Page, ducked_project, score):
    slider = page.locator('[data-knob="release_ms"] input[type=range]')
    box = slider.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.3, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] / 2, steps=8)
    page.mouse.up()
    expect(page.get_by_role("button", name="Undo")).to_have_attribute(
        "title", re.compile("^Undo: Release 2[0-9]{3} ms$")
    )
    assert score()["settings"]["release_ms"] > 2000
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#knob-release_ms")).to_have_value("900")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", "Undo: Tag lane Bed as music")


def test_arrow_keys_nudge_and_double_click_resets(page: Page, ducked_project, score):
    field = page.locator("#knob-hold_ms")
    field.focus()
    page.route("**/do/set_settings", lambda route: (page.wait_for_timeout(150), route.continue_()))
    field.press("ArrowUp")
    field.press("ArrowUp")
    field.press("Shift+ArrowUp")
    expect(field).to_have_value("770")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("Hold 770 ms"))
    page.unroute("**/do/set_settings")
    field.dblclick()
    expect(field).to_have_value("650")
    assert score()["settings"]["hold_ms"] == 650


def test_a_corner_of_the_dip_picture_dragged_changes_the_settings(page: Page, ducked_project, score):
    corner = page.get_by_role("slider", name="Corner of hold and duck amount")
    box = corner.locator(".knot").bounding_box()
    x, y = box["x"] + 5, box["y"] + 5
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 20, y + 20, steps=5)
    page.mouse.up()
    expect(page.get_by_label("Duck amount", exact=True)).not_to_have_value("−14")
    settings = score()["settings"]
    assert settings["amount_db"] < -14
    assert settings["hold_ms"] > 650
    assert settings["attack_ms"] == 350
    corner.focus()
    corner.press("ArrowUp")
    expect(page.get_by_role("button", name="Undo")).to_have_attribute("title", re.compile("Duck amount"))


def test_play_moves_the_time_and_switches_between_ducked_and_plain_without_stopping(page: Page, ducked_project):
    windows: list[str] = []
    page.on("request", lambda asked: windows.append(asked.url) if "/listen/" in asked.url else None)
    page.keyboard.press("Space")
    expect(page.locator("body.playing")).to_be_visible()
    expect(page.locator("#now")).to_have_value(re.compile(r"00:0[1-9]"))
    expect(page.locator("#meter-said")).to_have_text(re.compile(r"−\d+\.\d LUFS · −\d+\.\d dBTP"))
    assert all("/listen/ducked" in url for url in windows)
    windows.clear()
    page.get_by_role("button", name="Plain", exact=True).click()
    expect(page.get_by_role("button", name="Plain", exact=True)).to_have_attribute("aria-pressed", "true")
    page.wait_for_function("() => true")
    expect(page.locator("body.playing")).to_be_visible()
    page.keyboard.press("b")
    expect(page.get_by_role("button", name="Ducked", exact=True)).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Space")
    expect(page.locator("body.playing")).to_have_count(0)
    assert any("/listen/plain" in url for url in windows)


def test_a_setting_changed_while_playing_is_fetched_at_once(page: Page, ducked_project):
    page.keyboard.press("Space")
    expect(page.locator("#now")).to_have_value(re.compile(r"00:00\.[5-9]|00:01"))
    with page.expect_response(lambda answer: "/do/set_settings" in answer.url) as changed:
        page.get_by_label("Duck amount slider").press("ArrowLeft")
    revision = changed.value.json()["revision"]
    with page.expect_response(lambda answer: "/listen/" in answer.url) as window:
        pass
    assert int(window.value.headers["x-revision"]) >= revision - 1
    page.keyboard.press("Space")


def test_the_picture_is_in_step_while_it_plays(page: Page, ducked_project):
    page.wait_for_function("() => document.querySelector('video.front').readyState >= 2")
    page.keyboard.press("Space")
    expect(page.locator("#now")).to_have_value(re.compile(r"00:0[3-9]"))
    off = page.evaluate(
        """() => {
            const [minutes, seconds] = document.getElementById('now').value.split(':').map(Number);
            return document.querySelector('video.front').currentTime - (60 * minutes + seconds);
        }"""
    )
    assert abs(off) < 0.15
    page.keyboard.press("Space")


def test_the_picture_shows_the_frame_under_the_playhead(page: Page, ducked_project):
    page.wait_for_function("() => document.querySelector('video.front').readyState >= 2")
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    page.wait_for_function("() => Math.abs(document.querySelector('video.front').currentTime - 3) < 0.05")
    expect(page.locator("#now")).to_have_value("00:03.000")


def test_stepping_from_passage_to_passage_and_looping_one(page: Page, ducked_project, score):
    page.keyboard.press(".")
    expect(page.locator("tr.chosen td").first).to_have_text("1")
    page.keyboard.press(".")
    expect(page.locator("tr.chosen td").first).to_have_text("2")
    page.keyboard.press(",")
    expect(page.locator("tr.chosen td").first).to_have_text("1")
    first = score()["passages"][0]
    page.get_by_role("button", name="Loop passage").click()
    expect(page.get_by_role("button", name="Loop passage")).to_have_attribute("aria-pressed", "true")
    asked: list[int] = []
    page.on(
        "request", lambda r: asked.append(int(re.search(r"start=(\d+)", r.url)[1])) if "/listen/" in r.url else None
    )
    page.keyboard.press("Space")
    length_s = (first["dip"]["up_n"] - first["dip"]["from_n"]) / RATE + 3

    def came_round(request) -> bool:
        return "/listen/" in request.url and len(set(asked)) < len(asked)

    with page.expect_request(came_round, timeout=1000 * (length_s + 90)):
        pass
    page.keyboard.press("Space")
    assert max(asked) < first["dip"]["up_n"] + 2 * RATE


def test_mute_and_solo_are_heard_and_muted_dialogue_causes_no_dips(page: Page, ducked_project, score):
    page.get_by_role("button", name="Mute Talk").click()
    expect(page.locator("#checkup")).to_contain_text("Talk.wav is tagged dialogue but muted")
    assert score()["passages"] == []
    page.get_by_role("button", name="Mute Talk").click()
    page.get_by_role("button", name="Solo Bed").click()
    expect(page.get_by_role("button", name="Solo Bed")).to_have_attribute("aria-pressed", "true")
    assert len(score()["passages"]) == 2  # solo is for listening only


def test_every_step_is_a_click_away_and_survives_a_reload(page: Page, ducked_project):
    for step in ("Lay out", "Tag", "Duck", "Hand off"):
        page.get_by_role("link", name=step).click()
        expect(page.get_by_role("link", name=step)).to_have_attribute("aria-current", "step")
        page.reload()
        expect(page.get_by_role("link", name=step)).to_have_attribute("aria-current", "step")
        expect(page.locator(".lane")).to_have_count(4)


def test_a_fader_is_dragged_typed_and_reset(page: Page, ducked_project, score):
    gain = page.get_by_label("Gain of Bed")
    gain.fill("-6,5")
    gain.press("Enter")
    expect(gain).to_have_value("−6.5 dB")
    page.get_by_label("Fader of Bed").press("ArrowRight")
    expect(gain).to_have_value("−6.0 dB")
    gain.fill("400")
    gain.press("Enter")
    expect(page.locator("#said")).to_contain_text("A fader must be a number from -90 to 24 dB")
    expect(gain).to_have_value("−6.0 dB")
    gain.dblclick()
    expect(gain).to_have_value("0.0 dB")
    assert next(lane for lane in score()["lanes"] if lane["name"] == "Bed")["gain_db"] == 0


def test_the_browsers_back_button_goes_back_a_step(page: Page, ducked_project):
    page.get_by_role("link", name="Tag").click()
    expect(page.locator('[data-tray="tag"]')).to_be_visible()
    page.get_by_role("link", name="Hand off").click()
    expect(page.locator('[data-tray="handoff"]')).to_be_visible()
    page.go_back()
    expect(page.locator('[data-tray="tag"]')).to_be_visible()
    expect(page.get_by_role("link", name="Tag")).to_have_attribute("aria-current", "step")
    expect(page.locator("body.ready")).to_be_visible()
