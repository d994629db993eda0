"""What got in the way of a working editor, each as it was tried: keys behind cards, units, steps back, focus."""

from __future__ import annotations

from contextlib import closing

import pytest
from playwright.sync_api import Page, expect

from jaylantern import commands
from jaylantern.workspace.workspace import Workspace
from tests.browser import views
from tests.browser.hands import after, chosen, clip, drag, expect_undo, ids, lane_of, put_playhead, px_of, split_talk

pytestmark = pytest.mark.usefixtures("ducked_project")
RATE = 48_000


def clips_of(doc: dict) -> list[int]:
    return [each["id"] for lane in doc["lanes"] for each in lane["clips"]]


def choose_talk(page: Page, score) -> int:
    (talk,) = ids(score(), "Talk")
    page.evaluate("(id) => window.jayLantern.selection.choose([id])", talk)
    return talk


# — keys act on what is on top —


@pytest.mark.parametrize("view", ["card of points", "card of presets", "card of history", "exact values", "keys"])
def test_no_key_goes_through_to_the_film_behind(page, score, view):
    choose_talk(page, score)
    before = clips_of(score())
    for key in ("Delete", "Backspace", "x", "s", "Control+x"):
        views.VIEWS[view](page)
        choose_talk(page, score)
        page.keyboard.press(key)
        page.keyboard.press("Escape")
        expect(page.locator("dialog[open], .drop-card:visible")).to_have_count(0)  # what was on top is closed
        assert clips_of(score()) == before, key


def test_delete_on_the_button_a_menu_came_from_leaves_the_clip(page, score):
    views.pressed("#hear-only")(page)
    choose_talk(page, score)
    page.keyboard.press("Escape")
    expect(page.locator("#hear-only")).to_be_focused()
    page.keyboard.press("Delete")
    assert len(ids(score(), "Talk")) == 1
    page.keyboard.press("Escape")
    clip(page, "Talk").focus()
    after(page, score, lambda: page.keyboard.press("Delete"))
    assert ids(score(), "Talk") == []


# — what is typed —


def test_units_that_are_typed_into_a_knob(page, score):
    field = page.locator("#knob-attack_ms")
    for typed, value in (("1 s", 1000), ("0.5s", 500), ("0,35 s", 350), ("12 frames", 480), ("00:00.2", 200)):
        field.fill(typed)
        field.press("Enter")
        expect(field).to_have_value(f"{value:g}")
        assert score()["settings"]["attack_ms"] == value
    for typed in ("−6 dB", "much", "5 %"):
        field.fill(typed)
        field.press("Enter")
        expect(page.locator("#said .trouble")).to_contain_text(f"“{typed}” is not understood here: type a time")
        expect(field).to_have_value("200")
    assert score()["settings"]["attack_ms"] == 200


def test_begin_and_end_of_a_passage_and_of_a_clip_are_typed(page, score):
    page.keyboard.press("Shift+E")
    page.get_by_label("Ends at").fill("00:07.5")
    page.get_by_label("Begins at").fill("4.25 s")
    after(page, score, lambda: page.keyboard.press("Enter"))
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.passages[0].start_n === 204000")
    passage = score()["passages"][0]
    assert (passage["start_n"], passage["stop_n"]) == (round(4.25 * RATE), round(7.5 * RATE))
    page.keyboard.press("Control+z")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.passages[0].start_n !== 204000")
    choose_talk(page, score)
    page.keyboard.press("Alt+e")
    page.get_by_label("Begins at").fill("2 s")
    page.get_by_label("Ends at").fill("30")
    page.keyboard.press("Enter")
    page.wait_for_function(
        "() => window.jayLantern.pageDoc.doc.lanes.find((l) => l.name === 'Talk').clips[0].length_n === 28 * 48000"
    )
    assert lane_of(score(), "Talk")["clips"][0]["start_n"] == 2 * RATE


# — one gesture, one step —


def test_twenty_presses_of_an_arrow_are_one_step(page, score):
    was = score()["settings"]["attack_ms"]
    field = page.locator("#knob-attack_ms")
    field.focus()
    for _ in range(20):
        field.press("ArrowUp")
    page.wait_for_function("(to) => window.jayLantern.pageDoc.doc.settings.attack_ms === to", arg=was + 200)
    page.keyboard.press("Tab")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("Control+z")
    page.wait_for_function("(to) => window.jayLantern.pageDoc.doc.settings.attack_ms === to", arg=was)


