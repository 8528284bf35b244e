"""What the commands share: printing results and naming a route."""

from __future__ import annotations

import argparse
import json
from collections.abc import Sequence
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Any

from avelt.core.errors import FileError, FormatError

if TYPE_CHECKING:
    from avelt.core.model.values import Project

Arguments = argparse.Namespace
_MOST_NAME = 200  # bytes of a file's name before its ending


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
    try:
        path.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The folder cannot be made: {error.strerror}.", str(path)) from None


def write_frames(project: Project, folder: Path, scale: float) -> list[Path]:
    """One picture a frame, named after it, all or none; of two of one name the second gets a number."""
    from avelt.core.timing.compile import compile_still
    from avelt.deliver.sinks import DiskSink
    from avelt.paint.moving import png_bytes
    from avelt.paint.painter import ScenePainter

    if not 0.01 <= scale <= 16:
        raise FormatError("The scale must be 0.01 to 16.")
    painter = ScenePainter(project.assets)
    taken: set[str] = set()
    with DiskSink(folder, single=False) as sink:
        for frame in project.frames:
            plain = "".join("_" if c in '/\\:*?"<>|' or ord(c) < 32 else c for c in frame.name).strip(". ") or "frame"
            plain = plain.encode()[:_MOST_NAME].decode("utf-8", "ignore")
            name = next(made for n in count(1) if (made := f"{plain} {n}" if n > 1 else plain).casefold() not in taken)
            taken.add(name.casefold())
            with sink.open(f"{name}.png") as stream:
                stream.write(png_bytes(painter.render(compile_still(frame, project).at(0.0), scale)))
    return [folder / name for name in sink.names]
