"""How often suggested tags are right, on speech, music, effects and ambience from Debian's packages.

Packages are not fetched here: `apt-get download` those of SOURCES into a folder first. The thresholds were chosen
looking at the same files, so the table says how far they part the kinds, not how they do on kinds never seen.
"""

from __future__ import annotations

import json
import random
import subprocess
from collections import Counter
from collections.abc import Iterator
from dataclasses import asdict
from pathlib import Path

import av
import numpy as np
import soxr

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.speech.tag_suggestions import Evidence
from jaylantern.core.timeline.tag import Tag
from tests.sounds import facts_of

LONGEST_S = 90
SOURCES: tuple[tuple[Tag, str, str, int, float], ...] = (  # tag, package, files, at most so many, least seconds
    (Tag.DIALOGUE, "asterisk-core-sounds-en-g722", "**/en_*/*.g722", 40, 1.5),
    (Tag.DIALOGUE, "asterisk-core-sounds-fr-g722", "**/fr_*/*.g722", 40, 1.5),
    (Tag.DIALOGUE, "asterisk-core-sounds-it-g722", "**/it_*/*.g722", 40, 1.5),
    (Tag.DIALOGUE, "asterisk-core-sounds-es-g722", "**/es_*/*.g722", 40, 1.5),
    (Tag.DIALOGUE, "asterisk-core-sounds-ru-g722", "**/ru_*/*.g722", 40, 1.5),
    (Tag.DIALOGUE, "unknown-horizons", "**/voice/**/*.ogg", 20, 1.5),
    (Tag.MUSIC, "asterisk-moh-opsound-g722", "**/*.g722", 10, 8),
    (Tag.MUSIC, "wesnoth-1.16-music", "**/*.ogg", 30, 8),
    (Tag.MUSIC, "singularity-music", "**/*.ogg", 20, 8),
    (Tag.MUSIC, "unknown-horizons", "**/music/**/*.ogg", 20, 8),
    (Tag.MUSIC, "supertux-data", "**/music/**/*.ogg", 30, 8),
    (Tag.MUSIC, "hedgewars-data", "**/Music/*.ogg", 20, 8),
    (Tag.EFFECTS, "wesnoth-1.16-data", "**/core/sounds/*.ogg", 80, 0.3),
    (Tag.EFFECTS, "lincity-ng-data", "**/sounds/*.wav", 60, 0.3),
    (Tag.EFFECTS, "supertux-data", "**/sounds/*.wav", 40, 0.3),
    (Tag.EFFECTS, "hedgewars-data", "**/Data/Sounds/*.ogg", 40, 0.3),
    (Tag.EFFECTS, "sound-theme-freedesktop", "**/*.oga", 30, 0.3),
    (Tag.ATMOSPHERE, "wesnoth-1.16-data", "**/ambient/[bcmns]*.ogg", 10, 5),
    (Tag.ATMOSPHERE, "redeclipse-data", "**/sounds/ambience/**/*.ogg", 40, 5),
    (Tag.ATMOSPHERE, "megaglest-data", "**/sounds/[rw]*[nd].ogg", 20, 5),
    (Tag.ATMOSPHERE, "flare-game", "**/soundfx/environment/*.ogg", 20, 5),
    (Tag.ATMOSPHERE, "scorched3d-data", "**/misc/[ro]*.wav", 5, 5),
    (Tag.ATMOSPHERE, "etw-data", "**/crowd/*.wav", 20, 5),
    (Tag.ATMOSPHERE, "btanks-data", "**/ambient/*.ogg", 5, 5),
)


def unpacked(folder: Path, package: str) -> Path | None:
    """The files of a package whose .deb lies in the folder."""
    target = folder / "x" / package
    found = next(iter(sorted(folder.glob(f"{package}_*.deb"))), None)
    if not target.is_dir() and found:
        target.mkdir(parents=True)
        subprocess.run(["dpkg-deb", "-x", found, target], check=True)
    return target if target.is_dir() else None


def sound_of(path: Path) -> np.ndarray:
    """The beginning of a file as mono float32 at 48 kHz."""
    with av.open(str(path), format="g722" if path.suffix == ".g722" else None) as file:
        rate = 16_000 if path.suffix == ".g722" else file.streams.audio[0].rate
        turn = av.AudioResampler("flt", "mono", rate)
        parts, have = [], 0
        for frame in file.decode(audio=0):
            parts += [each.to_ndarray().ravel() for each in turn.resample(frame)]
            have += len(parts[-1])
            if have > LONGEST_S * rate:
                break
    if not parts:
        return np.zeros(0, np.float32)
    return soxr.resample(np.concatenate(parts), rate, RATE, quality="HQ").astype(np.float32)


def gathered(folder: Path) -> Iterator[tuple[Tag, str, Evidence]]:
    """Tag, file and facts of all material in the folder, remembered beside it."""
    kept = folder / "facts.json"
    known = json.loads(kept.read_text()) if kept.exists() else {}
    for tag, package, files, most, least_s in SOURCES:
        root = unpacked(folder, package)
        if root is None:
            print(f"{package} is not in {folder.name}; left out")
            continue
        paths = sorted(root.glob(files))
        random.Random(1).shuffle(paths)
        taken = 0
        for path in paths:
            name = str(path.relative_to(folder))
            if name not in known:
                sound = sound_of(path)
                known[name] = asdict(facts_of(sound)) if len(sound) > 0.2 * RATE else None
            if known[name] and known[name]["seconds"] >= least_s and taken < most:
                taken += 1
                yield tag, name, Evidence(**known[name])
            if taken == most:
                break
        kept.write_text(json.dumps(known))


def table(folder: Path) -> None:
    """Print what was suggested for what."""
    counts: Counter[tuple[Tag, str]] = Counter()
    tags = [Tag.DIALOGUE, Tag.MUSIC, Tag.EFFECTS, Tag.ATMOSPHERE]
    for tag, _, found in gathered(folder):
        said = tag_suggestions.suggest(found)
        counts[tag, said.tag if said else "nothing"] += 1
    columns = [*tags, "nothing"]
    print(f"{'':<12}" + "".join(f"{column:>12}" for column in columns) + f"{'right':>10}")
    for tag in tags:
        total = sum(counts[tag, column] for column in columns)
        right = f"{counts[tag, tag] / total:.0%}" if total else "—"
        print(f"{tag:<12}" + "".join(f"{counts[tag, column]:>12}" for column in columns) + f"{right:>10}")
