"""One film by a recipe: laid out, tagged, ducked, tailored, levelled, handed off, each by the commands of the page, in
a data folder of its own that goes when the work is done."""

from __future__ import annotations

import math
import shutil
import sqlite3
import time
from collections.abc import Mapping, Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import Any

from jaylantern.core.edit import landing
from jaylantern.core.edit.landing import Landing
from jaylantern.core.speech.tag_suggestions import suggest
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Refused
from jaylantern.export import handoff
from jaylantern.export.task import Task
from jaylantern.fleet.films import Film
from jaylantern.fleet.outcome import Outcome
from jaylantern.interchange.recipe import BY_SOUND, CAPTIONS, ROLES, Aim, Recipe
from jaylantern.library.bringing import bring_in
from jaylantern.pipeline import DuckingResult
from jaylantern.projectfile import captions_in
from jaylantern.store import media, projects
from jaylantern.support import system
from jaylantern.support.progress import Progress, within
from jaylantern.support.scratch import scratch
from jaylantern.workspace.workspace import Workspace

BROUGHT_IN, SET = 0.55, 0.7  # shares of the whole
MOST_MATCHES, NEAR_LU = 3, 0.05  # what the limiter takes away is given back
NAME = "{project} - {what}"


def make(film: Film, recipe: Recipe, out: Path, progress: Progress) -> Outcome:
    """Make a film into a folder that is there and empty. Raises MediaError, Refused, InvalidValue."""
    begun = time.monotonic()
    with scratch() as folder:
        workspace = Workspace(folder)
        workspace.folder.prepare()
        with closing(workspace.folder.connect()) as db:
            number = projects.create(db, Path(film.name).name)
            remarks = _lay_out(workspace, db, number, film, recipe, within(progress, 0.0, BROUGHT_IN))
            progress(BROUGHT_IN, "ducking")
            remarks += _set(workspace, db, number, recipe)
            project, result = workspace.load(db, number)
            remarks += _hand_off(workspace, db, project, result, film, recipe, out, within(progress, SET, 1.0))
            return _figures(workspace, project, result, film, recipe, remarks, time.monotonic() - begun)


def _lay_out(
    workspace: Workspace, db: sqlite3.Connection, number: int, film: Film, recipe: Recipe, progress: Progress
) -> list[str]:
    """Bring the files in and lay them; captions last, so that the film is as long as it gets. Answers what should be
    known."""
    remarks: list[str] = []
    rows: dict[str, tuple[int, list[int]]] = {}  # of roles in a row: where the next begins, on which lanes
    files = sorted(film.files, key=lambda each: each.role == CAPTIONS)
    for k, file in enumerate(files):
        source = film.folder / file.name
        if file.role == CAPTIONS:
            remarks.append(captions_in.bring(db, number, captions_in.read(source, file.name), file.name))
            continue
        at_first = within(progress, k / len(files), (k + 1) / len(files))
        listen = ROLES.get(file.role) is not Tag.MUSIC
        sha256 = film.hash_of(file, at_first)
        found = bring_in(workspace.library, db, source, file.name, at_first, sha256=sha256, listen=listen)
        media.remember(db, number, found, name=file.name)
        at_n, lane_ids = rows.get(file.role, (0, []))
        values = {"media_id": found.id, "name": file.name, "at_n": at_n, "how": Landing.OWN, "lane_ids": lane_ids}
        done = workspace.do(db, number, "place", values)
        landed = landing.landed(done.before, done.after, found)
        if file.role in recipe.in_a_row:
            rows[file.role] = landed.stop_n, list(landed.lane_ids)
        about = workspace.library.about(found)
        remarks += [f"{file.name}: {about.remark}"] if about.remark else []
        remarks += _tag(workspace, db, number, found, file.role, landed.lane_ids)
    return remarks


def _tag(
    workspace: Workspace, db: sqlite3.Connection, number: int, found: Media, role: str, lane_ids: Sequence[int]
) -> list[str]:
    """Tag the sound that came; that of a picture, and of files taken by their sound, as it sounds."""
    project = projects.load(db, number)
    for lane in project.lanes:
        if lane.id not in lane_ids or lane.kind is not LaneKind.SOUND or lane.tag is not Tag.UNTAGGED:
            continue
        tag = ROLES.get(role)
        if tag is None:
            clip = lane.clips[-1]
            if not clip.media.has_sound:
                return [f"{clip.name} is silent, so it is untagged."]
            heard = workspace.library.heard_as(clip, project.settings.sensitivity)
            suggestion = suggest(heard, name=clip.name)
            if suggestion is None:
                return [f"{clip.name} sounds like nothing that is known, so it is untagged."]
            tag = suggestion.tag
        workspace.do(db, number, "tag_lane", {"lane_id": lane.id, "tag": tag})
        if role == BY_SOUND:
            return [f"{found.name} is taken for {tag} by its sound."]
    return []


