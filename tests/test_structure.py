"""The structure that ARCHITECTURE.md promises: direction of imports, where SQL lives, what the documents name."""

from __future__ import annotations

import ast
import re
from pathlib import Path

import pytest

from jaylantern.core.timeline.tag import Tag
from tests import contracts

ROOT = Path(__file__).parent.parent
SOURCE = ROOT / "src" / "jaylantern"
FILES = sorted(SOURCE.rglob("*.py"))

SIGNAL, TAILORING, TIMELINE, CAPTIONS, SPEECH, DUCKING, CARE, MIXING, EDIT = (
    f"core/{each}"
    for each in ("signal", "tailoring", "timeline", "captions", "speech", "ducking", "care", "mixing", "edit")
)
CORE = {SIGNAL, TAILORING, TIMELINE, CAPTIONS, SPEECH, DUCKING, CARE, MIXING, EDIT, "errors"}
# which rooms a room may use beside itself; what stands lower uses only what stands above it here
MAY = {
    "__init__": set(),
    "errors": set(),
    SIGNAL: {"errors"},
    TAILORING: {SIGNAL, "errors"},
    TIMELINE: {SIGNAL, TAILORING, "errors"},
    CAPTIONS: {SIGNAL, TIMELINE, "errors"},
    SPEECH: {SIGNAL, TIMELINE, "errors"},
    DUCKING: {SIGNAL, TIMELINE, CAPTIONS, "errors"},
    CARE: {SIGNAL, TIMELINE, DUCKING, "errors"},
    MIXING: {SIGNAL, TIMELINE, CAPTIONS, DUCKING, "errors"},
    EDIT: {SIGNAL, TAILORING, TIMELINE, CAPTIONS, DUCKING, "errors"},
    "support": {"errors"},
    "detect": CORE,
    "media": {*CORE, "support"},
    "interchange": CORE,
    "pipeline": {*CORE, "detect", "support"},
    "store": {*CORE, "support"},
    "commands": {*CORE, "store"},
    "render": {*CORE, "media", "support"},
    "library": {*CORE, "media", "detect", "pipeline", "store", "support"},
    "workspace": {*CORE, "commands", "library", "media", "pipeline", "render", "store", "support"},
    "projectfile": {*CORE, "commands", "interchange", "library", "store", "support", "workspace"},
    "export": {
        *CORE, "interchange", "library", "media", "pipeline", "projectfile", "render", "store", "support", "workspace",
    },
    "fleet": {
        *CORE, "export", "interchange", "library", "pipeline", "projectfile", "store", "support", "workspace",
    },
    "jobs": {*CORE, "commands", "export", "library", "projectfile", "store", "support", "workspace"},
    "demo": {*CORE, "commands", "library", "media", "projectfile", "store", "support", "workspace"},
    "web": {
        *CORE, "commands", "export", "fleet", "jobs", "library", "media", "pipeline", "projectfile", "store",
        "support", "workspace",
    },
    "cli": {
        *CORE, "demo", "export", "fleet", "interchange", "library", "media", "pipeline", "projectfile", "store",
        "support", "workspace",
    },
}  # fmt: skip


def module_of(path: Path) -> str:
    return ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__")


MODULES = {module_of(path): path for path in FILES}


def imported(path: Path) -> set[str]:
    """What a file imports; of our own, the modules."""
    names = set()
    for found in contracts.imports(path.read_text(encoding="utf-8"), package=module_of(path.parent / "__init__.py")):
        names.add(found if found in MODULES or "." not in found else found.rsplit(".", 1)[0])
    return names


