"""Downmix of surround sound to two channels by the standard coefficients.

ITU-R BS.775-4, Annex 4, table 2 (2/0 format): L' = L + 0.7071·C + 0.7071·Ls, R' likewise; the effects channel is
left out. A channel at the back centre goes to both sides at 0.5 (0.7071 × 0.7071). Not scaled down: samples are
float, the limiter keeps the mix under its ceiling.
"""

from __future__ import annotations

import numpy as np

from jaylantern.errors import MediaError

HALF_POWER = 0.7071
LEFT = {"FL": 1.0, "FC": HALF_POWER, "BL": HALF_POWER, "SL": HALF_POWER, "BC": 0.5, "FLC": HALF_POWER, "DL": 1.0}
RIGHT = {"FR": 1.0, "FC": HALF_POWER, "BR": HALF_POWER, "SR": HALF_POWER, "BC": 0.5, "FRC": HALF_POWER, "DR": 1.0}
BY_COUNT = {
    1: ("FC",),
    2: ("FL", "FR"),
    3: ("FL", "FR", "FC"),
    4: ("FL", "FR", "BL", "BR"),
    5: ("FL", "FR", "FC", "BL", "BR"),
    6: ("FL", "FR", "FC", "LFE", "BL", "BR"),
}


def matrix(channels: tuple[str, ...] | int) -> np.ndarray:
    """Coefficients (n_channels_in, 2) from channel names such as FL, FR, FC, LFE, BL, BR, or from a bare count."""
    names = BY_COUNT.get(channels, ()) if isinstance(channels, int) else channels
    if not names or len(names) > 8:
        raise MediaError(f"Sound with {channels} channels can't be mixed down: bring in mono to 7.1.")
    return np.array([(LEFT.get(name, 0.0), RIGHT.get(name, 0.0)) for name in names], np.float32)
