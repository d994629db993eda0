"""Waveform data in the page: the same extremes as the samples', whatever the scale and however little has arrived."""

from __future__ import annotations

import numpy as np
import pytest
from playwright.sync_api import Page

from jaylantern.core.signal.peaks import BASE_N, halved, pairs

READ = """async ([flat, counts, base_n, asked]) => {
    const { Peaks } = await import(new URL("../timeline/peaks.js", document.querySelector("script[type=module]").src));
    const file = Int16Array.from(flat);
    const fetched = [];
    const fetchPairs = async (start, count) => {
        fetched.push(count);
        return file.slice(start * 2, (start + count) * 2);
    };
    let arrived = 0;
    const peaks = new Peaks(counts, base_n, fetchPairs, () => { arrived += 1; });
    await peaks.loadCoarse();
    const coarse = fetched[0];
    const early = asked.map((each) => [...peaks.columns(...each)]);
    for (let i = 0; i < 20; i += 1) await new Promise((done) => setTimeout(done));
    const late = asked.map((each) => [...peaks.columns(...each)]);
    return { coarse, early, late, arrived };
}"""


@pytest.fixture
def read(page: Page):
    """A function that reads columns of made-up peaks in the page, before and after fine pieces have come."""

    def read(samples: np.ndarray, asked: list[tuple[int, float, int]]) -> dict:
        page.goto("/")
        levels = [pairs(samples[:, None])]
        while len(levels[-1]) > 1:
            levels.append(halved(levels[-1]))
        counts = [len(level) for level in levels]
        return page.evaluate(READ, [np.concatenate(levels).ravel().tolist(), counts, BASE_N, asked])

    return read


def extremes(samples: np.ndarray, start_n: int, n_per_px: float, count: int) -> np.ndarray:
    """What the columns should be where columns are whole numbers of pairs."""
    size = int(n_per_px)
    part = samples[start_n : start_n + size * count].reshape(count, size)
    return np.stack((part.min(axis=1), part.max(axis=1)), axis=1).ravel() / 32767


@pytest.mark.parametrize("n_per_px", [BASE_N, BASE_N * 8, BASE_N * 64])
def test_columns_hold_the_extremes_of_their_samples(read, n_per_px):
    samples = np.random.default_rng(n_per_px).integers(-32767, 32767, BASE_N * 4096).astype(np.int16)
    found = read(samples, [(BASE_N * 64, n_per_px, 20)])
    assert np.allclose(found["late"][0], extremes(samples, BASE_N * 64, n_per_px, 20), atol=1e-6)


def test_a_long_medium_is_coarse_at_first_and_exact_when_its_pieces_have_come(read):
    long = np.zeros(BASE_N * 150_000, np.int16)
    long[BASE_N * 140_000] = 20_000
    found = read(long, [(BASE_N * 139_990, BASE_N, 20), (0, BASE_N, 4)])
    early, late = np.array(found["early"][0][1::2]), np.array(found["late"][0][1::2])
    assert found["coarse"] < 150_000  # not the whole pyramid
    assert found["arrived"] == 2  # only the pieces looked at
    assert late[10] == pytest.approx(20_000 / 32767)
    assert (np.delete(late, 10) == 0).all()
    assert early[10] == pytest.approx(20_000 / 32767)  # stands in from a coarser level, wider than it is
    assert (early > 0).sum() >= 1


def test_beyond_the_sound_there_is_nothing(read):
    found = read(np.full(BASE_N * 10, 1000, np.int16), [(BASE_N * 9, BASE_N, 4), (-BASE_N * 2, BASE_N, 2)])
    assert found["late"][0][2:] == [0] * 6
    assert found["late"][0][:2] == pytest.approx([1000 / 32767] * 2)
