"""Presets: named sets of ducking settings, our own and the person's, and their JSON file."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any

from jaylantern.core.timeline.settings import NAMED, WAS, ClearIn, DuckBy, Mode, Ramp, Settings
from jaylantern.errors import InvalidValue

FORMAT = "jay-lantern-presets"
VERSION = 1
KEPT_BACK = frozenset(  # belongs to the mix, not to ducking
    {"ceiling_dbtp", "limiter_release_ms", "target_lufs", "even_out_db", "even_out_s"}
)
DUCKING = tuple(each.name for each in fields(Settings) if each.name not in KEPT_BACK)
MOST = 500
LONGEST_NAME = 80


@dataclass(frozen=True)
class Preset:
    """A name, what it is good for in a few words, and the settings it changes."""

    name: str
    words: str
    settings: Mapping[str, Any]


_DRAWN = {"mode": Mode.PASSAGE, "duck_by": DuckBy.AMOUNT, "fall": Ramp.DB, "rise": Ramp.DB}
_CLEAR = {**_DRAWN, "duck_by": DuckBy.CLEARANCE, "slightest_db": 0, "step_db": 6, "follow_s": 0, "attack_ms": 500,
          "release_ms": 1200, "lead_in_ms": 150, "hold_ms": 700, "least_rise_ms": 1200,
          "last_release_ms": 2200}  # fmt: skip
OURS: tuple[Preset, ...] = (
    Preset("Gentle", "a soft bow: half a voice further back",
           {**_DRAWN, "amount_db": -6, "attack_ms": 600, "release_ms": 1600, "lead_in_ms": 150, "hold_ms": 800,
            "least_rise_ms": 1500, "last_release_ms": 2600, "fall": Ramp.EASED, "rise": Ramp.EASED}),
    Preset("Clear", "speech stands well out of the music",
           {**_DRAWN, "amount_db": -12, "attack_ms": 400, "release_ms": 1000, "lead_in_ms": 120, "hold_ms": 650,
            "least_rise_ms": 1000, "last_release_ms": 1800}),
    Preset("Strong", "music as a hint behind the words",
           {**_DRAWN, "amount_db": -18, "attack_ms": 350, "release_ms": 1200, "lead_in_ms": 150, "hold_ms": 800,
            "least_rise_ms": 1200, "last_release_ms": 2200}),
    Preset("Hard", "quick and deep, for noisy pictures",
           {**_DRAWN, "amount_db": -24, "attack_ms": 150, "release_ms": 900, "lead_in_ms": 60, "hold_ms": 400,
            "least_rise_ms": 600, "last_release_ms": 1500}),
    Preset("Talk", "two or more people in conversation: stays down between turns",
           {**_DRAWN, "amount_db": -16, "attack_ms": 400, "release_ms": 1600, "lead_in_ms": 150, "hold_ms": 1200,
            "least_rise_ms": 3000, "last_release_ms": 2400}),
    Preset("Narration over film", "long sentences, music that breathes between them",
           {**_DRAWN, "amount_db": -14, "attack_ms": 700, "release_ms": 1600, "lead_in_ms": 200, "hold_ms": 700,
            "least_rise_ms": 1500, "last_release_ms": 3000, "rise": Ramp.EASED}),
    Preset("Just enough", "no deeper than it takes: speech stands 10 LU above everything else",
           {**_CLEAR, "clear_in": ClearIn.LOUDNESS, "wish_lu": 10, "deepest_db": -24}),
    Preset("By ear", "as deep as it takes for the words to be made out, whatever the music is made of",
           {**_CLEAR, "clear_in": ClearIn.INTELLIGIBILITY, "wish_sii": 0.75, "deepest_db": -30}),
    Preset("Compressor", "follows the voice itself, word by word",
           {"mode": Mode.COMPRESSOR, "threshold_db": -30, "ratio": 4, "knee_db": 6, "comp_attack_ms": 15,
            "comp_hold_ms": 1000, "comp_release_ms": 450, "look_ahead_ms": 30, "range_db": -24, "output_db": 0}),
    Preset("Even bed", "no ducking at all: one quieter level throughout; nothing else is lost", {"mode": Mode.EVEN}),
)  # fmt: skip


def in_full(values: Mapping[str, Any]) -> dict[str, Any]:
    """All that a preset asks for: one that names an amount and was kept before there was clearance goes by that, one
    that names a clearance and was kept before there was an index goes by LU."""
    usual: dict[str, Any] = {"duck_by": DuckBy.AMOUNT} if "amount_db" in values else {}
    if "wish_lu" in values:
        usual["clear_in"] = ClearIn.LOUDNESS
    return {**usual, **values}


def of_settings(settings: Settings) -> dict[str, Any]:
    """All that belongs to ducking of a project's settings."""
    return {name: getattr(settings, name) for name in DUCKING}


def checked(values: object) -> dict[str, Any]:
    """Settings of a preset from outside. Raises InvalidValue for anything that is not one, or out of its limits."""
    if not isinstance(values, Mapping) or not values:
        raise InvalidValue("A preset needs settings, as names with values.")
    values = {WAS.get(str(name), str(name)): value for name, value in values.items()}
    unknown = [name for name in values if name not in DUCKING]
    if unknown:
        raise InvalidValue(f"A preset can't hold {str(unknown[0])[:40]!r}; it is no setting of ducking.")
    found = {name: NAMED[name].checked(value) for name, value in values.items()}
    Settings().changed(found)
    return found


def clean_name(name: object) -> str:
    """A name fit for a preset. Raises InvalidValue for an empty one, or one of ours."""
    tidy = " ".join(str(name or "").split())[:LONGEST_NAME]
    if not tidy:
        raise InvalidValue("Give the preset a name.")
    if tidy.casefold() in {preset.name.casefold() for preset in OURS}:
        raise InvalidValue(f"{tidy} is the name of a preset that comes with Jay Lantern. Choose another.")
    return tidy


def to_json(presets: Mapping[str, Mapping[str, Any]]) -> str:
    """Presets by name as the text of a file."""
    body = {
        "format": FORMAT,
        "version": VERSION,
        "presets": [{"name": name, "settings": dict(values)} for name, values in presets.items()],
    }
    return json.dumps(body, indent=2, ensure_ascii=False) + "\n"


def from_json(text: str) -> dict[str, dict[str, Any]]:
    """Presets by name from the text of a file. Raises InvalidValue, saying what is wrong with it."""
    try:
        body = json.loads(text)
    except ValueError as error:
        raise InvalidValue(f"This is no file of presets: it is not JSON ({error}).") from None
    if not isinstance(body, dict) or body.get("format") != FORMAT or not isinstance(body.get("presets"), list):
        raise InvalidValue(f'This is no file of presets: it does not say "format": "{FORMAT}".')
    if body.get("version") != VERSION:
        raise InvalidValue(
            f"These presets are of version {str(body.get('version'))[:10]}; this program reads {VERSION}."
        )
    if len(body["presets"]) > MOST:
        raise InvalidValue(f"There are more than {MOST} presets in it.")
    found: dict[str, dict[str, Any]] = {}
    for each in body["presets"]:
        if not isinstance(each, dict):
            raise InvalidValue("A preset in it is no object with a name and settings.")
        found[clean_name(each.get("name"))] = checked(each.get("settings"))
    return found
