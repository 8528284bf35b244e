"""``avelt preset ...``: the shelf from the command line."""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import cast

from msgspec.structs import replace

from avelt.cli_common import Arguments, print_result
from avelt.core.errors import EditError, NotFound
from avelt.core.formats.disk import write_atomically
from avelt.core.formats.project_file import open_project, refuse_to_overwrite, save_project
from avelt.core.model.find import entrance_id, find_frame, find_layer, find_route, route_by_id, walk
from avelt.core.model.motion import PairKey
from avelt.core.model.parts import as_stage, find_part
from avelt.core.model.values import Frame, Part, Project, Route
from avelt.core.presets import packs, record, tokens
from avelt.core.presets.adjusted import How, direction_of
from avelt.core.presets.capture import capture, left_out
from avelt.core.presets.files import read_file
from avelt.core.presets.links import carried, put_linked, uses
from avelt.core.presets.pieces import without
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.shelf import Listing, Same, Shelf, Trouble, built_in
from avelt.core.presets.team import find_preset, listed
from avelt.core.presets.values import ENDING, KINDS, Kind, Preset, from_json, to_json
from avelt.core.presets.where_used import remember, used
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import timed

_PLACES = ("built-in", "mine", "team")
_WHAT = 'a route ("From name > To name"), a frame or a part, by name or id'


def build_preset(parser: argparse.ArgumentParser) -> None:
    """The actions of ``preset``."""
    actions = parser.add_subparsers(dest="action", required=True)

    def add(name: str, words: str, run: Callable[[Arguments], None], *also: str) -> argparse.ArgumentParser:
        made = actions.add_parser(name, help=words, description=words, aliases=also)
        made.set_defaults(run=run)
        return made

    listing = add("list", "the presets on the shelf", _list)
    listing.add_argument("--kind", choices=KINDS, metavar="KIND", help=", ".join(KINDS))
    listing.add_argument(
        "--where", metavar="WHERE", help="built-in, mine, team, or a file (project, preset, pack, tokens)"
    )
    listing.add_argument("--json", action="store_true")
    show = add("show", "one preset, also as a moving picture", _show)
    show.add_argument("name")
    show.add_argument("--where", choices=_PLACES)
    show.add_argument("--json", action="store_true")
    show.add_argument("-o", "--out", type=Path, metavar="PICTURE.webp")
    save = add("save", "keep motion on the shelf", _save)
    _target(save)
    save.add_argument("--loop", metavar="NAME", help="a loop of the frame or part")
    save.add_argument("--name", required=True)
    save.add_argument("--kind", choices=KINDS, metavar="KIND", help=", ".join(KINDS))
    save.add_argument("--tag", action="append", default=[], metavar="TAG")
    save.add_argument("--note", default="")
    _left_out(save)
    put = add("put", "put a preset on layers, a route, a frame", _put, "apply")
    _target(put)
    put.add_argument("--preset", required=True, metavar="NAME")
    put.add_argument("--where", choices=_PLACES)
    put.add_argument("--stretch", type=float, default=1.0, help="times are multiplied by it")
    put.add_argument("--strength", type=float, default=1.0, help="distances and overshoot are multiplied by it")
    put.add_argument("--direction", default="", help="where the layer moves to: right, up left, ...")
    put.add_argument("--start", type=float, metavar="MS", help="when it begins")
    put.add_argument("--step", type=float, default=0.0, metavar="MS", help="how much later each of several begins")
    put.add_argument("--as-recorded", action="store_true", help="the recorded ms and px, not shares")
    _left_out(put)
    put.add_argument("--linked", action="store_true", help="the use changes with the preset from now on")
    put.add_argument("-o", "--out", type=Path, help="write here instead of over FILE")
    bring = add("import", "take preset files, packs and tokens onto the shelf", _import)
    bring.add_argument("inputs", type=Path, nargs="+", metavar="IN")
    bring.add_argument("--same", choices=("keep", "replace", "skip"), default="keep", help="where a name is taken")
    give = add("export", f"write a {ENDING}, {packs.PACK_ENDING} or {tokens.TOKENS_ENDING} to give away", _export)
    give.add_argument("names", nargs="+", metavar="NAME")
    give.add_argument("-o", "--out", type=Path, required=True)
    for name in ("author", "licence", "notes"):
        give.add_argument(f"--{name}", default="", help="of a pack")
    remove = add("remove", "take a preset off the shelf", _remove)
    remove.add_argument("name")


