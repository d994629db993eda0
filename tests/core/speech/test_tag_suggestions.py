"""Suggested tags: real speech and music, signals whose nature is known, silence."""

from __future__ import annotations

import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.core.speech import tag_suggestions
from jaylantern.core.timeline.tag import Tag
from tests import sounds
from tests.sounds import facts_of


def tag_of(sound: np.ndarray) -> Tag | None:
    found = tag_suggestions.suggest(facts_of(sound))
    return found.tag if found else None


@pytest.mark.parametrize("name", ["vm-intro", "demo-congrats", "vm-opts", "conf-usermenu", "tt-weasels"])
def test_real_speech_is_dialogue_with_the_share_as_reason(name):
    found = tag_suggestions.suggest(facts_of(sounds.prompt(name)))
    assert found.tag is Tag.DIALOGUE
    assert "speech in" in found.reason
    assert "%" in found.reason


def test_a_narration_with_long_pauses_is_dialogue():
    assert tag_of(sounds.talk({"vm-intro": 5, "vm-opts": 40}, seconds=90)[:, 0]) is Tag.DIALOGUE


@pytest.mark.parametrize("name", sorted(path.stem for path in sounds.MUSIC.glob("*.g722")))
def test_real_music_is_music(name):
    assert tag_of(sounds.music(name)[: 60 * RATE]) is Tag.MUSIC