def _set(workspace: Workspace, db: sqlite3.Connection, number: int, recipe: Recipe) -> list[str]:
    """Ducking as the recipe says, music to the film's length, the mix to its loudness."""
    remarks = []
    if recipe.preset:
        workspace.do(db, number, "apply_preset", {"name": recipe.preset})
    if recipe.settings:
        workspace.do(db, number, "set_settings", {"settings": dict(recipe.settings)})
    if recipe.tailor is not None:
        wish = {
            "until": recipe.tailor.until,
            "exact": recipe.tailor.exact,
            "pieces": recipe.tailor.pieces,
            "keep_end": not recipe.tailor.fade_out,
        }
        for lane, clip in projects.load(db, number).placed():
            if lane.kind is LaneKind.SOUND and (clip.tag or lane.tag) is Tag.MUSIC:
                try:
                    workspace.do(db, number, "tailor_clip", {"clip_id": clip.id, **wish})
                except Refused as error:
                    remarks.append(f"{clip.name} is not tailored: {error}")
    if recipe.aim is not None:
        wanted = {"target_lufs": recipe.aim.lufs, "ceiling_dbtp": recipe.aim.dbtp}
        workspace.do(db, number, "set_settings", {"settings": wanted})
        with suppress(Refused):  # it is there already, or silent: the figures say so
            for _ in range(MOST_MATCHES):
                workspace.do(db, number, "match", {"subject": "mix", "by": "loudness", "target": recipe.aim.lufs})
                level = workspace.loudness.mix(projects.load(db, number)).loudness
                if abs(level.integrated_lufs - recipe.aim.lufs) <= NEAR_LU:
                    break
    return remarks


def _hand_off(
    workspace: Workspace,
    db: sqlite3.Connection,
    project: Project,
    result: DuckingResult,
    film: Film,
    recipe: Recipe,
    out: Path,
    progress: Progress,
) -> list[str]:
    if not project.length_n:
        raise Refused("Its timeline is empty: there is nothing to make.")
    newest = max(system.changed_at(film.folder / each.name) for each in film.files)
    made_at = newest.replace(tzinfo=None)  # the same whenever it is made
    belonging, remarks = handoff.belonging(db, project), []
    for k, wanted in enumerate(recipe.hand_off):
        request = handoff.asked({"pattern": NAME, **wanted, "asked_at": made_at.isoformat()})
        at_last = within(progress, k / len(recipe.hand_off), (k + 1) / len(recipe.hand_off))
        with scratch(workspace.folder.path) as folder:
            word = handoff.make(Task(workspace, project, result, folder, request, at_last, belonging))
            for file in sorted(folder.iterdir()):
                if (out / file.name).exists():
                    raise Refused(f"Two things that are handed off are called {file.name}. Give one another pattern.")
                shutil.move(file, out / file.name)
        remarks += [word] if word else []
    return remarks


def _figures(
    workspace: Workspace,
    project: Project,
    result: DuckingResult,
    film: Film,
    recipe: Recipe,
    remarks: Sequence[str],
    took_s: float,
) -> Outcome:
    """What is known of the finished film."""
    level = workspace.loudness.mix(project).loudness
    look = [each.text for each in result.findings if not each.fine]
    look += _off(recipe.aim, level.integrated_lufs, level.true_peak_dbtp)
    clear = [each for each in result.clear_lu if math.isfinite(each)]
    return Outcome(
        film.name,
        length_n=project.length_n,
        passages=len(result.plan.passages),
        lufs=_finite(level.integrated_lufs),
        dbtp=_finite(level.true_peak_dbtp),
        least_clear_lu=round(min(clear), 1) if clear else None,
        deepest_db=round(min((result.dip_db(each) for each in result.plan.passages), default=0.0), 1),
        look=tuple(look),
        said=tuple(each for each in remarks if each),
        took_s=round(took_s, 1),
    )


def _finite(value: float) -> float | None:
    return round(value, 1) if math.isfinite(value) else None


def _off(aim: Aim | None, lufs: float, dbtp: float) -> list[str]:
    """How a mix misses what was aimed at."""
    if aim is None:
        return []
    if not math.isfinite(lufs):
        return ["The mix is silent."]
    remarks = []
    if abs(lufs - aim.lufs) > aim.tolerance_lu:
        remarks.append(f"{lufs:.1f} LUFS instead of {aim.lufs:g}.")
    if dbtp > aim.dbtp + 0.05:
        remarks.append(f"{dbtp:.1f} dBTP, over {aim.dbtp:g}.")
    return remarks


def request_check(orders: Sequence[Mapping[str, Any]]) -> None:
    """Can all of this be handed off? Raises InvalidValue."""
    for each in orders:
        handoff.asked({"pattern": NAME, **each})
