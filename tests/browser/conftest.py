"""A real server, and Debian's Chromium driven as a person would."""

from __future__ import annotations

import json
import os
import re
import shutil
import signal
import subprocess
import sys
from collections.abc import Callable
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Browser, BrowserContext, Page, expect

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.media import Media
from jaylantern.demo.build import ensure_demo
from jaylantern.fleet import board
from jaylantern.fleet.outcome import Outcome, State
from jaylantern.library.bringing import bring_in
from jaylantern.store import projects
from jaylantern.workspace.workspace import Workspace
from tests import films, sounds
from tests.build import place
from tests.watched_files import unwatched

CHROMIUM_FLAGS = (
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--autoplay-policy=no-user-gesture-required",
)  # fmt: skip
SIZE = {"width": 1280, "height": 800}
STILL = "/static/lantern.svg"  # a page without scripts, of the same origin
KEPT = "local_storage,indexeddb,cache_storage,service_workers"
BROUGHT_IN = ("film", "talk", "bed")  # before the server starts
LONGEST_MS = int(
    os.environ.get("JAY_PATIENCE_MS", "120000")
)  # on a machine that is busy with other things; who waits, waits for what is meant
expect.set_options(timeout=LONGEST_MS)


SERVE = (sys.executable, "-m", "jaylantern.cli.main", "serve", "--no-key")


class Server:
    """`jaylantern serve` as its own process over a data folder."""

    def __init__(self, data: Path, port: int = 0) -> None:
        self.data = data
        self._process = subprocess.Popen(
            [*SERVE, "--data", str(data), "--port", str(port)],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        line = self._process.stdout.readline()
        found = re.search(r"http://127\.0\.0\.1:(\d+)/", line)
        assert found, line
        self.port = int(found[1])
        self.url = f"http://127.0.0.1:{self.port}"

    def kill(self) -> None:
        """End it at once, as a power cut would."""
        self._process.kill()
        self._process.wait()
        self._process.stdout.close()

    def end(self) -> None:
        """End it as Ctrl-C would."""
        self._process.send_signal(signal.SIGINT)
        self._process.wait(120)
        self._process.stdout.close()


def keep_runs(folder: Path) -> None:
    """A run of a recipe that has ended, and one that goes on as long as anybody looks."""
    about = {"recipe": "lessons.json", "from": "a course", "to": "done", "dashboard": "http://127.0.0.1:8787/status"}
    folder.mkdir()
    for name, ended in (("1", True), ("2", False)):
        run = board.Board([f"Lesson {k}" for k in range(1, 41)], about)
        run.ended = ended
        run.done(0, Outcome("Lesson 1", State.FAILED, failed="talk.wav is not a film or sound file that can be read."))
        run.done(1, Outcome("Lesson 2", length_n=RATE * 600, lufs=-16.0, look=("−17.3 LUFS instead of −16.",)))
        run.doing(2, 0.4, "listening for speech")
        seen = datetime.now(UTC) + timedelta(days=1)
        (folder / f"{name}.json").write_text(json.dumps({**run.plain, "seen": seen.isoformat()}))


@pytest.fixture(scope="session")
def demo_data(made_once, files) -> Path:
    """A data folder with the demo in it, film, talk and bed brought in, made once."""

    def make(folder: Path) -> None:
        workspace = Workspace(folder)
        workspace.folder.prepare()
        ensure_demo(workspace)
        with closing(workspace.folder.connect()) as db:
            for name in BROUGHT_IN:
                bring_in(workspace.library, db, files[name], files[name].name, lambda share, doing: None)

    return made_once("demo data", make)


@pytest.fixture(scope="session")
def server(demo_data: Path, tmp_path_factory):
    """A server over a copy of the demo's data folder."""
    data = tmp_path_factory.mktemp("served") / "data"
    with unwatched():  # as the program has made it
        shutil.copytree(demo_data, data)
    keep_runs(data / board.FOLDER)
    running = Server(data)
    yield running
    running.end()


@pytest.fixture(scope="session")
def base_url(server: Server) -> str:
    return server.url


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    names = ("chromium-headless-shell", "chromium")  # the first draws without a window and is quicker
    chromium = next((path for name in names if (path := shutil.which(name))), "/usr/bin/chromium")
    return {**browser_type_launch_args, "executable_path": chromium, "args": list(CHROMIUM_FLAGS)}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args, base_url):
    """What `/` means stands here: the plug-in's own answer is kept from whichever test asked first."""
    return {**browser_context_args, "viewport": SIZE, "accept_downloads": True, "base_url": base_url}


class KeptPage:
    """The page that one test after the other is done in: its scripts are compiled once."""

    def __init__(self, context: BrowserContext) -> None:
        self._context = context
        self._page: Page | None = None

    def lend(self) -> Page:
        """It, or a new one where there is none."""
        if self._page is None or self._page.is_closed():
            self._page = self._context.new_page()
        return self._page

    def clear(self, origin: str) -> None:
        """Close all others; nothing is left of what was done in it."""
        page = self.lend()
        for each in self._context.pages:
            if each is not page:
                each.close()
        page.unroute_all(behavior="ignoreErrors")
        page.mouse.move(0, 0)
        page.goto(f"{origin}{STILL}")
        page.evaluate("sessionStorage.clear()")
        page.set_viewport_size(SIZE)
        page.emulate_media(media="null")
        self._context.clear_cookies()
        self._context.clear_permissions()
        session = self._context.new_cdp_session(page)
        session.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": KEPT})
        session.detach()


