"""What formats are called: the names of their standards (ITU-T H.264, ISO/IEC 11172-3 and so on) and of the trade."""

from __future__ import annotations

import pytest

from jaylantern.media.names import as_people_write, codec_word, fps_word


@pytest.mark.parametrize(
    ("codec", "word"),
    [
        ("h264", "H.264"), ("hevc", "H.265"),
        ("mp3float", "MP3"), ("aac", "AAC"), ("libopus", "Opus"), ("flac", "FLAC"),
        ("pcm_s16le", "PCM 16 bit"), ("pcm_f32le", "PCM 32 bit float"), ("pcm_u8", "PCM 8 bit"), ("ac3", "AC-3"),
        ("some_new_one", "SOME NEW ONE"),
    ],
)  # fmt: skip
def test_codecs(codec, word):
    assert codec_word(codec) == word


@pytest.mark.parametrize(
    ("fps", "word"),
    [(25.0, "25"), (60000 / 1001, "59.94"), (24000 / 1001, "23.98"), (30000 / 1001, "29.97"), (12.5, "12.5")],
)
def test_frames_a_second(fps, word):
    assert fps_word(fps) == word


@pytest.mark.parametrize(
    ("kept", "said"),
    [
        ("h264, 640×360, 59.9401 fps", "H.264, 640×360, 59.94 fps"),
        ("mp3float, 44.1 kHz, stereo", "MP3, 44.1 kHz, stereo"),
        ("silent", "silent"),
        ("", ""),
    ],
)
def test_what_a_folder_says_is_written_as_people_do(kept, said):
    assert as_people_write(kept) == said