def test_steady_noise_is_atmosphere_and_a_burst_is_an_effect():
    assert tag_of(sounds.noise(seconds=30)[:, 0]) is Tag.ATMOSPHERE
    burst = np.pad(sounds.noise(seconds=0.5)[:, 0], (RATE // 5, RATE))
    assert tag_of(burst) is Tag.EFFECTS


def test_of_silence_nothing_is_said():
    assert tag_of(np.zeros(5 * RATE, np.float32)) is None


def test_a_held_chord_is_all_lines_and_noise_has_next_to_none():
    t = np.arange(RATE) / RATE
    chord = sum(np.sin(2 * np.pi * hz * t) for hz in (220.0, 277.2, 329.6)).astype(np.float32) * 0.1
    assert tag_suggestions.lines_share(chord) > 0.9
    assert tag_suggestions.lines_share(sounds.noise(seconds=1)[:, 0]) < 0.1
    assert np.isnan(tag_suggestions.lines_share(np.zeros(RATE, np.float32)))


@pytest.mark.parametrize("length_n", [1, RATE, 10 * RATE, 3 * 3600 * RATE])
def test_excerpts_lie_within_the_medium_and_are_not_too_many(length_n):
    at = tag_suggestions.excerpt_places(length_n)
    assert 1 <= len(at) <= tag_suggestions.MOST_EXCERPTS
    assert at.min() >= 0
    assert at.max() <= max(0, length_n - tag_suggestions.EXCERPT_N)


def test_a_clip_is_judged_by_what_it_shows_of_its_medium():
    sound = np.concatenate((sounds.prompt("vm-intro"), sounds.noise(seconds=30)[:, 0] * 0.1))
    speech_n = len(sounds.prompt("vm-intro"))
    assert tag_suggestions.suggest(facts_of(sound, 0, speech_n)).tag is Tag.DIALOGUE
    assert tag_suggestions.suggest(facts_of(sound, speech_n + RATE, 25 * RATE)).tag is Tag.ATMOSPHERE


SPOKEN = {"seconds": 20.0, "talk": 0.8, "sounding": 0.9, "lines": 0.05, "spread_db": 12.0, "loud_db": -20.0}


@pytest.mark.parametrize(
    ("facts", "tag"),
    [
        ({}, Tag.DIALOGUE),
        ({"loud_db": -69.9}, Tag.DIALOGUE),
        ({"loud_db": -70.1}, None),  # so soft that nothing is said of it
        ({"talk": 0.3}, Tag.DIALOGUE),
        ({"talk": 0.29, "lines": 0.1, "sounding": 0.6}, Tag.MUSIC),
        ({"talk": 0.0, "lines": 0.1, "sounding": 0.6, "seconds": 8.0}, Tag.MUSIC),
        ({"talk": 0.0, "lines": 0.1, "sounding": 0.59, "seconds": 8.0}, Tag.EFFECTS),
        ({"talk": 0.0, "lines": 0.39, "sounding": 0.8, "seconds": 5.0, "spread_db": 30.0}, Tag.EFFECTS),
        ({"talk": 0.0, "lines": 0.4, "sounding": 0.8, "seconds": 5.0}, Tag.MUSIC),
        ({"talk": 0.0, "sounding": 0.95, "spread_db": 10.0, "seconds": 5.0}, Tag.ATMOSPHERE),
        ({"talk": 0.0, "sounding": 0.95, "spread_db": 10.1, "seconds": 5.0}, Tag.EFFECTS),
        ({"talk": 0.0, "sounding": 0.8, "spread_db": 16.0, "seconds": 8.0}, Tag.ATMOSPHERE),
        ({"talk": 0.0, "sounding": 0.9, "spread_db": 20.0, "seconds": 20.0}, Tag.ATMOSPHERE),
        ({"talk": 0.0, "sounding": 0.3}, Tag.EFFECTS),
    ],
)
def test_each_tag_is_suggested_from_its_own_limits_on(facts, tag):
    found = tag_suggestions.suggest(tag_suggestions.Evidence(**{**SPOKEN, **facts}))
    assert (found and found.tag) == tag


@pytest.mark.parametrize(
    ("name", "tag"),
    [
        ("Narrator.flac", Tag.NARRATION),
        ("film narration 2.wav", Tag.NARRATION),
        ("Voice-over.wav", Tag.NARRATION),
        ("voice over final.mp3", Tag.NARRATION),
        ("VO_03.wav", Tag.NARRATION),
        ("Interview.wav", Tag.DIALOGUE),
        ("volcano.wav", Tag.DIALOGUE),
        ("", Tag.DIALOGUE),
    ],
)
def test_speech_is_narration_where_its_name_says_so(name, tag):
    assert tag_suggestions.suggest(tag_suggestions.Evidence(**SPOKEN), name=name).tag is tag


def test_a_name_alone_makes_no_narration():
    music = {**SPOKEN, "talk": 0.0, "lines": 0.5}
    assert tag_suggestions.suggest(tag_suggestions.Evidence(**music), name="Narrator.flac").tag is Tag.MUSIC


def facts(**more) -> tag_suggestions.Evidence:
    """Of a minute that sounds throughout, at −20 dBFS, with some changed."""
    usual = {"seconds": 60, "talk": 0.0, "sounding": 1.0, "lines": 0.0, "spread_db": 25, "loud_db": -20}
    return tag_suggestions.Evidence(**{**usual, **more})


@pytest.mark.parametrize(
    ("found", "tag", "words"),
    [
        (facts(talk=0.3), Tag.DIALOGUE, "speech in 30%"),
        (facts(talk=0.6, mixed=0.3, music=0.9), Tag.DIALOGUE, "over music already mixed in: it can't be ducked apart"),
        (facts(talk=0.6, mixed=0.29), Tag.DIALOGUE, "speech in 60% of what sounds"),
        (facts(talk=0.29, sung=0.1, music=0.5), Tag.MUSIC, "singing over music, in 10%"),
        (facts(sung=0.09, music=0.5), Tag.EFFECTS, "comes in bursts"),
        (facts(sung=0.49, music=0.4), Tag.EFFECTS, "comes in bursts"),
        (facts(sung=0.5), Tag.MUSIC, "sung in 50%"),
        (facts(music=0.7), Tag.MUSIC, "heard as music in 70%"),
        (facts(music=0.69), Tag.EFFECTS, "comes in bursts"),
        (facts(music=0.9, seconds=4), Tag.EFFECTS, "comes in bursts"),
        (facts(lines=0.1), Tag.MUSIC, "held notes carry 10%"),
        (facts(spread_db=9), Tag.ATMOSPHERE, "on and on"),
        (facts(loud_db=-71), None, ""),
    ],
)
def test_what_is_suggested_at_the_edges_of_every_rule(found, tag, words):
    said = tag_suggestions.suggest(found)
    assert (said.tag if said else None) == tag
    assert words in (said.reason if said else "")


def test_a_name_says_narration_but_not_of_what_is_mixed_already():
    assert tag_suggestions.suggest(facts(talk=0.5), name="VO take 2.wav").tag is Tag.NARRATION
    assert tag_suggestions.suggest(facts(talk=0.5, mixed=0.9), name="VO mix.wav").tag is Tag.DIALOGUE


def test_talk_over_music_in_one_file_is_said_to_be_mixed_already():
    talk, bed = sounds.prompt("demo-congrats")[: 20 * RATE], sounds.music()[: 20 * RATE]
    found = facts_of(talk + 0.25 * bed)
    assert found.mixed > 0.35
    assert "already mixed in" in tag_suggestions.suggest(found).reason
