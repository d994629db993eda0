"""A sitting: deeds by chance, after each of them the oracle; a fault that is found is shrunk to few deeds."""

from __future__ import annotations

import json
import random
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Error, Page, Route

from tests.sitting import hands, oracle
from tests.sitting.hands import DEEDS, Deed, Hand
from tests.sitting.world import World

LOOK = (Path(__file__).parent / "look.js").read_text(encoding="utf-8")
ROUND = 30  # deeds between two looks at what takes long to look at
PATIENCE_MS = 30_000
QUIET = ("net::ERR_",)  # of a server that is down for a moment, as it is told to be
REPLAYS = 14
Planted = Callable[[Page], None]


@dataclass
class Sitting:
    """One user at one project, and what the oracle has to remember."""

    world: World
    page: Page
    hand: Hand
    first: dict[str, Any] = field(default_factory=dict)
    theirs: dict[str, bytes] = field(default_factory=dict)
    made: dict[str, list[str]] = field(default_factory=dict)
    troubles: list[str] = field(default_factory=list)
    succeeded_ms: float | None = None
    log_read: int = 0
    last: Deed = field(default_factory=lambda: Deed("reload", {}))
    done: list[Deed] = field(default_factory=list)

    def do(self, deed: Deed) -> list[str]:
        """Do one thing, wait until it is done, ask the oracle; sentences of what does not hold."""
        self.last = deed
        self.done.append(deed)
        before = oracle.document(self) if deed.name == "restart" else None
        revision = self._revision()
        try:
            DEEDS[deed.name].do(self.hand, **deed.values)
            hands.settle(self.page)
        except AssertionError as error:
            return [f"{deed.name}: {error}"]
        except Error as error:
            return [*self._holds(oracle.AFTER_EACH[:2]), f"{deed.name} could not be done: {str(error)[:400]}"]
        if deed.name in ("reload", "restart"):
            self.succeeded_ms = None
        elif self._revision() != revision:
            self.succeeded_ms = self.page.evaluate("() => window.sitting.now()")
        found = self._holds(oracle.AFTER_EACH)
        if before is not None and oracle.document(self) != before:
            found.append("restart: what was acknowledged is not there any more")
        if len(self.done) % ROUND == 0:
            found += self.look()
        return found

    def look(self) -> list[str]:
        """What takes long to look at."""
        return self._holds(oracle.NOW_AND_THEN)

    def _holds(self, rules: Sequence[oracle.Rule]) -> list[str]:
        return [f"{rule.__name__.replace('_', ' ')}: {text}" for rule in rules for text in rule(self)]

    def _revision(self) -> int | None:
        ask = "() => window.jayLantern?.pageDoc.doc?.revision ?? null"
        try:
            return self.page.evaluate(ask)
        except Error:  # the page was just left for another one
            self.page.wait_for_selector("body.ready")
            return self.page.evaluate(ask)


@contextmanager
def sitting(browser: Browser, world: World, chance: random.Random, planted: Planted | None = None) -> Iterator[Sitting]:
    """Open the project in a fresh browser."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=world.url, accept_downloads=True)
    context.set_default_timeout(PATIENCE_MS)
    context.add_init_script(LOOK)
    page = context.new_page()
    if planted is not None:
        planted(page)
    hand = Hand(world, page, chance)
    here = Sitting(world, page, hand)

    def console(said: Any) -> None:
        quiet = any(word in said.text for word in QUIET)
        if said.type == "error" and not quiet:
            here.troubles.append(f"console: {said.text}")

    def answered(answer: Any) -> None:
        if answer.status >= 500:
            here.troubles.append(f"{answer.status} of {answer.url}")

    page.on("pageerror", lambda error: here.troubles.append(f"script: {error}"))
    page.on("console", console)
    page.on("response", answered)
    page.goto(f"{world.page}/duck")
    page.wait_for_selector("body.ready", timeout=60_000)
    here.first = oracle.the_first(here)
    page.evaluate(oracle.FORTH)
    here.theirs = world.theirs()
    yield here
    context.close()


def walk(here: Sitting, *, seconds: float, deeds: dict[str, float] | None = None) -> list[str]:
    """Deeds by chance for a while; sentences of the first thing that does not hold."""
    weights = deeds or {name: kind.weight for name, kind in DEEDS.items()}
    names, odds = list(weights), list(weights.values())
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        name = here.hand.chance.choices(names, odds)[0]
        try:
            values = DEEDS[name].chosen(here.hand)
        except Error as error:
            return [f"{name} could not be chosen: {str(error)[:300]}"]
        found = here.do(Deed(name, values))
        if found:
            return found
    return here.look()


def replay(here: Sitting, deeds: Sequence[Deed]) -> list[str]:
    """The same deeds once more; sentences of the first thing that does not hold."""
    for deed in deeds:
        found = here.do(deed)
        if found:
            return found
    return here.look()


def rule_of(found: Sequence[str]) -> str:
    """Which rule it is that does not hold."""
    return found[0].split(":")[0]


def shrunk(deeds: Sequence[Deed], again: Callable[[Sequence[Deed]], bool], *, replays: int = REPLAYS) -> list[Deed]:
    """As few of the deeds as still show the fault: the last few of them, then without each that is not needed."""
    left, best = replays, list(deeds)

    def shows(some: Sequence[Deed]) -> bool:
        nonlocal left
        left -= 1
        return again(some)

    size = 1
    while size < len(best) and left > 0:
        if shows(best[-size:]):
            best = best[-size:]
            break
        size *= 3
    part = max(1, len(best) // 2)
    while left > 0 and len(best) > 1:
        for i in range(0, len(best), part):
            some = best[:i] + best[i + part :]
            if some and left > 0 and shows(some):
                best = some
                break
        else:
            if part == 1:
                break
            part //= 2
    return best


def written(deeds: Sequence[Deed]) -> str:
    """Deeds as lines that can be replayed."""
    return "\n".join(json.dumps([deed.name, deed.values], ensure_ascii=False) for deed in deeds)


def read(text: str) -> list[Deed]:
    """Deeds from such lines."""
    return [Deed(name, values) for name, values in map(json.loads, filter(None, text.splitlines()))]


def replays(
    browser: Browser,
    made: Path,
    rule: str,
    *,
    within: Path | None = None,
    fault: str = "",
    planted: Planted | None = None,
) -> Callable[[Sequence[Deed]], bool]:
    """What tells whether deeds, done in a fresh world (`within` a folder), show that a rule does not hold."""

    def again(deeds: Sequence[Deed]) -> bool:
        with tempfile.TemporaryDirectory(dir=within) as folder:
            world = World(Path(folder) / "again", fault=fault, made=made)
            try:
                with sitting(browser, world, random.Random(0), planted) as here:
                    found = replay(here, deeds)
            except Error:  # without some of its deeds the rest leads elsewhere
                return False
            finally:
                world.kill()
        return bool(found) and rule_of(found) == rule

    return again


def altered(part: str, old: str, new: str) -> Planted:
    """A fault planted in a script or a sheet of the page."""

    def change(route: Route) -> None:
        answer = route.fetch()
        text = answer.text()
        assert old in text, f"{part} does not have what is to be altered"
        route.fulfill(response=answer, body=text.replace(old, new))

    return lambda page: page.route(f"**/{part}", change)
