"""What is handed off: stems that add up, stretches, chosen clips, names, and what is refused."""

from __future__ import annotations

import numpy as np
import pytest
import soundfile
import soxr

from jaylantern import commands
from jaylantern.core.mixing.mix import Variant, render
from jaylantern.core.signal.timebase import RATE
from jaylantern.errors import InvalidValue
from jaylantern.export.handoff import asked
from jaylantern.export.request import PATTERN
from jaylantern.jobs import work
from jaylantern.store import jobs, projects
from tests import sounds


@pytest.fixture
def film(workspace, db, project_id, bring_known, tmp_path):
    """A project with talk, a bed, a hammer and a room, hot enough for the limiter."""
    made = {
        "Talk": (sounds.talk({"vm-intro": 1.0}, seconds=8), "dialogue"),
        "Bed": (sounds.sine(hz=330, seconds=8, amplitude=0.6, channels=2), "music"),
        "Hammer": (sounds.noise(seconds=2, amplitude=0.2, channels=2), "effects"),
        "Room": (sounds.noise(seconds=8, amplitude=0.02, channels=2, seed=3), "atmosphere"),
        "Loose": (sounds.sine(hz=90, seconds=1, amplitude=0.3, channels=2), "untagged"),
    }
    for name, (sound, tag) in made.items():
        soundfile.write(tmp_path / f"{name}.wav", sound, RATE, subtype="FLOAT")
        assert bring_known(tmp_path / f"{name}.wav").state == "done"
        lane = next(lane for lane in projects.load(db, project_id).lanes if lane.name == name)
        if tag != "untagged":
            commands.do(db, project_id, "tag_lane", {"lane_id": lane.id, "tag": tag})
    return project_id


@pytest.fixture
def export(workspace, db, film):
    """Make something; the job and its files by name."""

    def make(what: str, **values):
        payload = {"what": what, "pattern": "{what}", **values}
        job_id = jobs.create(db, film, kind="export", title=what, payload=payload)
        work.run(workspace, job_id)
        folder = workspace.folder.exports(job_id)
        files = {path.name: path for path in folder.iterdir()} if folder.is_dir() else {}
        return jobs.get(db, job_id), files

    return make


def read(path) -> np.ndarray:
    return soundfile.read(path, dtype="float64", always_2d=True)[0]


def test_stems_add_up_to_the_mix_before_the_limiter_within_one_step(workspace, db, film, export):
    job, files = export("stems")
    assert set(files) == {
        f"{name}.wav" for name in ("speech", "music", "music plain", "effects", "atmosphere", "untagged")
    }
    total = sum(read(path) for name, path in files.items() if name != "music plain.wav")
    project, result = workspace.load(db, film)
    mix = render(result.programme, workspace.library.reader(project), 0, project.length_n, Variant.UNLIMITED)
    limited = render(result.programme, workspace.library.reader(project), 0, project.length_n, Variant.DUCKED)
    assert np.abs(mix).max() > 1.0 > np.abs(limited).max()  # the limiter has work, and the stems know nothing of it
    assert np.abs(total - mix).max() <= 1.0 / 2**23
    assert "mix before its limiter" in job.message
    assert len({len(read(path)) for path in files.values()}) == 1


