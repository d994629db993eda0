"""Fixtures of the tests of many films."""

from __future__ import annotations

import json
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.fleet.cluster import Cluster
from tests import films, sounds
from tests.tunes import tune

LONGEST_S = 120


@pytest.fixture(scope="session")
def media(tmp_path_factory) -> Path:
    """Talk, music that is longer than the film, a film without sound."""
    folder = tmp_path_factory.mktemp("media")
    soundfile.write(folder / "talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=8), RATE, subtype="PCM_16")
    soundfile.write(folder / "music.flac", tune("AABA", bpm=110).sound, RATE)
    films.write_film(folder / "film.mp4", seconds=12)
    return folder


@pytest.fixture
def lay(media):
    """A function that lays the talk and music of a film into a folder, the talk ending later by `k` samples."""

    def lay(folder: Path, k: int = 0) -> Path:
        folder.mkdir(parents=True)
        talk, _ = soundfile.read(media / "talk.wav", dtype="int16")
        soundfile.write(folder / "talk.wav", talk[k:], RATE, subtype="PCM_16")
        music, _ = soundfile.read(media / "music.flac", dtype="int16", frames=10 * RATE)
        soundfile.write(folder / "music.flac", music, RATE)
        return folder

    return lay


class Crew:
    """A scheduler and workers that run as processes of their own."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._begun = folder, []
        self._begin("scheduler", "--host", "127.0.0.1", "--port", "0", "--scheduler-file", str(self.file),
                    "--dashboard-address", "127.0.0.1:0")  # fmt: skip
        self.until(self.file.exists)

    @property
    def file(self) -> Path:
        """What the scheduler says of itself."""
        return self._folder / "scheduler.json"

    def _begin(self, what: str, *options: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", f"distributed.cli.dask_{what}", *options]
        with (self._folder / f"{what}-{len(self._begun)}.log").open("w") as log:
            process = subprocess.Popen(command, stdout=log, stderr=log, cwd=self._folder)
        self._begun.append(process)
        return process

    def worker(self, *options: str) -> subprocess.Popen[bytes]:
        """One worker more, which stays dead when it is killed."""
        return self._begin(
            "worker", "--scheduler-file", str(self.file), "--nthreads", "1", "--no-nanny", "--no-dashboard", *options
        )

    def workers(self) -> list[subprocess.Popen[bytes]]:
        """The workers that live."""
        return [each for each in self._begun[1:] if each.poll() is None]

    def meet(self, workers: int) -> Cluster:
        """The cluster, when so many workers are there."""
        cluster = Cluster(json.loads(self.file.read_text())["address"])
        self.until(lambda: cluster.workers == workers)
        return cluster

    def until(self, is_so: Callable[[], object]) -> None:
        """Wait until something is so."""
        end = time.monotonic() + LONGEST_S
        while not is_so():
            assert time.monotonic() < end, "it took too long"
            time.sleep(0.05)

    def end(self) -> None:
        """End them all."""
        for process in reversed(self._begun):
            process.kill()
            process.wait()


@pytest.fixture
def crew(tmp_path):
    """A scheduler; workers are begun by the test."""
    folder = tmp_path / "crew"
    folder.mkdir()
    made = Crew(folder)
    yield made
    made.end()
