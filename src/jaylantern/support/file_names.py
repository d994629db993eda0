"""Names of files that every system takes: Linux, macOS and Windows, shared folders and sticks.

Source: Microsoft, "Naming Files, Paths, and Namespaces" (what is reserved, what may not end a name); a name has at most
255 bytes of UTF-8 on Linux, 255 units of UTF-16 on macOS and Windows. macOS and Windows know names apart by more than
small and large letters; macOS takes the same letters, composed or not, for the same name.
"""

from __future__ import annotations

import ntpath
import re
import unicodedata
from collections.abc import Iterable, Sequence

MOST_OF_WINDOWS = 259  # letters of a path that is not in its extended form
MOST_BYTES = 120  # of a name we give: a counter, an ending and the name of a part have room beside it
_FORBIDDEN = re.compile(r'[<>:"/\\|?*\x00-\x1f\x7f\ud800-\udfff]+')
_DEVICE = re.compile(r"(con|prn|aux|nul|conin\$|conout\$|(?:com|lpt)[0-9¹²³])\s*(\..*)?", re.IGNORECASE | re.DOTALL)


def fit(text: str, *, most_bytes: int = MOST_BYTES, otherwise: str = "file") -> str:
    """A name for a file, as near to `text` as every system takes it; `otherwise` where nothing of it is left."""
    name = " ".join(_FORBIDDEN.sub(" ", unicodedata.normalize("NFC", text)).split()).strip(" .")
    name = name.encode()[:most_bytes].decode(errors="ignore").rstrip(" .")
    device = _DEVICE.fullmatch(name)
    if device:
        name = f"{device[1]}_{device[2] or ''}"
    return name or otherwise


def same_as(name: str) -> str:
    """What two names share that are one and the same on some system."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFC", name).casefold())


def told_apart(names: Iterable[str]) -> list[str]:
    """The names, each with a number after it where it is the same as one before it on some system."""
    wanted = list(names)
    taken, found = {same_as(name) for name in wanted}, list[str]()
    seen = set[str]()
    for name in wanted:
        own, number = name, 1
        while same_as(own) in seen or (number > 1 and same_as(own) in taken):
            number += 1
            own = f"{name} ({number})"
        seen.add(same_as(own))
        found.append(own)
    return found


def extended(path: str) -> str:
    """An absolute path of Windows, also one on a network share, in the form that may be longer than 259 letters."""
    if path.startswith("\\\\?\\"):
        return path
    plain = ntpath.normpath(path)  # in the extended form nothing is looked at again: no "..", no "/"
    return f"\\\\?\\UNC{plain[1:]}" if plain.startswith("\\\\") else f"\\\\?\\{plain}"


def spelled_otherwise(name: str, there: Sequence[str]) -> str | None:
    """Of the names that are there, one that is the same on some system and is not spelled the same."""
    return next((each for each in there if each != name and same_as(each) == same_as(name)), None)