def part_of(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


def room_of(path: Path) -> str:
    """The room a file stands in; those of the core by two words."""
    parts = path.relative_to(SOURCE).parts
    return "/".join(parts[:2]) if parts[0] == "core" and len(parts) > 2 else part_of(path)


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_a_room_uses_only_the_rooms_it_may(path):
    room = room_of(path)
    if room == "core":  # what all rooms may use
        assert not {name for name in imported(path) if name.startswith("jaylantern")}
        return
    rooms = {room_of(MODULES[name]) for name in imported(path) if name in MODULES}
    assert rooms - {room, "__init__", "core"} <= MAY[room]


def test_the_order_of_the_rooms_has_no_circle():
    above: set[str] = set()
    for room, used in MAY.items():
        assert used <= above | {"errors"}, room
        above.add(room)


def test_no_two_modules_import_each_other_in_a_circle():
    uses = {name: {each for each in imported(path) if each in MODULES} - {name} for name, path in MODULES.items()}
    assert not contracts.circle(uses)


@pytest.mark.parametrize(
    ("uses", "left"),
    [
        ({1: {2}, 2: {3}, 3: set()}, set()),
        ({1: {2}, 2: {1}}, {1, 2}),
        ({1: {2}, 2: {3}, 3: {2}, 4: set()}, {1, 2, 3}),
        ({1: {1}}, {1}),
        ({1: {9}}, set()),
    ],
)
def test_a_circle_is_found(uses, left):
    assert contracts.circle(uses) == left


def test_nothing_lies_loose_at_the_root():
    assert {path.name for path in SOURCE.glob("*.py")} == {"__init__.py", "errors.py", "pipeline.py"}


CORE_FILES = [path for path in FILES if part_of(path) == "core"]


@pytest.mark.parametrize("path", CORE_FILES, ids=lambda path: path.name)
def test_no_module_of_the_core_remembers(path):
    assert not contracts.remembers(path.read_text(encoding="utf-8"))


@pytest.mark.parametrize("path", CORE_FILES, ids=lambda path: path.name)
def test_the_core_does_no_input_or_output(path):
    assert not contracts.input_or_output(path.read_text(encoding="utf-8"))


@pytest.mark.parametrize(
    "path", [p for p in FILES if part_of(p) == "commands" and p.stem not in ("provider", "carry_out")],
    ids=lambda path: path.name,
)  # fmt: skip
def test_a_command_reads_and_writes_nothing_by_itself(path):
    """It is prepared by a provider, and committed by `carry_out`."""
    assert not contracts.reaches_out(path.read_text(encoding="utf-8"))


@pytest.mark.parametrize(
    "text",
    [
        "from jaylantern.store import projects",
        "def f(db):\n    from ..store import media\n    return media.get(db, 1)",
        "def f(path):\n    return path.read_bytes()",
        "SEEN = {}\ndef f(x):\n    SEEN[x] = 1",
    ],
)
def test_a_command_that_does_is_caught(text):
    assert contracts.reaches_out(text)
    assert not contracts.reaches_out("from jaylantern.core.edit import cutting\ndef f(project):\n    return cutting")


@pytest.mark.parametrize("path", FILES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_what_only_one_system_has_stands_in_one_module(path):
    found = contracts.of_one_system(path.read_text(encoding="utf-8"))
    assert bool(found) == (module_of(path) == "jaylantern.support.system"), found


@pytest.mark.parametrize(
    "text",
    [
        "import fcntl",
        "def f():\n    from resource import setrlimit",
        "import os\nos.fork()",
        "import os, signal\nos.kill(7, 0)",
        "from os import getppid",
        "import signal\nx = signal.SIGKILL",
        "import sys\nif sys.platform == 'linux': pass",
        "import subprocess\nsubprocess.Popen(['a'], start_new_session=True)",
        "open('/proc/self/statm')",
        "def f(path):\n    path.chmod(0o600)",
    ],
)
def test_what_only_one_system_has_is_caught(text):
    assert contracts.of_one_system(text)
    assert not contracts.of_one_system("import os, sys\nx = os.environ, sys.argv, 'process'")


@pytest.mark.parametrize(
    "path", [p for p in FILES if part_of(p) != "store"], ids=lambda path: str(path.relative_to(SOURCE))
)
def test_sql_lives_under_store_only(path):
    assert not contracts.sql(path.read_text(encoding="utf-8"))


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("import jaylantern.web.server", {"jaylantern.web.server"}),
        ("from jaylantern.web import server", {"jaylantern.web.server"}),
        ("def f():\n    from ..web import server", {"jaylantern.web.server"}),
        ("def f():\n    from . import plan", {"jaylantern.core.plan"}),
        ("from .plan import make_plan", {"jaylantern.core.plan.make_plan"}),
        (
            'import importlib\nx = importlib.import_module("jaylantern.web.server")',
            {"importlib", "jaylantern.web.server"},
        ),
        (
            'from importlib import import_module as get\nx = get("jaylantern.web")',
            {"importlib.import_module", "jaylantern.web"},
        ),
        ('x = __import__("flask")', {"flask"}),
    ],
)
def test_an_import_is_seen_wherever_it_stands(text, found):
    assert contracts.imports(text, package="jaylantern.core") == found


