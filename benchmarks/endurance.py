"""`python -m benchmarks.endurance kills [--count N]` and `… soak [--minutes N]`: as people use it, for long.

kills   its processes are killed at random moments, with work of every kind under way; after every kill all that was
        acknowledged must be there, and what was under way must be done again or told
soak    four people edit, listen, look and hand off at once; memory, files and the time an edit takes are printed
"""

from __future__ import annotations

import argparse
import http.client
import http.cookiejar
import json
import os
import random
import re
import signal
import sqlite3
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from contextlib import suppress
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaylantern.demo.build import ensure_demo
from jaylantern.support import own_python
from jaylantern.workspace.workspace import Workspace

FILES = Path(__file__).parent.parent / "src" / "jaylantern" / "demo" / "files"
KINDS = (
    "marker", "marker", "marker", "import", "film", "captions", "open", "export", "care", "beats", "take", "lost",
)  # fmt: skip
ENDED = ("done", "failed", "stopped")
EXPORTS = ("mix", "stems", "timeline", "archive", "edl", "keyframes", "captions-vtt", "film")


class Unanswered(Exception):
    """Nobody answered: the server was killed."""


class Server:
    """`jaylantern serve` over a data folder, and its processes."""

    def __init__(self, data: Path) -> None:
        self.data, self.process, self.port = data, None, 0

    def start(self) -> None:
        command = own_python.command("-m", "jaylantern.cli.main", "serve", "--no-key", "--data", str(self.data))
        self.process = subprocess.Popen(
            [*command, "--port", str(self.port)], stdout=subprocess.PIPE, text=True
        )  # fmt: skip
        line = self.process.stdout.readline()
        self.port = int(re.search(r":(\d+)/", line)[1])

    def numbers(self) -> dict[str, int]:
        """Its processes by name: serve, pages, worker."""
        found = {"serve": self.process.pid}
        for each in Path("/proc").glob("[0-9]*"):
            try:
                parent = int((each / "stat").read_text().rsplit(")", 1)[1].split()[1])
                words = (each / "cmdline").read_bytes().decode()
            except (OSError, IndexError):
                continue
            if parent == self.process.pid:
                found["worker" if "jobs.worker" in words else "pages"] = int(each.name)
        return found

    def kill(self, names: list[str]) -> None:
        """Kill these of its processes; started again by itself, or, where the first was among them, here."""
        numbers = self.numbers()
        for name in names:
            if name in numbers:
                os.kill(numbers[name], signal.SIGKILL)
        if "serve" in names:
            self.process.wait()
            self.process.stdout.close()
            self.start()


class Person:
    """Somebody with a page open."""

    def __init__(self, server: Server) -> None:
        self._server = server
        self._open = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        self._token = ""

    def ask(self, method: str, path: str, body: Any = None, *, raw: bytes | None = None) -> Any:
        """The JSON of an answer, its bytes where it is none, or the number of a refusal. Raises Unanswered."""
        if not self._token:
            page = self._send("GET", "/", None, {})
            self._token = re.search(r'name="csrf" content="([^"]+)"', page.decode())[1]
        data = raw if raw is not None else None if body is None else json.dumps(body).encode()
        kind = "application/octet-stream" if raw is not None else "application/json"
        headers = {"X-CSRFToken": self._token, "Accept": "application/json", "Content-Type": kind}
        answer = self._send(method, path, data, headers)
        if isinstance(answer, int):
            return answer
        try:
            return json.loads(answer)
        except ValueError:
            return answer

    def _send(self, method: str, path: str, data: bytes | None, headers: dict[str, str]) -> Any:
        url = f"http://127.0.0.1:{self._server.port}{path}"
        request = urllib.request.Request(url, data=data, headers=headers, method=method)
        try:
            with self._open.open(request, timeout=120) as answer:
                return answer.read()
        except urllib.error.HTTPError as error:
            if error.code >= 500:
                raise AssertionError(f"{method} {path} answered {error.code}: {error.read()[:300]!r}") from error
            return error.code
        except (OSError, ValueError, EOFError, http.client.HTTPException) as error:
            raise Unanswered from error

    def bring(self, project: int, path: Path, name: str) -> int | None:
        """Send a file; the number of its job."""
        data = path.read_bytes()
        told = self.ask("POST", f"/projects/{project}/imports", {"name": name, "size_bytes": len(data), "at_n": 0})
        answer = self.ask("PUT", f"/imports/{told['token']}?offset=0", raw=data)
        return answer["job"] if isinstance(answer, dict) else None


