"""What a film carries beside picture and mix, in MP4 and Matroska: read by PyAV and by MediaInfo's library."""

from __future__ import annotations

import math
import re
import struct
from dataclasses import replace
from functools import partial

import av
import numpy as np
import pytest
import soundfile
from av.stream import Disposition
from pymediainfo import MediaInfo

from jaylantern import commands
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue
from jaylantern.export.handoff import asked
from jaylantern.media import mp4_loudness
from jaylantern.media.film_beside import Cue, as_event, loudness_tags, one_at_a_time
from jaylantern.projectfile import captions_in
from jaylantern.store import projects
from tests import films, sounds

CAPTIONS = """1
00:00:00,500 --> 00:00:01,500
It was <b>full</b> of salt.

2
00:00:01,200 --> 00:00:02,000
{\\an8}And of sand \\ {weed}.

3
00:00:04,000 --> 00:00:05,250
Two
lines
"""


@pytest.fixture
def film(db, project_id, bring_known, tmp_path):
    """A film of six seconds, talk, a bed, two markers, captions."""
    films.write_film(tmp_path / "Film.mp4", seconds=6, sound=sounds.sine(hz=300, seconds=6, channels=2))
    soundfile.write(tmp_path / "Talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=6) * 0.3, RATE, subtype="FLOAT")
    soundfile.write(tmp_path / "Bed.wav", sounds.noise(seconds=6, amplitude=0.1, channels=2), RATE, subtype="FLOAT")
    for name, tag in (("Film.mp4", ""), ("Talk.wav", "dialogue"), ("Bed.wav", "music")):
        assert bring_known(tmp_path / name, name=name).state == "done"
        if tag:
            lane = projects.load(db, project_id).lanes[-1]
            commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
    for at_n, name in ((3 * RATE, "The harbour"), (0, ""), (60 * RATE, "beyond the end")):
        commands.do(db, project_id, "add_marker", {"at_n": at_n, "name": name})
    (tmp_path / "words.srt").write_text(CAPTIONS)
    captions_in.bring(db, project_id, captions_in.read(tmp_path / "words.srt", "English.srt"), "English.srt")
    return project_id


@pytest.fixture
def export(handed):
    """Make the film; the file."""
    return partial(handed, "film")


FORMS = {"MP4": {"track": "aac"}, "Matroska": {"track": "pcm"}}
WAYS = {
    "copied": {},
    "in pieces": {"cut": (1, 2)},
    "encoded": {"cut": (1.23, 2.34)},
}


def cut_out(db, film, way: str) -> None:
    if "cut" in WAYS[way]:
        start_s, stop_s = WAYS[way]["cut"]
        commands.do(db, film, "cut_out", {"start_n": round(start_s * RATE), "stop_n": round(stop_s * RATE)})


def sound_of(path, track: int) -> np.ndarray:
    with av.open(str(path)) as container:
        frames = [frame.to_ndarray() for frame in container.decode(audio=track)]
    planar = frames[0].shape[0] == 2
    joined = np.concatenate(frames, axis=1) if planar else np.concatenate([f.reshape(-1, 2) for f in frames]).T
    return joined / (2.0**31 if joined.dtype == np.int32 else 1.0)


def chapters_of(container) -> list[tuple[str, float]]:
    """Titles of chapters and their seconds."""
    return [(c["metadata"]["title"], round(float(c["start"] * c["time_base"]), 2)) for c in container.chapters()]


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("form", FORMS)
def test_tracks_chapters_and_captions_are_there_by_name_language_and_kind(db, film, export, form, way):
    cut_out(db, film, way)
    path = export(**FORMS[form], parts=True, keep="keep", language="eng")
    assert path.suffix == {"MP4": ".mp4", "Matroska": ".mkv"}[form]
    with av.open(str(path)) as container:
        title = "handler_name" if form == "MP4" else "title"
        tracks = [(s.metadata.get(title), s.language, s.disposition) for s in container.streams.audio]
        assert [name for name, _, _ in tracks] == ["Mix", "Speech alone", "Music alone", "Original"]
        assert [language for _, language, _ in tracks][:3] == ["eng"] * 3
        assert [bool(kind & Disposition.default) for _, _, kind in tracks] == [True, False, False, False]
        if form == "Matroska":  # MP4 keeps fewer kinds
            assert tracks[1][2] & Disposition.hearing_impaired
            assert tracks[3][2] & Disposition.original
        chapters = chapters_of(container)
        assert chapters[0] == ("Marker 2", 0.0)
        assert [name for name, _ in chapters] == ["Marker 2", "The harbour"]
        (texts,) = container.streams.subtitles
        assert texts.language == "eng"
        assert texts.codec_context.name == {"MP4": "mov_text", "Matroska": "srt"}[form]


@pytest.mark.parametrize("form", FORMS)
def test_parts_add_up_to_the_mix(export, form):
    """Below the limiter the mix is speech alone, music alone, and the film's own sound, which is untagged."""
    path = export(**FORMS[form], parts=True)
    mix, speech, music = (sound_of(path, track) for track in range(3))
    count = min(mix.shape[1], speech.shape[1], music.shape[1])
    assert count == pytest.approx(6 * RATE, abs=2048)
    power = [float((each[:, :count] ** 2).mean()) for each in (mix, speech, music)]
    assert min(power[1:]) > 1e-6
    apart = [float(((each[0] - each[1]) ** 2).mean() / (each**2).mean()) for each in (speech, music)]
    assert apart[0] < 0.01  # the talk has one channel, the bed two that have nothing to do with each other
    assert apart[1] > 0.5
    left = mix[:, :count] - speech[:, :count] - music[:, :count]
    tone = np.sin(2 * np.pi * 300 * np.arange(count) / RATE)
    own = [abs(np.dot(row, tone) / np.dot(tone, tone)) for row in left]
    assert own[0] == pytest.approx(own[1], rel=0.2)


def shown(path) -> list[tuple[float, float, str]]:
    """Captions as a player shows them."""
    found = []
    with av.open(str(path)) as container:
        (stream,) = container.streams.subtitles
        for packet in container.demux(stream):
            for subtitle in packet.decode() if packet.size else []:
                text = subtitle.ass.decode().split(",", 8)[-1]
                begin = float(packet.pts * packet.time_base)
                if text:
                    found.append((begin, begin + float(packet.duration * packet.time_base), text))
    return found


def test_captions_in_matroska_stand_as_they_are(export):
    found = shown(export(**FORMS["Matroska"]))
    assert [(round(a, 2), round(b, 2)) for a, b, _ in found] == [(0.5, 1.5), (1.2, 2.0), (4.0, 5.25)]
    assert found[0][2] == r"It was {\b1}full{\b0} of salt."
    assert found[1][2].replace("⁠", "").endswith(r"And of sand \ \{weed\}.") or "weed" in found[1][2]
    assert found[2][2] == r"Two\Nlines"


def test_captions_in_mp4_stand_one_at_a_time(export):
    found = shown(export(**FORMS["MP4"]))
    assert [(round(a, 2), round(b, 2)) for a, b, _ in found] == [(0.5, 1.2), (1.2, 1.5), (1.5, 2.0), (4.0, 5.25)]
    assert "salt" in found[1][2]
    assert "sand" in found[1][2]
    assert "salt" not in found[2][2]


def test_captions_and_chapters_go_with_the_cut(db, film, export):
    commands.do(db, film, "cut_out", {"start_n": 0, "stop_n": 2 * RATE})
    path = export(**FORMS["Matroska"])
    assert [(round(a, 2), text) for a, _, text in shown(path)] == [(2.0, r"Two\Nlines")]
    with av.open(str(path)) as container:
        assert ("The harbour", 1.0) in chapters_of(container)


def test_of_a_part_of_the_film_chapters_and_captions_are_counted_from_there(db, film, export):
    for end, at_n in (("in", 2 * RATE), ("out", 5 * RATE)):
        commands.do(db, film, f"set_{end}", {"at_n": at_n})
    path = export(**FORMS["Matroska"], ending="in-out")
    assert [(round(a, 2), round(b, 2)) for a, b, _ in shown(path)] == [(2.0, 3.0)]
    with av.open(str(path)) as container:
        assert chapters_of(container) == [("The harbour", 1.0)]


def test_without_texts_and_parts_there_is_the_mix_alone(export):
    with av.open(str(export(texts=False))) as container:
        assert len(container.streams.audio) == 1
        assert not container.streams.subtitles
        assert not container.chapters()


@pytest.mark.parametrize("value", ["english", "e1g", "en"])
def test_a_language_has_three_letters(value):
    with pytest.raises(InvalidValue, match="three letters of ISO 639-2"):
        asked({"what": "film", "language": value})
    assert asked({"what": "film", "language": " ENG "}).language == "eng"


def test_the_loudness_of_an_mp4_lies_in_its_first_sound_track(workspace, db, film, export):
    """Where the box lies by MediaInfo's trace; what it says by ISO/IEC 23003-4 (from memory), as no reader of it is at
    hand."""
    project, _ = workspace.load(db, film)
    level = workspace.loudness.mix(project).loudness
    path = export(**FORMS["MP4"], parts=True)
    trace = MediaInfo.parse(str(path), full=True, mediainfo_options={"Details": "1"}, output="text")
    (of_mix,) = [part for part in re.split(r"\n[0-9A-F]+ +Track \(", trace) if "ludt (36 bytes)" in part]
    assert re.search(r"Value: +Mix\n", of_mix)
    data = path.read_bytes()
    box = data[data.index(b"ludt") :]
    peak = int.from_bytes(box[18:22], "big") >> 8 & 0xFFF
    assert 20 - peak / 32 == pytest.approx(level.true_peak_dbtp, abs=1 / 64)
    values = {box[23 + 3 * k]: -57.75 + 0.25 * box[24 + 3 * k] for k in range(box[22])}
    wanted = {1: level.integrated_lufs, 4: level.max_momentary_lufs, 5: level.max_short_term_lufs}
    assert values == pytest.approx(wanted, abs=0.125)
    assert sound_of(path, 0).shape[1] > 5 * RATE  # chunks are where they are said to be
    assert sound_of(path, 2).shape[1] > 5 * RATE


def test_an_mp4_begins_with_what_players_need_first(export):
    data = export(**FORMS["MP4"]).read_bytes()
    assert data.index(b"moov") < data.index(b"mdat")


def test_the_loudness_in_matroska_is_a_gain_to_the_reference(workspace, db, film, export):
    """ReplayGain 2.0: the reference is −18 LUFS, the peak an amplitude (from memory)."""
    project, _ = workspace.load(db, film)
    level = workspace.loudness.mix(project).loudness
    with av.open(str(export(**FORMS["Matroska"]))) as container:
        tags = {name.upper(): value for name, value in container.streams.audio[0].metadata.items()}
    assert float(tags["REPLAYGAIN_TRACK_GAIN"].split()[0]) == pytest.approx(-18 - level.integrated_lufs, abs=0.006)
    assert 20 * math.log10(float(tags["REPLAYGAIN_TRACK_PEAK"])) == pytest.approx(level.true_peak_dbtp, abs=0.01)


@pytest.mark.parametrize(
    ("lufs", "dbtp", "steps"),
    [
        # ISO/IEC 23003-4: loudness = -57.75 + 0.25 step; peak = 20 - step / 32 (from memory)
        (-23.0, -1.0, (139, 672)),
        (-16.0, 0.0, (167, 640)),
        (-57.75, 20.0, (0, 1)),
        (-70.0, -120.0, (0, 4095)),
    ],
)
def test_how_loudness_is_coded(lufs, dbtp, steps):
    found = known(lufs, dbtp)
    data = mp4_loudness.box(found)
    assert data[4:8] == b"ludt"
    assert data[12:16] == b"tlou"
    assert struct.unpack(">I", data[:4])[0] == len(data)
    assert struct.unpack(">I", data[8:12])[0] == len(data) - 8
    bits = int.from_bytes(data[22:26], "big")
    assert (bits >> 20, bits >> 8 & 0xFFF, bits >> 4 & 0xF, bits & 0xF) == (0, steps[1], 1, 3)
    count = data[26]
    entries = [tuple(data[27 + 3 * k : 30 + 3 * k]) for k in range(count)]
    assert entries[0] == (1, steps[0], 0x13)


def known(lufs: float, dbtp: float) -> Loudness:
    from jaylantern.core.mixing.metering import ProgrammeMeter

    meter = ProgrammeMeter(2)
    meter.add(np.zeros((RATE, 2), np.float32))
    return replace(meter.finish(), integrated_lufs=lufs, true_peak_dbtp=dbtp)


def test_silence_has_no_loudness(tmp_path):
    assert loudness_tags(known(-math.inf, -math.inf)) == {}
    assert mp4_loudness.put(tmp_path / "no.mp4", known(-math.inf, -math.inf)) is False


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"moov",
        b"\0\0\0\x08moov",
        b"\0\0\0\x10ftypisom\0\0\0\0\0\0\0\x10moov\0\0\0\x08trak",
        b"\0\0\0\x01moov\xff\xff",
    ],
)
def test_a_file_with_other_boxes_stays_as_it_is(tmp_path, data):
    (tmp_path / "a.mp4").write_bytes(data)
    assert mp4_loudness.put(tmp_path / "a.mp4", known(-20, -1)) is False
    assert (tmp_path / "a.mp4").read_bytes() == data