@pytest.mark.parametrize("key", ["Alt+ArrowRight", "Shift+ArrowUp"])
def test_twenty_nudges_of_a_clip_are_one_step(page, score, key):
    choose_talk(page, score)
    before = lane_of(score(), "Talk")["clips"]
    clip(page, "Talk").focus()
    for _ in range(20):
        page.keyboard.press(key)
    page.evaluate("() => window.jayLantern.pageDoc.do('set_in', { at_n: 5 })")  # after all of them
    after(page, score, lambda: page.keyboard.press("Control+z"))
    after(page, score, lambda: page.keyboard.press("Control+z"))
    assert lane_of(score(), "Talk")["clips"] == before


def test_undo_brings_the_choice_back(page, score):
    doc = split_talk(page, score, at_s=12)
    both = ids(doc, "Talk")
    page.evaluate("(ids) => window.jayLantern.selection.choose(ids)", both)
    page.locator(".tl-rows").focus()
    after(page, score, lambda: page.keyboard.press("Delete"))
    assert chosen(page) == set()
    after(page, score, lambda: page.keyboard.press("Control+z"))
    assert chosen(page) == set(both)


def test_a_step_of_another_window_is_spoken_of_before_it_is_taken_back(page, score):
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.locator("body.ready")).to_be_visible()
    other.evaluate("() => window.jayLantern.pageDoc.do('rename_project', { name: 'Renamed there' })")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.name === 'Renamed there'")
    page.keyboard.press("Control+z")
    expect(page.locator("#said")).to_contain_text("was made in another window")
    assert score()["name"] == "Renamed there"
    after(page, score, lambda: page.keyboard.press("Control+z"))
    assert score()["name"] != "Renamed there"


def test_undo_of_what_was_not_seen_is_refused_and_shown(page, score, server):
    number = page.evaluate("Number(document.body.dataset.project)")
    page.evaluate("() => window.jayLantern.pageDoc.do('set_in', { at_n: 48000 })")
    page.route("**/pulse", lambda route: route.abort())
    with closing(Workspace(server.data).folder.connect()) as db:
        commands.do(db, number, "rename_project", {"name": "Changed unseen"})
    page.evaluate("() => window.jayLantern.pageDoc.undo().catch(() => {})")
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.name === 'Changed unseen'")
    assert score()["in_n"] == RATE


# — passages —


def test_split_works_right_after_a_passage_is_chosen(page, score):
    choose_talk(page, score)
    page.locator("tr[data-passage]").nth(1).click()
    start_n = score()["passages"][1]["start_n"]
    after(page, score, lambda: page.keyboard.press("s"))
    assert len(ids(score(), "Talk")) == 2
    assert lane_of(score(), "Talk")["clips"][1]["start_n"] == pytest.approx(start_n, abs=1)


def test_playing_from_a_chosen_passage_begins_a_little_before_it(page, score):
    page.locator("tr[data-passage]").nth(1).click()
    start_n = score()["passages"][1]["start_n"]
    assert page.evaluate("window.jayLantern.player.now_n") == start_n
    page.keyboard.press("Space")
    page.wait_for_function("() => window.jayLantern.player.now_n > 0 && window.jayLantern.player.playing")
    assert page.evaluate("window.jayLantern.player.now_n") < start_n - RATE / 2
    page.keyboard.press("Space")


def test_after_accept_all_edges_of_passages_can_be_dragged(page, score, server):
    number = page.evaluate("Number(document.body.dataset.project)")
    with closing(Workspace(server.data).folder.connect()) as db:
        for name in ("Talk", "Bed"):
            commands.do(db, number, "tag_lane", {"lane_id": lane_of(score(), name)["id"], "tag": "untagged"})
        doc = score()
        tags = {str(ids(doc, "Talk")[0]): "dialogue", str(ids(doc, "Bed")[0]): "music"}
        commands.do(db, number, "tag_each", {"tags": tags})
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    doc = score()
    assert (lane_of(doc, "Talk")["tag"], lane_of(doc, "Bed")["tag"]) == ("dialogue", "music")
    expect(page.get_by_label("Tag of lane Talk")).to_have_value("dialogue")
    drag_edge(page, doc, score)


def drag_edge(page, doc, score) -> None:
    stop_n = doc["passages"][0]["stop_n"]
    box = page.locator('.lane[data-lane="Talk"] .lane-body').bounding_box()
    start = (px_of(page, stop_n), box["y"] + 5)
    after(page, score, lambda: drag(page, start, (start[0] + 40, start[1]), keys=("Alt",)))
    assert score()["passages"][0]["stop_n"] > stop_n


def test_a_clip_with_a_tag_of_its_own_makes_its_lane_speak(page, score, server):
    number = page.evaluate("Number(document.body.dataset.project)")
    with closing(Workspace(server.data).folder.connect()) as db:
        commands.do(db, number, "tag_lane", {"lane_id": lane_of(score(), "Talk")["id"], "tag": "untagged"})
        commands.do(db, number, "tag_clips", {"clip_ids": ids(score(), "Talk"), "tag": "dialogue"})
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.get_by_label("Tag of lane Talk")).to_have_value("dialogue")
    drag_edge(page, score(), score)
    views.step(page, "tag")
    expect(page.locator("#branches .post")).not_to_contain_text("Talk")  # it is not said to be left at its level


