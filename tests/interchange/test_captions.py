"""Captions as files: odd ones come in with clear words, what goes out is read by another program as it was meant.

WebVTT after W3C, WebVTT: The Web Video Text Tracks Format (cue timings, settings, escapes; notes, styles and regions);
SubRip has no standard: common practice.
"""

from __future__ import annotations

import io

import pytest
import webvtt
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.core.captions.placing import Shown
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.captions import CaptionForm, Cue, plain_text
from jaylantern.errors import InvalidValue
from jaylantern.interchange import captions

VTT, SRT = CaptionForm.VTT, CaptionForm.SRT
PLAIN = "1\n00:00:01,000 --> 00:00:02,500\nHello\n\n2\n00:01:10,040 --> 01:00:12,000\nTwo\nlines\n"


def read(text: str, name: str = "Film.srt"):
    return captions.read(text.encode(), name)


def said(found) -> list[tuple[float, float, str]]:
    return [(cue.start_n / RATE, cue.stop_n / RATE, cue.text) for cue in found.cues]


def test_a_plain_file_comes_in_without_a_remark():
    found = read(PLAIN)
    assert said(found) == [(1.0, 2.5, "Hello"), (70.04, 3612.0, "Two\nlines")]
    assert (found.form, found.remarks) == (SRT, ())


ODD = {  # what is odd: the file, what comes of it, what is said
    "windows line ends": ("1\r\n00:00:01,000 --> 00:00:02,000\r\nA\r\n\r\n", [(1, 2, "A")], ()),
    "a mark at the beginning": ("\ufeff1\n00:00:01,000 --> 00:00:02,000\nA\n", [(1, 2, "A")], ()),
    "no numbers": ("00:01,000 --> 00:02,000\nA\n\n00:03,000 --> 00:04,000\nB", [(1, 2, "A"), (3, 4, "B")], ()),
    "no blank lines": ("1\n00:00:01,000 --> 00:00:02,000\nA\n2\n00:00:03,000 --> 00:00:04,000\nB\n",
                       [(1, 2, "A"), (3, 4, "B")], ()),
    "a number is what is said": ("1\n00:00:01,000 --> 00:00:02,000\n42\n\n2\n00:00:03,000 --> 00:00:04,000\nB\n",
                                 [(1, 2, "42"), (3, 4, "B")], ()),
    "points for commas, short figures": ("1\n0:0:1.5-->0:00:02.25\nA\n", [(1.5, 2.25, "A")], ()),
    "no hours, no fraction": ("01:02 --> 01:03\nA\n", [(62, 63, "A")], ()),
    "wrong order": ("1\n00:00:05,000 --> 00:00:06,000\nB\n\n2\n00:00:01,000 --> 00:00:02,000\nA\n",
                    [(1, 2, "A"), (5, 6, "B")], ("1 cue stood out of order; all are in order now.",)),
    "overlapping": ("00:01 --> 00:03\nA\n\n00:02 --> 00:04\nB\n", [(1, 3, "A"), (2, 4, "B")],
                    ("1 cue begins before the one before is over (first at 00:02.000); both are kept.",)),
    "backwards and empty": ("00:02 --> 00:01\nA\n\n00:03 --> 00:04\n\n00:05 --> 00:06\n<i> </i>\n\n07:00 --> 07:01\nD",
                            [(420, 421, "D")], ("1 cue ends before it begins and was left out (line 1).",
                                            "2 cues say nothing and were left out (the first in line 4).")),
    "times that are none": ("00:01 --> x\nA\n\n00:99 --> 01:70\nB\n\n00:02 --> 00:03\nC", [(2, 3, "C")],
                            ("2 cues have no times that can be read and were left out (the first in line 1).",)),
    "an arrow in what is said": ("00:01 --> 00:02\n3 < 4 --> 5\nA --> B\n", [(1, 2, "3 < 4 --> 5\nA --> B")], ()),
}  # fmt: skip


@pytest.mark.parametrize("odd", ODD)
def test_an_odd_file_comes_in_and_what_is_odd_is_said(odd):
    text, cues, remarks = ODD[odd]
    found = read(text)
    assert said(found) == cues
    assert found.remarks == remarks


