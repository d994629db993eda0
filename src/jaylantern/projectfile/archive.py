"""One project as one zip file, with its media or without, to be opened on another machine.

project.zip:  project.json    media/0123456789abcdef talk.wav    facts/0123…cdef.npz

`docs/project-file.md` says what stands in project.json. Under facts/ lies what was heard in the media, so that the same
passages are found on a machine that reckons a little differently.
"""

from __future__ import annotations

import json
import shutil
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from jaylantern.core.timeline.imported import MediaAlias, MissingMedia
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.interchange import document
from jaylantern.projectfile.reading import DOCUMENT, facts_entry
from jaylantern.support import file_names
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

MODE = 0o100600  # of entries, as of files in a data folder


@dataclass(frozen=True)
class Belonging:
    """What belongs to a project beside its clips: media of it, what they were called, what is known of missing ones."""

    media: Sequence[Media] = ()
    aliases: Sequence[MediaAlias] = ()
    missing: Mapping[int, MissingMedia] | None = None


def media_of(project: Project, belonging: Belonging) -> list[Media]:
    """Every medium of a project once: those of its clips, and those that belong to it though no clip shows them."""
    return [*{each.id: each for each in (*(clip.media for _, clip in project.placed()), *belonging.media)}.values()]


def write(
    workspace: Workspace, project: Project, belonging: Belonging, path: Path, *, with_media: bool, progress: Progress
) -> None:
    """Write the archive of a project."""
    media = media_of(project, belonging)
    here = [each for each in media if not each.missing]
    files = [each for each in here if each.tailored is None]  # tailored music is made anew of what it is made of
    entries = {each.id: _entry(each) for each in files} if with_media else {}
    found = document.written(
        project, media=media, aliases=belonging.aliases, missing=belonging.missing, entries=entries
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_STORED) as archive:
        text = json.dumps(found, indent=1, ensure_ascii=False) + "\n"
        archive.writestr(_undated(DOCUMENT, zipfile.ZIP_DEFLATED), text)
        for i, each in enumerate(files, 1):
            folder = workspace.folder.media(each.sha256)
            if (folder / "facts.npz").exists():
                _put(archive, folder / "facts.npz", _undated(facts_entry(each.sha256), zipfile.ZIP_DEFLATED))
            if with_media:
                progress((i - 1) / len(files), f"packing {each.name}")
                _put(archive, folder / "original", _undated(entries[each.id], zipfile.ZIP_STORED))


def _undated(name: str, how: int) -> zipfile.ZipInfo:
    """An entry without a date: the same project is the same file whenever it is written."""
    entry = zipfile.ZipInfo(name)
    entry.compress_type, entry.external_attr = how, MODE << 16
    return entry


def _put(archive: zipfile.ZipFile, source: Path, entry: zipfile.ZipInfo) -> None:
    entry.file_size = source.stat().st_size  # by which its head leaves room enough
    with source.open("rb") as file, archive.open(entry, "w") as out:
        shutil.copyfileobj(file, out, 1 << 20)


def _entry(media: Media) -> str:
    return f"media/{media.sha256[:16]} {file_names.fit(media.name)}"


def size_bytes(workspace: Workspace, media: Sequence[Media]) -> int:
    """How large the archive with these media will be, about."""
    folders = [workspace.folder.media(each.sha256) for each in media if not each.missing]
    return sum((folder / "original").stat().st_size for folder in folders if (folder / "original").exists()) + (1 << 20)
