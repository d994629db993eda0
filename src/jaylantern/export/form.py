"""A form of export: what it is called, and what makes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from jaylantern.export.task import Task


@dataclass(frozen=True)
class ExportForm:
    """What can be handed off. `make` makes its files in the folder of the task, and answers what the person should know
    of them; each file is whole or not there."""

    label: str
    make: Callable[[Task], str]
