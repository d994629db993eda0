"""Sung stretches from a probability per 10 ms; answers in blocks, worked by hand."""

import numpy as np
import pytest

from jaylantern.core.signal.signal_level import HOP_N
from jaylantern.core.speech.singing import find_singing


def sung(*parts: tuple[int, int, float], length: int = 2000) -> list[list[float]]:
    p = np.zeros(length, np.float16)
    for first, last, value in parts:
        p[first:last] = value
    return (find_singing(p, length_n=length * HOP_N) / HOP_N).tolist()


@pytest.mark.parametrize(
    ("parts", "expected"),
    [
        ([], []),
        ([(500, 900, 1.0)], [[490, 910]]),  # 51 blocks of which 16 sing are over 0.3: ten outward on each side
        ([(500, 900, 0.49)], []),  # never reaches one half
        ([(500, 629, 1.0)], []),  # 149 blocks with those ten: under a second and a half
        ([(500, 630, 1.0)], [[490, 640]]),
        ([(500, 700, 1.0), (819, 1000, 1.0)], [[490, 1010]]),  # 99 apart
        ([(500, 700, 1.0), (820, 1000, 1.0)], [[490, 710], [810, 1010]]),  # 100 apart
        ([(500, 700, 1.0), (700, 900, 0.35)], [[490, 882]]),  # goes on while 44 of 51 sing at 0.35, which is 0.302
        ([(0, 300, 1.0)], [[0, 310]]),  # what lies before the beginning is as the first
        ([(1800, 2000, 1.0)], [[1790, 2000]]),
    ],
)  # fmt: skip
def test_where_somebody_sings(parts, expected):
    assert sung(*parts) == expected


def test_nothing_holds_no_singing():
    assert find_singing(np.zeros(0, np.float32), length_n=0).shape == (0, 2)
    assert find_singing(np.ones(1, np.float32), length_n=HOP_N).shape == (0, 2)
