"""The commands that take the data off a machine, and put an icon on its desktop."""

from __future__ import annotations

import configparser
import subprocess
import sys
from pathlib import Path

import pytest

from jaylantern.cli.main import main
from jaylantern.support import own_python


@pytest.fixture
def closed(film, db):
    """A film in a data folder that nobody has open any more."""
    db.close()


@pytest.mark.parametrize(("answer", "code"), [("n", 1), ("", 1), ("y", 0)])
def test_nothing_is_removed_without_a_yes(workspace, closed, monkeypatch, capsys, answer, code):
    folder, asked = workspace.folder.path, []
    monkeypatch.setattr("sys.stdin.isatty", lambda: True, raising=False)
    monkeypatch.setattr("builtins.input", lambda question: asked.append(question) or answer)
    assert main(["uninstall-data", "--data", str(folder)]) == code
    assert folder.exists() == bool(code)
    assert asked == ["Remove all of this for good? [y/N] "]
    assert "1 project, 3 media" in capsys.readouterr().out


def test_where_nobody_can_be_asked_it_wants_to_be_told(workspace, closed, capsys):
    data = ["--data", str(workspace.folder.path)]
    assert main(["uninstall-data", *data]) == 1
    assert "Say --yes" in capsys.readouterr().err
    (workspace.folder.path / "mine.txt").write_text("mine")
    assert main(["uninstall-data", *data, "--yes"]) == 1
    assert f"did not make it: {workspace.folder.path / 'mine.txt'}" in capsys.readouterr().out


@pytest.mark.skipif(sys.platform != "linux", reason="where an icon lies is Linux' own here")
def test_an_icon_on_the_desktop_and_away_again(tmp_path):
    """Its file: freedesktop.org's Desktop Entry Specification 1.5."""
    command = own_python.command("-m", "jaylantern.cli.main", "shortcut")
    home = {"HOME": str(tmp_path), "PATH": "/usr/bin:/bin"}
    for _ in range(2):  # twice is once
        subprocess.run(command, env=home, check=True, capture_output=True)
    found = sorted(path for path in tmp_path.rglob("*.desktop"))
    assert [path.name for path in found] == ["Jay\u00a0Lantern.desktop"] * 2
    entry = configparser.ConfigParser(interpolation=None)
    entry.read(found[0], encoding="utf-8")
    said = entry["Desktop Entry"]
    assert (said["Name"], said["Type"], said["Exec"].split()[1:]) == (
        "Jay\u00a0Lantern", "Application", ["-P", "-m", "jaylantern.cli.main", "serve", "--open"],
    )  # fmt: skip
    assert Path(said["Icon"]).read_bytes()[:8] == b"\x89PNG\r\n\x1a\n"
    subprocess.run([*command, "--remove"], env=home, check=True, capture_output=True)
    assert not list(tmp_path.rglob("*.desktop"))


def test_without_the_library_it_says_what_to_do(monkeypatch, capsys):
    monkeypatch.setitem(sys.modules, "pyshortcuts", None)
    assert main(["shortcut"]) == 2
    assert "pyshortcuts" in capsys.readouterr().err