def test_webvtt_with_all_that_may_stand_in_it():
    text = (
        "WEBVTT - our film\nKind: captions\n\nSTYLE\n::cue { color: lime }\n\nREGION\nid:low\n\n"
        "NOTE\n00:01 --> 00:09 is no cue\n\nintro\n00:01.000 --> 00:02.000 line:10% align:left\n"
        "<v Anna>Salt &amp; <b>tide</b></v>\n\n"
        "NOTE between\n\n00:00:03.000 --> 00:00:04.000\n<c.loud>Bell</c> <00:00:03.500>again\n"
    )
    found = read(text, "Film.vtt")
    assert said(found) == [(1, 2, "<v Anna>Salt &amp; <b>tide</b></v>"), (3, 4, "<c.loud>Bell</c> <00:00:03.500>again")]
    assert found.cues[0].settings == "line:10% align:left"
    assert found.head == text[len("WEBVTT") :].partition("\n\nintro\n")[0]
    assert [cue.lead for cue in found.cues] == ["intro\n", "NOTE between\n\n"]
    assert found.remarks == ()
    assert [plain_text(cue.text, VTT) for cue in found.cues] == ["Salt & tide", "Bell again"]


def test_a_webvtt_that_does_not_say_so_is_read_and_told():
    found = read("00:01.000 --> 00:02.000\nA\n", "Film.vtt")
    assert found.form is VTT
    assert found.remarks == ("It does not begin with WEBVTT, as it should; it was read all the same.",)


SPOKEN = "Es war ein heißer Sommer in Köln, und die Möwen flogen über die Brücke. Äpfel, Öl und Übermut für später."
CYRILLIC = "Часы на набережной остановились ночью в январе, и стояли они девять лет, пока их не починили."


@pytest.mark.parametrize(("encoding", "text"), [
    ("utf-8-sig", SPOKEN), ("utf-16", SPOKEN), ("utf-16-be", "\ufeff" + SPOKEN), ("utf-8", CYRILLIC),
])  # fmt: skip
def test_a_file_that_says_how_it_is_written_is_read_so(encoding, text):
    data = (text[:1] if text[0] == "\ufeff" else "") + f"1\n00:00:01,000 --> 00:00:02,000\n{text.lstrip(chr(0xFEFF))}\n"
    found = captions.read(data.encode(encoding), "Film.srt")
    assert found.cues[0].text == text.lstrip("\ufeff")
    assert found.remarks == ()


@pytest.mark.parametrize(("encoding", "text"), [
    ("cp1252", SPOKEN), ("cp1251", CYRILLIC), ("cp1252", SPOKEN + " Das macht £5, sagt er: 20 °C."),
    ("cp1252", "Grüße aus Köln für £12\nund schöne Tage"), ("cp1252", "Où est-il allé ? À Noël, ça coûte 5 €."),
    ("cp1252", "Perché è così? Può darsi che la città sia già là, più su."),
    ("cp1252", "¿Qué año es? El niño mañana comerá piñas."),
    ("cp1252", "Været på øya er kjølig, og båten går når sjøen er rolig. Små fjell, høye trær."),
    ("cp1252", "Søren køber rødgrød og fløde hos købmanden, og Jørgen spiser brød."),
    ("cp1250", "Mgła nad Wisłą, jabłko, słoń i młyn; wzgłówek, okładka, Włodek i płot."),
    ("cp1250", "Az őrült hajós örült, hogy megjött az ősz; tűz égett a kikötőben, és fűtöttek."),
    ("cp1250", "Był wieczór i zegar nad przystanią stanął. Źle się działo, mówili, a łodzie stały w słońcu."),
    ("cp1250", "Příliš žluťoučký kůň úpěl ďábelské ódy, říkal starý hodinář u přístavu."),
])  # fmt: skip
def test_an_older_way_of_writing_is_guessed_and_told(encoding, text):
    found = captions.read(f"1\n00:00:01,000 --> 00:00:02,000\n{text}\n{text}\n".encode(encoding), "Film.srt")
    assert found.cues[0].text == f"{text}\n{text}"
    assert "not written in UTF-8 and was read as" in found.remarks[0]
    assert "choose another way to read them" in found.remarks[0]
    assert found.encoding == encoding


@pytest.mark.parametrize(
    "text", ["שלום \u200fעולם", "می\u200cخواهم", "👩\u200d🔧 mends", "soft\u00adhyphen", "a\u00a0b"]
)
def test_signs_that_join_and_turn_letters_stay(text):
    """Unicode format characters carry meaning in captions of many scripts."""
    assert read(f"00:01 --> 00:02\n{text}\n").cues[0].text == text


def test_control_characters_go():
    assert read("00:01 --> 00:02\nA\x00B\x07\ufeffC\tD\n").cues[0].text == "ABC\tD"


