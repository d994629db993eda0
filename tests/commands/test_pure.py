"""Commands without a data folder: a project and what was prepared go in, words and a project come out."""

from __future__ import annotations

from itertools import count

import numpy as np
import pytest

from jaylantern.commands import COMMANDS
from jaylantern.commands.command import Command
from jaylantern.commands.tailoring import Fitted
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.mixing.matching import Loud, Match
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.tailoring import Until
from jaylantern.errors import Refused
from tests.build import clip, lane, media, project

VOICE, BED, SHORT = media(1, 60), media(2, 60), media(3, 20)
FILM = project(lane(11, Tag.DIALOGUE, clip(21, VOICE)), lane(12, Tag.MUSIC, clip(22, BED)))
PLAN = make_plan(FILM, Sounding({1: np.array([(10, 14), (20, 25)], np.int64) * RATE}))
TALK, MUSIC = FILM.lanes
MATCHED = Match(21, -22.5, -20.0, 2.5, 2.5, -6.0, False)
FITTED = Fitted(MUSIC.clips[0], SHORT, 20 * RATE, Until.LENGTH, True)
COPIED = {"media_id": 2, "lane_id": 12, "kind": "sound", "name": "Bed", "start_n": 0, "offset_n": 0, "length_n": RATE}


def starts(film) -> list[tuple[int, float, float]]:
    return [(each.id, each.start_n / RATE, each.length_n / RATE) for _, each in film.placed()]


