"""Odd films: media whose sound, picture, captions and beats begin and end at different places, put through every
command of the page and every hand-off. Whatever is done, the project opens, draws, sounds and is handed off."""

from __future__ import annotations

import os
import random

import av
import numpy as np
import pytest
import soundfile

from jaylantern.commands.registry import COMMANDS
from jaylantern.core.care.suggestions import STARTS
from jaylantern.core.memo import anew
from jaylantern.core.signal.timebase import RATE
from jaylantern.core.timeline.described import flat
from jaylantern.core.timeline.kinds import Choice, Maybe
from jaylantern.core.timeline.presets import OURS
from jaylantern.core.timeline.settings import KNOBS, OPTIONS
from jaylantern.errors import Refused
from jaylantern.export.handoff import FORMS
from jaylantern.jobs import work
from jaylantern.store import edits, jobs, projects
from tests import films, sounds

TRAYS = ("layout", "tag", "duck", "level", "tailor", "handoff")
PARTS = ("checkup", "passages", "media", "made", "branches", "clips", "film", "history", "missing", "points", "limits",
         "tuning", "drafts")  # fmt: skip
SEEDS = int(os.environ.get("ODD_FILMS", "1"))


def late_sound(path, *, by_s, seconds, length_s):
    """A film whose sound begins later than its picture, and ends where it likes."""
    plain = films.write_film(path.with_name(f"plain {path.name}"), seconds=length_s,
                             sound=sounds.sine(hz=300, seconds=seconds, channels=1))  # fmt: skip
    with av.open(str(plain)) as source, av.open(str(path), "w") as out:
        to = {
            each.index: out.add_stream_from_template(each)
            for each in (source.streams.video[0], source.streams.audio[0])
        }
        for packet in source.demux():
            if packet.dts is None:
                continue
            if packet.stream.type == "audio":
                shift = round(by_s / packet.time_base)
                packet.pts, packet.dts = packet.pts + shift, packet.dts + shift
            packet.stream = to[packet.stream.index]
            out.mux(packet)
    plain.unlink()
    return path


def speech(seconds):
    return sounds.talk({"vm-intro": 0.3}, seconds=seconds)


MEDIA = {
    "sound ends early.mp4": lambda p: films.write_film(p, seconds=20, sound=np.tile(speech(5.3)[:, :1], 2)),
    "sound goes on.mp4": lambda p: films.write_film(p, seconds=3, sound=sounds.noise(seconds=9, channels=2)),
    "sound comes late.mkv": lambda p: late_sound(p, by_s=2.0, seconds=3, length_s=8),
    "no sound.mp4": lambda p: films.write_film(p, seconds=6),
    "a moment.wav": lambda p: soundfile.write(p, sounds.noise(seconds=0.06), RATE),
    "talk.wav": lambda p: soundfile.write(p, speech(6.1), RATE),
    "bed.wav": lambda p: soundfile.write(p, sounds.noise(seconds=13, channels=2), RATE),
    "short bed.wav": lambda p: soundfile.write(p, sounds.noise(seconds=1.3), RATE),
    "silent.wav": lambda p: soundfile.write(p, np.zeros(3 * RATE), RATE),
    "beyond.srt": lambda p: p.write_text(
        "1\n00:00:01,000 --> 00:00:04,000\nSalt\n\n2\n00:00:18,000 --> 00:00:40,000\nTide\n", encoding="utf-8"
    ),
}  # fmt: skip
TAGS = {"talk": "dialogue", "bed": "music", "short bed": "music", "sound ends early": "narration",
        "sound goes on": "atmosphere", "sound comes late": "effects"}  # fmt: skip


@pytest.fixture(scope="module")
def odd(tmp_path_factory):
    folder = tmp_path_factory.mktemp("odd")
    for name, write in MEDIA.items():
        write(folder / name)
    return folder


@pytest.fixture
def laid(odd, bring_known, db, project_id, visitor, laid_out):
    return laid_out("odd films", lambda: bring_all(odd, bring_known, db, project_id, visitor))


