"""What the program and its page both compute: the program's side. The page's: `tests/js/shared_vectors.test.js`."""

from __future__ import annotations

import json

import pytest

from tests import vectors

STORED = json.loads(vectors.FILE.read_text(encoding="utf-8"))
NOW = vectors.values()


def test_all_that_is_shared_is_there():
    assert STORED.keys() == NOW.keys()


@pytest.mark.parametrize("name", NOW)
def test_the_program_computes_what_is_written(name):
    """After a change that is meant: `python -m tests.vectors`, then the page's side."""
    assert len(STORED[name]) == len(NOW[name])
    for stored, now in zip(STORED[name], json.loads(json.dumps(NOW[name])), strict=True):
        assert stored.keys() == now.keys()
        for field, value in stored.items():
            assert now[field] == (
                value if isinstance(value, str | list) and not _figures(value) else pytest.approx(value, abs=1e-8)
            )


def _figures(value: object) -> bool:
    return isinstance(value, list) and all(isinstance(each, float | int) for each in value)
