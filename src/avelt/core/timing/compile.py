"""From a route to a program: pair, merge, lay out the numbers, and give each its cue."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np

from avelt.core.blending import colour, reshape, spaces
from avelt.core.blending.paints import Form, couple
from avelt.core.curves.easing import CurveTable
from avelt.core.curves.named import plain
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import Flat, parts_of
from avelt.core.model.curves import Curve, Line, PlainCurve
from avelt.core.model.find import by_identity
from avelt.core.model.motion import Space
from avelt.core.model.properties import COLUMN, KEYED, PROPERTY_OF_COLUMN, SCALARS
from avelt.core.model.values import (
    Box,
    Frame,
    Group,
    Layer,
    Paint,
    Path,
    Pattern,
    Project,
    Route,
    Shadow,
    Text,
    Transition,
)
from avelt.core.pairing.engine import Pairing, pair_frames
from avelt.core.timing import courses, layering
from avelt.core.timing.away import posed
from avelt.core.timing.content import Change, change_of, outline_of
from avelt.core.timing.merge import Merged, Slot, merge
from avelt.core.timing.over import ends
from avelt.core.timing.program import LoopSlot, OutlineSlot, PaintSlot, Part, Program, Scene, ShadowSlot
from avelt.core.timing.schedule import Timed, end_of, length_of, plan_of, timed

_ALL = tuple(dict.fromkeys((*PROPERTY_OF_COLUMN, "fill", "shadow")))
_TRACE = 1e-5  # of opacity: too little to be seen, enough to carry a colour
_ON_WAY = ("x", "y", "w", "h", "pivot_x", "pivot_y", "turn")
_STROKE = ("stroke_width", "trim_start", "trim_end", "trim_offset")
Schedule = Callable[[str | None, str | None, str], Timed]
_pairings: dict[tuple[int, int], tuple[Frame, Frame, object, Pairing]] = {}


def paired(left: Frame, right: Frame, transition: Transition) -> Pairing:
    """The pairing of two frames, kept while neither they nor the decisions change."""
    key = (id(left), id(right))
    kept = _pairings.get(key)
    if kept is not None and kept[0] is left and kept[1] is right and kept[2] == transition.decisions:
        return kept[3]
    made = pair_frames(left, right, transition.decisions)
    if len(_pairings) > 256:
        _pairings.clear()
    _pairings[key] = (left, right, transition.decisions, made)
    return made


def pairing_of(project: Project, route: Route) -> Pairing:
    """The pairing of what a route moves between."""
    return paired(*ends(project, route), route.transition)


def compile_route(project: Project, route: Route) -> Program:
    """The route's transition as a program."""
    left, right = ends(project, route)
    return compile_frames(project, left, right, route.transition)


def _compile_still(frame: Frame) -> Program:
    return compile_frames(None, frame, frame, Transition(length=0.0, curve=Line()))


#: One frame as a program in which nothing moves but its loops, remembered by the frame's identity.
compile_still = by_identity(_compile_still)


def at_rest(scene: Scene) -> Scene:
    """A scene; at an end of a transition in which layers change groups, the frame itself.

    On their way such layers move over (or under) their groups, so that only the frame has them at their exact place.
    """
    program = scene.program
    if scene.looping or not program.lifts or program.left is program.right:
        return scene
    if scene.at <= 0.0:
        return compile_still(program.left).at(0.0)
    return compile_still(program.right).at(0.0) if scene.at >= program.length else scene


def compile_frames(project: Project | None, left: Frame, right: Frame, transition: Transition) -> Program:
    """The motion between two frames as a program."""
    pairing = paired(left, right, transition)
    merged = merge(pairing, layering.lifted(pairing, transition))
    home = project or Project(name="")

    def schedule(from_id: str | None, to_id: str | None, prop: str) -> Timed:
        when = timed(home, transition, from_id, to_id, prop)
        # What is muted jumps at the very end, so that the frame arrived at is whole.
        return replace(when, start=end, end=end, keys=(), way=None) if when.muted else when

    length, end = length_of(transition, project), end_of(transition, project)
    build = _Build(pairing.left.flat, pairing.right.flat, merged, transition, schedule, home)
    for s in range(len(merged.slots)):
        build.add(s)
    return build.finish(left, right, length)


