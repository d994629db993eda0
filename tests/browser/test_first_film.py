"""The whole first film by mouse: from files to a film with its music ducked, counting the clicks."""

from __future__ import annotations

import time

from playwright.sync_api import Page, expect

MOST_CLICKS = 10


def test_from_files_to_film_in_ten_clicks(page: Page, files, capsys):
    clicks = 0

    def click(where) -> None:
        nonlocal clicks
        clicks += 1
        where.click()

    page.goto("/")
    began = time.monotonic()
    with page.expect_file_chooser() as chooser:
        click(page.locator(".shelf-drop"))
    chooser.value.set_files([files["film"], files["talk"], files["bed"]])
    page.wait_for_url("**/layout")
    expect(page.locator(".lane")).to_have_count(4)
    click(page.get_by_role("link", name="Tag"))
    click(page.get_by_role("button", name="Accept all"))
    expect(page.locator("#missing")).to_contain_text("Ready to duck")
    click(page.get_by_role("link", name="Hand off"))
    click(page.get_by_role("button", name="Film with its new sound"))
    expect(page.locator(".made-file")).to_have_count(1)
    with page.expect_download() as download:
        click(page.locator(".made-file"))
    assert download.value.path().stat().st_size > 100_000
    took_s = time.monotonic() - began
    with capsys.disabled():
        print(f"\nfirst film: {clicks} clicks, {took_s:.1f} s")
    assert clicks <= MOST_CLICKS
