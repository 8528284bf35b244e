"""``avelt preset ...``: the shelf from the command line."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path

from avelt.cli_common import Arguments, build_route_command, print_result
from avelt.core.formats.disk import write_atomically
from avelt.core.formats.project_file import open_project, save_project
from avelt.core.model.find import find_layer, find_route, walk
from avelt.core.model.motion import PairKey
from avelt.core.model.values import Layer, Project, Route
from avelt.core.presets.capture import capture, left_out, put
from avelt.core.presets.shelf import Shelf, read_preset
from avelt.core.presets.values import to_json
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import end_of


def build_preset(parser: argparse.ArgumentParser) -> None:
    """The actions of ``preset``."""
    actions = parser.add_subparsers(dest="action", required=True)

    def add(name: str, words: str, run: Callable[[Arguments], None]) -> argparse.ArgumentParser:
        made = actions.add_parser(name, help=words, description=words)
        made.set_defaults(run=run)
        return made

    listing = add("list", "the presets on the shelf", _preset_list)
    listing.add_argument("--json", action="store_true")
    show = add("show", "one preset", _preset_show)
    show.add_argument("name")
    show.add_argument("--json", action="store_true")
    save = add("save", "keep a layer's motion on the shelf", _preset_save)
    build_route_command(save)
    save.add_argument("--layer", required=True, metavar="NAME")
    save.add_argument("--name", required=True)
    apply = add("apply", "put a preset on a layer", _preset_apply)
    build_route_command(apply)
    apply.add_argument("--layer", required=True, metavar="NAME")
    apply.add_argument("--preset", required=True, metavar="NAME")
    apply.add_argument("--as-recorded", action="store_true", help="the recorded ms and px, not shares")
    apply.add_argument("-o", "--out", type=Path, help="write here instead of over FILE")
    bring = add("import", "take preset files onto the shelf", _preset_import)
    bring.add_argument("inputs", type=Path, nargs="+", metavar="IN")
    give = add("export", "write a preset file to give away", _preset_export)
    give.add_argument("name")
    give.add_argument("-o", "--out", type=Path, required=True)


def _preset_list(args: Arguments) -> None:
    listing = Shelf().read()
    for trouble in listing.troubles:
        print(trouble, file=sys.stderr)
    plain = [{"name": p.name, "kind": p.kind, "length": p.duration, "cues": len(p.cues)} for p in listing.presets]
    print_result(args, {"presets": plain}, [f"{p.name}: {p.kind}, {p.duration:g} ms" for p in listing.presets])


def _preset_show(args: Arguments) -> None:
    text = to_json(Shelf().find(args.name)).decode()
    print_result(args, json.loads(text), text.rstrip().split("\n"))


def _ends(project: Project, route: Route, name: str) -> PairKey:
    """The pair, leaving or entering layer of this name on either side."""
    pairing = pairing_of(project, route)
    left, right = ends(project, route)
    for layer in walk(left.layers):
        if name in (layer.id, layer.name):
            return PairKey(layer.id, pairing.to_of.get(layer.id))
    for layer in walk(right.layers):
        if name in (layer.id, layer.name):
            return PairKey(pairing.from_of.get(layer.id), layer.id)
    found: Layer = find_layer(left, name)
    return PairKey(found.id, pairing.to_of.get(found.id))


def _preset_save(args: Arguments) -> None:
    project = open_project(args.file)
    route = find_route(project, args.route)
    ends = _ends(project, route, args.layer)
    preset = capture(project, route.id, ends, args.name)
    missing = left_out(project, route.id, ends)
    if missing:
        print(missing, file=sys.stderr)
    print(Shelf().keep(preset))


def _preset_apply(args: Arguments) -> None:
    project = open_project(args.file)
    route = find_route(project, args.route)
    preset = Shelf().find(args.preset)
    how = "recorded" if args.as_recorded else "follow"
    project = put(project, route.id, _ends(project, route, args.layer), preset, how)  # type: ignore[arg-type]
    save_project(project, args.out or args.file)
    end = end_of(find_route(project, route.id).transition)
    print(f"{preset.name} is on {args.layer} now, the route ends at {end:g} ms")


def _preset_import(args: Arguments) -> None:
    presets = [read_preset(path) for path in args.inputs]
    for preset in presets:
        print(Shelf().keep(preset))


def _preset_export(args: Arguments) -> None:
    write_atomically(args.out, to_json(Shelf().find(args.name)))
    print(args.out)
