"""What the commands share: printing results and naming a route."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from pathlib import Path
from typing import Any

Arguments = argparse.Namespace


def print_result(args: Arguments, plain: Any, lines: Sequence[str]) -> None:
    """One JSON document with ``--json``, lines to read without."""
    if args.json:
        print(json.dumps(plain, ensure_ascii=False, allow_nan=False))
    else:
        for line in lines:
            print(line)


def build_route_command(parser: argparse.ArgumentParser, optional: bool = False) -> None:
    """The arguments FILE and ROUTE."""
    parser.add_argument("file", type=Path)
    says = 'an id, or "From name > To name"'
    parser.add_argument("route", metavar="ROUTE", help=says, **({"nargs": "?"} if optional else {}))  # type: ignore[arg-type]


def write_png(image: Any, path: Path) -> None:
    """A picture as a PNG file."""
    from avelt.core.formats.disk import write_atomically
    from avelt.paint.moving import png_bytes

    write_atomically(path, png_bytes(image))


def make_folder(path: Path) -> None:
    """A folder for results; ``FileError`` when it cannot be."""
    from avelt.core.errors import FileError

    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The folder cannot be made: {error.strerror}.", str(path)) from None