# — keys of one's own, playing back and on —


def test_a_key_is_changed_kept_and_shown(page, score):
    views.keys(page)
    page.locator('[data-action="split"]').click()
    page.keyboard.press("b")
    expect(page.locator("[data-keys-said]")).to_contain_text("B is taken")
    page.locator('[data-action="split"]').click()
    page.keyboard.press("Shift+R")
    expect(page.locator('[data-action="split"]')).to_contain_text("Shift+R")
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator('[data-act="split"]')).to_have_attribute(
        "title", "Split the chosen clips at the playhead (Shift+R)"
    )
    choose_talk(page, score)
    put_playhead(page, 12 * RATE)
    after(page, score, lambda: page.keyboard.press("Shift+R"))
    assert len(ids(score(), "Talk")) == 2
    views.keys(page)
    page.get_by_role("button", name="All keys as they were made").click()
    expect(page.locator('[data-action="split"]')).to_contain_text("S")


def test_j_k_l_play_back_stop_and_on(page, score):
    put_playhead(page, 10 * RATE)
    page.keyboard.press("l")
    page.wait_for_function("() => window.jayLantern.player.now_n > 10.2 * 48000")
    page.keyboard.press("l")
    assert page.evaluate("window.jayLantern.player.rate") == 2
    first = page.evaluate("[window.jayLantern.player.now_n, window.jayLantern.player.context.currentTime]")
    page.wait_for_function("(n) => window.jayLantern.player.now_n > n + 72000", arg=first[0])
    page.keyboard.press("k")
    assert not page.evaluate("window.jayLantern.player.playing")
    put_playhead(page, 10 * RATE)
    page.keyboard.press("j")
    page.wait_for_function("() => window.jayLantern.player.now_n < 9.5 * 48000")
    page.keyboard.press("k")
    assert page.evaluate("window.jayLantern.player.now_n") < 9.5 * RATE


def test_begin_end_and_closing_have_keys_of_our_own(page, score):
    choose_talk(page, score)
    put_playhead(page, 6 * RATE)
    for old in ("q", "w"):
        page.keyboard.press(old)
    assert len(ids(score(), "Talk")) == 1
    after(page, score, lambda: page.keyboard.press("Shift+Home"))
    expect_undo(page, "Trim the start of Talk.wav")


# — the focus stays —

BODY = "() => document.activeElement === document.body"


def focused(page: Page) -> str:
    page.evaluate(
        "async () => { for (let i = 0; i < 3; i += 1) await new Promise((done) => requestAnimationFrame(done)); }"
    )
    return page.evaluate(
        "() => { const at = document.activeElement; return at === document.body ? 'BODY'"
        " : at.id || at.getAttribute('aria-label') || at.textContent.trim().slice(0, 40); }"
    )


def test_the_focus_stays_after_a_choice_enter_and_a_move(page, score):
    page.keyboard.press("Tab")  # a person who works by keys
    field = page.locator("#knob-attack_ms")
    field.focus()
    page.keyboard.press("Control+a")
    page.keyboard.type("400")
    after(page, score, lambda: page.keyboard.press("Enter"))
    assert focused(page) == "knob-attack_ms"
    page.locator("#option-fall").focus()
    after(page, score, lambda: page.keyboard.press("ArrowDown"))
    assert focused(page) == "option-fall"
    views.step(page, "tag")
    page.get_by_role("button", name="music higher").focus()
    after(page, score, lambda: page.keyboard.press("Enter"))
    page.wait_for_function("() => !document.querySelector('.htmx-request') && document.activeElement !== document.body")
    views.step(page, "layout")
    page.get_by_role("button", name="Place Bed.flac").focus()
    after(page, score, lambda: page.keyboard.press("Enter"))
    page.wait_for_timeout(300)
    assert focused(page) == "Place Bed.flac at the playhead"
    views.step(page, "handoff")
    page.get_by_role("button", name="Mix", exact=True).focus()
    page.keyboard.press("Enter")
    expect(page.locator(".made-file")).to_have_count(1)
    assert focused(page) == "Mix"
    page.locator(".made-item").get_by_role("button", name="Remove").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".made-file")).to_have_count(0)
    assert focused(page) != "BODY"


