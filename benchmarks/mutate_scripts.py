"""Faults planted one at a time in the page's plain scripts, and how many of them the tests under node notice.

    ./jay mutate plain/generations        one of them; what no test noticed is listed
    ./jay mutate plain                    all of them, a table at the end

A fault is one sign, number or word of the code that is another one. It works on a copy; the tests that are run are
those that import the script.
"""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import partial
from pathlib import Path

ROOT = Path(__file__).parent.parent
SCRIPTS, TESTS = Path("src/jaylantern/web/static/js"), Path("tests/js")
TOLD = {"vocabulary", "look", "hand_moves"}  # tables of words and colours: nothing is decided there
LONGEST_S = 30.0
SWAPS = {
    "<": "<=", "<=": "<", ">": ">=", ">=": ">", "===": "!==", "!==": "===", "+": "-", "-": "+", "*": "/", "/": "*",
    "&&": "||", "||": "&&", "??": "&&", "min": "max", "max": "min", "floor": "ceil", "ceil": "floor", "round": "floor",
    "true": "false", "false": "true", "findLast": "find", "some": "every", "every": "some", "+=": "-=", "-=": "+=",
}  # fmt: skip
# what is no code, then what can be another
TOKEN = re.compile(
    r"""(?P<skip>//[^\n]*|/\*.*?\*/|"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*'|(?<=[(,=:])\s*/(?![*/])(?:\\.|\[[^\]]*\]|[^/\\\n])+/[a-z]*"""
    r"""|^import\b[^\n]*|=>|\+\+|--|\.\.\.)|(?P<sign>===|!==|<=|>=|&&|\|\||\?\?|\+=|-=|(?<=\s)[<>+*/-](?=\s)|(?<=[(\[,=?:\s])-(?=[\w(]))"""
    r"""|(?P<number>(?<![\w.#])\d[\d_]*(?:\.\d+)?\b)|(?P<word>(?<=Math\.)(?:min|max|floor|ceil|round)\b"""
    r"""|(?<=\.)(?:findLast|some|every)\b|\b(?:true|false)\b)""",
    re.DOTALL | re.MULTILINE | re.VERBOSE,
)


def faults(text: str) -> Iterator[tuple[str, str]]:
    """Every fault of a script: where it is and what it is, and the whole text with it."""
    for found in TOKEN.finditer(text):
        old = found[0]
        if found["skip"]:
            continue
        if found["number"]:
            new = str(float(old.replace("_", "")) + 1).removesuffix(".0")
        elif old == "-" and not text[found.end()].isspace():
            new = ""  # the sign of one value
        else:
            new = SWAPS[old]
        line = text.count("\n", 0, found.start()) + 1
        column = found.start() - text.rfind("\n", 0, found.start())
        yield f"line {line}, {column}: {old} → {new or 'nothing'}", text[: found.start()] + new + text[found.end() :]


def tests_of(module: str) -> list[str]:
    """The tests that import a script, by itself or through another plain one."""
    name = module.rsplit("/", 1)[-1]
    found = [path.name for path in sorted((ROOT / TESTS).glob("*.test.js")) if f"/{name}.js" in path.read_text()]
    return [f"{TESTS}/{each}" for each in found]


def caught(module: str, tests: list[str], text: str) -> bool:
    """Whether a test fails with this text in the place of a script."""
    with tempfile.TemporaryDirectory(prefix="jaylantern-mutate-") as folder:
        copy = Path(folder)
        shutil.copytree(ROOT / SCRIPTS, copy / SCRIPTS)
        shutil.copytree(ROOT / TESTS, copy / TESTS)
        shutil.copy(ROOT / "package.json", copy)
        shutil.copytree(ROOT / "tests" / "vectors", copy / "tests" / "vectors")
        (copy / SCRIPTS / f"{module}.js").write_text(text, encoding="utf-8")
        quiet = subprocess.DEVNULL
        run = subprocess.Popen(["node", "--test", *tests], cwd=copy, stdout=quiet, stderr=quiet, start_new_session=True)
        try:
            return run.wait(LONGEST_S) != 0
        except subprocess.TimeoutExpired:
            return True
        finally:
            with suppress(ProcessLookupError):  # with the processes of its tests, which may go round for ever
                os.killpg(run.pid, signal.SIGKILL)


def results(module: str) -> dict[str, str]:
    """What became of every fault of a script, by what it is: "caught", "missed"."""
    text = (ROOT / SCRIPTS / f"{module}.js").read_text(encoding="utf-8")
    tests, planted = tests_of(module), list(faults(text))
    if not tests:
        return {what: "missed" for what, _ in planted}
    with ThreadPoolExecutor(2) as pool:
        seen = pool.map(partial(caught, module, tests), [fault for _, fault in planted])
    return {what: "caught" if each else "missed" for (what, _), each in zip(planted, seen, strict=True)}


def modules(name: str) -> list[str]:
    """The scripts of a name: all plain ones, or the one; none where there is none."""
    if name != "plain":
        return [name] if (ROOT / SCRIPTS / f"{name}.js").exists() else []
    return [f"plain/{path.stem}" for path in sorted((ROOT / SCRIPTS / "plain").glob("*.js")) if path.stem not in TOLD]
