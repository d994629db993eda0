"""Pins: what they refuse, and what a dip has of its own: merged, stored and read again."""

from __future__ import annotations

import pytest

from jaylantern.core.timeline.kinds import LARGEST_N
from jaylantern.core.timeline.pin import MEDIA_TIME, NOTHING_OWN, OWN, DipPin, Heard, Own, PointPin, SpeechPin
from jaylantern.core.timeline.settings import Settings
from jaylantern.errors import InvalidValue


@pytest.mark.parametrize(("start_n", "stop_n"), [(-1, 5), (5, 5), (6, 5)])
def test_a_stretch_of_speech_begins_at_nothing_or_later_and_ends_after_it_begins(start_n, stop_n):
    with pytest.raises(InvalidValue, match=f"must end after it begins; {start_n} to {stop_n} does not"):
        SpeechPin(1, 1, Heard.SPEECH, start_n, stop_n)


def test_a_stretch_may_begin_at_nothing_and_last_a_sample():
    assert SpeechPin(1, 1, Heard.APART, 0, 1).stop_n == 1


@pytest.mark.parametrize(
    ("gain_db", "instead_n", "refused"),
    [
        (-90.0, None, None),
        (12.0, None, None),
        (None, 5, None),
        (-90.1, None, "from -90 to 12 dB; -90.1 does not"),
        (12.1, 7, "from -90 to 12 dB; 12.1 does not"),
        (None, None, "taken away must say which"),
    ],
)
def test_the_gain_of_a_point_and_which_one_is_taken_away(gain_db, instead_n, refused):
    if refused is None:
        assert PointPin(1, 1, 0, gain_db, instead_n).dipped is False
    else:
        with pytest.raises(InvalidValue, match=refused):
            PointPin(1, 1, 0, gain_db, instead_n)


def test_what_is_a_dips_own_is_checked_sorted_and_can_be_a_key():
    one, two = Own({"release_ms": 900, "amount_db": -9}), Own({"amount_db": -9, "release_ms": 900})
    assert list(one.values) == ["amount_db", "release_ms"]
    assert one == two
    assert hash(one) == hash(two)
    assert len({one, two, Own(one.values, True), Own({"amount_db": -9}), NOTHING_OWN}) == 4
    assert one.none is False


def test_what_the_limits_of_a_setting_refuse_is_refused_for_one_dip_too():
    with pytest.raises(InvalidValue, match="Duck amount"):
        Own({"amount_db": 40})
    with pytest.raises(InvalidValue, match=r"^A dip can't have a 'sensitivity' of its own\.$"):
        Own({"sensitivity": 60})
    with pytest.raises(InvalidValue, match=r"^A dip can't have a '(x{40})' of its own\.$"):
        Own({"x" * 50: 1})


@pytest.mark.parametrize(
    ("own", "empty", "plain"),
    [
        (Own(), True, {}),
        (Own(none=True), False, {"none": True}),
        (Own({"amount_db": -9}), False, {"amount_db": -9}),
        (Own({"amount_db": -9}, none=True), False, {"amount_db": -9, "none": True}),
    ],
)
def test_as_values_and_back(own, empty, plain):
    assert own.empty is empty
    assert own.plain == plain
    assert Own.of(plain) == own
    assert OWN.restored(OWN.stored(own)) == own
    assert OWN.checked(OWN.plain(own), "own") == own


def test_stored_as_text_in_the_order_of_names():
    assert OWN.stored(Own({"release_ms": 900, "amount_db": -9}, none=True)) == (
        '{"amount_db": -9.0, "none": true, "release_ms": 900.0}'
    )
    assert Own.of({"none": False}) == Own.of({"none": None}) == NOTHING_OWN


def test_what_is_no_object_is_refused_by_its_name():
    with pytest.raises(InvalidValue, match=r"^What is its own must be an object\.$"):
        OWN.checked([], "What is its own")


@pytest.mark.parametrize(
    ("values", "found"),
    [
        ({"hold_ms": 100}, {"amount_db": -9, "hold_ms": 100}),
        ({"amount_db": -3}, {"amount_db": -3}),
        ({"amount_db": None}, {}),
        ({"hold_ms": None}, {"amount_db": -9}),
        ({}, {"amount_db": -9}),
    ],
)
@pytest.mark.parametrize("none", [False, True])
def test_values_come_and_go_and_no_dip_stays_no_dip(values, found, none):
    assert Own({"amount_db": -9}, none).changed(values) == Own(found, none)


def test_what_is_its_own_lies_over_the_settings_and_leaves_the_rest():
    plain = Settings()
    assert NOTHING_OWN.over(plain) is plain
    assert Own({"amount_db": -3}).over(plain) == plain.changed({"amount_db": -3})


@pytest.mark.parametrize(
    ("at_n", "fits"),
    [(-LARGEST_N, True), (0, True), (LARGEST_N, True), (LARGEST_N + 1, False), (-LARGEST_N - 1, False), (1.5, False)],
)
def test_a_point_may_lie_before_the_beginning_of_its_medium(at_n, fits):
    if fits:
        assert MEDIA_TIME.checked(at_n, "at_n") == at_n
    else:
        with pytest.raises(InvalidValue):
            MEDIA_TIME.checked(at_n, "at_n")


def test_a_dip_pin_holds_what_it_is_given():
    made = DipPin(3, 1, 10, 20, Own({"amount_db": -9}))
    assert (made.id, made.media_id, made.start_n, made.stop_n, made.own.values["amount_db"]) == (3, 1, 10, 20, -9)
