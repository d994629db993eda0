"""Objects as BW64 with an Audio Definition Model: what independent readers render is the mix before its limiter.

The EBU ADM Renderer (ITU-R BS.2127, `ear` on PyPI) reads and renders the file; a reader written here from the text of
BS.2088 and BS.2076 (from memory) does the same with the gains alone.
"""

from __future__ import annotations

import struct
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.ducking.curve import CODES, Curve
from jaylantern.core.mixing import objects
from jaylantern.core.mixing.mix import Programme, Variant, Voice, render
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.settings import Ramp
from jaylantern.core.timeline.tag import Tag
from jaylantern.interchange import adm
from jaylantern.jobs import work
from jaylantern.media.bw64 import Bw64Writer
from jaylantern.store import jobs, projects
from tests import sounds

ALLOWED_DB = 0.1


@pytest.fixture
def film(workspace, db, project_id, bring_known, tmp_path):
    """Talk, two pieces of music in a row and one over them, a hammer; the music is split and moved, and gives way."""
    made = {
        "Talk": (sounds.talk({"vm-intro": 1.0, "vm-opts": 7.0}, seconds=12) * 0.4, "dialogue", 0),
        "Bed": (sounds.noise(seconds=9, amplitude=0.12, channels=2), "music", 0),
        "Song": (sounds.sine(hz=330, seconds=6, amplitude=0.2, channels=2), "music", 5 * RATE + 77),
        "Hammer": (sounds.noise(seconds=2, amplitude=0.1, channels=2, seed=5), "effects", RATE),
    }
    for name, (sound, tag, at_n) in made.items():
        soundfile.write(tmp_path / f"{name}.wav", sound, RATE, subtype="FLOAT")
        assert bring_known(tmp_path / f"{name}.wav", at_n=at_n).state == "done"
        lane = next(lane for lane in projects.load(db, project_id).lanes if lane.name == name)
        commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
    return project_id


@pytest.fixture
def export(workspace, db, film):
    """Make objects; the job and the file."""

    def make(**values):
        job_id = jobs.create(
            db, film, kind="export", title="", payload={"what": "objects", "pattern": "{what}", **values}
        )
        work.run(workspace, job_id)
        folder = workspace.folder.exports(job_id)
        return jobs.get(db, job_id), folder / "objects.wav"

    return make


def mix_of(workspace, db, film, start_n: int = 0, stop_n: int | None = None) -> np.ndarray:
    project, result = workspace.load(db, film)
    read = workspace.library.reader(project)
    return render(result.programme, read, start_n, stop_n or project.length_n, Variant.UNLIMITED).astype(np.float64)


def by_ear(path: Path) -> tuple[np.ndarray, object]:
    """What EBU's renderer makes of a file for a pair of loudspeakers (0+2+0), and the model it read."""
    from ear.core import Renderer, bs2051
    from ear.core.metadata_processing import preprocess_rendering_items
    from ear.core.select_items import select_rendering_items
    from ear.fileio import openBw64Adm

    with openBw64Adm(str(path)) as file:
        file.adm.validate()
        items = preprocess_rendering_items(select_rendering_items(file.adm))
        renderer = Renderer(bs2051.get_layout("0+2+0"))
        renderer.set_rendering_items(items)
        blocks = [renderer.render(file.sampleRate, block) for block in file.iter_sample_blocks(8192)]
        blocks.append(renderer.get_tail(file.sampleRate, file.channels))
        return np.concatenate(blocks)[: soundfile.info(path).frames], file.adm


