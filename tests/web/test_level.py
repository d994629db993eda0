"""The Level step over HTTP: what is measured, matching and its preview, targets, and what is refused."""

from __future__ import annotations

import json
import math
import re

import pytest

from jaylantern.core.signal.loudness import Loudness
from jaylantern.core.signal.timebase import RATE
from jaylantern.library import ingest
from jaylantern.render import pool, worker
from jaylantern.web.levels import Row


@pytest.fixture
def film(visitor, talk_and_bed):
    """The project, spoken to by short names."""

    class Film:
        url = f"/projects/{talk_and_bed}"

        def get(self, path: str) -> str:
            answer = visitor.client.get(f"{self.url}/{path}", headers={"HX-Request": "true"})
            assert answer.status_code == 200, answer.text
            return answer.text

        def post(self, path: str, status: int = 200, **values) -> dict:
            answer = visitor.post(f"{self.url}/{path}", json=values)
            assert answer.status_code == status, answer.text
            return answer.json

        def score(self) -> dict:
            return visitor.client.get(f"{self.url}/document").json

        def gains(self) -> dict[str, float]:
            return {c["name"]: c["gain_db"] for lane in self.score()["lanes"] for c in lane["clips"]}

        def drawn(self) -> dict:
            return json.loads(re.search(r'id="level-drawn">(.*?)</script>', self.get("measured"))[1])

        def whole(self, name: str) -> float:
            """Integrated loudness of a line of the table."""
            row = re.search(rf'title="{name}">.*?</th><td>([−0-9.]+)</td>', self.get("measured"))
            return float(row[1].replace("−", "-"))

    return Film()


def test_the_mix_its_speech_and_its_music_are_measured(film):
    text = film.get("measured")
    assert all(f'title="{name}"' in text for name in ("Mix", "Speech", "Music"))
    assert film.whole("Speech") > film.whole("Music")
    drawn = film.drawn()
    assert len(drawn["lufs"]) == len(drawn["reduction_db"])
    assert drawn["target_lufs"] == -23
    assert drawn["revision"] == film.score()["revision"]


