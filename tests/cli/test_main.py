"""The command line: the shapes of its JSON, its files, and one clear line for bad input."""

from __future__ import annotations

import csv
import json
from pathlib import Path

import numpy as np
import pytest
import soundfile

from jaylantern.cli.main import main
from jaylantern.core.signal.timebase import RATE
from tests import films, sounds

DUCK = ("duck", "--dialogue", "{talk}", "--music", "{bed}")


@pytest.fixture
def talk(tmp_path):
    soundfile.write(tmp_path / "talk.wav", sounds.talk({"vm-intro": 3.0}, seconds=14), RATE)
    return tmp_path / "talk.wav"


@pytest.fixture
def bed(tmp_path):
    soundfile.write(tmp_path / "bed.wav", sounds.noise(seconds=16, amplitude=0.1, channels=2), RATE, subtype="FLOAT")
    return tmp_path / "bed.wav"


def printed(capsys, *args) -> dict:
    assert main([str(arg) for arg in args]) == 0
    return json.loads(capsys.readouterr().out)


def test_detect_gives_duration_and_segments_in_seconds(capsys, talk):
    found = printed(capsys, "detect", talk, "--json")
    assert found["duration_s"] == 14
    assert found["segments"][0][0] == pytest.approx(3.0, abs=0.25)
    assert found["segments"][-1][1] == pytest.approx(3.0 + len(sounds.prompt("vm-intro")) / RATE, abs=0.3)
    assert all(0 <= a < b <= 14 for a, b in found["segments"])


def test_detect_without_json_prints_a_line_per_segment(capsys, talk):
    assert main(["detect", str(talk)]) == 0
    assert all(len(line.split()) == 2 for line in capsys.readouterr().out.splitlines())


def test_silence_has_no_segments(capsys, tmp_path):
    soundfile.write(tmp_path / "hush.wav", np.zeros((RATE, 1)), RATE)
    assert printed(capsys, "detect", tmp_path / "hush.wav", "--json") == {"duration_s": 1.0, "segments": []}


def test_duck_writes_mix_music_and_keyframes_that_agree(capsys, talk, bed, tmp_path):
    out = {name: tmp_path / name for name in ("mix.wav", "music.wav", "keys.csv")}
    wanted = ("--amount-db", "-10.458", "--attack-ms", 300)
    files = ("--out-mix", out["mix.wav"], "--out-music", out["music.wav"], "--keyframes", out["keys.csv"])
    found = printed(capsys, "duck", "--dialogue", talk, "--music", bed, *wanted, *files, "--json")
    [(start_s, stop_s)] = found["passages"]
    assert found["settings"]["attack_ms"] == 300
    source, music = (soundfile.read(path, always_2d=True)[0] for path in (bed, out["music.wav"]))
    under = slice(round(start_s * RATE), round(stop_s * RATE))
    assert sounds.rms_db(music[under]) - sounds.rms_db(source[under]) == pytest.approx(-10.458, abs=0.01)
    assert len(soundfile.read(out["mix.wav"])[0]) == 16 * RATE
    rows = list(csv.DictReader(out["keys.csv"].read_text().splitlines()))
    assert min(float(row["gain_percent"]) for row in rows) == pytest.approx(30.0, abs=0.01)


def test_several_dialogues_make_one_set_of_passages(capsys, talk, bed, tmp_path):
    soundfile.write(tmp_path / "other.wav", sounds.talk({"vm-goodbye": 12.5}, seconds=14), RATE)
    found = printed(capsys, "duck", "--dialogue", talk, "--dialogue", tmp_path / "other.wav", "--music", bed,
                    "--hold-ms", 100, "--release-ms", 200, "--attack-ms", 100, "--json")  # fmt: skip
    assert len(found["passages"]) == 2


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (["detect", "nowhere.wav"], "nowhere.wav is not there"),
        (["detect", "."], "is not there, or is not a file"),
        (["detect", "{words}"], "words.wav is not a film or sound file that can be read"),
        (["detect", "{empty}"], "empty.wav is empty (0 bytes)"),
        (["detect", "{mute}"], "mute.mp4 has no sound"),
        (["detect", "{talk}", "--sensitivity", "101"], "Sensitivity must be between 0 and 100"),
        ([*DUCK, "--amount-db", "3"], "Duck amount must be between -60 and 0 dB"),
        ([*DUCK, "--out-mix", "/nowhere/at/all.wav"], f"The folder {Path('/nowhere/at')} is not there"),
        (["serve", "--port", "99999"], "A port is between 0 and 65535"),
    ],
)  # fmt: skip
def test_bad_input_is_one_clear_line_and_exit_code_2(capsys, talk, bed, tmp_path, args, said):
    (tmp_path / "words.wav").write_text("these are only words")
    (tmp_path / "empty.wav").write_bytes(b"")
    films.write_film(tmp_path / "mute.mp4", seconds=1)
    places = {
        "talk": talk,
        "bed": bed,
        "words": tmp_path / "words.wav",
        "empty": tmp_path / "empty.wav",
        "mute": tmp_path / "mute.mp4",
    }
    assert main([arg.format(**places) for arg in args]) == 2
    complaint = capsys.readouterr().err
    assert said in complaint
    assert complaint.count("\n") == 1


def test_an_unknown_command_or_a_word_for_a_number_exits_with_2(capsys):
    for args in (["sing"], ["detect", "x.wav", "--sensitivity", "very"]):
        with pytest.raises(SystemExit) as ended:
            main(args)
        assert ended.value.code == 2


def test_loudness_measures_several_files(capsys, talk, bed):
    assert main(["loudness", str(talk), str(bed), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert list(found) == [str(talk), str(bed)]
    names = {"integrated_lufs", "loudness_range_lu", "max_momentary_lufs", "max_short_term_lufs", "true_peak_dbtp"}
    assert all(set(each) == names for each in found.values())
    for each in found.values():
        assert each["max_momentary_lufs"] >= each["max_short_term_lufs"] >= each["integrated_lufs"] - 1


def test_loudness_says_what_could_not_be_read_and_measures_the_rest(capsys, talk, tmp_path):
    (tmp_path / "notes.wav").write_text("no sound")
    assert main(["loudness", str(tmp_path / "notes.wav"), str(talk)]) == 2
    said = capsys.readouterr()
    assert "notes.wav" in said.err
    assert "LUFS" in said.out
    assert len(said.out.splitlines()) == 1
