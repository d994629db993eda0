"""The door of a checkout: what is missing is said in one line before anything is installed."""

from __future__ import annotations

import pytest

import jay

HERE = {"version": (3, 12), "system": "linux", "machine": "x86_64", "bits": 64, "libc": "glibc", "has": bool}


@pytest.mark.parametrize(
    ("machine", "said"),
    [
        ({}, ""),
        ({"version": (3, 11)}, ""),
        ({"version": (3, 13)}, ""),
        ({"version": (3, 10)}, "Python 3.11 to 3.13 is needed; this is 3.10."),
        ({"version": (3, 14)}, "this is 3.14, for which opentimelineio has no wheel"),
        ({"bits": 32}, "64 bit"),
        ({"machine": "aarch64"}, ""),
        ({"libc": ""}, "without glibc"),
        ({"system": "win32", "machine": "AMD64", "libc": ""}, ""),
        ({"system": "win32", "machine": "ARM64", "libc": ""}, "for x64"),
        ({"system": "darwin", "machine": "arm64", "libc": ""}, ""),
        ({"system": "darwin", "machine": "x86_64", "libc": ""}, "Intel"),
        ({"has": lambda name: name != "ensurepip"}, "python3-venv"),
    ],
)
def test_what_is_missing_is_said_in_one_line(machine, said):
    found = jay.missing(**{**HERE, **machine})
    assert (said in found) if said else found == ""
    assert "\n" not in found
