"""Names of what is handed off: each file of one hand-off has its own, however long the project's name is."""

from __future__ import annotations

import pytest

from jaylantern.export.request import ExportRequest
from jaylantern.media.sound_files import form_of
from jaylantern.support.file_names import MOST_BYTES, fit

FORM, RATE = form_of("wav24", 48000)


@pytest.mark.parametrize(
    ("pattern", "project", "name"),
    [
        ("{project} - {what}", "Quay", "Quay - music"),
        ("{project}", "Quay", "Quay music"),
        ("{what}", "Quay", "music"),
        ("{project}.{what}", "CON", "CON_.music"),
        ("{project}/{what}", "a:b", "a b music"),
        ("{project} {what}", "…", "… music"),
    ],
)
def test_a_name_by_its_pattern(pattern, project, name):
    assert ExportRequest("mix", FORM, RATE, pattern=pattern).name(project, "music") == name


@pytest.mark.parametrize("project", ["a" * 300, "錨" * 80, "é. " * 100])
@pytest.mark.parametrize("pattern", ["{project} {what}", "{what} {project}", "x" * 150 + " {what}"])
def test_long_names_keep_apart_what_is_handed_off(project, pattern):
    request = ExportRequest("mix", FORM, RATE, pattern=pattern)
    names = [request.name(project, what) for what in ("music", "speech", "film", "keyframes")]
    assert len(set(names)) == 4
    assert all(len(name.encode()) <= MOST_BYTES and fit(name) == name for name in names)
