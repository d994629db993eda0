"""Telling on a terminal or in a log how far work is: bars where somebody looks, plain lines where a file is written."""

from __future__ import annotations

import sys
from types import TracebackType

from tqdm import tqdm

STEP = 0.25  # a line in a log is worth while each time so much more is done


class TerminalProgress:
    """Progress of one or several things, on standard error."""

    def __init__(self, names: list[str]) -> None:
        self._names = names
        self._shares, self._lines = [0.0] * len(names), [("", -1.0)] * len(names)
        self._bar = None
        if sys.stderr.isatty():
            self._bar = tqdm(
                total=len(names) * 100, unit="%", bar_format="{l_bar}{bar}| {elapsed}{postfix}", leave=False
            )

    def __enter__(self) -> TerminalProgress:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        if self._bar is not None:
            self._bar.close()

    def __call__(self, i: int, share: float, doing: str) -> None:
        """Thing number `i` is so far, 0–1, and this is being done to it."""
        self._shares[i] = max(self._shares[i], min(share, 1.0))
        if self._bar is not None:
            self._bar.set_postfix_str(f"{self._names[i]}: {doing}"[:60], refresh=False)
            self._bar.n = round(100 * sum(self._shares))
            self._bar.refresh()
            return
        what, told = self._lines[i]
        if doing != what or share >= told + STEP:
            self._lines[i] = (doing, share)
            print(f"{self._names[i]}: {share:4.0%} {doing}", file=sys.stderr, flush=True)
