"""What a command is: a name, a declared table of parameters, what has to be known beforehand, and a pure edit.

    Command("join_passages", _join_passages, prepare=PLAN,      index=INDEX)
            what it is       the edit        what it is handed  its parameters: kind, unit and limits of each, and what
                                             beside them        it is if nothing is said

prepare  project, parameters, provider → things by name     reads files and the database, takes as long as it takes
edit     project, numbers, parameters, things → words for the history, project             pure
commit   the difference is written with its inverse                                        `carry_out.py`

Everything that changes a project is one. `registry.py` lists them all, `carry_out.py` does one; nothing about a command
stands anywhere else.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from jaylantern.commands.provider import Prepare, Provider
from jaylantern.core.timeline.clip import GAIN
from jaylantern.core.timeline.kinds import Ids, Kind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue

NOTHING: Prepare = MappingProxyType({})
UNSAID: Any = object()  # a parameter that may be left out, and then is not handed to the edit
NEEDED: Any = object()  # one that must be said
SENT_WITH_ALL = ("seen", "gesture")  # the revision the person saw, and what is dragged: of every command
CLIPS = Ids("Choose clips on the timeline first.")
NewId = Callable[[], int]
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

    The edit is called with the project, a function that answers numbers for what it adds, and by name the parameters
    and what was prepared; it answers what was done in words, for the history, and the project afterwards. It reads and
    changes nothing itself. One that is `lasting` begins the history anew: it can't be undone.
    """

    name: str
    edit: Edit
    params: Mapping[str, Param]
    prepare: Prepare
    lasting: bool

    def __init__(
        self, name: str, edit: Edit, /, *, prepare: Prepare = NOTHING, lasting: bool = False, **params: Kind | Param
    ) -> None:
        table = {each: param if isinstance(param, Param) else Param(param) for each, param in params.items()}
        fields = {"name": name, "edit": edit, "params": table, "prepare": prepare, "lasting": lasting}
        for field, value in fields.items():
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

    def prepared(self, project: Project, values: Mapping[str, Any], provider: Provider) -> dict[str, Any]:
        """What the edit is handed beside its parameters, by name; `values` are checked."""
        return {name: prepare(project, provider, values) for name, prepare in self.prepare.items()}


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
