"""What is done with the mouse on layers: each gesture is an object that turns a travel into an edit. No widget here."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Protocol

import msgspec

from avelt.core.edits import nodes
from avelt.core.edits.arrange import boxes_in_frame, move_layers_by, set_guides
from avelt.core.edits.follows import set_content
from avelt.core.edits.frames import put_frame
from avelt.core.edits.layers import edit_layer, resized
from avelt.core.edits.paints import ends, remove_stop, with_ends, with_stop
from avelt.core.edits.place import pivoted
from avelt.core.edits.structure import duplicate, fit_groups
from avelt.core.geometry import affine, tilt
from avelt.core.geometry.bezier import union
from avelt.core.geometry.flatten import flatten
from avelt.core.geometry.place import local_of, with_matrix
from avelt.core.model.values import Box, Frame, Gradient, Layer, Project
from avelt.core.record import Mutable, Record
from avelt.window.frames.handles import paint_shown
from avelt.window.frames.snapping import Marks, Snapped, snapped, snapped_point

replace = msgspec.structs.replace
Edit = Callable[[Project], Project]
_STEP = 15.0  # degrees that Shift turns by
_HOLD = 0.06  # of the box: a pivot nearer than this to one of nine points is held there
_OFF = 26.0  # widget px off its line at which a gradient's colour is let go


_FREE = Snapped(0, 0)  # not caught by anything


class Keys(Record, frozen=True):
    """The keys that are held."""

    shift: bool = False
    ctrl: bool = False
    alt: bool = False


class Gesture(Protocol):
    """Something begun with a press: its words for undo, and the edit for a travel in px of the frame."""

    label: str
    caught: Snapped

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit: ...


def _shaped(frame: Frame, made: Layer) -> Edit:
    """The edit that gives a layer of the frame another shape, its groups with it."""

    def change(project: Project) -> Project:
        project = edit_layer(put_frame(project, frame), frame.id, made.id, lambda _: made)
        return fit_groups(project, frame.id, [made.id])

    return change


class Move(Mutable):
    """Chosen layers dragged to another place; with Ctrl copies of them."""

    label: str
    frame: Frame
    ids: Sequence[str]
    marks: Marks
    near: float
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        if keys.shift:
            dx, dy = (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)
        self.caught = Snapped(dx, dy)
        if not keys.alt:
            box = union(boxes_in_frame(self.frame, self.ids))
            self.caught = snapped(box, round(dx), round(dy), self.marks, self.near)
            if keys.shift:
                still_x, still_y = dx == 0.0, dy == 0.0
                self.caught = Snapped(0.0 if still_x else self.caught.dx, 0.0 if still_y else self.caught.dy)
        frame_id, ids, by = self.frame.id, self.ids, (self.caught.dx, self.caught.dy)

        def change(project: Project) -> Project:
            project = put_frame(project, self.frame)
            if keys.ctrl:
                return duplicate(project, frame_id, ids, *by)[0]
            return fit_groups(move_layers_by(project, frame_id, ids, *by), frame_id, ids)

        return change


class Resize(Mutable):
    """A layer resized by one of its grips, along its own axes however it is turned."""

    label: str
    frame: Frame
    layer: Layer
    grip: tuple[float, float]
    marks: Marks
    near: float
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        i = flat.index[self.layer.id]
        world = flat.world[i]
        upright = abs(world[1]) < 1e-9 and abs(world[2]) < 1e-9
        if not keys.alt and upright:
            gx, gy = self.grip
            x, y, w, h = (float(v) for v in flat.bounds[i])
            at = (x + w * gx, y + h * gy)
            self.caught = snapped_point(round(at[0] + dx), round(at[1] + dy), self.marks, self.near)
            dx, dy = self.caught.dx - at[0], self.caught.dy - at[1]
        else:
            self.caught = Snapped(dx, dy)
        back = affine.invert([*world[:4], 0.0, 0.0])
        mx, my = (float(v) for v in affine.apply(back, (dx, dy))) if back is not None else (dx, dy)
        if keys.ctrl and keys.shift and 0.5 in self.grip:
            made = self._slanted(mx, my)
        else:
            made = self._sized(mx, my, keys)
        return _shaped(self.frame, made)

    def _sized(self, mx: float, my: float, keys: Keys) -> Layer:
        layer, (gx, gy) = self.layer, self.grip
        left, top, right, bottom = 0.0, 0.0, layer.w, layer.h
        if gx == 0:
            left = min(right - 1, mx)
        elif gx == 1:
            right = max(left + 1, layer.w + mx)
        if gy == 0:
            top = min(bottom - 1, my)
        elif gy == 1:
            bottom = max(top + 1, layer.h + my)
        if keys.ctrl:
            grow_x = -left if gx == 0 else right - layer.w if gx == 1 else 0.0
            grow_y = -top if gy == 0 else bottom - layer.h if gy == 1 else 0.0
            grow_x, grow_y = max(grow_x, (1 - layer.w) / 2), max(grow_y, (1 - layer.h) / 2)
            left, right, top, bottom = -grow_x, layer.w + grow_x, -grow_y, layer.h + grow_y
        if keys.shift and layer.w > 0 and layer.h > 0:
            left, top, right, bottom = self._in_shape(left, top, right, bottom, keys.ctrl)
        made = resized(layer, right - left, bottom - top)
        return with_matrix(made, affine.multiply(local_of(layer), [1.0, 0.0, 0.0, 1.0, left, top]))

    def _in_shape(
        self, left: float, top: float, right: float, bottom: float, middle: bool
    ) -> tuple[float, float, float, float]:
        """The box with the layer's proportions; the side or corner across (or the middle) stays."""
        layer, (gx, gy) = self.layer, self.grip
        along, across = (right - left) / layer.w, (bottom - top) / layer.h
        factor = along if gy == 0.5 else across if gx == 0.5 else max(along, across)
        w, h = layer.w * factor, layer.h * factor
        hold_x = 0.5 if middle or gx == 0.5 else 1.0 - gx
        hold_y = 0.5 if middle or gy == 0.5 else 1.0 - gy
        x, y = layer.w * hold_x - w * hold_x, layer.h * hold_y - h * hold_y
        return x, y, x + w, y + h

    def _slanted(self, mx: float, my: float) -> Layer:
        layer, (gx, gy) = self.layer, self.grip
        if gx == 0.5:  # the upper or lower side slides along
            shear = mx / (layer.h or 1.0) * (-1 if gy == 0 else 1)
            matrix, hold = [1.0, 0.0, shear, 1.0, 0.0, 0.0], (0.0, layer.h if gy == 0 else 0.0)
        else:
            shear = my / (layer.w or 1.0) * (-1 if gx == 0 else 1)
            matrix, hold = [1.0, shear, 0.0, 1.0, 0.0, 0.0], (layer.w if gx == 0 else 0.0, 0.0)
        about = affine.multiply([1, 0, 0, 1, *hold], affine.multiply(matrix, [1, 0, 0, 1, -hold[0], -hold[1]]))
        return with_matrix(layer, affine.multiply(local_of(layer), about))


