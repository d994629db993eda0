"""Loudness in an MP4: the box `ludt` of the first sound track, which muxers do not write.

ISO/IEC 14496-12, 12.2.7 (the box), ISO/IEC 23003-4, tables 48 and A.48 (how values are coded), both from memory.

moov ─ trak ─ mdia ─ hdlr "soun"
            └ udta ─ ludt ─ tlou      put in here; what lies behind moves, so the offsets of chunks grow by as much
"""

from __future__ import annotations

import math
import shutil
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from jaylantern.core.signal.loudness import Loudness
from jaylantern.support.atomic_file import unfinished

PROGRAMME, MOMENTARY, SHORT_TERM = 1, 4, 5  # method_definition
EBU_R128, ACCURATE = 1, 3  # measurement_system, reliability
LOWEST_LUFS, STEP_LU = -57.75, 0.25
HIGHEST_DBTP, STEPS_A_DB = 20.0, 32
LARGEST_MOOV = 200_000_000
LARGEST_OFFSET = 0xFFFF_FFFF


def put(path: Path, found: Loudness | None) -> bool:
    """Write what the first sound track of a film measures into it; a film whose boxes lie otherwise than we write them
    stays as it is, and False is answered."""
    if found is None or not math.isfinite(found.integrated_lufs):
        return False
    with path.open("rb") as file:
        boxes = list(_top(file))
        places = [each for each in boxes if each[0] == b"moov"]
        if len(places) != 1 or places[0][2] > LARGEST_MOOV:
            return False
        _, at, size = places[0]
        file.seek(at)
        moov = file.read(size)
    first_media = min((start for kind, start, _ in boxes if kind == b"mdat"), default=0)
    made = _with_loudness(moov, box(found), moves=first_media > at)
    if made is None:
        return False
    with unfinished(path) as part, path.open("rb") as file, part.open("wb") as out:  # both closed when it gets its name
        _copy(file, out, at)
        out.write(made)
        file.seek(at + size)
        shutil.copyfileobj(file, out)
    return True


def box(found: Loudness) -> bytes:
    """The box `ludt` with one `tlou` for what a track measures."""
    peak = 0  # not known
    if math.isfinite(found.true_peak_dbtp):
        peak = max(1, min(round((HIGHEST_DBTP - found.true_peak_dbtp) * STEPS_A_DB), 0xFFF))
    measured = [
        (kind, value)
        for kind, value in (
            (PROGRAMME, found.integrated_lufs),
            (MOMENTARY, found.max_momentary_lufs),
            (SHORT_TERM, found.max_short_term_lufs),
        )
        if math.isfinite(value)
    ]
    bits = peak << 8 | (EBU_R128 << 4 | ACCURATE if peak else 0)  # 12 bits of sample peak, not known, stand before
    body = bytes(4) + struct.pack(">H", 0) + bits.to_bytes(4, "big") + bytes([len(measured)])
    for kind, value in measured:
        step = max(0, min(0xFF, round((value - LOWEST_LUFS) / STEP_LU)))
        body += bytes([kind, step, EBU_R128 << 4 | ACCURATE])
    return _box(b"ludt", _box(b"tlou", body))


def _box(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I4s", len(body) + 8, kind) + body


def _top(file: IO[bytes]) -> Iterator[tuple[bytes, int, int]]:
    """The boxes of a file: kind, first byte, size."""
    at = 0
    while True:
        file.seek(at)
        head = file.read(16)
        if len(head) < 8:
            return
        size, kind = struct.unpack_from(">I4s", head)
        if size == 1 and len(head) == 16:
            size = struct.unpack_from(">Q", head, 8)[0]
        if size < 8:
            return
        yield kind, at, size
        at += size


def _inside(data: bytes, at: int, stop: int) -> Iterator[tuple[bytes, int, int]]:
    """The boxes within a box whose content is data[at:stop]: kind, first byte, one after the last."""
    while at + 8 <= stop:
        size, kind = struct.unpack_from(">I4s", data, at)
        if size < 8 or at + size > stop:
            return
        yield kind, at, at + size
        at += size


def _find(data: bytes, at: int, stop: int, *kinds: bytes) -> tuple[int, int] | None:
    """Where the first box lies that such a path leads to."""
    for kind, first, last in _inside(data, at, stop):
        if kind == kinds[0]:
            return (first, last) if len(kinds) == 1 else _find(data, first + 8, last, *kinds[1:])
    return None


def _with_loudness(moov: bytes, ludt: bytes, *, moves: bool) -> bytes | None:
    """The box `moov` with what its first sound track measures; offsets of chunks behind it grown where they move."""
    traks = [(first, last) for kind, first, last in _inside(moov, 8, len(moov)) if kind == b"trak"]
    trak = next((each for each in traks if _sounds(moov, *each)), None)
    if trak is None:
        return None
    first, last = trak
    udta = _find(moov, first + 8, last, b"udta")
    place, put_in = (last, _box(b"udta", ludt)) if udta is None else (udta[1], ludt)
    made = moov[:place] + put_in + moov[place:]
    grown = len(made) - len(moov)
    whole = bytearray(made)
    _grow(whole, 0, grown)
    _grow(whole, first, grown)
    if udta is not None:
        _grow(whole, udta[0], grown)
    return bytes(whole) if not moves or _shifted(whole, grown) else None


def _sounds(moov: bytes, first: int, last: int) -> bool:
    found = _find(moov, first + 8, last, b"mdia", b"hdlr")
    return found is not None and moov[found[0] + 16 : found[0] + 20] == b"soun"


def _grow(data: bytearray, at: int, by: int) -> None:
    struct.pack_into(">I", data, at, struct.unpack_from(">I", data, at)[0] + by)


def _shifted(moov: bytearray, by: int) -> bool:
    """Add to the offset of every chunk; False where one no longer fits."""
    data = bytes(moov)
    for kind, first, last in _inside(data, 8, len(data)):
        if kind != b"trak":
            continue
        stbl = _find(data, first + 8, last, b"mdia", b"minf", b"stbl")
        for name, at, _ in _inside(data, stbl[0] + 8, stbl[1]) if stbl else ():
            form = {b"stco": ">I", b"co64": ">Q"}.get(name)
            if form is None:
                continue
            size = struct.calcsize(form)
            for k in range(struct.unpack_from(">I", data, at + 12)[0]):
                place = at + 16 + k * size
                offset = struct.unpack_from(form, data, place)[0] + by
                if size == 4 and offset > LARGEST_OFFSET:
                    return False
                struct.pack_into(form, moov, place, offset)
    return True


def _copy(source: IO[bytes], out: IO[bytes], count: int) -> None:
    while count > 0:
        data = source.read(min(count, 1 << 20))
        if not data:
            return
        out.write(data)
        count -= len(data)
