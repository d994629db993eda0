"""The process that answers pages, with the arguments [--no-key] DATA.

It is told of a socket that listens. That stays open in the process that began this one, so that whoever asks while this
one is begun again waits and is answered. It ends with that process.
"""

from __future__ import annotations

import _thread
import signal
import sys
from pathlib import Path

import waitress

from jaylantern.support import child_process
from jaylantern.web import create_app
from jaylantern.workspace.workspace import Workspace

THREADS = 16  # a page that is opened asks for sixty small files at once
LARGEST_BODY = 64 * 1024 * 1024
READY = "ready"
NO_KEY = "--no-key"


def _end(*_: object) -> None:
    """Answer what is being answered, then end."""
    raise SystemExit


def _asked_to_end() -> None:
    """As a signal would, on every system."""
    _thread.interrupt_main(signal.SIGTERM)


def main() -> None:
    """Answer pages of a data folder that was prepared."""
    keyed, (folder,) = NO_KEY not in sys.argv, [each for each in sys.argv[1:] if each != NO_KEY]
    signal.signal(signal.SIGTERM, _end)
    line = child_process.line(_asked_to_end)
    server = waitress.create_server(  # type: ignore[attr-defined]  # its types leave it out
        create_app(Workspace(Path(folder)), keyed=keyed),
        sockets=[line.socket()],
        threads=THREADS,
        max_request_body_size=LARGEST_BODY,
        ident=None,
    )
    line.tell(READY)
    server.run()
