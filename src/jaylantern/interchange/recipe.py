"""A recipe: what is to be done with a folder of films, a small JSON or TOML document. docs/recipes.md has its fields.

It is read strictly: a field that nobody knows, a name that is said twice, a pattern that could never match are told.
"""

from __future__ import annotations

import hashlib
import json
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from pathlib import PurePosixPath
from typing import Any

from jaylantern.core.mixing.loudness_targets import TARGETS
from jaylantern.core.timeline.presets import OURS
from jaylantern.core.timeline.settings import KNOB, WAS, ClearIn, DuckBy, Settings, setting_words
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Until
from jaylantern.errors import InvalidValue
from jaylantern.interchange.plain import Plain, parsed

ROLES: Mapping[str, Tag] = {  # what a file's sound is, by the field that its pattern stands in
    "talk": Tag.DIALOGUE,
    "narration": Tag.NARRATION,
    "music": Tag.MUSIC,
    "effects": Tag.EFFECTS,
    "atmosphere": Tag.ATMOSPHERE,
}
PICTURE, CAPTIONS, BY_SOUND = "picture", "captions", "by sound"
PATTERNS = (*ROLES, PICTURE, CAPTIONS)
FIELDS = (*PATTERNS, "others", "in_a_row", "preset", "settings", "clearance", "tailor", "target", "hand_off", "about")
UNTIL = (Until.PICTURE, Until.TALK)
TAILORING = ("until", "exact", "pieces", "fade_out")
MOST_PATTERNS, LONGEST = 50, 200
LOWEST_LUFS, HIGHEST_LUFS, LOWEST_DBTP = -40.0, -5.0, -20.0


@dataclass(frozen=True)
class Aim:
    """How loud the mix is to be: LUFS, dBTP at most, and by how many LU it may miss."""

    lufs: float
    dbtp: float
    tolerance_lu: float
    name: str = ""


@dataclass(frozen=True)
class Tailor:
    """Music is cut to the film: until when, on the sample or on the beat, by how many folds (0 few, 100 many), its end
    kept or faded."""

    until: Until = Until.PICTURE
    exact: bool = False
    pieces: float = 50.0
    fade_out: bool = False


@dataclass(frozen=True)
class Recipe:
    """What is to be done with each film of a folder.

    `patterns` names files by role; `others` says whether those that match none are taken by their sound; `in_a_row`
    are the roles whose files follow one another on one lane. `hand_off` are requests as the page sends them.
    """

    patterns: Mapping[str, tuple[str, ...]]
    hand_off: tuple[Mapping[str, Any], ...]
    others: bool = False
    in_a_row: tuple[str, ...] = ()
    preset: str = ""
    settings: Mapping[str, Any] = field(default_factory=dict)
    tailor: Tailor | None = None
    aim: Aim | None = None
    about: str = ""
    plain: Mapping[str, Any] = field(default_factory=dict)

    @property
    def key(self) -> str:
        """A hash of all that it says, whatever the order or the spaces; what it says about itself does not count."""
        said = {name: value for name, value in self.plain.items() if name != "about"}
        return hashlib.sha256(json.dumps(said, sort_keys=True).encode()).hexdigest()

    def role_of(self, path: PurePosixPath) -> str | None:
        """What a file is, by its path below the film's folder; None where it matches nothing. Raises InvalidValue where
        it matches two."""
        found = [role for role, patterns in self.patterns.items() if any(matches(each, path) for each in patterns)]
        if len(found) > 1:
            raise InvalidValue(f"{path} is both {found[0]} and {found[1]} by the recipe. Make one pattern narrower.")
        return found[0] if found else None


def matches(pattern: str, path: PurePosixPath) -> bool:
    """Does a file's name, or its whole path where the pattern has a slash, match? Small and large letters are alike."""
    text = str(path) if "/" in pattern else path.name
    return fnmatchcase(text.casefold(), pattern.casefold())