class Turn(Mutable):
    """A layer turned about its pivot; once round goes on to 360° and beyond."""

    label: str
    frame: Frame
    layer: Layer
    start: tuple[float, float]
    caught: Snapped = _FREE
    _far: float = 0.0
    _last: float = 0.0

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        i = flat.index[self.layer.id]
        px, py = (
            float(v)
            for v in affine.apply(
                flat.world[i], (self.layer.pivot[0] * self.layer.w, self.layer.pivot[1] * self.layer.h)
            )
        )
        first = math.degrees(math.atan2(self.start[1] - py, self.start[0] - px))
        now = math.degrees(math.atan2(self.start[1] + dy - py, self.start[0] + dx - px))
        step = (now - first - self._last + 180.0) % 360.0 - 180.0
        self._far += step
        self._last = now - first
        mirrored = flat.world[i][0] * flat.world[i][3] - flat.world[i][1] * flat.world[i][2] < 0
        turn = self.layer.rotation + (-self._far if mirrored else self._far)
        turn = round(turn / _STEP) * _STEP if keys.shift else round(turn, 1)
        return _shaped(self.frame, replace(self.layer, rotation=turn, any_turn=False))


class Pivot(Mutable):
    """The mark that a layer turns about, dragged; held at the corners, the sides' middles and the middle."""

    label: str
    frame: Frame
    layer: Layer
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        i = flat.index[self.layer.id]
        layer = self.layer
        x, y = affine.apply(flat.world[i], (layer.pivot[0] * layer.w, layer.pivot[1] * layer.h))
        spot = tilt.back_to(flat.world[i], float(x) + dx, float(y) + dy)
        share = layer.pivot if spot is None else (spot[0] / (layer.w or 1.0), spot[1] / (layer.h or 1.0))
        if not keys.alt:
            held = tuple(min((0.0, 0.5, 1.0), key=lambda mark: abs(mark - v)) for v in share)
            if all(abs(a - b) < _HOLD for a, b in zip(held, share, strict=True)):
                share = (held[0], held[1])
        pivot = (round(share[0], 4), round(share[1], 4))
        return lambda project: edit_layer(
            put_frame(project, self.frame), self.frame.id, layer.id, lambda _: pivoted(layer, pivot)
        )


class Corner(Mutable):
    """A box's corner rounded by its handle."""

    label: str
    frame: Frame
    layer: Layer
    corner: int
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        back = affine.invert([*flat.world[flat.index[self.layer.id]][:4], 0.0, 0.0])
        mx, my = (float(v) for v in affine.apply(back, (dx, dy))) if back is not None else (dx, dy)
        sign_x, sign_y = ((1, 1), (-1, 1), (-1, -1), (1, -1))[self.corner]
        radii = list(self.layer.body.radii) if isinstance(self.layer.body, Box) else [0.0] * 4
        most = min(self.layer.w, self.layer.h) / 2
        radius = round(min(most, max(0.0, radii[self.corner] + (mx * sign_x + my * sign_y) / 2)), 1)
        radii = [radius if k == self.corner or not keys.alt else radii[k] for k in range(4)]
        body = Box((radii[0], radii[1], radii[2], radii[3]))
        return lambda project: edit_layer(
            put_frame(project, self.frame), self.frame.id, self.layer.id, lambda layer: replace(layer, body=body)
        )


