"""Which window is played next at any rate and way; where frames begin; presses that are one step."""

from __future__ import annotations

import pytest

S = 48_000
FRAME_2997 = S * 1001 / 30000  # 1601.6 samples


def window(module, **values):
    found = module("windows.js").call(
        "nextWindow", {"loop": None, "skips": [], "rate": 1, "length_n": 10 * S, **values}
    )
    return found and (found["start_n"], found["stop_n"])


@pytest.mark.parametrize(
    ("values", "expected"),
    [
        ({"at_n": 0}, (0, S)),
        ({"at_n": S + 5}, (S + 5, 2 * S)),
        ({"at_n": 10 * S}, None),
        ({"at_n": 9 * S + 1}, (9 * S + 1, 10 * S)),
        ({"at_n": 0, "wide": 4, "rate": 4}, (0, 4 * S)),
        ({"at_n": 3 * S, "loop": [S, 3 * S]}, (S, 2 * S)),
        ({"at_n": 2 * S, "loop": [S, 2 * S + 100]}, (2 * S, 2 * S + 100)),
        ({"at_n": S, "skips": [[S, 2 * S]]}, (2 * S, 3 * S)),
        ({"at_n": 0, "skips": [[1000, 2000]]}, (0, 1000)),
        ({"at_n": 10 * S, "rate": -1}, (9 * S, 10 * S)),
        ({"at_n": 2 * S + 7, "rate": -1}, (2 * S, 2 * S + 7)),
        ({"at_n": 2 * S, "rate": -1}, (S, 2 * S)),
        ({"at_n": 0, "rate": -1}, None),
        ({"at_n": 2 * S, "rate": -4, "wide": 4}, (0, 2 * S)),
    ],
)
def test_the_next_window(module, values, expected):
    assert window(module, **values) == expected


@pytest.mark.parametrize(
    ("rate", "time", "place"), [(1, 0.5, 1.5), (2, 0.25, 1.5), (-1, 0.25, 1.75), (-2, 0.25, 1.5), (1, 9, 2), (-1, 9, 1)]
)
def test_where_in_a_window_one_is(module, rate, time, place):
    part = {"at": 0, "start_n": S, "stop_n": 2 * S, "rate": rate}
    assert module("windows.js").call("placeIn", part, time, S) == round(place * S)


def test_backwards_turns_frames_not_channels(module):
    assert module("windows.js").run("return [...m.backwards(new Float32Array([1, 2, 3, 4, 5, 6]), 2)]") == [
        5,
        6,
        3,
        4,
        1,
        2,
    ]


@pytest.mark.parametrize(
    ("rate", "way", "then"), [(1, 1, 2), (2, 1, 4), (4, 1, 8), (8, 1, 8), (8, -1, -1), (-1, -1, -2), (-2, 1, 1)]
)
def test_each_press_is_faster(module, rate, way, then):
    assert module("windows.js").call("faster", rate, way) == then


@pytest.mark.parametrize(
    ("time_n", "nearest"), [(0, 0), (800, 0), (801, 1602), (1602, 1602), (160_160 * 3 + 10, 480_480)]
)
def test_the_nearest_frame_at_29_97_never_drifts(module, time_n, nearest):
    assert module("frames.js").call("nearestFrame", time_n, FRAME_2997) == nearest


def test_a_hundred_steps_of_a_frame_are_a_hundred_frames(module):
    assert module("frames.js").run(
        f"let at = 0; for (let i = 0; i < 100; i += 1) at = m.stepFrame(at, {FRAME_2997}, 1); return at"
    ) == round(100 * FRAME_2997)


def test_a_cut_keeps_to_the_frames_of_the_picture_it_goes_through(module):
    clip = {"start_n": 1000, "offset_n": 48_000, "length_n": 96_000, "fps": 25}  # frame 25 of the file is at 1000
    frames = module("frames.js")
    assert frames.call("framedCut", [clip], 1000 + 1920 * 3 + 700) == 1000 + 1920 * 3
    assert frames.call("framedCut", [clip], 200_000) == 200_000
    assert frames.call("framedCut", [], 777) == 777
    assert frames.call("betweenFrames", [clip], 1000 + 1920 * 3 + 700) is True
    assert frames.call("betweenFrames", [clip], 1000 + 1920) is False


def test_presses_that_follow_closely_are_one_gesture(module):
    names = module("gesture.js").run(
        "let now = 0; const run = new m.KeyRun(() => now); const names = [];"
        " for (const [wait, what] of [[0, 'a'], [500, 'a'], [1100, 'a'], [1300, 'a'], [10, 'b'], [10, 'b']]) {"
        " now += wait; names.push(run.of(what)); } run.end(); names.push(run.of('b')); return names"
    )
    one, two, three, four, five, six, seven = names
    assert one == two == three != four
    assert four != five == six != seven
