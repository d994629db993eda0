"""The whole way through in the other two engines: steps, sound in step, a slider, a clip, a take, an export.

Chromium is driven by all other tests here.
"""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jaylantern.core.signal.timebase import RATE
from tests.browser.conftest import ducked
from tests.browser.engines import ENGINES, Engine, Missing, Sink

pytestmark = pytest.mark.filterwarnings("ignore:setting remote_server_addr:DeprecationWarning")  # selenium's own
STEPS = ("layout", "tag", "duck", "level", "handoff")


@pytest.fixture(params=ENGINES)
def engine(request, tmp_path_factory) -> Iterator[Engine]:
    """One of the engines; the test is left out, with the reason, where it is not on this machine."""
    folder = tmp_path_factory.mktemp("engine")
    try:
        sink = Sink(folder)
    except Missing as why:
        pytest.skip(str(why))
    try:
        try:
            running = ENGINES[request.param](sink, folder)
        except Missing as why:
            pytest.skip(str(why))
        yield running
        running.end()
    finally:
        sink.end()


@pytest.fixture
def film(server, files, media) -> str:
    """The address of a ducked film."""
    return f"{server.url}/projects/{ducked(server, files, media, 'In another engine')}"


def opened(engine: Engine, film: str, step: str) -> None:
    engine.go(f"{film}/{step}")
    engine.wait("document.body.classList.contains('ready')")


def troubles(engine: Engine) -> object:
    return engine.js("JSON.stringify([window.troubles, document.querySelector('#said .trouble')?.textContent ?? ''])")


def test_the_whole_way_through(engine, film):
    opened(engine, film, "layout")
    for step in STEPS:
        engine.click(f'.steps a[data-step="{step}"]')
        engine.wait(f"Boolean(document.querySelector('[data-tray=\"{step}\"]'))")
    engine.wait("Boolean(document.querySelector('[data-export=mix]'))")
    plays_in_step(engine)
    moves_a_slider(engine)
    drags_a_clip(engine)
    records_a_take(engine)
    exports(engine)
    assert troubles(engine) == '[[],""]'


def plays_in_step(engine: Engine) -> None:
    """The playhead keeps with the clock of the sound, the meter says what is heard."""
    engine.click("#play")
    engine.wait("window.jayLantern.player.now_n > 48000")
    first_n, at = engine.js("[jayLantern.player.now_n, jayLantern.player.context.currentTime].join()").split(",")
    engine.wait("window.jayLantern.player.now_n > 110000")
    later_n, then = engine.js("[jayLantern.player.now_n, jayLantern.player.context.currentTime].join()").split(",")
    played_s = (int(later_n) - int(first_n)) / RATE
    assert played_s == pytest.approx(float(then) - float(at), abs=0.06)
    assert "LUFS" in engine.js("document.getElementById('meter-said').textContent")
    engine.click("#play")
    engine.wait("!window.jayLantern.player.playing")


def moves_a_slider(engine: Engine) -> None:
    engine.click('.steps a[data-step="duck"]')
    engine.wait("Boolean(document.querySelector('[data-knob=amount_db] input[type=range]'))")
    was = engine.js("jayLantern.pageDoc.doc.settings.amount_db")
    x, y = engine.middle('[data-knob="amount_db"] input[type=range]')
    engine.drag((x, y), (x - 14, y))
    engine.wait(f"window.jayLantern.pageDoc.doc.settings.amount_db !== {was}")


def drags_a_clip(engine: Engine) -> None:
    talk = '.lane[data-lane="Talk"] .clip'
    was_n = engine.js("jayLantern.pageDoc.doc.lanes.find((lane) => lane.name === 'Talk').clips[0].start_n")
    x, y = engine.middle(talk)
    engine.drag((x, y + 8), (x + 60, y + 8))
    engine.wait(f"window.jayLantern.pageDoc.doc.lanes.find((lane) => lane.name === 'Talk').clips[0].start_n > {was_n}")


def records_a_take(engine: Engine) -> None:
    """With the stand-in for a microphone."""
    engine.click('.steps a[data-step="layout"]')
    engine.wait("Boolean(document.getElementById('tab-take'))")
    engine.click("#tab-take")
    engine.wait("[...document.getElementById('mic').options].some((each) => each.value === 'stand-in')")
    engine.js(
        "(() => { const mic = document.getElementById('mic'); mic.value = 'stand-in';"
        " mic.dispatchEvent(new Event('change')); })()"
    )
    engine.click("#record")
    engine.wait("document.getElementById('record').textContent === 'Stop'")
    engine.wait("parseFloat(document.getElementById('take-count').textContent.split(':')[1]) > 0.5")
    engine.click("#record")
    engine.wait("document.querySelectorAll('#takes li').length === 1")


def exports(engine: Engine) -> None:
    engine.click('.steps a[data-step="handoff"]')
    engine.wait("Boolean(document.querySelector('[data-export=mix]'))")
    engine.click('[data-export="mix"]')
    engine.wait("document.querySelectorAll('.made-file').length === 1")