def read(text: bytes, name: str) -> Recipe:
    """The recipe that a document holds: TOML where its name ends so, else JSON. Raises MediaError, InvalidValue."""
    if name.lower().endswith(".toml"):
        try:
            values = tomllib.loads(text.decode("utf-8"))
        except (ValueError, RecursionError) as error:  # of TOML, or of the text
            raise InvalidValue(f"{name} is no TOML document: {str(error)[:120]}.") from error
    else:
        values = parsed(text, name, what="recipe")
    return recipe_of(values)


def recipe_of(values: object) -> Recipe:
    """The recipe that these values are. Raises InvalidValue that says where it is wrong."""
    plain = Plain(values, "The recipe")
    _known(plain.values, FIELDS, "A recipe")
    patterns = {role: _patterns(plain.values[role], role) for role in PATTERNS if role in plain.values}
    others = _one_of(plain.values.get("others", "leave"), ("leave", BY_SOUND), "others") == BY_SOUND
    if not patterns and not others:
        raise InvalidValue('A recipe says which files are what, such as "talk": "talk*", or "others": "by sound".')
    in_a_row = tuple(_one_of(each, tuple(ROLES), "in_a_row") for each in _listed(plain.values.get("in_a_row", [])))
    preset = _preset(plain.values.get("preset"))
    settings = _settings(plain.values.get("settings", {}), plain.values.get("clearance"))
    return Recipe(
        patterns,
        tuple(_order(each) for each in _listed(plain.values.get("hand_off", ["mix"]))),
        others,
        in_a_row,
        preset,
        settings,
        _tailor(plain.values.get("tailor")),
        _aim(plain.values.get("target")),
        str(plain.values.get("about", ""))[:LONGEST],
        dict(plain.values),
    )


def _known(values: Mapping[str, Any], names: tuple[str, ...], what: str) -> None:
    for name in values:
        if name not in names:
            raise InvalidValue(f"{what} knows nothing called {str(name)[:60]!r}; it knows {', '.join(names)}.")


def _listed(value: object) -> list[Any]:
    found = list(value) if isinstance(value, (list, tuple)) else [value]
    if not found or len(found) > MOST_PATTERNS:
        if value in ([], ()):
            return []
        raise InvalidValue(f"A list in a recipe has {MOST_PATTERNS} entries at most.")
    return found


def _patterns(value: object, role: str) -> tuple[str, ...]:
    found = _listed(value)
    for each in found:
        if not isinstance(each, str) or not each.strip() or len(each) > LONGEST:
            raise InvalidValue(f"{role} takes a pattern of file names, such as talk*, or a list of them.")
        if each.startswith("/") or "\\" in each or ".." in each.split("/"):
            raise InvalidValue(f"{role}: {each} leads out of the film's folder. Patterns go by names below it.")
    if not found:
        raise InvalidValue(f"{role} names no pattern. Leave the field out instead.")
    return tuple(found)


def _one_of(value: object, words: tuple[str, ...], what: str) -> str:
    if value not in words:
        raise InvalidValue(f"{what} is one of {', '.join(words)}; {str(value)[:60]!r} is not.")
    return str(value)


def _preset(value: object) -> str:
    if value is None:
        return ""
    names = {each.name.casefold(): each.name for each in OURS}
    if not isinstance(value, str) or value.casefold() not in names:
        raise InvalidValue(f"preset is one of {', '.join(names.values())}; {str(value)[:60]!r} is not.")
    return names[value.casefold()]


def _settings(values: object, clearance: object) -> dict[str, Any]:
    """Settings as they are set after the preset, a clearance among them, each checked."""
    found = dict(Plain(values, "settings").values)
    if clearance is not None:
        wish = Plain(clearance, "clearance").values
        _known(wish, ("lu", "sii"), "clearance")
        if len(wish) != 1:
            raise InvalidValue('clearance is wished in LU or by intelligibility: {"lu": 10} or {"sii": 0.75}.')
        name, scale = ("wish_lu", ClearIn.LOUDNESS) if "lu" in wish else ("wish_sii", ClearIn.INTELLIGIBILITY)
        found |= {"duck_by": str(DuckBy.CLEARANCE), "clear_in": str(scale), name: next(iter(wish.values()))}
    changed = Settings().changed(found)
    return {name: getattr(changed, name) for name in (WAS.get(each, each) for each in found)}


