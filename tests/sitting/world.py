"""What a sitting begins with: a server over a data folder with one film, and a folder that is not ours."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
import time
import urllib.request
from contextlib import closing
from pathlib import Path

import soundfile

from jaylantern import commands
from jaylantern.core.signal.timebase import RATE
from jaylantern.library.bringing import bring_in
from jaylantern.store import projects
from jaylantern.workspace.workspace import Workspace
from tests import films, sounds
from tests.build import place

PLANTED = Path(__file__).parent / "planted"
FILM_S, HEARD_S = 30, 18  # its sound is over before its picture is
THEIRS = {"Wedding.mov": b"not ours" * 100, "notes/list.txt": b"milk\n", "exports/Mix.wav": b"somebody's mix"}


def lay_out(folder: Path) -> int:
    """Fill a data folder with a film whose sound ends early, talk over it and music under it; the project's number."""
    files = folder.parent / "files"
    files.mkdir(exist_ok=True)
    soundfile.write(files / "Talk.wav", sounds.talk({"vm-intro": 3.0, "vm-opts": 14.0}, seconds=26), RATE)
    soundfile.write(files / "Bed.wav", sounds.music()[: 32 * RATE] * 0.5, RATE, subtype="FLOAT")
    films.write_film(files / "Film.mp4", seconds=FILM_S, sound=sounds.noise(seconds=HEARD_S, amplitude=0.003))
    workspace = Workspace(folder)
    workspace.folder.prepare()
    with closing(workspace.folder.connect()) as db:
        project_id = projects.create(db, "A sitting")
        for name in ("Film.mp4", "Talk.wav", "Bed.wav"):
            found = bring_in(workspace.library, db, files / name, name, lambda share, doing: None)
            place(db, project_id, found, name=name, at_n=0)
        lanes = {lane.name: lane.id for lane in projects.load(db, project_id).lanes if lane.kind == "sound"}
        for lane, tag in (("Talk", "dialogue"), ("Bed", "music"), ("Film", "atmosphere")):
            commands.do(db, project_id, "tag_lane", {"lane_id": lanes[lane], "tag": tag})
    return project_id


class World:
    """A server of its own, started and killed at will; `fault`: the name of what is planted in the program."""

    def __init__(self, folder: Path, *, fault: str = "", made: Path | None = None) -> None:
        self.folder, self.data, self.fault = folder, folder / "data", fault
        self.log = folder / "server.log"
        folder.mkdir(parents=True, exist_ok=True)
        if made is not None:
            shutil.copytree(made, self.data)
            with closing(Workspace(self.data).folder.connect()) as db:
                self.project = projects.cards(db)[0].id
        else:
            self.project = lay_out(self.data)
        self.foreign = folder / "theirs"
        for name, content in THEIRS.items():
            (self.foreign / name).parent.mkdir(parents=True, exist_ok=True)
            (self.foreign / name).write_bytes(content)
        self.port = 0
        self._process: subprocess.Popen[str] | None = None
        self.start()

    @property
    def url(self) -> str:
        """Where the server answers."""
        return f"http://127.0.0.1:{self.port}"

    @property
    def page(self) -> str:
        """The address of the project."""
        return f"{self.url}/projects/{self.project}"

    def _environment(self) -> dict[str, str]:
        if not self.fault:
            return dict(os.environ)
        return {**os.environ, "PYTHONPATH": str(PLANTED), "JAY_PLANTED": self.fault}

    def _command(self, *arguments: str) -> list[str]:
        return [sys.executable, "-P", "-m", "jaylantern.cli.main", *arguments]

    def start(self) -> None:
        """Start the server, at the same port as before."""
        command = self._command("serve", "--no-key", "--data", str(self.data), "--port", str(self.port))
        with self.log.open("a") as log:
            self._process = subprocess.Popen(
                command, stdout=subprocess.PIPE, stderr=log, text=True, env=self._environment(), start_new_session=True
            )
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        found = re.search(r":(\d+)/", line)
        assert found, f"{line}{self.log.read_text()[-2000:]}"
        self.port = int(found[1])

    def kill(self) -> None:
        """End all its processes at once, as a power cut would."""
        assert self._process is not None
        os.killpg(self._process.pid, 9)
        self._process.wait()
        if self._process.stdout is not None:
            self._process.stdout.close()
        time.sleep(0.1)

    def start_elsewhere(self) -> int:
        """Start the program over the folder that is not ours, as with a wrong path typed; how that ended."""
        command = self._command("serve", "--no-key", "--data", str(self.foreign), "--port", "0")
        with subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, env=self._environment(),
            start_new_session=True,
        ) as process:  # fmt: skip
            assert process.stdout is not None
            process.stdout.readline()  # an address, or nothing where it is refused
            try:
                return process.wait(0.5)
            except subprocess.TimeoutExpired:
                os.killpg(process.pid, 9)
                return 0

    def theirs(self) -> dict[str, bytes]:
        """What lies in the folder that is not ours."""
        return {
            str(path.relative_to(self.foreign)): path.read_bytes()
            for path in sorted(self.foreign.rglob("*"))
            if path.is_file()
        }

    def get(self, path: str) -> bytes:
        """The bytes at an address of the server."""
        with urllib.request.urlopen(f"{self.url}{path}", timeout=60) as answer:
            return bytes(answer.read())