def read_here(path: Path) -> tuple[np.ndarray, ElementTree.Element]:
    """The same by the text of the standards: chunks, chna, blocks of gain on each track, left and right added up."""
    data, chunks, at = path.read_bytes(), {}, 12
    assert data[:4] == b"RIFF"
    assert data[8:12] == b"WAVE"
    while at < len(data):
        name, size = struct.unpack_from("<4sI", data, at)
        chunks[name] = data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2
    kind, channels, rate, _, _, bits = struct.unpack_from("<HHIIHH", chunks[b"fmt "])
    assert (kind, rate, bits) == (1, RATE, 24)
    raw = np.frombuffer(chunks[b"data"], np.uint8).reshape(-1, channels, 3)
    four = np.concatenate((np.zeros_like(raw[..., :1]), raw), axis=2)
    samples = np.ascontiguousarray(four).view("<i4")[..., 0] / 2.0**31
    model = ElementTree.fromstring(chunks[b"axml"])
    count, uids = struct.unpack_from("<HH", chunks[b"chna"])
    assert count == uids == channels
    out = np.zeros((len(samples), 2))
    for k in range(channels):
        number, uid, track, pack = struct.unpack_from("<H12s14s11s", chunks[b"chna"], 4 + 40 * k)
        assert number == k + 1
        assert one(model, "audioTrackUID", UID=uid.decode()) is not None
        side = k % 2
        gains = np.ones(len(samples))
        if pack.decode() != "AP_00010002":
            code = track.decode()[3:11]
            channel = one(model, "audioChannelFormat", audioChannelFormatID=f"AC_{code}")
            azimuth = [float(each.text) for each in named(channel, "position") if each.get("coordinate") == "azimuth"]
            assert set(azimuth) == {30.0 if side == 0 else -30.0}
            gains = gains_of(channel, len(samples))
        out[:, side] += samples[:, k] * gains
    return out, model


def named(element, name: str) -> list:
    return [each for each in element.iter() if each.tag.rsplit("}", 1)[-1] == name]


def one(model, name: str, **attributes: str):
    (found,) = [each for each in named(model, name) if attributes.items() <= each.attrib.items()]
    return found


def seconds(text: str) -> float:
    hours, minutes, rest = text.split(":")
    return int(hours) * 3600 + int(minutes) * 60 + float(rest)


def gains_of(channel, length_n: int) -> np.ndarray:
    """Gain of every sample: over each block in a straight line from the last one's to its own; the first one stands."""
    gains, last = np.ones(length_n), None
    at = 0.0
    for block in named(channel, "audioBlockFormat"):
        begin, length = seconds(block.get("rtime")), seconds(block.get("duration"))
        assert begin == pytest.approx(at, abs=1e-9)  # without a gap
        at = begin + length
        (gain,) = (float(each.text) for each in named(block, "gain"))
        n = np.arange(round(begin * RATE), min(round(at * RATE), length_n))
        share = (n / RATE - begin) / length
        gains[n] = gain if last is None else last + (gain - last) * share
        last = gain
    assert at * RATE == pytest.approx(length_n, abs=1)
    return gains


def off_db(found: np.ndarray, wanted: np.ndarray) -> float:
    """How far off levels are at most, by 10 ms where something is heard."""
    step = RATE // 100
    count = len(wanted) // step
    power = [(each[: count * step].reshape(count, -1) ** 2).mean(axis=1) for each in (found, wanted)]
    heard = power[1] > 1e-6
    assert heard.sum() > 100
    return float(np.abs(10 * np.log10(power[0][heard] / power[1][heard])).max())


READERS = {"EBU's renderer": by_ear, "the text of the standards": read_here}


@pytest.mark.parametrize("reader", READERS)
@pytest.mark.parametrize("gains", ["over time", "printed"])
def test_what_readers_render_is_the_mix_before_its_limiter(workspace, db, film, export, gains, reader):
    job, path = export(gains=gains)
    assert job.state == "done", job.message
    found, _ = READERS[reader](path)
    wanted = mix_of(workspace, db, film)
    assert found.shape == wanted.shape
    assert off_db(found, wanted) < ALLOWED_DB
    assert np.abs(found - wanted).max() < 0.01 * np.abs(wanted).max()


@pytest.mark.parametrize("ramp", list(Ramp))
def test_with_any_ramp_and_short_ones(workspace, db, film, export, ramp):
    commands.do(db, film, "set_settings", {"settings": {"fall": ramp, "rise": ramp, "attack_ms": 20, "amount_db": -40}})
    _, path = export()
    assert off_db(by_ear(path)[0], mix_of(workspace, db, film)) < ALLOWED_DB


