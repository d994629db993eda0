"""Time and units: the only place where samples, seconds, decibels and percent are turned into each other.

Time is integer samples at 48 000 Hz (`_n`), intervals are half-open. Gains are dB (`_db`), levels dBFS.
"""

import math

RATE = 48_000
HOUR_N = 3600 * RATE
SILENCE_DB = -90.0  # common practice: -90 dB is silence


def nearest(value: float) -> int:
    """The nearest whole number, halves upwards, as the page rounds them."""
    return math.floor(value + 0.5)


def seconds_to_n(seconds: float) -> int:
    """Nearest sample number for a time in seconds."""
    return round(seconds * RATE)


def n_to_seconds(time_n: int) -> float:
    """Time in seconds of a sample number."""
    return time_n / RATE


def ms_to_n(ms: float) -> int:
    """Nearest number of samples for a duration in milliseconds."""
    return round(ms * RATE / 1000)


def db_to_amplitude(gain_db: float) -> float:
    """Amplitude factor of a gain: 10^(dB/20)."""
    return math.pow(10.0, gain_db / 20.0)


def amplitude_to_db(amplitude: float) -> float:
    """Gain in dB of an amplitude factor: 20·log10(a); zero or less gives −∞."""
    return 20.0 * math.log10(amplitude) if amplitude > 0 else -math.inf


def db_to_percent(gain_db: float) -> float:
    """Amplitude in percent that is left at this gain: 100·10^(dB/20)."""
    return 100.0 * db_to_amplitude(gain_db)


def clock(time_n: int, *, decimals: int = 3) -> str:
    """Time as mm:ss.mmm, or h:mm:ss.mmm from one hour on."""
    ticks = nearest(time_n * 10**decimals / RATE)
    whole, fraction = divmod(ticks, 10**decimals)
    hours, rest = divmod(whole, 3600)
    text = f"{hours}:{rest // 60:02d}:{rest % 60:02d}" if hours else f"{rest // 60:02d}:{rest % 60:02d}"
    return f"{text}.{fraction:0{decimals}d}" if decimals else text
