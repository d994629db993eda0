"""A project's way as a recipe: what its files are by their names, its settings, what was tailored, how loud it is."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import fields
from pathlib import PurePosixPath
from typing import Any

from jaylantern.core.mixing.loudness_targets import TARGETS
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import ClearIn, DuckBy, Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Until
from jaylantern.interchange.recipe import CAPTIONS, PICTURE, ROLES, matches, recipe_of

REACHED_LU = 1.0  # a mix so near to its target was brought to it
OF_CLEARANCE = ("duck_by", "clear_in", "wish_lu", "wish_sii")
OF_TARGET = ("target_lufs", "ceiling_dbtp")
NUMBERED = re.compile(r"[\s._-]*\d+$")


def plain_recipe(project: Project, names: Mapping[int, str], mix_lufs: float) -> dict[str, Any]:
    """Values of a recipe that does with other files what was done with these. `names` are those of files by the number
    of their medium; `mix_lufs` is what the mix measures. What was set by hand on clips and passages is not in it."""
    files = _files(project, names)
    values: dict[str, Any] = {"about": f"As {project.name} was made.", **_patterns(files)}
    rows = [role for role in ROLES if role in values and _in_a_row(project, ROLES[role])]
    if rows:
        values["in_a_row"] = rows
    usual = Settings()
    settings = {
        each.name: _plain(getattr(project.settings, each.name))
        for each in fields(Settings)
        if getattr(project.settings, each.name) != getattr(usual, each.name)
    }
    if project.settings.duck_by is DuckBy.CLEARANCE:
        by_ear = project.settings.clear_in is ClearIn.INTELLIGIBILITY
        values["clearance"] = {"sii": project.settings.wish_sii} if by_ear else {"lu": project.settings.wish_lu}
        settings = {name: value for name, value in settings.items() if name not in OF_CLEARANCE}
    if abs(mix_lufs - project.settings.target_lufs) <= REACHED_LU:
        values["target"] = _target(project.settings)
        settings = {name: value for name, value in settings.items() if name not in OF_TARGET}
    if settings:
        values["settings"] = settings
    tailored = next((clip.media.tailored for _, clip in project.placed() if clip.media.tailored), None)
    if tailored is not None:
        values["tailor"] = {
            "until": str(Until.TALK if tailored.until is Until.TALK else Until.PICTURE),
            "exact": tailored.wish.exact,
            "pieces": tailored.wish.pieces,
            "fade_out": not tailored.wish.keep_end,
        }
    values["hand_off"] = ["film"] if PICTURE in values else ["mix"]
    recipe_of(values)  # what is written can be read
    return values


def _plain(value: object) -> object:
    return str(value) if isinstance(value, str) else value


def _files(project: Project, names: Mapping[int, str]) -> dict[str, str]:
    """What each file is, by its name; a film is a picture, whatever its sound is."""
    found: dict[str, str] = {}
    for lane, clip in project.placed():
        name = names.get(clip.media.id, clip.media.name)
        role = _role(lane, clip)
        if role is not None and found.get(name) != PICTURE:
            found[name] = role
    return found | {each.name: CAPTIONS for each in project.captions}


def _role(lane: Lane, clip: Clip) -> str | None:
    if lane.kind is LaneKind.PICTURE or clip.media.has_picture:
        return PICTURE
    tag = lane.tag_of(clip)
    return next((role for role, known in ROLES.items() if known is tag), None)


def _patterns(files: Mapping[str, str]) -> dict[str, list[str]]:
    """The broadest patterns that tell them apart: by ending, by how a name begins, by the name itself."""
    values: dict[str, list[str]] = {}
    for name, role in files.items():
        if any(matches(each, PurePosixPath(name)) for each in values.get(role, ())):
            continue
        path = PurePosixPath(name)
        begins = NUMBERED.sub("", path.stem)
        tries = [f"*{path.suffix}"] if role in (PICTURE, CAPTIONS) and path.suffix else []
        tries += [f"{_literal(begins)}*"] if begins else []
        values.setdefault(role, []).append(next((each for each in tries if _fits(each, role, files)), _literal(name)))
    return values


def _fits(pattern: str, role: str, files: Mapping[str, str]) -> bool:
    return all(known == role for name, known in files.items() if matches(pattern, PurePosixPath(name)))


def _literal(text: str) -> str:
    return re.sub(r"([*?\[])", r"[\1]", text)


def _in_a_row(project: Project, tag: Tag) -> bool:
    """Do several files of a tag follow one another on one lane?"""
    for lane in project.lanes:
        clips = [clip for clip in lane.clips if lane.tag_of(clip) is tag and not clip.media.has_picture]
        if len({clip.media.id for clip in clips}) > 1:
            return True
    return False


def _target(settings: Settings) -> str | dict[str, float]:
    for each in TARGETS:
        if (each.lufs, each.dbtp) == (settings.target_lufs, settings.ceiling_dbtp):
            return each.name
    return {"lufs": settings.target_lufs, "dbtp": settings.ceiling_dbtp}
