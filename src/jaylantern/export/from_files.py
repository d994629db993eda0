"""Rendering projects that lie in files, without the pages: opened in a data folder of its own, made, put where it is
wanted. One, or all of a folder at once on all cores."""

from __future__ import annotations

import logging
import shutil
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, ThreadPoolExecutor, wait
from contextlib import closing, contextmanager, nullcontext
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from queue import Empty, SimpleQueue
from threading import Event
from typing import Any

from jaylantern.errors import JayError, MediaError, Refused, Stopped
from jaylantern.export import handoff
from jaylantern.export.task import Task
from jaylantern.projectfile import opening, reading
from jaylantern.store import projects
from jaylantern.support import file_names, kept_processes, system
from jaylantern.support.atomic_file import whole
from jaylantern.support.kept_processes import BrokeOff, KeptProcesses
from jaylantern.support.paths import must_be_a_file, must_have_a_folder
from jaylantern.support.progress import TOLD_EVERY_S, Progress, within
from jaylantern.support.scratch import scratch
from jaylantern.workspace.workspace import Workspace

OPENING = 0.6  # share of the whole that bringing the media in takes


@dataclass(frozen=True)
class Order:
    """What is to be made of a project: what and how as on the page, with settings that take the place of its own."""

    request: Mapping[str, Any]
    settings: Mapping[str, Any] = field(default_factory=dict)
    folders: Sequence[Path] = ()
    fps: Fraction | None = None
    data: Path | None = None  # a data folder to work in and to keep; a temporary one without
    over: bool = False  # may files that are there be written over?
    name: str = ""  # instead of the project's own


@dataclass(frozen=True)
class Made:
    """What became of a project: its files, what should be known of it, how many of its files are missing."""

    project: str
    files: Sequence[Path] = ()
    said: str = ""
    length_n: int = 0
    passages: int = 0
    missing: int = 0
    took_s: float = 0.0
    failed: str = ""

    @property
    def code(self) -> int:
        """As an exit code: 0 made, 1 made with media missing, 2 not made."""
        return 2 if self.failed else 1 if self.missing else 0


def render(path: Path, out: Path, order: Order, progress: Progress) -> Made:
    """Render a project file. `out` is a folder that is there, into which files go by the pattern, or the one file.

    Raises MediaError, Refused, InvalidValue; nothing is left behind then.
    """
    begun = time.monotonic()
    must_be_a_file(path)
    if not reading.is_project(path.name):
        raise MediaError(f"{path.name} is no project: it must be one of {', '.join(reading.ENDINGS)}.")
    if not out.is_dir():
        must_have_a_folder(out)
    request = handoff.asked(order.request)
    with _workspace(order.data) as workspace, closing(workspace.folder.connect()) as db:
        number = projects.create(db, path.stem)
        at_first = within(progress, 0.0, OPENING)
        imported = reading.read(path, path.name, fps=order.fps)
        found = opening.open_project(
            workspace,
            db,
            number,
            path,
            path.name,
            at_first,
            imported=imported,
            folders=(*order.folders, path.parent),
        )
        project = projects.load(db, number)
        project = replace(
            project, name=order.name or project.name, settings=project.settings.changed(dict(order.settings))
        )
        if not project.length_n:
            raise Refused(f"{path.name}: its timeline is empty, so there is nothing to make.")
        result = workspace.decide(project)
        belonging = handoff.belonging(db, project)
        with scratch(workspace.folder.path) as folder:
            task = Task(workspace, project, result, folder, request, within(progress, OPENING, 1.0), belonging)
            made = handoff.make(task)
            files = _put(sorted(folder.iterdir()), out, over=order.over)
        missing = len({clip.media.id for _, clip in project.placed() if clip.media.missing})
    progress(1.0, "done")
    words = " ".join(filter(None, (made, found.in_words("Name folders to search with --media."))))
    took_s = time.monotonic() - begun
    return Made(project.name, files, words, project.length_n, len(result.plan.passages), missing, took_s)