def prepared(folder: Path) -> tuple[Server, int]:
    """A server over the demo, and the demo's number."""
    workspace = Workspace(folder / "data")
    workspace.folder.prepare()
    ensure_demo(workspace)
    server = Server(folder / "data")
    server.start()
    with sqlite3.connect(folder / "data" / "jaylantern.sqlite3") as db:
        return server, int(db.execute("SELECT min(id) FROM project").fetchone()[0])


def odd_film(path: Path) -> Path:
    """A film whose picture has to be made anew for the page."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("mpeg4", rate=25)
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        for i in range(150):
            image = np.full((180, 320, 3), i, np.uint8)
            out.mux(stream.encode(av.VideoFrame.from_ndarray(image, format="rgb24")))
        out.mux(stream.encode(None))
    return path


class Killed:
    """What was acknowledged, and what is under way."""

    def __init__(self, server: Server, project: int, folder: Path, chance: random.Random) -> None:
        self.server, self.project, self.chance, self.folder = server, project, chance, folder
        self.person = Person(server)
        self.markers: set[str] = set()
        self.jobs: dict[int, str] = {}
        self.counts: Counter[str] = Counter()
        self.otio: Path | None = None
        self.film = odd_film(folder / "Odd.avi")
        self.k = 0

    def work(self) -> None:
        """Begin something, and note what was acknowledged of it."""
        self.k += 1
        what = self.chance.choice(KINDS)
        try:
            getattr(self, f"_{what}", self._marker)()
            self.counts[what] += 1
        except Unanswered:
            self.counts["unanswered"] += 1
            time.sleep(0.05)

    def _do(self, command: str, /, **values: Any) -> Any:
        return self.person.ask("POST", f"/projects/{self.project}/do/{command}", values)

    def _marker(self) -> None:
        name = f"mark {self.k}"
        if isinstance(self._do("add_marker", at_n=self.k * 480, name=name), dict):
            self.markers.add(name)

    def _note(self, number: Any, what: str) -> None:
        if isinstance(number, int):
            self.jobs[number] = what

    def _fresh(self) -> int:
        return self.person.ask("POST", "/projects", {})["id"]

    def _import(self) -> None:
        data = bytearray((FILES / "Narrator.flac").read_bytes()[:400_000])
        path = self.folder / "n.flac"
        path.write_bytes(bytes(data) + str(self.k).encode())  # another content each time
        self._note(self.person.bring(self._fresh(), path, "N.flac"), "import")

    def _film(self) -> None:
        path = self.folder / "f.avi"
        path.write_bytes(self.film.read_bytes() + str(self.k).encode())
        self._note(self.person.bring(self._fresh(), path, "F.avi"), "import of a film, picture")

    def _captions(self) -> None:
        self._note(self.person.bring(self._fresh(), FILES / "The Clock at Alder Quay.vtt", "C.vtt"), "captions")

    def _open(self) -> None:
        if self.otio is not None:
            self._note(self.person.bring(self._fresh(), self.otio, "T.otio"), "opening")

    def _export(self) -> None:
        what = self.chance.choice(EXPORTS)
        answer = self.person.ask("POST", f"/projects/{self.project}/exports", {"what": what})
        if isinstance(answer, dict):
            self._note(answer.get("job"), f"export {what}")

    def _care(self) -> None:
        lane = next(each for each in self._document()["lanes"] if each["tag"] == "dialogue")
        self._do("care_for_lane", lane_id=lane["id"], parts={"hush": 6 + self.k % 12})

    def _beats(self) -> None:
        self._do("set_settings", settings={"rise_on": self.chance.choice(("beat", "bar", "anywhere"))})

    def _take(self) -> None:
        take = self.person.ask("POST", f"/projects/{self.project}/takes", {"at_n": 0, "latency_n": 0})
        sound = np.random.default_rng(self.k).normal(0, 0.1, 48_000).astype("<f4").tobytes()
        self.person.ask("PUT", f"/takes/{take['token']}?offset=0", raw=sound)
        self.person.ask("POST", f"/takes/{take['token']}/finish", {})
        answer = self.person.ask("POST", f"/takes/{take['token']}/keep", {})
        if isinstance(answer, dict):
            self._note(answer.get("job"), "take")

    def _lost(self) -> None:
        """What is derived of a medium goes from under it: it is made again."""
        for path in sorted((self.server.data / "media").glob("*/*/peaks.bin"))[:1]:
            path.unlink(missing_ok=True)
        self.person.ask("GET", f"/projects/{self.project}/layout")

    def _document(self) -> Any:
        return self.person.ask("GET", f"/projects/{self.project}/document")

    def check(self) -> None:
        """All that was acknowledged by now is there."""
        acknowledged = set(self.markers)
        for _ in range(200):
            try:
                document = self._document()
                break
            except Unanswered:
                time.sleep(0.1)
        lost = acknowledged - {each["name"] for each in document["markers"]}
        assert not lost, f"lost: {sorted(lost)}"

    def finish(self) -> None:
        """Everything under way ends; nothing is left behind, and the database is sound."""
        until, left = time.monotonic() + 300, 1 << 30
        while True:
            with sqlite3.connect(self.server.data / "jaylantern.sqlite3") as db:
                rows = dict(db.execute("SELECT id, state FROM job").fetchall())
                waiting = [number for number, state in rows.items() if state not in ENDED]
            if not waiting:
                break
            if len(waiting) < left:  # it goes on
                left, until = len(waiting), time.monotonic() + 300
            assert time.monotonic() < until, f"never ended: {waiting}"
            time.sleep(0.5)
        states = Counter(f"{what}: {rows.get(number, 'gone')}" for number, what in self.jobs.items())
        for what, count in sorted(states.items()):
            print(f"  {count:4d} × {what}")
        assert not any(what.endswith("gone") for what in states)
        with sqlite3.connect(self.server.data / "jaylantern.sqlite3") as db:
            for kind, state, message, count in db.execute(
                "SELECT kind, state, message, count(*) FROM job WHERE state = 'failed' GROUP BY 1, 2, 3"
            ):
                print(f"  {count:4d} × {kind} {state}: {message}")
            assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            assert not db.execute("PRAGMA foreign_key_check").fetchall()


def kills(count: int, seed: int) -> None:
    chance = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        server, project = prepared(Path(name))
        state = Killed(server, project, Path(name), chance)
        stop = threading.Event()
        otio = Path(name) / "T.otio"
        _handed_off(state, otio)

        def working() -> None:
            while not stop.is_set():
                state.work()

        worker = threading.Thread(target=working)
        worker.start()
        killed: Counter[str] = Counter()
        try:
            for k in range(count):
                time.sleep(chance.uniform(0.02, 1.5))
                names = chance.choice((["worker"], ["pages"], ["serve"], ["serve", "pages", "worker"]))
                server.kill(names)
                killed[" and ".join(names)] += 1
                if k % 10 == 9:
                    state.check()
                if k % 50 == 49:
                    print(k + 1, dict(killed), dict(state.counts), flush=True)
        finally:
            stop.set()
            worker.join()
        state.check()
        state.finish()
        server.kill(["serve"])  # once more, to see what a start clears
        left = [str(path) for path in server.data.rglob("part-*")]
        with sqlite3.connect(server.data / "jaylantern.sqlite3") as db:
            announced = {row[0] for row in db.execute("SELECT token FROM upload")}  # their page may yet go on
        left += [path.name for path in (server.data / "incoming").iterdir() if path.name not in announced]
        print(f"{count} kills: {dict(killed)}; {len(state.markers)} edits acknowledged, none lost; left behind: {left}")
        server.process.terminate()
        server.process.wait(30)


def _handed_off(state: Killed, target: Path) -> None:
    answer = state.person.ask("POST", f"/projects/{state.project}/exports", {"what": "timeline"})
    folder = state.server.data / "exports" / str(answer["job"])
    until = time.monotonic() + 60
    while not (found := list(folder.glob("*.otio"))):
        assert time.monotonic() < until
        time.sleep(0.1)
    target.write_bytes(found[0].read_bytes())
    state.otio = target


def soak(minutes: float, seed: int) -> None:
    with tempfile.TemporaryDirectory() as name:
        server, project = prepared(Path(name))
        until, took, lock = time.monotonic() + 60 * minutes, [], threading.Lock()
        counts: Counter[str] = Counter()

        def person(number: int) -> None:
            chance = random.Random(seed + number)
            one = Person(server)
            length_n = one.ask("GET", f"/projects/{project}/document")["length_n"]
            while time.monotonic() < until:
                what = chance.random()
                began = time.monotonic()
                if what < 0.45:
                    value = -chance.randrange(4, 40) / 2
                    one.ask("POST", f"/projects/{project}/do/set_settings", {"settings": {"amount_db": value}})
                    with lock:
                        took.append(time.monotonic() - began)
                    counts["edits"] += 1
                elif what < 0.5:
                    one.ask("POST", f"/projects/{project}/undo", {})
                elif what < 0.8:
                    start_n = chance.randrange(0, max(1, length_n - 96_000))
                    one.ask("GET", f"/projects/{project}/listen/ducked?start={start_n}&stop={start_n + 48_000}")
                    counts["windows"] += 1
                elif what < 0.97:
                    step = chance.choice(("layout", "tag", "duck", "level", "tailor", "handoff"))
                    one.ask("GET", f"/projects/{project}/{step}")
                    one.ask("GET", f"/projects/{project}/pulse")
                    counts["pages"] += 1
                elif what < 0.98:
                    made = one.ask(
                        "POST", f"/projects/{project}/exports", {"what": chance.choice(("edl", "keyframes"))}
                    )
                    counts["exports"] += 1
                    if isinstance(made, dict) and "job" in made:
                        time.sleep(1)
                        one.ask("POST", f"/jobs/{made['job']}/dismiss", {})
                time.sleep(chance.uniform(0.05, 0.4))

        people = [threading.Thread(target=person, args=(k,)) for k in range(4)]
        for each in people:
            each.start()
        begun = time.monotonic()
        while any(each.is_alive() for each in people):
            time.sleep(min(60.0, max(5.0, 6 * minutes)))
            print(f"{(time.monotonic() - begun) / 60:5.1f} min  {_weight(server)}", flush=True)
        ordered = sorted(took)
        at95 = ordered[int(0.95 * len(ordered))]
        print(f"{dict(counts)}; an edit takes {1000 * statistics.median(took):.0f} ms, at the 95th percentile"
              f" {1000 * at95:.0f} ms, at most {1000 * ordered[-1]:.0f} ms")  # fmt: skip
        server.process.terminate()
        server.process.wait(30)


def _weight(server: Server) -> str:
    said = []
    for name, number in sorted(server.numbers().items()):
        try:
            status = Path(f"/proc/{number}/status").read_text()
            files = len(list(Path(f"/proc/{number}/fd").iterdir()))
        except OSError:
            continue
        held = int(re.search(r"VmRSS:\s+(\d+)", status)[1]) / 1024
        said.append(f"{name} {held:.0f} MB, {files} files")
    sizes = []
    for path in server.data.rglob("*"):
        with suppress(OSError):  # it may be gone by now
            sizes += [path.stat().st_size] if path.is_file() else []
    return f"{'; '.join(said)}; folder {len(sizes)} files, {sum(sizes) / 1e6:.0f} MB"


def main() -> None:
    """What is asked for."""
    parser = argparse.ArgumentParser(prog="endurance", description=__doc__)
    parser.add_argument("what", choices=("kills", "soak"))
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--minutes", type=float, default=30)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    if asked.what == "kills":
        kills(asked.count, asked.seed)
    else:
        soak(asked.minutes, asked.seed)


if __name__ == "__main__":
    sys.exit(main())
