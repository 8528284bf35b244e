"""A project as data for the page's player: stages (the project, and its parts), their states and edges, and programs as
drawings whose properties move by clocks of their own.

A state is a frame with what lies beneath it; an edge is a route taken there, with the program that moves it.
"""

from __future__ import annotations

import math
from copy import copy
from typing import Any

import msgspec

from avelt.core.arrays import np
from avelt.core.curves.named import plain as plain_curve
from avelt.core.curves.text import css
from avelt.core.errors import FormatError
from avelt.core.geometry.meeting import line_of, near
from avelt.core.geometry.used import as_used
from avelt.core.handoff import order
from avelt.core.handoff.courses import Signal, Stage
from avelt.core.handoff.css_text import plain
from avelt.core.handoff.draft import Draft, Here
from avelt.core.handoff.drawn import Maker
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.markup import xml
from avelt.core.handoff.nodes import LINE, LeftOut, Moved, Node, Run
from avelt.core.handoff.page_packing import channel_columns, folded, layer_columns
from avelt.core.handoff.page_rules import (
    ast,
    chance_row,
    follow_row,
    frame_row,
    loop_row,
    part_key,
    phase_row,
    route_row,
)
from avelt.core.model.curves import PlainCurve
from avelt.core.model.find import entrance_route, frame_by_id, walk
from avelt.core.model.parts import as_stage
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import STAYS, GoBack, PutAway, ReplaceOver, ShowOver
from avelt.core.model.values import Frame, Layer, Loop, Project, Route, Use
from avelt.core.running.orders import Orders
from avelt.core.running.splitting import origin_of, stand_in
from avelt.core.timing.clocks import Clocks
from avelt.core.timing.compile import compile_between, compile_route, compile_still
from avelt.core.timing.followers import is_follow
from avelt.core.timing.over import at_arrival, how_shown, overlaid, place_of
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of
from avelt.core.timing.scrolling import layers_that_go
from avelt.core.timing.slots import SlotContents
from avelt.core.words import tr

Json = dict[str, Any]
_MOST_STATES = 400
_MULTIPLIED = ("scale", "opacity")


class Packed:
    """What all stages of a page share: texts and curves are there once."""

    def __init__(self, letters: Letters, words: str = "outlines") -> None:
        self.letters, self.words = letters, words
        self.curves: dict[str, int] = {}
        self.programs: list[Json] = []
        self.known: dict[int, tuple[Program, int]] = {}
        self.set: dict[tuple[str, int, bool], set[str]] = {}
        self.left_out: list[LeftOut] = []
        self.conditions: dict[str, Any] = {}
        self.prefix = ""
        self._lines: dict[str, int] = {}
        self._layers: dict[tuple[object, ...], int] = {}
        self._channels: dict[str, int] = {}
        self._numbers: dict[bytes, int] = {}

    @property
    def lines(self) -> list[str]:
        """Every line of markup, once."""
        return list(self._lines)

    @property
    def channels(self) -> list[Any]:
        """Every channel, once."""
        return [msgspec.json.decode(text) for text in self._channels]

    @property
    def layers(self) -> list[Any]:
        """Every layer, once: [id, origin, name, the condition that it is seen by]."""
        return [list(row) for row in self._layers]

    def layer(self, layer: Layer) -> int:
        """The number of a layer."""
        line = line_of(layer)
        points = tuple(subpath.points for subpath in line.subpaths) if line is not None else ()
        met = (layer.w, layer.h, near(layer), points) if points else ()
        row = (layer.id, layer.origin, layer.name, layer.only_if, met)
        return self._layers.setdefault(row, len(self._layers))

    def line(self, text: str) -> int:
        """The number of a line of markup."""
        return self._lines.setdefault(text, len(self._lines))

    def channel(self, channel: list[Any]) -> int:
        """The number of a channel."""
        return self._channels.setdefault(msgspec.json.encode(channel).decode(), len(self._channels))

    def curve(self, curve: PlainCurve) -> int:
        """The number of a curve."""
        return self.curves.setdefault(css(curve), len(self.curves))

    def program(self, program: Program, project: Project, curve: PlainCurve = LINE) -> int:
        """The number of a program; ``curve`` is what its layers move by that have no cue of their own."""
        found = self.known.get(id(program))
        if found is None:
            # Two that are alike are one: most of what is quiet is as it was.
            made = _Packer(self, program, curve).packed()
            number = self._numbers.setdefault(msgspec.json.encode(made), len(self.programs))
            found = self.known[id(program)] = program, number
            if number == len(self.programs):
                self.programs.append(made)
        return found[1]

    def lacks(self, layer: str, what: str, why: str) -> None:
        """Say that something is not in it, once."""
        entry = LeftOut(layer, what, why)
        if entry not in self.left_out:
            self.left_out.append(entry)