@pytest.mark.parametrize(
    "text",
    [
        "def f(path):\n    with open(path) as file:\n        return file.read()",
        "from tempfile import TemporaryDirectory",
        "def f():\n    import tempfile",
        "import numpy as np\nx = np.load('a.npy')",
        "def f(path):\n    return path.read_text()",
        'import importlib\nos = importlib.import_module("os")',
        "print('x')",
    ],
)
def test_input_or_output_in_the_core_is_caught(text):
    assert contracts.input_or_output(text)


@pytest.mark.parametrize(
    "text",
    [
        "from functools import lru_cache\n@lru_cache\ndef f(): ...",
        "import functools\nclass A:\n    def __init__(self):\n        self.f = functools.lru_cache(maxsize=9)(self.g)",
        "KEPT = {}",
        "KEPT: dict[int, int] = dict()",
        "from collections import defaultdict\nKEPT = defaultdict(list)",
        "KEPT = []\ndef f(x):\n    KEPT.append(x)",
        "TABLE = {1: 2}\ndef f(x):\n    TABLE[x] = 1",
        "N = 0\ndef f():\n    global N\n    N += 1",
        "def f(project):\n    project.__dict__['x'] = 1",
        "def f(project):\n    kept = project.__dict__\n    kept['x'] = 1",
        "def f(project):\n    project.__dict__.setdefault('x', 1)",
        "def f(project):\n    object.__setattr__(project, 'x', 1)",
        "def f(x, kept=[]):\n    kept.append(x)",
    ],
)
def test_what_remembers_in_the_core_is_caught(text):
    assert contracts.remembers(text)


@pytest.mark.parametrize(
    "text",
    [
        "TABLE = {1: 2}\ndef f(x):\n    return TABLE[x]",
        "def f(x):\n    kept = []\n    kept.append(x)\n    return kept",
        "class A:\n    def __post_init__(self):\n        object.__setattr__(self, 'x', 1)",
        "def f(a, b):\n    return a.__dict__ == b.__dict__",
        "def f(cls, x):\n    made = object.__new__(cls)\n    made.__dict__.update(x)\n    return made",
    ],
)
def test_what_is_made_and_given_away_is_no_memory(text):
    assert not contracts.remembers(text)


@pytest.mark.parametrize(
    "text",
    ['db.execute("SELECT a FROM b")', 'db.execute("select a from b")', 'db.execute("""\n    delete from b\n""")',
     'db.execute(f"UPDATE {table} SET a = 1")', 'db.execute("insert into b values (1)")',
     'db.execute("Create Table b (a)")', 'db.execute("pragma user_version")'],
)  # fmt: skip
def test_sql_outside_of_the_store_is_caught(text):
    assert contracts.sql(text)


@pytest.mark.parametrize(
    "text", ['say("Select a clip from the list")', 'say("Update what is set")', '"""Delete from here."""']
)
def test_words_are_not_taken_for_sql(text):
    assert not contracts.sql(text)


def test_every_file_says_what_it_is_for():
    assert not [path for path in FILES if not ast.get_docstring(ast.parse(path.read_text(encoding="utf-8")))]


