"""Asking a person on a terminal before something is done."""

from __future__ import annotations

import sys


def may(question: str, *, yes: bool) -> bool:
    """Is it wanted? Not where nobody can be asked."""
    if yes:
        return True
    if not sys.stdin.isatty():
        print(f"{question} Say --yes to have it done.", file=sys.stderr)
        return False
    return input(f"{question} [y/N] ").strip().lower() in ("y", "yes")
