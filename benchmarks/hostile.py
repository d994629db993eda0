"""`python -m benchmarks.hostile [--inputs N] [--seed S] [--keep FOLDER]`: files and requests, damaged or made odd at
random, sent to an application as anybody could send them.

Counts what became of them and prints each that is a fault: an answer of 500 and more, a job that ends unforeseen or
takes longer than it may, anything left in the data folder. With --keep the inputs at fault are kept, to become tests.
"""

from __future__ import annotations

import argparse
import io
import json
import logging
import random
import re
import tempfile
import time
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import av
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.demo.build import ensure_demo
from jaylantern.jobs import work
from jaylantern.store import jobs, projects
from jaylantern.web import create_app
from jaylantern.workspace.workspace import Workspace

FILES = Path(__file__).parent.parent / "src" / "jaylantern" / "demo" / "files"
LONGEST_S = 90.0
ODD: list[Any] = [
    None, True, False, "", "²", "\ud800", "\x00", [], {}, [None], ["x"], [[1]], {"²": 1}, 10**40, -(10**40), 1 << 63,
    float("nan"), float("inf"), 1e308, -1, 0, 0.5, "9" * 400, "../../x", "=1+1", "<b>", 1e-320,
]  # fmt: skip
SHORT_S = 4.0
HANDED = ("timeline", "archive-alone", "edl", "captions-vtt", "captions-srt")
Mutation = Callable[[random.Random, bytes], bytes]


def flipped(chance: random.Random, data: bytes) -> bytes:
    """Some bytes are others."""
    out = bytearray(data)
    for _ in range(chance.choice((1, 4, 30, 300))):
        out[chance.randrange(len(out))] = chance.randrange(256)
    return bytes(out)


def cut(chance: random.Random, data: bytes) -> bytes:
    """It breaks off."""
    return data[: chance.randrange(1, len(data))]


def holed(chance: random.Random, data: bytes) -> bytes:
    """A part is gone, or is zeros."""
    start = chance.randrange(len(data))
    stop = min(len(data), start + chance.choice((1, 16, 512, 4096, len(data))))
    return data[:start] + (bytes(stop - start) if chance.random() < 0.5 else b"") + data[stop:] or b"x"


def doubled(chance: random.Random, data: bytes) -> bytes:
    """A part stands there twice, or where another stood."""
    start = chance.randrange(len(data))
    part = data[start : start + chance.choice((2, 64, 2048))]
    at = chance.randrange(len(data))
    return data[:at] + part + data[at + (len(part) if chance.random() < 0.5 else 0) :]


def lengthened(chance: random.Random, data: bytes) -> bytes:
    """A figure of four bytes in it is very large, or none."""
    at = chance.randrange(max(1, min(len(data) - 4, 2000)))
    figure = chance.choice((0, 1, 0x7FFFFFFF, 0xFFFFFFFF, 0x80000000, 0x00FFFFFF))
    return data[:at] + figure.to_bytes(4, chance.choice(("little", "big"))) + data[at + 4 :]


def retold(chance: random.Random, data: bytes) -> bytes:
    """A document with something odd in it; of an archive, its document."""
    if data[:2] != b"PK":
        return _json(chance, data)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        entries = {name: archive.read(name) for name in archive.namelist()}
    entries["project.json"] = _json(chance, entries["project.json"])
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in entries.items():
            archive.writestr(name, content)
    return out.getvalue()


def _json(chance: random.Random, data: bytes) -> bytes:
    try:
        document = json.loads(data)
    except ValueError:
        return flipped(chance, data)
    for _ in range(chance.choice((1, 1, 1, 3))):
        _spoil(chance, document)
    return json.dumps(document).encode("utf-8", "surrogatepass")


def _spoil(chance: random.Random, document: Any) -> None:
    """One value somewhere in a document is odd, gone, or stands there twice."""
    at = document
    for _ in range(chance.randrange(1, 9)):
        inner = [
            each for each in (at.values() if isinstance(at, dict) else at) if isinstance(each, dict | list) and each
        ]
        if not inner:
            break
        at = chance.choice(inner)
    if not at:
        return
    key = chance.choice(list(at)) if isinstance(at, dict) else chance.randrange(len(at))
    how = chance.random()
    if how < 0.7:
        at[key] = chance.choice(ODD)
    elif how < 0.85:
        del at[key]
    elif isinstance(at, list):
        at.append(at[key])
    else:
        at[chance.choice(("²", "name", "id", "OTIO_SCHEMA"))] = at[key]


