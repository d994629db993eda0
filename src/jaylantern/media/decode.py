"""Decoding: any file to a stream of sound at 48 kHz with one or two channels.

Plain files (WAV, FLAC, AIFF) are read by soundfile; all others by PyAV. Sound that is 16-bit at 48 kHz already stays
int16, everything else becomes float32. Time 0 is the start of the file's picture, or of its sound if it has none.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
import soundfile
import soxr

from jaylantern.core.signal.analysis import CHUNK_N, as_float
from jaylantern.core.signal.arrays import rechunked
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media.damaged import Unread
from jaylantern.media.damaged import frames as decoded
from jaylantern.media.downmix import matrix
from jaylantern.media.probe import LONGEST_N, believed_rate, open_media, picture_stream

PLAIN_FORMATS = frozenset({"WAV", "WAVEX", "RF64", "W64", "FLAC", "AIFF"})
UNPACKED = PLAIN_FORMATS - {"FLAC"}
PACKED_N = 4096  # samples of a FLAC block: common practice
INTEGER_SCALE = {"u8": 128.0, "s16": 32768.0, "s32": 2147483648.0}
BEYOND_S = 600  # what a file may be longer than it says
NOTHING = "The sound of this file can't be decoded: it may be damaged."
HOLE_N = 1920  # 40 ms: a jump in timestamps longer than this is filled with silence


def sound_chunks(path: Path, *, name: str, unread: Unread | None = None) -> Iterator[np.ndarray]:
    """Chunks (n, 1 or 2) of int16 or float32 at 48 kHz, all CHUNK_N long but the last.

    Raises MediaError when nothing can be decoded. What can't be decoded in the middle is passed over, silence in its
    place where the file says how long it is, and counted in `unread`; a file that breaks off gives what came before.
    """
    plain, unread = _plain(path), Unread() if unread is None else unread
    blocks = _plain_blocks(plain, name, unread) if plain else _av_blocks(path, name, unread)
    return rechunked(_not_endless(blocks, name), CHUNK_N)


def _not_endless(blocks: Iterator[np.ndarray], name: str) -> Iterator[np.ndarray]:
    """The same blocks. Raises MediaError where they go on beyond the longest a medium may be."""
    done_n = 0
    for block in blocks:
        done_n += len(block)
        if done_n > LONGEST_N:
            raise MediaError(f"{name} lasts longer than {LONGEST_N // RATE // 3600} hours. Bring it in in parts.")
        yield block


def _plain(path: Path) -> soundfile.SoundFile | None:
    """The file opened by soundfile if it is of a plain format, else None."""
    try:
        file = soundfile.SoundFile(str(path))
    except (soundfile.LibsndfileError, RuntimeError):
        return None
    if file.format in PLAIN_FORMATS and file.channels <= 2:
        return file
    file.close()
    return None


def _plain_blocks(file: soundfile.SoundFile, name: str, unread: Unread) -> Iterator[np.ndarray]:
    with file:
        believed_rate(file.samplerate, name=name)
        exact = file.subtype == "PCM_16" and file.samplerate == RATE
        yield from _at_project_rate(
            _reads(file, "int16" if exact else "float32", unread), file.samplerate, file.channels
        )


def _reads(file: soundfile.SoundFile, dtype: str, unread: Unread) -> Iterator[np.ndarray]:
    """What can be read; of a packed file that breaks off all that came before, read in steps of its own blocks."""
    size_n, done_n = CHUNK_N if file.format in UNPACKED else PACKED_N, 0
    try:
        while len(block := file.read(size_n, dtype=dtype, always_2d=True)):
            yield _numbers(block)
            done_n += len(block)
    except soundfile.LibsndfileError:
        unread.packets += 1
        if not done_n:
            raise MediaError(NOTHING) from None


def _numbers(block: np.ndarray) -> np.ndarray:
    """The block with silence where a file of floats holds what is no number: a filter would never forget it."""
    if block.dtype == np.int16 or np.isfinite(block).all():
        return block
    return np.nan_to_num(block, nan=0.0, posinf=0.0, neginf=0.0)


def _at_project_rate(blocks: Iterator[np.ndarray], rate: int, channels: int) -> Iterator[np.ndarray]:
    """Blocks at 48 kHz; untouched if they are already."""
    if rate == RATE:
        yield from blocks
        return
    stream = soxr.ResampleStream(rate, RATE, channels, dtype="float32", quality="HQ")
    for block in blocks:
        yield stream.resample_chunk(as_float(block))
    yield stream.resample_chunk(np.zeros((0, channels), np.float32), last=True)


def _av_blocks(path: Path, name: str, unread: Unread) -> Iterator[np.ndarray]:
    with open_media(path, name) as container:
        if not container.streams.audio:
            return
        stream: Any = container.streams.audio[0]
        stream.thread_type = "AUTO"
        codec = stream.codec_context
        if codec is None:
            return
        rate, count = believed_rate(codec.sample_rate, name=name), codec.channels
        picture = picture_stream(container)
        origin = float((picture.start_time or 0) * (picture.time_base or 0)) if picture is not None else None
        mix = None if count <= 2 else matrix(tuple(c.name for c in codec.layout.channels) or count)
        length_s = container.duration / av.time_base if container.duration else 0
        longest_n = round((length_s + BEYOND_S) * rate)
        frames = _frames(decoded(container, stream, unread), rate, count, origin, longest_n)
        blocks = (as_float(b) @ mix for b in frames) if mix is not None else frames
        done_n = 0
        for block in _at_project_rate(blocks, rate, min(count, 2)):
            done_n += len(block)
            yield block
        if unread.packets and not done_n:
            raise MediaError(NOTHING)


def _frames(found: Iterator[Any], rate: int, count: int, origin: float | None, longest_n: int) -> Iterator[np.ndarray]:
    """Decoded frames as (n, channels), holes in the timestamps filled, what lies before `origin` (s) cut off. Times
    beyond `longest_n` samples are not believed."""
    done_n = 0
    for frame in found:
        if frame.sample_rate != rate or frame.layout.nb_channels != count:
            raise MediaError("The sound changes its format in the middle of the file; convert it to one format first.")
        block = _array(frame, count)
        if frame.time is not None:
            origin = frame.time if origin is None else origin
            ahead_n = round((frame.time - origin) * rate) - done_n
            if done_n + ahead_n > longest_n:
                pass
            elif ahead_n > HOLE_N * rate // RATE or (ahead_n > 0 and done_n == 0):
                for start_n in range(0, ahead_n, CHUNK_N):
                    yield np.zeros((min(CHUNK_N, ahead_n - start_n), count), block.dtype)
                done_n += ahead_n
            elif ahead_n < 0 and done_n == 0:
                block = block[-ahead_n:]
        done_n += len(block)
        yield block


def _array(frame: av.AudioFrame, count: int) -> np.ndarray:
    """Samples (n, channels) of a decoded frame: int16 as it is where it is at the project rate, else float32."""
    raw = frame.to_ndarray()
    samples = raw.T if frame.format.is_planar else raw.reshape(-1, count)
    kind = frame.format.packed.name
    if kind == "s16" and frame.sample_rate == RATE and count <= 2:
        return samples
    if kind in INTEGER_SCALE:
        offset = 128.0 if kind == "u8" else 0.0
        return ((samples - np.float64(offset)) / INTEGER_SCALE[kind]).astype(np.float32)
    return _numbers(samples.astype(np.float32))
