"""Starting points of our own for the care of a voice, and what was measured of one as a suggestion,
with its reasons."""

from __future__ import annotations

from dataclasses import dataclass

from jaylantern.core.care.heard import Voice
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.care import Care

STARTS = {
    "close microphone": Care(low_cut=80, evenness=3, soft_s=4, breaths=8),
    "camera microphone in a room": Care(low_cut=100, presence=3, hush=10, evenness=4),
    "telephone": Care(low_cut=150, presence=-2, hush=8, evenness=5, soft_s=4),
}
RUMBLE_DB, RUMBLE_UNDER_DB = -66.0, 12.0  # dBFS; under all of the noise at most: then it is worth cutting
NOISY_DB, NOISIEST_DB = 45.0, 25.0  # noise so little under the words is worth lowering; so little, more of it
HISSES_A_MINUTE, BREATHS_A_MINUTE = 25.0, 2.0  # of talk
UNEVEN_DB = 9.0  # between the louder and the softer words


@dataclass(frozen=True)
class Suggestion:
    """What would help a voice, and why, a line for each part."""

    care: Care
    reasons: tuple[str, ...]

    def beside(self, done: Care) -> Suggestion | None:
        """What of it is not done yet; None for nothing."""
        left = [
            (name, value, reason)
            for (name, value), reason in zip(self.care.plain.items(), self.reasons, strict=True)
            if getattr(done, name) is None
        ]
        if not left:
            return None
        return Suggestion(Care.of({name: value for name, value, _ in left}), tuple(reason for _, _, reason in left))


def suggested(voice: Voice, *, spoken_n: int) -> Suggestion:
    """What was measured of a voice as a suggestion; `spoken_n` samples of it are speech."""
    found: dict[str, float] = {}
    reasons = []
    minutes = max(spoken_n / RATE / 60, 0.1)
    if voice.learnt and voice.rumble_db > max(RUMBLE_DB, voice.noise_db - RUMBLE_UNDER_DB):
        found["low_cut"] = 80
        reasons.append(f"Low cut: rumble under 70 Hz lies at {voice.rumble_db:.0f} dBFS.")
    under_db = voice.speech_db - voice.noise_db
    if voice.learnt and under_db < NOISY_DB:
        found["hush"] = 12 if under_db < NOISIEST_DB else 8
        reasons.append(f"Hush: the noise lies {under_db:.0f} dB under the words.")
    if voice.spread_db > UNEVEN_DB:
        found["evenness"] = 4
        reasons.append(f"Evenness: loud and soft words differ by {voice.spread_db:.0f} dB.")
    for part, amount_db, spans, most, word in (
        ("soft_s", 4, voice.hisses, HISSES_A_MINUTE, "Softer s: s and sh stand out"),
        ("breaths", 8, voice.breaths, BREATHS_A_MINUTE, "Fewer breaths: breaths are heard"),
    ):
        rate = len(spans) / minutes
        if rate > most:
            found[part] = amount_db
            reasons.append(f"{word} {rate:.0f} times a minute of talk.")
    return Suggestion(Care.of(found), tuple(reasons))
