"""Starts the application: data folder, worker process, pages on the loopback address."""

from __future__ import annotations

import os
import socket
import subprocess
import threading
import webbrowser
from contextlib import ExitStack
from pathlib import Path

import waitress

from jaylantern.errors import InvalidValue, Refused
from jaylantern.support import own_python
from jaylantern.web import create_app
from jaylantern.workspace.folder import default_folder
from jaylantern.workspace.workspace import Workspace

HOST = "127.0.0.1"
THREADS = 16  # a page that is opened asks for sixty small files at once
LARGEST_BODY = 64 * 1024 * 1024


class Worker:
    """Keeps one worker process alive until told otherwise."""

    def __init__(self, data: Path) -> None:
        self._command = own_python.command("-m", "jaylantern.jobs.worker", str(data), str(os.getpid()))
        self._ending = threading.Event()
        self._process = subprocess.Popen(self._command)  # noqa: S603 – our own module
        threading.Thread(target=self._keep, daemon=True).start()

    def _keep(self) -> None:
        while not self._ending.is_set():
            self._process.wait()
            if not self._ending.wait(1.0):
                self._process = subprocess.Popen(self._command)  # noqa: S603

    def end(self) -> None:
        """Stop the worker; what it was doing is begun again at the next start."""
        self._ending.set()
        self._process.terminate()
        try:
            self._process.wait(2)
        except subprocess.TimeoutExpired:
            self._process.kill()


def _listen(port: int) -> socket.socket:
    if not 0 <= port <= 65535:
        raise InvalidValue(f"A port is between 0 and 65535; {port} is not.")
    listening = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((HOST, port))
    except OSError as error:
        raise Refused(
            f"Port {port} is taken: Jay Lantern may be running already. Choose another with --port."
        ) from error
    return listening


def serve(*, data: Path | None, port: int, open_page: bool, demo: bool) -> None:
    """Serve until interrupted. `data` is made if it is not there; port 0 takes any free one."""
    folder = (data or default_folder()).resolve()
    with ExitStack() as held:
        listening = _listen(port)
        held.callback(listening.close)
        os.umask(0o077)  # what is made from here on is its owner's alone
        workspace = Workspace(folder)
        workspace.folder.prepare()
        lock = workspace.folder.hold()
        held.callback(lock.release)
        if demo:
            from jaylantern.demo.build import ensure_demo

            ensure_demo(workspace)
        address = f"http://{HOST}:{listening.getsockname()[1]}/"
        lock.say(f"at {address}")
        worker = Worker(folder)
        held.callback(worker.end)
        server = waitress.create_server(  # type: ignore[attr-defined]  # its types leave it out
            create_app(workspace), sockets=[listening], threads=THREADS, max_request_body_size=LARGEST_BODY, ident=None
        )
        print(f"Jay Lantern is at {address}  (data in {folder}; Ctrl-C ends it)", flush=True)
        if open_page:
            webbrowser.open(address)
        server.run()