@dataclass
class _Build:
    a: Flat
    b: Flat
    merged: Merged
    transition: Transition
    schedule: Schedule
    project: Project
    dense: list[tuple[list[float], list[float]]] = field(default_factory=list)
    dense_cue: list[list[int]] = field(default_factory=list)
    colours: list[tuple[np.ndarray, np.ndarray, int, Space]] = field(default_factory=list)
    courses: list[courses.Keyed | courses.Followed] = field(default_factory=list)
    colour_count: int = 0
    loose: list[tuple[float, float, int]] = field(default_factory=list)
    parts: list[Part] = field(default_factory=list)
    cues: dict[tuple[float, float, PlainCurve], int] = field(default_factory=dict)

    def __post_init__(self) -> None:
        plan = plan_of(self.project, self.transition)
        self.own_cues = {key[:2] for key in (*plan.cues, *plan.hung)}
        self.inherited: dict[tuple[bool, bool], dict[str, int]] = {}
        self.absents = {entry.layer: entry.pose for entry in self.transition.absents}
        self.settled = {(entry.from_id, entry.to_id): entry for entry in self.transition.settled}

    def add(self, s: int) -> None:
        slot = self.merged.slots[s]
        left = self.a.layers[slot.left] if slot.left >= 0 else None
        right = self.b.layers[slot.right] if slot.right >= 0 else None
        ids = (left.id if left else None, right.id if right else None)
        cue = self.cues_of(ids)
        start, end = self.ends(slot, left, right)
        if ids in self.own_cues:
            self.shortest_ways(ids, start, end)
        settled = self.settled.get((ids[0] or "", ids[1] or ""))
        change: Change = "" if left is None or right is None else change_of(left, right, settled)
        if change:
            end[COLUMN["mix"]] = 1.0
        self.dense.append((start, end))
        cues = [cue[prop] for prop in PROPERTY_OF_COLUMN]
        if change == "swap":
            moment = length_of(self.transition, self.project) * (
                0.5 if settled is None or settled.swap_at is None else settled.swap_at
            )
            cues[COLUMN["mix"]] = self.cue(replace(self.schedule(*ids, "shape"), start=moment, end=moment))
        self.dense_cue.append(cues)
        first, second = left or right, right or left
        assert first is not None and second is not None
        inks = (self.space(ids, "fill"), self.space(ids, "stroke"), self.space(ids, "shadow"))
        fills = self.paints(first.fills, second.fills, cue["fill"], inks[0])
        strokes = self.paints(
            (first.stroke.paint,) if first.stroke else (),
            (second.stroke.paint,) if second.stroke else (),
            cue["stroke"], inks[1],
        )  # fmt: skip
        shadows = self.shadows(first.shadows, second.shadows, cue["shadow"], inks[2])
        outline = self.outline(first, second, change, cue["shape"], cue["size"], settled.shift if settled else 0.0)
        if ids in self.own_cues:
            self.go_by(s, ids, start, end, fills)
        self.parts.append(Part(left, right, fills, strokes, outline, change, shadows))

    def shortest_ways(self, ids: tuple[str | None, str | None], start: list[float], end: list[float]) -> None:
        """Angles that shall not go as typed end less than half a turn from where they begin: the same angle."""
        for prop, names in (("turn", ("turn",)), ("tilt", ("turn_x", "turn_y"))):
            if self.schedule(*ids, prop).shortest:
                for name in names:
                    column = COLUMN[name]
                    end[column] = start[column] + shortest_turn(end[column] - start[column])

    def space(self, ids: tuple[str | None, str | None], prop: str) -> Space:
        return self.schedule(*ids, prop).space if ids in self.own_cues else "oklab"

    def go_by(
        self, s: int, ids: tuple[str | None, str | None], start: list[float], end: list[float],
        fills: tuple[PaintSlot, ...],
    ) -> None:  # fmt: skip
        """What goes over keys or along a way."""
        width = len(SCALARS)

        def plain_of(curve: Curve) -> PlainCurve:
            return plain(self.project, curve)

        ways = []
        for prop, names in KEYED.items():
            when = self.schedule(*ids, prop)
            if when.way is not None and prop == "place":
                columns = np.array([COLUMN[name] for name in _ON_WAY])
                first, last = np.array(start)[columns], np.array(end)[columns]
                ways.append(courses.followed(s * width + columns, first[:6], last[:6], when, plain_of))
            elif when.keys and prop == "fill":
                if fills and fills[-1].kind == "solid":
                    a, b, _, space = self.colours[self.paint_at(fills[-1].colour)]
                    places = len(self.merged.slots) * width + 4 * fills[-1].colour + np.arange(4)
                    values = [spaces.vectors(np.array(key.value), space) for key in when.keys]
                    self.courses.append(courses.keyed(places, a[0], b[0], values, when, plain_of))
            elif when.keys:
                columns = np.array([COLUMN[name] for name in names])
                self.courses.append(courses.keyed(
                    s * width + columns, np.array(start)[columns], np.array(end)[columns],
                    [np.array(key.value, float) for key in when.keys], when, plain_of,
                ))  # fmt: skip
        # Sizes and turns must be known when the place on a way is worked out.
        self.courses += ways

    def paint_at(self, first: int) -> int:
        """The entry of ``colours`` that begins with a colour."""
        count = 0
        for k, entry in enumerate(self.colours):
            if count == first:
                return k
            count += len(entry[0])
        raise AssertionError

    def cues_of(self, ids: tuple[str | None, str | None]) -> dict[str, int]:
        """The number of each property's cue. Most pairs have none of their own and share one answer."""
        if ids not in self.own_cues:
            role = (ids[0] is None, ids[1] is None)
            if role not in self.inherited:
                self.inherited[role] = dict.fromkeys(_ALL, self.cue(self.schedule(*ids, "")))
            return self.inherited[role]
        return {prop: self.cue(self.schedule(*ids, prop)) for prop in _ALL}

    def cue(self, when: Timed) -> int:
        return self.cues.setdefault((when.start, when.end, when.plain), len(self.cues))

    def ends(self, slot: Slot, left: Layer | None, right: Layer | None) -> tuple[list[float], list[float]]:
        start = _row(self.a, slot.left, slot.lifted) if left else None
        end = _row(self.b, slot.right, slot.lifted) if right else None
        if end is None and left is not None and start is not None:
            end = self.away(slot, left, start, self.a, slot.left)
        if start is None and right is not None and end is not None:
            start = self.away(slot, right, end, self.b, slot.right)
        assert start is not None and end is not None
        if left and right and (left.stroke is None) != (right.stroke is None):
            # A stroke that only one side has fades at its own width and as it is cut.
            source = start if left.stroke is not None else end
            for name in _STROKE:
                start[COLUMN[name]] = end[COLUMN[name]] = source[COLUMN[name]]
        if left and right and isinstance(left.body, Text) != isinstance(right.body, Text):
            for name in ("type_size", "tracking", "line_height"):
                column = COLUMN[name]
                source = start if isinstance(left.body, Text) else end
                start[column] = end[column] = source[column]
        return start, end

    def away(self, slot: Slot, layer: Layer, row: list[float], flat: Flat, index: int) -> list[float]:
        """The row of a layer where it is absent. Inside a group that is absent too it stays as it is."""
        inside = slot.parent >= 0 and (
            self.merged.slots[slot.parent].left < 0 or self.merged.slots[slot.parent].right < 0
        )
        up = int(flat.parent[index])
        is_mask = up >= 0 and isinstance(flat.layers[up].body, Group) and _mask_of(flat.layers[up]) == layer.id
        usual = self.transition.leave if slot.right < 0 else self.transition.enter
        pose = self.absents.get(layer.id, None if inside or is_mask else usual)
        return row.copy() if pose is None else posed(row, pose, flat, index, slot.lifted)

    def paints(
        self, left: tuple[Paint, ...], right: tuple[Paint, ...], cue: int, space: Space
    ) -> tuple[PaintSlot, ...]:
        made: list[PaintSlot] = []
        for entry in _coupled(left, right, space):
            first = self.colour_count
            # A colour that fades keeps its hue: blended premultiplied, clear brings nothing of its own.
            self.colours.append((entry.left, entry.right, cue, space))
            self.colour_count += len(entry.left)
            loose = -1
            if entry.tails:
                loose = len(self.loose)
                self.loose += [(x, y, cue) for x, y in entry.tails]
            made.append(PaintSlot(entry.kind, first, len(entry.left), loose, entry.spread, entry.show, entry.pattern))
        return tuple(made)

    def shadows(
        self, left: tuple[Shadow, ...], right: tuple[Shadow, ...], cue: int, space: Space
    ) -> tuple[ShadowSlot, ...]:
        """Shadows in turn, outer ones with outer ones; what one side lacks fades where it is."""
        made: list[ShadowSlot] = []
        for inner in (False, True):
            first = [shadow for shadow in left if shadow.inner is inner]
            second = [shadow for shadow in right if shadow.inner is inner]
            for k in range(max(len(first), len(second))):
                a = first[k] if k < len(first) else _cleared(second[k])
                b = second[k] if k < len(second) else _cleared(first[k])
                made.append(ShadowSlot(self.colour_count, len(self.loose), inner))
                one, two = (np.array([colour.parse(side.color)]) for side in (a, b))
                self.colours.append((*spaces.between(one, two, space), cue, space))
                self.colour_count += 1
                self.loose += [(a.x, b.x, cue), (a.y, b.y, cue), (a.blur, b.blur, cue)]
        return tuple(made)

    def outline(
        self, first: Layer, second: Layer, change: Change, shape_cue: int, size_cue: int, shift: float
    ) -> OutlineSlot | None:
        if change == "reshape":
            one, two = reshape.alike(outline_of(first), outline_of(second), shift)
            return self.outline_slot(one, two, shape_cue)
        if change or not isinstance(first.body, Path) or not isinstance(second.body, Path):
            return None
        unit = shape_cue != size_cue
        a, b = _path_numbers(first, unit), _path_numbers(second, unit)
        begin = len(self.loose)
        self.loose += [(x, y, shape_cue) for x, y in zip(a, b, strict=True)]
        return OutlineSlot(
            begin,
            tuple(len(sub.points) // 2 for sub in second.body.subpaths),
            tuple(sub.closed for sub in second.body.subpaths),
            unit,
        )

    def outline_slot(self, one: reshape.Outline, two: reshape.Outline, cue: int) -> OutlineSlot:
        """Two outlines of one structure, in shares of the box."""
        begin = len(self.loose)
        for (a, _), (b, _) in zip(one, two, strict=True):
            self.loose += [(x, y, cue) for x, y in zip(a.ravel().tolist(), b.ravel().tolist(), strict=True)]
        return OutlineSlot(begin, tuple(len(points) for points, _ in two), tuple(closed for _, closed in two), True)

    def finish(self, left: Frame, right: Frame, length: float) -> Program:
        width = len(SCALARS)
        dense = np.array(self.dense, float).reshape(-1, 2, width)
        cue_dense = np.array(self.dense_cue, dtype=np.intp).reshape(-1, width)
        colour_a = [c[0] for c in self.colours]
        colour_b = [c[1] for c in self.colours]
        colour_cue = [np.full(c[0].size, c[2], dtype=np.intp) for c in self.colours]
        loose = np.array(self.loose, float).reshape(-1, 3)
        empty = np.zeros((0, 4))
        start = np.concatenate([dense[:, 0].ravel(), np.concatenate([empty, *colour_a]).ravel(), loose[:, 0]])
        end = np.concatenate([dense[:, 1].ravel(), np.concatenate([empty, *colour_b]).ravel(), loose[:, 1]])
        cue_of = np.concatenate([
            cue_dense.ravel(), *colour_cue, loose[:, 2].astype(np.intp),
        ])  # fmt: skip
        named = {space: k for k, space in enumerate(spaces.SPACES)}
        in_space = np.concatenate([
            np.zeros(0, np.intp), *(np.full(len(c[0]), named[c[3]], np.intp) for c in self.colours)
        ])  # fmt: skip
        times = np.array([(s, e) for s, e, _ in self.cues] or [(0.0, 0.0)], float)
        curves = CurveTable([curve for _, _, curve in self.cues] or [Line()])
        return Program(
            left=left, right=right, merged=self.merged, parts=tuple(self.parts), start=start, end=end,
            colours=self.colour_count, cue_of=cue_of, cue_times=times, curves=curves, length=length,
            loops=self.loop_slots(left, right), courses=tuple(self.courses), in_space=in_space,
            orders=layering.orders(self.merged, self.a, self.b, self.transition, length),
        )  # fmt: skip

    def loop_slots(self, left: Frame, right: Frame) -> tuple[LoopSlot, ...]:
        of_left = {self.a.layers[slot.left].id: s for s, slot in enumerate(self.merged.slots) if slot.left >= 0}
        of_right = {self.b.layers[slot.right].id: s for s, slot in enumerate(self.merged.slots) if slot.right >= 0}
        found = [LoopSlot(loop, of_left[loop.layer], "from") for loop in left.loops if loop.layer in of_left]
        if left is not right:
            found += [LoopSlot(loop, of_right[loop.layer], "to") for loop in right.loops if loop.layer in of_right]
        return tuple(found)


@dataclass(frozen=True)
class _Coupled:
    """One layer of paint between two stacks as the numbers that are blended."""

    kind: str
    spread: str
    show: str
    left: np.ndarray  # vectors of the space (k, 4)
    right: np.ndarray
    tails: tuple[tuple[float, float], ...]
    pattern: Pattern | None


@lru_cache(maxsize=8192)
def _coupled(left: tuple[Paint, ...], right: tuple[Paint, ...], space: Space) -> tuple[_Coupled, ...]:
    """Two stacks of paint brought to one form, remembered: an edit of a cue changes no paint."""
    made: list[_Coupled] = []
    for entry in couple(left, right):
        tails: tuple[tuple[float, float], ...] = ()
        if entry.left.kind != "solid":
            tails = tuple(zip(_tail(entry.left), _tail(entry.right), strict=True))
        one, two = spaces.between(_tinted(entry.left), _tinted(entry.right), space)
        made.append(_Coupled(entry.left.kind, entry.right.spread, entry.show, one, two, tails, entry.left.pattern))
    return tuple(made)


def _tinted(f: Form) -> np.ndarray:
    """The form's colours; the clear stops of a gradient keep a trace of theirs, as stops between blend into it."""
    if f.kind == "solid":
        return f.colours
    colours = f.colours.copy()
    colours[:, 3] = np.maximum(colours[:, 3], _TRACE)
    return colours


def _cleared(shadow: Shadow) -> Shadow:
    """The same shadow, not to be seen."""
    r, g, b, _ = colour.parse(shadow.color)
    return Shadow(colour.to_text((r, g, b, 0.0)), shadow.x, shadow.y, shadow.blur, shadow.inner)


def _mask_of(layer: Layer) -> str:
    return layer.body.mask if isinstance(layer.body, Group) else ""


def _row(flat: Flat, index: int, lifted: bool) -> list[float]:
    """A layer's dense numbers, in its parent's space or (lifted) in the frame's."""
    layer = flat.layers[index]
    parts = list(parts_of(layer))
    opacity = 0.0 if layer.hidden else layer.opacity
    if lifted:
        world = flat.world[index]
        turn, scale_x, scale_y, skew = affine.decompose(world)
        # The same angle can be said in many turns: keep the one nearest to what was typed along the way up.
        typed = layer.turn
        up = int(flat.parent[index])
        while up >= 0:
            typed += flat.layers[up].turn
            up = int(flat.parent[up])
        turn += 360.0 * round((typed - turn) / 360.0)
        parts[0], parts[1] = affine.place_for(world, layer.w, layer.h, layer.pivot)
        parts[6:10] = [turn, scale_x, scale_y, skew]
        opacity = float(flat.opacity[index])
    body = layer.body
    radii = list(body.radii) if isinstance(body, Box) else [0.0] * 4
    stroke = [layer.stroke.width, layer.stroke.dash_offset] if layer.stroke else [0.0, 0.0]
    text = [body.size, body.tracking, body.line_height] if isinstance(body, Text) else [16.0, 0.0, 1.2]
    trim = (
        [layer.stroke.trim_start, layer.stroke.trim_end, layer.stroke.trim_offset] if layer.stroke else [0.0, 1.0, 0.0]
    )
    return [
        *parts, opacity, *radii, *stroke, *text, layer.turn_x, layer.turn_y, *trim, layer.blur, layer.back_blur, 0.0,
        0.0, 0.0, 0.0, 0.0,
    ]  # fmt: skip


def shortest_turn(by: float) -> float:
    """A turn by degrees as one of at most half a circle: the same angle in the end.

    >>> [shortest_turn(by) for by in (350.0, -190.0, 180.0, 720.0)]
    [-10.0, 170.0, 180.0, 0.0]
    """
    turned = (by + 180.0) % 360.0 - 180.0
    return 180.0 if turned == -180.0 and by > 0 else turned


def _tail(f: Form) -> list[float]:
    return [*f.at.tolist(), *f.matrix, *f.focus]


def _of_path(body: Path) -> np.ndarray:
    return np.array([v for sub in body.subpaths for v in sub.points], float).reshape(-1, 2)


_points = by_identity(_of_path)


def _path_numbers(layer: Layer, unit: bool) -> list[float]:
    numbers = _points(layer.body)
    if unit:
        numbers = numbers / np.array([layer.w or 1.0, layer.h or 1.0])
    flat: list[float] = numbers.ravel().tolist()
    return flat
