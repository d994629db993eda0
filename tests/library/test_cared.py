"""The sound of a voice that is taken care of: the same in any window, heard in the mix, kept in files, made anew."""

import threading
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from jaylantern import commands
from jaylantern.core.mixing.mix import Variant, render
from jaylantern.core.signal.loudness import KWeighting, integrated_lufs
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.care import Care
from jaylantern.jobs import care, work
from jaylantern.media import cared
from jaylantern.store import jobs, projects
from tests import sounds

ALL = {"low_cut": 90, "presence": 2, "hush": 10, "evenness": 4, "soft_s": 5, "breaths": 9}


@pytest.fixture
def talk(db, project_id, bring, tmp_path, workspace):
    """A project with noisy talk on a lane of dialogue; the numbers of the lane and its clip."""
    import soundfile

    clean = sounds.talk({"vm-intro": 1.0}, seconds=12)
    noisy = clean + 0.004 * np.random.default_rng(3).standard_normal(clean.shape)
    soundfile.write(tmp_path / "Talk.wav", noisy, RATE)
    assert bring(tmp_path / "Talk.wav").state == "done"
    [lane] = projects.load(db, project_id).lanes
    commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": "dialogue"})
    return lane.id, lane.clips[0].id


def heard(workspace, db, project_id, variant=Variant.DUCKED, first_n=0, last_n=12 * RATE):
    project, result = workspace.load(db, project_id)
    return render(result.programme, workspace.library.reader(project), first_n, last_n, variant)


def test_windows_equal_the_whole_with_every_part_on_and_bare_is_as_it_was(workspace, db, project_id, talk):
    before = heard(workspace, db, project_id)
    commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": ALL})
    whole = heard(workspace, db, project_id)
    assert np.abs(whole - before).max() > 0.01
    for first_n, last_n in ((0, 100), (RATE - 7, RATE + 7), (5 * RATE + 1, 9 * RATE), (11 * RATE, 12 * RATE)):
        assert np.array_equal(heard(workspace, db, project_id, first_n=first_n, last_n=last_n), whole[first_n:last_n])
    assert np.array_equal(heard(workspace, db, project_id, Variant.BARE), before)
    commands.do(db, project_id, "start_care", {"lane_id": talk[0], "start": "off"})
    assert np.array_equal(heard(workspace, db, project_id), before)


def test_a_clip_of_its_own_care_and_a_place_that_is_spared(workspace, db, project_id, talk):
    lane_id, clip_id = talk
    commands.do(db, project_id, "care_for_lane", {"lane_id": lane_id, "parts": {"soft_s": 9}})
    lane = projects.load(db, project_id).lanes[0]
    voice = workspace.library.voice(lane.clips[0].media)
    assert len(voice.hisses)
    first_n, last_n = voice.hisses[0].tolist()
    lowered = heard(workspace, db, project_id, first_n=first_n, last_n=last_n)
    commands.do(db, project_id, "spare_place", {"clip_id": clip_id, "at_n": first_n})
    clip = projects.load(db, project_id).lanes[0].clips[0]
    assert clip.care == Care(soft_s=9, spared=(first_n,))
    spared = heard(workspace, db, project_id, first_n=first_n, last_n=last_n)
    bare = heard(workspace, db, project_id, Variant.BARE, first_n=first_n, last_n=last_n)
    assert np.array_equal(spared, bare)
    assert not np.array_equal(lowered, bare)
    commands.do(db, project_id, "care_as_lane", {"clip_ids": [clip_id]})
    assert np.array_equal(heard(workspace, db, project_id, first_n=first_n, last_n=last_n), lowered)


def test_treated_parts_are_kept_and_made_again_where_they_are_missing_or_broken(workspace, db, project_id, talk):
    commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": ALL})
    whole = heard(workspace, db, project_id)
    lane = projects.load(db, project_id).lanes[0]
    sound = workspace.library.cared(lane.clips[0].media, lane.care)
    kept = sorted(sound.parts.iterdir())
    assert len(kept) == -(-sound.length_n // cared.PART_N)
    kept[0].unlink()
    kept[1].write_bytes(b"too short")
    assert np.array_equal(heard(workspace, db, project_id), whole)
    assert sorted(sound.parts.iterdir()) == kept


def test_only_the_treatments_made_last_are_kept(workspace, db, project_id, talk):
    for hush in range(3, 12):
        commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": {"hush": hush}})
        heard(workspace, db, project_id, last_n=RATE)
    lane = projects.load(db, project_id).lanes[0]
    folder = workspace.library.folder_of(lane.clips[0].media.sha256)
    assert len(list(folder.glob("care-*"))) == cared.MOST_CARES
    assert workspace.library.cared(lane.clips[0].media, lane.care).parts.exists()


def test_once_a_voice_is_treated_its_loudness_is_the_treated_one(workspace, db, project_id, talk):
    """Clearance and matching go by what is heard: a presence of 9 dB makes the voice louder by what it measures."""
    project, before = workspace.load(db, project_id)
    commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": {"presence": 9}})
    project, meanwhile = workspace.load(db, project_id)
    assert np.array_equal(meanwhile.power.speech, before.power.speech)
    [number] = care.wanted(db, workspace.library, project)
    assert care.wanted(db, workspace.library, project) == []  # one is at it
    work.run(workspace, number)
    assert jobs.get(db, number).state == "done"
    project, after = workspace.load(db, project_id)
    measured = KWeighting(2).products(heard(workspace, db, project_id, Variant.SPEECH))[:, :2].sum(axis=1)
    loud = measured > measured.max() / 100
    ratio = after.power.speech[: len(measured)][loud] / measured[loud]
    assert np.median(ratio) == pytest.approx(1, abs=0.01)
    assert np.abs(before.power.speech[: len(measured)][loud] / measured[loud] - 1).max() > 0.1
    assert workspace.loudness.loud(project)[talk[1]].lufs == pytest.approx(
        integrated_lufs(after.power.speech), abs=0.05
    )
    assert care.wanted(db, workspace.library, project) == []


def test_what_is_not_wanted_any_more_is_not_treated_to_the_end(workspace, db, project_id, talk):
    commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": {"hush": 6}})
    [number] = care.wanted(db, workspace.library, projects.load(db, project_id))
    commands.do(db, project_id, "start_care", {"lane_id": talk[0], "start": "off"})
    work.run(workspace, number)
    media = projects.load(db, project_id).lanes[0].clips[0].media
    assert jobs.get(db, number).state == "done"
    assert workspace.library.cared_power(media, Care(hush=6)) is None


def test_many_may_read_a_voice_at_once_that_nobody_has_treated_yet(workspace, db, project_id, talk):
    """Listening, measuring and the treatment in the background, each with a sound of its own."""
    commands.do(db, project_id, "care_for_lane", {"lane_id": talk[0], "parts": ALL})
    lane = projects.load(db, project_id).lanes[0]
    sound = workspace.library.cared(lane.clips[0].media, lane.care)
    others = [cared.CaredSound(sound.source, sound.care, sound.voice, sound.evenness, sound.folder) for _ in range(6)]
    start = threading.Barrier(len(others))

    def read(each):
        start.wait()
        return each.read(0, 12 * RATE)

    with ThreadPoolExecutor(len(others)) as pool:
        found = list(pool.map(read, others))
    assert all(np.array_equal(each, found[0]) for each in found)
    parts = range(-(-12 * RATE // cared.PART_N))
    assert {path.name for path in sound.parts.iterdir()} == {f"{k}.f32" for k in parts}