def test_from_in_to_out(workspace, db, film, export):
    for end, at_n in (("in", 2 * RATE + 13), ("out", 9 * RATE + 1)):
        commands.do(db, film, f"set_{end}", {"at_n": at_n})
    _, path = export(range="in-out")
    found, _ = by_ear(path)
    wanted = mix_of(workspace, db, film, 2 * RATE + 13, 9 * RATE + 1)
    assert found.shape == wanted.shape
    assert off_db(found, wanted) < ALLOWED_DB


def test_a_listener_can_turn_the_music_down_and_the_talk_stays(workspace, db, film, export):
    """With every object of music turned off what is left is the stems of talk and effects."""
    _, path = export()
    from ear.core import Renderer, bs2051
    from ear.core.metadata_processing import preprocess_rendering_items
    from ear.core.select_items import select_rendering_items
    from ear.fileio import openBw64Adm

    with openBw64Adm(str(path)) as file:
        items = preprocess_rendering_items(select_rendering_items(file.adm))
        kept = [item for item in items if not item.adm_path.audioObjects[0].audioObjectName.startswith("Music")]
        assert len(kept) < len(items)
        renderer = Renderer(bs2051.get_layout("0+2+0"))
        renderer.set_rendering_items(kept)
        found = np.concatenate([renderer.render(RATE, block) for block in file.iter_sample_blocks(8192)])
    project, result = workspace.load(db, film)
    read = workspace.library.reader(project)
    wanted = sum(
        render(result.programme, read, 0, project.length_n, variant).astype(np.float64)
        for variant in (Variant.SPEECH, Variant.EFFECTS)
    )
    assert np.abs(found - wanted[: len(found)]).max() < 1e-3


def test_the_model_says_what_is_what(export):
    job, path = export()
    _, model = by_ear(path)
    (programme,) = model.audioProgrammes
    contents = {each.audioContentName: each for each in programme.audioContents}
    assert set(contents) == {"Speech", "Music 1", "Music 2", "Effects"}
    assert programme.loudnessMetadata[0].loudnessMethod == "ITU-R BS.1770"
    said = f"{programme.loudnessMetadata[0].integratedLoudness:.1f}".replace("-", "−")
    assert f"{said} LUFS" in job.message
    _, here = read_here(path)
    said = {
        content.get("audioContentName"): (named(content, "dialogue")[0].text, *named(content, "dialogue")[0].items()[0])
        for content in named(here, "audioContent")
    }
    assert said["Speech"] == ("1", "dialogueContentKind", "1")
    assert said["Music 1"] == ("0", "nonDialogueContentKind", "1")
    assert said["Effects"] == ("0", "nonDialogueContentKind", "2")
    for each in named(here, "audioObject"):
        (turned,) = named(each, "audioObjectInteraction")
        assert turned.get("gainInteract") == "1"
        bounds = {kind.get("bound"): float(kind.text) for kind in named(turned, "gainInteractionRange")}
        assert bounds == {"min": 0.001, "max": pytest.approx(1.995, abs=0.001)}


def test_what_gives_way_in_a_band_is_printed_and_said(workspace, db, film, export):
    commands.do(db, film, "set_settings", {"settings": {"band": "speech"}})
    job, path = export()
    assert "2 clips give way in the speech band alone: that is printed." in job.message
    assert np.abs(by_ear(path)[0] - mix_of(workspace, db, film)).max() < 1e-5


def test_nothing_heard_is_refused(workspace, db, film, export):
    for lane in projects.load(db, film).lanes:
        commands.do(db, film, "set_lane", {"lane_id": lane.id, "muted": True})
    job, _ = export()
    assert job.state == "failed"
    assert "there are no objects" in job.message


def voice(start_n: int, stop_n: int, curve: Curve | None = None, tag: Tag = Tag.MUSIC, **more) -> Voice:
    return Voice(1, start_n, stop_n, 0, 1.0, tag, curve, **more)


