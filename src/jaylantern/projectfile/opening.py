"""Opening a project that came as a file: an archive, a timeline, a list. Its media are found, or stay missing.

A medium is looked for by its content, then in the archive, then in folders that were named, then by its name.
"""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

from jaylantern.core.timeline.imported import ImportedProject, MissingMedia
from jaylantern.core.timeline.media import Media
from jaylantern.errors import JayError, MediaError, Refused, Stopped
from jaylantern.library.bringing import bring_in, hash_of
from jaylantern.library.tailored_media import keep
from jaylantern.projectfile import adopting
from jaylantern.projectfile.adopting import Here
from jaylantern.projectfile.reading import Archive, is_archive, is_project, read
from jaylantern.store import media, ours, projects
from jaylantern.support.progress import Progress
from jaylantern.workspace.workspace import Workspace

MOST_SEARCHED = 20_000  # files of the folders that are searched
MOST_NAMED = 4


def open_project(
    workspace: Workspace,
    db: sqlite3.Connection,
    project_id: int,
    path: Path,
    name: str,
    progress: Progress,
    *,
    imported: ImportedProject | None = None,
    folders: Sequence[Path] = (),
) -> Opening:
    """Make an empty project the one in a file, `imported` where it was read before; returns what the person should
    know of it."""
    imported = imported or read(path, name)
    with ExitStack() as stack:
        archive = stack.enter_context(Archive(path, name=name)) if is_archive(name) else None
        if not adopting.untouched(db, project_id):
            raise Refused(adopting.NOT_EMPTY)
        if archive is not None and archive.size_bytes > workspace.folder.free_bytes():
            raise Refused(f"There is not enough room in the data folder for the media of {name}. Free some first.")
        search = _Search(workspace, db, project_id, archive, folders)
        here: dict[int, Here] = {}
        recordings_first = sorted(imported.missing.items(), key=lambda each: each[1].tailored is not None)
        for i, (number, missing) in enumerate(recordings_first):
            share = i / len(imported.missing)

            def searching(done: float, doing: str, share: float = share, name: str = missing.name) -> None:
                progress(share + done / len(imported.missing), f"{name}: {doing}")

            found = search.find(missing, searching)
            if found is not None:
                here[number] = here_of(workspace, found)
    short = adopting.adopt(db, project_id, imported, here)
    gone = [missing.name for number, missing in imported.missing.items() if number not in here]
    return Opening((*imported.remarks, *search.remarks), gone, short)


@dataclass(frozen=True)
class Opening:
    """What should be known of a project that was opened: remarks, files missing by name, clips that were cut short."""

    remarks: Sequence[str]
    missing: Sequence[str]
    short: int

    def in_words(self, where: str) -> str:
        """In words; `where` says what to do about what is missing."""
        return " ".join(filter(None, (*self.remarks, _missing(self.missing, where), _short(self.short))))


def here_of(workspace: Workspace, found: Media) -> Here:
    """A medium with where its own timecode begins, if it has any."""
    begins_n = workspace.library.timecode_start(found)
    return Here(found, (begins_n,) if begins_n else ())


def _missing(names: Sequence[str], where: str) -> str:
    if not names:
        return ""
    said = ", ".join(names[:MOST_NAMED]) + (f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else "")
    return f"{len(names)} file{'s are' if len(names) > 1 else ' is'} missing: {said}. {where}"


def _short(count: int) -> str:
    return f"{count} clip{'s reach' if count > 1 else ' reaches'} beyond what the files hold." if count else ""


class _Search:
    """Where the media of a project are looked for."""

    def __init__(
        self,
        workspace: Workspace,
        db: sqlite3.Connection,
        project_id: int,
        archive: Archive | None,
        folders: Sequence[Path],
    ) -> None:
        self._workspace, self._db, self._project_id = workspace, db, project_id
        self._archive, self._folders = archive, folders
        self._files = list(_files(folders))
        self._hashes: dict[Path, str] = {}
        self.remarks: list[str] = []

    def find(self, missing: MissingMedia, progress: Progress) -> Media | None:
        """The medium, brought in if it was not; None where it is not to be found."""
        known = media.find(self._db, missing.sha256) if missing.sha256 else None
        if known is not None:
            return known
        if missing.tailored is not None:
            return tailored_again(self._workspace, self._db, missing)
        try:
            return self._packed(missing, progress) or self._in_folders(missing, progress) or self._named(missing)
        except Stopped:
            raise
        except JayError as error:
            self.remarks.append(str(error))
            return None

    def _packed(self, missing: MissingMedia, progress: Progress) -> Media | None:
        if self._archive is None or not self._archive.has(missing):
            return None
        same_again = hashlib.sha256(f"{self._project_id} {missing.entry}".encode()).hexdigest()  # also after a kill
        target = self._workspace.folder.incoming(same_again)
        ours.begin(self._db, f"incoming/{same_again}")
        try:
            progress(0.0, "unpacking")
            self._archive.unpack(missing, target)
            if missing.sha256 and hash_of(target, progress) != missing.sha256:
                raise MediaError(f"{missing.name} in {self._archive.name} is not the file the project was made with.")
            return self._bring_in(target, missing, progress)
        finally:
            self._workspace.folder.remove(self._db, f"incoming/{same_again}")

    def _bring_in(self, path: Path, missing: MissingMedia, progress: Progress) -> Media:
        """Of a file that was found to have the missing hash, where there is one; with what was heard in it where the
        project was made, if the archive has it."""
        heard = self._archive.heard_in(missing.sha256) if self._archive and missing.sha256 else None
        return bring_in(
            self._workspace.library, self._db, path, missing.name, progress, sha256=missing.sha256, heard=heard
        )

    def _in_folders(self, missing: MissingMedia, progress: Progress) -> Media | None:
        """By content where the hash is known; else where the address leads, if that is in a folder that was named; else
        by name."""
        if not self._folders:
            return None
        for path in self._likely(missing):
            if missing.sha256:
                if path not in self._hashes:
                    self._hashes[path] = hash_of(path, progress)
                if self._hashes[path] != missing.sha256:
                    continue
            return self._bring_in(path, missing, progress)
        return None

    def _likely(self, missing: MissingMedia) -> list[Path]:
        """The files that may be it, the likeliest first: same name, then same name but for its ending, then, where the
        content tells, all others of the same kind."""
        whole = [path for path in self._files if path.name.casefold() == missing.name.casefold()]
        alike = [path for path in self._files if same_stem(path.name, missing.name) and path not in whole]
        if not missing.sha256:
            parts = [part for part in missing.url.replace("\\", "/").split("/") if part][-2:-1]
            return sorted(whole, key=lambda path: path.parent.name not in parts) or (alike if len(alike) == 1 else [])
        ending = Path(missing.name).suffix.casefold()
        others = [path for path in self._files if path.suffix.casefold() == ending and path not in whole]
        return [*whole, *others, *(path for path in alike if path not in others)]

    def _named(self, missing: MissingMedia) -> Media | None:
        """The only medium of the data folder that was brought in under this name; only where no hash tells another."""
        found = media.called_like(self._db, missing.name) if not missing.sha256 else []
        if len(found) != 1:
            return None
        self.remarks.append(f"{missing.name} was found by its name.")
        return found[0]


