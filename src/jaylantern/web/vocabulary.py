"""The words the page shares with the program, written for it from the program's own tables: commands with their
parameters, tags with their looks, settings. `./jay vocabulary` writes them anew; a test holds them to the tables.
"""

from __future__ import annotations

import json
from pathlib import Path

from jaylantern.commands import COMMANDS
from jaylantern.commands.command import NEEDED, Command
from jaylantern.core.timeline.captions import Encoding
from jaylantern.core.timeline.settings import SHAPING
from jaylantern.core.timeline.tag import Tag
from jaylantern.web.tag_looks import LOOKS

STATIC = Path(__file__).parent / "static"
WRITTEN = "Written by ./jay vocabulary from the tables of the program; change those."


def script() -> str:
    """The module the page's scripts take their words from."""
    tags = [
        {
            "word": str(tag),
            "letter": LOOKS[tag].letter,
            "night": LOOKS[tag].night,
            "ghost": LOOKS[tag].ghost,
            "height_px": LOOKS[tag].height_px,
            "speaks": tag.speaks,
        }
        for tag in Tag
    ]
    lines = [
        f"// Pure: the words this page shares with the program. {WRITTEN}",
        "",
        "/**",
        " * What each command takes.",
        " * @typedef {object} Commands",
        *(f" * @property {{{_values(command)}}} {name}" for name, command in COMMANDS.items()),
        " */",
        "",
        "/** @typedef {keyof Commands} CommandName */",
        "",
        "/** @typedef {{word: string, letter: string, night: string, ghost: string,"
        " height_px: number, speaks: boolean}} Tag */",
        "",
        "/** @type {Tag[]} */",
        "export const TAGS = [",
        *(f"  {_object(tag)}," for tag in tags),
        "];",
        "",
        "/** The tags of talk. */",
        "export const SPEAKS = new Set(TAGS.filter((tag) => tag.speaks).map((tag) => tag.word));",
        "",
        "/** How the letters of a file may be written: the word of a command, and what a person reads. */",
        "export const ENCODINGS = [",
        *(f"  {_object({'word': str(each), 'says': each.word})}," for each in Encoding),
        "];",
        "",
        "/** What a dip can have of its own. */",
        f"export const SHAPING = new Set({json.dumps(list(SHAPING))});",
        "",
    ]
    return "\n".join(lines)


def _values(command: Command) -> str:
    """What a command takes, as a type."""
    params = [
        f"{name}{'' if param.default is NEEDED else '?'}: {param.kind.script}"
        for name, param in command.params.items()
        if param.kind.script != "never"
    ]
    return "{" + ", ".join([*params, "gesture?: string|null"]) + "}"


def _object(values: dict[str, object]) -> str:
    return "{ " + ", ".join(f"{name}: {json.dumps(value, ensure_ascii=False)}" for name, value in values.items()) + " }"


def styles() -> str:
    """The colours of tags on paper."""
    rows = [f".tag-{tag} {{ --tag: {LOOKS[tag].day}; }}" for tag in Tag]
    return "\n".join([f"/* The colours of tags on paper. {WRITTEN} */", *rows, ""])


FILES = {STATIC / "js" / "plain" / "vocabulary.js": script, STATIC / "css" / "tags.css": styles}


def write() -> None:
    """Write the files."""
    for path, text in FILES.items():
        path.write_text(text(), encoding="utf-8")


if __name__ == "__main__":
    write()
