"""A real microphone's path: Chromium's own pretended device, which beeps once a second."""

from __future__ import annotations

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import CHROMIUM_FLAGS
from tests.browser.hands import RATE, lane_of, put_playhead
from tests.browser.test_voice_take import count

PRETENDED = ("--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream")


@pytest.fixture
def hearing_page(browser_type, browser_type_launch_args, demo_page_url) -> Page:
    """The demo's page in a browser that has a microphone."""
    flags = [*CHROMIUM_FLAGS, *PRETENDED]
    browser = browser_type.launch(**{**browser_type_launch_args, "args": flags})
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(demo_page_url)
    expect(page.locator("body.ready")).to_be_visible()
    yield page
    browser.close()


@pytest.fixture
def demo_page_url(base_url, page: Page) -> str:
    page.goto("/")
    return f"{base_url}{page.locator('.shelf-name', has_text='The Clock at Alder Quay').last.get_attribute('href')}"


def test_a_microphone_of_the_machine_is_picked_and_heard(hearing_page: Page):
    page = hearing_page
    page.get_by_role("link", name="Lay out").click()
    page.get_by_role("tab", name="Voice take").click()
    options = page.get_by_label("Microphone", exact=True).locator("option")
    expect(options).not_to_have_count(1)
    page.get_by_label("Microphone", exact=True).select_option(index=0)
    put_playhead(page, 4 * RATE)
    page.get_by_role("button", name="Record at the playhead").click()
    count(page, 2.5)
    page.locator("#record").click()
    expect(page.locator("#takes")).to_contain_text("from 00:04.00")
    page.get_by_role("button", name="Keep Take").first.click()
    expect(page.locator('.lane[data-lane="Voice takes"]')).to_be_visible()
    doc = page.evaluate("window.jayLantern.pageDoc.doc")
    take = lane_of(doc, "Voice takes")["clips"][-1]
    assert take["start_n"] == 4 * RATE
    page.get_by_role("button", name="Solo Voice takes").click()
    expect(page.get_by_role("button", name="Solo Voice takes")).to_have_attribute("aria-pressed", "true")
    window = f"/projects/{doc['id']}/listen/plain?start={4 * RATE}&stop={6 * RATE}"
    heard = np.frombuffer(page.request.get(page.url.split("/projects")[0] + window).body(), "<f4")
    assert np.abs(heard).max() > 0.01  # it beeps