def test_the_focus_stays_when_what_had_it_is_gone(page, score):
    clip(page, "Talk").focus()
    after(page, score, lambda: page.keyboard.press("Delete"))
    assert focused(page) != "BODY"
    page.locator("#undo").focus()
    after(page, score, lambda: page.keyboard.press("Enter"))
    assert focused(page) == "undo"


def test_escape_gives_up_what_was_typed_into_a_name(page, score):
    name = score()["name"]
    field = page.locator("#film-name")
    field.click()
    page.keyboard.press("Control+a")
    page.keyboard.type("Never meant")
    page.keyboard.press("Escape")
    expect(field).to_have_value(name)
    assert focused(page) != "BODY"
    assert score()["name"] == name


def test_panels_opened_by_key_take_the_focus(page):
    page.keyboard.press("p")
    expect(page.locator("#pause-longest")).to_be_focused()
    page.keyboard.press("Tab")
    views.step(page, "duck")
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("r")
    expect(page.locator("#record")).to_be_focused()
    page.evaluate("document.activeElement.blur()")
    page.keyboard.press("2")
    expect(page.locator("#tray")).to_be_focused()


def test_what_is_drawn_and_done_is_said_in_words(page, score):
    said = page.locator("canvas[role=img]").evaluate_all("(all) => all.map((each) => each.getAttribute('aria-label'))")
    assert any(each.startswith("Sound of Talk: 1 clip, dialogue; 2 passages") for each in said)
    assert any("gain curve of" in each for each in said)
    assert any(each.startswith("Passage 1, from") for each in said)
    choose_talk(page, score)
    after(page, score, lambda: page.keyboard.press("Alt+ArrowRight"))
    expect(page.locator("#did")).to_have_text(score()["undo"])


def test_a_refusal_that_was_to_be_expected_is_no_error_in_the_console(page, score):
    errors = []
    page.on("console", lambda said: errors.append(said.text) if said.type == "error" else None)
    choose_talk(page, score)
    put_playhead(page, 300 * RATE)
    page.keyboard.press("s")
    expect(page.locator("#said .trouble")).to_contain_text("Nothing to split")
    assert errors == []


def test_a_silent_server_is_said_until_it_answers_again(page, score):
    page.route("**/do/**", lambda route: route.abort())
    page.route("**/pulse", lambda route: route.abort())
    choose_talk(page, score)
    page.keyboard.press("h")
    expect(page.locator("#said .trouble")).to_contain_text("The server does not answer")
    page.unroute("**/do/**")
    page.unroute("**/pulse")
    expect(page.locator("#said .trouble")).to_have_count(0)


def test_the_tray_is_folded_doubled_dragged_and_remembered(page):
    height = lambda: page.locator("#work").bounding_box()["height"]  # noqa: E731
    usual = height()
    page.keyboard.press("Alt+t")
    assert height() < 30
    page.keyboard.press("Alt+t")
    assert height() == pytest.approx(usual, abs=1)
    grip = page.locator("#tray-grip").bounding_box()
    at = (grip["x"] + 8, grip["y"] + 8)
    drag(page, at, (at[0], at[1] + 60))
    assert height() == pytest.approx(usual + 60, abs=2)
    page.reload()
    expect(page.locator("body.ready")).to_be_visible()
    assert height() == pytest.approx(usual + 60, abs=2)
    page.keyboard.press("Alt+Shift+t")
    assert height() == pytest.approx(usual, abs=2)


def test_notices_lie_over_nothing_and_can_be_read_again(page):
    page.keyboard.press("n")
    note = page.locator("#said .note").bounding_box()
    assert (
        note["y"] > page.locator(".timeline").bounding_box()["y"] + page.locator(".timeline").bounding_box()["height"]
    )
    field = page.locator(".fader-said").first
    field.fill("nonsense")
    field.press("Enter")
    expect(page.locator("#said .trouble")).to_contain_text("“nonsense” is not understood here")
    at = page.locator("#undo").bounding_box()
    for _ in range(2):
        page.mouse.click(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.wait_for_function("() => window.jayLantern.pageDoc.doc.redo_id !== null")
    expect(page.locator("#said .trouble")).to_have_count(0)  # something else was done
    page.locator("#show-history").click()
    expect(page.locator("#history .said-list")).to_contain_text("“nonsense” is not understood here")
    page.keyboard.press("Escape")
    expect(page.locator("#show-history")).to_be_focused()


def test_words_that_are_cut_off_show_whole(page):
    page.set_viewport_size({"width": 1024, "height": 640})
    page.locator("#film-name").fill("A film whose name is far longer than any place there could ever be for it")
    page.locator("#film-name").press("Enter")
    page.mouse.move(5, 300)
    page.locator("#film-name").hover()
    expect(page.locator(".whole-words")).to_have_text(
        "A film whose name is far longer than any place there could ever be for it"
    )
