"""The command line. Stable: other programs rely on it.

Each command is a function in one table; results go to standard output, errors are one line on standard
error with exit code 2. ``--json`` prints one JSON document and nothing else.
"""

from __future__ import annotations

import argparse
import logging
import math
import os
import sys
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from avelt import __version__
from avelt.cli_check import build_check
from avelt.cli_common import Arguments, build_route_command, print_result, write_frames, write_png
from avelt.cli_desktop import build_thumbnail, builder
from avelt.cli_export import build_export, build_verify
from avelt.cli_info import build_info
from avelt.cli_look import build_pair
from avelt.cli_play import build_play
from avelt.cli_presets import build_preset
from avelt.cli_shelf import build_shelf
from avelt.cli_steps import build_edit
from avelt.core import logs
from avelt.core.blending import colour, spaces
from avelt.core.curves import easing
from avelt.core.curves.measure import measure
from avelt.core.curves.text import parse as parse_curve
from avelt.core.edits.frames import add_frames, chain_routes
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, FormatError
from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.formats.project_file import open_project, refuse_to_overwrite, save_project
from avelt.core.formats.report import Report, report_of
from avelt.core.formats.screen_file import read_screen
from avelt.core.formats.screens import apart, screens_in
from avelt.core.model.find import find_frame, find_layer, find_route, layer_index, walk
from avelt.core.model.parts import as_stage, find_part, pose_of
from avelt.core.model.values import Frame, Project, Route
from avelt.core.stopping import end_on_signals
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.over import ends
from avelt.core.timing.sampling import sample
from avelt.desktop.table import Line, line_of

_MAX_MOMENTS = 100_000


def main(argv: Sequence[str] | None = None) -> int:
    """Run one command; gives the exit code."""
    args = _with_negatives(list(sys.argv[1:] if argv is None else argv))
    verbose = "--verbose" in args
    args = [arg for arg in args if arg != "--verbose"]
    if verbose:
        logs.set_up(__version__, verbose=True)
    known = {name for name, _, _ in COMMANDS}
    try:
        if not args or (args[0] not in known and args[0] not in ("-h", "--help", "--version")):
            return _window(args, verbose)
        options = _parser().parse_args(args)
        end_on_signals()
        done = options.run(options)
        return int(done or 0)
    except AveltError as error:
        print(" ".join(str(error).split()), file=sys.stderr)
        return 2
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except Exception:
        # A fault of Avelt: all of it goes into the log, one line to whoever called.
        if logs.log_file() is None:
            logs.set_up(__version__, verbose)
        logging.getLogger("avelt.cli").exception("the command failed: %s", " ".join(args))
        where = logs.log_file()
        print(
            f"Something went wrong in Avelt.{f' What happened is written in {where}.' if where else ''}",
            file=sys.stderr,
        )
        return 2


def _with_negatives(args: list[str]) -> list[str]:
    """``--at -0.5,1`` as ``--at=-0.5,1``: argparse would take the number for an option."""
    made: list[str] = []
    for arg in args:
        if made and made[-1] == "--at" and arg[:1] == "-" and arg[1:2] in tuple(".0123456789"):
            made[-1] = f"--at={arg}"
        else:
            made.append(arg)
    return made


def _window(args: list[str], verbose: bool = False) -> int:
    parser = argparse.ArgumentParser("avelt", description="Open the window, on a project or on the demo.")
    parser.add_argument("file", nargs="*", type=Path, help="projects (a window each), presets, packs, tapes")
    parser.add_argument("--demo", action="store_true", help="open the demo project")
    parser.add_argument("--verbose", action="store_true", help="what is logged goes to the console too")
    parser.add_argument("--version", action="version", version=f"avelt {__version__}")
    options = parser.parse_args(args)
    from avelt.window.common.language import settings_file, speak

    speak(settings_file())  # before anything is loaded that has texts in it
    from avelt.window.start import start

    logs.set_up(__version__, verbose)
    return start(options.file, options.demo)


