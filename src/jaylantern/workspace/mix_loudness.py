"""How loud things are: the finished mix, rendered and measured; what it is made of; single clips. All remembered."""

from __future__ import annotations

import threading
from collections.abc import Callable, Collection, Hashable
from contextlib import closing
from itertools import pairwise

import numpy as np

from jaylantern.core.ducking import clearance
from jaylantern.core.ducking.clearance import Parts
from jaylantern.core.ducking.gain_line import over_media
from jaylantern.core.ducking.media_power import MediaPower, of_clips
from jaylantern.core.mixing import matching
from jaylantern.core.mixing.mix import BLOCK_N, Programme, picked
from jaylantern.core.mixing.mix_metering import Level, RangeMeasure, joined
from jaylantern.core.mixing.render_fingerprint import contents
from jaylantern.core.signal.arrays import scaled
from jaylantern.core.signal.timebase import db_to_amplitude
from jaylantern.core.signal.true_peak import TruePeakMeter
from jaylantern.core.timeline.care import Care, Source
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Stopped
from jaylantern.library.library import Library
from jaylantern.media.sound import Reading, Sound
from jaylantern.pipeline import DuckingResult, powers_of
from jaylantern.render import pool
from jaylantern.render.worker import Measured
from jaylantern.workspace.memo import Memo


class MixLoudness:
    """Measures projects. Safe to share between threads. `result` answers what follows from one."""

    def __init__(self, library: Library, result: Callable[[Project], DuckingResult], memo: Memo) -> None:
        self._library, self._decided, self._memo = library, result, memo
        self._measuring = threading.Lock()
        self._newest: dict[int, int] = {}  # by project: the newest revision that was asked for
        self._share: dict[int, float] = {}  # by project: how much of the mix has been measured

    def mix(self, project: Project) -> Level:
        """The finished mix. Raises Stopped when a newer state of the project has been asked for meanwhile."""
        self._newest[project.id] = max(project.revision, self._newest.get(project.id, 0))

        def still(share: float = 0.0) -> None:
            self._share[project.id] = share
            if self._newest[project.id] > project.revision:
                raise Stopped("The project has changed.")

        def make() -> Level:
            return self._measured(self._decided(project).programme, self._library.reader(project), still)

        with self._measuring:
            still()
            return self._memo(("mix", project.id, project.revision), make)

    def of(self, project: Project, result: DuckingResult) -> Level:
        """The mix of a project that is handed off, with what follows from it, whatever is the newest state."""
        return self._measured(result.programme, self._library.reader(project), lambda _share: None)

    def _measured(self, prog: Programme, read: Reading, still: Callable[[float], None]) -> Level:
        """The mix of a programme; of its ranges only those are measured that have changed."""
        length_n = prog.length_n
        spans = list(pairwise([*range(0, length_n, pool.CHUNK_N), length_n]))
        keys = {span: self._key(prog, read, *span) for span in spans}
        found: dict[tuple[int, int], RangeMeasure | None] = {span: self._memo.peek(key) for span, key in keys.items()}
        missing = [span for span, known in found.items() if known is None]
        measure = Measured(prog, read)
        if pool.worth_while(sum(stop_n - start_n for start_n, stop_n in missing)):
            made = (each.summary for each in pool.chunks(measure, missing))
        else:
            made = (measure(*span) for span in missing)
        with closing(made):
            for span, measured in zip(missing, made, strict=True):
                found[span] = measured
                self._memo.keep(keys[span], measured)
                still(sum(known is not None for known in found.values()) / len(spans))
        return joined([known for span in spans if (known := found[span]) is not None], length_n)

    def _key(self, prog: Programme, read: Reading, start_n: int, stop_n: int) -> tuple[Hashable, ...]:
        """What the measure of a stretch depends on; a medium is known by the key of its sound."""
        kept_in = {number: store.key for number, store in read.stores.items()}
        return "mix range", contents(prog, start_n, stop_n, kept_in), start_n, stop_n, stop_n == prog.length_n

    def share(self, project_id: int) -> float:
        """How much of a project's mix is measured by now, 0 to 1."""
        return self._share.get(project_id, 0.0)

    def parts(self, project: Project) -> Parts:
        """The K-weighted powers of what the mix is made of."""
        decided = self._decided(project)
        return clearance.parts(project, decided.plan, self._powers(project), decided.levels(), self._memo)

    def _powers(self, project: Project) -> dict[Source, MediaPower]:
        sounding = {clip.media.id: clip.media for _, clip in project.sounding()}
        return powers_of(project, {number: self._library.facts(media) for number, media in sounding.items()})

    def loud(self, project: Project) -> dict[int, matching.Loud]:
        """How loud every clip that sounds is by itself, before anything gives way, by its number."""
        clips = of_clips(project, self._powers(project), memo=self._memo)
        return {clip.id: matching.Loud(clip.id, clip.gain_db, power) for _, clip, _, power in clips}

    def clips(self, project: Project, wanted: Collection[int]) -> dict[int, matching.Level]:
        """The same of some clips, with their peaks, for which all of their sound is read when first asked for."""
        found = {}
        for lane, clip, _, power in of_clips(project, self._powers(project), memo=self._memo):
            if clip.id not in wanted:
                continue
            amplitude = db_to_amplitude(lane.gain_db + clip.gain_db)
            sample, true = self._peaks(clip, lane.care_of(clip))
            found[clip.id] = matching.Level(clip.id, clip.gain_db, power, sample * amplitude, true * amplitude)
        return found

    def _peaks(self, clip: Clip, care: Care | None) -> tuple[float, float]:
        """Largest sample and true peak, as amplitudes, of what a clip shows of its medium."""
        treated = care is not None and self._library.cared_power(clip.media, care) is not None
        sound = self._library.cared(clip.media, care) if care and treated else self._library.sound(clip.media)
        key = (
            "clip peaks",
            clip.media.sha256,
            clip.offset_n,
            clip.length_n,
            clip.channels,
            clip.line,
            care if treated else None,
        )
        return self._memo(key, lambda: self._peaks_of(clip, sound))

    def _peaks_of(self, clip: Clip, store: Sound) -> tuple[float, float]:
        line = over_media(clip.line)
        meter, sample, stop_n = None, 0.0, clip.offset_n + clip.length_n
        for at in range(clip.offset_n, stop_n, BLOCK_N):
            sound = picked(store.read(at, min(at + BLOCK_N, stop_n)), clip.channels)
            gains = line.amplitudes(at, at + len(sound))
            sound = scaled(sound, gains) if isinstance(gains, np.ndarray) else sound * np.float32(gains)
            meter = meter or TruePeakMeter(sound.shape[1])
            meter.add(sound)
            sample = max(sample, float(sound.max()), -float(sound.min()))
        return sample, meter.finish() if meter else 0.0
