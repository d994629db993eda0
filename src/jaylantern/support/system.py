"""What systems differ in: locks, what is on the disk, the replacing of files, shared memory, limits, how processes end.

No other module asks which system it is. Linux, macOS and Windows are told apart by `sys.platform`, so that types are
checked for each of them.
"""

from __future__ import annotations

import ctypes
import mmap
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import IO, Any, TypeVar

import psutil

from jaylantern.support import file_names

if sys.platform == "win32":
    import msvcrt
    from ctypes import wintypes
else:
    import fcntl
    import resource

T = TypeVar("T")
WINDOWS, LINUX = sys.platform == "win32", sys.platform == "linux"
REPLACED_WITHIN_S = 3.0  # so long whoever reads a file may keep it from being replaced
AGAIN_S = 0.02
LOCKED_AT = 1 << 30  # a byte far beyond what is in a lock file: on Windows nobody may read what is locked
DATA_WITHIN = "Data" if WINDOWS else ""  # of the folder for such data: Windows has caches beside them in it
EPOCH = datetime(1970, 1, 1, tzinfo=UTC)
LAST_S = (datetime(9999, 12, 31, tzinfo=UTC) - EPOCH).total_seconds()
ICON_ENDING = {"win32": ".ico", "darwin": ".icns"}.get(sys.platform, ".png")
ENDED_FROM_OUTSIDE = "its process was ended from outside, or because memory ran out"


def cores() -> int:
    """How many cores this process may use."""
    affinity = getattr(os, "sched_getaffinity", None)
    return len(affinity(0)) if affinity is not None else os.cpu_count() or 1


def has_a_desktop() -> bool:
    """Can windows be shown here? Without them a browser for the terminal would begin instead."""
    return not LINUX or bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


# — files —


def hold(file: IO[Any]) -> None:
    """Lock an open file for as long as it is open. Raises OSError where another process, or another opening of this
    one, has it locked."""
    if sys.platform == "win32":
        at = file.tell()
        file.seek(LOCKED_AT)
        try:
            msvcrt.locking(file.fileno(), msvcrt.LK_NBLCK, 1)
        finally:
            file.seek(at)
    else:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)


def to_disk(path: Path) -> None:
    """Return when what is in a file lies on the disk."""
    with path.open("r+b") as file:  # Windows wants to be allowed to write
        flush_to_disk(file)


def flush_to_disk(file: IO[Any]) -> None:
    """The same for a file that is open for writing."""
    file.flush()
    if sys.platform == "darwin":  # its fsync stops at the drive's own memory
        with suppress(OSError):
            fcntl.fcntl(file.fileno(), fcntl.F_FULLFSYNC)
            return
    os.fsync(file.fileno())


def replace(source: Path, target: Path) -> None:
    """Give a file its name, also one that is taken. Where the system refuses because somebody reads what has the name
    now, it is tried again for a while."""
    _tried_again(lambda: source.replace(target))


def remove(path: Path) -> None:
    """Take away a file, also one that somebody just has open; nothing where there is none."""
    _tried_again(lambda: path.unlink(missing_ok=True))


def _tried_again(do: Callable[[], T]) -> T:
    until = time.monotonic() + REPLACED_WITHIN_S
    while True:
        try:
            return do()
        except PermissionError:
            if not WINDOWS or time.monotonic() > until:
                raise
            time.sleep(AGAIN_S)


def with_room(path: Path, letters: int = 160) -> Path:
    """A path under which names of so many letters have room: on Windows in its extended form where it needs that."""
    if not WINDOWS or len(os.path.abspath(path)) + letters <= file_names.MOST_OF_WINDOWS:
        return path
    return Path(file_names.extended(os.path.abspath(path)))


def real(path: Path) -> Path:
    """A path without links in it, absolute; as it is where the system can't say."""
    try:
        return path.resolve()
    except OSError:
        return path.absolute()


