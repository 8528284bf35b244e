"""``avelt desktop`` and ``avelt thumbnail``: what a desktop asks for."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path

from avelt import RELEASED, __version__
from avelt.cli_common import Arguments, write_png
from avelt.core.errors import FormatError
from avelt.desktop.table import Line

_SIZES = (16, 2048)


def builder(table: Callable[[], Line]) -> Callable[[argparse.ArgumentParser], None]:
    """The arguments of ``avelt desktop``; ``table`` gives the command line that manual and completion are made of."""

    def build(parser: argparse.ArgumentParser) -> None:
        parser.add_argument("what", choices=("install", "remove"))
        parser.add_argument("--to", type=Path, metavar="DIR", help="a data folder, such as /usr/share (default: yours)")
        parser.set_defaults(run=lambda args: _desktop(args, table()))

    return build


def _desktop(args: Arguments, table: Line) -> None:
    from avelt.desktop.files import desktop_files
    from avelt.desktop.installing import data_folder, install, program_path, remove

    # In a folder for everybody the program is found by its name; in one's own by its path.
    files = desktop_files(table, __version__, RELEASED, "avelt" if args.to is not None else program_path())
    folder = args.to or data_folder()
    done = install(files, folder) if args.what == "install" else remove(files, folder)
    for path in done:
        print(path)


def build_thumbnail(parser: argparse.ArgumentParser) -> None:
    """The arguments of ``avelt thumbnail``."""
    parser.add_argument("file", type=Path, metavar="IN")
    parser.add_argument("out", type=Path, metavar="OUT.png")
    parser.add_argument("--size", type=int, default=256, metavar="PX", help="of the longer side at most")
    parser.set_defaults(run=_thumbnail)


def _thumbnail(args: Arguments) -> None:
    if not _SIZES[0] <= args.size <= _SIZES[1]:
        raise FormatError(f"A thumbnail is {_SIZES[0]} to {_SIZES[1]} px large.")
    from avelt.paint.thumbnails import thumbnail_of

    write_png(thumbnail_of(args.file, args.size), args.out)
