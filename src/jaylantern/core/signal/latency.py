"""How late sound comes back from loudspeaker through microphone: clicks are played, and found in what was heard.

latency = argmax over lag of Σ probe(n) · heard(n + lag)        (cross-correlation, computed by FFT)

The probe is five rising chirps at uneven distances: its correlation with itself has one peak only, so that an echo of
one chirp is not taken for another. Source: matched filtering, textbook (Oppenheim and Schafer, Discrete-Time Signal
Processing, 3rd ed. 2010, section 2.9 on correlation).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from jaylantern.core.signal.timebase import RATE, ms_to_n
from jaylantern.errors import InvalidValue, Refused

CHIRP_MS, LOW_HZ, HIGH_HZ = 12, 1000.0, 6000.0
STARTS_MS = (0, 310, 570, 930, 1210)
PROBE_MS = 1400
LARGEST_N = RATE  # a second
CLEAR = 6.0  # the peak stands so many times above the typical correlation


def probe() -> NDArray[np.float32]:
    """The clicks to be played, (67200,) float32, peaks at −6 dBFS."""
    n = ms_to_n(CHIRP_MS)
    t = np.arange(n) / RATE
    sweep = LOW_HZ * t + (HIGH_HZ - LOW_HZ) / (2 * CHIRP_MS / 1000) * t**2
    chirp = 0.5 * np.sin(2 * np.pi * sweep) * np.hanning(n)
    out = np.zeros(ms_to_n(PROBE_MS), np.float32)
    for start_ms in STARTS_MS:
        at = ms_to_n(start_ms)
        out[at : at + n] = chirp
    return out


def measure(heard: NDArray[np.float32]) -> int:
    """Samples by which the probe arrived late in `heard` (n,), whose first sample was recorded as the probe began.

    Raises InvalidValue for a recording shorter than the probe, Refused where the clicks can't be made out.
    """
    sent = probe()
    if heard.ndim != 1 or len(heard) < len(sent):
        raise InvalidValue("What was recorded is shorter than the clicks. Measure again.")
    size = 1 << (len(heard) + len(sent) - 1).bit_length()
    spectrum = np.fft.rfft(heard.astype(np.float64), size) * np.conj(np.fft.rfft(sent.astype(np.float64), size))
    match = np.abs(np.fft.irfft(spectrum, size)[: min(LARGEST_N, len(heard) - len(sent) // 2)])
    best = int(match.argmax())
    typical = float(np.sqrt(np.mean(match**2)))
    if not match[best] > max(CLEAR * typical, 1e-6):
        raise Refused(
            "The clicks were not heard. Turn the loudspeaker up or bring the microphone nearer, then measure."
        )
    return best
