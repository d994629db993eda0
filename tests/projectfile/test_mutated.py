"""Documents that were damaged or made odd at random: each is read or refused in one line, nothing else comes of it.

`corpus/` holds inputs that once were a fault. `python -m benchmarks.hostile` sends thousands more to an application.
"""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from benchmarks import hostile
from jaylantern.core.timeline.imported import ImportedProject
from jaylantern.errors import JayError
from jaylantern.projectfile import reading

CORPUS = sorted((Path(__file__).parent.parent / "corpus").iterdir())
WAYS = [hostile.flipped, hostile.cut, hostile.holed, hostile.doubled, hostile.lengthened, hostile.retold]
EACH = 25
SRT = b"1\n00:00:01,000 --> 00:00:02,000\nSalt\n\n2\n00:00:03,000 --> 00:00:04,000\nTide\n"


def read(path: Path) -> object:
    """What is in it, read in this process: what would end it would end the test."""
    return (reading.read_captions_here if path.suffix in (".srt", ".vtt") else reading.read_here)(path, path.name)


def end_of(path: Path) -> str:
    """ "read" or "refused"; anything else is an error of the test."""
    try:
        found = read(path)
    except JayError as error:
        return "refused" if len(str(error).splitlines()) == 1 else "told in several lines"
    return "read" if not isinstance(found, ImportedProject) or found.project.name else "without a name"


@pytest.mark.parametrize("path", CORPUS, ids=lambda path: path.name)
def test_what_was_a_fault_once_is_told(path):
    with pytest.raises(JayError):
        read(path)


@pytest.mark.parametrize("form", ["archive-alone", "timeline", "edl", "captions-vtt", "srt"])
def test_mutated_documents_are_read_or_refused(handed, tmp_path, form):
    whole = SRT if form == "srt" else handed(form).read_bytes()
    ending = {"archive-alone": ".zip", "timeline": ".otio", "edl": ".edl", "captions-vtt": ".vtt", "srt": ".srt"}[form]
    path = tmp_path / f"odd{ending}"
    path.write_bytes(whole)
    assert read(path)
    ends = {"read": 0, "refused": 0}
    for way in WAYS if form in ("archive-alone", "timeline") else WAYS[:-1]:
        for seed in range(EACH):
            path.write_bytes(way(random.Random(f"{form} {seed}"), whole))
            ends[end_of(path)] += 1
    assert min(ends.values()) > EACH // 5, ends
