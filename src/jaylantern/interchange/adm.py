"""The Audio Definition Model of a programme of objects: ITU-R BS.2076-2, in the frame that BS.2088 shows.

audioProgramme → audioContent → audioObject → audioPackFormat → audioChannelFormat → blocks of gain over time
                                           → audioTrackUID   → audioTrackFormat → audioStreamFormat ↗

What stands still is a stereo pair of loudspeakers, by the common definitions; what gives way is a pair of objects that
stand where these are, with a gain over time: over each block it goes in a straight line to the block's own.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple
from xml.etree import ElementTree

from jaylantern.core.signal.arrays import Doubles, Times
from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag

FRAME = "urn:ebu:metadata-schema:ebuCore_2015"
VERSION = "ITU-R_BS.2076-2"
UNITS = 100_000  # of time in a second: five decimals
QUARTER = UNITS // 4000  # units in a quarter of a millisecond
SIDES = (("left", 30.0), ("right", -30.0))  # ITU-R BS.2051, 0+2+0
STEREO_PACK = "AP_00010002"  # common definitions, BS.2094
STEREO_TRACKS = ("AT_00010001_01", "AT_00010002_01")
VOICEOVER, STORY = 2, 1  # dialogueContentKind of BS.2076
KINDS = {"music": 1, "effects": 2}  # nonDialogueContentKind
LOWEST_DB, HIGHEST_DB = -60.0, 6.0  # how far a listener may turn an object


@dataclass(frozen=True)
class AdmObject:
    """An object: its name, stem and tags; its gain over time as `lines` gives it, None where it has none."""

    name: str
    stem: str
    tags: frozenset[Tag]
    lines: tuple[Times, Doubles] | None = None

    @property
    def speaks(self) -> bool:
        """Is it talk?"""
        return any(tag.row.speaks for tag in self.tags)


class Track(NamedTuple):
    """What the chna chunk says of one track: its identity, how it is meant."""

    uid: str
    track_format: str
    pack_format: str


def clock(units: int) -> str:
    """A time as hh:mm:ss.zzzzz."""
    seconds, rest = divmod(units, UNITS)
    return f"{seconds // 3600:02}:{seconds // 60 % 60:02}:{seconds % 60:02}.{rest:05}"


def units_of(length_n: int) -> int:
    """A length in samples in the units of a time, rounded."""
    return round(length_n * UNITS / RATE)


def tracks(objects: Sequence[AdmObject]) -> list[Track]:
    """Two tracks for each object, in order."""
    return [track for number, each in enumerate(objects, 1) for track in _tracks(number, each)]


def _tracks(number: int, each: AdmObject) -> Iterator[Track]:
    for side in (0, 1):
        uid = f"ATU_{2 * number - 1 + side:08X}"
        if each.lines is None:
            yield Track(uid, STEREO_TRACKS[side], STEREO_PACK)
        else:
            yield Track(uid, f"AT_{_code(number, side)}_01", f"AP_{_code(number, 0)}")


def _code(number: int, side: int) -> str:
    """The digits of what is defined for an object's side: type 0003 are objects, from 1001 on are one's own."""
    return f"0003{0x1000 + 2 * number - 1 + side:04X}"


def _own(kind: str, number: int) -> str:
    """The identity of one's own content or object: they begin at 1001."""
    return f"{kind}_{0x1000 + number:04X}"


def document(name: str, objects: Sequence[AdmObject], length_n: int, loudness: Loudness | None = None) -> bytes:
    """The model of a programme as XML; `loudness` is what it measures when all objects stand as they are meant."""
    root = ElementTree.Element("ebuCoreMain", {"xmlns": FRAME})
    form = _under(_under(_under(root, "coreMetadata"), "format"), "audioFormatExtended", version=VERSION)
    end = units_of(length_n)
    programme = _under(
        form, "audioProgramme", audioProgrammeID="APR_1001", audioProgrammeName=name, start=clock(0), end=clock(end)
    )
    for number in range(1, len(objects) + 1):
        _say(programme, "audioContentIDRef", _own("ACO", number))
    if loudness is not None:
        _loudness(programme, loudness)
    for number, each in enumerate(objects, 1):
        content = _under(form, "audioContent", audioContentID=_own("ACO", number), audioContentName=each.name)
        _say(content, "audioObjectIDRef", _own("AO", number))
        _dialogue(content, each)
    for number, each in enumerate(objects, 1):
        _object(form, number, each, end)
    for number, each in enumerate(objects, 1):
        if each.lines is not None:
            _pack(form, number, each, end)
    for track in tracks(objects):
        uid = _under(form, "audioTrackUID", UID=track.uid, sampleRate=str(RATE), bitDepth="24")
        _say(uid, "audioTrackFormatIDRef", track.track_format)
        _say(uid, "audioPackFormatIDRef", track.pack_format)
    ElementTree.indent(root, " ")
    return ElementTree.tostring(root, encoding="UTF-8", xml_declaration=True) + b"\n"


