"""Turned, mirrored and stretched pictures are seen as their files say. Source of the matrix: ISO/IEC 14496-12, 8.3.2;
the eight orientations are those of Exif 2.3, tag 0x0112."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest

from jaylantern.core.signal.timebase import RATE
from jaylantern.library.ingest import About
from jaylantern.media.film import Cut, Shot, write_cut_film, write_film
from jaylantern.media.picture import write_preview, write_thumbs
from jaylantern.media.probe import probe
from jaylantern.media.upright import TURNS, Look, first_look, matrix_turn
from jaylantern.support.progress import silent
from tests import films

ONE = 1 << 16
# turn (a, b, c, d) → where the corner that was stored at the upper left is seen: (right?, low?)
CORNERS = {
    (1, 0, 0, 1): (False, False),
    (-1, 0, 0, 1): (True, False),
    (1, 0, 0, -1): (False, True),
    (-1, 0, 0, -1): (True, True),
    (0, 1, -1, 0): (True, False),  # a quarter to the right, as phones held upright say
    (0, -1, 1, 0): (False, True),  # a quarter to the left
    (0, 1, 1, 0): (False, False),
    (0, -1, -1, 0): (True, True),
}


def corner_of(image: np.ndarray) -> tuple[bool, bool]:
    """Which quarter of a grey picture is bright: (right?, low?)."""
    height, width = image.shape
    quarters = {
        (right, low): image[low * height // 2 :][: height // 2, right * width // 2 :][:, : width // 2].mean()
        for right in (0, 1)
        for low in (0, 1)
    }
    right, low = max(quarters, key=quarters.__getitem__)
    return bool(right), bool(low)


def turned_film(path, turn, *, pixel: Fraction | None = None):
    a, b, c, d = (each * ONE for each in turn)
    return films.write_marked(path, matrix=[a, b, 0, c, d, 0, 0, 0, 1 << 30], pixel=pixel)


def grey_of(path) -> np.ndarray:
    with av.open(str(path)) as film:
        return next(film.decode(video=0)).to_ndarray(format="gray")


@pytest.mark.parametrize("turn", TURNS)
def test_a_cut_film_is_upright_whatever_the_phone_said(tmp_path, turn):
    source = turned_film(tmp_path / "phone.mp4", turn)
    seen = probe(source, name="phone.mp4").picture
    lying = turn[0] == 0
    assert (seen.width, seen.height) == ((96, 160) if lying else (160, 96))
    out = tmp_path / "out.mp4"
    write_cut_film(
        out,
        shots=iter([Shot(RATE, source, "phone.mp4", RATE // 2)]),
        how=Cut((seen.width, seen.height), Fraction(25), 17),
        sound=iter([np.zeros((RATE, 2), np.float32)]),
    )
    image = grey_of(out)
    assert image.shape == (seen.height, seen.width)
    assert corner_of(image) == CORNERS[turn]
    with av.open(str(out)) as film:
        assert first_look(film, film.streams.video[0]).plain


@pytest.mark.parametrize("turn", TURNS)
def test_small_frames_and_previews_are_upright_too(tmp_path, turn):
    source = turned_film(tmp_path / "phone.mp4", turn)
    found = probe(source, name="phone.mp4").picture
    from PIL import Image

    count = write_thumbs(tmp_path / "thumbs.jpg", source=source, name="phone.mp4")
    with Image.open(tmp_path / "thumbs.jpg") as strip:
        first = np.asarray(strip.convert("L"))[:, : strip.width // count]
    assert corner_of(first) == CORNERS[turn]
    assert (first.shape[1] > first.shape[0]) == (turn[0] != 0)
    write_preview(tmp_path / "picture", source=source, name="phone.mp4", picture=found, progress=silent)
    with av.open(str(tmp_path / "picture")) as film:
        look = first_look(film, film.streams.video[0])
        image = next(film.decode(video=0)).to_ndarray(format="gray")
    if found.look.mirrored:  # made anew, as it is seen
        assert look.plain
        assert corner_of(image) == CORNERS[turn]
    else:  # copied: what the file says goes with it, for the browser
        assert look.turn == turn


def test_an_uncut_copy_still_says_how_it_is_turned(tmp_path):
    turn = (0, 1, -1, 0)
    source = turned_film(tmp_path / "phone.mp4", turn)
    for name in ("out.mp4", "out.mkv"):
        write_film(tmp_path / name, source=source, name="phone.mp4", sound=iter([np.zeros((2 * RATE, 2), np.float32)]))
        with av.open(str(tmp_path / name)) as film:
            assert first_look(film, film.streams.video[0]).turn == turn


@pytest.mark.parametrize(
    ("pixel", "size"), [(Fraction(4, 3), (213, 96)), (Fraction(3, 4), (120, 96)), (None, (160, 96))]
)
def test_pixels_that_are_not_square_are_stretched(tmp_path, pixel, size):
    source = turned_film(tmp_path / "wide.mp4", (1, 0, 0, 1), pixel=pixel)
    found = probe(source, name="wide.mp4").picture
    assert (found.width, found.height) == size


@pytest.mark.parametrize(
    ("matrix", "turn"),
    [
        ([ONE, 0, 0, 0, ONE, 0, 0, 0, 0], (1, 0, 0, 1)),
        ([0, ONE, 0, -ONE, 0, 0, 0, 0, 0], (0, 1, -1, 0)),
        ([65000, 2000, 0, -2000, 65000, 0, 0, 0, 0], (1, 0, 0, 1)),  # a degree or two off: as good as upright
        ([0] * 9, (1, 0, 0, 1)),
    ],
)
def test_a_matrix_is_read_as_the_nearest_turn(matrix, turn):
    assert matrix_turn(matrix) == turn


def test_a_card_shows_one_frame_of_any_shape():
    """Small frames lie side by side, 72 pixels high; 16:9 is 128 wide, a phone held upright 40."""
    wide, tall = About(1, width=1920, height=1080, thumbs=9), About(1, width=1080, height=1920, thumbs=2)
    assert (wide.frame_width, wide.frame_at(2)) == (128, 256)
    assert (tall.frame_width, tall.frame_at(2)) == (40, 40)  # the last there is
    assert About(1, width=640, height=480, thumbs=1).frame_at(2) == 0


def test_a_look_that_turns_changes_width_and_height():
    assert Look((0, 1, -1, 0), Fraction(4, 3)).size(720, 576) == (576, 960)
