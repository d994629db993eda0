"""What a document from anybody holds: a project archive, a timeline, a list, captions.

The document in it is read in a process of its own (`support/apart.py`), after its size, depth and spelling were looked
at: nothing that stands there can do harm here.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path, PurePosixPath

from jaylantern.core.timeline.imported import ImportedProject, MissingMedia
from jaylantern.errors import InvalidValue, MediaError, Refused
from jaylantern.interchange import captions, document, edl, timeline_in
from jaylantern.interchange.plain import parsed
from jaylantern.support import apart, safe_zip

ARCHIVE, TIMELINE, LIST = ".zip", ".otio", ".edl"
ENDINGS = (ARCHIVE, TIMELINE, LIST)
LARGEST_TEXT_BYTES = 32 << 20
DOCUMENT = "project.json"
WHAT = "project archive"
FOLDERS = ("media", "facts")


def is_project(name: str) -> bool:
    """Is a file of this name a project, not sound or film?"""
    return name.lower().endswith(ENDINGS)


def is_archive(name: str) -> bool:
    """Is a file of this name a project with its media?"""
    return name.lower().endswith(ARCHIVE)


def facts_entry(sha256: str) -> str:
    """Where an archive has what was heard in a medium."""
    return f"facts/{sha256}.npz"


def read(path: Path, name: str, *, fps: Fraction | None = None) -> ImportedProject:
    """The project in a file. Raises MediaError, which says what is wrong with it."""
    return apart.call(read_here, path, name, fps, what=name)


def read_captions(path: Path, name: str) -> captions.FoundCaptions:
    """The captions in a file, read in a process of its own. Raises InvalidValue, which says what is wrong with it."""
    return apart.call(read_captions_here, path, name, what=name)


def read_captions_here(path: Path, name: str) -> captions.FoundCaptions:
    """The same, read in this process."""
    with path.open("rb") as file:
        return captions.read(file.read(captions.LARGEST_BYTES + 1), name)


def read_here(path: Path, name: str, fps: Fraction | None = None) -> ImportedProject:
    """The same, read in this process."""
    if is_archive(name):
        with Archive(path, name=name) as archive:
            return archive.project()
    size = path.stat().st_size
    if not size:
        raise MediaError(f"{name} is empty (0 bytes). Export it again.")
    if size > LARGEST_TEXT_BYTES:
        raise MediaError(f"{name} has {size >> 20} MiB; that is no timeline.")
    text = path.read_bytes()
    try:
        return edl.read(text, name, fps=fps) if name.lower().endswith(LIST) else timeline_in.read(text, name)
    except (InvalidValue, Refused) as error:
        raise MediaError(f"{name} can't be opened: {error}") from error


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

    def project(self) -> ImportedProject:
        """The project in it. Raises MediaError, which says what is wrong with it."""
        text = safe_zip.text(self._zip, self._entries[DOCUMENT], name=self.name, most_bytes=LARGEST_TEXT_BYTES)
        try:
            return document.read(parsed(text, self.name))
        except (InvalidValue, Refused) as error:
            raise MediaError(f"The project in {self.name} can't be read: {error}") from error

    def has(self, wanted: MissingMedia) -> bool:
        """Is the medium in it?"""
        return wanted.entry in self._entries and wanted.entry.startswith("media/")

    def unpack(self, wanted: MissingMedia, target: Path) -> None:
        """Unpack a medium. Raises MediaError where it is damaged."""
        safe_zip.unpack(self._zip, self._entries[wanted.entry], target, name=self.name)

    def heard_in(self, sha256: str) -> bytes | None:
        """What was heard in a medium, as the archive has it; None where it has nothing."""
        entry = self._entries.get(facts_entry(sha256))
        return None if entry is None else safe_zip.text(self._zip, entry, name=self.name)


def _belongs(path: PurePosixPath) -> bool:
    return str(path) == DOCUMENT or (len(path.parts) == 2 and path.parts[0] in FOLDERS)
