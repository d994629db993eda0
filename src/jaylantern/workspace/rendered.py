"""What was rendered lately: seconds of projects for listening, and what they measure."""

from __future__ import annotations

import threading
from collections.abc import Callable

import numpy as np

from jaylantern.core.mixing import metering
from jaylantern.core.mixing.metering import Meter
from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS, Renderer, Variant
from jaylantern.core.signal.timebase import SILENCE_DB
from jaylantern.core.timeline.project import Project
from jaylantern.library.library import Library
from jaylantern.pipeline import DuckingResult
from jaylantern.workspace.memo import Memo


class Rendered:
    """Renders projects second by second. Safe to share between threads. `result` answers what follows from one."""

    def __init__(self, library: Library, result: Callable[[Project], DuckingResult], memo: Memo) -> None:
        self._library, self._decided, self._memo = library, result, memo
        self._lock = threading.Lock()
        self._renderers: dict[tuple[int, bool, Variant], tuple[int, Renderer]] = {}

    def block(self, project: Project, variant: Variant, k: int) -> np.ndarray:
        """Rendered block k (one second) of a variant, (48000, 2) float32."""

        def make() -> np.ndarray:
            with self._lock:
                return self._renderer(project, variant).block(k)

        return self._memo(("block", *project.state, variant, k), make)

    def meter(self, project: Project, variant: Variant, k: int) -> Meter:
        """Loudness and true peak of rendered block k."""

        def make() -> Meter:
            before = self.block(project, variant, k - 1) if k else np.zeros((BLOCK_N, CHANNELS), np.float32)
            return metering.meter(before, self.block(project, variant, k), start_n=k * BLOCK_N)

        return self._memo(("meter", *project.state, variant, k), make)

    def lane_peaks(self, project: Project, variant: Variant, k: int) -> dict[int, list[float]]:
        """Peaks in dBFS of every lane that sounds in block k, over each 50 ms, by lane number."""

        def make() -> dict[int, list[float]]:
            with self._lock:
                found = self._renderer(project, variant).lane_peaks(k)
            floor = np.float32(10 ** (SILENCE_DB / 20))
            return {
                lane: np.round(20 * np.log10(np.maximum(peaks, floor)), 1).tolist() for lane, peaks in found.items()
            }

        return self._memo(("lane peaks", *project.state, variant, k), make)

    def _renderer(self, project: Project, variant: Variant) -> Renderer:
        """The renderer of a project as it is now; the caller holds the lock."""
        key = (project.id, project.beside, variant)
        revision, renderer = self._renderers.get(key, (None, None))
        if renderer is None or revision != project.revision:
            renderer = Renderer(self._decided(project).programme, self._library.reader(project), variant)
            self._renderers[key] = (project.revision, renderer)
        return renderer
