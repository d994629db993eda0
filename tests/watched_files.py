"""Nothing that is not ours: every removal, renaming and overwriting of a file by the program is watched, in this
process and in all that it begins. What a test laid there, or what lies outside of the tests' own folders, is not
the program's to touch.

An audit hook (PEP 578) can't be taken away again; it looks only while there is somebody to tell. A process that is
begun finds the hook by `sitecustomize.py` in the folder beside this file, and the places by the environment.

    FOREIGN   a line for each file that a test made
    FAULTS    a line for each thing that was done to one of them, or outside; of each process of tests its own
"""

from __future__ import annotations

import os
import re
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

PLACES, SITE = "JAY_WATCHED_FILES", Path(__file__).parent / "watched_site"
SOURCE = f"{os.sep}jaylantern{os.sep}"
EVENTS = frozenset(
    {"open", "os.remove", "os.rename", "os.rmdir", "os.link", "os.truncate", "shutil.rmtree", "shutil.move"}
)
MOVES = ("os.remove", "os.rename", "shutil.rmtree", "shutil.move")
MAKES = "wxa+"
SENT = re.compile(  # what a page would have sent, and what bears a name that only the program gives
    r"/(incoming|takes)/[0-9a-z]+(\.wav)?$|/part-[0-9a-f]{32}-[^/]*$|/jaylantern-[0-9a-f]{32}/files/|/\.making-"
)
_here = threading.local()
_seen = {"size": 0, "foreign": set(), "looks": False}


def _places() -> tuple[str, str, list[str]] | None:
    """The files of what is foreign and what went wrong, and the folders in which the program may work."""
    said = os.environ.get(PLACES)
    if not said:
        return None
    foreign, faults, *roots = said.split(os.pathsep)
    return foreign, faults, roots


def _plain(path: object) -> str | None:
    """A path as text, absolute; None of what is none."""
    if isinstance(path, int) or path is None:
        return None
    try:
        return os.path.abspath(os.fsdecode(os.fspath(path))).removeprefix("\\\\?\\")  # type: ignore[call-overload]
    except (TypeError, ValueError):
        return None


def _by_program() -> bool:
    """Is it the program that does this, and not a test or a library of tests on its own?"""
    frame = sys._getframe(3)
    while frame is not None:
        name = frame.f_code.co_filename
        if name.endswith(f"{os.sep}tempfile.py"):
            return False  # what it makes has a name nobody else has, or none
        if SOURCE in name and "site-packages" not in name:
            return True
        frame = frame.f_back
    return False


def _foreign(of: str) -> set[str]:
    """The files that tests have made, in any process."""
    try:
        size = os.stat(of).st_size
        if size != _seen["size"]:
            with open(of, encoding="utf-8", errors="surrogateescape") as file:
                _seen["foreign"] = set(file.read().splitlines())
            _seen["size"] = size
    except FileNotFoundError:
        _seen["foreign"] = set()
    return _seen["foreign"]


def _note(file: str, line: str) -> None:
    out = os.open(file, os.O_WRONLY | os.O_APPEND | os.O_CREAT)
    try:
        os.write(out, os.fsencode(line.replace("\n", " ") + "\n"))
    finally:
        os.close(out)


def _touched(event: str, args: tuple[object, ...]) -> list[tuple[str, object]]:
    """What an event does to which paths: "takes" one away, writes "over" one, "moves" a
    folder there, or "makes" one."""
    if event in ("os.remove", "os.rmdir") and args[1] != -1:
        return []  # a part of `shutil.rmtree`, which has been looked at
    if event in ("os.remove", "os.rmdir", "shutil.rmtree", "os.truncate"):
        return [("takes", args[0])]
    if event in ("os.rename", "shutil.move"):
        whole_folder = not isinstance(args[0], int) and os.path.isdir(os.fsdecode(os.fspath(args[0])))  # type: ignore
        return [("takes", args[0]), ("moves" if whole_folder else "over", args[1])]
    if event == "os.link":
        return [("makes", args[1])]
    if event == "open" and isinstance(args[1], str) and any(letter in args[1] for letter in MAKES):
        return [("over", args[0])]
    if event == "open" and args[1] is None and isinstance(args[2], int) and args[2] & (os.O_TRUNC | os.O_CREAT):
        return [("over", args[0])]
    return []


