"""The pure modules of the page, called in Chromium without a page of ours or a server."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser

from tests.browser.conftest import browser_type_launch_args  # noqa: F401 – the same Chromium

SCRIPTS = Path(__file__).parents[2] / "src/jaylantern/web/static/js"
ADDRESS = "http://pure.test"


class Module:
    """A module; its functions are called with values fit for JSON."""

    def __init__(self, page: Any, name: str) -> None:
        self._page, self._name = page, name

    def call(self, function: str, *values: Any) -> Any:
        """What a function answers; NaN comes as the word."""
        return self._page.evaluate(
            "async ([module, name, values]) => { const found = (await import(module))[name](...values);"
            " return Number.isNaN(found) ? 'NaN' : found instanceof Float32Array ? [...found] : found; }",
            [f"{ADDRESS}/{self._name}", function, json.loads(json.dumps(values))],
        )

    def run(self, script: str) -> Any:
        """What a piece of script answers that is given the module as `m`."""
        return self._page.evaluate(
            f"async (module) => {{ const m = await import(module); {script} }}", f"{ADDRESS}/{self._name}"
        )


@pytest.fixture(scope="session")
def blank(browser: Browser):
    """A page with nothing on it that finds our modules."""
    page = browser.new_page()
    page.route(
        f"{ADDRESS}/**",
        lambda route: route.fulfill(
            body=(SCRIPTS / route.request.url.removeprefix(f"{ADDRESS}/")).read_text("utf-8")
            if route.request.url.endswith(".js")
            else "<!doctype html>",
            content_type="text/javascript" if route.request.url.endswith(".js") else "text/html",
        ),
    )
    page.goto(f"{ADDRESS}/")
    yield page
    page.close()


@pytest.fixture
def module(blank):
    """A module by its file."""
    return lambda name: Module(blank, name)
