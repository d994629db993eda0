"""The worker process: `python -m jaylantern.jobs.worker DATA [PARENT]`. It ends when the server that started it does,
also when that was gone (its process number is PARENT) before the worker had begun."""

from __future__ import annotations

import os
import sys
import threading
import time
from pathlib import Path

from jaylantern.jobs.queue import Queue, consumer
from jaylantern.support.malloc import keep_freed_memory
from jaylantern.workspace.workspace import Workspace


def _end_with_parent(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(0.25)
    os._exit(0)


def main() -> None:
    """Take up what was left undone, then wait for work."""
    keep_freed_memory()
    parent = int(sys.argv[2]) if len(sys.argv) > 2 else os.getppid()
    threading.Thread(target=_end_with_parent, args=(parent,), daemon=True).start()
    queue = Queue(Workspace(Path(sys.argv[1])))
    queue.begin_again()
    consumer(queue).run()


if __name__ == "__main__":
    main()
