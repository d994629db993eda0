"""The worker process, with the argument DATA. It ends when the server that started it does."""

from __future__ import annotations

import os
import sys
import threading
import time
from pathlib import Path

from jaylantern.jobs.queue import Queue, consumer
from jaylantern.support import child_process, own_python, system
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.workspace.workspace import Workspace

LOOK_S = 2.0


def _look(queue: Queue) -> None:
    while True:
        time.sleep(LOOK_S)
        queue.look()


def main() -> None:
    """Take up what was left undone, then wait for work."""
    child_process.line()
    keep_freed_memory()
    queue = Queue(Workspace(Path(sys.argv[1])))
    ended = os.environ.get(own_python.LAST_END)
    queue.begin_again(how=system.in_words(int(ended) if ended else None))
    threading.Thread(target=_look, args=(queue,), daemon=True).start()
    consumer(queue).run()
