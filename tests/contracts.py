"""What a module may not do, found in its text: imports wherever they stand, input and output, memory, SQL."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator, Mapping
from importlib.util import resolve_name
from typing import TypeVar

T = TypeVar("T")

OUTSIDE = {
    "av", "flask", "glob", "http", "importlib", "io", "logging", "mmap", "multiprocessing", "os", "pathlib", "pickle",
    "shutil", "socket", "soundfile", "soxr", "sqlite3", "subprocess", "tempfile", "threading", "time", "urllib",
}  # fmt: skip
OPENS = {"open", "print", "input", "exec", "eval", "__import__"}
READS = {
    "read_text", "write_text", "read_bytes", "write_bytes", "tofile", "fromfile", "memmap", "loadtxt", "savetxt",
    "savez", "savez_compressed",
}  # fmt: skip
OF_NUMPY = {"load", "save"}
OF_ONE_SYSTEM = {
    "fcntl", "msvcrt", "resource", "posix", "pwd", "grp", "termios", "pty", "winreg", "platform",
    "os.name", "os.fork", "os.kill", "os.killpg", "os.setsid", "os.getppid", "os.getuid", "os.geteuid", "os.umask",
    "os.sched_getaffinity", "os.memfd_create", "os.fsync", "os.waitpid", "os.statvfs", "sys.platform",
    "signal.SIGKILL", "signal.SIGHUP", "signal.SIGXCPU", "signal.SIGCHLD", "mmap.mmap", "socket.AF_UNIX",
    "multiprocessing.Pipe",
}  # fmt: skip
ASKED_FOR = {"pass_fds", "start_new_session", "preexec_fn", "creationflags", "startupinfo"}
CACHES = {"lru_cache", "cache", "LRUCache", "BoundedCache"}
GROWS = {"append", "add", "update", "setdefault", "extend", "insert", "pop", "popitem", "clear", "remove", "discard"}
EMPTY = {"dict", "list", "set", "Counter"}
FILLED = {"defaultdict", "OrderedDict", "deque", "WeakKeyDictionary", "WeakValueDictionary"}
SQL = re.compile(
    r"""^\s*(?:select\s[^.]*\sfrom\s\w+(?:\s*$|\s(?:where|order|group|join|limit|left|as)\b)|insert\s+(?:or\s+\w+\s+)?into\s"""
    r"""|update\s+\S+\s+set\s+\w+\s*=|delete\s+from\s+\w+\s*(?:$|where\b)|create\s+(?:table|index)\s|drop\s+table\s"""
    r"""|alter\s+table\s|pragma\s+\w+)""",
    re.IGNORECASE,
)


def circle(uses: Mapping[T, set[T]]) -> set[T]:
    """Of things that use each other, what is left when all that leads into no circle is taken away."""
    left = dict(uses)
    while free := [each for each, used in left.items() if not used & left.keys()]:
        for each in free:
            del left[each]
    return set(left)


def _named(node: ast.expr) -> str:
    return node.attr if isinstance(node, ast.Attribute) else node.id if isinstance(node, ast.Name) else ""


def imports(text: str, *, package: str) -> set[str]:
    """What a module of a package imports, in whatever scope and way; `package.name` for each name taken."""
    found, get = set(), {"import_module", "__import__"}
    tree = ast.parse(text)
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = resolve_name("." * node.level + (node.module or ""), package) if node.level else str(node.module)
            found |= {f"{base}.{alias.name}" for alias in node.names}
            get |= {alias.asname for alias in node.names if alias.name == "import_module" and alias.asname}
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and _named(node.func) in get and node.args:
            name = node.args[0]
            found.add(name.value if isinstance(name, ast.Constant) and isinstance(name.value, str) else "?")
    return found


def input_or_output(text: str) -> list[str]:
    """What of a module reads or writes anything outside of it, or could."""
    found = sorted({name.split(".")[0] for name in imports(text, package="jaylantern.core")} & OUTSIDE)
    for node in ast.walk(ast.parse(text)):
        if not isinstance(node, ast.Call):
            continue
        name = _named(node.func)
        of_numpy = (
            isinstance(node.func, ast.Attribute) and _named(node.func.value) in ("np", "numpy") and name in OF_NUMPY
        )
        if (isinstance(node.func, ast.Name) and name in OPENS) or (
            isinstance(node.func, ast.Attribute) and name in READS
        ):
            found.append(name)
        elif of_numpy:
            found.append(f"np.{name}")
    return found


def _kept_at_module_level(tree: ast.Module) -> Iterator[str]:
    """Containers of the module that are empty at first, or written by a function."""
    tables = set()
    for node in tree.body:
        if isinstance(node, (ast.Assign, ast.AnnAssign)):
            targets = node.targets if isinstance(node, ast.Assign) else [node.target]
            names = {each.id for each in targets if isinstance(each, ast.Name)}
            value = node.value
            empty = (isinstance(value, ast.Dict) and not value.keys) or (isinstance(value, ast.List) and not value.elts)
            called = _named(value.func) if isinstance(value, ast.Call) else ""
            if empty or called in FILLED or (called in EMPTY and isinstance(value, ast.Call) and not value.args):
                yield from names
            tables |= names
    for scope in ast.walk(tree):
        if not isinstance(scope, (ast.FunctionDef, ast.AsyncFunctionDef)):
            continue
        for node in ast.walk(scope):
            if (
                isinstance(node, ast.Subscript)
                and isinstance(node.ctx, (ast.Store, ast.Del))
                and _named(node.value) in tables
            ):
                yield _named(node.value)
            grows = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in GROWS
            if grows and isinstance(node.func.value, ast.Name) and node.func.value.id in tables:
                yield node.func.value.id


def _own_fields(node: ast.AST, fresh: set[str]) -> bool:
    """Is it the `__dict__` of anything but what was just made by `__new__`?"""
    return isinstance(node, ast.Attribute) and node.attr == "__dict__" and _named(node.value) not in fresh


def _hidden_fields(tree: ast.Module) -> Iterator[str]:
    """Fields that are written past the class: into `__dict__`, or by `__setattr__` other than where a value is made."""
    made = {
        id(node)
        for each in ast.walk(tree)
        if isinstance(each, ast.FunctionDef) and each.name in ("__post_init__", "__init__", "__new__")
        for node in ast.walk(each)
    }
    fresh = {
        _named(node.targets[0])
        for node in ast.walk(tree)
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call) and _named(node.value.func) == "__new__"
    }
    for node in ast.walk(tree):
        taken = isinstance(node, (ast.Assign, ast.Subscript)) and _own_fields(node.value, fresh)
        if taken and (isinstance(node, ast.Assign) or isinstance(node.ctx, ast.Store)):
            yield "__dict__"
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute):
            if node.func.attr in GROWS and _own_fields(node.func.value, fresh):
                yield "__dict__"
            elif node.func.attr == "__setattr__" and id(node) not in made:
                yield "__setattr__"


def remembers(text: str) -> list[str]:
    """What of a module keeps something from one call to the next."""
    tree = ast.parse(text)
    found = [*_kept_at_module_level(tree), *_hidden_fields(tree)]
    for node in ast.walk(tree):
        if isinstance(node, (ast.Name, ast.Attribute)) and _named(node) in CACHES:
            found.append(_named(node))
        elif isinstance(node, ast.Global):
            found += node.names
        elif isinstance(node, (ast.FunctionDef, ast.Lambda)):
            usual = [*node.args.defaults, *(each for each in node.args.kw_defaults if each is not None)]
            found += ["a default that is filled" for each in usual if isinstance(each, (ast.List, ast.Dict, ast.Set))]
    return found


def reaches_out(text: str) -> list[str]:
    """What in a command is more than an edit: it reads or writes, remembers, or asks the store."""
    stored = {name for name in imports(text, package="jaylantern.commands") if name.startswith("jaylantern.store")}
    return [*input_or_output(text), *remembers(text), *sorted(stored)]


def of_one_system(text: str) -> list[str]:
    """What of a module not every system has, or has alike."""
    found = {name for name in imports(text, package="jaylantern") if {name, name.split(".")[0]} & OF_ONE_SYSTEM}
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.Attribute):
            name = f"{_named(node.value)}.{node.attr}"
            found |= {name} & OF_ONE_SYSTEM or ({name} if node.attr == "chmod" else set())
        elif isinstance(node, ast.keyword) and node.arg in ASKED_FOR:
            found.add(str(node.arg))
        elif (
            isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value.startswith(("/proc", "/dev"))
        ):
            found.add(node.value)
    return sorted(found)


def sql(text: str) -> list[str]:
    """Strings of a module that are SQL, in any case and quotes; docstrings are words."""
    tree = ast.parse(text)
    words = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, (ast.Module, ast.ClassDef, ast.FunctionDef, ast.AsyncFunctionDef))
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    found = []
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in words:
            found.append(node.value)
        elif isinstance(node, ast.JoinedStr):
            found.append("".join(str(each.value) if isinstance(each, ast.Constant) else "x" for each in node.values))
    return [each for each in found if SQL.match(each)]
