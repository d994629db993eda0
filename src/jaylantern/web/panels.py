"""What the trays and panels of a project's page speak of: each names what it needs, and nothing else is worked out."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from jaylantern.core.ducking import tuning
from jaylantern.core.ducking.just_enough import Bound, Reach
from jaylantern.core.ducking.scales import MARKS, Marks
from jaylantern.core.ducking.thinning import thinned
from jaylantern.core.edit import corrections
from jaylantern.core.edit.ending import Ending
from jaylantern.core.signal.timebase import ms_to_n
from jaylantern.core.timeline import picture
from jaylantern.core.timeline.fades import Shape
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import KNOB, OPTION
from jaylantern.core.timeline.tag import Tag
from jaylantern.export import data
from jaylantern.media.film import QUALITIES
from jaylantern.media.film_sound import SOUND_TRACKS
from jaylantern.media.sound_files import FORMS, RATES
from jaylantern.pipeline import DuckingResult
from jaylantern.store import edits, jobs, made, media
from jaylantern.web import drafts, exports, levels, perches, tagging
from jaylantern.web.connection import db, workspace

Context = dict[str, Any]
ENDINGS = {
    Ending.PICTURE: "with the picture, music fading",
    Ending.HELD: "with the mix, last frame held",
    Ending.BLACK: "with the mix, black after the picture",
    Ending.RANGE: "from the in to the out point",
}
FILM_RATES = ("24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60")


@dataclass(frozen=True)
class Shown:
    """The project a panel is about, and what follows from it."""

    project_id: int
    project: Project
    result: DuckingResult


def _media(shown: Shown) -> Context:
    found = media.of_project(db(), shown.project_id)
    made_of = {each.media.sha256: each.media.id for each in found}
    uses = Counter(
        clip.media.id if clip.media.tailored is None else made_of.get(clip.media.tailored.source, 0)
        for _, clip in shown.project.placed()
    )
    return {
        "media": [(each, workspace().library.about(each.media), uses[each.media.id]) for each in found],
        "missing_media": media.wanted_in(db(), shown.project_id),
    }


def _chosen(shown: Shown) -> Context:
    return {"shapes": list(Shape)}


def _passages(shown: Shown) -> Context:
    marks = MARKS[shown.project.settings.clear_in]
    found = shown.result.plan.passages
    aside = corrections.set_aside(shown.project, shown.result.plan)
    rows = sorted([*((p.start_n, p.stop_n, i) for i, p in enumerate(found)), *((*each, None) for each in aside)])
    return {"marks": marks, "clear_word": partial(_clear_word, marks), "short": partial(_short, marks), "rows": rows}


def _sound(shown: Shown) -> Context:
    return {"forms": list(FORMS.values()), "rates": RATES}


def _film(shown: Shown) -> Context:
    return {
        "film_sounds": list(SOUND_TRACKS.values()),
        "qualities": QUALITIES,
        "why_anew": picture.why_anew(shown.project),
        "endings": ENDINGS,
        "film_rates": FILM_RATES,
        "between_frames": between_frames(shown.project),
    }


def _data(shown: Shown) -> Context:
    return {"data_forms": {name: form.label for name, form in data.FORMS.items()}}


def _made(shown: Shown) -> Context:
    working = [job for job in jobs.of_project(db(), shown.project_id, kind="export") if job.state != "done"]
    kept = [(each, exports.files(each.job_id)) for each in made.of_project(db(), shown.project_id)]
    return {"making": working, "made_before": kept}


def _clips(shown: Shown) -> Context:
    return tagging.context(shown.project, shown.result)


def _branches(shown: Shown) -> Context:
    return perches.context(shown.project)


def _level(shown: Shown) -> Context:
    return levels.context(shown.project)


def _points(shown: Shown) -> Context:
    """The curves with how many points they have, and what thinning would make of the leading one."""
    project, plan = shown.project, shown.result.plan
    lanes, by_hand = {lane.id: lane for lane in project.lanes}, project.point_pins
    curves = [
        (lane := lanes[key[0]], len(curve.time_n), sum(pin.root in {c.origin for c in lane.clips} for pin in by_hand))
        for key, curve in plan.curves.items()
    ]
    thin = None
    if plan.leading_key and len(plan.leading.time_n) > 2:
        least_n = ms_to_n(project.settings.thin_ms)
        found, error = thinned(plan.leading, largest_db=project.settings.thin_db, least_n=least_n)
        thin = (lanes[plan.leading_key[0]].name, len(found.time_n), error)
    return {"curves": curves, "held": len(plan.resting.held), "rests": len(plan.resting.resting), "thin": thin}


def _limits(shown: Shown) -> Context:
    """How many passages stand as clear as was wished for, and why others don't."""
    reach = [each for each in shown.result.plan.reach if each is not None]
    if not reach:
        return {"bounds": [], "marks": MARKS[shown.project.settings.clear_in]}
    counts = Counter(each.bound for each in reach)
    found = [f"{counts[None]} of {len(reach)} passages stand as clear as was wished for."]
    if counts[Bound.DEEPEST]:
        found.append(f"{counts[Bound.DEEPEST]} would need a dip deeper than the deepest.")
    if counts[Bound.BAND]:
        found.append(f"{counts[Bound.BAND]} can't: what the music has outside its speech band is too loud.")
    if counts[Bound.OTHERS]:
        found.append(f"{counts[Bound.OTHERS]} can't: what gives way to nothing is too loud. The check-up says what.")
    return {"bounds": found, "marks": MARKS[shown.project.settings.clear_in]}


