"""A data folder at work: where things lie, and what was decided and rendered lately.

DATA/jaylantern.sqlite3    projects, media, jobs      DATA/queue.sqlite3   work waiting
DATA/media/ab/abcdef…/     one medium (intake.py)     DATA/incoming/       uploads on their way
DATA/exports/12/           files made by job 12       DATA/takes/          voice takes in hand
DATA/secret                key for sessions
"""

from __future__ import annotations

import secrets
import shutil
import sqlite3
import threading
import time
from pathlib import Path

import numpy as np
import platformdirs

from jaylantern import pipeline
from jaylantern.core.mixing import metering
from jaylantern.core.mixing.metering import Meter
from jaylantern.core.mixing.mix import BLOCK_N, CHANNELS, Renderer, Variant
from jaylantern.core.signal.intervals import Intervals
from jaylantern.core.signal.timebase import SILENCE_DB
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.library import ingest
from jaylantern.media.probe import timecode_start
from jaylantern.media.sound import Reading, SoundStore
from jaylantern.store import connection, jobs, projects
from jaylantern.support.recent import Recent
from jaylantern.workspace.mix_loudness import Levels

DATABASE = "jaylantern.sqlite3"
OLD_UPLOAD_S = 24 * 3600
SHARE_FREE_BYTES = 200 * 1024 * 1024


def default_data() -> Path:
    """The data folder of the person's own account."""
    return Path(platformdirs.user_data_dir("jaylantern", appauthor=False))


