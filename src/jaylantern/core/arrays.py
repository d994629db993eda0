"""The array types the core speaks in."""

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Samples: TypeAlias = NDArray[np.float32]  # (n_samples, n_channels), full scale = ±1
Doubles: TypeAlias = NDArray[np.float64]
Times: TypeAlias = NDArray[np.int64]
