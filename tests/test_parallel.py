"""Rendering in several processes: the same bits, and nothing left of them however it ends."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import textwrap
import time
from pathlib import Path

import numpy as np
import pytest

from jaylantern import parallel
from jaylantern.core.curve import Curve
from jaylantern.core.mix import Programme, Renderer, Variant, Voice
from jaylantern.core.model import Tag
from jaylantern.core.timebase import RATE
from jaylantern.media.sound import Reading, SoundStore
from tests import sounds

SECONDS = 130


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


CURVE = Curve(np.array([0, 20 * RATE, 41 * RATE, 90 * RATE]), np.array([0.0, -14.0, -14.0, 0.0]))
LENGTH_N = SECONDS * RATE
PROGRAMME = Programme(
    LENGTH_N,
    (
        Voice(1, 0, LENGTH_N, 0, 1.0, Tag.DIALOGUE, None),
        Voice(2, 3 * RATE + 7, LENGTH_N, 0, 1.5, Tag.MUSIC, CURVE),
    ),
    -1.0,
)


def children(pid: int | str = "self") -> set[str]:
    """The processes that a process has begun, in any of its threads."""
    return {child for task in Path(f"/proc/{pid}/task").iterdir() for child in (task / "children").read_text().split()}


@pytest.mark.parametrize(("start_n", "stop_n"), [(0, LENGTH_N), (11, 100 * RATE + 5), (39 * RATE, 81 * RATE)])
@pytest.mark.parametrize("variant", [Variant.DUCKED, Variant.MUSIC])
def test_the_same_bits_as_in_one_go(stores, start_n, stop_n, variant):
    made = list(parallel.blocks(PROGRAMME, stores, variant, start_n, stop_n, workers=2))
    alone = list(Renderer(PROGRAMME, stores, variant).blocks(start_n, stop_n))
    assert [len(block) for block in made] == [len(block) for block in alone]
    assert all(np.array_equal(one, other) for one, other in zip(made, alone, strict=True))
    assert np.abs(np.concatenate(made)).max() > 0.5


def test_given_up_in_the_middle_nothing_is_left(stores):
    before = children()
    blocks = parallel.blocks(PROGRAMME, stores, Variant.DUCKED, 0, LENGTH_N, workers=2)
    next(blocks)
    assert len(children() - before) == 2
    blocks.close()
    assert children() == before


def test_what_goes_wrong_in_a_worker_is_told(stores):
    (Path(stores.stores[2].path)).unlink()
    before = children()
    with pytest.raises(FileNotFoundError):
        list(parallel.blocks(PROGRAMME, stores, Variant.DUCKED, 0, LENGTH_N, workers=2))
    assert children() == before


def test_a_worker_that_dies_is_told_and_takes_the_others_along(stores):
    before = children()
    blocks = parallel.blocks(PROGRAMME, stores, Variant.DUCKED, 0, LENGTH_N, workers=2)
    next(blocks)
    for pid in children() - before:
        os.kill(int(pid), signal.SIGKILL)
    with pytest.raises(parallel.Ended, match="ended unexpectedly"):
        list(blocks)
    assert children() == before


def test_workers_end_with_a_parent_that_is_killed(stores, tmp_path):
    script = tmp_path / "main.py"
    script.write_text(
        textwrap.dedent(f"""
        import sys, time
        from tests.test_parallel import PROGRAMME, LENGTH_N
        from jaylantern import parallel
        from jaylantern.core.mix import Variant
        from jaylantern.media.sound import Reading, SoundStore
        from pathlib import Path

        if __name__ == "__main__":
            stores = {{n: SoundStore(Path({str(tmp_path)!r}) / f"{{n}}.raw", "float32", 2, LENGTH_N) for n in (1, 2)}}
            for block in parallel.blocks(PROGRAMME, Reading(stores), Variant.DUCKED, 0, LENGTH_N, workers=2):
                print("begun", flush=True)
                time.sleep(60)
        """)
    )
    root = str(Path(__file__).parent.parent)
    env = {**os.environ, "PYTHONPATH": root}
    with subprocess.Popen([sys.executable, str(script)], stdout=subprocess.PIPE, text=True, env=env) as parent:
        assert parent.stdout.readline().strip() == "begun"
        workers = children(parent.pid)
        assert len(workers) == 2
        parent.send_signal(signal.SIGKILL)
    until = time.monotonic() + 20
    while any(state(pid) != "Z" for pid in workers):
        assert time.monotonic() < until, "a worker lives on"
        time.sleep(0.1)


def state(pid: str) -> str:
    """As /proc has it; Z for one that has ended."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0]
    except FileNotFoundError:
        return "Z"


def test_only_long_renders_are_worth_it():
    assert not parallel.worth_while(parallel.LONG_N - 1)
    assert parallel.worth_while(parallel.LONG_N) == ((os.cpu_count() or 1) > 1)
