"""The command that cuts music to a length."""

import json

import pytest
import soundfile

from jaylantern.cli.main import main
from tests import sounds
from tests.tunes import RATE, tune


@pytest.fixture(scope="module")
def music(tmp_path_factory):
    path = tmp_path_factory.mktemp("music") / "tune.wav"
    soundfile.write(path, tune("VABAAVBA", bpm=104).sound, RATE)
    return path


def tailored(capsys, music, out, *args):
    assert main(["tailor", str(music), "--out", str(out), "--json", *args]) == 0
    return json.loads(capsys.readouterr().out)


def test_on_the_beat(capsys, music, tmp_path):
    found = tailored(capsys, music, tmp_path / "out.wav", "--length-s", "45")
    made = soundfile.info(tmp_path / "out.wav")
    assert made.frames / RATE == pytest.approx(found["length_s"], abs=1e-4)
    assert abs(found["length_s"] - 45) <= 1.2  # half a bar of 2.31 s
    assert found["tempo_bpm"] == pytest.approx(104, rel=0.01)
    assert found["seams"]
    at_s, left_s = 0.0, 0.0
    for seam in found["seams"]:
        assert seam["at_s"] - at_s == pytest.approx(seam["from_s"] - left_s, abs=1e-3)
        at_s, left_s = seam["at_s"], seam["to_s"]
        assert 0 <= seam["fit"] <= 20


def test_exact_and_faded_out_are_as_long_as_wished(capsys, music, tmp_path):
    for how in ("--exact", "--fade-out"):
        assert tailored(capsys, music, tmp_path / "out.wav", "--length-s", "50.5", how)["length_s"] == 50.5
        assert soundfile.info(tmp_path / "out.wav").frames == round(50.5 * RATE)
    end = soundfile.read(tmp_path / "out.wav")[0][-480:]
    assert abs(end).max() < 0.01


def test_what_is_protected_is_heard_and_what_is_left_out_is_not(capsys, music, tmp_path):
    spans = ("--protect", "30-40", "--leave-out", "12.5-20")
    found = tailored(capsys, music, tmp_path / "out.wav", "--length-s", "50", *spans)
    edges = [0.0, *(s for seam in found["seams"] for s in (seam["from_s"], seam["to_s"])), 1e9]
    heard = list(zip(edges[::2], edges[1::2], strict=True))
    assert any(a <= 30 and b >= 40 for a, b in heard)
    assert not any(a < 20 and b > 12.5 for a, b in heard)


def test_many_pieces_are_more_than_few(capsys, music, tmp_path):
    few, many = (
        len(tailored(capsys, music, tmp_path / "out.wav", "--length-s", "120", "--pieces", each)["seams"])
        for each in ("few", "many")
    )
    assert few <= many


def test_other_forms_by_their_ending(capsys, music, tmp_path):
    for name in ("out.flac", "out.mp3"):
        tailored(capsys, music, tmp_path / name, "--length-s", "45")
        assert (tmp_path / name).stat().st_size > 10_000


def test_without_json_the_folds_are_lines(capsys, music, tmp_path):
    assert main(["tailor", str(music), "--length-s", "45", "--out", str(tmp_path / "out.wav")]) == 0
    first, *folds = capsys.readouterr().out.splitlines()
    assert "104" in first
    assert all("fit" in line for line in folds)


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (("--length-s", "3"), "comes near 3.0 s"),
        (("--length-s", "0.5"), "1 s to 24 hours"),
        (("--length-s", "nan"), "takes seconds"),
        (("--length-s", "20", "--protect", "10-40"), "longer than the 20.0 s"),
        (("--length-s", "30", "--protect", "40"), "takes two times in seconds"),
        (("--length-s", "30", "--leave-out", "9-3"), "end after it begins"),
        (("--length-s", "30", "--protect", "5-9", "--leave-out", "8-12"), "left out, too"),
    ],
)
def test_a_wish_that_cannot_be_met_is_one_line_and_exit_code_2(capsys, music, tmp_path, args, said):
    assert main(["tailor", str(music), "--out", str(tmp_path / "out.wav"), *args]) == 2
    error = capsys.readouterr().err
    assert said in error
    assert error.count("\n") == 1
    assert not (tmp_path / "out.wav").exists()


def test_a_beat_too_short_silence_and_an_unknown_form_are_refused(capsys, music, tmp_path):
    soundfile.write(tmp_path / "short.wav", sounds.noise(seconds=1), RATE)
    soundfile.write(tmp_path / "hush.wav", sounds.noise(seconds=9) * 0, RATE)
    for name, out, said in (
        ("short.wav", "out.wav", "too short to be folded"),
        ("hush.wav", "out.wav", "is silent"),
        ("short.wav", "out.txt", "must end in one of"),
    ):
        assert main(["tailor", str(tmp_path / name), "--length-s", "30", "--out", str(tmp_path / out)]) == 2
        assert said in capsys.readouterr().err
