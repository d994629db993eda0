"""The command that measures files: loudness."""

from __future__ import annotations

import argparse
import json
import math
import sys
from dataclasses import asdict
from pathlib import Path

from jaylantern.errors import JayError
from jaylantern.library import ingest
from jaylantern.support.paths import must_be_a_file

LOUDNESS_UNITS = {
    "integrated_lufs": "LUFS", "loudness_range_lu": "LU", "max_momentary_lufs": "LUFS M",
    "max_short_term_lufs": "LUFS S", "true_peak_dbtp": "dBTP",
}  # fmt: skip


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What it takes."""
    parser.add_argument("files", type=Path, nargs="+", metavar="FILE")
    parser.add_argument("--json", action="store_true", help="print JSON, one object for each file by its name")
    parser.set_defaults(run=_loudness)


def _loudness(args: argparse.Namespace) -> int:
    """Measure files; 2 if one of them could not be read, and the others are measured all the same."""
    found, failed = {}, 0
    for path in args.files:
        try:
            must_be_a_file(path)
            found[str(path)] = ingest.loudness_of(path)
        except (JayError, OSError) as error:
            failed = 2
            print(f"jaylantern: {error}", file=sys.stderr)
    if args.json:
        said = {
            name: {key: round(value, 2) if math.isfinite(value) else None for key, value in asdict(each).items()}
            for name, each in found.items()
        }
        print(json.dumps(said, indent=2, ensure_ascii=False))
        return failed
    for name, each in found.items():
        figures = "  ".join(f"{_figure(asdict(each)[key])} {unit}" for key, unit in LOUDNESS_UNITS.items())
        print(f"{figures}  {name}")
    return failed


def _figure(value: float) -> str:
    """A level as text of one width."""
    return f"{value:6.1f}" if math.isfinite(value) else "     —"