def _tuning(shown: Shown) -> Context:
    """What a tuning map may be over, and what it may show."""
    settings = shown.project.settings
    return {
        "map_knobs": tuning.choices(settings),
        "map_usual": tuning.usual(settings),
        "looks": tuning.LOOKS,
        "marks": MARKS[settings.clear_in],
        "rule": tuning.SWEET,
    }


def _drafts(shown: Shown) -> Context:
    return drafts.context(shown.project, shown.result)


def _history(shown: Shown) -> Context:
    """The steps of the history, and which of them was done last."""
    steps = edits.history(db(), shown.project_id)
    return {"history": steps, "current": max((step.id for step in steps if not step.undone), default=0)}


def _clear_word(marks: Marks, clear: float) -> str:
    clear = marks.shown(clear)
    if clear < marks.masked:
        return "masked"
    return "close" if clear < marks.clear else "clear"


def _short(marks: Marks, reach: Reach | None) -> tuple[str, str] | None:
    """Why a passage stands less clear than was wished for: in a word, and in a line. None where it does not."""
    if reach is None or reach.bound is None:
        return None
    why = {
        Bound.DEEPEST: "the deepest dip is not deep enough",
        Bound.OTHERS: f"what gives way to nothing leaves {marks.in_words(reach.left)}",
        Bound.BAND: f"what the music has outside its speech band leaves {marks.in_words(reach.left)}",
    }
    return str(reach.bound), f"Wished for {marks.wished(reach.wish)}; {why[reach.bound]}."


def between_frames(project: Project) -> list[int]:
    """Where the picture is cut between two frames of its file, in samples."""
    return picture.between_frames(project, lambda medium: workspace().library.about(medium).fps)


NEEDS: dict[str, tuple[Callable[[Shown], Context], ...]] = {
    "layout": (_media, _chosen),
    "tag": (_clips, _branches),
    "duck": (_passages,),
    "level": (_level,),
    "tailor": (),
    "handoff": (_sound, _film, _data, _made),
    "checkup": (),
    "passages": (_passages,),
    "media": (_media,),
    "made": (_made,),
    "branches": (_branches,),
    "clips": (_clips,),
    "film": (_film,),
    "history": (_history,),
    "missing": (_clips,),
    "points": (_points,),
    "limits": (_limits,),
    "tuning": (_tuning,),
    "drafts": (_drafts,),
}


def context(project_id: int, part: str) -> Context:
    """What the templates of a tray or panel speak of. Raises NotFound for a project that is not there."""
    shown = Shown(project_id, *workspace().load(db(), project_id))
    found: Context = {"project": shown.project, "result": shown.result}
    found |= {"knobs": KNOB, "options": OPTION, "tags": list(Tag)}
    for need in NEEDS[part]:
        found |= need(shown)
    return found