class _PageHere(Here):
    """Signals as channels: what cues do, and what each loop adds by its own clock."""

    def __init__(self, draft: Draft, program: Program) -> None:
        still = copy(program)
        still.tracks = tuple(track for track in program.tracks if track not in program.loops)
        still.loops = ()
        super().__init__(draft, Stage(still))
        self.whole = program
        self.channels: list[tuple[Node, Signal, str, Moved | None, list[tuple[Loop, int, Moved, str]]]] = []
        # 0: as it is, 1: it dies down as the frame is left, 2: it comes as the frame is arrived at.
        self._loops = [
            (
                track.loop,
                1 if track.fades else 2 if is_follow(track.loop) and not program.clocks.stands else 0,
                Stage(_only(program, track)),
            )
            for track in program.loops
        ]
        # What is ever so is so by a loop, too.
        looks = [self.stage.looks, *(stage.looks for _, _, stage in self._loops)]
        self.stage.__dict__["looks"] = np.concatenate(looks)

    def put(self, node: Node, signal: Signal, rest: str | None = None) -> None:
        base = self.stage.moved(signal)
        extra = [
            (loop, fades, moved, stage.at_rest(signal, 2))
            for loop, fades, stage in self._loops
            if (moved := stage.moved(signal)) is not None
        ]
        first = self.stage.at_rest(signal, 1)
        twice = self.stage.at_rest(signal, 2)  # as one of several is written, to be blended
        if base is None and not extra:
            if first != rest:
                node.style[signal.prop] = twice
            return
        node.style[signal.prop] = twice
        self.channels.append((node, signal, twice, base, extra))


def _only(program: Program, track: Any) -> Program:
    """A program in which one loop moves, from the layers as its own frame has them."""
    made = copy(program)
    for name in list(made.__dict__):
        if name in (
            "touched",
            "moving",
            "end",
            "still",
            "changed_before",
            "carries",
            "_moving_colours",
            "_base_colours",
        ):
            made.__dict__.pop(name)
    # How it dies down, by what clock it goes, and how long it waits by chance is the page's.
    loop, curve = msgspec.structs.replace(track.loop, origin="alone", jitter=0.0), copy(track.curve)
    curve.loop = loop
    alone = msgspec.structs.replace(track, fades=False, loop=loop, curve=curve)
    made.tracks, made.loops = (alone,), (alone,)
    made.start = program.start if track.fades or program.clocks.stands else program.end
    begins = tuple(0.0 if origin == track.loop.origin else math.inf for origin in program.clocks.origins)
    made.clocks = Clocks(program.clocks.origins, begins, True)
    return made


