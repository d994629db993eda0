"""Weights as they ship."""

from __future__ import annotations

from importlib.resources import as_file, files

import numpy as np
from numpy.typing import NDArray


def weights(name: str) -> dict[str, NDArray[np.float32]]:
    """The arrays of `name`.npz beside this file, float32."""
    with as_file(files(__package__) / f"{name}.npz") as path, np.load(path) as saved:
        return {key: saved[key].astype(np.float32) for key in saved.files}
