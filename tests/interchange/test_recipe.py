"""Recipes: what they say, and that nothing wrong in them is passed over."""

from __future__ import annotations

import json
from pathlib import PurePosixPath

import pytest

from jaylantern.core.timeline.tailoring import Until
from jaylantern.errors import InvalidValue, JayError, MediaError
from jaylantern.interchange import recipe as recipes
from jaylantern.interchange.recipe import Aim, Tailor, in_words, matches, recipe_of

SMALLEST = {"talk": "talk*", "music": "music*", "hand_off": ["mix"]}
FULL = {
    "about": "lessons",
    "talk": ["talk*", "sound/voice*.wav"],
    "music": "*.flac",
    "picture": "*.mp4",
    "captions": "*.srt",
    "others": "by sound",
    "in_a_row": ["talk"],
    "preset": "clear",
    "settings": {"attack_ms": 300, "mode": "passage"},
    "clearance": {"sii": 0.7},
    "tailor": {"until": "talk", "exact": True, "pieces": 20, "fade_out": True},
    "target": {"lufs": -20, "dbtp": -2},
    "hand_off": ["mix", {"what": "film", "quality": "high"}],
}


def test_the_smallest_recipe_and_a_full_one():
    small, full = recipe_of(SMALLEST), recipe_of(FULL)
    assert small.patterns == {"talk": ("talk*",), "music": ("music*",)}
    assert (small.hand_off, small.tailor, small.aim, small.others) == (({"what": "mix"},), None, None, False)
    assert full.patterns["talk"] == ("talk*", "sound/voice*.wav")
    assert full.preset == "Clear"
    assert full.settings == {
        "attack_ms": 300, "mode": "passage", "duck_by": "clearance", "clear_in": "intelligibility", "wish_sii": 0.7,
    }  # fmt: skip
    assert full.tailor == Tailor(Until.TALK, True, 20, True)
    assert full.aim == Aim(-20, -2, 1.0)
    assert full.hand_off[1] == {"what": "film", "quality": "high"}


@pytest.mark.parametrize(
    ("changes", "word"),
    [
        ({"sparkle": 1}, "nothing called 'sparkle'"),
        ({"talk": []}, "names no pattern"),
        ({"talk": ""}, "takes a pattern"),
        ({"talk": 5}, "takes a pattern"),
        ({"talk": "../talk*"}, "leads out of"),
        ({"talk": "/home/talk*"}, "leads out of"),
        ({"others": "always"}, "one of leave, by sound"),
        ({"in_a_row": "picture"}, "in_a_row is one of"),
        ({"preset": "Sparkling"}, "preset is one of Gentle"),
        ({"settings": {"sparkle": 3}}, "no setting called"),
        ({"settings": {"attack_ms": -4}}, "must be between"),
        ({"settings": []}, "must be an object"),
        ({"clearance": {"lu": 10, "sii": 0.7}}, "wished in LU or by"),
        ({"clearance": {"lu": 900}}, "must be between"),
        ({"clearance": 10}, "must be an object"),
        ({"tailor": {"until": "noon"}}, "tailor.until is one of picture, talk"),
        ({"tailor": {"exact": "yes"}}, "tailor.exact is true or false"),
        ({"tailor": {"pieces": 101}}, "from 0 to 100"),
        ({"target": "Moon"}, "target is one of Broadcast, Europe"),
        ({"target": {"dbtp": -1}}, "says how loud"),
        ({"target": {"lufs": 0}}, "from -40 to -5"),
        ({"target": {"lufs": True}}, "is a number"),
        ({"hand_off": [{"form": "wav24"}]}, "names what is handed off"),
    ],
)
def test_what_is_wrong_in_a_recipe_is_told(changes, word):
    with pytest.raises(InvalidValue) as told:
        recipe_of({**SMALLEST, **changes})
    assert word in str(told.value)


@pytest.mark.parametrize("values", [[], "talk*", None, 5, {}, {"hand_off": ["mix"]}])
def test_what_is_no_recipe_is_told(values):
    with pytest.raises(InvalidValue):
        recipe_of(values)


@pytest.mark.parametrize(
    ("pattern", "path", "does"),
    [
        ("talk*", "talk 1.wav", True),
        ("talk*", "Talk.WAV", True),
        ("talk*", "sound/talk.wav", True),
        ("sound/talk*", "sound/talk.wav", True),
        ("sound/talk*", "talk.wav", False),
        ("talk?.wav", "talk12.wav", False),
        ("[ab].wav", "b.wav", True),
        ("*.flac", "flac", False),
    ],
)
def test_patterns_go_by_names_as_shells_do(pattern, path, does):
    """fnmatch, the rules of POSIX 2.13 "Pattern Matching Notation", small and large letters alike."""
    assert matches(pattern, PurePosixPath(path)) is does


def test_a_file_that_is_two_things_is_told():
    with pytest.raises(InvalidValue, match="both talk and music"):
        recipe_of({"talk": "*a*", "music": "*b*"}).role_of(PurePosixPath("ab.wav"))


def test_json_and_toml_say_the_same_and_have_one_key():
    toml = b"""
talk = "talk*"
hand_off = ["mix"]
music = "music*"
about = "other words"
"""
    one, other = recipes.read(json.dumps(SMALLEST).encode(), "a.json"), recipes.read(toml, "a.toml")
    assert one.key == other.key
    assert one.key != recipe_of({**SMALLEST, "music": "bed*"}).key


@pytest.mark.parametrize(
    ("text", "name"),
    [(b"{", "a.json"), (b'{"talk": "a", "talk": "b"}', "a.json"), (b"talk = ", "a.toml"), (b"\xff", "a.toml"),
     (b"[" * 5000, "a.json"), (b"a = " + b"[" * 5000, "a.toml"), (b"\x00", "a.json")],
)  # fmt: skip
def test_a_document_that_is_none_is_told_in_one_line(text, name):
    with pytest.raises((InvalidValue, MediaError)) as told:
        recipes.read(text, name)
    assert isinstance(told.value, JayError)
    assert "\n" not in str(told.value)


def test_it_says_in_words_what_it_does():
    said = in_words(recipe_of(FULL))
    assert said[:5] == ["Talk: talk*, sound/voice*.wav.", "Music: *.flac.", "Picture: *.mp4.", "Captions: *.srt.",
                        "Other files are taken by what they sound like."]  # fmt: skip
    assert "Ducked by the preset Clear." in said
    assert "Fall time 300 ms." in said or "Attack 300 ms." in said
    assert "Music is tailored to the end of the talk, on the sample, its end faded." in said
    assert "Brought to -20 LUFS, -2 dBTP at most." in said
    assert said[-1] == "Handed off: mix, film."