def test_every_public_function_of_the_core_says_what_it_does():
    silent = []
    for path in FILES:
        if part_of(path) == "core":
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if (
                    isinstance(node, (ast.FunctionDef, ast.ClassDef))
                    and not node.name.startswith("_")
                    and not ast.get_docstring(node)
                ):
                    silent.append(f"{path.name}: {node.name}")
    assert not silent


def architecture() -> str:
    return (ROOT / "ARCHITECTURE.md").read_text(encoding="utf-8")


def places(text: str) -> list[Path]:
    """Where files lie that a document names in full, or from the program's root, or that of its scripts."""
    named = re.findall(r"`((?:src|tests|benchmarks|docs|core|commands|workspace|library|detect|export|media|projectfile"
                       r"|support|store|jobs|fleet|web|js|locks)/[\w./-]*)`", text)  # fmt: skip
    roots = {"js": SOURCE / "web" / "static", **dict.fromkeys(("src", "tests", "benchmarks", "docs", "locks"), ROOT)}
    return [roots.get(name.split("/")[0], SOURCE) / name for name in named]


@pytest.mark.parametrize("name", ["ARCHITECTURE.md", "docs/how-it-works.md"])
def test_what_a_document_names_is_there(name):
    found = places((ROOT / name).read_text(encoding="utf-8"))
    assert len(found) > 30
    assert not [path for path in found if not path.exists()]


def test_the_architecture_is_two_pages_and_its_table_names_a_place_in_every_row():
    table = architecture().split("## To change X open Y")[1].split("\n## ")[0]
    rows = [line for line in table.splitlines() if line.startswith("| ")][2:]
    assert 25 <= len(rows) <= 35
    assert not [row for row in rows if not places(row)]
    assert len(architecture().splitlines()) <= 180


@pytest.mark.parametrize("walk", ["Add a ramp shape", "Add a form of export", "Add a tag"])
def test_a_walk_touches_three_files_or_fewer(walk):
    text = architecture().split(f"### {walk}")[1].split("\n#")[0]
    touched = set(re.findall(r"`(src/jaylantern/[\w./-]+\.\w+)`", text))
    assert 1 <= len(touched) <= 3, touched


def test_every_room_is_in_the_picture():
    picture = architecture().split("## The rooms")[1].split("\n## ")[0]
    rooms = {room.split("/")[-1] for room in MAY} - {"__init__"}
    assert not [room for room in rooms if not re.search(rf"\b{room}\b", picture)]


@pytest.mark.parametrize("path", [p for p in FILES if part_of(p) == "core"], ids=lambda path: path.name)
def test_the_words_of_tags_stand_with_the_tags(path):
    """So that a tag is added in one place: no other file of the core has a branch for the word of a tag."""
    if path.name in ("tag.py", "presets.py"):
        return
    words = {str(tag) for tag in Tag} - {"music", "untagged", "effects"}  # "music" is a variant of the render, too
    compared = [
        value.value
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Compare)
        for value in [node.left, *node.comparators]
        if isinstance(value, ast.Constant)
    ]
    assert not words & {each for each in compared if isinstance(each, str)}


def test_pictures_in_the_readme_are_there():
    named = re.findall(r"\((docs/screenshots/[\w.-]+)\)", (ROOT / "README.md").read_text(encoding="utf-8"))
    assert named
    assert not [name for name in named if not (ROOT / name).exists()]


def test_nothing_is_fetched_from_elsewhere():
    pages = [*SOURCE.rglob("*.html"), *SOURCE.rglob("*.css"), *(SOURCE / "web/static/js").rglob("*.js")]
    outside = re.compile(r"""(?:src|href|url|import|fetch)\W{1,3}https?://""")
    assert not [
        path for path in pages if "vendor" not in path.parts and outside.search(path.read_text(encoding="utf-8"))
    ]


def test_the_demo_is_small():
    assert sum(path.stat().st_size for path in (SOURCE / "demo" / "files").iterdir()) < 15_000_000
