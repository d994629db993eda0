"""What is written is read back by independent readers: csv, json, webvtt-py, OpenTimelineIO."""

from __future__ import annotations

import csv
import io
import json
import math
from dataclasses import replace
from fractions import Fraction

import numpy as np
import opentimelineio as otio
import pytest
import webvtt

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.marker import Marker
from jaylantern.core.timeline.tag import Tag
from jaylantern.interchange import keyframes, passages, timeline
from tests.build import clip, lane, media, passage, project

NTSC = Fraction(30000, 1001)
CURVE = Curve(np.array([0, RATE, 2 * RATE + 24, 3600 * RATE]), np.array([0.0, -10.457575, -10.457575, 0.0]))
FOUND = [passage(1.0, 3.2), passage(3700.5, 3702.0)]
DIPS, CLEAR = [-14.0, -9.5], [12.34, math.inf]


def written(write, *args, **more) -> str:
    out = io.StringIO()
    write(out, *args, **more)
    return out.getvalue()


def rows(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def test_keyframes_as_csv_have_seconds_frames_and_timecode():
    found = rows(written(keyframes.write_csv, CURVE, fps=NTSC))
    assert [float(row["time_s"]) for row in found] == pytest.approx([0, 1, 2.0005, 3600])
    assert float(found[1]["gain_percent"]) == pytest.approx(30, abs=0.001)  # 70 % cut: common practice
    assert (found[3]["frame"], found[3]["timecode"]) == ("107892", "01:00:00;00")


def test_keyframes_as_json_say_how_they_are_meant():
    text = written(keyframes.write_json, CURVE, fps=Fraction(25), about={"clip": "Bed „1“"})
    found = json.loads(text)
    assert (found["clip"], found["fps"], found["drop_frame"]) == ("Bed „1“", "25/1", False)
    assert [point["gain_db"] for point in found["points"]] == [0.0, -10.458, -10.458, 0.0]
    assert found["points"][3]["timecode"] == "01:00:00:00"


def test_passages_are_cues_of_a_text_track(tmp_path):
    path = tmp_path / "passages.vtt"
    path.write_text(written(passages.write_vtt, FOUND, DIPS, CLEAR), encoding="utf-8")
    cues = webvtt.read(str(path)).captions
    assert [(cue.start, cue.end) for cue in cues] == [
        ("00:00:01.000", "00:00:03.200"),
        ("01:01:40.500", "01:01:42.000"),
    ]
    assert cues[0].text == "Passage 1: music -14.0 dB, speech 12.3 LU clear"
    assert cues[1].text == "Passage 2: music -9.5 dB"


def test_passages_are_rows():
    found = rows(written(passages.write_csv, FOUND, DIPS, CLEAR, (0.81, 0.987), fps=Fraction(25)))
    assert [row["start_timecode"] for row in found] == ["00:00:01:00", "01:01:40:13"]
    assert [row["clear_lu"] for row in found] == ["12.3", ""]
    assert [row["sii"] for row in found] == ["0.81", "0.99"]


def test_markers_in_and_out_and_passages_come_in_order_of_time():
    made = project(lane(1, Tag.MUSIC))
    made = type(made)(
        **{**vars(made), "markers": (Marker(5, 2 * RATE, "Noon, sharp"),), "in_n": RATE // 2, "out_n": None}
    )
    found = rows(written(passages.write_markers, made, FOUND[:1], fps=Fraction(25)))
    assert [row["name"] for row in found] == ["in", "Passage 1 begins", "Noon, sharp", "Passage 1 ends"]
    assert found[2]["frame"] == "50"


@pytest.mark.parametrize("name", ["=1+1", "+49 30", "-2 dB", "@home", "\t=1"])
def test_a_name_is_no_formula_in_a_spreadsheet(name):
    """OWASP, CSV Injection: cells that begin with = + - @ tab or return are taken for formulas."""
    made = project(lane(1, Tag.MUSIC))
    made = type(made)(**{**vars(made), "markers": (Marker(5, 2 * RATE, name), Marker(6, 3 * RATE, "a=b"))})
    found = rows(written(passages.write_markers, made, (), fps=Fraction(25)))
    assert [row["name"] for row in found] == [f"'{name}", "a=b"]
    assert all(float(row["time_s"]) >= 0 for row in found)


def film():
    talk, bed = media(1, 10, "Talk.wav"), media(2, 30, "Bed.flac")
    return project(
        lane(
            1, Tag.DIALOGUE, clip(1, talk, start_s=2.5, offset_s=1, length_s=4), clip(2, talk, start_s=20, gain_db=-3.0)
        ),
        lane(2, Tag.MUSIC, clip(3, bed), clip(4, bed, start_s=25), gain_db=1.5),
        lane(3, Tag.EFFECTS),
    )


def test_the_list_of_clips_names_them_all():
    text = written(passages.write_clips, film())
    assert "00:02.500 – 00:06.500  from 00:01.000  Talk.wav" in text
    assert "lane 2 (sound, music, +1.5 dB)" in text
    assert text.count("Bed.flac") == 2


def test_the_timeline_is_read_back_with_clips_gains_and_curve(tmp_path):
    path = tmp_path / "film.otio"
    timeline.write(
        path, film(), curve_of=lambda of, each: CURVE if of.tag is Tag.MUSIC else None, url_of=lambda each: each.name
    )
    back = otio.adapters.read_from_file(str(path))
    talk, bed, more, effects = back.tracks
    assert [track.kind for track in back.tracks] == ["Audio"] * 4
    assert (talk.name, bed.metadata["jay_lantern"]["gain_db"], more.metadata["jay_lantern"]["layer"]) == (
        "lane 1",
        1.5,
        1,
    )
    assert len(effects) == 0
    first, second = talk.find_clips()
    assert talk.range_of_child(first).start_time == otio.opentime.RationalTime(2.5 * RATE, RATE)
    assert first.source_range.start_time.to_seconds() == 1.0
    assert first.duration().to_seconds() == 4.0
    assert talk.range_of_child(second).start_time.to_seconds() == 20.0
    assert second.metadata["jay_lantern"]["gain_db"] == -3.0
    assert first.media_reference.target_url == "Talk.wav"
    assert len(first.media_reference.metadata["jay_lantern"]["sha256"]) == 64
    [under] = bed.find_clips()
    assert list(under.metadata["jay_lantern"]["curve"]["gain_db"]) == [0.0, -10.458, -10.458, 0.0]
    [over] = more.find_clips()  # it overlaps the other clip of its lane
    assert more.range_of_child(over).start_time.to_seconds() == 25.0


def test_missing_media_and_markers_are_said(tmp_path):
    made = film()
    made = replace(made, markers=(Marker(5, 2 * RATE, "Noon"),))
    path = tmp_path / "film.otio"
    timeline.write(path, made, curve_of=lambda *_: None, url_of=lambda _: None)
    back = otio.adapters.read_from_file(str(path))
    assert all(each.media_reference.is_missing_reference for each in back.find_clips())
    [marker] = back.tracks.markers
    assert (marker.name, marker.marked_range.start_time.to_seconds()) == ("Noon", 2.0)
