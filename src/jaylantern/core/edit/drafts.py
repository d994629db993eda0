"""Two drafts of one project: one is held, the project is the other. What is cut is the same in both."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.core.timeline.held_draft import HeldDraft, Letter
from jaylantern.core.timeline.perch import pairs_among, perch_of_lane
from jaylantern.core.timeline.pin import PINS
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import NAMED
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused


def present(project: Project) -> Letter:
    """What the draft is called that the project is now: A while none is held."""
    return Letter.A if project.held is None else project.held.letter.other


def hold(project: Project) -> Project:
    """Hold the project as it is, and go on as the other draft. A draft that was held already is given up for it, under
    the same letter."""
    letter = Letter.A if project.held is None else project.held.letter
    return replace(project, held=_as_draft(project, letter))


def swap(project: Project) -> Project:
    """Go on as the held draft, and hold the one that was gone on with. Raises Refused where none is held."""
    return replace(_taken(project), held=_as_draft(project, present(project)))


def choose(project: Project, *, letter: Letter) -> Project:
    """The project is this draft, and no other is held. Raises Refused where none is held."""
    after = _taken(project)
    return replace(project if letter is present(project) else after, held=None)


def as_project(project: Project) -> Project:
    """The held draft, as a project to be heard and looked at beside the present one. Raises Refused where none is
    held."""
    return replace(_taken(project), beside=True)


@dataclass(frozen=True)
class Difference:
    """One thing in which two drafts differ: the name of a setting, or of a field of the project, or a pair of perches;
    and what it is in both."""

    what: str | tuple[str, str]
    one: Any
    other: Any


def differences(one: Project, other: Project) -> Iterator[Difference]:
    """What is set otherwise, in the order of the settings; then the pecking order, pairs and corrections by hand, as
    they stand."""
    for name in NAMED:
        values = getattr(one.settings, name), getattr(other.settings, name)
        if values[0] != values[1]:
            yield Difference(name, *values)
    if one.perches != other.perches:
        yield Difference("perches", one.perches, other.perches)
    for pair in sorted(one.own_pairs.keys() | other.own_pairs.keys()):
        own = one.own_of_pair(*pair), other.own_of_pair(*pair)
        if own[0] != own[1]:
            yield Difference(pair, *own)
    for name in PINS:
        pins = getattr(one, name), getattr(other, name)
        if _said(pins[0]) != _said(pins[1]):
            yield Difference(name, *pins)
    frozen = _frozen(one), _frozen(other)
    if frozen[0] != frozen[1]:
        yield Difference("frozen", *frozen)


def _said(pins: tuple[Any, ...]) -> list[Any]:
    """What pins say, whatever their numbers are."""
    return [replace(pin, id=0) for pin in pins]


def _held(project: Project) -> HeldDraft:
    if project.held is None:
        raise Refused("No draft is held. Hold the present one first, then change what you like.")
    return project.held


def _frozen(project: Project) -> tuple[int, ...]:
    return tuple(lane.id for lane in project.lanes if lane.frozen)


def _as_draft(project: Project, letter: Letter) -> HeldDraft:
    pins = {name: getattr(project, name) for name in PINS}
    return HeldDraft(letter, project.settings, project.perches, project.pairs, frozen=_frozen(project), **pins)


def _taken(project: Project) -> Project:
    """The project as the held draft has it, with no word of lanes that are not there any more."""
    held = _held(project)
    known = {*map(str, Tag), *(perch_of_lane(lane.id) for lane in project.lanes)}
    perches = tuple(name for name in held.perches if name in known)
    lanes = tuple(
        lane if lane.frozen is (lane.id in held.frozen) else replace(lane, frozen=not lane.frozen)
        for lane in project.lanes
    )
    return replace(
        project,
        settings=held.settings,
        perches=perches,
        pairs=pairs_among(held.pairs, perches),
        lanes=project.lanes if all(a is b for a, b in zip(lanes, project.lanes, strict=True)) else lanes,
        **{name: getattr(held, name) for name in PINS},
    )
