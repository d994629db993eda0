"""The render: windows equal the whole, the limiter keeps its ceiling and else leaves every bit alone."""

import numpy as np
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.ducking.plan import make_plan
from jaylantern.core.ducking.triggers import Sounding
from jaylantern.core.mixing.mix import BLOCK_N, Programme, Renderer, Variant, Voice, render
from jaylantern.core.mixing.mix import programme as programme_of
from jaylantern.core.signal import limiter
from jaylantern.core.signal.timebase import RATE, db_to_amplitude
from jaylantern.core.timeline.clip import Channels
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.tag import Tag
from tests import sounds
from tests.build import clip, lane, media, project, reader

TALK = sounds.talk({"vm-intro": 0.7}, seconds=7)
BED = np.repeat(sounds.music()[3 * RATE : 11 * RATE, None], 2, axis=1)
HOT = (BED / np.abs(BED).max() * 1.9).astype(np.float32)
DIP = Curve(np.array([10_000, 30_000, 200_000, 250_000]), np.array([0.0, -14.0, -14.0, 0.0]))


def programme(bed_gain_db: float = 0.0, length_n: int = 7 * RATE + 123) -> Programme:
    return Programme(
        length_n,
        (
            Voice(1, 0, len(TALK), 0, 1.0, Tag.DIALOGUE, None),
            Voice(2, 4321, 4321 + 6 * RATE, 999, db_to_amplitude(bed_gain_db), Tag.MUSIC, DIP),
        ),
        -1.0,
    )


READ = reader(TALK, HOT)
WHOLE = {v: render(programme(), READ, 0, programme().length_n, v) for v in Variant}


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(list(Variant)), st.integers(0, 7 * RATE), st.integers(1, 3 * RATE))
def test_any_window_is_the_same_to_the_last_bit(variant, start_n, length_n):
    stop_n = min(start_n + length_n, programme().length_n)
    window = render(programme(), READ, start_n, stop_n, variant)
    assert np.array_equal(window, WHOLE[variant][start_n:stop_n])


def test_walking_the_blocks_gives_the_same_bits_too():
    walked = np.concatenate(list(Renderer(programme(), READ, Variant.DUCKED).blocks(0, programme().length_n)))
    assert np.array_equal(walked, WHOLE[Variant.DUCKED])


def test_a_renderer_asked_in_disorder_gives_the_same_bits():
    disordered = Renderer(programme(), READ, Variant.DUCKED)
    for k in (5, 0, 3, 3, 6, 1):
        block = disordered.block(k)[: max(0, programme().length_n - k * BLOCK_N)]
        assert np.array_equal(block, WHOLE[Variant.DUCKED][k * BLOCK_N : (k + 1) * BLOCK_N])


def over_sampled_peak_db(samples: np.ndarray) -> float:
    wide = scipy.signal.resample_poly(samples.astype(np.float64), 4, 1, axis=0, window=("kaiser", 12.0))
    return 20 * np.log10(np.abs(wide).max())


def test_the_true_peak_of_hot_music_stays_under_the_ceiling():
    """Measured by an independent four-fold resampler; the ceiling is −1 dBTP."""
    assert over_sampled_peak_db(WHOLE[Variant.PLAIN]) <= -1.0 + 0.05
    assert over_sampled_peak_db(HOT) > 3


def test_few_and_many_stretches_over_the_ceiling_are_held_alike():
    """The two ways of finding what is held, one for few and one for many, give the same bits."""
    many = np.abs(np.random.default_rng(3).standard_normal(800)).astype(np.float32)
    few = np.where(np.arange(800) % 40 < 3, many, 0).astype(np.float32)
    nudged = few.copy()
    nudged[np.flatnonzero(few == 0)[::2]] = np.float32(1e-30)  # makes it many without changing what is held
    assert (few > 0).sum() <= limiter.release_of(limiter.RELEASE_MS) < (nudged > 0).sum()
    one, other = (limiter._held(each, limiter.release_of(limiter.RELEASE_MS)) for each in (few, nudged))
    assert np.array_equal(one, np.where(other > 1e-20, other, 0))


def test_where_nothing_is_over_the_limiter_leaves_every_bit_alone():
    quiet = programme(bed_gain_db=-20)
    limited = render(quiet, READ, 0, quiet.length_n, Variant.DUCKED)
    expected = np.zeros((quiet.length_n, 2), np.float32)
    expected[: len(TALK)] += TALK
    music = render(quiet, READ, 0, quiet.length_n, Variant.MUSIC)
    assert np.array_equal(limited, expected + music)


@pytest.mark.parametrize("from_edge_n", [-20, -11, -6, -1, 0, 3])
def test_a_peak_between_samples_is_caught_at_the_edge_of_a_block_as_anywhere_else(from_edge_n):
    """A burst at a quarter of the sample rate, 45° off: only between its samples does it pass the ceiling."""
    burst = (0.85 * np.sqrt(2) * np.sin(np.pi / 2 * np.arange(14) + np.pi / 4)).astype(np.float32)

    def gains(at_n: int) -> np.ndarray:
        sound = np.zeros((3 * BLOCK_N, 1), np.float32)
        sound[at_n : at_n + len(burst), 0] = burst
        one = Programme(len(sound), (Voice(1, 0, len(sound), 0, 1.0, Tag.MUSIC, None),), -1.0)
        limiting = Renderer(one, reader(sound), Variant.PLAIN)
        whole = [limiting.limiter_gains(k) for k in range(3)]
        together = np.concatenate([np.ones(BLOCK_N, np.float32) if gain is None else gain for gain in whole])
        return together[at_n - 9600 : at_n + 9600]

    at_edge, inside = gains(BLOCK_N + from_edge_n), gains(BLOCK_N + from_edge_n + 32 * 40)
    assert inside.min() < 0.9
    assert np.allclose(at_edge, inside, rtol=1e-5)