class _Packer(Maker):
    """One program as markup and channels."""

    def __init__(self, packed: Packed, program: Program, curve: PlainCurve) -> None:
        draft = Draft(packed.letters, packed.prefix, packed.words, blends_oklab=True)
        self.page_here = _PageHere(draft, program)
        super().__init__(self.page_here)
        self.packed_in, self.curve = packed, curve
        self.layers: list[list[int]] = []
        self.nodes: list[Node] = []
        self.use_nodes: list[tuple[Node, str]] = []
        self._slot_nodes: dict[int, list[int]] = {}

    def node(self, s: int) -> Node:
        part = self.program.contents[s]
        number = len(self.layers)
        leaf = not order.placed(self.program, s)
        self.layers.append([])
        self.nodes.append(Node("g"))
        self._slot_nodes.setdefault(s, []).append(number)
        made = super().node(s)
        made.name = ""
        self.nodes[number] = made
        w, h = COLUMN["w"], COLUMN["h"]
        self.here.put(made, Signal("--box", s, ("w", "h"), (), lambda row, _: row[:, [w, h]], plain))
        if part.layer.only_if:
            self.packed_in.conditions[part.layer.only_if] = ast(part.layer.only_if)
        up = int(self.program.parent[s])
        sides = [part.left, part.right]
        goes = self._goes(part)
        self.layers[number] = [
            *(self.packed_in.layer(side) if side is not None else -1 for side in sides),
            self._slot_nodes.get(up, [-1])[-1] if up >= 0 else -1,
            int(leaf) + 2 * goes,
        ]
        return made

    def _goes(self, part: SlotContents) -> int:
        """Whether it goes as the frame left (1) or arrived at (2) is scrolled."""
        left = part.left is not None and part.left.id in layers_that_go(self.program.left)
        right = part.right is not None and part.right.id in layers_that_go(self.program.right)
        return int(left) + 2 * int(right)

    def _one(self, s: int, part: SlotContents, layer: Layer, where: int) -> list[Node]:
        if stand_in(layer) is None:
            return super()._one(s, part, layer, where)
        node = Node("g", style={"--use": "1"})
        self.use_nodes.append((node, layer.origin))
        return [node]

    def _use(self, s: int, use: Any, layer: Layer) -> list[Node]:
        scene = use.rest
        w, h = scene.size
        node = Node("g", style={"--use": "1"})
        self.use_nodes.append((node, layer.origin))

        def of(row: Any, _: Any) -> Any:
            from avelt.core.timing.items import scale_inside

            return np.array([scale_inside(scene, r[COLUMN["w"]], r[COLUMN["h"]], layer) for r in row])

        if not (isinstance(layer.body, Use) and layer.body.fit == "keep"):
            self.here.put(node, Signal("scale", s, ("w", "h"), (), of, plain, max(w, h, 1.0)), "1 1")
        return [node]

    def packed(self) -> Json:
        """The program as data."""
        layers = self.children(-1)
        ground, _, most = self.frame(None)
        here, draft = self.page_here, self.here.draft
        for key, used in draft.set.items():
            self.packed_in.set.setdefault(key, set()).update(used)
        for entry in draft.left_out:
            self.packed_in.lacks(entry.layer, entry.what, entry.why)
        tops = [Node("g", style={"isolation": "isolate"}, children=layers)] if self.program.left.isolates else layers
        defs = [Node("defs", children=list(draft.defs))] if draft.defs else []
        whole = [*defs, ground, *tops]
        places = {id(node): k for k, node in enumerate(node for top in whole for node in top.walk())}
        lines = [line for top in whole for line in xml(top, _asset, loose=True).split("\n")]
        packed = self.packed_in
        channels: list[tuple[int, int]] = []

        def place(node: Node) -> int:
            while node.became is not None:
                node = node.became
            return places.get(id(node), -1)

        for node, signal, first, base, extra in here.channels:
            if place(node) < 0:  # the frame's own size is the page's
                continue
            adds = [
                [loop.origin, weight, self._runs(moved), rest, *chance_row(loop)] for loop, weight, moved, rest in extra
            ]
            by = int(signal.prop in _MULTIPLIED)
            channels.append((place(node), packed.channel([signal.prop, first, self._runs(base), adds, by])))
        for node in [n for top in whole for n in top.walk()]:
            for moved in node.moved:  # put on nodes as they are: what is there when, and what flips
                first = node.style.get(moved.prop, "")
                channels.append((places[id(node)], packed.channel([moved.prop, first, self._runs(moved), [], 0])))
        return {
            "d": self.program.duration,
            "cv": packed.curve(self.curve),
            "w": most[0],
            "h": most[1],
            "m": [packed.line(line) for line in lines],
            "c": channel_columns(channels),
            "l": layer_columns([(place(node), *row) for node, row in zip(self.nodes, self.layers, strict=True)]),
            "u": [[place(node), origin] for node, origin in self.use_nodes if place(node) >= 0],
        }

    def _runs(self, moved: Moved | None) -> list[Any]:
        return [self._run(run) for run in moved.runs] if moved is not None else []

    def _run(self, run: Run) -> list[Any]:
        keys = [[round(key.at, 7), key.text, self.packed_in.curve(key.curve)] for key in run.keys]
        return [
            round(run.delay, 4),
            round(run.duration, 4),
            0 if math.isinf(run.iterations) else run.iterations,
            folded(keys),
        ]


def _asset(ident: str) -> str:
    return f"asset:{ident}"


# Stages


