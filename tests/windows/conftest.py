"""A server that runs on a Python for Windows, and this machine's Chromium, which doesn't know."""

from __future__ import annotations

import os
import re
import subprocess
import threading
import time
from pathlib import Path

import psutil
import pytest

from tests.browser.conftest import (  # noqa: F401 - fixtures
    base_url,
    browser_context_args,
    browser_type_launch_args,
    files,
    kept_page,
    page,
    score,
)
from tests.windows import wine


def of_ours(module: str, data: Path) -> list[psutil.Process]:
    """The processes there that run a module of ours over a data folder, or for a command that has its name."""
    name = data.name
    found = []
    for each in psutil.process_iter(["cmdline", "status"]):
        words = " ".join(each.info["cmdline"] or ())
        if "python.exe" in words and module in words and name in words and each.info["status"] != psutil.STATUS_ZOMBIE:
            found.append(each)
    return found


class WindowsServer:
    """`jaylantern serve` there, over a data folder of this machine."""

    def __init__(self, data: Path, port: int = 0) -> None:
        self.data = data
        self._begin(port)

    def _begin(self, port: int) -> None:
        where = ("--data", wine.path_there(self.data), "--port", str(port))
        self._process = wine.begin("-m", "jaylantern.cli.main", "serve", "--no-key", *where)
        for line in self._process.stdout or ():
            if found := re.search(r"http://127\.0\.0\.1:(\d+)/", line):
                self.port = int(found[1])
                self.url = f"http://127.0.0.1:{self.port}"
                self._listening = threading.Thread(target=self._process.stdout.read)  # so that it is never kept
                self._listening.start()
                return
        raise AssertionError("the server did not start")

    def kill(self) -> None:
        """End it at once; what it has begun ends by itself."""
        begun = [*of_ours("jaylantern.jobs.worker", self.data), *of_ours("jaylantern.web.server", self.data)]
        self._process.kill()
        self._process.wait()
        self._listening.join()
        self._process.stdout.close()
        until = time.monotonic() + 60
        while any(each.is_running() and each.status() != psutil.STATUS_ZOMBIE for each in begun):
            assert time.monotonic() < until, "processes of a server that was killed go on"
            time.sleep(0.1)

    def again(self) -> None:
        """Begin it anew, where it was."""
        self._begin(self.port)


@pytest.fixture(scope="session")
def server(tmp_path_factory):
    """A server there over a new data folder; the test is left out, with the reason, where there is no Wine."""
    lacks = wine.why_not()
    if lacks:
        pytest.skip(lacks)
    running = WindowsServer(tmp_path_factory.mktemp("windows") / f"data-{os.getpid()}")
    yield running
    running.kill()


@pytest.fixture
def command(server):
    """Run a command of the program there; its code and all it said."""

    def run(*arguments: object) -> tuple[int, str]:
        words = [wine.path_there(each) if isinstance(each, Path) else str(each) for each in arguments]
        return wine.run("-m", "jaylantern.cli.main", *words)

    return run


@pytest.fixture
def begun(server):
    """Begin a command of the program there."""
    running: list[subprocess.Popen[str]] = []

    def begin(*arguments: object) -> subprocess.Popen[str]:
        words = [wine.path_there(each) if isinstance(each, Path) else str(each) for each in arguments]
        running.append(wine.begin("-m", "jaylantern.cli.main", *words))
        return running[-1]

    yield begin
    for each in running:
        each.kill()
        each.communicate()
