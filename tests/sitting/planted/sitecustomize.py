"""Plants one fault in the processes of a server under test: its name stands in JAY_PLANTED. What watches the files of
other tests is not loaded there: it would find the fault first."""

from __future__ import annotations

import importlib
import os
import shutil
import time


def _foreign_folder_emptied() -> None:
    from jaylantern.workspace import folder

    def check(self: folder.DataFolder) -> None:
        for name in ("exports", "notes"):
            shutil.rmtree(self.path / name, ignore_errors=True)

    folder.DataFolder._check = check  # type: ignore[method-assign]


def _long_edit_refuses_others() -> None:
    from jaylantern.errors import Refused

    carry_out = importlib.import_module("jaylantern.commands.carry_out")  # a function of that name hides it
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

    carry_out._committed = committed  # type: ignore[attr-defined]


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
