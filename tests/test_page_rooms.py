"""The rooms of the page's scripts, as ARCHITECTURE.md draws them: who may use whom, what a plain rule does without."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from tests import contracts

ROOT = Path(__file__).parent.parent
SCRIPTS = ROOT / "src" / "jaylantern" / "web" / "static" / "js"
# which rooms a room may use beside itself, from below to above; what is spoken of in types counts, too
MAY = {
    "plain": set(),
    "ground": {"plain"},
    "project": {"plain", "ground"},
    "heard": {"plain", "ground", "project"},
    "timeline": {"plain", "ground", "project"},
    "trays": {"plain", "ground", "project", "heard", "timeline"},
    "actions": {"plain", "ground", "project", "timeline"},
    "page": {"plain", "ground", "project", "heard", "timeline", "trays", "actions"},
}
USES = re.compile(r"""(?:\bfrom|\bimport\(?)\s*["']([^"'\s]+)["']""")
OF_A_PAGE = re.compile(
    r"(?<![\w.\"'])(?:document|window|navigator|localStorage|sessionStorage|fetch|performance|AudioContext"
    r"|requestAnimationFrame|setTimeout|HTMLElement)\b(?!\s*[:?,)}\]])(?=[.(\[])"
)


def uses(text: str) -> set[str]:
    """What a script imports, or names in a type: paths as they are written."""
    return set(USES.findall(text))


def wrong(room: str, text: str) -> list[str]:
    """What a script of a room must not use: sentences."""
    found = [
        f"{room} uses {path}"
        for path in uses(text)
        if not re.fullmatch(r"\./\w+\.js", path)
        and not ((at := re.fullmatch(r"\.\./(\w+)/\w+\.js", path)) and at[1] in MAY[room])
    ]
    if room == "plain":
        code = "\n".join(line for line in text.splitlines() if not line.lstrip().startswith(("//", "*", "/*")))
        found += [f"{room} speaks to the page: {each[0]}" for each in OF_A_PAGE.finditer(code)]
    return found


def test_no_script_lies_outside_of_the_rooms():
    assert {path.parent.name for path in SCRIPTS.rglob("*.js")} == set(MAY)
    assert not list(SCRIPTS.glob("*.js"))


@pytest.mark.parametrize(
    "path", sorted(SCRIPTS.rglob("*.js")), ids=lambda path: path.relative_to(SCRIPTS).with_suffix("").as_posix()
)
def test_a_script_uses_only_the_rooms_below_its_own(path):
    text = path.read_text(encoding="utf-8")
    assert not wrong(path.parent.name, text)
    there = {(path.parent / each).resolve() for each in uses(text)}
    assert not [each for each in there if not each.is_file()]


@pytest.mark.parametrize(
    ("room", "text"),
    [
        ("plain", 'import { say } from "../ground/said.js";'),
        ("plain", 'const now = () => document.querySelector("#now");'),
        ("plain", "export const later = (work) => setTimeout(work);"),
        ("ground", 'import { Selection } from "../project/selection.js";'),
        ("heard", 'import { Timeline } from "../timeline/timeline.js";'),
        ("timeline", '/** @param {import("../trays/tray.js").Tray} tray */'),
        ("trays", 'const { Transport } = await import("../page/transport.js");'),
        ("actions", 'import { Tray } from "../trays/tray.js";'),
        ("page", 'import { x } from "../../elsewhere.js";'),
    ],
)
def test_a_use_of_a_room_above_is_caught(room, text):
    assert wrong(room, text)


def test_rooms_are_in_an_order_without_a_circle_and_in_the_picture():
    below: set[str] = set()
    for room, used in MAY.items():
        assert used <= below, room
        below.add(room)
    picture = (ROOT / "ARCHITECTURE.md").read_text(encoding="utf-8").split("## The page's rooms")[1].split("\n## ")[0]
    assert not [room for room in MAY if not re.search(rf"^\s*{room}/", picture, flags=re.MULTILINE)]


def test_no_two_scripts_import_each_other_in_a_circle():
    """What is named in a type alone is no import."""
    found = {
        path.resolve(): {
            (path.parent / each).resolve()
            for each in re.findall(
                r"""^(?:import|export)\b.*?\bfrom\s*["']([^"']+)["']""", path.read_text(), re.MULTILINE
            )
        }
        for path in SCRIPTS.rglob("*.js")
    }
    assert not contracts.circle(found)
