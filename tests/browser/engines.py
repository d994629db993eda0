"""Firefox and WebKit as Debian packages them, driven as a person would: Firefox by WebDriver BiDi, which it speaks,
WebKit's small browser by its WebDriver on a screen that is nowhere shown. Sound goes into a sink that is nowhere heard.

Source of the protocol's commands: W3C, WebDriver BiDi, working draft 2025.
"""

from __future__ import annotations

import glob
import json
import os
import re
import shutil
import subprocess
import time
from abc import ABC, abstractmethod
from contextlib import ExitStack
from pathlib import Path
from typing import Any

LONGEST_S = 120.0
WATCH = (
    "window.troubles ??= []; window.addEventListener('error', (e) => window.troubles.push(e.message));"
    " window.addEventListener('unhandledrejection', (e) => window.troubles.push(String(e.reason)));"
)


class Missing(Exception):
    """What an engine needs is not on this machine."""


def found(*names: str) -> str:
    """The first of these programs, or files, that is there. Raises Missing."""
    for name in names:
        path = shutil.which(name) or next(iter(glob.glob(name)), None)
        if path:
            return path
    raise Missing(f"{names[0]} is not installed: apt-get install firefox-esr webkit2gtk-driver xvfb pulseaudio")


class Sink:
    """A sound server of its own whose sound nobody hears; what it needs of the environment is in `env`."""

    def __init__(self, folder: Path) -> None:
        runtime = folder / "run"
        runtime.mkdir(mode=0o700)
        self.env = {
            **os.environ,
            "XDG_RUNTIME_DIR": str(runtime),
            "HOME": str(folder),
            "PULSE_RUNTIME_PATH": str(runtime),
        }
        self._process = subprocess.Popen(
            [found("pulseaudio"), "-n", "--daemonize=no", "--exit-idle-time=-1", "--disable-shm=yes",
             "-L", "module-null-sink", "-L", f"module-native-protocol-unix socket={runtime}/native"],
            env=self.env, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        self.env["PULSE_SERVER"] = f"unix:{runtime}/native"
        _until(lambda: (runtime / "native").exists(), "the sound server")

    def end(self) -> None:
        """Stop it."""
        self._process.terminate()
        self._process.wait(60)


def _until(true: Any, what: str, *, longest_s: float = LONGEST_S) -> Any:
    end = time.monotonic() + longest_s
    while time.monotonic() < end:
        if value := true():
            return value
        time.sleep(0.05)
    raise AssertionError(f"waited {longest_s:g} s in vain for {what}")


class Engine(ABC):
    """A browser with one page."""

    name: str

    @abstractmethod
    def go(self, url: str) -> None:
        """Load a page."""

    @abstractmethod
    def js(self, expression: str) -> Any:
        """The value of an expression in the page, awaited."""

    @abstractmethod
    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        """Press, draw, let go; a click where both are the same."""

    @abstractmethod
    def end(self) -> None:
        """Close it."""

    def wait(self, expression: str, *, longest_s: float = LONGEST_S) -> Any:
        """Wait until an expression is true; its value."""
        return _until(
            lambda: self.js(f"Promise.resolve({expression})"), f"{expression} in {self.name}", longest_s=longest_s
        )

    def middle(self, selector: str) -> tuple[float, float]:
        """The middle of an element, brought into view."""
        x, y = json.loads(self.js(
            f"(() => {{ const e = document.querySelector({json.dumps(selector)});"
            " e.scrollIntoView({block: 'nearest'});"
            " const b = e.getBoundingClientRect(); return JSON.stringify([b.x + b.width / 2, b.y + b.height / 2]); })()"
        ))  # fmt: skip
        return x, y

    def click(self, selector: str) -> None:
        """Click an element where it lies."""
        place = self.middle(selector)
        self.drag(place, place)


class Firefox(Engine):
    """Firefox, headless, by WebDriver BiDi over its own socket."""

    name = "Firefox"

    def __init__(self, sink: Sink, folder: Path) -> None:
        from websockets.sync.client import connect

        profile = folder / "profile"
        profile.mkdir()
        prefs = {"media.autoplay.default": 0, "browser.shell.checkDefaultBrowser": False, "app.update.enabled": False,
                 "datareporting.policy.dataSubmissionEnabled": False}  # fmt: skip
        lines = (f"user_pref({json.dumps(key)}, {json.dumps(value)});\n" for key, value in prefs.items())
        (profile / "user.js").write_text("".join(lines))
        said = folder / "said"
        line = said.open("w")
        self._process = subprocess.Popen(
            [found("firefox-esr", "firefox"), "--headless", "--no-remote", "--profile", str(profile),
             "--remote-debugging-port", "0"],
            env=sink.env, stderr=line, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        line.close()
        address = _until(lambda: re.search(r"BiDi listening on (ws://\S+)", said.read_text()), "Firefox")[1]
        self._open = ExitStack()
        self._line = self._open.enter_context(connect(f"{address}/session", max_size=None))
        self._number = 0
        self._call("session.new", capabilities={})
        self._page = self._call("browsingContext.getTree")["contexts"][0]["context"]
        self._call("browsingContext.setViewport", context=self._page, viewport={"width": 1280, "height": 800})
        self._call("script.addPreloadScript", functionDeclaration=f"() => {{ {WATCH} }}")

    def _call(self, method: str, **params: Any) -> Any:
        self._number += 1
        self._line.send(json.dumps({"id": self._number, "method": method, "params": params}))
        while True:
            answer = json.loads(self._line.recv(timeout=LONGEST_S))
            if answer.get("id") == self._number:
                assert answer["type"] == "success", answer
                return answer["result"]

    def go(self, url: str) -> None:
        self._call("browsingContext.navigate", context=self._page, url=url, wait="complete")

    def js(self, expression: str) -> Any:
        answer = self._call(
            "script.evaluate", expression=expression, target={"context": self._page}, awaitPromise=True,
            userActivation=True,
        )  # fmt: skip
        assert answer["type"] == "success", answer["exceptionDetails"]["text"]
        return answer["result"].get("value")

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        way = [] if start == end else [
            {"type": "pointerMove", "x": round((start[0] + end[0]) / 2), "y": round((start[1] + end[1]) / 2)},
            {"type": "pointerMove", "x": round(end[0]), "y": round(end[1]), "duration": 60},
        ]  # fmt: skip
        begin = {"type": "pointerMove", "x": round(start[0]), "y": round(start[1])}
        actions = [begin, {"type": "pointerDown", "button": 0}, *way, {"type": "pointerUp", "button": 0}]  # fmt: skip
        self._call(
            "input.performActions", context=self._page, actions=[{"type": "pointer", "id": "mouse", "actions": actions}]
        )

    def end(self) -> None:
        self._open.close()
        self._process.terminate()
        self._process.wait(60)


class WebKit(Engine):
    """WebKitGTK's small browser on a screen of its own, by WebDriver."""

    name = "WebKit"

    def __init__(self, sink: Sink, folder: Path) -> None:
        from selenium import webdriver
        from selenium.webdriver.webkitgtk.options import Options
        from selenium.webdriver.webkitgtk.service import Service

        driver = found("WebKitWebDriver")
        read, write = os.pipe()
        self._screen = subprocess.Popen(
            [found("Xvfb"), "-displayfd", str(write), "-screen", "0", "1400x1000x24"],
            pass_fds=[write], stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(write)
        with os.fdopen(read) as line:
            display = line.readline().strip()
        assert display, "Xvfb did not begin"
        options = Options()
        options.binary_location = found(
            "/usr/lib/*/webkit2gtk-4.1/MiniBrowser", "/usr/lib/*/webkit2gtk-4.0/MiniBrowser"
        )
        options.add_argument("--automation")
        service = Service(driver, env={**sink.env, "DISPLAY": f":{display}", "WEBKIT_DISABLE_COMPOSITING_MODE": "1"})
        self._driver = webdriver.WebKitGTK(options=options, service=service)
        self._driver.set_window_size(1280, 860)
        self._driver.set_script_timeout(LONGEST_S)

    def go(self, url: str) -> None:
        self._driver.get(url)
        self._driver.execute_script(WATCH)

    def js(self, expression: str) -> Any:
        return self._driver.execute_async_script(
            "const done = arguments[arguments.length - 1]; Promise.resolve((" + expression + ")).then(done);"
        )

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        from selenium.webdriver.common.actions.action_builder import ActionBuilder

        builder = ActionBuilder(self._driver)
        mouse = builder.pointer_action
        mouse.move_to_location(round(start[0]), round(start[1])).pointer_down()
        if start != end:
            mouse.move_to_location(round((start[0] + end[0]) / 2), round((start[1] + end[1]) / 2))
            mouse.move_to_location(round(end[0]), round(end[1]))
        mouse.pointer_up()
        builder.perform()

    def end(self) -> None:
        self._driver.quit()
        self._screen.terminate()
        self._screen.wait(60)


ENGINES: dict[str, type[Engine]] = {"Firefox": Firefox, "WebKit": WebKit}
