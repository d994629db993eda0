"""Powers of bands in the data folder: kept at import, made anew where there are none, of treated sound."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile

from jaylantern import commands
from jaylantern.core.signal.sixth_octaves import EDGE_HZ, SIXTHS
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.care import Care
from jaylantern.library.facts import bands_kept
from jaylantern.library.library import Library
from jaylantern.store import projects
from tests import sounds


@pytest.fixture
def talk(db, project_id, bring, tmp_path):
    """A medium of ten seconds of a prompt with a low hum under it."""
    sound = sounds.talk({"vm-intro": 1.0}, seconds=10) + sounds.sine(hz=70, seconds=10, amplitude=0.05)
    soundfile.write(tmp_path / "Talk.wav", sound, RATE)
    assert bring(tmp_path / "Talk.wav").state == "done"
    [lane] = projects.load(db, project_id).lanes
    commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "dialogue"})
    return lane.clips[0].media


def hum(spectrum) -> float:
    """Mean power of the sixths around 70 Hz."""
    inside = (EDGE_HZ[1:] > 60) & (EDGE_HZ[:-1] < 80)
    return float(spectrum.sixths.products[:, inside, 0].sum(axis=1).mean())


def test_they_are_kept_at_import_and_made_anew_where_they_are_missing(workspace, talk):
    folder = workspace.library.folder_of(talk.sha256)
    kept = bands_kept(folder)
    assert kept.sixths.products.shape == (100, SIXTHS, 1)
    assert hum(kept) == pytest.approx(0.05**2 / 2, rel=0.05)
    for spoil in (lambda: (folder / "bands.npz").unlink(),
                  lambda: np.savez(folder / "bands.npz", bands=np.zeros((100, 20, 1), np.float16))):  # fmt: skip
        spoil()
        assert bands_kept(folder) is None
        again = Library(workspace.library.folder_of).bands(talk, None)
        assert np.array_equal(again.sixths.products, kept.sixths.products)
        assert np.array_equal(bands_kept(folder).sixths.products, kept.sixths.products)


def test_of_treated_sound_they_are_known_once_it_is_treated_whole(workspace, talk):
    care = Care(low_cut=120)
    assert workspace.library.bands(talk, care) is None
    for _ in workspace.library.treat(talk, care):
        pass
    assert hum(workspace.library.bands(talk, care)) < 0.2 * hum(workspace.library.bands(talk, None))


def test_what_is_decided_in_a_project_is_made_out_by_them(workspace, db, project_id, talk):
    _, result = workspace.load(db, project_id)
    assert len(result.sii) == len(result.plan.passages) > 0
    assert min(result.sii) > 0.9  # talk alone
