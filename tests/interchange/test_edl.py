"""Edit decision lists against an independent reader and writer (OpenTimelineIO's adapter for CMX 3600) and by hand.

The format of events: common descriptions of CMX 3600 in editing handbooks, from memory.
"""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import opentimelineio as otio
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.tag import Tag
from jaylantern.core.timeline.timecode import frame_of, rate_of_text, timecode
from jaylantern.errors import InvalidValue, MediaError
from jaylantern.interchange import edl
from tests.build import clip, lane, media, project

PAL, NTSC = Fraction(25), Fraction(30000, 1001)
FRAME = RATE // 25


def placed(number: int, name: str, start_s: float, seconds: float, offset_s: float = 0.0):
    return clip(number, media(number, 60, name), start_s=start_s, length_s=seconds, offset_s=offset_s)


def read_by_another(text: str, rate: float = 25) -> dict[str, list[tuple]]:
    """Clips by kind of track as the library reads them: name, source in, record in, frames."""
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=rate)
    found: dict[str, list[tuple]] = {"Video": [], "Audio": []}
    for track in timeline.tracks:
        for each in track.find_clips():
            span, at = each.trimmed_range(), each.range_in_parent().start_time
            found[track.kind].append((each.name, int(span.start_time.value), int(at.value), int(span.duration.value)))
    return found


def written(made, fps=PAL, start_n=0) -> list[str]:
    return edl.lists(made, fps=fps, start_of=lambda each: start_n)


def test_cuts_are_read_by_another_program_as_they_lie():
    picture = Lane(
        9, "Picture", LaneKind.PICTURE, clips=(placed(1, "film.mov", 0, 4, 10), placed(2, "harbour.mov", 6, 2))
    )
    talk = lane(1, Tag.DIALOGUE, placed(3, "talk.wav", 0, 2, 0.4), placed(4, "more.wav", 3, 1))
    (text,) = written(replace(project(talk), lanes=(picture, talk)))
    found = read_by_another(text)
    assert found["Video"] == [("film.mov", 250, 0, 100), ("harbour.mov", 0, 150, 50)]
    assert found["Audio"] == [("talk.wav", 10, 0, 50), ("more.wav", 0, 75, 25)]
    assert "NOT IN THIS LIST" in text


def test_source_times_are_those_of_the_media_s_own_timecode():
    (text,) = written(project(lane(1, Tag.DIALOGUE, placed(3, "talk.wav", 0, 2))), start_n=10 * 3600 * RATE)
    assert "10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00" in text


def test_drop_frame_where_the_rate_drops():
    (text,) = written(project(lane(1, Tag.MUSIC, placed(1, "bed.wav", 61, 5))), fps=NTSC)
    assert "FCM: DROP FRAME" in text
    start = frame_of("01:01:01;00", NTSC) - frame_of("01:00:00;00", NTSC)
    assert abs(start / NTSC - 61) < 1 / NTSC
    assert "01:01:01;0" in text


def test_lanes_beyond_four_and_events_beyond_999_go_into_further_lists():
    lanes = [lane(n, Tag.EFFECTS, placed(n, f"file {n}.wav", n, 1)) for n in range(1, 7)]
    first, second = written(project(*lanes))
    assert first.count("FROM CLIP NAME") == 4
    assert second.count("FROM CLIP NAME") == 2
    many = lane(1, Tag.DIALOGUE, *(placed(n, "talk.wav", n, 1) for n in range(1, 1502)))
    assert [text.count("FROM CLIP NAME") for text in written(project(many))] == [999, 502]


def test_crossing_clips_are_a_dissolve_and_come_back_as_they_were():
    one, two = placed(1, "one.wav", 0, 4), placed(2, "two.wav", 3, 4)
    (text,) = written(project(lane(1, Tag.MUSIC, one, two)))
    assert "D    025" in text
    (back,) = edl.read(text.encode(), "back.edl").project.lanes
    assert [(c.name, c.start_n, c.offset_n, c.length_n) for c in back.clips] == [
        ("one.wav", 0, 0, 4 * RATE),
        ("two.wav", 3 * RATE, 0, 4 * RATE),
    ]


