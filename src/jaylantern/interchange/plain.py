"""Reading values from a document that anybody may have written: each is checked, and an error says where it stands."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterator, Mapping
from typing import Any, TypeVar

from jaylantern.core.timeline.described import read, read_fields
from jaylantern.core.timeline.kinds import MOST_LISTED, Kind, Line, refused
from jaylantern.errors import InvalidValue, MediaError

Noun = TypeVar("Noun")
MISSING = object()


def parsed(text: bytes | str, name: str, *, what: str = "project") -> Any:
    """What a JSON document holds, by the letter of RFC 8259. Raises MediaError in words a person can use, also for one
    that is nested too deep, names a thing twice, or holds NaN or Infinity."""
    try:
        return json.loads(text, object_pairs_hook=_once, parse_constant=_no_number)
    except (ValueError, RecursionError) as error:
        odd = isinstance(error, (json.JSONDecodeError, _Odd))
        said = str(error).split(":")[0] if odd else "it can't be read as text"
        raise MediaError(f"{name} is not a {what} that can be read: it is no JSON document ({said}).") from error


class _Odd(ValueError):
    """What JSON leaves open, or forbids, and some readers take."""


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in pairs:
        if name in found:
            raise _Odd(f"it says {name[:60]!r} twice")
        found[name] = value
    return found


def _no_number(word: str) -> None:
    raise _Odd(f"{word} is no number")


class Plain:
    """One object of a document, and where it stands in it."""

    def __init__(self, values: object, where: str = "") -> None:
        self.where = where
        if not isinstance(values, Mapping):
            raise InvalidValue(f"{where or 'The document'} must be an object.")
        self.values = values

    def _of(self, name: str, otherwise: object) -> Any:
        value = self.values.get(name, otherwise)
        if value is MISSING:
            raise InvalidValue(f"{self._at(name)} is not there.")
        return value

    def _at(self, name: str) -> str:
        return f"{self.where}.{name}" if self.where else name

    def wrong(self, name: str, wanted: str) -> InvalidValue:
        """The error for a value that is not what is wanted."""
        return refused(self._at(name), self.values.get(name), wanted)

    def value(self, name: str, kind: Kind, otherwise: object = MISSING) -> Any:
        """A value of a kind; `otherwise` where it is not there."""
        if name not in self.values and otherwise is not MISSING:
            return otherwise
        return kind.checked(self._of(name, otherwise), self._at(name))

    def speaks_of(self, name: str, numbers: Collection[int]) -> bool:
        """Is the value, whatever it is, one of these numbers?"""
        value = self.values.get(name)
        return isinstance(value, int) and value in numbers

    def line(self, name: str, otherwise: object = MISSING, *, most: int = 200) -> str:
        """A line of text, cut to so many characters."""
        return str(self.value(name, Line(most), otherwise))

    def noun(self, of: type[Noun], **given: Any) -> Noun:
        """A noun from its fields, but for those that are given."""
        return read(of, self.values, what=self.where, given=given)

    def fields(self, of: type[Any], *, but: Collection[str]) -> dict[str, Any]:
        """The fields of a noun by name, but for some; usual where they are not there."""
        return read_fields(of, self.values, what=self.where, but=but)

    def object(self, name: str) -> Plain:
        """An object in it; an empty one where it is not there."""
        return Plain(self.values.get(name) or {}, self._at(name))

    def objects(self, name: str) -> Iterator[Plain]:
        """A list of objects; none where it is not there."""
        for i, each in enumerate(self.list(name)):
            yield Plain(each, f"{self._at(name)}[{i}]")

    def list(self, name: str) -> list[Any]:
        """A list of anything; an empty one where it is not there."""
        value = self.values.get(name) or []
        if not isinstance(value, list) or len(value) > MOST_LISTED:
            raise self.wrong(name, f"a list of at most {MOST_LISTED}")
        return value
