"""One project as one zip file, with its media or without, to be opened on another machine.

project.zip:  project.json    media/0123456789abcdef talk.wav    facts/0123…cdef.npz

`docs/project-file.md` says what stands in project.json. Under facts/ lies what was heard in the media, so that the same
passages are found on a machine that reckons a little differently.
"""

from __future__ import annotations

import json
import re
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from jaylantern.core.timeline.imported import ImportedProject, MediaAlias, MissingMedia
from jaylantern.core.timeline.media import Media
from jaylantern.core.timeline.project import Project
from jaylantern.errors import InvalidValue, MediaError, Refused
from jaylantern.interchange import document
from jaylantern.interchange.plain import parsed
from jaylantern.support import safe_zip
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

DOCUMENT = "project.json"
WHAT = "project archive"
FOLDERS = ("media", "facts")


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
        archive.writestr(DOCUMENT, json.dumps(found, indent=1, ensure_ascii=False) + "\n", zipfile.ZIP_DEFLATED)
        for i, each in enumerate(files, 1):
            folder = workspace.folder.media(each.sha256)
            if (folder / "facts.npz").exists():
                archive.write(folder / "facts.npz", _facts(each.sha256), zipfile.ZIP_DEFLATED)
            if with_media:
                progress((i - 1) / len(files), f"packing {each.name}")
                archive.write(folder / "original", entries[each.id])


def _entry(media: Media) -> str:
    plain = " ".join(re.sub(r'[<>:"/\\|?*\x00-\x1f\x7f]+', " ", media.name).split()).strip(" .")[:120]
    return f"media/{media.sha256[:16]} {plain or 'file'}"


def _facts(sha256: str) -> str:
    return f"facts/{sha256}.npz"


def size_bytes(workspace: Workspace, media: Sequence[Media]) -> int:
    """How large the archive with these media will be, about."""
    folders = [workspace.folder.media(each.sha256) for each in media if not each.missing]
    return sum((folder / "original").stat().st_size for folder in folders if (folder / "original").exists()) + (1 << 20)


class Archive:
    """A project archive open for reading: its project, and its media to be unpacked one by one."""

    def __init__(self, path: Path, *, name: str) -> None:
        """Raises MediaError for a file that is none, or holds what does not belong in one."""
        self.name = name
        self._zip = safe_zip.opened(path, name=name, what=WHAT)
        try:
            entries = safe_zip.checked(self._zip, name=name, what=WHAT, belongs=_belongs)
            self._entries = {entry.filename: entry for entry in entries}
            if DOCUMENT not in self._entries:
                raise MediaError(f"{name} is no {WHAT}: there is no {DOCUMENT} in it.")
            self.imported = _document(safe_zip.text(self._zip, self._entries[DOCUMENT], name=name), name)
        except BaseException:
            self._zip.close()
            raise

    def __enter__(self) -> Archive:
        return self

    def __exit__(self, *_: object) -> None:
        self._zip.close()

    @property
    def size_bytes(self) -> int:
        """What its media come to when they are unpacked."""
        return sum(entry.file_size for entry in self._entries.values())

    def has(self, wanted: MissingMedia) -> bool:
        """Is the medium in it?"""
        return wanted.entry in self._entries and wanted.entry.startswith("media/")

    def unpack(self, wanted: MissingMedia, target: Path) -> None:
        """Unpack a medium. Raises MediaError where it is damaged."""
        safe_zip.unpack(self._zip, self._entries[wanted.entry], target, name=self.name)

    def facts(self, sha256: str) -> bytes | None:
        """What was heard in a medium, as the archive has it; None where it has nothing."""
        entry = self._entries.get(_facts(sha256))
        return None if entry is None else safe_zip.text(self._zip, entry, name=self.name)


def _belongs(path: PurePosixPath) -> bool:
    return str(path) == DOCUMENT or (len(path.parts) == 2 and path.parts[0] in FOLDERS)


def _document(text: bytes, name: str) -> ImportedProject:
    try:
        return document.read(parsed(text, name))
    except (InvalidValue, Refused) as error:
        raise MediaError(f"The project in {name} can't be read: {error}") from error
