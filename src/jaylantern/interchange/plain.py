"""Reading values from a document that anybody may have written: each is checked, and an error says where it stands."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping
from enum import StrEnum
from typing import Any, TypeVar

from jaylantern.errors import InvalidValue, MediaError

Kind = TypeVar("Kind", bound=StrEnum)
MOST_LISTED = 200_000
MISSING = object()


def parsed(text: bytes | str, name: str) -> Any:
    """What a JSON document holds. Raises MediaError in words a person can use, also for one that is nested too deep."""
    try:
        return json.loads(text)
    except (ValueError, RecursionError) as error:
        said = str(error).split(":")[0] if isinstance(error, json.JSONDecodeError) else "it can't be read as text"
        raise MediaError(f"{name} is not a project that can be read: it is no JSON document ({said}).") from error


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
        return InvalidValue(f"{self._at(name)} must be {wanted}; {str(self.values.get(name))[:40]!r} is not.")

    def whole(self, name: str, low: int, high: int, otherwise: object = MISSING) -> int:
        """A whole number within limits."""
        value = self._of(name, otherwise)
        if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
            raise self.wrong(name, f"a whole number from {low} to {high}")
        return value

    def whole_or_none(self, name: str, low: int, high: int) -> int | None:
        """A whole number within limits, or None where it is null or not there."""
        return None if self.values.get(name) is None else self.whole(name, low, high)

    def number(self, name: str, low: float, high: float, otherwise: object = MISSING) -> float:
        """A finite number within limits."""
        value = self._of(name, otherwise)
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not math.isfinite(value):
            raise self.wrong(name, "a number")
        if not low <= value <= high:
            raise self.wrong(name, f"a number from {low:g} to {high:g}")
        return float(value)

    def number_or_none(self, name: str, low: float, high: float) -> float | None:
        """A finite number within limits, or None where it is null or not there."""
        return None if self.values.get(name) is None else self.number(name, low, high)

    def flag(self, name: str) -> bool:
        """True or false; false where it is not there."""
        value = self.values.get(name, False)
        if not isinstance(value, bool):
            raise self.wrong(name, "true or false")
        return value

    def line(self, name: str, otherwise: object = MISSING, *, most: int = 200) -> str:
        """A line of text: printable, spaces made single, cut to so many characters."""
        value = self._of(name, otherwise)
        if not isinstance(value, str):
            raise self.wrong(name, "text")
        return " ".join("".join(c if c.isprintable() else " " for c in value).split())[:most]

    def one_of(self, kind: type[Kind], name: str, otherwise: object = MISSING) -> Kind:
        """A word of a kind."""
        value = self._of(name, otherwise)
        try:
            return kind(str(value))
        except ValueError:
            raise self.wrong(name, f"one of {', '.join(kind)}") from None

    def one_of_or_none(self, kind: type[Kind], name: str) -> Kind | None:
        """A word of a kind, or None where it is null or not there."""
        return None if self.values.get(name) is None else self.one_of(kind, name)

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
