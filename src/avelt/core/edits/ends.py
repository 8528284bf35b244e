"""Values of the cue sheet typed: a property where it leaves or arrives, changed in the frame's own layer."""

from __future__ import annotations

import re

import msgspec
import numpy as np

from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import as_away, set_absent
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_of_layer, layer_index, route_by_id
from avelt.core.model.motion import Away, CueKey
from avelt.core.model.values import Frame, Layer, Project
from avelt.core.timing.over import ends

replace = msgspec.structs.replace
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)")
#: Property -> the layer's values that its numbers are, and by what the number shown is divided.
_NAMES: dict[str, tuple[tuple[str, ...], float]] = {
    "size": (("w", "h"), 1.0),
    "rotation": (("rotation",), 1.0),
    "rotation_xy": (("rotation_x", "rotation_y"), 1.0),
    "scale": (("scale_x", "scale_y"), 100.0),
    "skew": (("skew",), 1.0),
    "opacity": (("opacity",), 100.0),
    "stroke": (("stroke_width",), 1.0),
    "blur": (("blur",), 1.0),
}
_WORDS = {"fill": "fill", "corner": "corner", "trim": "trim", "type": "type"}


def set_end(project: Project, route_id: str, cue: CueKey, side: int, text: str) -> tuple[Project, str]:
    """A property's value where it leaves (``side`` 0) or arrives (1), as typed; gives what was changed, in words.

    Where the layer is absent, its way to leave or enter changes. ``EditError`` for what cannot be typed here.
    """
    left, right = ends(project, route_by_id(project, route_id))
    ident, prop = cue[side], cue.prop
    if ident is None:
        return _absent(project, route_id, cue, text)
    frame = (left, right)[side]
    layer = layer_index(frame).get(ident)
    home = frame_of_layer(project, ident)
    if layer is None or home is None:
        raise EditError("This layer is made by the route; change the frame that is shown over.")
    if prop == "position":
        project = _place(project, home, frame, layer, text)
    elif prop in _WORDS:
        project = set_value(project, home.id, ident, _WORDS[prop], text.strip())
    elif prop in _NAMES:
        names, factor = _NAMES[prop]
        for name, value in zip(names, _numbers(text, len(names)), strict=True):
            project = set_value(project, home.id, ident, name, value / factor)
    else:
        raise EditError(f"The {prop} is changed in Frames.")
    return project, f"Changed in {home.name}: the {prop} of {layer.name}."


def _numbers(text: str, count: int) -> list[float]:
    found = [float(word) for word in _NUMBER.findall(text.replace("−", "-"))]
    if len(found) == 1 and count == 2:
        found *= 2
    if len(found) != count:
        raise EditError(f"“{text.strip()[:40]}” should be {count} number{'s' if count > 1 else ''}.")
    return found


def _place(project: Project, home: Frame, frame: Frame, layer: Layer, text: str) -> Project:
    """The top left as the sheet shows it: in the frame, or for a turned layer in its parent."""
    x, y = _numbers(text, 2)
    flat = flatten(frame)
    i = flat.index[layer.id]
    if layer.rotation:
        dx, dy = x - layer.x, y - layer.y
    else:
        far = np.array([x, y]) - flat.bounds[i][:2]
        up = int(flat.parent[i])
        back = affine.invert(flat.world[up]) if up >= 0 else np.array([1.0, 0, 0, 1.0, 0, 0])
        if back is None:
            raise EditError("The group of this layer has no size: it cannot be placed in it.")
        dx, dy = float(back[0] * far[0] + back[2] * far[1]), float(back[1] * far[0] + back[3] * far[1])
    project = set_value(project, home.id, layer.id, "x", layer.x + dx)
    return set_value(project, home.id, layer.id, "y", layer.y + dy)


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


def _absent(project: Project, route_id: str, cue: CueKey, text: str) -> tuple[Project, str]:
    ident, prop = cue.from_id or cue.to_id or "", cue.prop
    frame = ends(project, route_by_id(project, route_id))[0 if cue.from_id else 1]
    layer = layer_index(frame)[ident]
    pose = away_now(project, route_id, cue)
    words = f"Changed on this route: how {layer.name} {'goes' if cue.from_id else 'comes'}."
    if prop == "position":
        x, y = _numbers(text, 2)
        bounds = flatten(frame).bounds[flatten(frame).index[ident]]
        at = (layer.x, layer.y) if layer.rotation else (float(bounds[0]), float(bounds[1]))
        return set_shift(project, route_id, cue, x - at[0], y - at[1]), words
    if prop == "opacity":
        share = _numbers(text, 1)[0] / 100.0
        pose = replace(pose, opacity=min(1.0, max(0.0, share / (layer.opacity or 1.0))))
    elif prop == "scale":
        x, y = (value / 100.0 for value in _numbers(text, 2))
        pose = replace(pose, scale_x=x / (layer.scale_x or 1.0), scale_y=y / (layer.scale_y or 1.0))
    elif prop == "rotation":
        pose = replace(pose, rotation=_numbers(text, 1)[0] - layer.rotation)
    elif prop == "blur":
        pose = replace(pose, blur=max(0.0, _numbers(text, 1)[0] - layer.blur))
    else:
        raise EditError(f"{layer.name} is not in that frame: how it goes and comes is set in Pairs.")
    return set_absent(project, route_id, ident, pose), words
