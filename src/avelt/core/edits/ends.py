"""Values of the cue sheet typed: a property where it leaves or arrives, changed in the frame's own layer."""

from __future__ import annotations

import re

import msgspec

from avelt.core.blending import colour
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import as_away, set_absent
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_of_layer, layer_index, route_by_id
from avelt.core.model.motion import Away, CueKey
from avelt.core.model.properties import KEYED, SCALARS
from avelt.core.model.values import Frame, Layer, Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.words import tr

replace = msgspec.structs.replace
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)")
#: What is typed as numbers in the sheet, and what of it is in per cent there.
_TYPED = ("position", "size", "rotation", "rotation_xy", "scale", "skew", "opacity", "stroke", "blur")
_PER_CENT = ("scale", "opacity")
_WORDS = {"fill": "fill", "corner": "corner", "trim": "trim", "type": "type"}


def set_end(project: Project, route_id: str, cue: CueKey, side: int, text: str) -> tuple[Project, str]:
    """A property's value where it leaves (``side`` 0) or arrives (1), as typed; gives what was changed, in words.

    Where the layer is absent, its way to leave or enter changes. ``EditError`` for what cannot be typed here.
    """
    prop = cue.prop
    if prop in _WORDS and cue[side] is not None:
        home, layer = _home(project, route_id, cue, side)
        project = set_value(project, home.id, layer.id, _WORDS[prop], text.strip())
        return project, _changed(home, layer, prop)
    if prop not in _TYPED:
        raise EditError(tr("The {prop} is changed in Frames.", prop=prop))
    factor = 100.0 if prop in _PER_CENT else 1.0
    count = len(KEYED[prop]) if prop != "blur" else 1
    return put_end(project, route_id, cue, side, tuple(value / factor for value in _numbers(text, count)))


def put_end(project: Project, route_id: str, cue: CueKey, side: int, value: tuple[float, ...]) -> tuple[Project, str]:
    """The same with the numbers as a keyframe has them (``properties.KEYED``)."""
    ident, prop = cue[side], cue.prop
    if ident is None:
        return _absent(project, route_id, cue, value)
    home, layer = _home(project, route_id, cue, side)
    if prop == "position":
        project = _place(project, route_id, cue, side, home, value)
    else:
        for name, number in _settings(prop, value):
            project = set_value(project, home.id, ident, name, number)
    return project, _changed(home, layer, prop)


def _home(project: Project, route_id: str, cue: CueKey, side: int) -> tuple[Frame, Layer]:
    """The frame that a layer is changed in, and the layer."""
    ident = cue[side] or ""
    layer = layer_index(ends(project, route_by_id(project, route_id))[side]).get(ident)
    home = frame_of_layer(project, ident)
    if layer is None or home is None:
        raise EditError(tr("This layer is made by the route; change the frame that is shown over."))
    return home, layer


def _changed(home: Frame, layer: Layer, prop: str) -> str:
    return tr("Changed in {home}: the {prop} of {layer}.", home=home.name, prop=prop, layer=layer.name)


def _settings(prop: str, value: tuple[float, ...]) -> list[tuple[str, object]]:
    """The numbers of a property as values of a layer, by the names of ``layers.SETTERS``."""
    if prop == "fill":
        return [("fill", colour.to_text(value))]
    if prop == "corner":
        return [("corner", ", ".join(f"{number:g}" for number in value))]
    if prop == "trim":
        return [("trim", " ".join(f"{number * 100:g}" for number in value))]
    names = {"type": ("type", "letter_spacing", "line_height")}.get(prop, KEYED.get(prop, ()))
    if prop not in KEYED or prop == "cut":
        raise EditError(tr("The {prop} is changed in Frames.", prop=prop))
    return list(zip(names, value, strict=False))


def _numbers(text: str, count: int) -> list[float]:
    found = [float(word) for word in _NUMBER.findall(text.replace("−", "-"))]
    if len(found) == 1 and count == 2:
        found *= 2
    if len(found) != count:
        raise EditError(
            tr("“{strip}” should be {n} numbers.", "“{strip}” should be {n} number.", count, strip=text.strip()[:40])
        )
    return found