def _left_out(parser: argparse.ArgumentParser) -> None:
    words = "leave this of it out: a property, times, curves, ways, ties, staggers, content, length"
    parser.add_argument("--without", action="append", default=[], metavar="PIECE", help=words)


def _target(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path)
    parser.add_argument("what", metavar="WHAT", help=_WHAT)
    parser.add_argument("--layer", action="append", default=[], metavar="NAME")


def _say(troubles: tuple[Trouble, ...]) -> None:
    for trouble in troubles:
        print(trouble.says, file=sys.stderr)


def _list(args: Arguments) -> None:
    found = _listed(args.where or "")
    rows = [
        {
            "name": preset.name,
            "kind": preset.kind,
            "where": where,
            "tags": list(preset.tags),
            "duration": preset.duration,
            "uses": count(preset.name),
        }
        for where, listing, count in found
        for preset in listing.presets
        if args.kind in (None, preset.kind)
    ]
    troubles = tuple(trouble for _, listing, _ in found for trouble in listing.troubles)
    if not args.json:
        _say(troubles)
    plain = {"presets": rows, "troubles": [{"file": t.file, "says": t.says} for t in troubles]}
    print_result(args, plain, [f"{r['name']}: {r['kind']}, {r['duration']:g} ms, {r['where']}" for r in rows])


def _listed(where: str) -> list[tuple[str, Listing, Callable[[str], int]]]:
    """The places that are meant: the presets of each, and how often one is used (linked, where a project is asked)."""
    if where.endswith(".avelt"):
        project = open_project(Path(where))
        known = (carried(project, entry.name) for entry in project.presets)
        presets = tuple(preset for preset in known if preset is not None)
        return [(where, Listing(presets), lambda name: len(uses(project, name)))]
    if where not in ("", *_PLACES):
        presets, troubles = read_file(Path(where))
        return [(where, Listing(presets, troubles), _times_used())]
    shelf = Shelf()
    places: list[tuple[str, Callable[[], Listing]]] = [
        ("mine", shelf.read),
        ("team", lambda: listed(shelf)),
        ("built-in", lambda: Listing(built_in())),
    ]
    count = _times_used()
    return [(place, read(), count) for place, read in places if where in ("", place)]


def _times_used() -> Callable[[str], int]:
    """How often a preset is linked to, in the files of this person that are known."""
    known = used()
    return lambda name: sum(known.get(name, {}).values())


def _show(args: Arguments) -> None:
    preset = find_preset(Shelf(), args.name, args.where or "")
    if args.out is not None:
        from avelt.core.presets.picture import picture_of
        from avelt.paint.preset_picture import webp_of

        write_atomically(args.out, webp_of(picture_of(preset)))
        print(args.out, file=sys.stderr if args.json else sys.stdout)
        if not args.json:
            return
    text = to_json(preset).decode()
    print_result(args, json.loads(text), text.rstrip().split("\n"))


def _what(project: Project, wanted: str) -> Route | Frame | Part:
    """The route, frame or part that is meant; routes have " > " in their names."""
    finders: tuple[Callable[[Project, str], Route | Frame | Part], ...] = (find_frame, find_part)
    if ">" in wanted:
        return find_route(project, wanted)
    first: NotFound | None = None
    for find in (find_route, *finders):
        try:
            return find(project, wanted)
        except NotFound as error:
            first = first or error
    raise NotFound(f"There is no route, frame or part {wanted!r}.", hint=first.hint if first is not None else "")


def _pair(project: Project, route: Route, name: str) -> PairKey:
    """The pair, leaving or entering layer of this name on either side."""
    pairing = pairing_of(project, route)
    left, right = ends(project, route)
    for layer in walk(left.layers):
        if name in (layer.id, layer.name):
            return PairKey(layer.id, pairing.to_of.get(layer.id))
    for layer in walk(right.layers):
        if name in (layer.id, layer.name):
            return PairKey(pairing.from_of.get(layer.id), layer.id)
    found = find_layer(left, name)
    return PairKey(found.id, pairing.to_of.get(found.id))


def _save(args: Arguments) -> None:
    project = open_project(args.file)
    preset = without(_captured(project, _what(project, args.what), args), args.without)
    words = dict.fromkeys(word.strip() for word in args.tag if word.strip())
    preset = from_json(to_json(replace(preset, tags=tuple(words), note=args.note)), args.name)
    print(Shelf().keep(preset))


