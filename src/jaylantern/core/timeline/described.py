"""The fields of a noun, described once. Rows of the database, the project document, the clipboard and what the page is
told are derived from the description.

    gain_db: float = described(Number(-90, 24, "dB"), default=0.0)

A noun takes two forms. The *nested* one is for documents: a fade is an object, a medium is its number under the field's
own name. The *flat* one is for rows and the page: a fade is two fields, a medium `media_id`.

    nested  {"name": "Bed", "media": 3,    "fade_in": {"length_n": 480, "shape": "round"}}
    flat    {"name": "Bed", "media_id": 3, "fade_in_n": 480, "fade_in_shape": "round"}
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from dataclasses import MISSING, dataclass, field, fields
from operator import attrgetter
from typing import Any, TypeVar, dataclass_transform

from jaylantern.core.timeline.kinds import Kind
from jaylantern.errors import InvalidValue

Noun = TypeVar("Noun")
KEY = "described"


@dataclass(frozen=True)
class Composed(Kind):
    """A field that is a small noun itself: an object when nested; when flat, fields that end in these suffixes."""

    noun: type[Any]
    suffixes: tuple[str, ...]

    def checked(self, value: object, what: str) -> Any:
        """The small noun from its nested form; usual where there is none."""
        return read(self.noun, {} if value is None else value, what=what)

    def plain(self, value: Any) -> dict[str, Any]:
        """The small noun nested."""
        return nested(value)


@dataclass(frozen=True)
class Medium(Kind):
    """A field that is a medium; outside, its number. Whoever reads it says which media there are."""

    def plain(self, value: Any) -> int:
        """Its number."""
        return int(value.id)


@dataclass(frozen=True)
class Described:
    """A field: its name, what it may be, what it is where nothing is said of it (MISSING: it must be said)."""

    name: str
    kind: Kind
    default: Any = MISSING

    @property
    def columns(self) -> tuple[str, ...]:
        """Its names when flat."""
        if isinstance(self.kind, Composed):
            return tuple(f"{self.name}{suffix}" for suffix in self.kind.suffixes)
        return (f"{self.name}_id",) if isinstance(self.kind, Medium) else (self.name,)


def described(kind: Kind, *, default: Any = MISSING) -> Any:
    """A field of a noun with its description."""
    if default is MISSING:
        return field(metadata={KEY: kind})
    return field(default=default, metadata={KEY: kind})


@dataclass(frozen=True)
class Description:
    """What is known of a noun: its fields; every flat name with what it may be and how its value is got."""

    fields: tuple[Described, ...]
    flat: tuple[tuple[str, Kind, Callable[[Any], Any]], ...]


@dataclass_transform(frozen_default=True, field_specifiers=(described,))
def noun(made: type[Noun]) -> type[Noun]:
    """A frozen dataclass whose fields are described; those that are not are no part of any form outside."""
    made = dataclass(frozen=True)(made)
    found = tuple(
        Described(each.name, each.metadata[KEY], each.default)
        for each in fields(made)  # type: ignore[arg-type]
        if KEY in each.metadata
    )
    made.DESCRIPTION = Description(found, tuple(_flat_fields(found)))  # type: ignore[attr-defined]
    return made


def _flat_fields(found: Iterable[Described]) -> Iterator[tuple[str, Kind, Callable[[Any], Any]]]:
    for each in found:
        if isinstance(each.kind, Composed):
            for column, inner in zip(each.columns, fields_of(each.kind.noun), strict=True):
                yield column, inner.kind, attrgetter(f"{each.name}.{inner.name}")
        else:
            yield each.columns[0], each.kind, attrgetter(each.name)


def _description(of: type[Any]) -> Description:
    found: Description = of.DESCRIPTION
    return found


def fields_of(of: type[Any]) -> tuple[Described, ...]:
    """The described fields of a noun, in order."""
    return _description(of).fields


def columns_of(of: type[Any]) -> tuple[str, ...]:
    """The names of its fields when flat, in order."""
    return tuple(name for name, _, _ in _description(of).flat)


def nested(thing: Any) -> dict[str, Any]:
    """A noun as a document has it."""
    return {each.name: each.kind.plain(getattr(thing, each.name)) for each in fields_of(type(thing))}


def flat(thing: Any) -> dict[str, Any]:
    """A noun as the page has it."""
    return {name: kind.plain(get(thing)) for name, kind, get in _description(type(thing)).flat}


def row(thing: Any) -> dict[str, Any]:
    """A noun as its row in the database has it."""
    return {name: kind.stored(get(thing)) for name, kind, get in _description(type(thing)).flat}


def read(of: type[Noun], values: object, *, what: str = "", given: Mapping[str, Any] | None = None) -> Noun:
    """A noun from its nested form, every field checked. `given` are fields that stand elsewhere; `what` says where in a
    document it stands. Raises InvalidValue, which says where."""
    given = given or {}
    return of(**given, **read_fields(of, values, what=what, but=given))


def read_fields(of: type[Any], values: object, *, what: str = "", but: Collection[str] = ()) -> dict[str, Any]:
    """The fields of a noun by name, `but` for some, from its nested form; otherwise as `read`."""
    if not isinstance(values, Mapping):
        raise InvalidValue(f"{what or 'The document'} must be an object.")
    return {each.name: _checked(each, each.name, values, what) for each in fields_of(of) if each.name not in but}


def read_flat(of: type[Noun], values: Mapping[str, Any], *, what: str, given: Mapping[str, Any]) -> Noun:
    """A noun from its flat form, every field checked; otherwise as `read`."""
    made = dict(given)
    for each in fields_of(of):
        if each.name in made:
            continue
        if isinstance(each.kind, Composed):
            inner = zip(fields_of(each.kind.noun), each.columns, strict=True)
            parts = {part.name: _checked(part, column, values, what) for part, column in inner}
            made[each.name] = each.kind.noun(**parts)
        else:
            made[each.name] = _checked(each, each.columns[0], values, what)
    return of(**made)


def _checked(each: Described, name: str, values: Mapping[str, Any], what: str) -> Any:
    where = f"{what}.{name}" if what else name
    if name not in values:
        if each.default is MISSING:
            raise InvalidValue(f"{where} is not there.")
        return each.default
    return each.kind.checked(values[name], where)


def of_row(of: type[Noun], values: Any, *, given: Mapping[str, Any] | None = None) -> Noun:
    """A noun from its row in the database (anything that has values by name), which holds nothing but what was checked
    before it was written."""
    made = dict(given or {})
    for each in fields_of(of):
        if each.name in made:
            continue
        if isinstance(each.kind, Composed):
            inner = zip(fields_of(each.kind.noun), each.columns, strict=True)
            made[each.name] = each.kind.noun(*(part.kind.restored(values[column]) for part, column in inner))
        else:
            made[each.name] = each.kind.restored(values[each.columns[0]])
    return of(**made)
