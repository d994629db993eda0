"""Values from outside that belong to no command: JSON bodies and numbers in addresses, checked by their kind."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import request

from jaylantern.core.timeline.kinds import Kind, number_in
from jaylantern.errors import InvalidValue


def body(*, cleaned: bool = False) -> dict[str, Any]:
    """The JSON object that was sent. Raises InvalidValue for anything else, and for one that holds a NUL, unless what
    is in it is `cleaned` afterwards."""
    sent = request.get_json(silent=True)
    if not isinstance(sent, dict):
        raise InvalidValue("A JSON object is needed here.")
    if not cleaned and _holds_nul(sent):
        raise InvalidValue("Something that was sent holds a character of no text (NUL). Type it anew without it.")
    return sent


def _holds_nul(sent: object) -> bool:
    """Is there a NUL in any text of a JSON value?"""
    waiting = [sent]
    while waiting:
        each = waiting.pop()
        if isinstance(each, str) and "\0" in each:
            return True
        if isinstance(each, dict):
            waiting += [*each.keys(), *each.values()]
        elif isinstance(each, list):
            waiting += each
    return False


def seen_revision() -> object:
    """The revision of the project that the person was looking at, where it was sent along; None without."""
    sent = request.get_json(silent=True)
    return sent.get("seen") if isinstance(sent, dict) else None


def value(values: Mapping[str, Any], name: str, kind: Kind) -> Any:
    """A value that must be there. Raises InvalidValue."""
    return kind.checked(values.get(name), name)


def argument(name: str, kind: Kind) -> Any:
    """A whole number in the address. Raises InvalidValue."""
    text = request.args.get(name, "")
    number = number_in(text.removeprefix("-"))
    return kind.checked(text if number is None else -number if text.startswith("-") else number, name)
