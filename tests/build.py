"""Core projects for tests, built without disk or database."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from jaylantern import commands
from jaylantern.core.ducking.media_power import MediaPower
from jaylantern.core.ducking.passages import Passage
from jaylantern.core.signal.loudness import KWeighting
from jaylantern.core.signal.signal_level import HOP_N, level_db, mean_squares
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings
from jaylantern.core.timeline.tag import Tag
from jaylantern.pipeline import MediaFacts
from jaylantern.store import edits, projects
from jaylantern.store import media as brought
from jaylantern.store.connection import atomic, next_id
from jaylantern.store.difference import difference


def passage(start_s: float, stop_s: float) -> Passage:
    """A passage in seconds."""
    return Passage(round(start_s * RATE), round(stop_s * RATE))


def media(number: int, seconds: float, name: str = "", **kind: bool) -> Media:
    """A medium with sound unless said otherwise."""
    return Media(number, f"{number:064d}", name or f"file {number}.wav", round(seconds * RATE),
                 kind.get("has_sound", True), kind.get("has_picture", False))  # fmt: skip


def clip(
    number: int, of: Media, *, start_s: float = 0, offset_s: float = 0, length_s: float | None = None, **more
) -> Clip:
    """A clip in seconds, whole unless said otherwise."""
    offset_n = round(offset_s * RATE)
    length_n = of.length_n - offset_n if length_s is None else round(length_s * RATE)
    return Clip(number, of.name, of, round(start_s * RATE), offset_n, length_n, **more)


def lane(number: int, tag: Tag, *clips: Clip, **more) -> Lane:
    """A sound lane."""
    return Lane(number, f"lane {number}", LaneKind.SOUND, tag, clips=clips, **more)


def project(*lanes: Lane, **settings: float) -> Project:
    """A project of lanes, with some settings changed."""
    return Project(1, "Test", 1, lanes, Settings().changed(settings))


def voice_track(spans_s: list[tuple[float, float]], seconds: float) -> VoiceTrack:
    """What the detector would have said of speech at −20 dBFS in these stretches over silence."""
    probability = np.zeros(-(-round(seconds * RATE) // HOP_N), np.float32)
    level = np.full(-(-round(seconds * RATE) // HOP_N), -80, np.float32)
    for start_s, stop_s in spans_s:
        probability[round(start_s * RATE) // HOP_N : -(-round(stop_s * RATE) // HOP_N)] = 0.98
        level[round(start_s * 100) : round(stop_s * 100)] = -20
    return VoiceTrack(probability, level, round(seconds * RATE))


def facts(track: VoiceTrack | None, sound: np.ndarray) -> MediaFacts:
    """What decisions need of a medium with this voice track and sound (n, channels)."""
    return MediaFacts(track, MediaPower(KWeighting(sound.shape[1]).products(sound)))


def facts_without_voice(sound: np.ndarray) -> MediaFacts:
    """Facts of a sound in which no frame is voice."""
    levels = level_db(mean_squares(sound)).astype(np.float32)
    frames = np.zeros(-(-len(sound) // HOP_N), np.float32)
    return facts(VoiceTrack(frames, levels, len(sound)), sound)


def reader(*sounds: np.ndarray):
    """A reader over arrays (n, channels): medium 1 is the first."""

    def read(media_id: int, start_n: int, stop_n: int) -> np.ndarray:
        sound = sounds[media_id - 1]
        part = sound[max(start_n, 0) : max(stop_n, 0)]
        return np.pad(part, ((0, stop_n - start_n - len(part)), (0, 0)))

    return read


def place(db, project_id: int, found: Media, *, name: str, at_n: int = 0) -> None:
    """Bring a medium into a project, and lay it on lanes of its own."""
    brought.remember(db, project_id, found, name=name)
    commands.do(db, project_id, "place", {"media_id": found.id, "name": name, "at_n": at_n})


def rewrite(db, project_id: int, edit: Callable[[Project, Callable[[], int]], Project]) -> None:
    """Make a project what an edit answers, as one step of its history."""
    before = projects.load(db, project_id)
    with atomic(db):
        after = edit(before, lambda: next_id(db))
        edits.perform(db, project_id, "Rewrite", difference(before, after))