def short(folder: Path) -> dict[str, bytes]:
    """The first seconds of the demo's files, in their own containers and in others."""
    found = {}
    for path in sorted(FILES.iterdir()):
        if path.suffix == ".vtt":
            found[path.name] = path.read_bytes()
            continue
        for ending in {path.suffix, ".mkv", *([".wav"] if path.suffix == ".flac" else [])}:
            target = folder / f"{path.stem}{ending}"
            if ending == ".wav":
                samples, rate = soundfile.read(path, frames=round(SHORT_S * RATE))
                soundfile.write(target, samples, rate)
            else:
                _copied(path, target)
            found[target.name] = target.read_bytes()
    return found


def _copied(source: Path, target: Path) -> None:
    with av.open(str(source)) as whole, av.open(str(target), "w") as out:
        streams = {each.index: out.add_stream_from_template(each) for each in whole.streams if each.type != "data"}
        for packet in whole.demux():
            if packet.dts is None or packet.stream_index not in streams:
                continue
            if float(packet.dts * packet.time_base) < SHORT_S:
                packet.stream = streams[packet.stream_index]
                out.mux(packet)


class Tried:
    """An application, and what was sent to it."""

    def __init__(self, folder: Path, keep: Path | None) -> None:
        self.workspace = Workspace(folder / "data")
        self.workspace.folder.prepare()
        ensure_demo(self.workspace)
        self.client = create_app(self.workspace, keyed=False).test_client()
        page = self.client.get("/").get_data(as_text=True)
        found = re.search(r'name="csrf" content="([^"]+)"', page)
        assert found
        self.headers = {"X-CSRFToken": found[1], "Accept": "application/json"}
        self.keep, self.counts, self.faults = keep, Counter[str](), Counter[str]()
        with closing(self.workspace.folder.connect()) as db:
            self.demo = projects.cards(db)[0].id

    def fault(self, what: str, name: str, data: bytes) -> None:
        """Something that must not happen."""
        self.faults[what] += 1
        print(f"FAULT {what}: {name}", flush=True)
        if self.keep is not None:
            self.keep.mkdir(parents=True, exist_ok=True)
            (self.keep / f"{sum(self.faults.values()):04d} {Path(name).name}").write_bytes(data)

    def send(self, method: str, url: str, **more: Any) -> Any:
        """A request of a page of ours; a fault where it is answered as one."""
        try:
            answer = self.client.open(url, method=method, headers=self.headers, **more)
        except Exception as error:
            self.fault(f"{method} raised {type(error).__name__}: {error}"[:150], url[:80], repr(more).encode())
            return None
        if answer.status_code >= 500:
            self.fault(
                f"{method} answered {answer.status_code}", f"{url[:80]} {answer.text[:100]}", repr(more).encode()
            )
        return answer

    def handed(self) -> dict[str, bytes]:
        """The demo, as it is handed off."""
        found = {}
        with closing(self.workspace.folder.connect()) as db:
            for what in HANDED:
                number = jobs.create(db, self.demo, kind="export", title=what, payload={"what": what, "pattern": what})
                work.run(self.workspace, number)
                for path in self.workspace.folder.exports(number).iterdir():
                    found[path.name] = path.read_bytes()
        return found

    def bring(self, name: str, data: bytes) -> None:
        """Send a file into a new project and have its job done."""
        began = time.monotonic()
        before = self.left()
        answer = self.send("POST", "/projects", data={"name": "Odd"})
        number = answer.json["id"]
        told = self.send("POST", f"/projects/{number}/imports", json={"name": name, "size_bytes": len(data), "at_n": 0})
        if told is None or told.status_code != 200:
            self.counts["refused at once"] += 1
            return
        self.send("PUT", f"/imports/{told.json['token']}?offset=0", data=data)
        with closing(self.workspace.folder.connect()) as db:
            for job in jobs.unfinished(db):
                try:
                    work.run(self.workspace, job.id)
                except Exception as error:
                    traceback.print_exc()
                    self.fault(f"job raised {type(error).__name__}: {error}"[:150], name, data)
                found = jobs.get(db, job.id)
                if found.kind == "import":
                    self.counts[found.state] += 1
                if found.active or "unforeseen" in found.message or "nobody expects" in found.message:
                    self.fault(f"{found.kind} {found.state} {found.message}", name, data)
                if "breaks what reads it" in found.message:
                    self.counts["broke the reader, which stood apart"] += 1
        for address in ("duck", "document", "report"):
            self.send("GET", f"/projects/{number}/{address}")
        self.send("POST", f"/projects/{number}/remove")
        if time.monotonic() - began > LONGEST_S:
            self.fault(f"took {time.monotonic() - began:.0f} s", name, data)
        left = self.left() - before
        if left:
            self.fault(f"left {sorted(left)[:3]}", name, data)

    def left(self) -> set[str]:
        """What lies in the data folder that is on its way, or half done."""
        root = self.workspace.folder.path
        folders = {path for path in (root / "media").glob("*/*") if not (path / "about.json").exists()}
        return {
            str(path.relative_to(root)) for path in (*root.rglob("part-*"), *(root / "incoming").iterdir(), *folders)
        }

    def ask(self, chance: random.Random) -> None:
        """A request with odd values, to any address there is."""
        rules = [rule for rule in self.client.application.url_map.iter_rules() if "static" not in rule.endpoint]
        rule = chance.choice(rules)
        values = {
            name: chance.choice((1, self.demo, 7, 10**6, 1 << 62)) if name.endswith("_id") or name == "number" else
            chance.choice(("ducked", "duck", "add_marker", "set_settings", "move_clips", "x", "²"))
            for name in rule.arguments
        }  # fmt: skip
        try:
            with self.client.application.test_request_context():
                _, path = rule.build(values) or ("", "/")
        except Exception:
            path = re.sub(r"<[^>]*>", lambda _: str(chance.choice((1, "x", 10**30))), rule.rule)
        names = (
            "clip_ids",
            "lane_id",
            "settings",
            "at_n",
            "name",
            "by_n",
            "start",
            "stop",
            "x",
            "y",
            "what",
            "from_n",
            "to_n",
        )
        odd = {chance.choice(names): chance.choice(ODD) for _ in range(chance.randrange(4))}
        for method in rule.methods & {"GET", "POST", "PUT", "DELETE"}:
            if "discard" in rule.endpoint or rule.endpoint.endswith((".put", ".remove")):
                continue
            query = {key: str(value).encode("utf-8", "replace").decode()[:500] for key, value in odd.items()}
            body = json.dumps(odd).encode("utf-8", "surrogatepass") if chance.random() < 0.8 else chance.randbytes(40)
            more: dict[str, Any] = {"query_string": query} if method == "GET" else {"data": body}
            self.send(method, path, content_type="application/json", **more)
            self.counts["requests"] += 1


