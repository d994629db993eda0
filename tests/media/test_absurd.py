"""Files that say absurd things of themselves: refused in words, within bounds of time and memory."""

from __future__ import annotations

import struct
import subprocess
import sys

import numpy as np
import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import MediaError
from jaylantern.media import decode, probe
from jaylantern.media.decode import sound_chunks
from tests import films

RATES = [  # samples a second, and whether that is believed: 2000 to 768 000
    (1, False), (10, False), (1999, False), (2000, True), (8000, True), (44_100, True), (192_000, True),
    (768_000, True), (768_001, False), (4_000_000, False),
]  # fmt: skip


@pytest.mark.parametrize("ending", ["wav", "flac", "aiff"])
@pytest.mark.parametrize(("rate", "believed"), RATES)
def test_rates_are_believed_within_a_stated_range(tmp_path, rate, believed, ending):
    if ending == "flac" and rate > 655_350:
        rate, believed = 655_350, True  # more can't be said in a FLAC file
    path = tmp_path / f"odd.{ending}"
    soundfile.write(path, np.zeros(4000, np.int16) + 99, rate)
    if believed:
        assert sum(map(len, sound_chunks(path, name=path.name))) == pytest.approx(4000 * RATE / rate, abs=2)
        assert probe.probe(path, name=path.name).sound.rate == rate
        return
    words = f"{path.name} says that its sound has {rate} samples a second; from 2000 to 768000 can be read"
    for read in (lambda: list(sound_chunks(path, name=path.name)), lambda: probe.probe(path, name=path.name)):
        with pytest.raises(MediaError, match=words):
            read()


def test_the_wav_of_eighty_kilobytes_is_refused_by_an_import_and_by_detect_at_once_and_in_little_memory(
    workspace, db, bring, tmp_path
):
    path = tmp_path / "slow.wav"
    soundfile.write(path, np.random.default_rng(1).integers(-9000, 9000, 40_000).astype(np.int16), 1)
    job = bring(path)
    assert (job.state, "1 samples a second" in job.message) == ("failed", True)
    command = [sys.executable, "-c", LITTLE_MEMORY, "detect", str(path)]
    said = subprocess.run(command, capture_output=True, text=True, timeout=120, check=False)
    assert said.returncode == 2
    assert said.stderr.count("\n") == 1
    assert "samples a second" in said.stderr


LITTLE_MEMORY = """
import sys
if sys.platform != "win32":
    import resource
    resource.setrlimit(resource.RLIMIT_AS, (1 << 31, 1 << 31))
from jaylantern.cli.main import main
sys.exit(main(sys.argv[1:]))
"""


def test_sound_without_end_is_refused(tmp_path, monkeypatch):
    """A day is the longest a timeline can be; here it is made two seconds long."""
    path = tmp_path / "long.wav"
    soundfile.write(path, np.zeros(3 * RATE, np.int16), RATE)
    monkeypatch.setattr(decode, "LONGEST_N", 2 * RATE)
    with pytest.raises(MediaError, match="lasts longer than"):
        list(sound_chunks(path, name="long.wav"))


def test_a_header_that_says_more_than_there_is_gives_what_there_is(tmp_path):
    path = tmp_path / "liar.wav"
    soundfile.write(path, np.zeros(RATE, np.int16) + 99, RATE)
    raw = bytearray(path.read_bytes())
    at = raw.index(b"data") + 4
    raw[at : at + 4] = struct.pack("<I", 0xFFFFFFF0)
    path.write_bytes(raw)
    assert sum(map(len, sound_chunks(path, name="liar.wav"))) == RATE


def test_a_picture_of_absurd_size_is_refused_before_anything_is_decoded(tmp_path, monkeypatch):
    path = films.write_film(tmp_path / "wide.mp4", seconds=1)
    monkeypatch.setattr(probe, "MOST_PIXELS", 160 * 95)
    with pytest.raises(MediaError, match="160 × 96 pixels"):
        probe.probe(path, name="wide.mp4")
