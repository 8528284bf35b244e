"""What the names in steps mean: frames, layers, routes, inputs, loops, curves. Ids can be said, too."""

from __future__ import annotations

from collections.abc import Iterable

from avelt.core.curves.text import parse as parse_curve
from avelt.core.errors import FormatError, NotFound
from avelt.core.model.curves import Curve, Named
from avelt.core.model.find import find_frame, layer_index, phase_route, walk
from avelt.core.model.find import find_route as route_named
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Follow, Frame, Input, Layer, Loop, Project, Route
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends

#: The names of properties in steps, with the property that a cue has.
CUE_OF = {
    "": "",
    "position": "position",
    "size": "size",
    "rotation": "rotation",
    "rotation_x": "rotation_xy",
    "rotation_y": "rotation_xy",
    "scale": "scale",
    "skew": "skew",
    "opacity": "opacity",
    "radii": "corner",
    "fill": "fill",
    "stroke": "stroke",
    "stroke_width": "stroke",
    "trim": "trim",
    "shadow": "shadow",
    "blur": "blur",
    "font_size": "type",
    "letter_spacing": "type",
    "shape": "shape",
}


def nearest(wanted: str, known: Iterable[str]) -> str:
    """A hint with the known name that is nearest, or nothing."""
    from rapidfuzz import process

    near = process.extractOne(wanted, list(known), score_cutoff=60)
    return f"Did you mean {near[0]!r}?" if near else ""


def layer_of(frame: Frame, wanted: str) -> Layer:
    """A layer by id, by name, or by a path of names such as ``List/Card#2`` (the second of that name).

    Of several with one name the lowest is meant.
    """
    index = layer_index(frame)
    if wanted in index:
        return index[wanted]
    found = _named(tuple(walk(frame.layers)), wanted)
    if found is not None:
        return found
    layers: tuple[Layer, ...] = tuple(walk(frame.layers))
    layer = None
    for part in wanted.split("/"):
        layer = _named(layers, part)
        if layer is None:
            names = [entry.name for entry in walk(frame.layers)]
            raise NotFound(f"There is no layer {wanted!r} in {frame.name}.", hint=nearest(part, names))
        layers = tuple(walk(layer.children))
    if layer is None:
        raise NotFound(f"There is no layer {wanted!r} in {frame.name}.")
    return layer


def _named(layers: tuple[Layer, ...], wanted: str) -> Layer | None:
    """The layer of this name among some, the n-th with ``#n`` behind it."""
    name, mark, number = wanted.rpartition("#")
    count = int(number) if mark and number.isdigit() else 1
    exact = [layer for layer in layers if layer.name == wanted]
    if exact:
        return exact[0]
    fitting = [layer for layer in layers if layer.name == (name if mark and number.isdigit() else wanted)]
    return fitting[count - 1] if 1 <= count <= len(fitting) else None


def find_route(project: Project, wanted: str) -> Route:
    """A route by id or ``From > To``; ``phase NAME`` is what moves in a phase."""
    if wanted.startswith("phase "):
        name = wanted.removeprefix("phase ").strip()
        for track in project.tracks:
            for phase in track.phases:
                if name in (phase.name, phase.id) and (made := phase_route(phase)) is not None:
                    return made
        raise NotFound(f"There is no phase {name!r} in which something moves.")
    return route_named(project, wanted)


def input_of(project: Project, wanted: str, signal: bool | None = None) -> Input:
    """An input by name or id; ``signal``: only signals, or none of them."""
    fitting = [e for e in project.inputs if signal is None or (e.kind == "signal") == signal]
    for entry in fitting:
        if wanted in (entry.name, entry.id):
            return entry
    what = "signal" if signal else "input"
    raise NotFound(f"There is no {what} {wanted!r}.", hint=nearest(wanted, [e.name for e in fitting]))


def follow_of(frame: Frame, wanted: str) -> Follow:
    """What follows a value in a frame, by name or id."""
    for entry in frame.follows:
        if wanted in (entry.name, entry.id):
            return entry
    names = [entry.name for entry in frame.follows]
    raise NotFound(f"Nothing called {wanted!r} follows a value in {frame.name}.", hint=nearest(wanted, names))


def loop_of(frame: Frame, wanted: str) -> Loop:
    """A loop of a frame by name or id."""
    for loop in frame.loops:
        if wanted in (loop.name, loop.id):
            return loop
    raise NotFound(
        f"There is no loop {wanted!r} in {frame.name}.", hint=nearest(wanted, [loop.name for loop in frame.loops])
    )


def curve_of(project: Project, wanted: str) -> Curve:
    """A named curve of the project, or a curve as CSS says it."""
    for entry in project.curves:
        if wanted in (entry.name, entry.id) or wanted.casefold() == entry.name.casefold():
            return Named(entry.id)
    return parse_curve(wanted)


def cue_of(project: Project, route: Route, layer: str, prop: str = "") -> CueKey:
    """The cue of a property of a layer that is in either frame of a route, with its partner when it has one."""
    if prop not in CUE_OF:
        raise FormatError(f"There is no property {prop!r} that has a cue.", hint=nearest(prop, CUE_OF))
    left, right = ends(project, route)
    pairing = pairing_of(project, route)
    try:
        ident = layer_of(left, layer).id
        return CueKey(ident, pairing.to_of.get(ident), CUE_OF[prop])
    except NotFound:
        ident = layer_of(right, layer).id
        return CueKey(pairing.from_of.get(ident), ident, CUE_OF[prop])


__all__ = [
    "CUE_OF",
    "cue_of",
    "curve_of",
    "find_frame",
    "find_route",
    "follow_of",
    "input_of",
    "layer_of",
    "loop_of",
    "nearest",
]