def test_ducked_music_is_the_source_times_the_curve():
    """The rendered level follows the curve within 0.1 dB wherever there is sound."""
    music = WHOLE[Variant.MUSIC]
    source = HOT[999 : 999 + 6 * RATE]
    gain = 10 ** (DIP.at(np.arange(4321, 4321 + 6 * RATE)) / 20)
    assert np.allclose(music[4321 : 4321 + 6 * RATE], source * gain[:, None], rtol=1e-5, atol=1e-8)
    assert not music[:4321].any()


def test_plain_ignores_the_curve_and_speech_is_the_dialogue_alone():
    assert np.array_equal(WHOLE[Variant.SPEECH][: len(TALK)], np.repeat(TALK, 2, axis=1))
    loud = sounds.rms_db(WHOLE[Variant.PLAIN][60_000:180_000]) - sounds.rms_db(WHOLE[Variant.DUCKED][60_000:180_000])
    assert loud > 3


def test_memory_does_not_grow_with_the_programme():
    long = Programme(10**9, (Voice(2, 0, 10**9, 0, 1.0, Tag.MUSIC, None),), -1.0)
    renderer = Renderer(long, lambda media_id, a, b: np.full((b - a, 1), 0.9, np.float32), Variant.DUCKED)
    for k in range(40):
        renderer.block(k)
    assert len(renderer._mixed) <= 6
    assert len(renderer._needed) <= 4


def test_beyond_the_programme_there_is_silence():
    assert not render(programme(), READ, 8 * RATE, 9 * RATE, Variant.DUCKED).any()
    assert render(programme(), READ, 5, 5, Variant.DUCKED).shape == (0, 2)


@pytest.mark.parametrize("variant", list(Variant))
def test_an_empty_programme_is_silent(variant):
    assert not render(Programme(0, (), -1.0), READ, 0, 1000, variant).any()


def lone(seconds: float = 2, **more) -> Programme:
    """One clip of talk, from the first sample of medium 1."""
    return Programme(
        round(seconds * RATE), (Voice(1, 0, round(seconds * RATE), 0, 1.0, Tag.UNTAGGED, None, **more),), 0.0
    )


def test_a_fade_scales_every_sample_by_its_law():
    """Straight: sample k of a fade of n has (k + ½)/n of its amplitude."""
    steady = reader(np.full((2 * RATE, 2), 0.25, np.float32))
    faded = render(lone(fade_in=Fade(1000, Shape.STRAIGHT)), steady, 0, 2 * RATE, Variant.MUSIC)
    assert not faded.any()  # it is not music
    faded = render(lone(fade_in=Fade(1000, Shape.STRAIGHT)), steady, 0, 2 * RATE, Variant.DUCKED)
    assert faded[:1000, 0] == pytest.approx(0.25 * (np.arange(1000) + 0.5) / 1000, rel=1e-6)
    assert (faded[1000:] == 0.25).all()


def test_unlike_sounds_cross_over_without_a_dip_in_level():
    """Two noises under round fades: the RMS in the middle of the crossing is that of either."""
    noises = reader(sounds.noise(seconds=4), sounds.noise(seconds=4, seed=2))
    crossing = project(
        lane(1, Tag.UNTAGGED, clip(1, media(1, 4)), clip(2, media(2, 4), start_s=2)),
    )
    found = render(programme_of(crossing, make_plan(crossing, Sounding())), noises, 0, 6 * RATE, Variant.DUCKED)
    middle, before = found[int(2.5 * RATE) : int(3.5 * RATE)], found[RATE // 2 : int(1.5 * RATE)]
    assert sounds.rms_db(middle) == pytest.approx(sounds.rms_db(before), abs=0.1)


@pytest.mark.parametrize(
    ("channels", "expected"),
    [
        (Channels.BOTH, (0.2, 0.4)),
        (Channels.LEFT, (0.2, 0.2)),
        (Channels.RIGHT, (0.4, 0.4)),
        (Channels.MONO, (0.3, 0.3)),
    ],
)
def test_a_clip_plays_the_channels_it_is_told_to(channels, expected):
    two = reader(np.tile(np.array([[0.2, 0.4]], np.float32), (2 * RATE, 1)))
    assert render(lone(channels=channels), two, 5, 6, Variant.DUCKED)[0] == pytest.approx(expected)


def test_the_peaks_of_a_lane_are_those_of_what_it_adds_to_the_mix():
    peaks = Renderer(programme(), READ, Variant.PLAIN).lane_peaks(2)[0]
    alone = WHOLE[Variant.PLAIN][2 * BLOCK_N : 3 * BLOCK_N]
    assert peaks.shape == (20,)
    assert peaks.max() >= np.abs(alone).max() - 1e-3