def bring_all(odd, bring_known, db, project_id, visitor):
    for name in MEDIA:
        done = bring_known(odd / name)
        assert done.state == "done", done.message
    for lane in projects.load(db, project_id).lanes:
        tag = TAGS.get(lane.clips[0].name.rsplit(".", 1)[0]) if lane.kind == "sound" else None
        if tag:
            assert visitor.post(f"/projects/{project_id}/do/tag_lane", json={"lane_id": lane.id, "tag": tag}).json
    return project_id


class Hand:
    """Values for any parameter of any command, as far as the project has what they speak of."""

    def __init__(self, seed, project, plan):
        self.random, self.project, self.plan = random.Random(seed), project, plan
        self.clips = [(lane, clip) for lane, clip in project.placed()]

    def pick(self, among, nothing=1):
        among = list(among)
        return self.random.choice(among) if among else nothing

    def time(self):
        """A time: an edge of something, or anywhere, also behind the end."""
        edges = [n for _, clip in self.clips for n in (clip.start_n, clip.stop_n, clip.start_n + 5 * RATE)]
        return max(0, self.pick([*edges, *(self.random.randrange(0, 25 * RATE) for _ in range(8))], 0))

    def move(self):
        return self.random.choice([-1, 1]) * self.random.randrange(0, 6 * RATE)

    def some_clips(self):
        ids = [clip.id for _, clip in self.clips]
        return self.random.sample(ids, min(len(ids), self.random.randint(1, 3)))

    def of(self, name, kind):
        media = {clip.media.id for _, clip in self.clips}
        lanes = [lane.id for lane in self.project.lanes]
        sound = [lane.id for lane in self.project.lanes if lane.kind == "sound"]
        perches = [*map(str, self.project.perches), "music", "dialogue", "narration", "atmosphere"]
        own = {"amount_db": -self.random.randint(0, 30), "hold_ms": 300, "wish_lu": 12.0}
        known = {
            "clip_ids": self.some_clips,
            "clip_id": lambda: self.pick(c.id for _, c in self.clips),
            "from_id": lambda: self.pick(c.id for _, c in self.clips),
            "leader_id": lambda: self.pick(self.some_clips()),
            "lane_id": lambda: self.pick(sound),
            "below": lambda: self.pick(lanes),
            "lane_ids": lambda: [],
            "media_id": lambda: self.pick(media),
            "marker_id": lambda: self.pick(m.id for m in self.project.markers),
            "captions_id": lambda: self.pick(c.id for c in self.project.captions),
            "project_id": lambda: self.project.id,
            "pin_id": lambda: self.pick(p.id for p in (*self.project.speech_pins, *self.project.dip_pins)),
            "index": lambda: self.random.randrange(0, max(1, len(self.plan.passages))),
            "at_n": self.time,
            "start_n": self.time,
            "stop_n": self.time,
            "to_n": self.time,
            "by_n": self.move,
            "length_n": lambda: self.random.randrange(1, 20 * RATE),
            "offset_n": lambda: self.random.randrange(0, RATE),
            "gain_db": lambda: float(self.random.randint(-40, 12)),
            "by_db": lambda: float(self.random.randint(-12, 6)),
            "level_db": lambda: -30.0,
            "factor": lambda: 0.5,
            "lanes_by": lambda: self.random.randint(-1, 1),
            "to": lambda: self.random.randint(0, 5),
            "perch": lambda: self.pick(perches),
            "upper": lambda: self.pick(perches),
            "lower": lambda: self.pick(perches),
            "own": lambda: own,
            "name": lambda: self.pick(["Bell", "x.wav"]),
            "longest_ms": lambda: 300,
            "breath_ms": lambda: 100,
            "pieces": lambda: 50.0,
            "fold": lambda: 0,
            "by": lambda: 1,
            "number": lambda: 0,
            "protect": lambda: [],
            "leave_out": lambda: [],
            "chosen": lambda: [],
            "forbidden": lambda: [],
            "origins": lambda: [],
            "missing_id": lambda: 1,
            "letter": lambda: self.pick("AB"),
            "target": lambda: -18.0,
            "tags": lambda: {str(self.pick(c.id for _, c in self.clips)): self.pick(TAGS.values())},
            "parts": lambda: {self.pick(["low_cut", "hush", "presence"]): None},
            "start": lambda: self.pick([*STARTS, "off"]),
            "settings": self.settings,
            "preset_id": lambda: None,
            "copied": self.copied,
            "over": dict,
            "points": lambda: [[self.time(), -6.0]],
            "time_n": lambda: [0, RATE, 7 * RATE],
            "head": lambda: "",
            "cues": lambda: [[RATE, 2 * RATE, "a", ""], [19 * RATE, 60 * RATE, "b", ""]],
            "opened": lambda: None,
        }
        if name == "gain_db" and "Listed" in type(kind).__name__:
            return [-3.0, -9.0, 0.0]
        if name == "at_n" and "Listed" in type(kind).__name__:
            return [self.time()]
        if name in known:
            return known[name]()
        kind = kind.kind if isinstance(kind, Maybe) else kind
        if isinstance(kind, Choice):
            return str(self.pick(kind.words))
        return self.random.random() < 0.5

    def settings(self):
        if self.random.random() < 0.5:
            option = self.pick(OPTIONS)
            return {option.name: str(self.pick(option.kind))}
        knob = self.pick(KNOBS)
        return {knob.name: knob.low + (knob.high - knob.low) * self.random.random()}

    def copied(self):
        return [
            {**flat(clip), "lane_id": lane.id, "lane_name": lane.name, "kind": lane.kind, "lane_tag": lane.tag}
            for lane, clip in self.random.sample(self.clips, min(2, len(self.clips)))
        ]

    def values(self, command):
        values = {}
        for name, param in command.params.items():
            left_out = not isinstance(param.default, str) and param.default is not None
            if name == "name" and command.name == "apply_preset":
                values[name] = self.pick(OURS).name
            elif not (left_out and self.random.random() < 0.3):
                values[name] = self.of(name, param.kind)
        return {
            name: value for name, value in values.items() if value is not None or command.name in ("set_in", "set_out")
        }


