"""The part of the C runtime that numpy asks for and Wine 8 has not: C99's functions on complex numbers (ISO C, 7.3).

Wine's own runtime goes by another name; the library that takes its name hands everything on to it but those functions,
which come from the cross compiler's library.
"""

from __future__ import annotations

import re
import shutil
import subprocess
from pathlib import Path

TOOL = "x86_64-w64-mingw32-"
REAL_ANSWER = ("cabs", "carg", "creal", "cimag")
COMPLEX_ANSWER = (
    "cacos", "cacosh", "casin", "casinh", "catan", "catanh", "ccos", "ccosh", "cexp", "clog", "conj", "cproj", "csin",
    "csinh", "csqrt", "ctan", "ctanh",
)  # fmt: skip
HEAD = """\
int __stdcall DllMain(void *module, unsigned reason, void *reserved) { return 1; }
void __mingw_raise_matherr(int kind, const char *name, double a, double b, double result) {}
"""


def _tool(name: str, *arguments: str, at: Path) -> str:
    done = subprocess.run([f"{TOOL}{name}", *arguments], cwd=at, capture_output=True, text=True, check=True)
    return done.stdout


def _exported(library: Path) -> list[str]:
    """The names a library hands out, without those that only C++ can spell."""
    table = _tool("objdump", "-p", library.name, at=library.parent).partition("[Ordinal/Name Pointer] Table")[2]
    lines = (line.split() for line in table.splitlines() if line.lstrip().startswith("["))
    return [words[-1] for words in lines if re.fullmatch(r"\w+", words[-1])]


def _source(names: set[str]) -> tuple[str, dict[str, str]]:
    """C for those of our functions that are wanted, and what each is called in it."""
    code, ours = [HEAD], {}
    for ending, real in (("", "double"), ("f", "float")):
        z = f"{real} _Complex"
        for plain in (*REAL_ANSWER, *COMPLEX_ANSWER):
            name = plain + ending
            if name in names:
                answer = real if plain in REAL_ANSWER else z
                code.append(f"extern {answer} {name}({z}); {answer} jay_{name}({z} z) {{ return {name}(z); }}")
                ours[name] = f"jay_{name}"
        if (name := f"cpow{ending}") in names:
            code.append(f"extern {z} {name}({z}, {z}); {z} jay_{name}({z} z, {z} w) {{ return {name}(z, w); }}")
            ours[name] = f"jay_{name}"
        if (name := f"clog10{ending}") in names:
            ten = f"({real})2.302585092994045684"  # ln 10
            code.append(f"extern {z} clog{ending}({z}); {z} jay_{name}({z} z) {{ return clog{ending}(z) / {ten}; }}")
            ours[name] = f"jay_{name}"
    return "\n".join(code) + "\n", ours


def make(folder: Path) -> None:
    """Write both libraries into a folder, beside the Python that is to take them."""
    [own] = Path("/usr/lib").glob("*/wine/x86_64-windows/ucrtbase.dll")
    names = _exported(own)
    code, ours = _source(set(names))
    shutil.copyfile(own, folder / "ucrtjay.dll")
    work = folder / "making"
    work.mkdir()
    (work / "ours.c").write_text(code)
    handed = [f"  {name} = {ours.get(name, f'ucrtjay.{name}')}" for name in names]
    (work / "ucrtbase.def").write_text("\n".join(["LIBRARY ucrtbase", "EXPORTS", *handed]))
    behind = [f"  {name}" for name in names if name not in ours]
    (work / "ucrtjay.def").write_text("\n".join(["LIBRARY ucrtjay.dll", "EXPORTS", *behind]))
    _tool("dlltool", "-d", "ucrtjay.def", "-l", "libucrtjay.a", "-D", "ucrtjay.dll", at=work)
    how = ("-O2", "-fno-builtin", "-shared", "-nostdlib", "-e", "DllMain", "-L.")
    libraries = ("-lucrtjay", "-lmingwex", "-lucrtjay", "-lgcc", "-lkernel32")
    _tool("gcc", *how, "-o", "../ucrtbase.dll", "ours.c", "ucrtbase.def", *libraries, at=work)
    shutil.rmtree(work)
