"""The render: windows equal the whole, the limiter keeps its ceiling and else leaves every bit alone."""

import numpy as np
import pytest
import scipy.signal
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core import limiter
from jaylantern.core.curve import Curve
from jaylantern.core.mix import BLOCK_N, Programme, Renderer, Variant, Voice, render
from jaylantern.core.model import Tag
from jaylantern.core.timebase import RATE, db_to_amplitude
from tests import sounds
from tests.build import reader

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
    assert (few > 0).sum() <= limiter.RELEASE < (nudged > 0).sum()
    assert np.array_equal(limiter._held(few), np.where(limiter._held(nudged) > 1e-20, limiter._held(nudged), 0))


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
