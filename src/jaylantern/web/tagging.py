"""The Tag tray: every clip with its tag and what is suggested, and what keeps ducking from working, with remedies."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from jaylantern.core.ducking.check_up import Finding, Missing
from jaylantern.core.ducking.pecking_order import Order, Role, order_of
from jaylantern.core.signal.intervals import total_n
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.tag_suggestions import Suggestion
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.kinds import Integer, number_in
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB
from jaylantern.core.timeline.tag import SPEAKING, Tag
from jaylantern.errors import NotFound
from jaylantern.pipeline import DuckingResult
from jaylantern.store import media, suggestions
from jaylantern.web.connection import db, workspace
from jaylantern.web.fields import argument

blueprint = Blueprint("tagging", __name__, url_prefix="/projects/<int:project_id>")
ROLE_WORDS = {Role.KEY: "on top", Role.YIELDS: "gives way", Role.BOTH: "both", Role.OUTSIDE: "outside"}
ROWS_AT_ONCE = 100
MOST_CLIPS = 20_000
MOST_BUTTONS = 3
MOST_REMEDIES = 8


@dataclass(frozen=True)
class Row:
    """One clip of the list. `level_db` is its loud moments with all gains, None without sound."""

    lane: Lane
    clip: Clip
    level_db: float | None
    no_sound: str
    suggestion: Suggestion | None
    role: Role = Role.OUTSIDE

    @property
    def tag(self) -> str:
        """The tag that counts, or picture."""
        return "picture" if self.lane.kind is LaneKind.PICTURE else self.lane.tag_of(self.clip)

    @property
    def role_word(self) -> str:
        """What the clip does in the pecking order."""
        if self.lane.kind is LaneKind.PICTURE:
            return "—"
        return "bystander" if self.lane.outside(self.clip) else ROLE_WORDS[self.role]

    @property
    def muted(self) -> bool:
        """Is it or its lane muted?"""
        return self.lane.muted or self.clip.muted


ORDERS: dict[str, Callable[[Row], Any]] = {
    "lane": lambda row: 0,  # as they lie
    "time": lambda row: row.clip.start_n,
    "name": lambda row: row.clip.name.casefold(),
    "tag": lambda row: [*Tag, "picture"].index(row.tag),
    "level": lambda row: -(row.level_db if row.level_db is not None else -999.0),
    "length": lambda row: -row.clip.length_n,
}


def _kept(row: Row, only: str) -> bool:
    """Is the row one of those asked for?"""
    match only:
        case "":
            return True
        case "own":
            return row.clip.tag is not None
        case "suggested":
            return row.suggestion is not None
        case "silent":
            return not row.clip.media.has_sound
        case "muted":
            return row.muted
        case "bystander":
            return row.lane.outside(row.clip)
        case _:
            return row.tag == only


def rows_of(project: Project, quiet: set[int]) -> list[Row]:
    """Every clip; of a picture with sound only the sound is listed. For the media in `quiet` nothing is suggested."""
    order = order_of(project)
    return [
        _row(project, order, lane, clip, quiet)
        for lane, clip in project.placed()
        if lane.kind is LaneKind.SOUND or not clip.media.has_sound
    ]


def _row(project: Project, order: Order, lane: Lane, clip: Clip, quiet: set[int]) -> Row:
    role = order.role(lane, clip)
    if not clip.media.has_sound:
        word = workspace().library.about(clip.media).sound_word
        return Row(lane, clip, None, "silent" if word == "silent" else "no sound", None, role)
    heard = workspace().library.heard_as(clip, project.settings.sensitivity)
    found = None if clip.media.id in quiet or clip.tag else tag_suggestions.suggest(heard, name=clip.name)
    tag = lane.tag_of(clip)
    if found and (found.tag is tag or (found.tag.speaks and tag.speaks)):  # who said that it is talk knows whose
        found = None
    return Row(lane, clip, heard.loud_db + clip.gain_db + lane.gain_db, "", found, role)


def context(project: Project, result: DuckingResult) -> dict[str, Any]:
    """What the templates of the tray speak of; how the list is to be sorted and filtered stands in the address."""
    quiet = suggestions.ignored(db(), project.id)
    rows = rows_of(project, quiet)
    find, only, sort = (request.values.get(name, "")[:80] for name in ("find", "only", "sort"))
    looked = find.strip().casefold()
    kept = [r for r in rows if _kept(r, only) and looked in f"{r.clip.name} {r.lane.name}".casefold()]
    ordered, first = sorted(kept, key=ORDERS.get(sort, ORDERS["lane"])), _first_row()
    missing = [finding for finding in result.findings if finding.missing]
    return {
        "all_clips": len(rows),
        "clip_rows": ordered[first : first + ROWS_AT_ONCE],
        "next_row": first + ROWS_AT_ONCE if len(ordered) > first + ROWS_AT_ONCE else None,
        "suggested": {str(row.clip.id): row.suggestion.tag for row in rows if row.suggestion},
        "ignored": len(quiet),
        "remedies": [
            Remedy(finding, list(_buttons(project, result, finding, rows))[:MOST_BUTTONS])
            for finding in missing[:MOST_REMEDIES]
        ],
        "more_missing": max(0, len(missing) - MOST_REMEDIES),
    }


def _first_row() -> int:
    """From which row on the list is asked for."""
    return int(argument("from", Integer(0, MOST_CLIPS))) if "from" in request.args else 0


@blueprint.post("/suggestions/ignore")
def ignore(project_id: int) -> ResponseReturnValue:
    """Suggest nothing for a medium, or for all that have suggestions now; the answer is the list."""
    project, result = workspace().load(db(), project_id)
    wanted = request.form.get("media", "")
    if wanted == "all":
        rows = rows_of(project, suggestions.ignored(db(), project_id))
        suggestions.ignore(db(), project_id, {row.clip.media.id for row in rows if row.suggestion})
    else:
        known = {each.media.id for each in media.of_project(db(), project_id)}
        known |= {clip.media.id for _, clip in project.placed()}
        number = number_in(wanted)
        if number is None or number not in known:
            raise NotFound("That file is not in the project any more. Bring it in again.")
        suggestions.ignore(db(), project_id, [number])
    return render_template("project/_clips.html", project=project, **context(project, result))


@blueprint.post("/suggestions/heed")
def heed(project_id: int) -> ResponseReturnValue:
    """Show the suggestions that were ignored again."""
    project, result = workspace().load(db(), project_id)
    suggestions.heed(db(), project_id)
    return render_template("project/_clips.html", project=project, **context(project, result))


# — remedies —


@dataclass(frozen=True)
class Button:
    """A remedy: a command with its values, or (command "pick") the way to bring in files."""

    label: str
    command: str
    values: Mapping[str, Any]


@dataclass(frozen=True)
class Remedy:
    """What is missing, and what can be done about it."""

    finding: Finding
    buttons: list[Button]


def _buttons(project: Project, result: DuckingResult, finding: Finding, rows: list[Row]) -> Iterator[Button]:
    here = next(((lane, clip) for lane, clip in project.placed() if clip.id == finding.clip_id), None)
    match finding.missing:
        case Missing.CLIPS:
            yield Button("Bring in files", "pick", {})
        case Missing.FILE:
            yield Button("Find the files", "relink", {})
        case Missing.KEY:
            yield from _tag_as(project, rows, SPEAKING)
        case Missing.YIELDING:
            yield from _tag_as(project, rows, (Tag.MUSIC,))
        case Missing.KEY_IN_ORDER:
            yield from _back_in_order(project, SPEAKING)
        case Missing.YIELDING_IN_ORDER:
            yield from _back_in_order(project, (Tag.MUSIC,))
        case Missing.SOUND if here:
            yield Button("Take its tag off", "tag_clips", {"clip_ids": [here[1].id], "tag": Tag.UNTAGGED})
        case Missing.UNMUTED if here:
            yield from _unmute(*here)
        case Missing.SPEECH if here:
            yield from _speech(project, here[1])
        case Missing.TOGETHER:
            yield from _together(project, result)
        case Missing.AMOUNT:
            usual = KNOB["amount_db"].default
            label = f"Duck by {usual:g} dB".replace("-", "")
            yield Button(label, "set_settings", {"settings": {"amount_db": usual}})


def _tag_as(project: Project, rows: list[Row], tags: Sequence[Tag]) -> Iterator[Button]:
    """Lanes that sound like it first, by suggestion; else those without a tag."""
    like = {row.lane.id: row.suggestion.tag for row in rows if row.suggestion and row.suggestion.tag in tags}
    usual = Tag.DIALOGUE if Tag.DIALOGUE in tags else tags[0]
    plain = {row.lane.id: usual for row in rows if row.tag == Tag.UNTAGGED and row.clip.media.has_sound}
    for lane in project.lanes:
        tag = (like or plain).get(lane.id)
        if tag is not None:
            clear = any(clip.tag for clip in lane.clips)
            yield Button(f"Tag {lane.name} as {tag}", "tag_lane", {"lane_id": lane.id, "tag": tag, "clear": clear})


def _back_in_order(project: Project, tags: Sequence[Tag]) -> Iterator[Button]:
    for lane in project.lanes:
        tagged = [clip for clip in lane.clips if lane.tag_of(clip) in tags]
        label = f"{lane.name} back into the pecking order"
        if tagged and lane.bystander:
            yield Button(label, "set_lane", {"lane_id": lane.id, "bystander": False})
        elif outside := [clip.id for clip in tagged if clip.bystander]:
            yield Button(label, "set_clips", {"clip_ids": outside, "bystander": False})


def _unmute(lane: Lane, clip: Clip) -> Iterator[Button]:
    if lane.muted:
        yield Button(f"Unmute {lane.name}", "set_lane", {"lane_id": lane.id, "muted": False})
    if clip.muted:
        yield Button("Unmute the clip", "set_clips", {"clip_ids": [clip.id], "muted": False})


def _speech(project: Project, clip: Clip) -> Iterator[Button]:
    """The least sensitivity at which something is found in it, if any; else its tag off."""
    now = project.settings.sensitivity
    for more in range(int(now) // 10 * 10 + 10, 101, 10):
        if total_n(workspace().library.speech(clip.media, more)):
            yield Button(f"Raise the sensitivity to {more}", "set_settings", {"settings": {"sensitivity": more}})
            break
    else:
        yield Button("Take its tag off", "tag_clips", {"clip_ids": [clip.id], "tag": Tag.UNTAGGED})


def _together(project: Project, result: DuckingResult) -> Iterator[Button]:
    """Bring the first music to where the talk begins."""
    music = [(lane, clip) for lane, clip in project.sounding() if lane.tag_of(clip) is Tag.MUSIC]
    if music and result.plan.passages:
        _, clip = min(music, key=lambda found: found[1].start_n)
        by_n = result.plan.passages[0].start_n - clip.start_n
        yield Button(f"Move {clip.name} to the first passage", "move_clips", {"clip_ids": [clip.id], "by_n": by_n})