def test_after_an_edit_only_what_changed_is_measured_anew(film, monkeypatch):
    monkeypatch.setattr(pool, "CHUNK_N", 2 * RATE)
    measured, plain = [], worker.measure_range
    monkeypatch.setattr(
        worker,
        "measure_range",
        lambda renderer, start_n, stop_n, **more: measured.append(start_n) or plain(renderer, start_n, stop_n, **more),
    )

    def anew() -> list[int]:
        measured.clear()
        drawn.append(film.drawn())
        return [start_n // RATE for start_n in measured]

    drawn: list[dict] = []
    assert film.get("measured/share") == "Measuring the mix … 0 %"
    everything = anew()
    assert film.get("measured/share") == "Measuring the mix … 100 %"
    assert everything == list(range(0, 2 * len(everything), 2))
    clips = [clip["id"] for lane in film.score()["lanes"] for clip in lane["clips"]]
    film.post("do/fade_clips", clip_ids=clips, end="fade_in", length_n=RATE)
    assert anew() == everything[:2]  # the filters and meters of the second remember the first
    film.post("undo")
    assert anew() == []
    assert {**drawn[2], "revision": 0} == {**drawn[0], "revision": 0} != {**drawn[1], "revision": 0}


def test_the_mix_is_brought_to_the_target_in_one_step(film):
    before = film.gains()
    film.post("do/match", subject="mix", how="all", by="loudness", target="−26")
    assert film.whole("Mix") == pytest.approx(-26, abs=0.15)
    after = film.gains()
    assert len({round(after[name] - before[name], 2) for name in before}) == 1
    film.post("undo")
    assert film.gains() == before


def test_dialogue_is_matched_as_its_preview_said(film):
    preview = film.get("match?subject=dialogue&how=each&by=loudness&target=-20")
    now, then, change = (
        float(value.replace("−", "-"))
        for value in re.search(r"<td>([^<]+)</td><td>([^<]+)</td><td>([^<]+)</td>", preview).groups()
    )
    assert then == pytest.approx(-20, abs=0.05)
    assert change == pytest.approx(then - now, abs=0.11)
    before = film.gains()
    said = film.post("do/match", subject="dialogue", how="each", by="loudness", target="-20,0 LUFS")
    assert said["undo"].startswith("Match loudness of")
    changed = {name: gain for name, gain in film.gains().items() if gain != before[name]}
    assert len(changed) == 1
    assert next(iter(changed.values())) == pytest.approx(change, abs=0.06)


def test_music_and_chosen_clips_are_matched_by_peak(film):
    ids = [c["id"] for lane in film.score()["lanes"] if lane["tag"] == "music" for c in lane["clips"]]
    for subject in ("music", "chosen"):
        film.post("do/match", subject=subject, how="all", by="sample_peak", target=-9, clip_ids=ids)
        assert "−9.0" in film.get(f"match?subject={subject}&how=all&by=sample_peak&target=-9&clip_ids={ids[0]}")
        film.post("undo")


def test_soft_speech_is_raised_up_to_the_ceiling(film):
    film.post("do/set_settings", settings={"target_lufs": -5, "ceiling_dbtp": -1})
    assert "too-soft" in film.get("measured")
    film.post("do/match", subject="soft", how="each", by="loudness", target=-5)
    peak = re.search(r"<td>([^<]+)</td>", film.get("match?subject=dialogue&how=each&by=true_peak&target=-1"))[1]
    assert peak == "−1.0"
    assert film.whole("Speech") < -5  # the ceiling came first
    assert "too-soft" not in film.get("measured")  # its gain was set, so it is left alone


@pytest.mark.parametrize(
    ("values", "status"),
    [
        ({"subject": "chosen", "target": -20}, 409),
        ({"subject": "voices", "target": -20}, 422),
        ({"subject": "dialogue", "target": "loud"}, 422),
        ({"subject": "dialogue", "target": "nan"}, 422),
        ({"subject": "dialogue", "target": 7}, 422),
        ({"subject": "dialogue", "target": -20, "by": "weight"}, 422),
        ({"subject": "dialogue", "target": -20, "how": "never"}, 422),
    ],
)
def test_what_can_not_be_matched_is_said_and_nothing_changes(film, values, status):
    before = film.score()
    assert film.post("do/match", status, **values)["error"]
    assert film.score() == before


def test_targets_ship_with_their_sources_and_own_ones_are_added(film, visitor):
    text = film.get("targets")
    assert all(source in text for source in ("EBU R 128", "ATSC A/85", "AES TD1008", "common practice"))
    answer = visitor.post(
        f"{film.url}/targets", json={"name": "House", "lufs": -19, "dbtp": -1.5, "source": "the museum"}
    )
    assert "the museum" in answer.text
    number = re.search(r'data-target-remove="(\d+)"', answer.text)[1]
    assert visitor.post(f"{film.url}/targets", json={"name": "house", "lufs": -20, "dbtp": -1}).status_code == 409
    assert visitor.post(f"{film.url}/targets", json={"name": "No", "lufs": 3, "dbtp": -1}).status_code == 422
    assert "House" not in visitor.post(f"{film.url}/targets/{number}/remove", json={}).text
    assert visitor.post(f"{film.url}/targets/{number}/remove", json={}).status_code == 404


def test_an_empty_project_has_nothing_to_measure(visitor):
    answer = visitor.post("/projects", data={"name": "Empty"}, headers={"Accept": "application/json"})
    number = answer.json["id"]
    assert "Nothing to measure yet" in visitor.client.get(f"/projects/{number}/measured").text
    assert "nothing of that kind" in visitor.client.get(f"/projects/{number}/match?target=-23").text


def test_clips_measure_what_their_sound_does(film, tmp_path):
    """By themselves, before anything gives way: as the file itself is measured (ITU-R BS.1770-5)."""
    page = film.get("measured?of=clips")
    row = page[page.index("Bed: Bed.wav") :]
    found = [float(text.replace("−", "-")) for text in re.findall(r"<td[^>]*>([−\d.]+)", row)[:5]]
    own = ingest.loudness_of(tmp_path / "Bed.wav")
    wanted = (own.integrated_lufs, own.loudness_range_lu, own.max_short_term_lufs, own.max_momentary_lufs)
    assert found[:4] == pytest.approx(wanted, abs=0.11)
    assert found[4] == pytest.approx(own.true_peak_dbtp, abs=0.06)


@pytest.mark.parametrize(
    ("peak_db", "band"), [(-5.1, "under"), (-5.0, "in"), (-4.0, "in"), (-3.0, "in"), (-2.9, "over"), (-math.inf, "")]
)
def test_peaks_of_lanes_lie_in_the_usual_band_or_not(peak_db, band):
    """−5 to −3 dBFS for a single lane: common practice."""
    loudness = Loudness(-20.0, 5.0, -15.0, -14.0, peak_db)
    assert Row("Bed", loudness, "lane").band == band
    assert Row("Mix", loudness, "mix").band == ""
