"""Tailoring measured: hearing the beats, a new length, rendering, memory."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from jaylantern.core.mixing.mix import Programme, Renderer, Variant, Voice
from jaylantern.core.signal.signal_level import level_db, mean_squares
from jaylantern.core.tailoring.cut import HALF_N, Cut
from jaylantern.core.tailoring.grid import Grid, grid_of
from jaylantern.core.tailoring.tailor import solutions
from jaylantern.core.tailoring.wish import Wish
from jaylantern.core.timeline.fades import Fade, Shape
from jaylantern.core.timeline.tag import Tag
from jaylantern.library import ingest
from jaylantern.media.sound import Reading, Sound, SoundStore
from jaylantern.media.tailored import tailored


def heard(store: SoundStore) -> Grid:
    """The grid of a decoded recording."""
    squares = [mean_squares(chunk) for chunk in store.chunks(96_000)]
    levels = level_db(np.concatenate(squares))
    return grid_of(ingest.features_of(store, levels))


def folded(grid: Grid, store: SoundStore, share: float) -> Cut:
    """The best cut to a share of the length."""
    return solutions(grid, Wish(round(share * grid.length_n)), store.read)[0].cut


def _render(voices: tuple[Voice, ...], sounds: dict[int, Sound], length_n: int) -> None:
    for _ in Renderer(Programme(length_n, voices, -1.0), Reading(sounds), Variant.MUSIC).blocks(0, length_n):
        pass


def render_tailored(store: SoundStore, cut: Cut) -> None:
    """One clip of tailored music."""
    voice = Voice(1, 0, cut.length_n, 0, 1.0, Tag.MUSIC, None)
    _render((voice,), {1: tailored(store, cut, Path())}, cut.length_n)


def render_by_hand(store: SoundStore, cut: Cut) -> None:
    """Its pieces as clips that cross over."""
    voices, last = [], len(cut.pieces) - 1
    for k, (piece, at_n) in enumerate(zip(cut.pieces, cut.starts_n, strict=True)):
        before, after = HALF_N * (k > 0), HALF_N * (k < last)
        voices.append(
            Voice(
                1,
                at_n - before,
                at_n + piece.length_n + after,
                piece.from_n - before,
                1.0,
                Tag.MUSIC,
                None,
                fade_in=Fade(2 * before, Shape.ROUND),
                fade_out=Fade(2 * after, Shape.ROUND),
            )
        )
    _render(tuple(voices), {1: store}, cut.length_n)
