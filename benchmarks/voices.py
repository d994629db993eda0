"""Recorded voices, music and noises from Debian's packages, in two parts: one to choose by, one to report on.

Packages are not fetched here: `apt-get download` those of SPEAKERS and OTHERS into a folder first. Licences, as their
copyright files say: tuxpaint-stamps-default GPL-2+, ktuberling-data GPL-2+ and LGPL-2.1+, hedgewars-data GFDL-1.3 and
GPL-2, drascula and flight-of-the-amazon-queen their own free licences (any use but sale of the game alone),
unknown-horizons CC-BY-SA-3.0 and OFL, supertux-data GPL-2+ and CC-BY-SA-3.0, ardentryst GPL-3+, flare-game
CC-BY-SA-3.0, asterisk-core-sounds-en-g722 and asterisk-moh-opsound-g722 CC-BY-SA-3.0. Nothing of them ships.
"""

from __future__ import annotations

import io
import struct
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import av
import numpy as np
import soxr

from benchmarks.suggestions import unpacked

RATE = 16_000
HOP_N = 160
MOST = 60  # utterances of one speaker
SHORTEST_S, LONGEST_S = 0.6, 9.0
SPEECH_DB = -23.0  # every utterance is brought to this level where it sounds
GAME = "usr/share/games/hedgewars/Data/Sounds"
CRIES = ["Ooff", "Ow", "Jump", "Laugh", "Nooo", "Poison", "Firepunch", "Hmm", "Ouch", "Uh-oh", "Oops", "Kamikaze"]
STAMPS = "usr/share/tuxpaint/stamps"

SPEAKERS: dict[str, list[tuple[str, str, str]]] = {  # part: speaker, package, files
    "choose": [
        *[(f"stamps {word}", "tuxpaint-stamps-default", f"{STAMPS}/**/*_desc_{word}.ogg")
          for word in ("fr", "ru", "ro", "ca", "bg", "es", "be", "el", "da")],
        *[(f"words {word}", "ktuberling-data", f"usr/share/ktuberling/sounds/{word}/*")
          for word in ("de", "it", "nl", "pt", "sv", "fi", "uk", "en")],
        *[(f"lines {name}", "hedgewars-data", f"{GAME}/voices/{name}/*.ogg")
          for name in ("British", "Classic", "Mobster", "Default_es", "Default_ru", "HillBilly")],
    ],
    "report": [
        ("acted, one", "drascula", "usr/share/scummvm/drascula/en/*.ALS"),
        ("acted, two", "flight-of-the-amazon-queen", "usr/share/scummvm/*/queen.1c"),
        ("told", "unknown-horizons", "usr/share/unknown-horizons/content/audio/voice/**/*.ogg"),
        ("prompts", "asterisk-core-sounds-en-g722", "usr/share/asterisk/sounds/en*/[a-d]*.g722"),
        *[(f"lines {name}", "hedgewars-data", f"{GAME}/voices/{name}/*.ogg")
          for name in ("Pirate", "Surfer", "Default", "Default_pl", "Russian", "Default_uk")],
    ],
}  # fmt: skip
OTHERS: dict[str, dict[str, list[tuple[str, str]]]] = {
    "choose": {
        "music": [("hedgewars-data", "usr/share/games/hedgewars/Data/Music/*.ogg"),
                  ("supertux-data", "usr/share/games/supertux2/music/**/*.ogg")],
        "effects": [("supertux-data", "usr/share/games/supertux2/sounds/*.wav"), ("hedgewars-data", f"{GAME}/*.ogg")],
    },
    "report": {
        "music": [("asterisk-moh-opsound-g722", "usr/share/asterisk/moh/*.g722"),
                  ("unknown-horizons", "usr/share/unknown-horizons/content/audio/music/**/*.ogg"),
                  ("ardentryst", "usr/share/games/ardentryst/Music/*.ogg"),
                  ("flare-game", "usr/share/games/flare/mods/fantasycore/music/*.ogg")],
        "effects": [("flare-game", "usr/share/games/flare/mods/fantasycore/soundfx/**/*.ogg"),
                    ("ardentryst", "usr/share/games/ardentryst/Sounds/*.ogg"),
                    ("btanks-data", "**/*.ogg")],
    },
}  # fmt: skip


def _decoded(file: object, *, form: str | None = None, longest_s: float = LONGEST_S + 1) -> np.ndarray:
    """The beginning of a file as mono float32 at 16 kHz."""
    with av.open(file, format=form) as opened:
        rate = RATE if form == "g722" else opened.streams.audio[0].rate
        turn, parts, have = av.AudioResampler("flt", "mono", rate), [], 0
        for frame in opened.decode(audio=0):
            parts += [each.to_ndarray().ravel() for each in turn.resample(frame)]
            have += frame.samples
            if have > longest_s * rate:
                break
    sound = np.concatenate(parts) if parts else np.zeros(0, np.float32)
    return soxr.resample(sound, rate, RATE, quality="HQ").astype(np.float32)


