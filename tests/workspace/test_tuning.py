"""The tuning map of a project in a data folder: worked out once while only its two settings change, else anew."""

from __future__ import annotations

from dataclasses import replace

import pytest

from jaylantern.core.ducking import tuning
from jaylantern.core.timeline.settings import Mode
from jaylantern.errors import InvalidValue, Refused
from jaylantern.store import projects
from jaylantern.workspace.tuning import COUNT
from tests.whole_project import *  # noqa: F403

NAMES = ("sensitivity", "hold_ms")


@pytest.fixture
def project(db, project_id, film):
    """A film with pins, pairs, points, lines."""
    return projects.load(db, project_id)


def with_settings(project, **values):
    return replace(project, revision=project.revision + 1, settings=project.settings.changed(values))


def test_the_map_is_the_same_while_only_its_own_settings_change(workspace, project):
    found = workspace.tuning.map(project, NAMES)
    assert workspace.tuning.map(with_settings(project, sensitivity=80, hold_ms=10), NAMES) is found
    assert workspace.tuning.map(with_settings(project, amount_db=-3), NAMES) is not found
    assert workspace.tuning.map(project, NAMES[::-1]) is not found
    assert workspace.tuning.map(replace(project, lanes=project.lanes[:-1]), NAMES) is not found


def test_places_are_what_deciding_each_gives_and_are_worked_out_once(workspace, project):
    found = workspace.tuning.map(project, NAMES)
    x, y = found.values
    wanted = [(0, 0), (23, 23), (5, 17), (12, 3)]
    for (i, j), figures in workspace.tuning.places(found, wanted).items():
        alone = workspace.decide(with_settings(project, sensitivity=x[i], hold_ms=y[j]))
        assert figures == tuning.figures(alone.plan, alone.clear)
    assert sorted(found.worked_out) == sorted(wanted)
    found.worked_out[0, 0] = found.worked_out[0, 0]._replace(points=-1)
    assert workspace.tuning.places(found, [(0, 0)])[0, 0].points == -1


def test_where_it_is_sweet_all_of_it_is_known(workspace, project):
    found = workspace.tuning.map(project, NAMES)
    workspace.tuning.places(found, [(0, 0)])
    sweet = workspace.tuning.sweet(found)
    assert len(found.worked_out) == COUNT * COUNT
    assert sweet == tuning.sweet(found.worked_out, project.settings)


@pytest.mark.parametrize("names", [("hold_ms", "hold_ms"), ("hold_ms", "target_lufs"), ("", "hold_ms")])
def test_only_two_different_settings_of_ducking_make_a_map(workspace, project, names):
    with pytest.raises(InvalidValue, match="two different settings"):
        workspace.tuning.map(project, names)


def test_an_even_bed_has_no_map(workspace, project):
    with pytest.raises(Refused, match="even bed"):
        workspace.tuning.map(with_settings(project, mode=Mode.EVEN), NAMES)
