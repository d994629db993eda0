"""The media of a data folder: what each holds, what is known of its sound; read once and kept while it is used."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np

from jaylantern import pipeline
from jaylantern.core.care.evenness import evened
from jaylantern.core.care.heard import Voice
from jaylantern.core.ducking.media_power import MediaPower, Spectrum
from jaylantern.core.memo import Memo, anew
from jaylantern.core.signal.analysis import CHUNK_N, as_float
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.loudness import KWeighting
from jaylantern.core.signal.sixth_octaves import SixthOctaves
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.voice_track import VoiceTrack
from jaylantern.core.tailoring.grid import Grid, grid_of
from jaylantern.core.tailoring.tailor import Solution, solutions
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.care import Care, Source
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.core.timeline.settings import Settings
from jaylantern.errors import Refused
from jaylantern.library import facts
from jaylantern.library.facts import PROXY_MIME, About
from jaylantern.media.cared import CaredSound, parts_of
from jaylantern.media.probe import probe, timecode_start
from jaylantern.media.sound import Reading, Sound


class Library:
    """Safe to share between threads. `folder_of` answers where the medium of a content hash lies."""

    def __init__(self, folder_of: Callable[[str], Path], memo: Memo = anew) -> None:
        self.folder_of, self._memo = folder_of, memo

    def about(self, media: Media) -> About:
        """What a medium holds; one that is missing holds nothing."""
        if media.missing:
            return About(media.length_n)
        folder = self.folder_of(media.sha256)
        written = facts.described_ns(folder)  # it may have been made again, by another process
        return self._memo(("about", media.sha256, written), lambda: facts.read_about(folder))

    def original(self, media: Media) -> Path:
        """The file as it was brought in."""
        return self.folder_of(media.sha256) / "original"

    def fps(self, media: Media) -> float:
        """Frames a second, 0 where there is no picture."""
        return self.about(media).fps

    def seen_n(self, media: Media) -> int:
        """How long the picture is, in samples, which the sound may outlast; 0 where that is not known. Of a
        medium brought in by an older version the file is asked."""
        about = self.about(media)
        if about.picture_n or not about.has_picture or media.missing:
            return about.picture_n
        return self._memo(
            ("picture length", media.sha256), lambda: probe(self.original(media), name=media.name).picture_n
        )

    def timecode_start(self, media: Media) -> int:
        """Where the medium's own timecode begins, in samples; 0 where it has none."""
        if media.missing or media.tailored is not None:
            return 0
        return self._memo(("timecode", media.sha256), lambda: timecode_start(self.original(media), name=media.name))

    def facts(self, media: Media) -> pipeline.MediaFacts:
        """What decisions need of a medium that has sound."""
        folder = self.folder_of(media.sha256)
        written = facts.written(folder)  # it may have been heard again, by another process
        return self._memo(
            ("facts", media.sha256, written),
            lambda: replace(
                facts.read_facts(folder, self.about(media)),
                key=lambda: self._memo(
                    ("key track", media.sha256, written), lambda: facts.read_key(folder, self.about(media))
                ),
                beats=lambda bars: self.beats(media, bars=bars),
                cared=lambda care: self.cared_power(media, care),
                bands=lambda care: self.bands(media, care),
            ),
        )

    def beats(self, media: Media, *, bars: bool) -> np.ndarray:
        """The beats, or bars, of a medium in media time; none where nobody listened for them."""
        cut = None if media.tailored is None else media.tailored.cut
        sha256 = media.sha256 if media.tailored is None else media.tailored.source
        if not facts.has_features(self.folder_of(sha256)):
            return np.zeros(0, np.int64)
        found = self._memo(
            ("beats", sha256, bars), lambda: self._grid(sha256).bars_n if bars else self._grid(sha256).beats_n
        )  # asked at every change; a grid with all its fits is held for a few pieces only
        return found if cut is None else cut.heard(found)

    def track(self, media: Media) -> VoiceTrack | None:
        """What speech is found from in a medium; None where it has no sound, or is missing."""
        return None if media.missing or not media.has_sound else self.facts(media).track

    def speech(self, media: Media, sensitivity: float) -> Intervals:
        """The speech of a medium, in media time."""
        return self.facts(media).speech(sensitivity, self._memo)

    def heard_as(self, clip: Clip, sensitivity: float) -> tag_suggestions.Evidence:
        """What the sound that a clip shows is like; the clip's media must have sound."""

        def make() -> tag_suggestions.Evidence:
            media = clip.media
            character = self._memo(
                ("character", media.sha256),
                lambda: facts.read_character(self.folder_of(media.sha256), self.about(media)),
            )
            track = self.facts(media).track
            level_db = np.zeros(0, np.float32) if track is None else track.level_db
            return tag_suggestions.evidence(
                character,
                self.speech(media, sensitivity),
                level_db,
                offset_n=clip.offset_n,
                length_n=clip.length_n,
                singing=self.facts(media).singing,
                music=None if track is None else track.music,
            )

        written = facts.written(self.folder_of(clip.media.sha256))
        return self._memo(("heard as", clip.media.sha256, written, clip.offset_n, clip.length_n, sensitivity), make)

    def picture_mime(self, media: Media) -> str:
        """What the picture for the page is, "" while it is being made or where there is none."""
        about = self.about(media)
        if about.has_picture and not about.picture_mime and (self.folder_of(media.sha256) / "picture").exists():
            return PROXY_MIME
        return about.picture_mime

    def sound(self, media: Media) -> Sound:
        """The sound of a medium that has some. Raises Refused for one that is missing."""
        if media.missing:
            raise Refused(f"{media.name} is missing.")
        folder = self.folder_of(media.sha256)

        def opened() -> Sound:
            found = facts.sound_store(folder, self.about(media))
            found.must_be_whole()
            return found

        return self._memo(("sound", media.sha256, facts.described_ns(folder)), opened)

    def has_features(self, media: Media) -> bool:
        """Has tailoring heard this recording?"""
        return facts.has_features(self.folder_of(media.sha256))

    def grid(self, media: Media) -> Grid:
        """The beats of a recording that tailoring has heard, and how well its folds fit."""
        return self._grid(media.sha256)

    def _grid(self, sha256: str) -> Grid:
        return self._memo(("grid", sha256), lambda: grid_of(facts.read_features(self.folder_of(sha256))))

    def solutions(self, media: Media, wish: Wish) -> list[Solution]:
        """The cuts of a recording that answer a wish, the best first. Raises Refused where there are none."""
        sound = self.sound(media)
        return self._memo(("cuts", media.sha256, wish), lambda: solutions(self.grid(media), wish, sound.read))

    def cared_power(self, media: Media, care: Care) -> MediaPower | None:
        """K-weighted powers of a medium that was treated whole; None of one that was not."""
        path = parts_of(self.folder_of(media.sha256), care) / "power.npz"
        if not path.exists():
            return None
        return self._memo(("cared power", media.sha256, care), lambda: facts.read_power(path))

    def bands(self, media: Media, care: Care | None) -> Spectrum | None:
        """Powers of a medium's sixths of an octave; with some care, None of one that was not treated whole."""
        folder = self.folder_of(media.sha256)
        if care is None:
            return self._memo(("bands", media.sha256, None), lambda: facts.read_bands(folder, self.about(media)))
        treated = parts_of(folder, care)
        return self._memo(("bands", media.sha256, care), lambda: facts.bands_kept(treated))

    def treat(self, media: Media, care: Care) -> Iterator[float]:
        """Treat all of a medium, part by part, and keep its powers; answers how much is done, 0 to 1, after each."""
        sound = self.cared(media, care)
        weighting, octaves, found = KWeighting(sound.channels), SixthOctaves(sound.channels), []
        for k, chunk in enumerate(sound.chunks(CHUNK_N), 1):
            found.append(weighting.products(chunk))
            octaves.add(as_float(chunk))
            yield min(1.0, k * CHUNK_N / sound.length_n)
        facts.write_bands(parts_of(self.folder_of(media.sha256), care), octaves.finish())
        facts.save(parts_of(self.folder_of(media.sha256), care) / "power.npz", power=np.concatenate(found))

    def reader(self, project: Project) -> Reading:
        """The function rendering reads a project's sound by."""
        stores: dict[Source, Sound] = {}
        for lane, clip in project.sounding():
            stores[clip.media.id] = self.sound(clip.media)
            care = lane.care_of(clip)
            if care is not None:
                stores[clip.media.id, care] = self.cared(clip.media, care)
        return Reading(stores)

    def voice(self, media: Media) -> Voice:
        """What care needs to know of a medium's sound; heard when it is first asked for."""
        folder = self.folder_of(media.sha256)
        written = facts.written(folder)

        def make() -> Voice:
            speech = self.speech(media, Settings().sensitivity)
            return facts.read_voice(folder, self.sound(media), speech, str(written))

        return self._memo(("voice", media.sha256, written), make)

    def cared(self, media: Media, care: Care) -> CaredSound:
        """The sound of a medium, taken care of."""

        def make() -> CaredSound:
            voice, evenness = self.voice(media), None
            key = self.facts(media).key
            if care.evenness is not None and key is not None:
                evenness = evened(key(), speech_db=voice.speech_db, amount_db=care.evenness)
            return CaredSound(self.sound(media), care, voice, evenness, self.folder_of(media.sha256))

        return self._memo(("cared sound", media.sha256, care, facts.written(self.folder_of(media.sha256))), make)
