"""Rendering in several processes: the same bits, and nothing left of them however it ends."""

from __future__ import annotations

import multiprocessing
import os
import subprocess
import sys
import textwrap
import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import astuple
from pathlib import Path

import numpy as np
import psutil
import pytest
import soundfile

from jaylantern.core.ducking.curve import Curve
from jaylantern.core.mixing.metering import ProgrammeMeter
from jaylantern.core.mixing.mix import Programme, Renderer, Variant, Voice
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.tag import Tag
from jaylantern.errors import Damaged
from jaylantern.export import sound_output
from jaylantern.media.sound import Reading, SoundStore
from jaylantern.media.sound_files import FORMS
from jaylantern.media.wav import Bext
from jaylantern.render import pool
from jaylantern.support import system
from tests import sounds

SECONDS = 52
CHUNK_N = 20 * RATE  # what a process renders in one go; a minute in the program
ABOUT = Bext("The Clock at Alder Quay", "2026-11-26", "12:00:00")


@pytest.fixture(autouse=True)
def _short_chunks(monkeypatch):
    monkeypatch.setattr(pool, "CHUNK_N", CHUNK_N)


@pytest.fixture
def stores(tmp_path) -> Reading:
    """Two media, hot enough together for the limiter."""
    made = {}
    for number, level in ((1, 0.5), (2, 0.9)):
        path = tmp_path / f"{number}.raw"
        piece = sounds.noise(seconds=13, amplitude=level, channels=2, seed=number)
        np.tile(piece, (SECONDS // 13, 1)).astype(np.float32).tofile(path)
        made[number] = SoundStore(path, "float32", 2, SECONDS * RATE)
    return Reading(made)


CURVE = Curve(np.array([0, 7 * RATE, 14 * RATE, 30 * RATE]), np.array([0.0, -14.0, -14.0, 0.0]))
LENGTH_N = SECONDS * RATE
PROGRAMME = Programme(
    LENGTH_N,
    (
        Voice(1, 0, LENGTH_N, 0, 1.0, Tag.DIALOGUE, None),
        Voice(2, 3 * RATE + 7, LENGTH_N, 0, 1.5, Tag.MUSIC, CURVE),
    ),
    -1.0,
)


def children(pid: int | None = None) -> set[int]:
    """The processes that a process has begun."""
    return {each.pid for each in psutil.Process(pid).children()}


@pytest.mark.parametrize(("start_n", "stop_n"), [(0, LENGTH_N), (11, 40 * RATE + 5), (13 * RATE, 27 * RATE)])
@pytest.mark.parametrize("variant", [Variant.DUCKED, Variant.MUSIC])
def test_the_same_bits_as_in_one_go(stores, start_n, stop_n, variant):
    made = list(pool.blocks(sound_output.Render(PROGRAMME, stores, variant, start_n, stop_n), workers=2))
    alone = list(Renderer(PROGRAMME, stores, variant).blocks(start_n, stop_n))
    assert [len(block) for block in made] == [len(block) for block in alone]
    assert all(np.array_equal(one, other) for one, other in zip(made, alone, strict=True))
    assert np.abs(np.concatenate(made)).max() > 0.5


@pytest.mark.parametrize("name", ["wav24", "wav32f", "bwf"])
@pytest.mark.parametrize(("start_n", "stop_n"), [(0, LENGTH_N), (11, 40 * RATE + 5)])
def test_a_file_written_by_several_has_the_bytes_of_one_written_alone(
    stores, tmp_path, monkeypatch, name, start_n, stop_n
):
    def write(path: Path) -> sound_output.Written:
        render = sound_output.Render(PROGRAMME, stores, Variant.DUCKED, start_n, stop_n)
        told: list[float] = []
        found = sound_output.write_render(
            path, render, lambda share, doing: told.append(share), form=FORMS[name], rate=RATE, bext=ABOUT
        )
        assert told == sorted(told)
        assert told[-1] == 1
        return found

    monkeypatch.setattr(pool, "LONG_N", LENGTH_N * 2)
    alone = write(tmp_path / "alone.wav")
    monkeypatch.setattr(pool, "LONG_N", 0)
    several = write(tmp_path / "several.wav")
    samples = [(tmp_path / f"{each}.wav").read_bytes()[-8 * (stop_n - start_n) :] for each in ("alone", "several")]
    assert samples[0] == samples[1]
    assert several.over_n == alone.over_n == 0
    assert np.abs(soundfile.read(tmp_path / "several.wav")[0]).max() < 10 ** (-1 / 20)  # the limiter works throughout
    assert astuple(several.loudness) == pytest.approx(astuple(alone.loudness), abs=0.001)
    assert soundfile.info(tmp_path / "several.wav").frames == stop_n - start_n


def test_what_is_held_at_full_scale_is_counted_by_all(stores, tmp_path, monkeypatch):
    render = sound_output.Render(PROGRAMME, stores, Variant.UNLIMITED, 0, LENGTH_N)
    over = []
    for long_n in (0, LENGTH_N * 2):
        monkeypatch.setattr(pool, "LONG_N", long_n)
        path = tmp_path / f"{long_n}.wav"
        over.append(
            sound_output.write_render(path, render, lambda *_: None, form=FORMS["wav24"], rate=RATE, bext=ABOUT).over_n
        )
    assert over[0] == over[1] > 1000


def test_the_true_peak_where_two_stretches_meet_is_seen():
    """A sine at a quarter of the rate whose samples lie 45° off its peaks, faded in and out around the seam."""
    n = np.arange(4 * RATE)
    sound = np.sin(np.pi / 2 * n + np.pi / 4) * np.exp(-(((n - 2 * RATE) / 12) ** 2))
    sound = np.repeat(sound[:, None], 2, axis=1).astype(np.float32)
    whole, joined = ProgrammeMeter(2), ProgrammeMeter(2)
    whole.add(sound)
    first, second = ProgrammeMeter(2), ProgrammeMeter(2, sound[RATE : 2 * RATE])
    for part, at in ((first, 0), (second, 2)):
        for k in (at, at + 1):
            part.add(sound[k * RATE : (k + 1) * RATE])
        joined.take(part.part(last=at == 2))
    exact = whole.finish()
    assert exact.true_peak_dbtp > 20 * np.log10(np.abs(sound).max()) + 1
    assert astuple(joined.finish()) == pytest.approx(astuple(exact), abs=0.001)


@pytest.mark.parametrize("dtype", ["int16", "float32"])
@pytest.mark.parametrize("channels", [1, 2])
def test_a_sound_read_without_a_copy_is_the_same(tmp_path, dtype, channels):
    count = 1000
    made = (sounds.noise(seconds=0.1, channels=channels)[:count] * (32767 if dtype == "int16" else 1)).astype(dtype)
    made.tofile(tmp_path / "sound.raw")
    store = SoundStore(tmp_path / "sound.raw", dtype, channels, count)
    for start_n, stop_n in ((0, 10), (990, 1010), (1000, 1005), (2000, 2003), (0, 1000), (5, 5)):
        read = store.mapped().read(start_n, stop_n)
        assert np.array_equal(read, store.read(start_n, stop_n))
        read[:] = 7  # an array of its own
    assert np.array_equal(np.fromfile(store.path, dtype).reshape(-1, channels), made)
    (tmp_path / "nothing.raw").touch()
    assert SoundStore(tmp_path / "nothing.raw", dtype, channels, 0).mapped().read(0, 3).tolist() == [[0] * channels] * 3


def test_a_file_whose_making_fails_is_not_there(stores, tmp_path, monkeypatch):
    monkeypatch.setattr(pool, "LONG_N", 0)
    stores.stores[2].path.unlink()
    render = sound_output.whole_of(PROGRAMME, stores, Variant.DUCKED)
    with pytest.raises(Damaged):
        sound_output.write_render(
            tmp_path / "out.wav", render, lambda *_: None, form=FORMS["wav24"], rate=RATE, bext=ABOUT
        )
    assert not list(tmp_path.glob("*out.wav"))


def test_given_up_in_the_middle_nothing_is_left(stores, monkeypatch):
    monkeypatch.setattr(pool, "CHUNK_N", 2 * RATE)
    before = children()
    blocks = pool.blocks(sound_output.whole_of(PROGRAMME, stores, Variant.DUCKED), workers=2)
    next(blocks)
    assert len(children() - before) == 2
    blocks.close()
    assert children() == before


def test_what_goes_wrong_in_a_worker_is_told(stores):
    (Path(stores.stores[2].path)).unlink()
    before = children()
    with pytest.raises(Damaged):
        list(pool.blocks(sound_output.whole_of(PROGRAMME, stores, Variant.DUCKED), workers=2))
    assert children() == before


def test_a_worker_that_dies_is_told_and_takes_the_others_along(stores, monkeypatch):
    monkeypatch.setattr(pool, "CHUNK_N", 2 * RATE)  # most are still to be made when the first is there
    before = children()
    blocks = pool.blocks(sound_output.whole_of(PROGRAMME, stores, Variant.DUCKED), workers=2)
    next(blocks)
    for pid in children() - before:
        psutil.Process(pid).kill()
    with pytest.raises(pool.Ended, match="ended unexpectedly"):
        list(blocks)
    assert children() == before


def test_workers_end_with_a_parent_that_is_killed(stores, tmp_path):
    script = tmp_path / "main.py"
    script.write_text(
        textwrap.dedent(f"""
        import sys, time
        from tests.render.test_pool import CHUNK_N, LENGTH_N, PROGRAMME
        from jaylantern.export import sound_output
        from jaylantern.render import pool
        from jaylantern.core.mixing.mix import Variant
        from jaylantern.media.sound import Reading, SoundStore
        from pathlib import Path

        if __name__ == "__main__":
            pool.CHUNK_N = CHUNK_N
            stores = {{n: SoundStore(Path({str(tmp_path)!r}) / f"{{n}}.raw", "float32", 2, LENGTH_N) for n in (1, 2)}}
            for block in pool.blocks(sound_output.whole_of(PROGRAMME, Reading(stores), Variant.DUCKED), workers=2):
                print("begun", flush=True)
                time.sleep(60)
        """)
    )
    root = str(Path(__file__).parents[2])
    env = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, (root, os.environ.get("PYTHONPATH"))))}
    with subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True, env=env) as parent:
        assert parent.stdout.readline().strip() == "begun"
        workers = children(parent.pid)
        assert len(workers) == 2
        parent.kill()
    until = time.monotonic() + 20
    while any(system.lives(pid) for pid in workers):
        assert time.monotonic() < until, "a worker lives on"
        time.sleep(0.1)


def test_only_long_renders_are_worth_it():
    assert not pool.worth_while(pool.LONG_N - 1)
    assert pool.worth_while(pool.LONG_N) == ((os.cpu_count() or 1) > 1)


def test_one_of_several_processes_starts_no_more_of_them():
    with ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn")) as processes:
        assert not processes.submit(pool.worth_while, 10 * pool.LONG_N).result()
