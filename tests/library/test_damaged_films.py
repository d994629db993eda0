"""Films of which a part can't be read: the rest is taken, and it is said. What the disk says is told as the disk's."""

from __future__ import annotations

import errno

import av
import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.jobs.work import _said
from jaylantern.library import ingest
from jaylantern.media.damaged import in_words
from jaylantern.support import disk
from tests import films, sounds

SECONDS = 4
NO_PICTURE = "Its picture can't be read: the file may be damaged. The rest was taken."
NO_SOUND = "Its sound can't be read: the file may be damaged. The rest was taken."
SOME_SOUND = "A part of its sound can't be read: the file may be damaged or cut short."


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    """A film of four seconds, its bytes, and where the packets of each kind lie in it."""
    path = films.write_film(
        tmp_path_factory.mktemp("film") / "film.mp4", seconds=SECONDS, sound=sounds.noise(seconds=SECONDS, channels=1)
    )
    with av.open(str(path)) as container:
        packets = [(p.stream.type, p.pos, p.size) for p in container.demux() if p.size and p.pos is not None]
    return path.read_bytes(), packets


def spoiled(film, kind: str, part: slice, *, by: str = "noise") -> bytes:
    data, packets = bytearray(film[0]), film[1]
    chosen = list(enumerate(each for each in packets if each[0] == kind))[part]
    for number, (_, at, size) in chosen:  # the same noise wherever the packet lies: some noise can be decoded
        data[at : at + size] = np.random.default_rng(number).bytes(size) if by == "noise" else bytes(size)
    return bytes(data)


@pytest.mark.parametrize(
    ("kind", "part", "by", "has", "remark"),
    [
        ("video", slice(0), "noise", (True, True), ""),
        ("video", slice(None), "noise", (True, False), NO_PICTURE),
        ("video", slice(None), "zeros", (True, False), NO_PICTURE),
        ("video", slice(0, 1), "noise", (True, True), ""),  # its first second is grey, the rest is there
        ("video", slice(50, None), "noise", (True, True), ""),
        ("audio", slice(None), "noise", (False, True), NO_SOUND),
        ("audio", slice(20, 60), "noise", (True, True), SOME_SOUND),
    ],
)
def test_what_can_be_read_is_taken_and_the_rest_is_said(film, tmp_path, kind, part, by, has, remark):
    (tmp_path / "in.mp4").write_bytes(spoiled(film, kind, part, by=by))
    about = ingest.take_in(
        tmp_path / "in.mp4", name="in.mp4", folder=tmp_path / "folder", progress=lambda share, doing: None
    )
    assert ((about.has_sound, about.has_picture), about.remark) == (has, remark)
    assert abs(about.length_n - SECONDS * RATE) < RATE // 10
    if about.has_sound:
        assert abs(about.sound_n - SECONDS * RATE) < RATE // 10  # what follows a hole stays where it was


def test_of_a_film_of_which_nothing_can_be_read_it_is_said_why(film, tmp_path):
    data = spoiled((spoiled(film, "video", slice(None)), film[1]), "audio", slice(None))
    (tmp_path / "in.mp4").write_bytes(data)
    with pytest.raises(MediaError, match="can't be decoded"):
        ingest.take_in(tmp_path / "in.mp4", name="in.mp4", folder=tmp_path / "f", progress=lambda share, doing: None)


@pytest.mark.parametrize(
    ("number", "kind", "words"),
    [
        (errno.EPERM, MediaError, "film.mp4 can't be read: it may be damaged or cut short."),
        (errno.EINVAL, MediaError, "film.mp4 can't be read"),
        (errno.ENOSPC, OSError, "no space is left on the disk; free some"),
        (errno.EROFS, OSError, "not read-only"),
    ],
)
def test_trouble_with_the_file_is_not_told_as_trouble_of_the_disk(number, kind, words):
    with pytest.raises(kind) as told, in_words("film.mp4"):
        av.error.err_check(-number)
    assert words in _said(told.value)


@pytest.mark.parametrize(
    ("error", "words"),
    [
        (OSError(errno.ENOSPC, "No space left on device"), "no space is left on the disk; free some."),
        (OSError(errno.EACCES, "Permission denied"), "check its rights."),
        (FileNotFoundError(errno.ENOENT, "No such file or directory", "a/b"), "no such file or directory: a/b."),
    ],
)
def test_the_disk_is_told_by_what_it_says(error, words):
    assert disk.trouble(error).startswith("The data folder can't be used: ")
    assert disk.trouble(error).endswith(words)