def put_paint(layer: Layer, which: str, paint: Gradient) -> Layer:
    """The layer with another gradient as its topmost fill or its stroke."""
    if which == "fill":
        return replace(layer, fills=(*layer.fills[:-1], paint))
    return replace(layer, stroke=replace(layer.stroke, paint=paint)) if layer.stroke is not None else layer


class GradientEnd(Mutable):
    """One end of a gradient's line, or one of its colours, dragged."""

    label: str
    frame: Frame
    layer: Layer
    which: str  # fill or stroke
    part: str  # start, end or stop
    stop: int
    start: tuple[float, float]
    scale: float
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        layer = self.layer
        paint = paint_shown(layer, self.which)
        if paint is None:
            return lambda project: project
        spot = tilt.back_to(flat.to_frame(flat.index[layer.id]), self.start[0] + dx, self.start[1] + dy)
        made = paint
        if spot is not None:
            share = (spot[0] / (layer.w or 1.0), spot[1] / (layer.h or 1.0))
            one, two = ends(paint)
            if self.part == "start":
                made = with_ends(paint, share, two, layer.w, layer.h)
            elif self.part == "end":
                made = with_ends(paint, one, share, layer.w, layer.h)
            else:
                made = self._moved_stop(paint, share, one, two)
        return lambda project: edit_layer(
            put_frame(project, self.frame), self.frame.id, layer.id, lambda old: put_paint(layer, self.which, made)
        )

    def _moved_stop(
        self, paint: Gradient, share: tuple[float, float], one: tuple[float, float], two: tuple[float, float]
    ) -> Gradient:
        w, h = self.layer.w or 1.0, self.layer.h or 1.0
        along = ((two[0] - one[0]) * w, (two[1] - one[1]) * h)
        here = ((share[0] - one[0]) * w, (share[1] - one[1]) * h)
        size = math.hypot(*along) or 1.0
        at = (here[0] * along[0] + here[1] * along[1]) / (size * size)
        off = abs(here[0] * along[1] - here[1] * along[0]) / size
        if off * self.scale > _OFF and len(paint.stops) > 2:
            return remove_stop(paint, self.stop)
        return with_stop(paint, self.stop, at=round(at, 4))


class NodeMove(Mutable):
    """A node of a path, or one of its handles, dragged."""

    label: str
    frame: Frame
    layer: Layer
    sub: int
    point: int  # the node, or the handle's place among the points
    is_handle: bool
    start: tuple[float, float]
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        flat = flatten(self.frame)
        world = flat.world[flat.index[self.layer.id]]
        if keys.shift and not self.is_handle:
            dx, dy = (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)
        layer = self.layer
        if self.is_handle:
            spot = tilt.back_to(world, self.start[0] + dx, self.start[1] + dy) or (0.0, 0.0)
            points, closed = nodes.outline_of(layer)[self.sub]
            anchor = self.point - 1 if self.point % 3 == 1 else self.point + 1
            mirror = not keys.alt and nodes.is_smooth(points, anchor % (len(points) - 1) if closed else anchor, closed)
            made = nodes.move_handle(layer, self.sub, self.point, spot[0], spot[1], mirror)
        else:
            back = affine.invert([*world[:4], 0.0, 0.0])
            mx, my = (float(v) for v in affine.apply(back, (dx, dy))) if back is not None else (dx, dy)
            made = nodes.move_node(layer, self.sub, self.point, mx, my)
        return _shaped(self.frame, made)


class ContentMove(Mutable):
    """The edge of all that a frame holds dragged: beyond what is seen of it the frame scrolls."""

    label: str
    frame: Frame
    way: str  # "down" or "right"
    near: float
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        frame = self.frame
        w, h = max(frame.content[0], frame.w), max(frame.content[1], frame.h)
        if self.way == "down":
            h = round(h + dy)
            h = frame.h if h < frame.h + self.near else h
        else:
            w = round(w + dx)
            w = frame.w if w < frame.w + self.near else w
        return lambda project: set_content(put_frame(project, frame), frame.id, w, h)


class GuideMove(Mutable):
    """A guide dragged; beyond its frame it is gone. ``old`` is None for a new one."""

    label: str
    frame: Frame
    axis: str
    old: float | None
    start: float
    marks: Marks
    near: float
    caught: Snapped = _FREE

    def edit(self, dx: float, dy: float, keys: Keys) -> Edit:
        at = self.start + (dx if self.axis == "x" else dy)
        if not keys.alt:
            spot = snapped_point(at, at, self.marks, self.near)
            at = spot.dx if self.axis == "x" else spot.dy
        most = self.frame.w if self.axis == "x" else self.frame.h
        places = list(self.frame.guides_x if self.axis == "x" else self.frame.guides_y)
        if self.old is not None and self.old in places:
            places.remove(self.old)
        if 0.0 <= at <= most:
            places.append(round(at))
        return lambda project: set_guides(put_frame(project, self.frame), self.frame.id, self.axis, places)
