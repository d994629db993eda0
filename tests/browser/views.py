"""Every view of the application that a person can be looking at, by name, and how to come there from the Duck step of a
ducked film. Layout, accessibility and keys are tested on all of them."""

from __future__ import annotations

from collections.abc import Callable

from playwright.sync_api import Page, expect

Open = Callable[[Page], object]


def step(page: Page, name: str) -> None:
    """Go to a step and wait for its tray."""
    page.locator(f'.steps a[data-step="{name}"]').click()
    expect(page.locator(f'[data-tray="{name}"]')).to_be_visible()
    page.wait_for_function("() => !document.querySelector('.htmx-request')")


def panel(name: str) -> Open:
    """A panel of Lay out."""

    def show(page: Page) -> None:
        step(page, "layout")
        page.locator(f"#tab-{name}").click()

    return show


def mode(name: str) -> Open:
    """Duck in one of its modes."""

    def show(page: Page) -> None:
        step(page, "duck")
        page.locator(f'[data-set-mode="{name}"]').click()
        expect(page.locator(f'[data-set-mode="{name}"]')).to_have_attribute("aria-pressed", "true")

    return show


def card(where: str, button: str) -> Open:
    """A card that drops down from a button of a step."""

    def show(page: Page) -> None:
        step(page, where)
        page.locator(f"#{button}").click()
        expect(page.locator(".drop-card:visible")).to_have_count(1)

    return show


def _choose(page: Page) -> None:
    """Choose the talk on the timeline, as the keys do."""
    page.evaluate(
        "() => { const { pageDoc, selection } = window.jayLantern;"
        " selection.choose([pageDoc.doc.lanes.find((lane) => lane.speaks).clips[0].id]); }"
    )


def chosen(page: Page) -> None:
    """Lay out with a clip chosen."""
    panel("media")(page)
    _choose(page)
    expect(page.locator("#clip-gain")).to_be_visible()


def menu(key: str, where: str = "duck") -> Open:
    """A menu that a key opens for the chosen clip."""

    def show(page: Page) -> None:
        step(page, where)
        _choose(page)
        page.keyboard.press(key)
        expect(page.locator(".menu")).to_be_visible()

    return show


def clip_menu(page: Page) -> None:
    """The menu of clips."""
    chosen(page)
    page.locator("#clip-more").click()
    expect(page.locator(".menu")).to_be_visible()


def pressed(button: str, where: str = "duck") -> Open:
    """A menu that a button opens."""

    def show(page: Page) -> None:
        step(page, where)
        page.locator(button).first.click()
        expect(page.locator(".menu")).to_be_visible()

    return show


def keys(page: Page) -> None:
    """The sheet of keys."""
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()


def exact(page: Page) -> None:
    """The dialog of exact values of a point."""
    mode("passage")(page)
    page.keyboard.press("]")
    page.keyboard.press("e")
    expect(page.locator("dialog.exact")).to_be_visible()


def band(page: Page) -> None:
    """Duck with only the speech band giving way."""
    mode("passage")(page)
    page.locator("#option-band").select_option("speech")
    expect(page.locator(".band-edges")).to_be_visible()


def passage_scope(page: Page) -> None:
    """Duck with the knobs set for one passage."""
    mode("passage")(page)
    page.locator("#scope").select_option("passage")


def measured(page: Page) -> None:
    """Level, the mix measured."""
    step(page, "level")
    expect(page.locator(".loud tbody tr").first).to_be_visible()
    expect(page.locator("#measured:not(.htmx-request)")).to_be_visible()
    expect(page.locator(".matches tbody tr").first).to_be_visible()


def in_hand(page: Page) -> None:
    """Level with the gain line in hand."""
    measured(page)
    _choose(page)
    page.keyboard.press("q")
    expect(page.get_by_role("toolbar", name="Gain line")).to_be_visible()


def voice(page: Page) -> None:
    """Level, the Voice card, the voice heard."""
    measured(page)
    page.locator('[data-level-tab="voice"]').click()
    expect(page.locator(".voice-said")).to_be_visible()


def tailor(page: Page) -> None:
    """Tailor, the beats found."""
    step(page, "tailor")
    expect(page.locator("#ribbon canvas")).to_be_visible()


