"""Made-up frames for measuring, the same every time."""

from __future__ import annotations

import msgspec
import numpy as np

from avelt.core.curves.named import STARTERS
from avelt.core.model.curves import Handles, Line
from avelt.core.model.triggers import Tap
from avelt.core.model.values import (
    Box,
    Cue,
    Frame,
    Group,
    Layer,
    Oval,
    Project,
    Route,
    Run,
    Shadow,
    Solid,
    Text,
    Transition,
)


def boxes(count: int, seed: int, prefix: str, size: float = 2000.0) -> tuple[Layer, ...]:
    """Boxes with names, places, sizes, radii and colours of their own."""
    dice = np.random.default_rng(seed)
    made = []
    for k in range(count):
        x, y, w, h, r = (float(v) for v in dice.random(5) * (size, size, 200, 200, 0.5))
        color = "#{:02x}{:02x}{:02x}".format(*(int(v) for v in dice.integers(0, 256, 3)))
        layer = Layer(f"{prefix}{k}", f"o{k}", f"Layer {k} of it", Box((8.0, 8.0, 8.0, 8.0)), x, y, w, h)
        own = {
            "fills": (Solid(color),),
            "opacity": float(dice.random()),
            "rotation": float(dice.random() * 90),
            "scale_x": 1 + r,
        }
        made.append(msgspec.structs.replace(layer, **own))
    return tuple(made)


def moving_project(layers: int, curves: int = 8) -> Project:
    """Two frames in which every layer moves in about ten numbers, on a few cues."""
    left, right = boxes(layers, 1, "a"), boxes(layers, 2, "b")
    frames = (Frame("A", "A", 2000, 2000, layers=left), Frame("B", "B", 2000, 2000, layers=right))
    cues = tuple(
        Cue(
            f"a{k}",
            f"b{k}",
            "",
            float(k % curves) * 20,
            300.0 + k % curves,
            Handles(0.1 + 0.05 * (k % curves), 0, 0.2, 1),
        )
        for k in range(layers)
    )
    route = Route("R", "A", "B", Tap(), Transition(400.0, Line(), cues))
    return Project("CurveEditor", frames=frames, routes=(route,), curves=STARTERS, first="A")


def strangers(count: int) -> tuple[Frame, Frame]:
    """Two frames of layers without shared origins: names mostly kept, everything moved a little."""
    dice = np.random.default_rng(3)
    left = boxes(count, 4, "a")
    right = []
    for k in dice.permutation(count).tolist():
        old = left[k]
        name = old.name if dice.random() < 0.8 else f"Renamed {k}"
        dx, dy = (float(v) for v in dice.normal(0, 30, 2))
        right.append(
            Layer(
                f"b{k}",
                f"p{k}",
                name,
                old.body,
                old.x + dx,
                old.y + dy,
                old.w,
                old.h,
                fills=old.fills,
                opacity=old.opacity,
            )
        )
    return Frame("A", "A", 2000, 2000, layers=left), Frame("B", "B", 2000, 2000, layers=tuple(right))


def screen(moving: int, still: int) -> Project:
    """A 360 x 640 screen of boxes and texts of which some move."""
    dice = np.random.default_rng(6)
    left, right = [], []
    for k in range(moving + still):
        x, y = (float(v) for v in dice.random(2) * (300, 600))
        if k % 3 == 2:
            layer = Layer(
                f"a{k}",
                f"o{k}",
                f"T{k}",
                Text((Run(f"Sailing {k}"),), size=15.0),
                x,
                y,
                80,
                18,
                fills=(Solid("#22302f"),),
            )
        else:
            layer = Layer(
                f"a{k}",
                f"o{k}",
                f"B{k}",
                Box((8.0,) * 4),
                x,
                y,
                90,
                60,
                fills=(Solid("#d98e32" if k % 2 else "#0e7c74"),),
            )
        left.append(layer)
        shift = 40.0 if k >= still else 0.0
        right.append(
            Layer(f"b{k}", f"o{k}", layer.name, layer.body, x + shift, y + shift, layer.w, layer.h, fills=layer.fills)
        )
    frames = (Frame("A", "A", layers=tuple(left)), Frame("B", "B", layers=tuple(right)))
    return Project("Screen", frames=frames, routes=(Route("R", "A", "B", Tap(), Transition(300.0, Line())),), first="A")


def with_shadows(project: Project) -> Project:
    """The same with a soft shadow under every box."""

    def cast(layer: Layer) -> Layer:
        shadows = (Shadow("rgb(0 0 0 / 0.3)", 0.0, 4.0, 6.0),) if isinstance(layer.body, Box) else ()
        return msgspec.structs.replace(layer, shadows=shadows)

    frames = tuple(msgspec.structs.replace(f, layers=tuple(cast(x) for x in f.layers)) for f in project.frames)
    return msgspec.structs.replace(project, frames=frames)


def large(layers: int, frames: int = 4, moving: int = 10) -> Project:
    """Frames of so many layers, in cards of ten, of which a few move from frame to frame."""
    made = []
    for f in range(frames):
        cards: list[Layer] = []
        for c in range(max(1, layers // 11)):
            shift = 30.0 * f if c < max(1, moving // 2) else 0.0
            x, y = 4.0 + 180.0 * (c % 2) + shift, 4.0 + 640.0 * c / max(1, layers // 11)
            inner = [_piece(f, c, k, 12.0 * (f if c in range(6, 6 + moving // 2) and k == 3 else 0)) for k in range(10)]
            cards.append(Layer(f"c{f}.{c}", f"oc{c}", f"Card {c}", Group(tuple(inner)), x, y, 170.0, 60.0))
        made.append(Frame(f"F{f}", f"Frame {f}", 360, 640, layers=tuple(cards)))
    routes = tuple(
        Route(f"R{f}", f"F{f}", f"F{f + 1}", Tap(), Transition(400.0, Handles(0.2, 0.0, 0.1, 1.0)))
        for f in range(frames - 1)
    )
    return Project(f"{layers} layers", frames=tuple(made), routes=routes, first="F0")


def _piece(f: int, c: int, k: int, moved: float) -> Layer:
    ident, origin = f"l{f}.{c}.{k}", f"o{c}.{k}"
    x, y = 6.0 + 16.0 * (k % 5) + moved, 6.0 + 24.0 * (k // 5)
    if k % 3 == 2:
        return Layer(
            ident,
            origin,
            f"Label {c} {k}",
            Text((Run(f"Pier {c}"),), size=9.0),
            x,
            y,
            40,
            12,
            fills=(Solid("#22302f"),),
        )
    body = Oval() if k % 3 == 1 else Box((3.0,) * 4)
    tone = "#0e7c74" if k % 2 else "#d98e32"
    return Layer(ident, origin, f"Piece {c} {k}", body, x, y, 14, 18, fills=(Solid(tone),))
