"""`./jay bench sitting --minutes N [--seed S]`: the tireless user, as long as wished; `--replay FILE` of what it found.

Each fault is said once, shrunk to the deeds it takes, and written to a file that can be replayed; the walk goes on with
the next seed.
"""

from __future__ import annotations

import argparse
import random
import shutil
import tempfile
import time
from pathlib import Path

from playwright.sync_api import Browser, sync_playwright

from tests.browser.conftest import CHROMIUM_FLAGS
from tests.sitting import walk
from tests.sitting.world import World, lay_out

AT_ONCE_S = 240.0  # a project is used for so long, then a fresh one is


def sit(browser: Browser, made: Path, *, seed: int, seconds: float) -> tuple[list[str], list[walk.Deed]]:
    """One walk in a fresh world: what does not hold, and all that was done."""
    with tempfile.TemporaryDirectory() as folder:
        world = World(Path(folder) / "world", made=made)
        try:
            with walk.sitting(browser, world, random.Random(seed)) as here:
                return walk.walk(here, seconds=seconds), here.done
        finally:
            world.kill()


def told(browser: Browser, made: Path, found: list[str], done: list[walk.Deed], *, seed: int, shrink: bool) -> None:
    """Say a fault, and write down how to see it again."""
    deeds = walk.shrunk(done, walk.replays(browser, made, walk.rule_of(found))) if shrink else done
    path = Path(f"sitting-{seed}.jsonl")
    path.write_text(walk.written(deeds) + "\n", encoding="utf-8")
    print(f"seed {seed}, {len(done)} deeds:", *found, f"  {len(deeds)} deeds in {path}", sep="\n  ", flush=True)


def main(arguments: list[str] | None = None) -> None:
    """Sit for as long as is asked for, or replay what was found."""
    parser = argparse.ArgumentParser(prog="./jay bench sitting", description=__doc__)
    parser.add_argument("--minutes", type=float, default=10.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--replay", type=Path)
    parser.add_argument("--whole", action="store_true", help="do not shrink what is found")
    asked = parser.parse_args(arguments)
    names = ("chromium-headless-shell", "chromium")
    chromium = next((path for name in names if (path := shutil.which(name))), None)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as play:
        made = Path(folder) / "made"
        lay_out(made)
        browser = play.chromium.launch(executable_path=chromium, args=list(CHROMIUM_FLAGS))
        if asked.replay:
            world = World(Path(folder) / "world", made=made)
            with walk.sitting(browser, world, random.Random(0)) as here:
                print(*(walk.replay(here, walk.read(asked.replay.read_text())) or ["nothing is found"]), sep="\n")
            world.kill()
            return
        until, seed, deeds, rules = time.monotonic() + 60 * asked.minutes, asked.seed, 0, set()
        while (left := until - time.monotonic()) > 5:
            found, done = sit(browser, made, seed=seed, seconds=min(left, AT_ONCE_S))
            deeds += len(done)
            if found:
                told(browser, made, found, done, seed=seed, shrink=not asked.whole and walk.rule_of(found) not in rules)
                rules.add(walk.rule_of(found))
            seed += 1
        print(f"{deeds} deeds in {asked.minutes:g} min, seeds {asked.seed} to {seed - 1}")


if __name__ == "__main__":
    main()
