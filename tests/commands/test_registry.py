"""All commands: named once, described for everyone, and refused in words that name value, limit and remedy."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from jaylantern import commands
from jaylantern.commands import COMMANDS
from jaylantern.commands.command import CLIPS, NEEDED, Command, Param, maybe
from jaylantern.core.timeline.kinds import (
    ID,
    LARGEST_N,
    TIME,
    Choice,
    Flag,
    Ids,
    Integer,
    Line,
    Listed,
    Maybe,
    Number,
    Thing,
    Values,
)
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import InvalidValue
from jaylantern.web import vocabulary

STATIC = Path(vocabulary.STATIC)
TEMPLATES = STATIC.parent / "templates"


@pytest.mark.parametrize("path", vocabulary.FILES, ids=lambda path: path.name)
def test_the_page_has_the_words_of_the_program(path):
    assert path.read_text(encoding="utf-8") == vocabulary.FILES[path](), "write it anew: ./jay vocabulary"


def test_every_command_the_page_names_is_there_and_every_one_it_could_name_is_named_somewhere():
    """What scripts and templates send, by the name in front of its values."""
    scripts = "\n".join(path.read_text(encoding="utf-8") for path in (STATIC / "js").rglob("*.js"))
    pages = "\n".join(path.read_text(encoding="utf-8") for path in TEMPLATES.rglob("*.html"))
    named = set(re.findall(r'\b(?:do|drag|doIt|onClips|onPassage|onCurve|_do)\("([a-z_]+)"', scripts))
    named |= set(re.findall(r'data-command="([a-z_]+)"', pages))
    assert len(named) > 30
    assert not named - COMMANDS.keys()
    words = scripts + pages + (STATIC.parent / "tagging.py").read_text(encoding="utf-8")
    elsewhere = {"open", "relink", "lay_take", "lift_pin"}  # by jobs, or by whoever speaks to the address
    assert not [name for name in COMMANDS if f"{name}" not in words and name not in elsewhere]


def test_a_name_means_one_command():
    assert all(name == command.name for name, command in COMMANDS.items())
    assert len(COMMANDS) == sum(len(noun.COMMANDS) for noun in commands.registry.NOUNS)


@pytest.mark.parametrize("name", COMMANDS)
def test_every_parameter_refuses_what_it_is_not(name):
    """An object is none of the plain kinds; what says otherwise is checked by the edit itself."""
    command = COMMANDS[name]
    for param, described in command.params.items():
        if described.kind.script in ("any", "(any)[]") or described.kind.script.startswith("Record"):
            continue
        values = {other: _some(each) for other, each in command.params.items() if other != param}
        with pytest.raises(InvalidValue) as refused:
            command.checked({**values, param: {"not": "this"}})
        assert len(str(refused.value)) > 20


def _some(param: Param):
    """A value that a parameter takes."""
    kind = param.kind.kind if isinstance(param.kind, Maybe) else param.kind
    match kind:
        case Integer(low=low):
            return max(low, 1)
        case Number(low=low):
            return low
        case Flag():
            return True
        case Choice(words=words):
            return str(next(iter(words)))
        case Line():
            return "name"
        case Ids() | Listed():
            return []
        case _:
            return {}


MADE = Command(
    "try",
    lambda project, new_id, **values: (str(values), project),
    clip_ids=CLIPS,
    at_n=TIME,
    gain_db=maybe(Number(-90, 24, "dB"), called="A gain"),
    name=maybe(Line(5), "none"),
)


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({}, "try needs clip_ids: a list of at most 20000 numbers"),
        ({"clip_ids": [1]}, "try needs at_n: a time from 0 to 24 hours"),
        (
            {"clip_ids": [1], "at_n": 5, "colour": 3},
            "try takes clip_ids, at_n, gain_db, name; 'colour' is not among it",
        ),
        (
            {"clip_ids": "all", "at_n": 5},
            "clip_ids must be a list .* 'all' is not. Choose clips on the timeline first.",
        ),
        ({"clip_ids": [True], "at_n": 5}, "clip_ids must be a list"),
        ({"clip_ids": [1], "at_n": True}, "at_n must be a time from 0 to 24 hours, in samples; 'True' is not"),
        ({"clip_ids": [1], "at_n": LARGEST_N + 1}, "Choose a time on the timeline"),
        ({"clip_ids": [1], "at_n": 5, "gain_db": 99}, "A gain must be a number from -90 to 24 dB; '99' is not. Choose"),
        ({"clip_ids": [1], "at_n": 5, "gain_db": float("nan")}, "A gain must be a number"),
        ({"clip_ids": [1], "at_n": 5, "gain_db": None}, "A gain must be a number"),
        ({"clip_ids": [1], "at_n": 5, "name": 3}, "name must be text"),
    ],
)
def test_what_is_wrong_is_said_with_its_limit_and_the_remedy(values, said):
    with pytest.raises(InvalidValue, match=said):
        MADE.checked(values)


@pytest.mark.parametrize(
    ("values", "expected"),
    [
        ({"clip_ids": [3, 3, 1], "at_n": 0}, {"clip_ids": [3, 1], "at_n": 0, "name": "none"}),
        ({"clip_ids": [], "at_n": LARGEST_N, "gain_db": -90, "name": "  a  b c d "},
         {"clip_ids": [], "at_n": LARGEST_N, "gain_db": -90.0, "name": "a b c"}),
        ({"clip_ids": [1], "at_n": 5, "seen": 4, "gesture": "g"}, {"clip_ids": [1], "at_n": 5, "name": "none"}),
    ],
)  # fmt: skip
def test_what_is_right_is_handed_to_the_edit_tidied(values, expected):
    assert MADE.checked(values) == expected


@pytest.mark.parametrize(
    ("kind", "good", "bad"),
    [
        (Maybe(TIME), [(None, None), (5, 5)], ["x", -1]),
        (Choice(Tag), [("music", Tag.MUSIC), ("ambience", Tag.ATMOSPHERE)], ["noise", None, 3]),
        (Flag(), [(True, True)], [1, "true", None]),
        (ID, [(1, 1)], [0, -1, 1.0, True, "1", None]),
        (Listed(TIME, 1, 2), [([1], [1]), ((1, 2), [1, 2])], [[], [1, 2, 3], ["a"], "12", {}]),
        (Values(TIME, 1), [({"a": 1}, {"a": 1})], [{}, {"a": "b"}, [1]]),
        (Line(3, needed=True), [(" ab cd", "ab ")], ["", "  ", 5]),
        (Thing(Tag), [(Tag.MUSIC, Tag.MUSIC)], ["music", None]),
    ],
)
def test_each_kind_takes_what_it_is_and_nothing_else(kind, good, bad):
    for value, expected in good:
        assert kind.checked(value, "it") == expected
    for value in bad:
        with pytest.raises(InvalidValue, match="it"):
            kind.checked(value, "it")


def test_a_parameter_that_may_be_left_out_says_so_to_the_page():
    script = vocabulary.script()
    assert "{clip_ids: number[], by_n: number, gesture?: string|null}} slip_clips" in script
    assert all(
        ("?" in f"{name}?") for name, param in COMMANDS["set_clips"].params.items() if param.default is not NEEDED
    )


def test_what_is_made_here_can_not_be_sent_from_outside(db, project_id):
    with pytest.raises(InvalidValue, match="made here"):
        commands.do(db, project_id, "open", {"opened": {"name": "Sneaked in"}})