def changed_at(path: Path) -> datetime:
    """When a file was changed last, in UTC and whole seconds: disks keep times as finely as two seconds (FAT) or a
    hundred nanoseconds (NTFS). A time no calendar holds on every system, before 1970 or after 9999, is the nearest one
    that it does. Raises OSError."""
    since_s = min(max(path.stat().st_mtime // 1, 0), LAST_S)
    return EPOCH + timedelta(seconds=since_s)


def for_the_owner_alone() -> None:
    """What this process makes from here on is its owner's alone; on Windows the folder's own rights say so."""
    if sys.platform != "win32":
        os.umask(0o077)


def the_owners_alone(folder: Path) -> None:
    """Nobody else may look into a folder; on Windows it has the rights of the folder it lies in, the account's own."""
    if sys.platform != "win32":
        folder.chmod(0o700)


# — memory that several processes see —


class SharedMemory:
    """Memory of so many bytes that processes know by its name; without one it is made, and has a name until that is
    forgotten."""

    def __init__(self, size: int, name: str = "") -> None:
        self.name = name
        if sys.platform == "win32":
            self.name = name or f"jaylantern-{os.getpid()}-{os.urandom(8).hex()}"
            self.memory = mmap.mmap(-1, size, tagname=self.name)
        elif name:
            with Path(name).open("r+b") as file:
                self.memory = mmap.mmap(file.fileno(), size)
        else:
            quick = Path("/dev/shm")  # Linux: memory, not a disk  # noqa: S108
            within = quick if quick.is_dir() and os.access(quick, os.W_OK) else None
            number, self.name = tempfile.mkstemp(prefix="jaylantern-", dir=within)
            try:
                os.ftruncate(number, size)
                self.memory = mmap.mmap(number, size)
            except BaseException:
                self.forget()
                raise
            finally:
                os.close(number)

    def forget(self) -> None:
        """Take away its name; whoever has it open keeps it."""
        if sys.platform != "win32":
            with suppress(OSError):
                os.unlink(self.name)


# — processes —


def lives(number: int) -> bool:
    """Is there a process of that number that has not ended? One that has, and that nobody has asked for, is none."""
    try:
        return bool(psutil.Process(number).status() not in (psutil.STATUS_ZOMBIE, psutil.STATUS_DEAD))
    except psutil.AccessDenied:
        return True
    except psutil.Error:
        return False


def end(process: subprocess.Popen[bytes]) -> None:
    """End a process of ours and all that it has begun, whatever they are doing."""
    with suppress(psutil.Error):
        for each in psutil.Process(process.pid).children(recursive=True):
            with suppress(psutil.Error):
                each.kill()
    process.kill()
    process.wait()


def in_words(code: int | None) -> str:
    """In words, how a process ended whose work broke off, by its exit code (None: not known)."""
    if code is None:
        return "the program ended while it was at it"
    if sys.platform == "win32":
        if code & 0xC0000000 == 0xC0000000:  # a status of the system's own
            return f"its process crashed ({code & 0xFFFFFFFF:#x}): something in it breaks what reads it"
        if code in (1, 15):  # what `kill` and `terminate` leave
            return ENDED_FROM_OUTSIDE
    elif code == -signal.SIGKILL:
        return ENDED_FROM_OUTSIDE
    elif code < 0:
        return f"its process crashed ({signal.Signals(-code).name}): something in it breaks what reads it"
    return f"its process ended by itself (code {code})"


def deaf_to_ctrl_c() -> None:
    """Ctrl-C is told to all processes of a terminal; whoever began this one ends it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def handing_over(listening: socket.socket | None) -> dict[str, Any]:
    """What to begin a process with that is to have a socket of ours too."""
    if listening is None or sys.platform == "win32":
        return {}
    return {"pass_fds": (listening.fileno(),)}


def socket_for(listening: socket.socket, process: int) -> bytes | int:
    """What tells a process, which was begun so, about a socket of ours."""
    if sys.platform == "win32":
        return listening.share(process)
    return listening.fileno()


def socket_of(told: bytes | int) -> socket.socket:
    """A socket that this process was told of."""
    if sys.platform == "win32":
        assert isinstance(told, bytes)
        return socket.fromshare(told)
    assert isinstance(told, int)
    return socket.socket(fileno=told)


# — limits —

OUT_OF_TIME = (-9, -24)  # how a process has ended that took more: SIGKILL, SIGXCPU


def ran_out_of_time(code: int) -> bool:
    """Did a process end because it had worked for longer than it may?"""
    if sys.platform == "win32":
        return code & 0xFFFFFFFF == 1816  # ERROR_NOT_ENOUGH_QUOTA
    return code in OUT_OF_TIME


def limit(seconds: int, memory_bytes: int) -> None:
    """Keep this process within so many seconds of work, and so much memory beside what it has, as far as the system
    can: time everywhere, memory on Linux (address space) and Windows (committed). Whoever began it watches too."""
    if sys.platform == "win32":
        _limit_by_job(seconds, memory_bytes)
    else:
        with suppress(OSError, ValueError):
            resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
            resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
            if sys.platform == "linux":
                taken = psutil.Process().memory_info().vms
                resource.setrlimit(resource.RLIMIT_AS, (taken + memory_bytes,) * 2)


def taken_by(process: int) -> tuple[float, int]:
    """How many seconds a process has worked, and how many bytes of memory it has; (0.0, 0) where it has ended."""
    try:
        it = psutil.Process(process)
        return sum(it.cpu_times()[:2]), int(it.memory_info().rss)
    except psutil.Error:
        return 0.0, 0


if sys.platform == "win32":
    PROCESS_TIME, PROCESS_MEMORY, KILL_ON_CLOSE = 0x2, 0x100, 0x2000  # JOB_OBJECT_LIMIT_…
    EXTENDED = 9  # JobObjectExtendedLimitInformation

    class _Basic(ctypes.Structure):
        _fields_ = (
            ("PerProcessUserTimeLimit", ctypes.c_int64),
            ("PerJobUserTimeLimit", ctypes.c_int64),
            ("LimitFlags", wintypes.DWORD),
            ("MinimumWorkingSetSize", ctypes.c_size_t),
            ("MaximumWorkingSetSize", ctypes.c_size_t),
            ("ActiveProcessLimit", wintypes.DWORD),
            ("Affinity", ctypes.c_size_t),
            ("PriorityClass", wintypes.DWORD),
            ("SchedulingClass", wintypes.DWORD),
        )

    class _Extended(ctypes.Structure):
        _fields_ = (
            ("Basic", _Basic),
            ("IoInfo", ctypes.c_uint64 * 6),
            ("ProcessMemoryLimit", ctypes.c_size_t),
            ("JobMemoryLimit", ctypes.c_size_t),
            ("PeakProcessMemoryUsed", ctypes.c_size_t),
            ("PeakJobMemoryUsed", ctypes.c_size_t),
        )

    def _limit_by_job(seconds: int, memory_bytes: int) -> None:
        kernel = ctypes.WinDLL("kernel32", use_last_error=True)
        kernel.CreateJobObjectW.restype = wintypes.HANDLE
        kernel.GetCurrentProcess.restype = wintypes.HANDLE
        kernel.SetInformationJobObject.argtypes = (wintypes.HANDLE, ctypes.c_int, ctypes.c_void_p, wintypes.DWORD)
        kernel.AssignProcessToJobObject.argtypes = (wintypes.HANDLE, wintypes.HANDLE)
        job = kernel.CreateJobObjectW(None, None)  # held open until the process ends
        limits = _Extended()
        limits.Basic.LimitFlags = PROCESS_TIME | PROCESS_MEMORY | KILL_ON_CLOSE
        limits.Basic.PerProcessUserTimeLimit = seconds * 10_000_000
        limits.ProcessMemoryLimit = psutil.Process().memory_info().vms + memory_bytes
        kernel.SetInformationJobObject(job, EXTENDED, ctypes.byref(limits), ctypes.sizeof(limits))
        kernel.AssignProcessToJobObject(job, kernel.GetCurrentProcess())