def tailored_again(workspace: Workspace, db: sqlite3.Connection, missing: MissingMedia) -> Media | None:
    """Tailored music made anew of its recording; None where that is not here, or no longer what it was."""
    tailoring = missing.tailored
    source = None if tailoring is None else media.find(db, tailoring.source)
    if (
        source is None
        or source.missing
        or tailoring is None
        or any(piece.to_n > source.length_n for piece in tailoring.cut.pieces)
    ):
        return None
    return keep(workspace.library, db, source, tailoring, name=missing.name)


def same_stem(one: str, other: str) -> bool:
    """Are two file names alike but for their endings and capitals?"""
    return Path(one).stem.casefold() == Path(other).stem.casefold()


def _files(folders: Sequence[Path]) -> Iterator[Path]:
    count = 0
    for folder in folders:
        if not folder.is_dir():
            raise MediaError(f"{folder} is not there, or is no folder.")
        for path in sorted(folder.rglob("*")):
            if path.is_file() and not is_project(path.name):
                yield path
                count += 1
                if count >= MOST_SEARCHED:
                    return


def match(missing: dict[int, MissingMedia], *, sha256: str, name: str) -> int | None:
    """Which missing file a file is: by its content, else by its name, else by its name without the ending."""
    by_hash = [number for number, each in missing.items() if each.sha256 == sha256]
    unknown = {number: each for number, each in missing.items() if not each.sha256}
    by_name = [number for number, each in unknown.items() if each.name.casefold() == name.casefold()]
    by_stem = [number for number, each in unknown.items() if same_stem(each.name, name)]
    return next(iter(by_hash or by_name or by_stem), None)


@dataclass(frozen=True)
class Meant:
    """What a file that was brought in takes the place of: a stand-in, and music tailored from it that is here again."""

    number: int
    wanted: MissingMedia
    here: Here
    tailored: Mapping[int, Media]


def meant(
    workspace: Workspace, db: sqlite3.Connection, project_id: int, found: Media, how: int | str, name: str
) -> Meant | None:
    """Which missing file a file is that was brought in; None where it is none of them. What takes time is done here.

    `how` is the number of a stand-in that is meant whatever the file is called, "any" for one of the missing ones by
    content or name, or "" for one by content alone.
    """
    wanted = media.wanted_in(db, project_id)
    if isinstance(how, int):
        number = how if how in wanted else None
    else:
        number = match(wanted, sha256=found.sha256, name=name if how else "")
    if number is None:
        return None
    made = {
        each: again
        for each, missing in media.wanted_in(db, project_id, tailored=True).items()
        if (again := tailored_again(workspace, db, missing)) is not None and again.id != each
    }
    return Meant(number, wanted[number], here_of(workspace, found), made)


def relink(db: sqlite3.Connection, project_id: int, file: Meant, name: str) -> str:
    """Give clips that miss it the file that was meant. Answers in words what was done."""
    found, wanted, short = file.here.media, file.wanted, 0
    if any(clip.media.id == file.number for _, clip in projects.load(db, project_id).placed()):
        short = adopting.relink_media(db, project_id, file.number, file.here, name=name)
    elif not file.tailored and wanted.sha256 not in ("", found.sha256):
        raise Refused(f"Music is tailored from {wanted.name}, and {name} is another recording. Find that very file.")
    else:
        media.remember(db, project_id, found, name=name)
    for made, again in file.tailored.items():
        adopting.relink_media(db, project_id, made, Here(again), name=again.name)
    said = "" if wanted.name == name else f"It takes the place of {wanted.name}."
    if wanted.sha256 not in ("", found.sha256):
        said = f"It is another file than the {wanted.name} the project was made with."
    return " ".join(filter(None, (said, _short(short)))).strip()
