"""Many films: a run that goes is drawn anew by itself, one of before opens."""

from __future__ import annotations

import json

from playwright.sync_api import Page, expect

from jaylantern.fleet import board


def test_a_run_is_seen_going_on_and_an_older_one_opens(page: Page, server):
    page.goto("/")
    page.get_by_role("link", name="Many films").click()
    running = page.get_by_role("region", name="Run of lessons.json").first
    expect(running.get_by_text("running")).to_be_visible()
    expect(running.get_by_role("progressbar", name="Lesson 3")).to_have_attribute("aria-valuenow", "40")
    path = server.data / board.FOLDER / "2.json"
    was = path.read_text()
    kept = json.loads(was)
    kept["rows"][2]["share"] = 0.83
    path.write_text(json.dumps(kept))
    expect(running.get_by_role("progressbar", name="Lesson 3")).to_have_attribute("aria-valuenow", "83")
    path.write_text(was)
    page.locator("summary", has_text="1 not made").click()
    expect(page.get_by_role("region", name="Run of lessons.json")).to_have_count(2)
    with page.expect_download() as kept:
        page.get_by_role("link", name="CSV").first.click()
    assert kept.value.suggested_filename == "films-2.csv"