def dip(start_n: int, stop_n: int, *, first_db: float = 0.0, last_db: float = 0.0) -> Curve:
    times = np.array([start_n, (start_n + stop_n) // 2, stop_n])
    return Curve(times, np.array([first_db, -12.0, last_db]))


S = RATE


@pytest.mark.parametrize(
    ("voices", "wanted"),
    [
        ([voice(0, S)], ["still"]),
        ([voice(0, S, Curve.flat())], ["still"]),
        ([voice(0, S, dip(0, S))], ["moves"]),
        ([voice(0, S, dip(0, S)), voice(0, S)], ["still", "moves"]),
        ([voice(0, S, dip(0, S)), voice(2 * S, 3 * S, dip(2 * S, 3 * S))], ["moves"]),
        ([voice(0, S, dip(0, S)), voice(S, 2 * S, dip(S, 2 * S))], ["moves"]),  # they meet at the same gain
        ([voice(0, S, dip(0, S)), voice(S, 2 * S, dip(S, 2 * S, first_db=-3))], ["moves", "moves"]),
        ([voice(0, S, dip(0, S)), voice(S + 96, 2 * S, dip(S + 96, 2 * S, first_db=-3))], ["moves"]),
        ([voice(0, S, dip(0, S)), voice(S - 1, 2 * S, dip(S - 1, 2 * S))], ["moves", "moves"]),
        ([voice(0, S, dip(0, S)), voice(0, S, dip(0, S), Tag.ATMOSPHERE)], ["moves", "moves"]),
    ],
)
def test_what_becomes_an_object(voices, wanted):
    prog = Programme(3 * S, tuple(voices), -1.0)
    found = objects.objects(prog)
    assert ["still" if each.gain is None else "moves" for each in found] == wanted
    assert all(each.gain is None for each in objects.objects(prog, printed=True))
    assert sorted(v.start_n for each in found for v in each.programme.voices) == sorted(v.start_n for v in voices)


@pytest.mark.parametrize("ramp", list(Ramp))
@pytest.mark.parametrize("length_n", [10, 480, 4800, 48_000, 96_007])
def test_lines_come_within_what_they_promise(ramp, length_n):
    curve = Curve(np.array([100, 100 + length_n]), np.array([0.0, -30.0]), np.array([CODES[ramp]], np.int8))
    curve = curve.straightened(largest_db=objects.STRAIGHT_DB)
    times, gains = objects.lines(curve, 0, 2 * S)
    assert times[0] == 0
    assert times[-1] * objects.GRID_N >= 2 * S
    n = np.arange(0, 2 * S, objects.GRID_N)
    found = 20 * np.log10(np.interp(n, times * objects.GRID_N, gains))
    assert np.abs(found - curve.at(n)).max() <= objects.NEAR_DB + 1e-9
    assert len(times) < 75


@pytest.mark.parametrize(
    ("units", "text"),
    [(0, "00:00:00.00000"), (99_999, "00:00:00.99999"), (6_000_000, "00:01:00.00000"), (360_100_001, "01:00:01.00001")],
)
def test_times(units, text):
    assert adm.clock(units) == text


def test_beyond_four_gigabytes_it_is_a_bw64(tmp_path, monkeypatch):
    """BS.2088: BW64 with a ds64 chunk in the place of JUNK; the limit is lowered here."""
    monkeypatch.setattr("jaylantern.media.wav.LARGEST_RIFF", 1000)
    writer = Bw64Writer(tmp_path / "a.wav", [("ATU_00000001", "AT_00010001_01", "AP_00010002")] * 2)
    writer.write(np.full((500, 2), 0.25, np.float32))
    writer.close(b"<a/>")
    data = (tmp_path / "a.wav").read_bytes()
    assert data[:4] == b"BW64"
    assert data[12:16] == b"ds64"
    riff, size, count = struct.unpack_from("<QQQ", data, 20)
    assert (riff, size, count) == (len(data) - 8, 3000, 500)


def test_what_is_over_full_scale_is_held_and_said(workspace, db, film, export):
    lane = next(lane for lane in projects.load(db, film).lanes if lane.name == "Bed")
    commands.do(db, film, "set_lane", {"lane_id": lane.id, "gain_db": 24.0})
    job, _ = export()
    assert "samples were held at full scale" in job.message
