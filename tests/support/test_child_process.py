"""Processes that are begun and spoken to: whole messages, an end that is noticed on both sides, nothing left."""

from __future__ import annotations

import os
import socket
import subprocess
import textwrap
import time

import pytest

from jaylantern.support import own_python, system
from jaylantern.support.child_process import Child, Nothing

BEGUN = "from jaylantern.support import child_process; line = child_process.line(); "
SAYS_AGAIN = BEGUN + "\nwhile True: line.tell(line.heard())"


@pytest.fixture
def begin():
    """A function that begins a process, which is ended at the end at the latest."""
    begun = []

    def begin(code: str, *arguments: str, **how) -> Child:
        begun.append(Child(code, *arguments, **how))
        return begun[-1]

    yield begin
    for each in begun:
        each.end()


def ends(number: int) -> bool:
    until = time.monotonic() + 20
    while system.lives(number):
        if time.monotonic() > until:
            return False
        time.sleep(0.05)
    return True


@pytest.mark.parametrize(
    "message",
    [None, "", {"a": (1, 2.5)}, b"x" * 5_000_000, ["\u2028 é"]],
    ids=["nothing", "empty", "dict", "much", "odd"],
)
def test_what_is_told_is_heard(begin, message):
    child = begin(SAYS_AGAIN)
    for _ in range(2):
        child.tell(message)
        assert child.heard() == message


def test_what_it_prints_is_no_message(begin):
    child = begin(BEGUN + "print('printed'); import os; os.write(1, b'written'); os.system('echo begun'); line.tell(7)")
    assert child.heard() == 7
    with pytest.raises(EOFError):
        child.heard()
    with pytest.raises(EOFError):
        child.heard()  # and whoever asks again


def test_arguments_and_environment_are_handed_on(begin):
    code = BEGUN + "import os, sys; line.tell((sys.argv[1:], os.environ.get('LAMP')))"
    assert begin(code, "a b", "ü", environment={**os.environ, "LAMP": "on"}).heard() == (["a b", "ü"], "on")


def test_nothing_within_the_time_is_told(begin):
    child = begin(SAYS_AGAIN)
    with pytest.raises(Nothing):
        child.heard(0.05)
    child.tell(1)
    assert child.heard() == 1


@pytest.mark.parametrize(
    ("last", "code"),
    [
        ("sys.exit(3)", 3),
        ("os._exit(0)", 0),
        pytest.param("os.abort()", -6, marks=pytest.mark.skipif(system.WINDOWS, reason="signals are of POSIX")),
    ],
)
def test_how_it_ended_is_known(begin, last, code):
    child = begin(BEGUN + f"import os, sys; {last}")
    with pytest.raises(EOFError):
        child.heard()
    assert child.code(20) == code


def test_who_has_ended_is_told_nothing(begin):
    child = begin(BEGUN)
    child.code(20)
    with pytest.raises(OSError):
        child.tell(1)
    child.end()  # twice is once


def test_busy_or_not_it_ends_with_all_it_has_begun(begin):
    child = begin(
        BEGUN
        + "import subprocess, sys; each = subprocess.Popen([sys.executable, '-c', 'import time; time.sleep(60)']);"
        " line.tell(each.pid)\nwhile True: pass"
    )
    its = child.heard()
    child.end()
    assert ends(its)


@pytest.mark.parametrize("at", ["while True: pass", "line.heard()", "time.sleep(60)"])
def test_it_ends_when_the_one_that_began_it_is_killed(tmp_path, at):
    script = f"""
        import time
        from jaylantern.support.child_process import Child
        child = Child({BEGUN!r} + "import os, time; line.tell(os.getpid())\\n" + {at!r})
        print(child.heard(), flush=True)
        time.sleep(60)
    """
    command = own_python.command("-c", textwrap.dedent(script))
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as parent:
        number = int(parent.stdout.readline())
        parent.kill()
    assert ends(number)


def test_an_end_of_its_own_is_left_to_it(begin):
    """Asked to end, it does what it says for such a case, within the patience of the one that asks."""
    code = "import os; from jaylantern.support import child_process; line = child_process.line(lambda: os._exit(5))\n"
    child = begin(code + "line.tell(1)\nwhile True: pass")
    child.heard()
    assert child.end(20) == 5


def test_a_socket_is_handed_over(begin):
    with socket.create_server(("127.0.0.1", 0)) as listening:
        child = begin(BEGUN + "who, _ = line.socket().accept(); who.send(b'in'); line.tell(1)", listening=listening)
        with socket.create_connection(listening.getsockname()) as asked:
            assert asked.recv(2) == b"in"
        child.heard()


def test_what_is_not_said_to_the_end_is_not_heard(begin):
    child = begin(BEGUN + "import os; line._out.write(b'\\x40' + bytes(7) + b'half'); line._out.flush(); os._exit(0)")
    with pytest.raises(EOFError):
        child.heard()
