"""Commands on the project itself: its settings, presets, its name."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from jaylantern.commands.command import Command, NewId, Param, maybe
from jaylantern.commands.provider import Provider
from jaylantern.core.timeline import presets
from jaylantern.core.timeline.kinds import ID, Kind, Line, Values
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import setting_words
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue, NotFound

Answer = tuple[str, Project]
MOST_NAMED = 4  # settings that are named in the history one by one
OUR_PRESET = maybe(Line(80), "")


@dataclass(frozen=True)
class Setting(Kind):
    """A value of a setting: a figure or a word; its own row says which."""

    @property
    def script(self) -> str:
        """A figure or a word."""
        return "number|string"


def _set_settings(project: Project, new_id: NewId, *, settings: dict[str, Any]) -> Answer:
    after = project.settings.changed(settings)
    words = [setting_words(name, getattr(after, name)) for name in settings if hasattr(after, name)]
    label = ", ".join(words) if len(words) < MOST_NAMED else f"{len(words)} settings"
    return label, replace(project, settings=after)


Own = tuple[str, Mapping[str, Any]]  # a preset of the person's own: its name, its settings


def _own_preset(project: Project, provider: Provider, values: Mapping[str, Any]) -> Own | None:
    return provider.preset(values["preset_id"]) if "preset_id" in values else None


def _apply_preset(
    project: Project, new_id: NewId, *, name: str, own: Own | None, preset_id: int | None = None
) -> Answer:
    """Take over a preset of ours (`name`), or one of the person's own."""
    if own is not None:
        name, values = own
    else:
        ours = next((each for each in presets.OURS if each.name == name), None)
        if ours is None:
            raise NotFound("That preset is not there any more. Open the card again.")
        values = ours.settings
    return f"Preset {name}", replace(project, settings=project.settings.changed(presets.in_full(values)))


def _duck_as_in(project: Project, new_id: NewId, *, project_id: int, other: Project) -> Answer:
    """Take over all that ducking is set to elsewhere: settings, the order of the tags, and what pairs of tags have of
    their own. Perches of lanes stay as they are here."""
    tags = {str(tag) for tag in Tag}
    pairs = [pair for pair in other.pairs if {pair.upper, pair.lower} <= tags]
    pairs += [pair for pair in project.pairs if not {pair.upper, pair.lower} <= tags]
    order = iter([perch for perch in other.perches if perch in tags and perch in project.perches])
    perches = tuple(next(order, perch) if perch in tags else perch for perch in project.perches)
    if sorted(perches) != sorted(project.perches):
        perches = project.perches
    settings = project.settings.changed(presets.of_settings(other.settings))
    return f"Ducking as in {other.name}", replace(project, settings=settings, pairs=tuple(pairs), perches=perches)


def _rename_project(project: Project, new_id: NewId, *, name: str) -> Answer:
    if not name:
        raise InvalidValue("Give the project a name.")
    return f"Rename project to {name}", replace(project, name=name)


COMMANDS = (
    Command(
        "set_settings",
        _set_settings,
        settings=Param(Values(Setting(), 1, "Say which settings to change."), called="settings"),
    ),
    Command("apply_preset", _apply_preset, prepare={"own": _own_preset}, name=OUR_PRESET, preset_id=maybe(ID)),
    Command(
        "duck_as_in",
        _duck_as_in,
        prepare={"other": lambda _, provider, values: provider.other(values["project_id"])},
        project_id=ID,
    ),
    Command("rename_project", _rename_project, name=Line(200)),
)