def drafts(page: Page) -> None:
    """The card of two drafts with one held, a blind round begun."""
    mode("passage")(page)
    page.locator("#show-drafts").click()
    hold = page.get_by_role("button", name="Hold this as draft A")
    expect(hold.or_(page.locator("#blind-begin"))).to_be_visible()
    if hold.is_visible():
        hold.click()
    page.locator("#blind-begin").click()
    expect(page.locator("#blind-row")).to_be_visible()


def captions(page: Page) -> None:
    """Duck with captions over the lanes and over the picture, their menu open."""
    mode("passage")(page)
    if not page.locator(".tl-caption").count():
        cues = [
            [at * 48_000, (at + 3) * 48_000, f"What is said at {at} s,\nin two lines", ""] for at in range(0, 30, 4)
        ]
        values = {"name": "A film with a long name.en.srt", "form": "srt", "cues": cues}
        page.evaluate("(values) => { window.jayLantern.pageDoc.do('add_captions', values) }", values)
    page.evaluate("() => window.jayLantern.player.seek(48000)")
    expect(page.locator(".picture-caption")).to_be_visible()
    page.locator(".tl-caption button").click()
    expect(page.locator(".menu")).to_be_visible()


def without_captions(page: Page) -> None:
    """Duck, the captions removed again."""
    page.evaluate(
        "() => { const { pageDoc } = window.jayLantern;"
        " pageDoc.do('remove_captions', { captions_id: pageDoc.doc.captions[0].id }) }"
    )
    expect(page.locator(".tl-captions")).to_be_hidden()


def drafts_let_go(page: Page) -> None:
    """Duck as it is while no draft is held, the card with its words."""
    page.evaluate("() => { window.jayLantern.pageDoc.do('choose_draft', { letter: 'B' }) }")
    expect(page.locator("#hear-draft")).to_be_hidden()
    card("duck", "show-drafts")(page)
    expect(page.get_by_role("button", name="Hold this as draft A")).to_be_visible()


VIEWS: dict[str, Open] = {
    "Lay out, media": panel("media"),
    "Lay out, a clip chosen": chosen,
    "Lay out, voice take": panel("take"),
    "Lay out, pauses": panel("pauses"),
    "Lay out, markers": panel("markers"),
    "Tag": lambda page: step(page, "tag"),
    "Duck, passages": mode("passage"),
    "Duck, for one passage": passage_scope,
    "Duck, speech band": band,
    "Duck, compressor": mode("compressor"),
    "Duck, even bed": mode("even"),
    "Level": measured,
    "Level, the gain line in hand": in_hand,
    "Level, the voice": voice,
    "Tailor": tailor,
    "Hand off": lambda page: step(page, "handoff"),
    "card of points": card("duck", "show-points"),
    "card of presets": card("duck", "show-presets"),
    "captions and their menu": captions,
    "Duck, captions removed": without_captions,
    "card of drafts": drafts,
    "Duck, a draft held": mode("passage"),
    "card of drafts, none held": drafts_let_go,
    "card of the tuning map": card("duck", "show-map"),
    "card of targets": card("level", "show-targets"),
    "card of history": card("duck", "show-history"),
    "menu of a clip": clip_menu,
    "menu of tags": menu("t"),
    "menu of triggers": menu("Shift+V"),
    "menu of a lane": menu("Shift+M"),
    "menu of what is heard": pressed("#hear-only"),
    "menu of corrections": pressed("#correct-more"),
    "keys": keys,
    "exact values": exact,
}
BESIDE = {
    "shelf": "/",
    "many films": "/films",
    "report": "/projects/{project}/report",
    "nothing there": "/projects/999999/duck",
}


def close(page: Page) -> None:
    """Close whatever is open over the page."""
    for _ in range(3):
        page.keyboard.press("Escape")
    expect(page.locator(".menu, dialog[open], .drop-card:visible")).to_have_count(0)
    if page.locator('[data-level-tab="voice"][aria-pressed="true"]').count():
        page.locator('[data-level-tab="match"]').click()
    if page.locator("body.line-in-hand").count():
        page.keyboard.press("q")
