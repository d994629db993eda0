"""Picture for the page: what a browser plays is copied, the rest becomes a small proxy; thumbs are evenly spaced."""

import av
import pytest
from PIL import Image

from jaylantern.media.picture import container_for, write_preview, write_thumbs
from jaylantern.media.probe import Picture, probe
from tests import films, sounds


@pytest.mark.parametrize(
    ("codec", "pixels", "container"),
    [
        ("h264", "yuv420p", "mp4"),
        ("h264", "yuv422p10le", None),
        ("vp9", "yuv420p", "webm"),
        ("prores", "yuv422p10le", None),
    ],
)
def test_which_pictures_a_browser_plays_as_they_are(codec, pixels, container):
    assert container_for(Picture(codec, pixels, 160, 96, 25)) == container


@pytest.mark.parametrize(
    ("ending", "codec", "mime", "plays"),
    [
        (".mp4", "libx264", "video/mp4", "h264"),
        (".webm", "libvpx", "video/webm", "vp8"),
        (".mkv", "mpeg4", "video/mp4", "h264"),
    ],
)
def test_the_preview_holds_the_picture_alone_from_time_zero(tmp_path, ending, codec, mime, plays):
    sound = sounds.noise(seconds=2, channels=2) if ending != ".webm" else None
    source = films.write_film(tmp_path / f"film{ending}", seconds=2, codec=codec, sound=sound)
    picture = probe(source, name="film").picture
    shares = []
    assert (
        write_preview(
            tmp_path / "picture",
            source=source,
            name="film",
            picture=picture,
            progress=lambda share, doing: shares.append(share),
        )
        == mime
    )
    with av.open(str(tmp_path / "picture")) as preview:
        assert not preview.streams.audio
        assert preview.streams.video[0].codec_context.name == plays
        times = [frame.time for frame in preview.decode(video=0)]
    assert times[0] == 0
    assert len(times) == 50
    assert shares
    assert max(shares) <= 1


def test_thumbs_are_one_strip_of_evenly_spaced_frames(tmp_path):
    source = films.write_film(tmp_path / "film.mp4", seconds=5)
    assert write_thumbs(tmp_path / "thumbs.jpg", source=source, name="film") == 5
    with Image.open(tmp_path / "thumbs.jpg") as strip:
        assert strip.size == (5 * 120, 72)