@pytest.mark.parametrize(("data", "words"), [
    (b"", "Film.srt is empty"), (b"hello\n", "There are no captions in Film.srt"),
    (b"\x00\x01\xff" * 4000, "There are no captions"),
    (b"WEBVTT\n\nNOTE\n00:01 --> 00:02 no\n", "There are no captions"),
])  # fmt: skip
def test_what_holds_no_captions_is_refused_in_words(data, words):
    with pytest.raises(InvalidValue, match=words):
        captions.read(data, "Film.srt")


@settings(max_examples=300, deadline=None)
@given(st.one_of(
    st.binary(max_size=300),
    st.text(alphabet="0123456789:,.-> \n\r<>{}\\&abiWEBVTNO\ufeff\u2028", max_size=300).map(str.encode),
    st.lists(st.sampled_from([PLAIN, "WEBVTT\n\n", "NOTE\n", "00:01 --> 00:02\n", "-->", "\n\n", "x\n", "\x00"])).map(
        lambda parts: "".join(parts).encode()),
), st.sampled_from(["a.vtt", "a.srt"]))  # fmt: skip
def test_whatever_is_sent_it_is_read_or_refused(data, name):
    try:
        found = captions.read(data, name)
    except InvalidValue:
        return
    assert all(cue.start_n < cue.stop_n and plain_text(cue.text, found.form).strip() for cue in found.cues)
    assert [cue.start_n for cue in found.cues] == sorted(cue.start_n for cue in found.cues)


@pytest.mark.parametrize(("first_s", "length_s", "begins_s", "words"), [
    (3610, 120, 10, ["counted from there"]),  # an hour in, as tapes begin
    (36010, 120, 10, ["Its times begin at 10:00:00"]),
    (3610, 4000, 3610, []),  # the film is as long
    (3610, 0, 3610, []),  # there is no film yet
    (130, 120, 130, ["1 cue lies after the end of the film."]),
    (3800, 120, 200, ["counted from there", "1 cue lies after the end"]),
])  # fmt: skip
def test_times_that_begin_at_an_hour_are_counted_from_it(first_s, length_s, begins_s, words):
    at = f"{first_s // 3600:02d}:{first_s // 60 % 60:02d}:{first_s % 60:02d}"
    found = read(f"{at},000 --> {at},900\nA\n").within(length_s * RATE)
    assert found.cues[0].start_n == begins_s * RATE
    assert len(found.remarks) == len(words)
    assert all(word in remark for word, remark in zip(words, found.remarks, strict=True))


TEXTS = {  # how a text is written: in WebVTT, in SubRip
    "plain": ("Salt", "Salt"),
    "two lines": ("Salt\nand tide", "Salt\nand tide"),
    "a blank line in it": ("Salt\n\nand tide", "Salt\nand tide"),
    "signs": ("Salt &amp; tide &lt;3", "Salt & tide <3"),
    "kept marks": ("<i>Salt</i> <b>and</b> <u>tide</u>", "<i>Salt</i> <b>and</b> <u>tide</u>"),
}


def shown(*texts: str) -> list[Shown]:
    return [
        Shown((2 * i + 1) * RATE, (2 * i + 2) * RATE + 48 * i, Cue(text, "line:0", ()), i)
        for i, text in enumerate(texts)
    ]


def written(cues, form, wanted, head="") -> str:
    out = io.StringIO()
    captions.write(out, cues, form=form, wanted=wanted, head=head)
    return out.getvalue()


@pytest.mark.parametrize("what", TEXTS)
def test_texts_are_written_in_the_other_format_as_they_are_read(what):
    vtt, srt = TEXTS[what]
    for form, wanted, text, there in ((VTT, SRT, vtt, srt), (SRT, VTT, srt, vtt.replace("\n\n", "\n"))):
        [cue] = read(written(shown(text), form, wanted), f"a.{wanted}").cues
        assert cue.text == there


@pytest.mark.parametrize(("form", "wanted", "text", "there"), [
    (VTT, SRT, "<v Anna>Salt</v> <c.loud>tide</c>", "Salt tide"),
    (SRT, VTT, "{\\an8}<font color=\"red\">Salt</font> <I>tide</I>", "Salt <i>tide</i>"),
    (SRT, VTT, "3 < 4 --> 5", "3 &lt; 4 --&gt; 5"),
    (SRT, VTT, "&amp; stays", "&amp; stays"),
    (SRT, SRT, "{\\an8}<font color=\"red\">Salt</font>", "{\\an8}<font color=\"red\">Salt</font>"),
    (VTT, VTT, "<v Anna>Salt &amp;</v>", "<v Anna>Salt &amp;</v>"),
])  # fmt: skip
def test_marks_that_the_other_format_does_not_have_go(form, wanted, text, there):
    assert written(shown(text), form, wanted).rstrip("\n").split("\n")[-1] == there