@pytest.fixture
def looked_at(visitor, laid, workspace, monkeypatch):
    """Everything a page shows and plays of the project; nothing goes without what could not be worked out."""
    monkeypatch.setattr(workspace, "fall_back", lambda project, error: False)
    at = random.Random(5)

    def look(*, all_of_it=False):
        url = f"/projects/{laid}"
        document = visitor.client.get(f"{url}/document")
        assert document.status_code == 200
        pages = [f"{url}/{tray}" for tray in TRAYS] + [f"{url}/part/{name}" for name in PARTS]
        for page in pages if all_of_it else at.sample(pages, 4):
            answer = visitor.client.get(page, headers={"HX-Request": "true"})
            assert answer.status_code == 200, (page, answer.get_data(as_text=True))
            assert "can’t be shown" not in answer.get_data(as_text=True), page
        length_n = document.json["length_n"]
        if length_n:
            start_n = at.randrange(0, length_n)
            window = visitor.client.get(f"{url}/listen/ducked?start={start_n}&stop={start_n + RATE}")
            assert window.status_code == 200, window.get_data(as_text=True)[:300]

    return look


@pytest.mark.parametrize("seed", range(SEEDS))
def test_every_command_and_every_hand_off(seed, visitor, laid, workspace, db, looked_at):
    db.execute("PRAGMA synchronous = OFF")
    order = [name for name in COMMANDS if name != "open"] * 2
    random.Random(seed).shuffle(order)
    accepted = set()
    for k, name in enumerate(order):
        project, result = workspace.load(db, laid)
        if len(list(project.placed())) < 5:
            edits.go_to(db, laid, 0)
            continue
        values = Hand(f"{seed} {k}", project, result.plan).values(COMMANDS[name])
        answer = visitor.post(f"/projects/{laid}/do/{name}", json=values)
        assert answer.status_code in (200, 400, 404, 409, 422), (name, values, answer.get_data(as_text=True)[:400])
        if answer.status_code == 200:
            accepted.add(name)
        looked_at()
        if k % 9 == 8:
            visitor.post(f"/projects/{laid}/undo", json={})
    looked_at(all_of_it=True)
    assert len(accepted) > len(COMMANDS) / 3  # much of it was more than a refusal
    for what in FORMS:
        job_id = jobs.create(db, laid, kind="export", title=what, payload={"what": what, "pattern": "{what}"})
        work.run(workspace, job_id)
        job = jobs.get(db, job_id)
        assert (job.state, "unforeseen" in job.message) in (("done", False), ("failed", False)), (what, job.message)