@pytest.mark.parametrize(("form", "rate", "bits"), [
    ("wav16", 48_000, 16), ("wav24", 44_100, 24), ("wav16", 96_000, 16), ("flac", 48_000, 24), ("bwf", 96_000, 24),
])  # fmt: skip
def test_stems_of_any_form_and_rate_add_up_within_one_step(workspace, db, film, export, form, rate, bits):
    """Of what the mix is at that rate, by the same resampler at once; 16 bit dithered, each but the last."""
    _, files = export("stems", form=form, rate=rate)
    stems = [read(path) for name, path in files.items() if not name.startswith("music plain")]
    total, held = sum(stems), np.max(np.abs(stems), axis=0) > 0.9999  # between its samples the talk passes full scale
    assert held.sum() < 1000
    project, result = workspace.load(db, film)
    mix = render(result.programme, workspace.library.reader(project), 0, project.length_n, Variant.UNLIMITED)
    wanted = mix if rate == RATE else soxr.resample(mix, RATE, rate, quality="VHQ")
    off = np.abs(total - wanted[: len(total)])[~held] * 2 ** (bits - 1)
    # over full scale the mix, in 32 bit float, is itself off by half a step of 24 bit; the resampler by a little more
    assert off.max() <= 0.51 + 2.0 ** (bits - 25 if rate == RATE else bits - 22)
    if bits == 16:
        speech = read(next(path for name, path in files.items() if name.startswith("speech")))
        assert len(np.unique(speech[: rate // 2])) >= 3  # dithered where it is silent


def test_plain_music_is_what_the_ducked_one_is_without_its_dips(export):
    _, files = export("stems")
    ducked, plain = read(files["music.wav"]), read(files["music plain.wav"])
    assert np.abs(ducked[2 * RATE : 3 * RATE]).max() < 0.3 * np.abs(plain[2 * RATE : 3 * RATE]).max()
    assert np.abs(plain).max() == pytest.approx(0.6, abs=0.001)


def test_in_to_out_is_that_part_of_the_whole(db, film, export):
    commands.do(db, film, "set_in", {"at_n": 2 * RATE + 11})
    commands.do(db, film, "set_out", {"at_n": 5 * RATE + 7})
    _, whole = export("mix", form="wav32f")
    _, part = export("mix", form="wav32f", range="in-out")
    assert np.array_equal(read(part["mix.wav"]), read(whole["mix.wav"])[2 * RATE + 11 : 5 * RATE + 7])


def test_chosen_clips_sound_alone_and_the_music_gives_way_as_before(db, film, export):
    lanes = {lane.name: lane for lane in projects.load(db, film).lanes}
    bed = lanes["Bed"].clips[0]
    _, alone = export("mix", form="wav32f", range="chosen", clip_ids=[bed.id])
    _, music = export("music", form="wav32f")
    assert np.allclose(read(alone["mix.wav"]), read(music["music.wav"])[: bed.length_n], atol=1e-6)
    _, hammer = export("mix", form="wav32f", range="chosen", clip_ids=[lanes["Hammer"].clips[0].id])
    assert len(read(hammer["mix.wav"])) == 2 * RATE


def test_what_was_measured_on_the_way_is_said(export):
    job, files = export("mix", form="flac", rate=96_000)
    assert soundfile.info(files["mix.flac"]).samplerate == 96_000
    assert "LUFS" in job.message
    assert "−1.0 dBTP" in job.message or "−1.1 dBTP" in job.message


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({"range": "in-out"}, "in point"),
        ({"range": "chosen"}, "No clip is chosen"),
        ({"range": "chosen", "clip_ids": [99_999]}, "No clip is chosen"),
        ({"range": "half"}, "range must be one of"),
        ({"form": "wav8"}, "form of sound file"),
        ({"form": "opus", "rate": 44_100}, "48 kHz"),
    ],
)
def test_what_can_not_be_made_is_said_and_leaves_nothing(export, values, said):
    job, files = export("mix", **values)
    assert job.state == "failed"
    assert said in job.message
    assert files == {}


def test_names_are_made_by_a_pattern_and_fit_for_any_system():
    wish = asked({"what": "mix", "pattern": "{date}/{project}: {what}", "asked_at": "2026-11-25T14:03:54"})
    assert wish.name("Alder Quay?", "mix") == "2026-11-25 Alder Quay mix"
    assert asked({"what": "mix", "pattern": "take"}).name("x", "music plain") == "take music plain"
    assert asked({"what": "mix", "pattern": "{project} {what}"}).name("../../etc", "mix") == "etc mix"
    assert asked({"what": "mix", "pattern": "   "}).pattern == PATTERN
    for pattern in ("{who} {what}", "{what", "{}"):
        with pytest.raises(InvalidValue):
            asked({"what": "mix", "pattern": pattern})


@pytest.mark.parametrize("clip_ids", ["1,2", [True], [1.5], [None]])
def test_chosen_clips_are_numbers(clip_ids):
    with pytest.raises(InvalidValue):
        asked({"what": "mix", "clip_ids": clip_ids})


def test_every_kind_of_data_is_made(export):
    for what, ending in (
        ("keyframes", ".csv"), ("keyframes-json", ".json"), ("passages-vtt", ".vtt"), ("passages-csv", ".csv"),
        ("markers", ".csv"), ("clips", ".txt"), ("timeline", ".otio"),
    ):  # fmt: skip
        job, files = export(what)
        assert job.state == "done", job.message
        [(name, path)] = files.items()
        assert name.endswith(ending)
        assert path.stat().st_size > 20
