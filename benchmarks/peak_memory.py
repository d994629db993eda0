"""Run in a process of its own: does one piece of work and prints the peak of its memory in KiB."""

from __future__ import annotations

import sys
from pathlib import Path

from benchmarks import ours, tailoring


def main() -> None:
    """`peak_memory WORK FOLDER MINUTES`."""
    work, folder, minutes = sys.argv[1], Path(sys.argv[2]), sys.argv[3]
    if work == "analyse":
        ours.analyse(folder / f"bed {minutes}.wav")
    elif work == "import":
        ours.bring_in(folder / f"bed {minutes}.wav", folder / f"data {minutes}")
    elif work == "tailor":
        store = ours.to_raw(folder / f"bed {minutes}.wav", folder / "tailor.raw")
        tailoring.folded(tailoring.heard(store), store, 0.6)
    else:
        one = ours.to_raw(folder / f"talk {minutes}.wav", folder / "one.raw")
        two = ours.to_raw(folder / f"bed {minutes}.wav", folder / "two.raw")
        ours.render(one, two, folder / "mine.wav")
    status = Path("/proc/self/status").read_text()  # ru_maxrss would count what stood there before exec
    print(next(line.split()[1] for line in status.splitlines() if line.startswith("VmHWM")))


if __name__ == "__main__":
    main()