class Workbench:
    """One data folder, opened. Safe to share between threads; each call opens what it needs."""

    def __init__(self, data: Path) -> None:
        self.data = data
        self._media, self._decided, self._blocks, self._meters = Recent(2000), Recent(16), Recent(96), Recent(500)
        self._lane_peaks, self._heard_as = Recent(500), Recent(5000)
        self.levels = Levels(self)
        self._render = threading.Lock()
        self._renderers: dict[tuple[int, Variant], tuple[int, Renderer]] = {}

    def prepare(self) -> None:
        """Make the folders and bring the database up to date."""
        for name in ("media", "incoming", "exports", "takes"):
            (self.data / name).mkdir(parents=True, exist_ok=True)
        with_connection = self.connect()
        try:
            connection.migrate(with_connection)
            projects.complete(with_connection)
            self._forget_old_uploads(with_connection)
        finally:
            with_connection.close()

    def _forget_old_uploads(self, db: sqlite3.Connection) -> None:
        """Give up files whose parts stopped coming a day ago."""
        for upload in jobs.uploads(db):
            path = self.incoming(upload.token)
            if not path.exists() or time.time() - path.stat().st_mtime > OLD_UPLOAD_S:
                jobs.drop_upload(db, upload.token)
                path.unlink(missing_ok=True)

    def connect(self) -> sqlite3.Connection:
        """A new connection to the database; the caller closes it."""
        return connection.connect(self.data / DATABASE)

    def secret(self) -> bytes:
        """The key that signs sessions, made on first use, readable by its owner only."""
        path = self.data / "secret"
        if not path.exists():
            path.touch(mode=0o600)
            path.write_bytes(secrets.token_bytes(32))
        return path.read_bytes()

    def incoming(self, token: str) -> Path:
        """Where an upload's bytes are collected."""
        return self._named(token, "incoming")

    def take_path(self, token: str) -> Path:
        """Where a take's samples are collected; its WAV file lies beside it."""
        return self._named(token, "takes")

    def _named(self, token: str, folder: str) -> Path:
        """A file called by a token; tokens are ours, never a person's file name."""
        if not token.isalnum():
            raise ValueError("tokens are hexadecimal")
        return self.data / folder / token

    def picture_mime(self, media: Media) -> str:
        """What the picture for the page is, "" while it is being made or where there is none."""
        about = self.about(media)
        if about.has_picture and not about.picture_mime and (self.media_folder(media.sha256) / "picture").exists():
            return ingest.PROXY_MIME
        return about.picture_mime

    def speech(self, media: Media, sensitivity: float) -> Intervals:
        """The speech of a medium, in media time."""
        return pipeline.speech_of(self.facts(media), sensitivity)

    def media_folder(self, sha256: str) -> Path:
        """Where a medium lies."""
        return self.data / "media" / sha256[:2] / sha256

    def export_folder(self, job_id: int) -> Path:
        """Where a job's files lie."""
        return self.data / "exports" / str(job_id)

    def free_bytes(self) -> int:
        """Room left for files, some kept back so that the database can always write."""
        return max(0, shutil.disk_usage(self.data).free - SHARE_FREE_BYTES)

    def about(self, media: Media) -> ingest.About:
        """What a medium holds; one that is missing holds nothing."""
        if media.missing:
            return ingest.About(media.length_n)
        return self._media.get(("about", media.sha256), lambda: ingest.read_about(self.media_folder(media.sha256)))

    def timecode_start(self, media: Media) -> int:
        """Where the medium's own timecode begins, in samples; 0 where it has none."""
        if media.missing:
            return 0
        path = self.media_folder(media.sha256) / "original"
        return self._media.get(("timecode", media.sha256), lambda: timecode_start(path, name=media.name))

    def facts(self, media: Media) -> pipeline.MediaFacts:
        """What decisions need of a medium that has sound."""
        return self._media.get(
            ("facts", media.sha256),
            lambda: ingest.read_facts(self.media_folder(media.sha256), self.about(media)),
        )

    def heard_as(self, clip: Clip, sensitivity: float) -> tag_suggestions.Facts:
        """What the sound that a clip shows is like; the clip's media must have sound."""

        def make() -> tag_suggestions.Facts:
            character = self._media.get(
                ("character", clip.media.sha256),
                lambda: ingest.read_character(self.media_folder(clip.media.sha256), self.about(clip.media)),
            )
            track = self.facts(clip.media).track
            level_db = np.zeros(0, np.float32) if track is None else track.level_db
            speech = self.speech(clip.media, sensitivity)
            return tag_suggestions.facts(character, speech, level_db, offset_n=clip.offset_n, length_n=clip.length_n)

        key = (clip.media.sha256, clip.offset_n, clip.length_n, sensitivity)
        return self._heard_as.get(key, make)

    def load(self, db: sqlite3.Connection, project_id: int) -> tuple[Project, pipeline.Decided]:
        """A project and all that follows from it."""
        project = projects.load(db, project_id)
        return project, self.decided(project)

    def decided(self, project: Project) -> pipeline.Decided:
        """What follows from a project, remembered by its revision."""
        return self._decided.get((project.id, project.revision), lambda: self.decide(project))

    def decide(self, project: Project) -> pipeline.Decided:
        """What follows from a project that is not, or not yet, the kept one; nothing is remembered."""
        sounding = {clip.media.id: clip.media for _, clip in project.sounding()}
        return pipeline.decide(project, {number: self.facts(media) for number, media in sounding.items()})

    def sound(self, media: Media) -> SoundStore:
        """The decoded sound of a medium that has some."""
        return ingest.sound_store(self.media_folder(media.sha256), self.about(media))

    def reader(self, project: Project) -> Reading:
        """The function rendering reads a project's sound by."""
        return Reading({clip.media.id: self.sound(clip.media) for _, clip in project.sounding()})

    def block(self, project: Project, variant: Variant, k: int) -> np.ndarray:
        """Rendered block k (one second) of a variant, (48000, 2) float32."""
        return self._blocks.get((project.id, project.revision, variant, k), lambda: self._rendered(project, variant, k))

    def meter(self, project: Project, variant: Variant, k: int) -> Meter:
        """Loudness and true peak of rendered block k."""
        return self._meters.get((project.id, project.revision, variant, k), lambda: self._metered(project, variant, k))

    def lane_peaks(self, project: Project, variant: Variant, k: int) -> dict[int, list[float]]:
        """Peaks in dBFS of every lane that sounds in block k, over each 50 ms, by lane number."""
        return self._lane_peaks.get(
            (project.id, project.revision, variant, k), lambda: self._peaks_of_lanes(project, variant, k)
        )

    def _peaks_of_lanes(self, project: Project, variant: Variant, k: int) -> dict[int, list[float]]:
        with self._render:
            found = self._renderer(project, variant).lane_peaks(k)
        floor = np.float32(10 ** (SILENCE_DB / 20))
        return {lane: np.round(20 * np.log10(np.maximum(peaks, floor)), 1).tolist() for lane, peaks in found.items()}

    def _metered(self, project: Project, variant: Variant, k: int) -> Meter:
        before = self.block(project, variant, k - 1) if k else np.zeros((BLOCK_N, CHANNELS), np.float32)
        return metering.meter(before, self.block(project, variant, k), start_n=k * BLOCK_N)

    def _rendered(self, project: Project, variant: Variant, k: int) -> np.ndarray:
        with self._render:
            return self._renderer(project, variant).block(k)

    def _renderer(self, project: Project, variant: Variant) -> Renderer:
        """The renderer of a project as it is now; the caller holds the lock."""
        revision, renderer = self._renderers.get((project.id, variant), (None, None))
        if renderer is None or revision != project.revision:
            renderer = Renderer(self.decided(project).programme, self.reader(project), variant)
            self._renderers[project.id, variant] = (project.revision, renderer)
        return renderer
