"""Where a handed-off film ends: with its picture, with its mix, or at the out point; and what becomes of the rest.

picture  ████████████████████│
music    ░░░░░░░░░░░░░░░░░░░░│░░░░░░     picture   cut there, the music faded before it
                                   │     mix       the last frame held, or black, until the music has ended
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from jaylantern.core.signal.timebase import RATE, clock
from jaylantern.core.timeline.clip import Clip
from jaylantern.core.timeline.fades import Fade
from jaylantern.core.timeline.lane import Lane, LaneKind
from jaylantern.core.timeline.project import Project
from jaylantern.errors import Refused

SHORTEST_N = RATE // 100  # a difference that nobody hears


class Ending(StrEnum):
    """Where a film ends."""

    PICTURE = "picture"
    HELD = "held"  # with the mix, the last frame held
    BLACK = "black"  # with the mix, black after the picture
    RANGE = "in-out"


@dataclass(frozen=True)
class Ends:
    """When picture and mix end, in samples; None where there is none. `over` are the names of clips heard after the
    picture, `faded` those of them that are music or atmosphere."""

    picture_n: int | None
    mix_n: int | None
    over: tuple[str, ...]
    faded: tuple[str, ...]

    @property
    def longer_n(self) -> int:
        """By how much the mix is longer than the picture; negative where the picture is."""
        return (self.mix_n or 0) - (self.picture_n or 0)


def ends_of(project: Project) -> Ends:
    """When the picture and what is heard end."""
    pictures = [
        clip.stop_n for lane, clip in project.placed() if lane.kind is LaneKind.PICTURE and not clip.media.missing
    ]
    heard = list(project.heard())
    picture_n = max(pictures, default=None)
    over = [(lane, clip) for lane, clip in heard if picture_n is not None and clip.stop_n > picture_n + SHORTEST_N]
    faded = tuple(dict.fromkeys(clip.name for lane, clip in over if lane.tag_of(clip).row.fades_at_end))
    return Ends(
        picture_n,
        max((clip.stop_n for _, clip in heard), default=None),
        tuple(dict.fromkeys(c.name for _, c in over)),
        faded,
    )


def span(project: Project, ending: Ending) -> tuple[int, int]:
    """First and last sample of a film that ends so. Raises Refused where there is no picture, or no in and out."""
    if ending is Ending.RANGE:
        if project.in_n is None or project.out_n is None or project.out_n <= project.in_n:
            raise Refused("There is no stretch from in to out. Set the in point before the out point under Markers.")
        return project.in_n, min(project.out_n, project.length_n)
    ends = ends_of(project)
    if ends.picture_n is None:
        raise Refused("There is no picture on the timeline. Bring in the film, or hand off the mix as sound.")
    return 0, ends.picture_n if ending is Ending.PICTURE else max(ends.picture_n, ends.mix_n or 0)


def ended(project: Project, stop_n: int, fade_n: int) -> Project:
    """The project with nothing after a time: what is longer is cut there, music and atmosphere with a fade."""
    lanes = []
    for lane in project.lanes:
        sound = lane.kind is LaneKind.SOUND
        kept = (clip for clip in lane.clips if not sound or clip.start_n < stop_n)
        lanes.append(
            replace(lane, clips=tuple(_shortened(lane, clip, stop_n, fade_n) if sound else clip for clip in kept))
        )
    return replace(project, lanes=tuple(lanes))


def _shortened(lane: Lane, clip: Clip, stop_n: int, fade_n: int) -> Clip:
    if clip.stop_n <= stop_n:
        return clip
    length_n = stop_n - clip.start_n
    going_n = min(fade_n if lane.tag_of(clip).row.fades_at_end else SHORTEST_N, length_n)
    coming_n = min(clip.fade_in.length_n, length_n - going_n)
    return replace(
        clip,
        length_n=length_n,
        fade_in=Fade(coming_n, clip.fade_in.shape),
        fade_out=Fade(going_n, clip.fade_out.shape),
    )


def consequence(project: Project, ending: Ending, fade_s: float) -> str:
    """What becomes of picture and sound when the film ends so, in words."""
    ends = ends_of(project)
    if ends.picture_n is None:
        return "There is no picture on the timeline."
    if ending is Ending.RANGE:
        if project.in_n is None or project.out_n is None:
            return "There is no in and out point yet: set them under Lay out, Markers."
        return (
            f"The film is {_at(project.out_n - project.in_n)} long, from {_at(project.in_n)} to {_at(project.out_n)}."
        )
    longer_n = ends.longer_n
    if longer_n < -SHORTEST_N:
        return f"The film ends with its picture at {_at(ends.picture_n)}; its last {_s(-longer_n)} are silent."
    if longer_n <= SHORTEST_N:
        return f"Picture and mix both end at {_at(ends.picture_n)}."
    if ending is Ending.HELD:
        return f"The film ends with the mix at {_at(ends.mix_n or 0)}; its last frame is held for {_s(longer_n)}."
    if ending is Ending.BLACK:
        return f"The film ends with the mix at {_at(ends.mix_n or 0)}; it is black for the last {_s(longer_n)}."
    fades = f", faded out over {min(fade_s, ends.picture_n / RATE):g} s before" if ends.faded and fade_s > 0 else ""
    return (
        f"The film ends with its picture at {_at(ends.picture_n)}: the last {_s(longer_n)} of {_names(ends.over)} "
        f"{'is' if len(ends.over) == 1 else 'are'} cut off{fades}."
    )


def _names(names: tuple[str, ...]) -> str:
    return names[0] if len(names) == 1 else f"{len(names)} clips"


def _at(time_n: int) -> str:
    return clock(time_n, decimals=1)


def _s(time_n: int) -> str:
    return f"{time_n / RATE:.1f} s"