def _under(parent: ElementTree.Element, name: str, **attributes: str) -> ElementTree.Element:
    return ElementTree.SubElement(parent, name, attributes)


def _say(parent: ElementTree.Element, name: str, text: str, **attributes: str) -> None:
    _under(parent, name, **attributes).text = text


def _loudness(programme: ElementTree.Element, found: Loudness) -> None:
    element = _under(programme, "loudnessMetadata", loudnessMethod="ITU-R BS.1770", loudnessRecType="EBU R128")
    for name, value in (
        ("integratedLoudness", found.integrated_lufs),
        ("loudnessRange", found.loudness_range_lu),
        ("maxTruePeak", found.true_peak_dbtp),
        ("maxMomentary", found.max_momentary_lufs),
        ("maxShortTerm", found.max_short_term_lufs),
    ):
        if math.isfinite(value):
            _say(element, name, f"{value:.2f}")


def _dialogue(content: ElementTree.Element, each: AdmObject) -> None:
    if each.speaks:
        kind = {frozenset({Tag.NARRATION}): VOICEOVER, frozenset({Tag.DIALOGUE}): STORY}.get(each.tags, 0)
        _say(content, "dialogue", "1", dialogueContentKind=str(kind))
    else:
        _say(content, "dialogue", "0", nonDialogueContentKind=str(KINDS.get(each.stem, 0)))


def _object(form: ElementTree.Element, number: int, each: AdmObject, end: int) -> None:
    element = _under(
        form,
        "audioObject",
        audioObjectID=_own("AO", number),
        audioObjectName=each.name,
        start=clock(0),
        duration=clock(end),
        dialogue="1" if each.speaks else "0",
        interact="1",
    )
    (first, second) = _tracks(number, each)
    _say(element, "audioPackFormatIDRef", first.pack_format)
    for track in (first, second):
        _say(element, "audioTrackUIDRef", track.uid)
    turned = _under(element, "audioObjectInteraction", onOffInteract="0", gainInteract="1", positionInteract="0")
    for bound, value in (("min", LOWEST_DB), ("max", HIGHEST_DB)):
        _say(turned, "gainInteractionRange", f"{10 ** (value / 20):.6f}", bound=bound)


def _pack(form: ElementTree.Element, number: int, each: AdmObject, end: int) -> None:
    kind = {"typeLabel": "0003", "typeDefinition": "Objects"}
    pack = _under(
        form, "audioPackFormat", audioPackFormatID=f"AP_{_code(number, 0)}", audioPackFormatName=each.name, **kind
    )
    for side in (0, 1):
        _say(pack, "audioChannelFormatIDRef", f"AC_{_code(number, side)}")
    blocks = list(_blocks(each, end))
    for side, (word, azimuth) in enumerate(SIDES):
        code, name = _code(number, side), f"{each.name} {word}"
        channel = _under(
            form, "audioChannelFormat", audioChannelFormatID=f"AC_{code}", audioChannelFormatName=name, **kind
        )
        for k, (begin, stop, gain) in enumerate(blocks, 1):
            block = _under(
                channel,
                "audioBlockFormat",
                audioBlockFormatID=f"AB_{code}_{k:08X}",
                rtime=clock(begin),
                duration=clock(stop - begin),
            )
            _say(block, "position", f"{azimuth:.1f}", coordinate="azimuth")
            _say(block, "position", "0.0", coordinate="elevation")
            _say(block, "position", "1.0", coordinate="distance")
            _say(block, "gain", f"{gain:.6f}")
        pcm = {"formatLabel": "0001", "formatDefinition": "PCM"}
        stream = _under(form, "audioStreamFormat", audioStreamFormatID=f"AS_{code}", audioStreamFormatName=name, **pcm)
        _say(stream, "audioChannelFormatIDRef", f"AC_{code}")
        _say(stream, "audioTrackFormatIDRef", f"AT_{code}_01")
        track = _under(form, "audioTrackFormat", audioTrackFormatID=f"AT_{code}_01", audioTrackFormatName=name, **pcm)
        _say(track, "audioStreamFormatIDRef", f"AS_{code}")


def _blocks(each: AdmObject, end: int) -> Iterator[tuple[int, int, float]]:
    """Blocks of gain: from when to when in units, and what it comes to at the end. The first one stands: it is as short
    as can be where the gain changes at once."""
    assert each.lines is not None
    times, gains = each.lines
    units = [min(int(time) * QUARTER, end) for time in times.tolist()]
    if len(units) < 2 or gains[0] != gains[1]:
        first = min(1, end)
        yield 0, first, float(gains[0])
    else:
        first = 0
    for k in range(1, len(units)):
        begin = max(units[k - 1], first)
        if units[k] > begin:
            yield begin, units[k], float(gains[k])
