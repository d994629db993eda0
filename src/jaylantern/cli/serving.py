"""The commands that start the application: serve, demo."""

from __future__ import annotations

import argparse
from pathlib import Path


def add_to(parser: argparse.ArgumentParser, name: str) -> None:
    """What they take."""
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--open", action="store_true", help="open the page in a browser")
    parser.add_argument("--data", type=Path, help="data folder (default: a folder of your own account)")
    parser.set_defaults(run=_serve, demo=name == "demo")


def _serve(args: argparse.Namespace) -> None:
    from jaylantern.web.server import serve

    serve(data=args.data, port=args.port, open_page=args.open, demo=args.demo)
