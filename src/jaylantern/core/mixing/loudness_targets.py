"""Loudness targets: what a programme should measure, each with its source."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Target:
    """Integrated loudness in LUFS (of LKFS the same), highest true peak in dBTP, how far off counts as met in LU.

    `id` is 0 for those that ship.
    """

    name: str
    lufs: float
    dbtp: float
    tolerance_lu: float
    source: str
    id: int = 0


TARGETS = (
    Target("Broadcast, Europe", -23.0, -1.0, 0.5, "EBU R 128 (2023): −23.0 LUFS ±0.5 LU, −1 dBTP"),
    Target("Broadcast, live", -23.0, -1.0, 1.0, "EBU R 128 (2023): ±1.0 LU where the programme is live"),
    Target("Television, North America", -24.0, -2.0, 2.0, "ATSC A/85:2013: −24 LKFS ±2 dB, −2 dBTP"),
    Target("Streaming of speech", -18.0, -1.0, 1.0, "AES TD1008 (2021): speech at −18 LUFS, −1 dBTP"),
    Target("Streaming of music", -16.0, -1.0, 1.0, "AES TD1008 (2021): music by the track at −16 LUFS, −1 dBTP"),
    Target("Talk to be downloaded", -16.0, -1.0, 1.0, "common practice"),
    Target("Web video", -14.0, -1.0, 1.0, "common practice"),
)