@pytest.fixture(scope="session")
def kept_page(browser: Browser, browser_context_args) -> KeptPage:
    """All tests' page; scripts and fonts are fetched once, as with anybody who works a day."""
    context = browser.new_context(**browser_context_args)
    yield KeptPage(context)
    context.close()


@pytest.fixture
def page(kept_page: KeptPage, base_url: str):
    """A page that fails the test on script errors and on anything asked of another host."""
    troubles: list[str] = []
    page = kept_page.lend()
    page.set_default_timeout(LONGEST_MS)
    listeners = {
        "pageerror": lambda error: troubles.append(f"script: {error}"),
        "console": lambda said: troubles.append(said.text) if "Content Security Policy" in said.text else None,
        "request": lambda asked: (
            None if asked.url.startswith((base_url, "data:", "blob:")) else troubles.append(asked.url)
        ),
    }
    for event, listener in listeners.items():
        page.on(event, listener)
    yield page
    for event, listener in listeners.items():
        page.remove_listener(event, listener)
    kept_page.clear(base_url)
    assert not troubles, troubles


@pytest.fixture
def page_of_its_own(page: Page):
    """For a test that puts scripts into the page: they can't be taken out again."""
    yield page
    page.close()


@pytest.fixture(scope="session")
def files(made_once) -> dict[str, Path]:
    """Real files to bring in: a film with sound, one without, talk, music, and one that is broken."""

    def make(folder: Path) -> None:
        spoken = sounds.talk({"vm-intro": 4.0, "vm-opts": 20.0}, seconds=34)
        bed = sounds.music()[: 36 * RATE]
        bed = (bed / np.abs(bed).max() * 0.5)[:, None]
        soundfile.write(folder / "Talk.wav", spoken[::3], 16_000, subtype="PCM_16")
        soundfile.write(folder / "Bed.flac", bed, RATE, subtype="PCM_24")
        (folder / "Broken.mp4").write_bytes(b"this is no film" * 1000)
        films.write_film(folder / "Film.mp4", seconds=34, sound=sounds.noise(seconds=34, amplitude=0.003))
        films.write_film(folder / "Mute film.mkv", seconds=5)
        song = sounds.sine(hz=440, seconds=3, channels=2)
        films.write_encoded(folder / "Song.mp3", song, codec="libmp3lame")

    folder = made_once("files", make)
    names = ("Talk.wav", "Bed.flac", "Broken.mp4", "Film.mp4", "Mute film.mkv", "Song.mp3")
    return {Path(name).stem.lower(): folder / name for name in names}


@pytest.fixture
def new_project(page: Page) -> Callable[..., None]:
    """Begin a project on the shelf, as a person would."""

    def begin(name: str = "A new film") -> None:
        page.goto("/")
        page.get_by_label("Name of the new film").fill(name)
        page.get_by_role("button", name="New project").click()
        expect(page.locator("body.ready")).to_be_visible()

    return begin


def media_of(server: Server, files) -> dict[str, Media]:
    """Film, talk and bed, which are there already."""
    workspace = Workspace(server.data)
    with closing(workspace.folder.connect()) as db:
        return {
            name: bring_in(workspace.library, db, files[name], files[name].name, lambda share, doing: None)
            for name in BROUGHT_IN
        }


@pytest.fixture(scope="session")
def media(server: Server, files) -> dict[str, Media]:
    """Of the server of all tests."""
    return media_of(server, files)


def ducked(server: Server, files, media: dict[str, Media], name: str) -> int:
    """Make a project with film, talk and bed, tagged; its number."""
    with closing(Workspace(server.data).folder.connect()) as db:
        project_id = projects.create(db, name)
        for kind, found in media.items():
            place(db, project_id, found, name=files[kind].name, at_n=0)
        lanes = {lane.name: lane.id for lane in projects.load(db, project_id).lanes}
        for lane, tag in (("Talk", "dialogue"), ("Bed", "music")):
            commands.do(db, project_id, "tag_lane", {"lane_id": lanes[lane], "tag": tag})
    return project_id


@pytest.fixture
def ducked_project(page: Page, server: Server, files, media: dict[str, Media]) -> None:
    """A project with film, talk and bed, tagged, with passages found; open at the Duck step."""
    project_id = ducked(server, files, media, "Ducked film")
    page.goto(f"/projects/{project_id}/duck")
    expect(page.locator("body.ready")).to_be_visible()
    expect(page.locator("tr[data-passage]")).to_have_count(2)


@pytest.fixture
def score(page: Page):
    """The project's document as the server gives it now."""

    def fetch() -> dict:
        number = page.evaluate("document.body.dataset.project")
        return page.request.get(f"/projects/{number}/document").json()

    return fetch
