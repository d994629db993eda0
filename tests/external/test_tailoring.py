"""Real music against a reference: librosa's beat tracker (McFee et al., SciPy 2015), compared by mir_eval's F-measure.

Both follow Ellis 2007; where they take the double or the half tempo of each other, neither is wrong (Davies et al.,
QMUL C4DM-TR-09-06, 2009, count such as found: "allowed metrical levels").
"""

import mir_eval
import numpy as np
import pytest

from jaylantern.core.tailoring.beats import find_beats
from jaylantern.core.tailoring.grid import grid_of
from jaylantern.core.tailoring.tailor import solutions
from jaylantern.core.tailoring.wish import Wish
from tests import sounds, tailored
from tests.external import reference_music
from tests.external.reference_music import LONGEST_S, PIECES, STEP_S, TEMPOS
from tests.tunes import RATE, tune


def agreement(ours, theirs):
    """The best F-measure among our beats, every second of them, and theirs so."""
    pairs = [(ours, theirs), (ours[::2], theirs), (ours[1::2], theirs), (ours, theirs[::2]), (ours, theirs[1::2])]
    return max(mir_eval.beat.f_measure(a, b) for a, b in pairs)


def test_beats_of_real_music_are_those_of_the_reference():
    found, reference = {}, reference_music.beats()
    for name in PIECES:
        sound = sounds.music(name)[:, None]
        ours = find_beats(tailored.heard(sound)).at_s
        found[name] = agreement(ours, reference[name])
        print(f"{name:32} F {found[name]:.3f}")
    assert np.mean(list(found.values())) > 0.8
    assert min(found.values()) > 0.45  # half of one piece is heard between the reference's beats


@pytest.mark.parametrize("bpm", TEMPOS)
def test_made_music_is_heard_alike_by_both(bpm):
    made = tune("AABA", bpm=bpm)
    assert agreement(find_beats(tailored.heard(made.sound)).at_s, reference_music.beats()[str(bpm)]) > 0.9


def test_folds_of_real_music_fit():
    """By a measure of the library's own: mel spectrum and chroma of the beats after a fold against what would have
    followed, ranked among all folds between beats. 0 is the best there is, 50 chance."""
    ranks, fits = [], []
    for name in PIECES:
        sound = sounds.music(name)[: LONGEST_S * RATE, None]
        grid = grid_of(tailored.heard(sound))
        rank = library_rank(*reference_music.heard(name), grid.beats_n / RATE)
        for share in (0.4, 0.7, 1.6):
            found = solutions(grid, Wish(round(share * len(sound))), tailored.source_of(sound))[0]
            ranks += [rank(left / RATE, right / RATE) for _, left, right in found.cut.folds]
            fits += found.fits
    print(f"{len(ranks)} folds, mean rank {np.mean(ranks):.1f} %, worst {max(ranks):.0f} %, own {np.mean(fits):.1f} %")
    assert np.mean(ranks) <= 6
    assert max(ranks) <= 20
    assert np.mean(fits) <= 3
    assert max(fits) <= 20


def by_beat(steps, beats_s):
    """The means of what is known each step over the beats, the last one to the end."""
    edges = np.unique(np.clip(np.rint(beats_s / STEP_S).astype(int), 0, len(steps) - 1))
    return np.add.reduceat(steps, edges) / np.diff([*edges, len(steps)])[:, None]


def library_rank(mel, chroma, beats_s):
    mel, chroma = by_beat(mel, beats_s), by_beat(chroma, beats_s)
    mel = (mel - mel.mean(axis=0)) / mel.std(axis=0)
    chroma = chroma / np.linalg.norm(chroma, axis=1, keepdims=True)
    distance = ((mel[:, None] - mel[None]) ** 2).mean(axis=2) + 2 * (1 - chroma @ chroma.T)
    padded = np.pad(distance, ((0, 8), (0, 8)), constant_values=np.median(distance))
    size = len(distance)
    cost = sum(np.exp(-k / 2) * padded[k : k + size, k : k + size] for k in range(8))
    places = np.arange(size)
    every = np.sort(cost[np.abs(places[:, None] - places) >= 4])

    def rank(left_s, right_s):
        i, j = (int(np.abs(beats_s - each).argmin()) for each in (left_s, right_s))
        return 100 * np.searchsorted(every, cost[i, j]) / len(every)

    return rank
