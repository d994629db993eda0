"""The ear: two networks hear the same stream side by side, each on a core of its own where there are two.

The one knows voice (`voice_network.py`), the other tells speech, singing and music apart (`event_network.py`); how
they are weighed against each other stands in `core/speech/fusion.py`. The spectra of the second also serve the band
levels that words are set by.
"""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor

import numpy as np

from jaylantern.core.speech import fusion, prominence
from jaylantern.detect.event_network import EMPHASIS, FRAME_N, MUSIC, SINGING, EventNetwork, Spectra, bin_hz
from jaylantern.detect.protocol import BLOCK_N, Answers, Floats, Heard
from jaylantern.detect.voice_network import FRAME_N as VOICE_FRAME_N
from jaylantern.detect.voice_network import VoiceNetwork

BEFORE_N = (FRAME_N - BLOCK_N) // 2  # silence ahead, so that each spectrum lies around a block of 10 ms
MOST_WAITING = 2  # parts of the stream on their way to a network


class NetworkEar:
    """An Ear of two networks, for a stream of so many blocks."""

    def __init__(self, blocks: int) -> None:
        self._blocks = blocks
        self._voice, self._spectra, self._events = VoiceNetwork(), Spectra(), EventNetwork()
        self._bands = prominence.band_weights(bin_hz(), EMPHASIS)
        self._voiced = Answers(np.zeros(-(-blocks * BLOCK_N // VOICE_FRAME_N), np.float32))
        self._told = Answers(np.zeros((blocks, 3), np.float32))
        self._levels = Answers(np.zeros((blocks, self._bands.shape[1]), np.float16))
        self._count_n = 0
        self._voice_core, self._event_core = ThreadPoolExecutor(1, "voice"), ThreadPoolExecutor(1, "events")
        self._waiting: list[tuple[Future[None], Future[None]]] = []
        self._tell(np.zeros(BEFORE_N, np.float32))

    def add(self, samples: Floats) -> None:
        """Hear the next samples, (n,)."""
        self._count_n += len(samples)
        while len(self._waiting) >= MOST_WAITING:
            self._wait()
        voiced = self._voice_core.submit(self._hear_voice, samples)
        self._waiting.append((voiced, self._event_core.submit(self._tell, samples)))

    def finish(self) -> Heard:
        """What was heard; the sound is taken to be silent after its end."""
        voice, events, band_db = self.answers()
        speech = fusion.speech_probability(voice, events)
        return Heard(speech, events[:, SINGING], events[:, MUSIC], band_db)

    def answers(self) -> tuple[Floats, Floats, prominence.Levels]:
        """What each network said of every 10 ms, (blocks,) and (blocks, 3), and the band levels; ends the stream."""
        while self._waiting:
            self._wait()
        self._voice_core.shutdown()
        self._event_core.shutdown()
        self._voiced.take(self._voice.finish())
        rest_n = -(-self._count_n // BLOCK_N) * BLOCK_N - self._count_n
        self._tell(np.zeros(rest_n + FRAME_N - BLOCK_N - BEFORE_N, np.float32))
        self._take(self._spectra.finish())
        self._told.take(self._events.finish())
        voice = fusion.per_block(self._voiced.whole(), self._blocks, frame_blocks=VOICE_FRAME_N / BLOCK_N)
        return voice, self._told.whole(), self._levels.whole()

    def _wait(self) -> None:
        for each in self._waiting.pop(0):
            each.result()

    def _hear_voice(self, samples: Floats) -> None:
        self._voiced.take(self._voice.add(samples))

    def _tell(self, samples: Floats) -> None:
        for power in self._spectra.add(samples):
            self._take(power)

    def _take(self, power: Floats) -> None:
        self._levels.take(prominence.levels_of(power @ self._bands))
        self._told.take(self._events.add(power))
