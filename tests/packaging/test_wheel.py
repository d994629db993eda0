"""What people install: the wheel has what it needs, and makes a film in an environment that has nothing of ours."""

from __future__ import annotations

import json
import os
import re
import subprocess
import urllib.request
import zipfile
from email import message_from_bytes
from pathlib import Path

import av
import pytest
import soundfile

from jaylantern.core.signal.timebase import RATE
from tests import films, sounds
from tests.packaging import clean

pytestmark = [pytest.mark.xdist_group("wheel"), pytest.mark.skipif(os.name == "nt", reason="made by links")]


@pytest.fixture(scope="module")
def built(tmp_path_factory) -> Path:
    return clean.wheel(tmp_path_factory.mktemp("wheel"))


@pytest.fixture(scope="module")
def programs(built, tmp_path_factory) -> Path:
    return clean.environment(tmp_path_factory.mktemp("clean") / "env", built)


def run(programs: Path, *arguments: object, at: Path, **more) -> subprocess.CompletedProcess:
    """The installed program, with a home of its own and nothing of the checkout in its surroundings."""
    home = {"HOME": str(at), "PATH": "/usr/bin:/bin", "LANG": "C.UTF-8"}
    command = [str(programs / "jaylantern"), *map(str, arguments)]
    return subprocess.run(command, cwd=at, env=home, capture_output=True, text=True, timeout=300, **more)


def test_all_of_the_program_is_in_it_and_nothing_else(built):
    with zipfile.ZipFile(built) as packed:
        there = {name for name in packed.namelist() if ".dist-info/" not in name}
    source = clean.ROOT / "src"
    listed = subprocess.run(["git", "ls-files", "src"], cwd=clean.ROOT, capture_output=True, text=True, check=True)
    wanted = {str((clean.ROOT / name).relative_to(source)) for name in listed.stdout.splitlines()}
    assert wanted - there == set()
    assert {name for name in there - wanted if not (source / name).is_file()} == set()


def test_it_says_what_it_is_for_and_brings_its_licences(built):
    with zipfile.ZipFile(built) as packed:
        [about] = [name for name in packed.namelist() if name.endswith("METADATA")]
        said = message_from_bytes(packed.read(about))
        licences = {name.split("licenses/")[1] for name in packed.namelist() if ".dist-info/licenses/" in name}
    assert built.name.startswith("jay_lantern-")
    assert said["Name"] == "jay-lantern"
    assert said["Requires-Python"] == "<3.14,>=3.11"
    assert said["License-Expression"] == "MIT"
    assert said["Description-Content-Type"] == "text/markdown"
    assert "# Jay Lantern" in said.get_payload()
    for word in ("Microsoft :: Windows", "MacOS", "POSIX :: Linux", "3.11", "3.13"):
        assert any(each.endswith(word) for each in said.get_all("Classifier"))
    named = re.findall(r"`(src/jaylantern/\S*LICENSE)`", (clean.ROOT / "NOTICE.md").read_text(encoding="utf-8"))
    assert {"LICENSE", "NOTICE.md", *named} <= licences
    assert len(named) >= 5


def test_the_environment_is_clean(programs, tmp_path):
    code = "import importlib.util as u; print([n for n in ('pytest', 'scipy', 'tests') if u.find_spec(n)])"
    asked = subprocess.run([programs / "python", "-P", "-c", code], cwd=tmp_path, capture_output=True, text=True)
    assert asked.stdout.strip() == "[]", asked.stderr


def test_it_makes_a_film(programs, tmp_path):
    folder, out = tmp_path / "films" / "Quay", tmp_path / "out"
    folder.mkdir(parents=True)
    films.write_film(folder / "Quay.mp4", seconds=8)
    soundfile.write(folder / "Talk.wav", sounds.talk({"vm-intro": 1.0}, seconds=7), RATE)
    soundfile.write(folder / "Bed.wav", sounds.noise(seconds=8), RATE)
    recipe = {"talk": "talk*", "music": "bed*", "picture": "*.mp4", "hand_off": ["film"]}
    (tmp_path / "r.json").write_text(json.dumps(recipe))
    made = run(programs, "batch", folder.parent, "--recipe", "r.json", "--out", out, at=tmp_path)
    assert made.returncode == 0, made.stderr
    [film] = out.glob("Quay/*.mp4")
    with av.open(str(film)) as made:
        assert [each.type for each in made.streams] == ["video", "audio"]
        assert made.duration / av.time_base == pytest.approx(8, abs=0.1)


def test_it_starts_with_the_demo_and_keeps_its_data_where_the_system_keeps_such(programs, tmp_path):
    home = {"HOME": str(tmp_path), "PATH": "/usr/bin:/bin", "LANG": "C.UTF-8"}
    command = [str(programs / "jaylantern"), "demo", "--port", "0"]
    with subprocess.Popen(command, cwd=tmp_path, env=home, stdout=subprocess.PIPE, text=True) as process:
        try:
            found = (re.search(r"http://\S+", line) for line in process.stdout)  # after what is said of the demo
            address = next(filter(None, found))[0]
            page = urllib.request.build_opener(urllib.request.HTTPCookieProcessor()).open(address, timeout=60)
            assert "The Clock at Alder Quay" in page.read().decode()
        finally:
            process.terminate()
    # freedesktop.org, XDG Base Directory Specification: $HOME/.local/share
    assert (tmp_path / ".local/share/jaylantern/jaylantern.sqlite3").is_file()