def _look(event: str, args: tuple[object, ...]) -> None:
    if event not in EVENTS:
        return
    touched = _touched(event, args)
    places = _places() if touched and not getattr(_here, "looking", False) else None
    if places is None:
        return
    _here.looking = True
    try:
        _judge(event, touched, *places)
    finally:
        _here.looking = False


def _judge(event: str, touched: list[tuple[str, object]], foreign: str, faults: str, roots: list[str]) -> None:
    ours = _by_program()
    for what, which in touched:
        path = _plain(which)
        if (
            path is None
            or path.startswith(("/dev/", "/proc/", "/sys/"))
            or "__pycache__" in path
            or (event == "open" and os.path.isdir(path))
        ):
            continue
        there = os.path.lexists(path)
        if not ours:
            if (
                what in ("over", "makes")
                and not there
                and path not in (foreign, faults)
                and not SENT.search(path.replace(os.sep, "/"))
            ):
                _note(foreign, path)
            continue
        if event in MOVES and what in ("takes", "over") and _is_open(path):
            _note(faults, f"{event} {what} {path}: it is open here, and Windows would refuse{_where()}")
        outside = not path.startswith(tuple(roots))
        theirs = path in _foreign(foreign) or (event == "shutil.rmtree" and _holds(path, _foreign(foreign)))
        if (outside and what != "makes") or (there and theirs and what in ("takes", "over")):
            why = "outside of what is ours" if outside else "a test laid it there"
            _note(faults, f"{event} {what} {path}: {why}{_where()}")


def _holds(folder: str, foreign: set[str]) -> bool:
    """Does any foreign file lie in a folder?"""
    below = folder.rstrip(os.sep) + os.sep
    return any(path.startswith(below) and os.path.lexists(path) for path in foreign)


def _is_open(path: str) -> bool:
    """Has this process a file open, or mapped, or one in that folder? Windows takes none such away, nor writes another
    in its place. Where the system does not say what is open, no."""
    below = path.rstrip(os.sep) + os.sep
    try:
        descriptors = os.listdir("/proc/self/fd")
        with open("/proc/self/maps", encoding="utf-8", errors="surrogateescape") as maps:
            mapped = [line.split(maxsplit=5)[5].rstrip("\n") for line in maps if line.count("/")]
    except OSError:
        return False
    there = [*mapped]
    for each in descriptors:
        with suppress(OSError):
            there.append(os.readlink(f"/proc/self/fd/{each}"))
    return any(each == path or each.startswith(below) for each in there)


def _where() -> str:
    """Which lines of the program did it."""
    frame, found = sys._getframe(3), []
    while frame is not None and len(found) < 4:
        if SOURCE in frame.f_code.co_filename:
            found.append(f"{Path(frame.f_code.co_filename).name}:{frame.f_lineno}")
        frame = frame.f_back
    return f" ({' < '.join(found)})" if found else ""


def begin() -> None:
    """Look from now on, in this process; a second time says nothing new."""
    if not _seen["looks"]:
        _seen["looks"] = True
        sys.addaudithook(_look)


@contextmanager
def unwatched() -> Iterator[None]:
    """For a test that lays what the program is to take away: it counts as the program's."""
    _here.looking = True
    try:
        yield
    finally:
        _here.looking = False


def environment(folder: Path, *roots: Path) -> dict[str, str]:
    """What the processes of a test run are to know: where to note, where the program may work."""
    said = os.pathsep.join(str(each) for each in (folder / "foreign", folder / "faults", *roots))
    return {PLACES: said, "PYTHONPATH": os.pathsep.join(filter(None, (str(SITE), os.environ.get("PYTHONPATH"))))}


def faults() -> list[str]:
    """What went wrong since this was asked last."""
    places = _places()
    if places is None or not os.path.exists(places[1]):
        return []
    with open(places[1], encoding="utf-8", errors="surrogateescape") as file:
        found = file.read().splitlines()
    with unwatched():
        os.remove(places[1])
    return found


def own_faults(name: str) -> None:
    """Have this process, and those it begins, note faults in a file of their own."""
    foreign, faults, *roots = os.environ[PLACES].split(os.pathsep)
    os.environ[PLACES] = os.pathsep.join((foreign, f"{faults}-{name}", *roots))
