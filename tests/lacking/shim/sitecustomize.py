"""Read by every Python before anything else, where this folder is on its path: what not all systems have is not there.

No fork, no affinity; `fcntl` and `resource` for nobody of ours but the one module that knows what systems differ in;
processes of libraries are begun by spawn.
"""

import builtins
import multiprocessing
import os
import sys

for _name in ("fork", "forkpty", "sched_getaffinity", "sched_setaffinity", "memfd_create"):
    if hasattr(os, _name):
        delattr(os, _name)
multiprocessing.set_start_method("spawn")

_import = builtins.__import__


def _lacking(name, globals=None, locals=None, fromlist=(), level=0):
    who = (globals or {}).get("__name__", "")
    ours = who.split(".")[0] in ("jaylantern", "tests", "benchmarks") and who != "jaylantern.support.system"
    if ours and name in ("fcntl", "resource"):
        raise ImportError(f"{who} asks for {name}, which this system has not")
    return _import(name, globals, locals, fromlist, level)


builtins.__import__ = _lacking
sys.lacking = True
