"""What a person's hand does on the timeline, for tests: find a clip, take hold of it, drag it."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Locator, Page, expect

RATE = 48_000


def clip(page: Page, lane: str, nth: int = -1) -> Locator:
    """A clip of the last lane of that name, in the order they lie."""
    boxes = page.locator(f'.lane[data-lane="{lane}"]').last.locator(".clip:not([hidden])")
    return boxes.nth(nth)


def middle(locator: Locator) -> tuple[float, float]:
    """Its middle on the page."""
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def spot(locator: Locator, x: float, y: float = 0.6) -> tuple[float, float]:
    """A place in it, as shares of width and height."""
    box = locator.bounding_box()
    return box["x"] + box["width"] * x, box["y"] + box["height"] * y


def px_of(page: Page, time_n: float) -> float:
    """Where a time lies on the page."""
    x = page.evaluate("(time_n) => window.jayLantern.timeline.view.x(time_n)", time_n)
    return page.locator(".tl-ruler canvas").bounding_box()["x"] + x


def n_per_px(page: Page) -> float:
    """Samples to a pixel as the timeline is shown."""
    return page.evaluate("window.jayLantern.timeline.view.n_per_px")


def drag(page: Page, start: tuple[float, float], end: tuple[float, float], *, keys: tuple[str, ...] = ()) -> None:
    """Press, draw, let go, while keys are held."""
    page.mouse.move(*start)
    for key in keys:
        page.keyboard.down(key)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=3)
    page.mouse.move(*end, steps=3)
    page.mouse.up()
    for key in keys:
        page.keyboard.up(key)


def click(page: Page, place: tuple[float, float], *, keys: tuple[str, ...] = ()) -> None:
    """A click while keys are held."""
    for key in keys:
        page.keyboard.down(key)
    page.mouse.click(*place)
    for key in keys:
        page.keyboard.up(key)


def lane_of(doc: dict, name: str) -> dict:
    """The last lane of that name."""
    return [lane for lane in doc["lanes"] if lane["name"] == name][-1]


def after(page: Page, score: Callable[[], dict], deed: Callable[[], object]) -> dict:
    """Do something that changes the project; the document once the change is there."""
    revision = page.evaluate("window.jayLantern.pageDoc.doc.revision")
    deed()
    page.wait_for_function("(was) => window.jayLantern.pageDoc.doc.revision > was", arg=revision)
    return score()


def put_playhead(page: Page, time_n: int) -> None:
    """The playhead to an exact place, as a click would with luck."""
    page.evaluate("(time_n) => window.jayLantern.player.seek(time_n)", time_n)


def expect_undo(page: Page, words: str) -> None:
    """The undo button says what it would take back."""
    expect(page.get_by_role("button", name="Undo", exact=True)).to_have_attribute("title", f"Undo: {words}")


def chosen(page: Page) -> set[int]:
    """Numbers of the chosen clips."""
    return set(page.evaluate("[...window.jayLantern.selection.clips]"))


def ids(doc: dict, lane: str) -> list[int]:
    """Numbers of the clips of a lane, in order."""
    return [each["id"] for each in lane_of(doc, lane)["clips"]]


def spans(doc: dict, lane: str) -> list[tuple[int, int]]:
    """Where the clips of a lane begin and end."""
    return [(each["start_n"], each["start_n"] + each["length_n"]) for each in lane_of(doc, lane)["clips"]]


def split_talk(page: Page, score: Callable[[], dict], *, at_s: float) -> dict:
    """Split the first clip of Talk, or the one that has the focus there."""
    clip(page, "Talk").focus()
    put_playhead(page, round(at_s * RATE))
    return after(page, score, lambda: page.keyboard.press("s"))