def command_table() -> Line:
    """The command line as data."""
    return line_of(_parser(), "avelt")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser("avelt", description="Choreograph how one screen turns into the next.")
    parser.add_argument("--version", action="version", version=f"avelt {__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    for name, words, build in COMMANDS:
        build(commands.add_parser(name, help=words, description=words))
    return parser


def _times(text: str) -> list[float]:
    """A list of numbers parted by commas."""
    found = []
    for part in text.split(","):
        try:
            value = float(part)
        except ValueError:
            raise argparse.ArgumentTypeError(f"{part!r} is not a number") from None
        if not math.isfinite(value):
            raise argparse.ArgumentTypeError(f"{part!r} is not a usable number")
        found.append(value)
    if len(found) > _MAX_MOMENTS:
        raise argparse.ArgumentTypeError("too many moments")
    return found


# demo, info, import


def _build_demo(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--out", type=Path, required=True, metavar="DIR")
    parser.set_defaults(run=_demo)


def _demo(args: Arguments) -> None:
    from avelt.tools.write_demo import write_demo

    for path in write_demo(args.out):
        print(path)


def _build_import(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("out", type=Path, metavar="OUT.avelt")
    parser.add_argument("inputs", type=Path, nargs="+", metavar="IN")
    parser.add_argument(
        "--apart", action="store_true", help="a drawing that holds several screens becomes a frame for each"
    )
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_import)


def _import(args: Arguments) -> None:
    from avelt.paint.fonts import measure_text

    words = " ".join(str(path) for path in (args.out, *args.inputs))
    meant = args.out.suffix.lower() in SCREEN_ENDINGS
    refuse_to_overwrite(args.out, f"The project comes first: avelt import NEW.avelt {words}" if meant else "")
    project = new_project(args.out.stem)
    reports: list[Report] = []
    for path in args.inputs:
        imported = read_screen(path, measure_text)
        screens = screens_in(imported.frame) if args.apart else ()
        for part in apart(imported, screens) if screens else [imported]:
            project = add_frames(project, [part.frame], part.assets)
            reports.append(report_of(project.frames[-1]))
    project = chain_routes(project)
    save_project(project, args.out)
    plain = {
        "project": str(args.out),
        "frames": [frame.name for frame in project.frames],
        "reports": [report.plain() for report in reports],
    }
    print_result(args, plain, [line for report in reports for line in report.lines()])


# pair, sample


def _build_sample(parser: argparse.ArgumentParser) -> None:
    build_route_command(parser, optional=True)
    parser.add_argument("--part", metavar="NAME", help="a pose of a part instead of a route")
    parser.add_argument("--pose", metavar="POSE", help="of the part; the first unless said")
    parser.add_argument("--at", type=_times, required=True, metavar="MS[,MS...]")
    parser.add_argument("--layer", metavar="NAME")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_sample)


def _sample(args: Arguments) -> None:
    project = open_project(args.file)
    if (args.route is None) == (args.part is None):
        raise FormatError("Say a route, or --part.")
    if args.part is not None:
        _sample_part(args, project)
        return
    route = find_route(project, args.route)
    program = compile_route(project, route)
    if args.layer is not None:
        _require_layer(project, route, args.layer)
    samples = []
    lines: list[str] = []
    for ms in args.at:
        layers = sample(program, ms)
        if args.layer is not None:
            layers = [
                entry
                for entry in layers
                if args.layer in (entry["name"], *entry["pair"]) or _other_name(project, route, entry, args.layer)
            ]
        samples.append({"at": ms, "layers": layers})
        lines.append(f"{ms:g} ms")
        lines += [
            f"  {e['name']}: {e['x']:.2f}, {e['y']:.2f}  {e['w']:.2f} x {e['h']:.2f}  rotation {e['turn']:.2f}"
            f"  opacity {e['opacity']:.3f}  {e['fill'] or ''}".rstrip()
            for e in layers
        ]
    print_result(args, {"route": route.id, "length": program.duration, "samples": samples}, lines)


def _sample_part(args: Arguments, project: Project) -> None:
    """The layers of a pose at moments of its loops."""
    pose = _pose(project, args.part, args.pose)
    if args.layer is not None:
        find_layer(pose, args.layer)
    program = compile_still(pose, project)
    samples, lines = [], []
    for ms in args.at:
        layers = [e for e in sample(program, ms) if args.layer in (None, e["name"], e["pair"][0])]
        samples.append({"at": ms, "layers": layers})
        lines += [f"{ms:g} ms", *(f"  {e['name']}: {e['x']:.2f}, {e['y']:.2f}" for e in layers)]
    print_result(args, {"part": args.part, "pose": pose.name, "samples": samples}, lines)


def _require_layer(project: Project, route: Route, name: str) -> None:
    frames = ends(project, route)
    if not any(name in (layer.id, layer.name) for frame in frames for layer in walk(frame.layers)):
        find_layer(frames[0], name)


def _other_name(project: Project, route: Route, entry: dict[str, Any], name: str) -> bool:
    """Whether the pair's layer in the frame left is called so."""
    left = layer_index(ends(project, route)[0]).get(entry["pair"][0] or "")
    return left is not None and left.name == name


# render, export


def _build_render(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path)
    what = parser.add_mutually_exclusive_group(required=True)
    what.add_argument("--frame", metavar="NAME")
    what.add_argument("--route", metavar="ROUTE")
    what.add_argument("--all-frames", action="store_true")
    what.add_argument("--part", metavar="NAME")
    parser.add_argument("--pose", metavar="POSE", help="of the part; the first unless said")
    parser.add_argument("--at", type=_times, metavar="MS")
    parser.add_argument("-o", "--out", type=Path, required=True)
    parser.add_argument("--scale", type=float, default=1.0)
    parser.set_defaults(run=_render)


def _render(args: Arguments) -> None:
    from avelt.paint.painter import ScenePainter

    if not 0.01 <= args.scale <= 16:
        raise FormatError("The scale must be 0.01 to 16.")
    project = open_project(args.file)
    painter = ScenePainter(project.assets)
    if args.all_frames:
        write_frames(project, args.out, args.scale)
        return
    if args.part is not None:
        if args.at and len(args.at) != 1:
            raise FormatError("--part takes one moment in ms at most.")
        scene = compile_still(_pose(project, args.part, args.pose), project).from_start(args.at[0] if args.at else 0.0)
    elif args.frame is not None:
        if args.at and len(args.at) != 1:
            raise FormatError("--frame takes one moment in ms at most.")
        still = compile_still(find_frame(project, args.frame), project)
        scene = still.from_start(args.at[0]) if args.at else still.at(0.0)
    else:
        if not args.at or len(args.at) != 1:
            raise FormatError("--route needs --at with one moment in ms.")
        scene = compile_route(project, find_route(project, args.route)).from_start(args.at[0])
    write_png(painter.render(scene, args.scale), args.out)


def _pose(project: Project, part_name: str, pose_name: str | None) -> Frame:
    """A pose of a part by their names."""
    part = find_part(project, part_name)
    return find_frame(as_stage(project, part), pose_name) if pose_name else pose_of(part)


# curve, blend


def _build_curve(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("curves", nargs="+", metavar="CURVE", help="CSS easing or Avelt text")
    parser.add_argument("--at", type=_times, required=True, metavar="T[,T...]")
    parser.add_argument("--measure", action="store_true")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_curve)


def _curve(args: Arguments) -> None:
    entries, lines = [], []
    for text in args.curves:
        curve = parse_curve(text)
        entry: dict[str, Any] = {"curve": text, "values": [float(v) for v in easing.at(curve, args.at)]}
        lines.append(f"{text}: {', '.join(f'{v:.6g}' for v in entry['values'])}")
        if args.measure:
            found = measure(curve)
            entry["measure"] = {name: getattr(found, name) for name in found.__struct_fields__}
            lines += [f"  {name.replace('_', ' ')}: {value:.4g}" for name, value in entry["measure"].items()]
        entries.append(entry)
    print_result(args, {"curves": entries}, lines)


def _build_blend(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("first", metavar="A")
    parser.add_argument("second", metavar="B")
    parser.add_argument("--at", type=_times, required=True, metavar="T")
    parser.add_argument("--in", dest="space", choices=spaces.SPACES, default="oklab")
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_blend)


def _blend(args: Arguments) -> None:
    first, second = colour.parse(args.first), colour.parse(args.second)
    blended = [[min(1.0, max(0.0, float(v))) for v in spaces.blend(first, second, t, args.space)] for t in args.at]
    plain: dict[str, Any] = {"rgb": blended[0]}
    if len(blended) > 1:
        plain["all"] = blended
    print_result(args, plain, [colour.to_text(c) for c in blended])


COMMANDS: tuple[tuple[str, str, Callable[[argparse.ArgumentParser], None]], ...] = (
    ("demo", "write the demo project and one of every export", _build_demo),
    ("info", "frames, layers, routes, loops and curves of a project", build_info),
    ("import", "a new project from SVG files or pictures", _build_import),
    ("edit", "a list of edits by name, all or none", build_edit),
    ("pair", "which layers are one thing, how sure that is and why", build_pair),
    ("check", "what is wrong with a project; exit code 1 when something is", build_check),
    ("play", "tapes played on a project, sampled and logged", build_play),
    ("sample", "values of every layer at moments of a transition", _build_sample),
    ("render", "a frame or a moment of a transition as PNG", _build_render),
    ("curve", "values of easing curves", _build_curve),
    ("blend", "a colour between two", _build_blend),
    ("export", "motion for browsers, as pictures that move, as numbers", build_export),
    ("verify", "a delivery beside the design, in a browser", build_verify),
    ("preset", "the shelf of presets", build_preset),
    ("shelf", "the shelf of a team: join, publish, sync, settle", build_shelf),
    ("thumbnail", "a file's picture, as file managers ask for it", build_thumbnail),
    ("desktop", "menu entry, kinds of files, icons, manual and completion", builder(command_table)),
)
