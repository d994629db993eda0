"""Films of varying frame rate keep the times of their frames when they are cut; even ones stay even."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.media.film import Cut, Shot, write_cut_film
from jaylantern.media.probe import frame_times, varying
from tests import films

IN_STEP_S = 0.02


def phone_times(seconds: float) -> list[float]:
    """30 frames a second in good light, 18 in the dark, one dropped now and then: as phones do."""
    times, at, i = [], 0.0, 0
    while at < seconds:
        times.append(round(at, 4))
        at += 1 / 18 if int(at) % 3 == 2 else 1 / 30
        at += 1 / 30 if i % 41 == 40 else 0
        i += 1
    return times


def shown(path) -> list[tuple[float, float]]:
    """When each frame begins, and how bright it is."""
    with av.open(str(path)) as film:
        stream = film.streams.video[0]
        return [(float(f.pts * stream.time_base), f.to_ndarray(format="gray").mean()) for f in film.decode(stream)]


def cut(path, source, out, *, even, pieces):
    shots = [Shot(round((b - a) * RATE), source, source.name, round(a * RATE)) for a, b in pieces]
    length_n = sum(shot.length_n for shot in shots)
    write_cut_film(
        out, shots=iter(shots), how=Cut((160, 96), Fraction(25), 17, even=even),
        sound=iter([np.zeros((length_n, 2), np.float32)]),
    )  # fmt: skip
    return shown(out)


def test_every_frame_of_a_cut_keeps_its_time(tmp_path):
    times = phone_times(12)
    flashes = set(range(5, len(times), 23))
    source = films.write_varying(tmp_path / "phone.mp4", times, flashes=flashes)
    pieces = [(1.0, 4.4), (6.1, 11.5)]
    found = [
        time for time, grey in cut(tmp_path, source, tmp_path / "out.mp4", even=False, pieces=pieces) if grey > 200
    ]
    wanted, begun = [], 0.0
    for a, b in pieces:
        wanted += [begun + times[i] - a for i in sorted(flashes) if a <= times[i] < b]
        begun += b - a
    assert len(wanted) > 8
    assert found == pytest.approx(wanted, abs=IN_STEP_S)
    assert max(abs(f - w) for f, w in zip(found, wanted, strict=True)) < 0.001


def test_a_piece_begins_with_the_frame_that_was_shown_there(tmp_path):
    source = films.write_varying(tmp_path / "slow.mp4", [0.0, 1.0, 2.0, 3.0], flashes={1})
    frames = cut(tmp_path, source, tmp_path / "out.mp4", even=False, pieces=[(1.5, 2.5)])
    assert [round(time, 3) for time, _ in frames] == [0.0, 0.5]
    assert frames[0][1] > 200 > frames[1][1]


def test_a_rate_that_was_chosen_is_even(tmp_path):
    source = films.write_varying(tmp_path / "phone.mp4", phone_times(4))
    times = [time for time, _ in cut(tmp_path, source, tmp_path / "out.mp4", even=True, pieces=[(0.5, 3.5)])]
    assert np.diff(times) == pytest.approx(1 / 25, abs=1e-6)


@pytest.mark.parametrize(
    ("times", "varies"),
    [
        ([i / 25 for i in range(50)], False),
        ([round(i / 29.97, 3) for i in range(50)], False),  # rounded to milliseconds, as Matroska does
        (phone_times(4), True),
        ([i / 25 for i in range(50) if i != 20], True),  # one frame dropped
        ([0.0, 1.0], False),
    ],
)
def test_a_varying_rate_is_told_from_rounding(tmp_path, times, varies):
    source = films.write_varying(tmp_path / "film.mp4", times)
    assert varying(source, "film.mp4") is varies
    assert frame_times(source, name="film.mp4") == pytest.approx(np.array(times) - times[0], abs=1e-4)
