"""``avelt edit``: a list of edits by name, all or none."""

from __future__ import annotations

import argparse
from pathlib import Path

from avelt.cli_common import Arguments, print_result
from avelt.core.edits.project import new_project
from avelt.core.errors import FormatError
from avelt.core.formats.disk import read_bytes
from avelt.core.formats.project_file import open_project, refuse_to_overwrite, save_project
from avelt.core.steps.read import MOST_BYTES, applied, steps_of
from avelt.core.steps.said import Site


def build_edit(parser: argparse.ArgumentParser) -> None:
    """The arguments of ``avelt edit``."""
    parser.add_argument("file", type=Path, help="a project; one that is not there is empty, then -o is needed")
    parser.add_argument("steps", type=Path, metavar="STEPS.json")
    parser.add_argument("-o", "--out", type=Path, metavar="OUT", help="where to, instead of into FILE")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_edit)


def _edit(args: Arguments) -> None:
    from avelt.paint.fonts import measure_text

    if args.out is not None:
        refuse_to_overwrite(args.out)
    there = args.file.exists()
    if not there and args.out is None:
        raise FormatError("The project is not there: say with -o where the new one goes.", str(args.file))
    project = open_project(args.file) if there else new_project(args.out.stem)
    steps = steps_of(read_bytes(args.steps, MOST_BYTES), str(args.steps))
    site = Site(args.steps.resolve().parent, measure_text)
    made = applied(project, steps, site, str(args.steps))
    out = args.out or args.file
    save_project(made, out)
    count = len(steps)
    plain = {
        "project": str(out),
        "steps": count,
        "frames": [frame.name for frame in made.frames],
        "routes": len(made.routes),
    }
    print_result(args, plain, [f"{out}: {count} step{'s' if count != 1 else ''}"])