def stage_of(packed: Packed, project: Project, name: str) -> Json:
    """A project, or a part as one: states, routes, inputs."""
    orders = Orders(project) if any(track.phases for track in project.tracks) else None
    whole, project = project, orders.project if orders is not None else project
    states: list[Json] = []
    places: dict[tuple[str, tuple[str, ...]], int] = {}
    pictures: list[tuple[Frame, Frame, tuple[tuple[Frame, Frame], ...]]] = []

    def state(frame: Frame, picture: Frame, beneath: tuple[tuple[Frame, Frame], ...]) -> int:
        key = frame.id, tuple(under.id for under, _ in beneath)
        if key not in places:
            if len(states) >= _MOST_STATES:
                raise FormatError(tr("Frames are shown over each other in too many ways for a page."))
            places[key] = len(states)
            states.append({})
            pictures.append((frame, picture, beneath))
        return places[key]

    first = frame_by_id(project, project.first or project.frames[0].id)
    state(first, at_arrival(first), ())
    led = orders is not None and orders.main is not None
    reached = {route.arrives for route in project.routes if not isinstance(route.action, ShowOver | ReplaceOver)}
    for frame in project.frames:
        if led or frame.id in reached:
            state(frame, at_arrival(frame), ())
    at = 0
    while at < len(pictures):
        frame, picture, beneath = pictures[at]
        edges: Json = {}
        for route in project.routes:
            if route.leaves == frame.id and not isinstance(route.action, STAYS):
                edges[route.id] = _edges(packed, project, route, picture, beneath, state)
        own: Json = {
            "frame": frame.id,
            "beneath": [places[under.id, tuple(b.id for b, _ in beneath[:k])] for k, (under, _) in enumerate(beneath)],
            "still": packed.program(compile_still(picture, project), project),
            "edges": edges,
            "loops": [loop_row(loop) for loop in picture.loops],
            "follows": [follow_row(follow) for follow in picture.follows if not follow.muted],
        }
        if beneath:
            how = how_shown(project, frame.id, beneath[-1][0].id)
            under = beneath[-1][1]
            own["box"] = [*place_of((under.w, under.h), (frame.w, frame.h), how), frame.w, frame.h]
            own["closes"] = how.outside_closes
        if frame.entrance is not None and not beneath:
            route = entrance_route(frame)
            program = compile_route(project, route)
            length = max(program.duration, end_of(route.transition, project))
            full = packed.program(compile_still(frame, project), project)
            own["entrance"] = [packed.program(program, project), length, frame.entrance.when, full]
        states[at] = own
        at += 1
    return {
        "name": name,
        "first": 0,
        "states": states,
        "frames": {f.id: frame_row(whole, f) for f in whole.frames},
        "routes": [route_row(route) for route in project.routes],
        "inputs": [[e.id, e.name, e.kind, e.start] for e in project.inputs],
        "orders": _orders(packed, orders) if orders is not None else None,
    }


def _orders(packed: Packed, orders: Orders) -> Json:
    """The running orders of a stage, with a program for each place of each phase."""
    tracks = []
    for track in orders.tracks:
        phases = []
        for phase in track.phases:
            row = phase_row(orders, track, phase, packed.curve)
            programs = [orders.program(track.id, phase, place) for place in orders.places(track.id)]
            row["programs"] = [packed.program(program, orders.project) for program in programs]
            row["ms"] = [program.duration for program in programs]
            phases.append(row)
        places = [origin_of(track.id, place) for place in orders.places(track.id)]
        tracks.append({"id": track.id, "name": track.name, "places": places, "phases": phases})
    return {"main": orders.main.id if orders.main is not None else "", "tracks": tracks}


def _edges(packed: Packed, project: Project, route: Route, picture: Frame, beneath: Any, known: Any) -> list[list[Any]]:
    """Where a route leads from a state: [frame arrived at, program, ms, state]."""
    targets = [frame_by_id(project, route.arrives)]
    if isinstance(route.action, GoBack):
        before = [r.leaves for r in project.routes if r.arrives == route.leaves and r.leaves != route.arrives]
        targets += [frame_by_id(project, ident) for ident in dict.fromkeys(before)]
    made = []
    for target in targets:
        shown, under = _picture_after(project, route, target, picture, beneath)
        program = compile_between(project, picture, shown, route.transition)
        length = max(program.duration, end_of(route.transition, project))
        curve = plain_curve(project, route.transition.curve)
        made.append([target.id, packed.program(program, project, curve), length, known(target, shown, under)])
    return made


def _picture_after(
    project: Project, route: Route, target: Frame, picture: Frame, beneath: tuple[tuple[Frame, Frame], ...]
) -> tuple[Frame, tuple[tuple[Frame, Frame], ...]]:
    """What is on screen after a route, and what lies beneath it (as ``running.work`` has it)."""
    action, here = route.action, frame_by_id(project, route.leaves)
    if isinstance(action, ShowOver):
        return overlaid(picture, target, action), (*beneath, (here, picture))
    if isinstance(action, ReplaceOver) and beneath:
        under, below = beneath[-1]
        return overlaid(below, target, how_shown(project, here.id, under.id)), beneath
    if isinstance(action, PutAway | GoBack) and beneath and beneath[-1][0] is target:
        return beneath[-1][1], beneath[:-1]
    return at_arrival(target), ()


def parts_of(packed: Packed, project: Project) -> Json:
    """The stages of the parts that are used, by how they are used."""
    made: Json = {}
    todo = [layer for frame in project.frames for layer in walk(frame.layers)]
    while todo:
        layer = todo.pop()
        body = layer.body
        if not isinstance(body, Use):
            continue
        key = part_key(layer)
        part = next((p for p in project.parts if p.id == body.part), None)
        if key in made or part is None:
            continue
        used = as_used(part, body, layer.w, layer.h)
        stage = as_stage(project, used)
        packed.prefix = f"s{len(made) + 1}-"
        made[key] = stage_of(packed, stage, part.name)
        todo += [inner for pose in used.poses for inner in walk(pose.layers)]
    return made
