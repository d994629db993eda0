"""Tailoring as a command: what a clip plays afterwards, and what becomes of everything that hangs on it."""

import numpy as np
import pytest
import soundfile

from jaylantern.core.mixing.mix import Variant
from jaylantern.core.timeline.pin import PointPin
from jaylantern.errors import InvalidValue, Refused
from jaylantern.jobs import work
from jaylantern.store import edits, jobs, media, projects
from tests.build import rewrite
from tests.tunes import RATE, tune
from tests.whole_project import rendered


@pytest.fixture(scope="module")
def music():
    return tune("VABAAVBA", bpm=104).sound


@pytest.fixture
def scored(talk_over_music, music):
    """A film of 30 s with talk until 12 s and 74 s of music."""
    return talk_over_music(music, spoken_at_s=4.0, talk_s=14, film_s=30)


@pytest.fixture
def bed(db, scored):
    """The clip as it is now."""

    def now():
        return next(clip for _, clip in projects.load(db, scored).placed() if clip.name == "Bed.wav")

    return now


@pytest.fixture
def do(workspace, db, scored, bed):
    """Carry out a command on the bed; answers it afterwards."""

    def carry_out(name, **values):
        if name != "refit":
            values = {"clip_id": bed().id, **values}
        workspace.do(db, scored, name, values)
        return bed()

    return carry_out


def test_a_clip_gets_its_length_and_the_recording_stays(do, bed, db, workspace, scored):
    recording = bed().media
    after = do("tailor_clip", length_n=45 * RATE)
    assert after.length_n == after.media.length_n == after.media.tailored.cut.length_n
    assert abs(after.length_n - 45 * RATE) < 1.2 * RATE
    assert after.media.tailored.source == recording.sha256
    assert media.find(db, recording.sha256) == recording
    assert [each.media.id for each in media.of_project(db, scored)].count(after.media.id) == 0


def test_undo_and_redo(do, bed, db, scored):
    before = bed()
    after = do("tailor_clip", length_n=45 * RATE)
    edits.undo(db, scored)
    assert bed() == before
    edits.redo(db, scored)
    assert bed() == after


@pytest.mark.parametrize(
    ("until", "stop_s", "off_s"), [("picture", 30.0, 0.0), ("marker", 20.0, 0.0), ("range", 25.0, 0.0)]
)
def test_the_end_follows_what_it_is_told_to(do, workspace, db, scored, until, stop_s, off_s):
    workspace.do(db, scored, "add_marker", {"at_n": 20 * RATE, "name": "Bell"})
    workspace.do(db, scored, "set_in", {"at_n": 5 * RATE})
    workspace.do(db, scored, "set_out", {"at_n": 25 * RATE})
    after = do("tailor_clip", until=until, exact=True)
    assert after.stop_n == pytest.approx(stop_s * RATE, abs=2)
    assert after.start_n == (5 * RATE if until == "range" else 0)
    assert after.media.tailored.until == until


def test_the_end_of_the_talk_is_where_speech_ends(do, workspace, db, scored):
    plan = workspace.load(db, scored)[1].plan
    after = do("tailor_clip", until="talk", keep_end=False)
    assert after.stop_n == plan.speech[-1][1]
    assert after.fade_out.length_n == 3 * RATE


@pytest.mark.parametrize(("until", "said"), [("marker", "no marker after"), ("range", "in and an out point")])
def test_where_there_is_nothing_to_follow_it_is_said(do, until, said):
    with pytest.raises(Refused, match=said):
        do("tailor_clip", until=until)


def test_recut_the_film_and_fit_anew(do, bed, workspace, db, scored):
    kept = do("tailor_clip", until="picture", protect=[[10 * RATE, 14 * RATE]])
    picture = next(clip for _, clip in projects.load(db, scored).placed() if clip.media.has_picture)
    workspace.do(db, scored, "trim_clips", {"clip_ids": [picture.id], "edge": "stop", "by_n": -5 * RATE})
    assert bed().length_n == kept.length_n
    after = do("refit")
    assert abs(after.length_n - 25 * RATE) < 1.2 * RATE
    assert after.media.tailored.wish.protect == ((10 * RATE, 14 * RATE),)
    again = do("refit")
    assert again == after  # nothing has moved since


