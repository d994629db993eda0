"""Random edits, undone to the beginning and redone to the end: the project and its sound are the same again."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from jaylantern import commands
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.edit.draft import check
from jaylantern.core.mixing import mix
from jaylantern.core.mixing.mix import Variant
from jaylantern.core.timeline.clip import Channels
from jaylantern.core.timeline.described import flat
from jaylantern.core.timeline.fades import Shape
from jaylantern.core.timeline.lane import LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import JayError
from jaylantern.store import edits, media, projects
from tests.build import RATE, place, reader
from tests.sounds import noise

LENGTHS_S = (3, 2, 4)
SOUNDS = [noise(seconds=s, channels=c, seed=s) for s, c in zip(LENGTHS_S, (2, 1, 2), strict=True)]
SPEECH = np.array([[0.2, 0.9], [1.4, 1.8]]) * RATE
ENDS = st.sampled_from(["fade_in", "fade_out"])
TIMES = st.integers(0, 6 * RATE)
SHIFTS = st.integers(-3 * RATE, 3 * RATE)


def some(what: str, **values) -> st.SearchStrategy:
    """A command on some clips or a lane, which are chosen by number when it is its turn."""
    return st.tuples(st.just(what), st.lists(st.integers(0, 9), min_size=1, max_size=3), st.fixed_dictionaries(values))


COMMANDS = st.one_of(
    some("move_clips", by_n=SHIFTS, lanes_by=st.integers(-1, 1)),
    some("trim_clips", edge=st.sampled_from(["start", "stop"]), by_n=SHIFTS),
    some("slip_clips", by_n=SHIFTS),
    some("split_clips", at_n=TIMES),
    some("delete_clips", close=st.sampled_from(["none", "lane", "all"])),
    some("close_gaps"),
    some("cut_out", start_n=TIMES, stop_n=TIMES),
    some("duplicate_clips"),
    some("paste_clips", at_n=TIMES),
    some("link_clips"),
    some("unlink_clips"),
    some("set_clips", gain_db=st.integers(-90, 24), channels=st.sampled_from(list(Channels)), muted=st.booleans()),
    some("set_clips", bystander=st.booleans()),
    some("fade_clips", end=ENDS, length_n=TIMES, shape=st.sampled_from(list(Shape))),
    some("copy_sound"),
    some("tag_clips", tag=st.sampled_from([None, *Tag])),
    some("tag_lane", tag=st.sampled_from(list(Tag)), clear=st.booleans()),
    some("set_lane", gain_db=st.integers(-20, 6), soloed=st.booleans(), bystander=st.booleans()),
    some("add_lane", kind=st.sampled_from(list(LaneKind))),
    some("order_lane", to=st.integers(0, 5)),
    some("remove_lane"),
    some("add_marker", at_n=TIMES),
    some("set_in", at_n=TIMES),
    some("set_out", at_n=TIMES),
    some("set_settings", settings=st.fixed_dictionaries({"amount_db": st.integers(-60, 0)})),
    some("undo"),
    some("redo"),
)


def carry_out(db, project_id: int, command) -> None:
    """Give the command the clips and the lane its numbers point at, and do it."""
    kind, which, values = command
    if kind in ("undo", "redo"):
        getattr(edits, kind)(db, project_id)
        return
    project = projects.load(db, project_id)
    clips = [(lane, clip) for lane, clip in project.placed()]
    chosen = [clips[i % len(clips)][1].id for i in which] if clips else []
    values = {**values, "clip_ids": chosen, "leader_id": chosen[0] if chosen else None, "from_id": chosen and chosen[0]}
    if project.lanes and kind not in ("close_gaps",):
        values["lane_id"] = project.lanes[which[0] % len(project.lanes)].id
    if kind == "paste_clips":
        values["copied"] = [
            {**flat(c), "lane_id": lane.id, "lane_name": lane.name, "kind": lane.kind, "lane_tag": lane.tag}
            for lane, c in clips
            if c.id in chosen
        ]
    takes = commands.COMMANDS[kind].params
    commands.do(db, project_id, kind, {name: value for name, value in values.items() if name in takes})


def content(db, project_id: int) -> Project:
    """The project without its revision; what is remembered of it is what its rows say."""
    project = projects.load(db, project_id)
    assert project == projects.read(db, project_id)
    return replace(project, revision=0)


def heard(project: Project, numbers: list[int]) -> np.ndarray:
    """What the project sounds like, its media being numbered as in `SOUNDS`."""
    place = {number: i + 1 for i, number in enumerate(numbers)}
    read = reader(*SOUNDS)
    plan = make_plan(project, Sounding({number: SPEECH.astype(np.int64) for number in numbers}))
    voices = mix.programme(project, plan)
    stop_n = min(project.length_n, 12 * RATE)
    return mix.render(voices, lambda n, a, b: read(place[n], a, b), 0, stop_n, Variant.DUCKED)


def laid_out(db, project_id: int) -> list[int]:
    """A small film, talk and bed, tagged; the numbers of their media."""
    numbers = []
    for i, (name, picture) in enumerate((("Film.mp4", True), ("Talk.wav", False), ("Bed.wav", False))):
        sha256 = f"{i:064d}"
        found = media.find(db, sha256) or media.insert(
            db,
            sha256=sha256,
            name=name,
            size_bytes=1,
            length_n=LENGTHS_S[i] * RATE,
            has_sound=True,
            has_picture=picture,
        )
        place(db, project_id, found, name=name, at_n=0)
        numbers.append(found.id)
    for lane, tag in zip(projects.load(db, project_id).lanes[1:], ("atmosphere", "dialogue", "music"), strict=True):
        commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
    edits.forget(db, project_id)
    return numbers


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(COMMANDS, min_size=1, max_size=25))
def test_random_edits_undone_to_the_beginning_and_redone_to_the_end(db, sequence):
    db.execute("PRAGMA synchronous = OFF")
    project_id = projects.create(db, "Random")
    numbers = laid_out(db, project_id)
    start = content(db, project_id)
    for command in sequence:
        before = content(db, project_id)
        try:
            carry_out(db, project_id, command)
        except JayError:
            assert content(db, project_id) == before  # refused, and nothing changed
    while edits.steps(db, project_id).redo:
        edits.redo(db, project_id)
    end = content(db, project_id)
    for lane in end.lanes:
        check(lane)
    sound = heard(end, numbers)
    edits.go_to(db, project_id, 0)
    assert content(db, project_id) == start
    assert np.array_equal(heard(start, numbers), heard(content(db, project_id), numbers))
    while edits.steps(db, project_id).redo:
        edits.redo(db, project_id)
    assert content(db, project_id) == end
    assert np.array_equal(heard(content(db, project_id), numbers), sound)
