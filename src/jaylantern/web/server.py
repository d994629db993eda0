"""The process that answers pages: `python -m jaylantern.web.server [--no-key] DATA SOCKET PARENT`.

SOCKET is the number of an open file, a socket that listens. It stays open in the process that began this one (PARENT),
so that whoever asks while this one is begun again waits and is answered. It ends with that process.
"""

from __future__ import annotations

import signal
import socket
import sys
from pathlib import Path

import waitress

from jaylantern.support import own_python
from jaylantern.web import create_app
from jaylantern.workspace.workspace import Workspace

THREADS = 16  # a page that is opened asks for sixty small files at once
LARGEST_BODY = 64 * 1024 * 1024
READY = "ready"
NO_KEY = "--no-key"


def _end(*_: object) -> None:
    """Answer what is being answered, then end."""
    raise SystemExit


def main() -> None:
    """Answer pages of a data folder that was prepared."""
    keyed, (folder, *numbers) = NO_KEY not in sys.argv, [each for each in sys.argv[1:] if each != NO_KEY]
    data, (number, parent) = Path(folder), map(int, numbers)
    own_python.end_with(parent)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is told to all; the parent ends this one
    signal.signal(signal.SIGTERM, _end)
    server = waitress.create_server(  # type: ignore[attr-defined]  # its types leave it out
        create_app(Workspace(data), keyed=keyed),
        sockets=[socket.socket(fileno=number)],
        threads=THREADS,
        max_request_body_size=LARGEST_BODY,
        ident=None,
    )
    print(READY, flush=True)
    server.run()


if __name__ == "__main__":
    main()