def _queen(path: Path) -> Iterator[np.ndarray]:
    """Spoken lines of a file of that game: a table of names, places and sizes, each line an MP3 file."""
    with path.open("rb") as file:
        _, count = struct.unpack(">12sxH", file.read(15))
        entries = [struct.unpack(">12sxII", file.read(21)) for _ in range(count)]
        for name, at, size in np.random.default_rng(1).permutation(np.array(entries, object))[: 2 * MOST]:
            if name.rstrip(b"\0").endswith(b".SB"):
                file.seek(at)
                yield _decoded(io.BytesIO(file.read(size)), form="mp3")


def _files(path: Path) -> Iterator[np.ndarray]:
    if path.suffix == ".ALS":  # eight bits a sample, 11 025 a second, no head
        raw = (np.frombuffer(path.read_bytes(), np.uint8).astype(np.float32) - 128) / 128
        yield soxr.resample(raw, 11_025, RATE, quality="HQ").astype(np.float32)
    elif path.suffix == ".1c":
        yield from _queen(path)
    else:
        yield _decoded(str(path), form="g722" if path.suffix == ".g722" else None)


def levels(sound: np.ndarray) -> np.ndarray:
    """dBFS of each 10 ms."""
    whole = sound[: len(sound) // HOP_N * HOP_N].reshape(-1, HOP_N)
    return 10 * np.log10(np.mean(np.square(whole, dtype=np.float64), axis=1) + 1e-12)


def spoken(sound: np.ndarray) -> np.ndarray:
    """Where an utterance speaks, by its own level: within 30 dB of its loud moments (25 where its own noise lies
    higher), pauses under 0.3 s counted in, bits under 50 ms left out; a mask of blocks of 10 ms."""
    level = levels(sound)
    if not len(level):
        return np.zeros(0, bool)
    loud, floor = np.percentile(level, 95), np.percentile(level, 3)
    mask = level > max(loud - 30, min(floor + 8, loud - 20))
    return _without_short(~_without_short(~mask, 30), 5)


def _without_short(mask: np.ndarray, blocks: int) -> np.ndarray:
    """The mask without runs shorter than so many blocks, but for those at the ends of it when it is a mask of gaps."""
    out, edges = mask.copy(), np.flatnonzero(np.diff(np.concatenate(([0], mask.astype(np.int8), [0]))))
    for start, stop in edges.reshape(-1, 2):
        if stop - start < blocks and start > 0 and stop < len(mask):
            out[start:stop] = False
    return out


@cache
def speakers(folder: Path, part: str) -> dict[str, list[np.ndarray]]:
    """Utterances of each speaker, mono at 16 kHz, trimmed to what is spoken and brought to one level."""
    out: dict[str, list[np.ndarray]] = {}
    for name, package, files in SPEAKERS[part]:
        root = unpacked(folder, package)
        if root is None:
            print(f"{package} is not in {folder.name}; left out")
            continue
        paths = sorted(path for path in root.glob(files) if path.is_file() and not _is_cry(path))
        np.random.default_rng(1).shuffle(paths)
        kept = out.setdefault(name, [])
        for sound in (sound for path in paths for sound in _files(path)):
            if len(kept) == MOST:
                break
            mask = spoken(sound)
            if not mask.any() or not SHORTEST_S < mask.sum() / 100 < LONGEST_S:
                continue
            first, last = np.flatnonzero(mask)[[0, -1]]
            cut = sound[max(0, first - 3) * HOP_N : (last + 4) * HOP_N]
            kept.append(brought_to(cut, SPEECH_DB))
    return out


def _is_cry(path: Path) -> bool:
    return "voices" in path.parts and any(path.stem.startswith(word) for word in CRIES)


def brought_to(sound: np.ndarray, db: float) -> np.ndarray:
    """A sound whose loud moments (90th percentile of 10 ms) lie at a level, dBFS."""
    return (sound * 10 ** ((db - np.percentile(levels(sound), 90)) / 20)).astype(np.float32)


@cache
def cries(folder: Path, part: str) -> list[np.ndarray]:
    """Wordless shouts, groans, laughter of a part's speakers."""
    root = unpacked(folder, "hedgewars-data")
    if root is None:
        return []
    names = [name.removeprefix("lines ") for name, package, _ in SPEAKERS[part] if package == "hedgewars-data"]
    words = ("Ooff", "Ow", "Jump", "Laugh", "Poison", "Ouch")
    paths = [p for name in names for p in sorted((root / GAME / "voices" / name).glob("*.ogg")) if p.stem[:2] != "Uh"]
    found = [_decoded(str(p)) for p in paths if p.stem.startswith(words)]
    return [brought_to(sound, SPEECH_DB) for sound in found if len(sound) > 0.2 * RATE]


@cache
def others(folder: Path, part: str, kind: str, most: int = 24, longest_s: float = 45) -> list[np.ndarray]:
    """Pieces of music, or effects."""
    out = []
    for package, files in OTHERS[part][kind]:
        root = unpacked(folder, package)
        if root is None:
            print(f"{package} is not in {folder.name}; left out")
            continue
        paths = sorted(path for path in root.glob(files) if path.is_file())
        np.random.default_rng(2).shuffle(paths)
        for path in paths[:most]:
            sound = _decoded(str(path), form="g722" if path.suffix == ".g722" else None, longest_s=longest_s)
            if len(sound) > 0.1 * RATE and np.abs(sound).max() > 1e-3:
                out.append(brought_to(sound, SPEECH_DB))
    return out