def main() -> None:
    """Send them, and say what became of them."""
    parser = argparse.ArgumentParser(prog="hostile", description=__doc__)
    parser.add_argument("--inputs", type=int, default=2000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path)
    asked = parser.parse_args()
    logging.disable(logging.CRITICAL)
    chance = random.Random(asked.seed)
    with tempfile.TemporaryDirectory() as folder:
        tried = Tried(Path(folder), asked.keep)
        corpus = {**short(Path(folder)), **tried.handed()}
        began, slowest = time.monotonic(), 0.0
        for k in range(asked.inputs):
            at = time.monotonic()
            if k % 4 == 3:
                tried.ask(chance)
                continue
            name = chance.choice(sorted(corpus))
            document = name.endswith((".zip", ".otio"))
            ways: list[Mutation] = [flipped, cut, holed, doubled, lengthened, *([retold] * 6 if document else [])]
            data = chance.choice(ways)(chance, corpus[name])
            tried.bring(name, data[: 4 << 20])
            slowest = max(slowest, time.monotonic() - at)
            if k % 200 == 0:
                print(k, dict(tried.counts), f"{time.monotonic() - began:.0f} s", flush=True)
        took = f"{time.monotonic() - began:.0f} s, the slowest {slowest:.1f} s"
        print(f"{asked.inputs} inputs in {took}: {dict(tried.counts)}")
        print(f"faults: {sum(tried.faults.values())}")
        for what, count in tried.faults.most_common():
            print(f"  {count} × {what}")


if __name__ == "__main__":
    main()