@contextmanager
def _workspace(data: Path | None) -> Iterator[Workspace]:
    """A prepared data folder; a temporary one goes when the work is done."""
    with nullcontext(data) if data is not None else scratch() as folder:
        workspace = Workspace(folder)
        workspace.folder.prepare()
        yield workspace


def _put(files: Sequence[Path], out: Path, *, over: bool) -> list[Path]:
    """Put made files where they are wanted, each whole or not there."""
    if out.is_dir():
        targets = [out / file.name for file in files]
    elif len(files) == 1:
        targets = [out]
    else:
        raise Refused(f"{len(files)} files were made, but {out} is one. Name a folder that is there.")
    for target in targets:
        if target.exists() and not over:
            raise Refused(f"{target} is there already. Choose another name, or add --over to write over it.")
    for file, target in zip(files, targets, strict=True):
        whole(target, lambda part, file=file: shutil.copyfile(file, part))  # type: ignore[misc]
    return targets


def projects_in(folder: Path) -> list[Path]:
    """The project files of a folder, by name. Raises MediaError where there is none."""
    if not folder.is_dir():
        raise MediaError(f"{folder} is not there, or is no folder.")
    found = sorted(path for path in folder.iterdir() if path.is_file() and reading.is_project(path.name))
    if not found:
        raise MediaError(f"There is no project in {folder}: no file that ends in {', '.join(reading.ENDINGS)}.")
    return found


def batch(paths: Sequence[Path], out: Path, order: Order, progress: Callable[[int, float, str], None]) -> list[Made]:
    """Render many project files at once, one to a core; what fails does not keep the others from being made.

    `progress` is told which file, how far it is and what is being done; what it raises ends all. Files are named after
    the project's file.
    """
    stems = [path.stem for path in paths]
    names = file_names.told_apart(path.stem if stems.count(path.stem) == 1 else path.name for path in paths)
    orders = [replace(order, name=name) for name in names]
    out.mkdir(parents=True, exist_ok=True)
    found: dict[int, Made] = {}
    reports, ending = SimpleQueue[tuple[int, float, str]](), Event()
    kept = KeptProcesses[tuple[Path, Path, Order], Made]("from jaylantern.export.from_files import serve; serve()")

    def made(i: int) -> Made:
        def tell(share: float, doing: str) -> None:
            if ending.is_set():
                raise Stopped("Stopped.")
            reports.put((i, share, doing))

        try:
            return kept.do((paths[i], out, orders[i]), tell)
        except BrokeOff as error:
            return Made(names[i], failed=f"It was not made: {system.in_words(error.code)}.")

    with ThreadPoolExecutor(min(len(paths), system.cores())) as threads:
        try:
            waiting = {threads.submit(made, i): i for i in range(len(paths))}
            while waiting:
                done, _ = wait(waiting, timeout=TOLD_EVERY_S, return_when=FIRST_COMPLETED)
                _pass_on(reports, progress)
                for future in done:
                    i = waiting.pop(future)
                    found[i] = future.result()
                    progress(i, 1.0, found[i].failed or "done")
        finally:
            ending.set()
            threads.shutdown(cancel_futures=True)
            kept.close()
    return [found[i] for i in range(len(paths))]


def serve() -> None:
    """What a process of a batch does: one project after another."""
    kept_processes.serve(_one)


def _one(task: tuple[Path, Path, Order], progress: Progress) -> Made:
    """One project of many."""
    path, out, order = task
    try:
        return render(path, out, order, progress)
    except Exception as error:
        if not isinstance(error, (JayError, OSError)):
            logging.getLogger(__name__).exception("%s", path)
        return Made(order.name, failed=str(error) or type(error).__name__)


def _pass_on(reports: SimpleQueue[tuple[int, float, str]], progress: Callable[[int, float, str], None]) -> None:
    while True:
        try:
            said = reports.get_nowait()
        except Empty:
            return
        progress(*said)
