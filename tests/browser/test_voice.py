"""The Voice card of Level: parts switched and set, starting points, a suggestion, places spared, before and after."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser import views
from tests.browser.hands import lane_of

RATE = 48_000


@pytest.fixture
def voice(page: Page, ducked_project) -> Page:
    """The Voice card of a project with talk."""
    views.voice(page)
    return page


def after(page: Page, score, deed) -> dict:
    """Do something to the voice; the document once the care of Talk, or of its clip, is another: treating in the
    background makes a new revision, too."""
    was = care_of(score())
    deed()
    for _ in range(200):
        doc = score()
        if care_of(doc) != was:
            return doc
        page.wait_for_timeout(50)
    raise AssertionError("Nothing was done to the voice.")


def care_of(doc: dict) -> list:
    lane = lane_of(doc, "Talk")
    return [lane["care"], [clip["care"] for clip in lane["clips"]]]


def press(button) -> None:
    """By the keyboard: what comes and goes over the page does not matter."""
    button.focus()
    button.press("Enter")


def undo_says(page: Page, words: str) -> None:
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", re.compile(words))


def test_before_is_the_mix_with_nothing_done_and_after_is_not(voice: Page, score):
    doc = after(voice, score, lambda: voice.get_by_label("Starting point").select_option("telephone"))
    at = doc["passages"][0]["start_n"] + RATE // 2

    def heard(variant: str) -> np.ndarray:
        body = voice.request.get(f"/projects/{doc['id']}/listen/{variant}?start={at}&stop={at + RATE // 4}").body()
        return np.frombuffer(body, "<f4")

    assert np.abs(heard("bare") - heard("ducked")).max() > 1e-3
    press(voice.get_by_role("button", name="Before", exact=True))
    expect(voice.get_by_role("button", name="Before", exact=True)).to_have_attribute("aria-pressed", "true")
    assert voice.evaluate("window.jayLantern.player.variant") == "bare"
    press(voice.get_by_role("button", name="Before", exact=True))
    assert voice.evaluate("window.jayLantern.player.variant") == "ducked"


def test_without_anybody_who_speaks_the_card_says_so(page: Page, new_project):
    new_project()
    page.locator('.steps a[data-step="level"]').click()
    page.locator('[data-level-tab="voice"]').click()
    expect(page.locator("#voice-heard")).to_contain_text("Nobody speaks yet")
    expect(page.get_by_role("switch", name="Hush")).to_be_disabled()
