"""What formats are called by people: the names their standards and the trade use, not those of a decoder."""

from __future__ import annotations

import re

CODECS = {
    "h264": "H.264", "hevc": "H.265", "mpeg2video": "MPEG-2", "mpeg4": "MPEG-4", "vp8": "VP8", "vp9": "VP9",
    "av1": "AV1", "libdav1d": "AV1", "prores": "ProRes", "dnxhd": "DNxHD", "mjpeg": "Motion JPEG",
    "theora": "Theora", "ffv1": "FFV1", "dvvideo": "DV", "wmv3": "WMV", "vc1": "VC-1", "png": "PNG", "gif": "GIF",
    "mp3": "MP3", "mp3float": "MP3", "mp2": "MP2", "mp2float": "MP2", "aac": "AAC", "flac": "FLAC", "alac": "ALAC",
    "opus": "Opus", "libopus": "Opus", "vorbis": "Vorbis", "ac3": "AC-3", "eac3": "E-AC-3", "dca": "DTS",
    "wmav2": "WMA",
    "adpcm_g722": "G.722", "g722": "G.722", "speex": "Speex", "wavpack": "WavPack",
}  # fmt: skip
_PCM = re.compile(r"pcm_([suf])(\d+)")
_FPS = re.compile(r"(\d+(?:\.\d+)?) fps")


def codec_word(codec: str) -> str:
    """The name of a codec: "MP3" for mp3float, "PCM 24 bit" for pcm_s24le; one that is not known in capitals."""
    if found := _PCM.match(codec):
        return f"PCM {found[2]} bit{' float' if found[1] == 'f' else ''}"
    return CODECS.get(codec, codec.replace("_", " ").upper())


def fps_word(fps: float) -> str:
    """Frames a second with at most two decimals: 25, 23.98, 59.94."""
    return f"{fps:.2f}".rstrip("0").rstrip(".")


def as_people_write(word: str) -> str:
    """What a folder says of a sound or a picture (codec, then figures) as people write it."""
    codec, comma, rest = word.partition(", ")
    if not comma:
        return word
    return f"{codec_word(codec)}, {_FPS.sub(lambda found: f'{fps_word(float(found[1]))} fps', rest)}"
