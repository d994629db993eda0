"""The Clock at Alder Quay: who says what when, and what is seen. Everything here is made up."""

from __future__ import annotations

from dataclasses import dataclass

LENGTH_S = 124.0
FPS = 25


@dataclass(frozen=True)
class Line:
    """One line of talk, beginning at a time of the film."""

    start_s: float
    who: str
    text: str
    softer_db: float = 0.0  # a speaker who turned away from the microphone


@dataclass(frozen=True)
class Scene:
    """A stretch of picture."""

    start_s: float
    kind: str


# fmt: off
LINES = (
    Line(6.2, "narrator", "On the harbour wall at Alder Quay there stands a clock. For a hundred and forty years it "
         "told the boats when to leave, and the children when to come home."),
    Line(21.0, "narrator", "Then, one night in January, the tide came over the wall. The clock stopped at twelve "
         "minutes past four, and it stayed there for nine years."),
    Line(34.6, "mender", "It was full of salt. Every wheel, every pin."),
    Line(42.5, "narrator", "The museum took it down, piece by piece, and carried it across the water, to a workshop "
         "with a north light and a very long bench."),
    Line(55.5, "mender", "You do not hurry a clock. You clean one wheel, you look at it, and then you clean it again."),
    Line(62.3, "mender", "Two hundred and twelve pieces. I gave each of them a number, and some of them a name."),
    Line(73.0, "narrator", "The hands alone took a winter."),
    Line(80.5, "mender", "The hard part was the sound. Everyone in town remembered how it struck, and everyone "
         "remembered it differently.", softer_db=6.0),
    Line(94.0, "narrator", "In spring it went home by boat, wrapped in blankets, with an escort of gulls."),
    Line(104.8, "narrator", "And at noon, for the first time in nine years, Alder Quay heard the hour."),
    Line(115.0, "mender", "It was four seconds late. I went up, and had a word with it."),
)
# fmt: on

SCENES = (
    Scene(0.0, "dusk"),
    Scene(19.5, "storm"),
    Scene(33.0, "bench"),
    Scene(52.0, "wheels"),
    Scene(70.0, "hands"),
    Scene(92.0, "crossing"),
    Scene(103.5, "noon"),
)

TAKE = (
    "The harbour clock is running again.",
    "Every evening at six, the keeper climbs the stairs and winds it by hand.",
    "And when the fog comes in, the boats still listen for it.",
)  # what the stand-in microphone speaks
