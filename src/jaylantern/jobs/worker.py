"""The worker process: `python -m jaylantern.jobs.worker DATA [PARENT]`. It ends when the server that started it does,
also when that was gone (its process number is PARENT) before the worker had begun."""

from __future__ import annotations

import os
import signal
import sys
import threading
import time
from pathlib import Path

from jaylantern.jobs.queue import Queue, consumer
from jaylantern.support import own_python
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.workspace.workspace import Workspace

LOOK_S = 2.0


def _look(queue: Queue) -> None:
    while True:
        time.sleep(LOOK_S)
        queue.look()


def main() -> None:
    """Take up what was left undone, then wait for work."""
    keep_freed_memory()
    own_python.end_with(int(sys.argv[2]) if len(sys.argv) > 2 else os.getppid())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl-C is told to all; the server ends this one
    queue = Queue(Workspace(Path(sys.argv[1])))
    ended = os.environ.get(own_python.LAST_END)
    queue.begin_again(how=own_python.how_it_ended(int(ended) if ended else None))
    threading.Thread(target=_look, args=(queue,), daemon=True).start()
    consumer(queue).run()


if __name__ == "__main__":
    main()
