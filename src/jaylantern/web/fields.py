"""Values from outside, checked: JSON bodies and numbers in addresses."""

from __future__ import annotations

from typing import Any

from flask import request

from jaylantern.errors import InvalidValue


def body() -> dict[str, Any]:
    """The JSON object that was sent. Raises InvalidValue for anything else."""
    sent = request.get_json(silent=True)
    if not isinstance(sent, dict):
        raise InvalidValue("A JSON object is needed here.")
    return sent


def seen_revision() -> object:
    """The revision of the project that the person was looking at, where it was sent along; None without."""
    sent = request.get_json(silent=True)
    return sent.get("seen") if isinstance(sent, dict) else None


def whole(values: dict[str, Any], name: str, *, low: int, high: int) -> int:
    """A whole number within limits. Raises InvalidValue."""
    value = values.get(name)
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise InvalidValue(f"{name} must be a whole number between {low} and {high}; {str(value)[:40]!r} is not.")
    return value


def argument(name: str, *, low: int, high: int) -> int:
    """A whole number in the address. Raises InvalidValue."""
    text = request.args.get(name, "")
    digits = text.lstrip("-")
    return whole({name: int(text) if digits.isascii() and digits.isdigit() and len(digits) < 20 else text},
                 name, low=low, high=high)  # fmt: skip
