"""The application as it is started: pages that die are begun again, and nothing is left when it ends."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
import urllib.request
from contextlib import suppress

import psutil
import pytest

from jaylantern.support import system


def children(of: int) -> dict[str, int]:
    """Numbers of the processes of ours that a process has begun, by module."""
    found = {}
    for each in psutil.Process(of).children():
        with suppress(psutil.Error):
            found.update(dict.fromkeys(re.findall(r"jaylantern[\w.]+", " ".join(each.cmdline())), each.pid))
    return found


@pytest.fixture
def serve(tmp_path):
    """Start the application over a new data folder; answers its process and address."""
    running = []

    def start(port: int = 0):
        command = [sys.executable, "-m", "jaylantern.cli.main", "serve", "--no-key", "--data", str(tmp_path / "data")]
        process = subprocess.Popen([*command, "--port", str(port)], stdout=subprocess.PIPE, text=True)
        running.append(process)
        found = re.search(r"http://127\.0\.0\.1:(\d+)/", process.stdout.readline())
        return process, int(found[1])

    yield start
    for process in running:
        process.kill()
        process.communicate()


def shelf(port: int) -> int:
    return urllib.request.urlopen(f"http://127.0.0.1:{port}/", timeout=180).status


def test_pages_that_die_are_begun_again_and_who_asks_meanwhile_is_answered(serve):
    process, port = serve()
    assert shelf(port) == 200
    for word in (signal.SIGTERM,) if sys.platform == "win32" else (signal.SIGKILL, signal.SIGSEGV):
        before = children(process.pid)
        os.kill(before["jaylantern.web.server"], word)
        assert shelf(port) == 200  # at once: it waits at the door
        after = children(process.pid)
        assert after["jaylantern.web.server"] != before["jaylantern.web.server"]
        assert after["jaylantern.jobs.worker"] == before["jaylantern.jobs.worker"]


WORDS = [signal.SIGINT, signal.SIGTERM, signal.SIGKILL] if sys.platform != "win32" else [signal.SIGTERM]


@pytest.mark.parametrize("word", WORDS)
def test_however_it_ends_its_processes_end_and_it_starts_again_at_the_same_address(serve, word):
    process, port = serve()
    numbers = children(process.pid).values()
    assert len(numbers) == 2
    process.send_signal(word)
    assert process.wait(120) == (1 if sys.platform == "win32" else 0 if word is signal.SIGINT else -word)
    assert serve(port)[1] == port
    until = time.monotonic() + 30
    while alive := [number for number in numbers if system.lives(number)]:
        assert time.monotonic() < until, alive
        time.sleep(0.05)
    assert shelf(port) == 200