def cue(start: int, stop: int, text: str) -> Cue:
    return Cue(start, stop, text)


@pytest.mark.parametrize(
    ("cues", "wanted"),
    [
        ([], []),
        ([(0, 2, "a"), (2, 3, "b")], [(0, 2, "a"), (2, 3, "b")]),
        ([(0, 2, "a"), (1, 3, "b")], [(0, 1, "a"), (1, 2, "a\nb"), (2, 3, "b")]),
        ([(0, 5, "a"), (1, 2, "b")], [(0, 1, "a"), (1, 2, "a\nb"), (2, 5, "a")]),
        ([(0, 2, "a"), (0, 2, "b"), (4, 5, "c")], [(0, 2, "a\nb"), (4, 5, "c")]),
        ([(0, 2, "a"), (2, 4, "a")], [(0, 4, "a")]),
    ],
)
def test_one_at_a_time(cues, wanted):
    assert one_at_a_time([cue(*each) for each in cues]) == [cue(*each) for each in wanted]


@pytest.mark.parametrize(
    ("text", "event"),
    [
        ("plain", "plain"),
        ("two\nlines", r"two\Nlines"),
        ("<i>so</i> <B>it</B> is", r"{\i1}so{\i0} {\b1}it{\b0} is"),
        ("{x}", r"\{x\}"),
    ],
)
def test_a_text_as_an_event(text, event):
    assert as_event(text) == "0,0,Default,,0,0,0,," + event