@pytest.mark.parametrize("form", [VTT, SRT])
@pytest.mark.parametrize("wanted", [VTT, SRT])
def test_another_program_reads_what_is_written(form, wanted, tmp_path):
    """webvtt-py reads both formats."""
    path = tmp_path / f"out.{wanted}"
    path.write_text(written(shown("Salt", "Two\nlines", "Bell"), form, wanted), encoding="utf-8")
    found = webvtt.read(str(path)) if wanted is VTT else webvtt.from_srt(str(path))
    assert [cue.text for cue in found] == ["Salt", "Two\nlines", "Bell"]
    assert [cue.start for cue in found] == ["00:00:01.000", "00:00:03.000", "00:00:05.000"]
    assert [cue.end for cue in found] == ["00:00:02.000", "00:00:04.001", "00:00:06.002"]


def test_styles_and_places_are_written_back_in_their_own_format_only():
    head = "STYLE\n::cue { color: lime }"
    assert written(shown("A"), VTT, VTT, head) == f"WEBVTT\n\n{head}\n\n00:00:01.000 --> 00:00:02.000 line:0\nA\n"
    assert written(shown("A"), VTT, SRT, head) == "1\n00:00:01,000 --> 00:00:02,000\nA\n"
    assert written(shown("A"), SRT, VTT) == "WEBVTT\n\n1\n00:00:01.000 --> 00:00:02.000\nA\n"


def again(found) -> str:
    """What was read, written in its own format."""
    cues = [
        Shown(cue.start_n, cue.stop_n, Cue(cue.text, cue.settings, (), cue.lead), i) for i, cue in enumerate(found.cues)
    ]
    out = io.StringIO()
    captions.write(out, cues, form=found.form, wanted=found.form, head=found.head, tail=found.tail)
    return out.getvalue()


def test_what_is_read_and_written_is_the_same_again():
    one, two = "00:00:01.000 --> 00:00:02.500 line:10%\n<v Anna>Salt</v>", "00:01:10.040 --> 01:00:12.000\nTide"
    text = f"WEBVTT\n\n1\n{one}\n\n2\n{two}\n"
    found = read(text, "a.vtt")
    assert again(found) == text


AS_THEY_CAME = {
    "names": "WEBVTT\n\nintro\n00:00:01.000 --> 00:00:02.000\nA\n\n00:00:03.000 --> 00:00:04.000\nB\n",
    "a header and styles": "WEBVTT - our film\nKind: captions\nLanguage: en\n\nSTYLE\n::cue { color: lime }\n\n"
    "00:00:01.000 --> 00:00:02.000\nA\n",
    "styles without a header": "WEBVTT\n\nREGION\nid:low\n\n1\n00:00:01.000 --> 00:00:02.000 region:low\nA\n",
    "notes before, between and behind": "WEBVTT\n\nNOTE by hand\n\none\n00:00:01.000 --> 00:00:02.000\nA\n\n"
    "NOTE two\nlines\n\nNOTE and one more\n\ntwo\n00:00:03.000 --> 00:00:04.000\nB\n\nNOTE the end\n",
}


@pytest.mark.parametrize("what", AS_THEY_CAME)
def test_what_webvtt_carries_beside_its_cues_comes_out_as_it_went_in(what):
    assert again(read(AS_THEY_CAME[what], "a.vtt")) == AS_THEY_CAME[what]


def test_a_map_of_times_to_a_stream_goes_and_a_cue_that_was_cut_is_named_once():
    found = read("WEBVTT\nX-TIMESTAMP-MAP=LOCAL:00:00:00.000,MPEGTS:0\n\nx\n00:01.000 --> 00:02.000\nA\n", "a.vtt")
    assert found.head == ""
    cue = Cue("A", "", (), "NOTE n\n\nx\n")
    twice = written([Shown(0, RATE, cue, 0), Shown(2 * RATE, 3 * RATE, cue, 0)], VTT, VTT)
    assert (twice.count("NOTE n"), twice.count("\nx\n"), twice.count("-->")) == (1, 1, 2)