def _captured(project: Project, what: Route | Frame | Part, args: Arguments) -> Preset:
    if isinstance(what, Part):
        if args.loop:
            pose = next((pose for pose in what.poses for loop in pose.loops if loop.name == args.loop), None)
            if pose is None:
                raise NotFound(f"There is no loop {args.loop!r} in {what.name}.")
            return _loop(as_stage(project, what), pose, args)
        return record.capture_part(project, what.id, args.name)
    if isinstance(what, Frame):
        return _loop(project, what, args)
    kind: Kind | None = args.kind
    pairs = [_pair(project, what, name) for name in args.layer]
    if kind == "transition" or (kind is None and not pairs):
        return record.capture_transition(project, what.id, args.name)
    if kind == "shared" or (kind is None and len(pairs) > 1):
        return record.capture_shared(project, what.id, pairs, args.name)
    if kind == "stagger":
        return record.capture_stagger(project, what.id, _stagger(what, pairs), args.name)
    if kind == "curve":
        curve = timed(project, what.transition, *pairs[0], "").plain if pairs else what.transition.curve
        return record.capture_curve(project, curve, args.name)
    if len(pairs) != 1:
        raise EditError(f"A preset of the kind “{kind}” is taken from one layer: name it by --layer.")
    if kind == "motion path":
        return record.capture_path(project, what.id, pairs[0], args.name)
    made = capture(project, what.id, pairs[0], args.name)
    if kind not in (None, made.kind):
        raise EditError(f"The motion of {args.layer[0]} is of the kind “{made.kind}”, not “{kind}”.")
    missing = left_out(project, what.id, pairs[0])
    if missing:
        print(missing, file=sys.stderr)
    return made


def _loop(project: Project, frame: Frame, args: Arguments) -> Preset:
    names = [loop.name for loop in frame.loops]
    if not names:
        raise NotFound(f"There is no loop in {frame.name}.")
    if args.loop not in names:
        raise NotFound(f"Name the loop by --loop: {', '.join(names)}.")
    loop = frame.loops[names.index(args.loop)]
    return record.capture_loop(project, frame.id, loop.id, args.name)


def _stagger(route: Route, pairs: list[PairKey]) -> str:
    rules = route.transition.staggers
    for rule in rules:
        if set(pairs) <= {key.pair for key in rule.cues}:
            return rule.id
    raise NotFound("There is no stagger of these layers in the route.")


def _put(args: Arguments) -> None:
    if args.out is not None:
        refuse_to_overwrite(args.out)
    project = open_project(args.file)
    preset = find_preset(Shelf(), args.preset, args.where or "")
    what = _what(project, args.what)
    if isinstance(what, Part):
        raise EditError("A preset is put on a route or a frame: open the part for what is inside.")
    if isinstance(what, Route):
        target = Where((what.id,), tuple(_pair(project, what, name) for name in args.layer))
    elif preset.kind == "enter":
        route = route_by_id(project, entrance_id(what.id))
        target = Where((route.id,), tuple(PairKey(None, find_layer(what, name).id) for name in args.layer))
    else:
        target = Where(frame=what.id, layers=tuple(find_layer(what, name).id for name in args.layer))
    direction = direction_of(args.direction) if args.direction else ""
    how = How(not args.as_recorded, args.stretch, args.strength, direction, args.start, args.step, tuple(args.without))
    done = (put_linked if args.linked else put_preset)(project, preset, target, how)
    save_project(done.project, args.out or args.file)
    remember(args.out or args.file, done.project)
    if done.says:
        print(done.says, file=sys.stderr)
    print(f"{preset.name} is on {', '.join(args.layer) or args.what} now")


def _import(args: Arguments) -> None:
    shelf, found = Shelf(), [read_file(path) for path in args.inputs]
    for presets, troubles in found:
        _say(troubles)
        for preset in presets:
            print(shelf.take(preset, cast("Same", args.same))[1])


def _export(args: Arguments) -> None:
    shelf, name = Shelf(), args.out.name.lower()
    presets = [find_preset(shelf, wanted) for wanted in args.names]
    if packs.is_pack(name):
        write_atomically(args.out, packs.pack(presets, args.author, args.licence, args.notes))
    elif name.endswith(".json"):
        data, near = tokens.to_tokens(presets)
        write_atomically(args.out, data)
        for sentence in near:
            print(sentence, file=sys.stderr)
    elif len(presets) > 1:
        raise EditError(f"Several presets go into a {packs.PACK_ENDING} or a {tokens.TOKENS_ENDING}.")
    else:
        write_atomically(args.out, to_json(presets[0]))
    print(args.out)


def _remove(args: Arguments) -> None:
    Shelf().remove(args.name)
    print(f"{args.name} is off the shelf now")
