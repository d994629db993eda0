"""Tags: what a lane or clip is. All that is known of a tag stands in its row.

To add one, add a row here and its looks in `web/tag_looks.py`, then write what the page takes from both anew:
`./jay vocabulary`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


@dataclass(frozen=True)
class Row:
    """What is known of a tag. How it looks stands in the page's own table, `web/tag_looks.py`.

    `perch` ranks it in the usual pecking order, the lowest on top; None has no perch. `yields` says by how much it
    usually gives way, by the tag above: a setting of the project, or an amount in dB. `stem` is what it is handed off
    with.
    """

    perch: int | None
    stem: str
    speaks: bool = False
    music: bool = False
    yields: Mapping[str, str | float] | None = None
    fades_at_end: bool = False  # is it faded where a film's end cuts it off? Talk and effects are cut
    waits: bool = False  # does its perch count only while something sits on it?
    was: str = ""  # its word in older versions


NOTHING_KNOWN = Row(None, "")


class Tag(StrEnum):
    """What a lane or clip is. A clip without a tag of its own takes its lane's."""

    row: Row

    def __new__(cls, word: str, row: Row = NOTHING_KNOWN) -> Tag:
        """A member with its row."""
        made = str.__new__(cls, word)
        made._value_ = word
        made.row = row
        return made

    NARRATION = "narration", Row(10, "speech", speaks=True, waits=True)
    DIALOGUE = "dialogue", Row(20, "speech", speaks=True, yields={"narration": -6.0})
    MUSIC = (
        "music",
        Row(40, "music", music=True, fades_at_end=True, yields={"narration": "amount_db", "dialogue": "amount_db"}),
    )
    EFFECTS = "effects", Row(30, "effects")
    ATMOSPHERE = (
        "atmosphere",
        Row(
            50,
            "atmosphere",
            fades_at_end=True,
            was="ambience",
            yields={"narration": "atmosphere_db", "dialogue": "atmosphere_db"},
        ),
    )
    UNTAGGED = "untagged", Row(None, "untagged")

    @classmethod
    def _missing_(cls, value: object) -> Tag | None:
        """A tag by the word it had in an older version."""
        return next((tag for tag in cls if tag.row.was and tag.row.was == value), None)

    @property
    def speaks(self) -> bool:
        """Is it talk: what is looked through for speech, evened out, and handed off as speech?"""
        return self.row.speaks


SPEAKING = tuple(tag for tag in Tag if tag.speaks)
USUAL_PERCHES = tuple(sorted((t for t in Tag if t.row.perch is not None), key=lambda t: t.row.perch or 0))
STEMS = tuple(dict.fromkeys(tag.row.stem for tag in (*SPEAKING, *Tag)))
WORDS_BEFORE = {tag.row.was: str(tag) for tag in Tag if tag.row.was}


def usual_of(lower: str, upper: str) -> str | float:
    """By how much a tag usually gives way to another: a setting's name, or dB; 0 for not at all, or for no tag."""
    row = next((tag.row for tag in Tag if tag == lower), None)
    return (row.yields or {}).get(upper, 0.0) if row else 0.0


def of_stem(stem: str) -> frozenset[Tag]:
    """The tags that are handed off together."""
    return frozenset(tag for tag in Tag if tag.row.stem == stem)