def _place(project: Project, route_id: str, cue: CueKey, side: int, home: Frame, value: tuple[float, ...]) -> Project:
    """The place as the sheet shows it: in the space that the layer moves in."""
    program = compile_route(project, route_by_id(project, route_id))
    slot = program.slot_of(cue.from_id, cue.to_id)
    if slot < 0:
        raise EditError(tr("These two layers are no pair here."))
    there = (program.start if side == 0 else program.end)[slot * len(SCALARS) : slot * len(SCALARS) + 2]
    return move_end(project, route_id, cue, side, program, value[0] - float(there[0]), value[1] - float(there[1]), home)


def move_end(
    project: Project,
    route_id: str,
    cue: CueKey,
    side: int,
    program: Program,
    dx: float,
    dy: float,
    home: Frame | None = None,
) -> Project:
    """A layer moved in its frame, by px of the space that it moves in on the route (that of its group, or the frame
    where it changes its group)."""
    home = home if home is not None else _home(project, route_id, cue, side)[0]
    flat = flatten((program.left, program.right)[side])
    i = flat.index[cue[side] or ""]
    slot = program.merged.slots[program.slot_of(cue.from_id, cue.to_id)]
    up = int(flat.parent[i])
    if slot.lifted and up >= 0:
        back = affine.invert(flat.world[up])
        if back is None:
            raise EditError(tr("The group of this layer has no size: it cannot be placed in it."))
        dx, dy = float(back[0] * dx + back[2] * dy), float(back[1] * dx + back[3] * dy)
    layer = layer_index(home)[flat.layers[i].id]
    project = set_value(project, home.id, layer.id, "x", round(layer.x + dx, 4))
    return set_value(project, home.id, layer.id, "y", round(layer.y + dy, 4))


def away_now(project: Project, route_id: str, cue: CueKey) -> Away:
    """How a layer without a partner is where it is absent."""
    motion = route_by_id(project, route_id).transition
    ident = cue.from_id or cue.to_id
    usual = motion.leave if cue.to_id is None else motion.enter
    return next((entry.pose for entry in motion.absents if entry.layer == ident), usual)


def set_shift(project: Project, route_id: str, cue: CueKey, dx: float, dy: float) -> Project:
    """How far from its place a layer comes from or goes to, px in its parent; it goes beyond no edge any more."""
    ident = cue.from_id or cue.to_id or ""
    pose = replace(away_now(project, route_id, cue), shift_x=dx, shift_y=dy, edge="")
    return set_absent(project, route_id, ident, as_away(pose))


def _absent(project: Project, route_id: str, cue: CueKey, value: tuple[float, ...]) -> tuple[Project, str]:
    """The numbers of a property where the layer is absent, as its way to leave or enter."""
    ident, prop = cue.from_id or cue.to_id or "", cue.prop
    layer = layer_index(ends(project, route_by_id(project, route_id))[0 if cue.from_id else 1])[ident]
    pose = away_now(project, route_id, cue)
    words = tr("Changed on this route: how {layer} {also}.", layer=layer.name, also="goes" if cue.from_id else "comes")
    if prop == "position":
        program = compile_route(project, route_by_id(project, route_id))
        there = (program.start if cue.from_id else program.end).reshape(-1)
        slot = program.slot_of(cue.from_id, cue.to_id)
        x, y = (float(v) for v in there[slot * len(SCALARS) : slot * len(SCALARS) + 2])
        return set_shift(project, route_id, cue, value[0] - x, value[1] - y), words
    if prop == "opacity":
        pose = replace(pose, opacity=min(1.0, max(0.0, value[0] / (layer.opacity or 1.0))))
    elif prop == "scale":
        pose = replace(pose, scale_x=value[0] / (layer.scale_x or 1.0), scale_y=value[1] / (layer.scale_y or 1.0))
    elif prop == "rotation":
        pose = replace(pose, rotation=value[0] - layer.rotation)
    elif prop == "blur":
        pose = replace(pose, blur=max(0.0, value[0] - layer.blur))
    elif prop == "cut":
        pose = replace(pose, cut=(value[0], value[1], value[2], value[3]))
    else:
        raise EditError(tr("{layer} is not in that frame: how it goes and comes is set in Pairs.", layer=layer.name))
    return set_absent(project, route_id, ident, pose), words
