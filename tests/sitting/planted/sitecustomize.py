"""Plants one fault in the processes of a server under test: the name stands in JAY_PLANTED. What would have been loaded
in the place of this module is loaded behind it."""

from __future__ import annotations

import os
import runpy
import shutil
import sys
import time
from pathlib import Path


def _foreign_folder_emptied() -> None:
    from jaylantern.workspace import folder

    def check(self: folder.DataFolder) -> None:
        for name in ("exports", "notes"):
            shutil.rmtree(self.path / name, ignore_errors=True)

    folder.DataFolder._check = check  # type: ignore[method-assign]


def _long_edit_refuses_others() -> None:
    from jaylantern import commands
    from jaylantern.commands import carry_out
    from jaylantern.errors import Refused

    plain, at_work = carry_out._committed, []

    def committed(*given: object) -> object:
        if at_work:
            raise Refused("The project is being changed in another window. Try again.")
        at_work.append(given)
        try:
            time.sleep(0.4)
            return plain(*given)  # type: ignore[arg-type]
        finally:
            at_work.pop()

    carry_out._committed = committed  # type: ignore[assignment]
    assert commands


def _silent_part() -> None:
    from jaylantern.core.ducking import media_power

    plain = media_power.MediaPower.on_grid

    def on_grid(self: media_power.MediaPower, clip: object) -> object:
        if clip.offset_n > len(self.products) * media_power.STEP_N:  # type: ignore[attr-defined]
            raise IndexError("index out of bounds")
        return plain(self, clip)  # type: ignore[arg-type]

    media_power.MediaPower.on_grid = on_grid  # type: ignore[method-assign,assignment]


FAULTS = {
    "a foreign folder emptied": _foreign_folder_emptied,
    "one window's long edit refuses another's": _long_edit_refuses_others,
    "the cut in the silent part of a film": _silent_part,
}

if plant := FAULTS.get(os.environ.get("JAY_PLANTED", "")):
    import jaylantern  # noqa: F401 – first, as it says how numpy is to work

    plant()
for other in sys.path:
    behind = Path(other) / "sitecustomize.py"
    if Path(other).resolve() != Path(__file__).parent.resolve() and behind.exists():
        runpy.run_path(str(behind))
        break