def test_what_is_written_reads_back():
    picture = Lane(9, "Picture", LaneKind.PICTURE, clips=(placed(1, "film.mov", 0, 4, 10),))
    lanes = [lane(n, Tag.EFFECTS, placed(n, f"file {n}.wav", n, 1, 0.2)) for n in range(2, 6)]
    (text,) = written(replace(project(*lanes), lanes=(picture, *lanes)))
    back = edl.read(text.encode(), "back.edl").project
    places = [(c.name, c.start_n, c.offset_n, c.length_n) for _, c in back.placed()]
    assert places == [("film.mov", 0, 10 * RATE, 4 * RATE)] + [
        (f"file {n}.wav", n * RATE, RATE // 5, RATE) for n in range(2, 6)
    ]


def test_what_another_program_writes_is_read():
    timeline = otio.schema.Timeline("Elsewhere", global_start_time=otio.opentime.RationalTime(90000, 25))
    track = otio.schema.Track("V", kind="Video")
    time, span = otio.opentime.RationalTime, otio.opentime.TimeRange
    for name, start in (("film one", 50), ("film two", 0)):
        reference = otio.schema.ExternalReference(f"file:///there/{name}.mov", span(time(0, 25), time(500, 25)))
        track.append(otio.schema.Clip(f"{name}.mov", reference, span(time(start, 25), time(75, 25))))
    timeline.tracks.append(track)
    text = otio.adapters.write_to_string(timeline, "cmx_3600", rate=25)
    found = edl.read(text.encode(), "elsewhere.edl").project
    assert [(c.name, c.start_n, c.offset_n, c.length_n) for _, c in found.placed()] == [
        ("film one.mov", 0, 2 * RATE, 3 * RATE),
        ("film two.mov", 3 * RATE, 0, 3 * RATE),
    ]


BY_HAND = """TITLE: ALDER QUAY   REEL 1
FCM: NON-DROP FRAME

001  TALK1    AA    C        10:00:10:00 10:00:14:00 01:00:00:00 01:00:04:00
* FROM CLIP NAME: TALK ONE
002  FILM1    V     C        00:00:00:00 00:00:05:00 01:00:00:00 01:00:05:00
* FROM CLIP NAME: FILM.MOV
003  BL       V     C        00:00:00:00 00:00:01:00 01:00:05:00 01:00:06:00
004  FILM1    B     C        00:00:10:00 00:00:12:00 01:00:06:00 01:00:08:00
* FROM CLIP NAME: FILM.MOV
005  FILM1    V     C        00:00:12:00 00:00:12:00 01:00:08:00 01:00:08:00
005  FILM2    V     D    012 00:00:00:00 00:00:04:00 01:00:08:00 01:00:12:00
* FROM CLIP NAME: FILM.MOV
* TO CLIP NAME: FILM2.MOV
M2   FILM2    050.0                00:00:00:00
006  MUS      NONE  C        00:00:00:00 00:00:20:00 01:00:00:00 01:00:20:00
AUD  3
* LOC: 01:00:03:00 RED     THE BELL
007  MUS      NONE  C        00:00:30:00 00:00:32:00 01:00:10:00 01:00:12:00
AUD  3
"""


HEAD = "TITLE: T\nFCM: NON-DROP FRAME\n\n"


def one_second(number: int, record: str) -> str:
    hours, minutes, seconds, frames = record.split(":")
    stop = f"{hours}:{minutes}:{int(seconds) + 1:02d}:{frames}"
    return f"{number:03d}  R{number:<7} A     C        00:00:00:00 00:00:01:00 {record} {stop}\n"


@pytest.mark.parametrize(
    ("records", "starts_s", "hour"),
    [
        (["01:00:00:00", "01:00:01:00"], [0, 1], 1),
        (["10:00:00:00"], [0], 10),
        (["00:00:00:00", "00:00:05:00"], [0, 5], 0),
        (["01:00:20:00"], [20], 1),  # black at the beginning is meant
        (["00:59:52:00", "01:00:00:00"], [0, 8], 1),  # a leader of eight seconds, no hour of silence
        (["00:59:52:00"], [3592], 0),
        (["00:30:00:00", "01:00:00:00"], [1800, 3600], 0),
    ],
)
def test_a_list_begins_at_its_first_hour_and_is_handed_off_there(records, starts_s, hour):
    text = HEAD + "".join(one_second(number, record) for number, record in enumerate(records, 1))
    found = edl.read(text.encode(), "list.edl", fps=PAL).project
    assert [clip.start_n / RATE for _, clip in found.placed()] == starts_s
    assert found.settings.start_hour == hour
    (back,) = edl.lists(found, fps=PAL, start_of=lambda media: 0)
    first = frame_of(back.splitlines()[3].split()[-2], PAL) - frame_of(f"{hour:02d}:00:00:00", PAL)
    assert first == starts_s[0] * PAL


def test_a_list_by_hand():
    opened = edl.read(BY_HAND.encode(), "by hand.edl")
    made = opened.project
    assert made.name == "ALDER QUAY REEL 1"
    rows = {
        row.name: [(c.name, c.start_n // FRAME, c.offset_n // FRAME, c.length_n // FRAME) for c in row.clips]
        for row in made.lanes
    }
    assert rows == {
        "Picture": [("FILM.MOV", 0, 0, 125), ("FILM.MOV", 150, 250, 50), ("FILM2.MOV", 200, 0, 100)],
        "Sound 1": [("TALK ONE", 0, 25 * 36010, 100), ("FILM.MOV", 150, 250, 50)],
        "Sound 3": [("MUS", 0, 0, 250), ("MUS", 250, 750, 50)],  # the later event covers the earlier one
    }
    links = {c.link for _, c in made.placed() if c.offset_n == 250 * FRAME}
    assert len(links) == 1
    assert None not in links
    assert [(mark.name, mark.time_n) for mark in made.markers] == [("THE BELL", 3 * RATE)]
    said = " ".join(opened.remarks)
    assert "25 frames a second" in said
    assert "changes of speed (1)" in said
    assert "dissolves and wipes of pictures (1)" in said


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("", "no event"),
        ("001 A V C 01:00:00:00 01:00:01:00 01:00:00:00 01:00:01:00\n" * 10_001, "10001 events"),
        ("RIFF\x00\x00WAVEfmt ", "no event"),
        ("001 A V C 01:00:00:00 01:00:01:00 01:00:00:00", "line 1"),
        ("001 A V C 01:00:00:00 01:00:01:00 01:00:00:99 01:00:01:00", "no timecode"),
        (
            "001 A V C 01:00:00:00 01:00:01:00 01:00:00:00 01:00:01:00\n"
            "002 A V C 00:00:00:00 00:00:01:00 99:00:00:00 99:00:01:00",
            "line 2.*24 hours",
        ),
    ],
)
def test_what_is_no_list_is_said_to_be_none(text, word):
    with pytest.raises(MediaError, match=word):
        edl.read(text.encode(), "odd.edl", fps=PAL)


def test_timecode_is_read_as_it_is_written():
    for fps in (PAL, NTSC, Fraction(24000, 1001), Fraction(60000, 1001)):
        for frame in (0, 1, 1799, 1800, 17981, 17982, 107892, 2589407):
            assert frame_of(timecode(frame, fps), fps) == frame
    with pytest.raises(InvalidValue, match="leaves out"):
        frame_of("00:01:00;00", NTSC)  # SMPTE ST 12-1: frames 0 and 1 of each minute but the tenth
    with pytest.raises(InvalidValue, match="no timecode"):
        frame_of("00:00:00:25", PAL)


def test_a_rate_is_a_number_or_a_ratio():
    assert [rate_of_text(text) for text in ("25", "29.97", " 24000/1001")] == [PAL, NTSC, Fraction(24000, 1001)]
    for text in ("", "fast", "1/0", "-25", "1e9", "25 fps"):
        with pytest.raises(InvalidValue, match="25 or 30000/1001"):
            rate_of_text(text)


@pytest.mark.parametrize(("name", "title"), [
    ("Die Möwe über Köln – groß", "Die Moewe ueber Koeln - gross"),
    ("Été à Orléans", "Ete a Orleans"),
    ("Ærø, Łódź", "Aeroe, Lodz"),
    ("Часы", "Часы"),
    ("  two\nlines\tand a tab ", "two lines and a tab"),
])  # fmt: skip
def test_titles_spell_letters_out_and_lose_none(name, title):
    assert edl.in_ascii(name) == title
