"""Names that every system takes. Source of the tables: Microsoft, "Naming Files, Paths, and Namespaces" and "Maximum
Path Length Limitation"; what macOS takes for the same name: Unicode Standard Annex 15."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaylantern.support import file_names

DEVICES = ["CON", "PRN", "AUX", "NUL", "COM1", "com9", "LPT1", "lpt¹", "COM²", "CONIN$", "conout$"]


@pytest.mark.parametrize(
    ("wanted", "name"),
    [
        ("Quay", "Quay"),
        ("Clock: part 1/2", "Clock part 1 2"),
        ('a<b>c"d|e?f*g\\h', "a b c d e f g h"),
        ("ends. . ", "ends"),
        ("..hidden", "hidden"),
        ("tab\tand\x00nul", "tab and nul"),
        ("", "file"),
        ("???", "file"),
        ("CON", "CON_"),
        ("con.wav", "con_.wav"),
        ("Nul .tar.gz", "Nul_.tar.gz"),
        ("COM1", "COM1_"),
        ("COM0", "COM0_"),
        ("COM10", "COM10"),
        ("console", "console"),
        ("a.con", "a.con"),
        ("e\u0301", "é"),
        ("\ud800x", "x"),
        ("é" * 100, "é" * 60),
        ("a" * 119 + "é", "a" * 119),
        ("a" * 118 + " .b", "a" * 118),
    ],
)
def test_a_name_is_as_near_as_every_system_takes_it(wanted, name):
    assert file_names.fit(wanted) == name


@pytest.mark.parametrize("device", DEVICES)
@pytest.mark.parametrize("ending", ["", ".wav", " .x", ".tar.gz"])
def test_no_name_is_a_device(device, ending):
    assert file_names.fit(device + ending).split(".")[0].strip().casefold() not in {each.casefold() for each in DEVICES}


@settings(max_examples=200)
@given(st.text(max_size=300))
def test_what_is_fit_is_fit_again_and_is_taken_by_all(text):
    name = file_names.fit(text)
    assert file_names.fit(name) == name
    assert 0 < len(name.encode()) <= file_names.MOST_BYTES + 1
    assert name[-1] not in " ."
    assert not set(name) & set('<>:"/\\|?*')


@pytest.mark.parametrize(
    ("wanted", "names"),
    [
        (["a", "b"], ["a", "b"]),
        (["Talk", "talk", "TALK"], ["Talk", "talk (2)", "TALK (3)"]),
        (["talk", "talk", "talk (2)"], ["talk", "talk (3)", "talk (2)"]),
        (["é", "e\u0301"], ["é", "e\u0301 (2)"]),
        (["straße", "STRASSE"], ["straße", "STRASSE (2)"]),
    ],
)
def test_names_are_told_apart_where_case_does_not_count(wanted, names):
    assert file_names.told_apart(wanted) == names


@pytest.mark.parametrize(
    ("path", "extended"),
    [
        ("C:\\Films\\Quay", "\\\\?\\C:\\Films\\Quay"),
        ("C:/Films/../Talks/.", "\\\\?\\C:\\Talks"),
        ("\\\\server\\share\\Quay", "\\\\?\\UNC\\server\\share\\Quay"),
        ("//server/share/Quay", "\\\\?\\UNC\\server\\share\\Quay"),
        ("\\\\?\\C:\\a/b", "\\\\?\\C:\\a/b"),
    ],
)
def test_a_path_of_windows_in_its_extended_form(path, extended):
    assert file_names.extended(path) == extended


def test_a_name_that_is_there_under_another_spelling():
    assert file_names.spelled_otherwise("talk", ["Music", "Talk"]) == "Talk"
    assert file_names.spelled_otherwise("Talk", ["Music", "Talk"]) is None
