"""A quarter of a minute of a user who never tires, by chance but always the same; and old faults, which it finds."""

from __future__ import annotations

import random
import shutil

import pytest

from tests.browser.conftest import CHROMIUM_FLAGS
from tests.sitting.faults import FAULTS
from tests.sitting.walk import read, replays, rule_of, shrunk, sitting, walk, written
from tests.sitting.world import World, lay_out

SEED, SECONDS = 7, 15.0  # longer ones are sat by the bench of the same name
FOUND_S = 60.0  # within which each of the old faults is found


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    names = ("chromium-headless-shell", "chromium")
    chromium = next((path for name in names if (path := shutil.which(name))), "/usr/bin/chromium")
    return {**browser_type_launch_args, "executable_path": chromium, "args": list(CHROMIUM_FLAGS)}


@pytest.fixture(scope="session")
def made(made_once):
    """A data folder with the project in it, made once."""
    return made_once("a sitting", lay_out)


@pytest.fixture
def world(made, tmp_path, request):
    world = World(tmp_path / "world", fault=getattr(request, "param", ""), made=made)
    yield world
    world.kill()


def test_a_quarter_of_a_minute_of_it_finds_nothing(browser, world, made, tmp_path):
    with sitting(browser, world, random.Random(SEED)) as here:
        found = walk(here, seconds=SECONDS)
    if found:
        deeds = shrunk(here.done, replays(browser, made, rule_of(found), within=tmp_path))
        pytest.fail("\n".join([*found, "to see it again:", written(deeds)]))


@pytest.mark.parametrize(
    ("fault", "world"), [(name, fault.server) for name, fault in FAULTS.items()], indirect=["world"], ids=list(FAULTS)
)
def test_a_fault_that_was_there_once_is_found(browser, world, fault):
    planted = FAULTS[fault]
    with sitting(browser, world, random.Random(1), planted.page) as here:
        found = walk(here, seconds=FOUND_S, deeds=planted.deeds)
    assert found, "it was not found"
    assert rule_of(found) in planted.rules, found


def test_a_fault_is_shrunk_to_the_few_deeds_it_takes_and_those_can_be_written_down():
    deeds = read("\n".join(f'["key", {{"key": "{i}"}}]' for i in range(40)))
    needed = {7, 21}

    def again(some) -> bool:
        return needed <= {int(deed.values["key"]) for deed in some}

    few = shrunk(deeds, again, replays=60)
    assert {int(deed.values["key"]) for deed in few} == needed
    assert read(written(few)) == few
