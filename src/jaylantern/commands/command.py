"""What a command is: a name, a declared table of parameters, and a pure edit that answers words and a project.

    Command("slip_clips", slip_clips, clip_ids=CLIPS, by_n=MOVE)
            what it is    the edit    its parameters: kind, unit and limits of each, and what it is if nothing is said

Everything that changes a project is one. `registry.py` lists them all, `carry_out.py` does one; nothing about a command
stands anywhere else.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from jaylantern.commands.at_hand import AtHand
from jaylantern.core.timeline.clip import GAIN
from jaylantern.core.timeline.kinds import Ids, Kind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

UNSAID: Any = object()  # a parameter that may be left out, and then is not handed to the edit
NEEDED: Any = object()  # one that must be said
SENT_WITH_ALL = ("seen", "gesture")  # the revision the person saw, and what is dragged: of every command
CLIPS = Ids("Choose clips on the timeline first.")
Edit = Callable[..., tuple[str, Project]]


@dataclass(frozen=True)
class Param:
    """One parameter: what it may be, what it is where nothing is said of it, what errors call it."""

    kind: Kind
    default: Any = NEEDED
    called: str = ""


@dataclass(frozen=True, init=False)
class Command:
    """Something that can be done to a project.

    The edit is called with the project, what is at hand, and the parameters by name; it answers what was done in words,
    for the history, and the project afterwards. It changes nothing itself. One that is `lasting` begins the history
    anew: it can't be undone.
    """

    name: str
    edit: Edit
    params: Mapping[str, Param]
    lasting: bool

    def __init__(self, name: str, edit: Edit, /, *, lasting: bool = False, **params: Kind | Param) -> None:
        table = {each: param if isinstance(param, Param) else Param(param) for each, param in params.items()}
        for field, value in (("name", name), ("edit", edit), ("params", table), ("lasting", lasting)):
            object.__setattr__(self, field, value)

    def checked(self, values: Mapping[str, Any]) -> dict[str, Any]:
        """The parameters from outside, each checked. Raises InvalidValue with its name, the value, the limit and the
        remedy; also for one that is missing or that the command does not have."""
        unknown = [name for name in values if name not in self.params and name not in SENT_WITH_ALL]
        if unknown:
            known = ", ".join(self.params) or "nothing"
            raise InvalidValue(f"{self.name} takes {known}; {str(unknown[0])[:40]!r} is not among it.")
        found = {}
        for name, param in self.params.items():
            if name in values:
                found[name] = param.kind.checked(values[name], param.called or name)
            elif param.default is NEEDED:
                raise InvalidValue(f"{self.name} needs {name}: {_limit(param.kind)}.")
            elif param.default is not UNSAID:
                found[name] = param.default
        return found

    def __call__(self, project: Project, values: Mapping[str, Any], at_hand: AtHand) -> tuple[str, Project]:
        """Do it to a project with values from outside."""
        return self.edit(project, at_hand, **self.checked(values))


def _limit(kind: Kind) -> str:
    """What a kind may be, in the words of its own error."""
    try:
        kind.checked(UNSAID, "it")
    except InvalidValue as error:
        return str(error).removeprefix("it must be ").split(";")[0]
    return "a value"


def maybe(kind: Kind, default: Any = UNSAID, called: str = "") -> Param:
    """A parameter that may be left out."""
    return Param(kind, default, called)


CLIP_GAIN = Param(GAIN, called="The gain of a clip")