def _tailor(value: object) -> Tailor | None:
    if value is None or value is False:
        return None
    if value is True:
        return Tailor()
    wish = Plain(value, "tailor").values
    _known(wish, TAILORING, "tailor")
    for name in ("exact", "fade_out"):
        if not isinstance(wish.get(name, False), bool):
            raise InvalidValue(f"tailor.{name} is true or false.")
    pieces = _number(wish.get("pieces", 50), 0, 100, "tailor.pieces")
    until = Until(_one_of(wish.get("until", "picture"), tuple(map(str, UNTIL)), "tailor.until"))
    return Tailor(until, wish.get("exact", False), pieces, wish.get("fade_out", False))


def _aim(value: object) -> Aim | None:
    if value is None:
        return None
    if isinstance(value, str):
        names = {each.name.casefold(): each for each in TARGETS}
        if value.casefold() not in names:
            known = ", ".join(each.name for each in TARGETS)
            raise InvalidValue(f'target is one of {known}, or {{"lufs": -16}}; {value[:60]!r} is not.')
        found = names[value.casefold()]
        return Aim(found.lufs, found.dbtp, found.tolerance_lu, found.name)
    wish = Plain(value, "target").values
    _known(wish, ("lufs", "dbtp", "tolerance_lu"), "target")
    if "lufs" not in wish:
        raise InvalidValue('target says how loud: {"lufs": -16}, or with "dbtp" and "tolerance_lu", too.')
    return Aim(
        _number(wish["lufs"], LOWEST_LUFS, HIGHEST_LUFS, "target.lufs"),
        _number(wish.get("dbtp", -1.0), LOWEST_DBTP, KNOB["ceiling_dbtp"].high, "target.dbtp"),
        _number(wish.get("tolerance_lu", 1.0), 0.1, 10, "target.tolerance_lu"),
    )


def _number(value: object, low: float, high: float, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, (int, float)) or not low <= value <= high:
        raise InvalidValue(f"{what} is a number from {low:g} to {high:g}; {str(value)[:60]!r} is not.")
    return float(value)


def _order(value: object) -> Mapping[str, Any]:
    """A request to hand something off, as the page sends it; its own checks come where it is made."""
    if isinstance(value, str):
        return {"what": value}
    found = dict(Plain(value, "hand_off").values)
    if not isinstance(found.get("what"), str):
        raise InvalidValue('hand_off names what is handed off, such as "mix", or {"what": "film", "quality": "high"}.')
    return found


def in_words(recipe: Recipe) -> list[str]:
    """What a recipe will do, in sentences."""
    said = [f"{name.capitalize()}: {', '.join(patterns)}." for name, patterns in recipe.patterns.items()]
    said.append("Other files are taken by what they sound like." if recipe.others else "Other files are left alone.")
    if recipe.in_a_row:
        said.append(f"Files of {' and '.join(recipe.in_a_row)} follow one another on one lane.")
    if recipe.preset:
        said.append(f"Ducked by the preset {recipe.preset}.")
    said += [f"{setting_words(name, value)}." for name, value in recipe.settings.items()]
    if recipe.tailor:
        place = "on the sample" if recipe.tailor.exact else "on the beat"
        end = ", its end faded" if recipe.tailor.fade_out else ""
        said.append(f"Music is tailored to the end of the {recipe.tailor.until}, {place}{end}.")
    if recipe.aim:
        named = f" ({recipe.aim.name})" if recipe.aim.name else ""
        said.append(f"Brought to {recipe.aim.lufs:g} LUFS, {recipe.aim.dbtp:g} dBTP at most{named}.")
    said.append(f"Handed off: {', '.join(each['what'] for each in recipe.hand_off) or 'nothing'}.")
    return said
