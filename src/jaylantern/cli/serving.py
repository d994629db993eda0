"""The commands that start the application: serve, demo. Data folder, worker, pages on the loopback address."""

from __future__ import annotations

import argparse
import os
import re
import signal
import socket
import sys
import threading
import time
import webbrowser
from collections.abc import Mapping
from contextlib import ExitStack
from pathlib import Path

from jaylantern.errors import InvalidValue, JayError, Refused
from jaylantern.support import own_python, system
from jaylantern.support.child_process import Child
from jaylantern.workspace.folder import default_folder
from jaylantern.workspace.workspace import Workspace

HOST = "127.0.0.1"
WAITING = 128  # who may wait at the door while the process that answers is begun again
AGAIN_S = 1.0
LOOK_S = 0.5
FREED_S = 2.0  # so long a server that was just killed may still be letting go of its port
ENDS_S = 6.0  # so long what is being answered may take when the end has come


class Kept:
    """A process of ours that is begun again when it ends, until it is told to."""

    def __init__(self, code: str, *arguments: str, listening: socket.socket | None = None) -> None:
        self._code, self._arguments, self._listening = code, arguments, listening
        self._ending = threading.Event()
        self._child = self._begun(os.environ)
        threading.Thread(target=self._keep, daemon=True).start()

    def _begun(self, environment: Mapping[str, str]) -> Child:
        return Child(self._code, *self._arguments, environment=environment, listening=self._listening)

    def _keep(self) -> None:
        while not self._ending.is_set():
            code = self._child.process.wait()
            if not self._ending.wait(AGAIN_S):
                self._child.end()
                self._child = self._begun({**os.environ, own_python.LAST_END: str(code)})

    def ready(self) -> bool:
        """Wait until it says that it is ready; False where it ended before."""
        try:
            self._child.heard()
        except EOFError:
            return False
        return True

    def end(self) -> None:
        """Stop it; what it was doing and can be done again is begun again at the next start."""
        self._ending.set()
        self._child.end(ENDS_S)


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What they take."""
    if name == "address":
        parser.add_argument("--data", type=Path, help="data folder (default: the one of your own account)")
        parser.set_defaults(run=_address)
        return
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument(
        "--open",
        action=argparse.BooleanOptionalAction,
        help="open the page in a browser (default: where a person sits at a terminal, on a desktop)",
    )
    parser.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
    parser.add_argument(
        "--no-key",
        action="store_true",
        help="answer every browser, without the key: whoever has an account on this machine can read and change all"
        " projects; for scripts and tests",
    )
    parser.set_defaults(run=_serve, demo=name == "demo")


def _address(args: argparse.Namespace) -> None:
    """Print an address that lets one more browser in, of the server that has the data folder."""
    folder = Workspace((args.data or default_folder()).resolve()).folder
    folder.must_be_there()
    try:
        folder.hold().release()
    except Refused:
        found = re.search(r"at (http://\S+)", folder.holder())
        if found is None:
            raise Refused("Jay Lantern is just starting. Try again in a moment.") from None
        print(f"{found[1]}?key={folder.key()}")
        return
    raise Refused(f"No Jay Lantern is running on {folder.path}. Start it with {own_python.called()} serve.")


def _listen(port: int) -> socket.socket:
    if not 0 <= port <= 65535:
        raise InvalidValue(f"A port is between 0 and 65535; {port} is not.")
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    until = time.monotonic() + FREED_S
    while True:
        try:
            listening.bind((HOST, port))
            listening.listen(WAITING)
            return listening
        except OSError as error:
            if time.monotonic() > until:
                raise Refused(
                    f"Port {port} is taken: Jay Lantern may be running already. Choose another with --port."
                ) from error
            time.sleep(0.05)


def _wants_a_browser() -> bool:
    """Does a person sit here who can see one?"""
    return sys.stdout.isatty() and system.has_a_desktop()


def _serve(args: argparse.Namespace) -> None:
    """Serve until interrupted. The data folder is made if it is not there; port 0 takes any free one."""
    folder = (args.data or default_folder()).resolve()
    with ExitStack() as held:
        listening = _listen(args.port)
        held.callback(listening.close)
        system.for_the_owner_alone()
        workspace = Workspace(folder)
        lock = workspace.folder.prepare_alone()
        held.callback(lock.release)
        if args.demo:
            from jaylantern.demo.build import ensure_demo

            ensure_demo(workspace)
        address = f"http://{HOST}:{listening.getsockname()[1]}/"
        lock.say(f"at {address}")
        worker = Kept("from jaylantern.jobs.worker import main; main()", str(folder))
        held.callback(worker.end)
        door = ["--no-key"] if args.no_key else []
        opened = address if args.no_key else f"{address}?key={workspace.folder.new_key()}"
        pages = Kept("from jaylantern.web.server import main; main()", *door, str(folder), listening=listening)
        held.callback(pages.end)
        if not pages.ready():
            raise JayError("The pages could not be started; what is said above tells why.")
        who = "without a key: any account of this machine can use it" if args.no_key else "the key lets one browser in"
        ended = threading.Event()
        signal.signal(signal.SIGINT, lambda *_: ended.set())  # Ctrl-C, whatever is just being done
        print(f"Jay Lantern is at {opened}  ({who}; data in {folder}; Ctrl-C ends it)", flush=True)
        if _wants_a_browser() if args.open is None else args.open:
            webbrowser.open(opened)
        while not ended.wait(LOOK_S):  # Windows hears no key while it waits without end
            pass
