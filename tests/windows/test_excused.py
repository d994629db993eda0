"""The list of what does not run under Wine: short, and true of tests that are there."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from tests.windows.excused import FOLDERS, TESTS

ROOT = Path(__file__).parent.parent.parent
MOST = 30


def test_the_list_is_short_and_gives_reasons():
    assert len(TESTS) <= MOST
    assert len(FOLDERS) <= 6
    assert all(len(why.split()) > 3 for why in TESTS.values())


@pytest.mark.parametrize("name", [*TESTS, *(f"tests/{folder}" for folder in FOLDERS)])
def test_what_is_excused_is_there(name):
    path, *functions = name.split("::")
    assert (ROOT / path).exists()
    for function in functions:
        head = re.escape(function.split("[")[0])
        assert re.search(rf"^def {head}\(", (ROOT / path).read_text(encoding="utf-8"), re.M)
