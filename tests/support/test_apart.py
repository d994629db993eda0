"""What is done in a process of its own: its answer, its refusals, and that nothing it does harms the one that asked."""

from __future__ import annotations

import json
import math
import operator
import os
import time
from types import MappingProxyType

import pytest

from jaylantern.errors import MediaError
from jaylantern.interchange.plain import parsed
from jaylantern.support import apart
from jaylantern.support.apart import Limits

try:
    import resource
except ImportError:
    resource = None

BRIEF = Limits(seconds=1, memory_bytes=64 << 20)
ENDS = [
    (os.abort, (), "it breaks what reads it"),
    (math.factorial, (10**8,), "longer than 1 seconds"),
    (time.sleep, (60,), "longer than 1 seconds"),
    (operator.mul, (b"x", 1 << 30), "more than 64 MiB of memory"),
    (json.loads, ("[",), "nobody expects there (JSONDecodeError)"),
    (parsed, ('{"a": NaN}', "a.json"), "NaN is no number"),
    (parsed, ('{"a": 1, "b": {"c": 2, "c": 3}}', "a.json"), "it says 'c' twice"),
]


@pytest.mark.parametrize(("function", "given", "words"), ENDS, ids=lambda each: getattr(each, "__name__", None))
def test_whatever_becomes_of_it_is_told_in_a_line(function, given, words):
    with pytest.raises(MediaError) as told:
        apart.call(function, *given, what="odd.otio", limits=BRIEF)
    assert words in str(told.value)
    assert "\n" not in str(told.value)


def test_an_answer_comes_back_as_it_was():
    assert apart.call(operator.add, [1], [MappingProxyType({"a": 2})], what="x") == [1, {"a": 2}]


def test_a_large_document_within_the_limits_is_read():
    assert len(apart.call(json.loads, json.dumps([0.5] * 10**6), what="x")) == 10**6


@pytest.mark.parametrize(("which", "limits"), [("RLIMIT_CPU", (1, 2)), ("RLIMIT_CORE", (0, 0))], ids=["time", "core"])
@pytest.mark.skipif(resource is None, reason="on Windows a job object has the limits")
def test_the_system_itself_is_told_the_limits(which, limits):
    assert apart.call(resource.getrlimit, getattr(resource, which), what="x", limits=BRIEF) == limits