def test_one_fold_is_moved_and_its_length_stays(do):
    before = do("tailor_clip", length_n=45 * RATE)
    _, left, right = before.media.tailored.cut.folds[0]
    after = do("move_fold", fold=0, by=4)
    _, moved_left, moved_right = after.media.tailored.cut.folds[0]
    assert moved_left - left == pytest.approx(4 * 60 / 104 * RATE, abs=0.05 * RATE)
    assert (moved_right - moved_left) == pytest.approx(right - left, abs=0.05 * RATE)
    assert after.length_n == pytest.approx(before.length_n, abs=0.05 * RATE)
    with pytest.raises(Refused, match="not there any more"):
        do("move_fold", fold=7, by=1)
    with pytest.raises(Refused, match=r"ends there|in the way"):
        do("move_fold", fold=0, by=-64)


def test_a_fold_is_replaced_by_its_next_best(do):
    before = do("tailor_clip", length_n=45 * RATE).media.tailored
    after = do("forbid_fold", fold=0).media.tailored
    assert before.cut.folds[0][1:] not in [fold[1:] for fold in after.cut.folds]
    assert after.wish.forbidden == (before.cut.folds[0][1:],)
    assert abs(after.cut.length_n - 45 * RATE) < 1.2 * RATE


def test_another_solution_is_taken_by_its_number(do):
    found = [do("tailor_clip", length_n=45 * RATE, number=number).media.tailored.cut for number in range(3)]
    assert len({cut.folds for cut in found}) == 3


def test_stretching_and_making_plain_again(do, bed):
    before = bed()
    stretched = do("stretch_clip", length_n=80 * RATE)
    assert stretched.length_n == 80 * RATE
    assert stretched.media.tailored.stretched
    plain = do("plain_clip")
    assert (plain.media, plain.length_n) == (before.media, before.media.length_n)
    with pytest.raises(Refused, match="not tailored"):
        do("plain_clip")
    with pytest.raises(InvalidValue, match="half to twice"):
        do("stretch_clip", length_n=20 * RATE)


def test_what_is_trimmed_off_the_beginning_is_left_out(do, workspace, db, scored, bed):
    workspace.do(db, scored, "trim_clips", {"clip_ids": [bed().id], "edge": "start", "by_n": 8 * RATE})
    after = do("tailor_clip", length_n=40 * RATE)
    assert after.media.tailored.wish.leave_out == ((0, 8 * RATE),)
    assert after.media.tailored.cut.pieces[0].from_n == 8 * RATE
    assert after.start_n == 8 * RATE


def test_points_go_where_their_place_is_heard_and_come_back(do, bed, db, scored):
    places = [10 * RATE, 40 * RATE]
    rewrite(db, scored, lambda project, new_id: _pinned(project, new_id, bed().id, places))
    after = do("tailor_clip", length_n=40 * RATE, leave_out=[[38 * RATE, 44 * RATE]])
    cut = after.media.tailored.cut
    found = sorted(pin.at_n for pin in projects.load(db, scored).point_pins)
    assert found[0] == -1 - 40 * RATE  # it rests
    assert cut.played_at(found[1]) == 10 * RATE
    do("plain_clip")
    assert sorted(pin.at_n for pin in projects.load(db, scored).point_pins) == places


def _pinned(project, new_id, root, places):
    from dataclasses import replace

    return replace(project, point_pins=tuple(PointPin(new_id(), root, at_n, -3.0) for at_n in places))


def test_both_halves_of_a_split_play_on_and_one_of_them_is_tailored_alone(do, bed, workspace, db, scored):
    do("tailor_clip", length_n=40 * RATE)
    whole = rendered(workspace, scored)
    workspace.do(db, scored, "split_clips", {"clip_ids": [bed().id], "at_n": 20 * RATE})
    assert np.abs(rendered(workspace, scored) - whole).max() < 1e-6
    halves = [clip for _, clip in projects.load(db, scored).placed() if clip.name == "Bed.wav"]
    assert halves[0].media == halves[1].media
    assert halves[1].offset_n == 20 * RATE


