"""How tags look on the page, one row each."""

from __future__ import annotations

from dataclasses import dataclass

from jaylantern.core.timeline.tag import Tag


@dataclass(frozen=True)
class Look:
    """`letter` chooses it in menus. `night` is its colour on the timeline, `ghost` that of what it would be without
    ducking where that is drawn, `day` its colour on paper; `height_px`: how high its lanes are."""

    letter: str
    night: str
    day: str
    ghost: str = ""
    height_px: int = 60


LOOKS = {
    Tag.NARRATION: Look("n", "#8ED6DA", "#5FB7BC"),
    Tag.DIALOGUE: Look("d", "#6FB2F0", "var(--jay)"),
    Tag.MUSIC: Look("m", "#F2B03D", "var(--lamp)", ghost="#5E4A22", height_px=100),
    Tag.EFFECTS: Look("e", "#A58BC0", "var(--plum)"),
    Tag.ATMOSPHERE: Look("a", "#7FA06A", "var(--moss)", ghost="#35452F"),
    Tag.UNTAGGED: Look("u", "#7A8797", "#B8C0CA"),
}