@pytest.mark.parametrize(
    ("name", "values", "prepared", "words", "looked_at", "found"),
    [
        ("add_marker", {"at_n": 7}, {}, "Marker 1 at 00:00.00",
         lambda film: [(each.id, each.time_n) for each in film.markers], [(100, 7)]),
        ("mark_speech", {"index": 0}, {"plan": PLAN}, "00:10.00 to 00:14.00 is not speech",
         lambda film: [(pin.id, pin.start_n // RATE, pin.stop_n // RATE) for pin in film.speech_pins], [(100, 10, 14)]),
        ("mark_speech", {"start_n": 0, "stop_n": RATE, "speech": True}, {"plan": None},
         "00:00.00 to 00:01.00 is speech",
         lambda film: [(pin.start_n, pin.stop_n) for pin in film.speech_pins], [(0, RATE)]),
        ("join_passages", {"index": 0}, {"plan": PLAN}, "Join passages 1 and 2", lambda film: len(film.speech_pins), 1),
        ("set_passage", {"index": 1, "none": True}, {"plan": PLAN}, "Passage 2: no dip",
         lambda film: [pin.own.none for pin in film.dip_pins], [True]),
        ("add_point", {"lane_id": 12, "at_n": 5 * RATE, "gain_db": -3.0}, {"plan": PLAN},
         "Add a point to lane 12 at 00:05.00",
         lambda film: [(pin.id, pin.at_n, pin.gain_db) for pin in film.point_pins], [(100, 5 * RATE, -3.0)]),
        ("split_clips", {"at_n": 5 * RATE, "clip_ids": [22]}, {}, "Split file 2.wav at 00:05.00", starts,
         [(21, 0, 60), (22, 0, 5), (100, 5, 55)]),
        ("apply_preset", {"preset_id": 5}, {"own": ("Mine", {"amount_db": -9.0})}, "Preset Mine",
         lambda film: film.settings.amount_db, -9.0),
        ("duck_as_in", {"project_id": 9}, {"other": project(amount_db=-3.5)}, "Ducking as in Test",
         lambda film: film.settings.amount_db, -3.5),
        ("place", {"media_id": 3, "at_n": 2 * RATE}, {"brought": (SHORT, "Sea.wav"), "fps_of": None},
         "Bring in Sea.wav", lambda film: [(each.id, each.name) for each in film.lanes[2].clips], [(101, "Sea.wav")]),
        ("lay_take", {"media_id": 3, "name": "Take 1", "at_n": RATE, "offset_n": 0, "lane_id": 11}, {"found": SHORT},
         "Keep Take 1", lambda film: [each.name for _, each in film.placed()].count("Take 1"), 1),
        ("paste_clips", {"copied": [COPIED], "at_n": 61 * RATE}, {"media": {2: BED}}, "Paste Bed at 01:01.00", starts,
         [(21, 0, 60), (22, 0, 60), (100, 61, 1)]),
        ("cut_pauses", {"clip_ids": [21], "longest_ms": 1000, "breath_ms": 0},
         {"speech": {1: np.array([(0, 10), (20, 60)], np.int64) * RATE}, "fps_of": lambda found: 0.0},
         "Cut 1 pause (10.0 s) out of file 1.wav", starts, [(21, 0, 10), (101, 10, 40), (22, 0, 60)]),
        ("match", {"target": -20}, {"matched": [(TALK, TALK.clips[0], MATCHED)]},
         "Match loudness of 1 clip to -20 LUFS", lambda film: film.lanes[0].clips[0].gain_db, 2.5),
        ("level_stretch", {"clip_ids": [22], "start_n": 30 * RATE, "stop_n": 40 * RATE},
         {"loud": [Loud(22, 0.0, np.where(np.arange(600) // 100 == 3, 0.4, 0.1))]},
         "00:30.0 to 00:40.0 of file 2.wav as loud as its surroundings: -6.0 dB",
         lambda film: film.lanes[1].clips[0].line is None, False),
        ("tailor_clip", {"clip_id": 22}, {"fitted": FITTED}, "Tailor file 2.wav to 00:20.0", starts,
         [(21, 0, 60), (22, 0, 20)]),
        ("refit", {}, {"fitted": [FITTED]}, "Fit file 2.wav anew", starts, [(21, 0, 60), (22, 0, 20)]),
        ("refit", {}, {"fitted": []}, "Fit anew", lambda film: film == FILM, True),
        ("plain_clip", {"clip_id": 22}, {"recording": BED}, Refused, None, None),
    ],
)  # fmt: skip
def test_a_command_is_its_project_and_what_was_prepared(name, values, prepared, words, looked_at, found):
    command = COMMANDS[name]

    def edited():
        return command.edit(FILM, count(100).__next__, **command.checked(values), **prepared)

    assert prepared.keys() == command.prepare.keys()
    if words is Refused:
        with pytest.raises(Refused):
            edited()
        return
    label, after = edited()
    assert label == words
    assert looked_at(after) == found
    assert edited() == (label, after), "the same again, of the same"


class Told:
    """Answers everything with its name, and notes what was asked."""

    def __init__(self) -> None:
        self.asked = []

    def __getattr__(self, name):
        return lambda *given: self.asked.append(name) or name


@pytest.mark.parametrize(
    ("name", "values", "asked"),
    [
        ("rename_project", {"name": "A"}, []),
        ("join_passages", {"index": 0}, ["plan"]),
        ("mark_speech", {"start_n": 0, "stop_n": 5}, []),
        ("mark_speech", {"index": 0}, ["plan"]),
        ("lift_passage", {"start_n": 0, "stop_n": 5}, []),
        ("apply_preset", {"name": "Just enough"}, []),
        ("apply_preset", {"preset_id": 3}, ["preset"]),
        ("relink", {"missing_id": 1, "media_id": 2, "name": "x"}, ["medium"]),
        ("level_stretch", {"clip_ids": [22], "start_n": 0, "stop_n": 5}, ["loud"]),
        ("cut_pauses", {"clip_ids": [21], "longest_ms": 1000, "breath_ms": 0}, ["speech", "speech"]),
    ],
)
def test_what_is_prepared_is_what_the_edit_needs_and_no_more(name, values, asked):
    command, told = COMMANDS[name], Told()
    command.prepared(FILM, command.checked(values), told)
    assert told.asked == asked


def test_a_prepared_thing_has_the_name_the_edit_knows_it_by():
    command = Command("try", lambda project, new_id, *, known: (known, project), prepare={"known": lambda *_: "this"})
    assert command.edit(FILM, None, **command.prepared(FILM, {}, None)) == ("this", FILM)