def test_what_is_heard_is_the_recordings_own_samples(do, workspace, db, scored, music):
    after = do("tailor_clip", length_n=40 * RATE)
    sound = workspace.library.sound(after.media)
    for piece, start_n in zip(after.media.tailored.cut.pieces, after.media.tailored.cut.starts_n, strict=True):
        inner = sound.read(start_n + 1000, start_n + piece.length_n - 1000)
        assert np.array_equal(inner, music[piece.from_n + 1000 : piece.to_n - 1000])
    project = projects.load(db, scored)
    block = workspace.rendered.block(project, Variant.MUSIC_PLAIN, 20)
    assert np.array_equal(block[:, :1], sound.read(20 * RATE, 21 * RATE))


def test_a_tailored_clip_ducks_and_is_measured(do, workspace, db, scored):
    do("tailor_clip", length_n=40 * RATE)
    _, result = workspace.load(db, scored)
    assert result.plan.passages
    assert result.plan.leading.gain_db.min() < -5
    facts = workspace.library.facts(result.project.lanes[-1].clips[0].media)
    assert len(facts.track.level_db) == 4000 or len(facts.track.level_db) == -(-facts.track.length_n // 480)


@pytest.mark.parametrize("name", ["tailor_clip", "stretch_clip"])
def test_a_film_without_sound_cannot_be_tailored(workspace, db, scored, name):
    picture = next(clip for _, clip in projects.load(db, scored).placed() if clip.media.has_picture)
    with pytest.raises(Refused, match="no sound"):
        workspace.do(db, scored, name, {"clip_id": picture.id, "length_n": 20 * RATE})


@pytest.mark.parametrize("what", ["archive", "timeline"])
def test_it_comes_along_into_archives_and_timelines(do, workspace, db, scored, what, elsewhere, tmp_path):
    do("tailor_clip", length_n=40 * RATE, exact=True, until="")
    job_id = jobs.create(db, scored, kind="export", title=what, payload={"what": what, "pattern": "{what}"})
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "done", jobs.get(db, job_id).message
    (path,) = workspace.folder.exports(job_id).iterdir()
    there = elsewhere.folder.connect()
    from jaylantern.projectfile import opening

    number = projects.create(there, "Opened")
    said = opening.open_project(elsewhere, there, number, path, path.name, lambda *_: None, folders=[tmp_path])
    assert not said.missing
    before = next(clip for _, clip in projects.load(db, scored).placed() if clip.name == "Bed.wav")
    after = next(clip for _, clip in projects.load(there, number).placed() if clip.name == "Bed.wav")
    assert after.media.tailored == before.media.tailored
    assert (after.start_n, after.offset_n, after.length_n) == (before.start_n, before.offset_n, before.length_n)
    one, other = (space.library.sound(clip.media) for space, clip in ((workspace, before), (elsewhere, after)))
    assert np.array_equal(one.read(0, before.length_n), other.read(0, before.length_n))
    there.close()


def test_without_its_recording_it_is_missing_until_that_is_found(do, workspace, db, scored, elsewhere, tmp_path):
    do("tailor_clip", length_n=40 * RATE)
    job_id = jobs.create(
        db, scored, kind="export", title="alone", payload={"what": "archive-alone", "pattern": "{what}"}
    )
    work.run(workspace, job_id)
    (path,) = workspace.folder.exports(job_id).iterdir()
    from jaylantern.library.bringing import bring_in
    from jaylantern.projectfile import opening

    there = elsewhere.folder.connect()
    number = projects.create(there, "Opened")
    opening.open_project(elsewhere, there, number, path, path.name, lambda *_: None)
    clip = next(clip for _, clip in projects.load(there, number).placed() if clip.name == "Bed.wav")
    assert clip.media.missing
    assert "Bed.wav" in [each.name for each in media.wanted_in(there, number).values()]  # the recording
    found = bring_in(elsewhere.library, there, tmp_path / "Bed.wav", "Bed.wav", lambda *_: None)
    from jaylantern.projectfile.opening import tailored_again

    (wanted,) = media.wanted_in(there, number, tailored=True).values()
    again = tailored_again(elsewhere, there, wanted)
    assert again is not None
    assert again.tailored.source == found.sha256
    there.close()


def test_a_list_of_cuts_has_the_pieces(do, workspace, db, scored):
    after = do("tailor_clip", length_n=40 * RATE)
    job_id = jobs.create(db, scored, kind="export", title="edl", payload={"what": "edl", "pattern": "{what}"})
    work.run(workspace, job_id)
    text = "".join(path.read_text() for path in workspace.folder.exports(job_id).iterdir())
    assert text.count("FROM CLIP NAME: Bed.wav") + text.count("TO CLIP NAME: Bed.wav") >= len(
        after.media.tailored.cut.pieces
    )


def test_rises_end_on_the_beats_that_are_heard(do, workspace, db, scored):
    """The beats of tailored music are those of its recording, where they are heard now."""
    after = do("tailor_clip", length_n=40 * RATE)
    workspace.do(db, scored, "set_settings", {"settings": {"rise_on": "beat"}})
    _, result = workspace.load(db, scored)
    cut = after.media.tailored.cut
    beat_n = 60 / 104 * RATE
    for dip in result.plan.dips:
        source_n = cut.played_at(dip.up_n - after.shift_n)
        assert abs(source_n / beat_n - round(source_n / beat_n)) * beat_n < 0.03 * RATE


def test_beats_are_listened_for_where_rises_are_to_end_on_them(workspace, db, scored):
    from jaylantern.jobs import beats

    project = projects.load(db, scored)
    assert beats.wanted(db, workspace.library, project) == []
    workspace.do(db, scored, "set_settings", {"settings": {"rise_on": "bar"}})
    project = projects.load(db, scored)
    (number,) = beats.wanted(db, workspace.library, project)
    assert beats.wanted(db, workspace.library, project) == []
    work.run(workspace, number)
    assert projects.load(db, scored).revision > project.revision  # what follows from it is worked out anew
    _, result = workspace.load(db, scored)
    bars = workspace.library.beats(result.project.lanes[-1].clips[0].media, bars=True)
    assert all(np.abs(bars - dip.up_n).min() == 0 or dip.up_n - dip.rise_n == 43_200 for dip in result.plan.dips)


def test_if_wanted_the_music_follows_by_itself(do, bed, workspace, db, scored):
    do("tailor_clip", until="picture")
    workspace.do(db, scored, "set_settings", {"settings": {"refit": "by itself"}})
    picture = next(clip for _, clip in projects.load(db, scored).placed() if clip.media.has_picture)
    cut = {"clip_ids": [picture.id], "edge": "stop", "by_n": -5 * RATE}
    done = workspace.do(db, scored, "trim_clips", cut)
    assert abs(bed().length_n - 25 * RATE) < 1.2 * RATE
    assert done.after.revision == projects.load(db, scored).revision
    assert edits.steps(db, scored).undo == f"Trim the end of {picture.name}, fit Bed.wav anew"
    tailored = bed().media
    edits.undo(db, scored)  # what follows from a step goes back with it
    assert abs(bed().length_n - 30 * RATE) < 1.2 * RATE
    edits.redo(db, scored)
    assert bed().media == tailored
    workspace.do(db, scored, "trim_clips", {**cut, "by_n": -23 * RATE})  # 2 s: no music can be so short
    assert abs(bed().length_n - 25 * RATE) < 1.2 * RATE


def test_tailored_music_is_handed_off_alone(do, workspace, db, scored):
    def hand_off():
        job_id = jobs.create(db, scored, kind="export", title="t", payload={"what": "tailored", "pattern": "{what}"})
        work.run(workspace, job_id)
        return jobs.get(db, job_id), workspace.folder.exports(job_id)

    job, _ = hand_off()
    assert "No music is tailored" in job.message
    after = do("tailor_clip", length_n=40 * RATE, exact=True)
    job, folder = hand_off()
    assert job.state == "done", job.message
    (path,) = folder.iterdir()
    found, rate = soundfile.read(path, dtype="float32")
    assert (rate, len(found)) == (RATE, after.length_n)
    assert np.abs(found[:, :1] - workspace.library.sound(after.media).read(0, after.length_n)).max() < 1e-6
