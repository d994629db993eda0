"""What a stretch depends on: equal only where the very samples are the same, and not changed by what lies elsewhere."""

from dataclasses import replace

import numpy as np
import pytest

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Renderer, Variant, Voice
from jaylantern.core.mixing.render_fingerprint import contents
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.tag import Tag
from tests import sounds
from tests.build import reader

SECONDS = 20
SOUND = sounds.noise(seconds=SECONDS, amplitude=0.9, channels=2)
TALK, BED = SOUND, SOUND[::-1].copy()
STRETCH = (8 * RATE, 10 * RATE)
POINTS = Curve(np.arange(0, SECONDS, 2) * RATE, np.where(np.arange(0, SECONDS, 2) % 4, -14.0, 0.0))
TALKING = Voice(1, 0, SECONDS * RATE, 0, 0.8, Tag.DIALOGUE, None)
MUSIC = Voice(2, RATE, 19 * RATE, 77, 0.9, Tag.MUSIC, POINTS, fade_in=Fade(RATE), fade_out=Fade(2 * RATE))


def programme(music: Voice, ceiling_dbtp: float = -1.0, release: int = 150) -> Programme:
    return Programme(SECONDS * RATE, (TALKING, music), ceiling_dbtp, release)


def rendered(prog: Programme) -> np.ndarray:
    return Renderer(prog, reader(TALK, BED), Variant.DUCKED).render(STRETCH[0] - BLOCK_N, STRETCH[1])


def moved(point: int, *, by_n: int = 0, by_db: float = 0.0) -> Curve:
    times, gains = POINTS.time_n.copy(), POINTS.gain_db.copy()
    times[point] += by_n
    gains[point] += by_db
    return Curve(times, gains)


ELSEWHERE = {
    "a point far behind": replace(MUSIC, curve=moved(8, by_db=-3)),
    "a point far before": replace(MUSIC, curve=moved(1, by_n=900)),
    "trimmed at its end": replace(MUSIC, stop_n=17 * RATE),
    "trimmed at its beginning": replace(MUSIC, start_n=2 * RATE, offset_n=77 + RATE),
    "another fade": replace(MUSIC, fade_in=Fade(2 * RATE), fade_out=Fade(100)),
}
HERE = {
    "louder": replace(MUSIC, amplitude=0.91),
    "slipped": replace(MUSIC, offset_n=78),
    "moved": replace(MUSIC, start_n=RATE + 1, stop_n=19 * RATE + 1),
    "a point of it": replace(MUSIC, curve=moved(4, by_db=-1)),
    "the next point": replace(MUSIC, curve=moved(6, by_n=50)),
    "no curve": replace(MUSIC, curve=None),
    "a ride": replace(MUSIC, ride=Curve.flat(-1.0)),
    "a long fade": replace(MUSIC, fade_in=Fade(8 * RATE)),
    "a late begin": replace(MUSIC, start_n=9 * RATE, offset_n=77 + 8 * RATE),
    "another medium": replace(MUSIC, media_id=1),
    "another lane": replace(MUSIC, lane_id=5),
    "another tag": replace(MUSIC, tag=Tag.EFFECTS),
}


@pytest.mark.parametrize("change", ELSEWHERE)
def test_what_changes_elsewhere_leaves_it_as_it_was(change):
    before, after = programme(MUSIC), programme(ELSEWHERE[change])
    assert contents(before, *STRETCH) == contents(after, *STRETCH)
    assert hash(contents(before, *STRETCH)) == hash(contents(after, *STRETCH))
    assert np.array_equal(rendered(before), rendered(after))
    assert contents(before, 0, SECONDS * RATE) != contents(after, 0, SECONDS * RATE)


@pytest.mark.parametrize("change", HERE)
def test_what_changes_here_is_seen(change):
    assert contents(programme(MUSIC), *STRETCH) != contents(programme(HERE[change]), *STRETCH)


def test_a_medium_whose_sound_is_another_is_seen_where_it_is_heard():
    late = replace(MUSIC, media_id=3, start_n=16 * RATE, stop_n=18 * RATE)
    prog = Programme(SECONDS * RATE, (TALKING, MUSIC, late), -1.0)
    sounds = {1: "a", 2: "b", 3: "c"}
    assert contents(prog, *STRETCH, sounds) == contents(prog, *STRETCH, {**sounds, 3: "another"})
    assert contents(prog, *STRETCH, sounds) != contents(prog, *STRETCH, {**sounds, 2: "another"})


def test_the_limiter_counts():
    seen = {contents(programme(MUSIC, *limiter), *STRETCH) for limiter in ((-1.0, 150), (-2.0, 150), (-1.0, 300))}
    assert len(seen) == 3


def test_whatever_is_changed_equal_contents_sound_the_same():
    random = np.random.default_rng(7)
    base, same = programme(MUSIC), 0
    plain = rendered(base)
    for _ in range(40):
        point = int(random.integers(0, len(POINTS.time_n)))
        curve = moved(point, by_n=int(random.integers(-40_000, 40_000)), by_db=float(random.normal()))
        fade = Fade(int(random.integers(0, 12 * RATE)))
        other = programme(replace(MUSIC, curve=curve, **{str(random.choice(["fade_in", "fade_out"])): fade}))
        if contents(base, *STRETCH) == contents(other, *STRETCH):
            same += 1
            assert np.array_equal(plain, rendered(other))
    assert 5 < same < 35
