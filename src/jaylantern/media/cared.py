"""The sound of a voice that is taken care of: treated from the decoded sound when it is first read, a part at a time,
and kept in files, so that no export and no second listening does it again.

care-DIGEST/K.f32    samples [K·PART_N, (K + 1)·PART_N) of the treated medium, float32, interleaved
"""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Hashable, Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from jaylantern.core.care.frames import HOP_N
from jaylantern.core.care.heard import Voice
from jaylantern.core.care.treatment import REACH_N, Treatment
from jaylantern.core.ducking.curve import Curve
from jaylantern.core.timeline.care import Care
from jaylantern.media.sound import Sound, spans
from jaylantern.support.atomic_file import whole

PART_N = 230 * HOP_N  # some 2.5 s: with its surroundings 2^17 samples, as long as a transform
MOST_CARES = 8  # treated sounds kept of one medium: those made last
VERSION = 1  # of the treatment: another makes the files anew


def parts_of(folder: Path, care: Care) -> Path:
    """Where the treated parts of the medium of a folder lie, and power.npz once all of them are there."""
    return folder / f"care-{hashlib.sha256(f'{VERSION} {care.text}'.encode()).hexdigest()[:16]}"


@dataclass(frozen=True, eq=False)
class CaredSound:
    """As a `SoundStore`: the sound of a medium, treated; `folder` is the medium's own."""

    source: Sound
    care: Care
    voice: Voice
    evenness: Curve | None
    folder: Path
    _treatment: list[Treatment] = field(default_factory=list, repr=False)

    def __getstate__(self) -> dict[str, object]:
        return {**vars(self), "_treatment": []}  # made anew where it is needed

    @property
    def channels(self) -> int:
        """As the medium."""
        return self.source.channels

    @property
    def length_n(self) -> int:
        """As the medium."""
        return self.source.length_n

    @property
    def key(self) -> Hashable:
        """What it is of, and what is done to it."""
        return self.source.key, self.care

    @property
    def parts(self) -> Path:
        """Where its treated parts lie."""
        return parts_of(self.folder, self.care)

    def read(self, start_n: int, stop_n: int) -> np.ndarray:
        """float32 samples [start_n, stop_n), shape (n, channels); silence past the end."""
        out = np.zeros((stop_n - start_n, self.channels), np.float32)
        last_n = min(stop_n, self.length_n)
        for k in range(start_n // PART_N, -(-last_n // PART_N)):
            begin = k * PART_N
            lo, hi = max(start_n, begin), min(last_n, begin + PART_N)
            self._read_part(k, lo - begin, hi - begin, out[lo - start_n : hi - start_n])
        return out

    def chunks(self, size_n: int) -> Iterator[np.ndarray]:
        """The whole sound in blocks of `size_n` samples, the last as short as it must be."""
        return (self.read(*span) for span in spans(self.length_n, size_n))

    def mapped(self) -> CaredSound:
        """The same, the medium read without a copy."""
        return CaredSound(self.source.mapped(), self.care, self.voice, self.evenness, self.folder)

    def must_be_whole(self) -> None:
        """Raises Damaged where the medium is not whole; what was treated of it is made again where it is read."""
        self.source.must_be_whole()

    def _read_part(self, k: int, first: int, last: int, out: np.ndarray) -> None:
        """Rows [first, last) of a part into an array; made, and kept, where its file is missing or not whole."""
        path, row = self.parts / f"{k}.f32", 4 * self.channels
        try:
            with path.open("rb", buffering=0) as file:
                if os.fstat(file.fileno()).st_size == PART_N * row:
                    file.seek(first * row)
                    if file.readinto(out.data) == (last - first) * row:
                        return
        except FileNotFoundError:
            pass
        made = self._made(k)
        out[:] = made[first:last]
        with suppress(FileNotFoundError):  # another made room meanwhile: what is not kept is made again
            if not self.parts.exists():
                self._make_room()
            self.parts.mkdir(parents=True, exist_ok=True)
            whole(path, lambda part: made.tofile(part))

    def _made(self, k: int) -> np.ndarray:
        if not self._treatment:
            self._treatment.append(Treatment(self.care, self.voice, self.evenness, size_n=PART_N))
        first_n, last_n = k * PART_N - REACH_N, (k + 1) * PART_N + REACH_N
        sound = self.source.read(max(0, first_n), last_n)
        around = np.pad(sound, ((last_n - first_n - len(sound), 0), (0, 0)))
        return self._treatment[0].of(around, k * PART_N)

    def _make_room(self) -> None:
        """Leave the treated sounds that were made last, and room for one more."""
        kept = sorted(self.folder.glob("care-*"), key=lambda path: path.stat().st_mtime, reverse=True)
        for old in kept[MOST_CARES - 1 :]:
            shutil.rmtree(old, ignore_errors=True)