def test_a_film_whose_sound_ends_early_is_cut_in_its_silent_part_opened_and_handed_off(visitor, laid, workspace, db):
    """Worked out by hand: 20 s of picture, 5.3 s of sound; cut at 12 s, where only picture is."""
    project = projects.load(db, laid)
    film = next(clip for _, clip in project.placed() if clip.name == "sound ends early.mp4")
    assert film.length_n == 20 * RATE
    assert (
        visitor.post(f"/projects/{laid}/do/split_clips", json={"at_n": 12 * RATE, "clip_ids": [film.id]}).status_code
        == 200
    )
    for tray in TRAYS:
        assert visitor.client.get(f"/projects/{laid}/{tray}").status_code == 200
    document = visitor.client.get(f"/projects/{laid}/document").json
    cut = [clip for lane in document["lanes"] for clip in lane["clips"] if clip["name"] == film.name]
    assert sorted({(clip["start_n"], clip["length_n"]) for clip in cut}) == [(0, 12 * RATE), (12 * RATE, 8 * RATE)]
    job_id = jobs.create(db, laid, kind="export", title="film", payload={"what": "film", "pattern": "{what}"})
    work.run(workspace, job_id)
    assert jobs.get(db, job_id).state == "done", jobs.get(db, job_id).message
    assert workspace.result(projects.load(db, laid)).troubles == ()


def test_what_cannot_be_worked_out_is_named_treated_as_silent_and_the_project_opens(
    visitor, talk_and_bed, workspace, db, monkeypatch
):
    """The one thing that fails is found; undo is within reach, and everything else is as ever."""
    from jaylantern.core.ducking import media_power

    on_grid = media_power.MediaPower.on_grid
    bed = next(clip for _, clip in projects.load(db, talk_and_bed).placed() if clip.name == "Bed.wav")

    def fails(self, clip, memo=anew):
        if clip.length_n == bed.length_n - RATE:
            raise ValueError("steps there are negative")
        return on_grid(self, clip, memo)

    url = f"/projects/{talk_and_bed}"
    passages = visitor.client.get(f"{url}/document").json["passages"]
    monkeypatch.setattr(media_power.MediaPower, "on_grid", fails)
    answer = visitor.post(f"{url}/do/trim_clips", json={"clip_ids": [bed.id], "edge": "stop", "by_n": -RATE})
    assert (answer.status_code, answer.json["undo"]) == (200, "Trim the end of Bed.wav")
    for tray in TRAYS:
        assert visitor.client.get(f"{url}/{tray}").status_code == 200
    said = visitor.client.get(f"{url}/part/checkup").get_data(as_text=True)
    assert (
        "Bed.wav can&#39;t be worked out here (ValueError: steps there are negative): it is treated as silent" in said
    )
    document = visitor.client.get(f"{url}/document").json
    assert [each["start_n"] for each in document["passages"]] == [each["start_n"] for each in passages]
    assert [lane["name"] for lane in document["lanes"]] == ["Talk", "Bed"]  # it is drawn
    assert visitor.post(f"{url}/undo", json={}).status_code == 200
    assert "worked out" not in visitor.client.get(f"{url}/part/checkup").get_data(as_text=True)


def test_a_tray_that_fails_leaves_undo_within_reach(visitor, talk_and_bed, workspace, monkeypatch):
    from jaylantern.web import panels

    def fails(shown):
        raise ZeroDivisionError

    monkeypatch.setitem(panels.NEEDS, "level", (fails,))
    page = visitor.client.get(f"/projects/{talk_and_bed}/level")
    assert page.status_code == 200
    text = page.get_data(as_text=True)
    assert "This tray can’t be shown" in text
    assert "(ZeroDivisionError)" in text
    assert 'id="undo"' in text

    def refuses(shown):
        raise Refused("No.")

    monkeypatch.setitem(panels.NEEDS, "level", (refuses,))
    assert visitor.client.get(f"/projects/{talk_and_bed}/level").status_code == 409  # what is told is told as it is
