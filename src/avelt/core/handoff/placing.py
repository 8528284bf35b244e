"""Where a layer is: its transform as CSS's own properties, each of which moves by its own cue."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.curves.text import number
from avelt.core.handoff.courses import FINE, Signal
from avelt.core.handoff.css_text import called, degrees, plain, px
from avelt.core.handoff.draft import Here
from avelt.core.handoff.nodes import Node
from avelt.core.model.properties import COLUMN

SVG = "http://www.w3.org/2000/svg"
_ORIGIN = ("pivot_x", "pivot_y", "w", "h")
_AT = {name: COLUMN[name] for name in COLUMN}


def is_tilted(here: Here, s: int) -> bool:
    """Whether a layer is ever turned out of the plane."""
    return here.stage.ever(s, "rotation_x", 0.0) or here.stage.ever(s, "rotation_y", 0.0)


def place(here: Here, s: int, node: Node) -> None:
    """Put a layer's place, turn, scale and skew on its node. (A tilt is put on a node inside, see ``tilt``.)"""
    stage = here.stage
    here.put(node, here.lengths("translate", s, "x", "y"), "0px 0px")
    if is_tilted(here, s):
        return
    skewed = stage.ever(s, "skew", 0.0)
    turned = stage.ever(s, "rotation", 0.0)
    scaled = stage.ever(s, "scale_x", 1.0) or stage.ever(s, "scale_y", 1.0)
    if not (skewed or turned or scaled):
        return
    here.put(node, origin(s))
    if skewed:
        here.put(node, _listed(s))
        return
    if turned:
        at = _AT["rotation"]
        here.put(
            node, Signal("rotate", s, ("rotation",), (), lambda row, _: row[:, [at]], degrees, 1.0, True, "rotate")
        )
    if scaled:
        columns = ("scale_x", "scale_y")
        scales = [_AT[c] for c in columns]
        # How many px a scale of 1 is worth at most: its tolerance is that of the edge farthest away.
        reach = max(1.0, stage.most(s, "w"), stage.most(s, "h"))
        here.put(node, Signal("scale", s, columns, (), lambda row, _: row[:, scales], plain, reach, True, "scale"))


def origin(s: int) -> Signal:
    """Where its pivot is, in its own px."""

    def of(row: Floats, _: Floats) -> Floats:
        return np.stack([row[:, _AT["pivot_x"]] * row[:, _AT["w"]], row[:, _AT["pivot_y"]] * row[:, _AT["h"]]], -1)

    return Signal("transform-origin", s, _ORIGIN, (), of, px(), shared="origin")


def _listed(s: int) -> Signal:
    """Turn, skew and scale as one list of functions, blended one by one."""
    columns = ("rotation", "skew", "scale_x", "scale_y")
    at = [_AT[name] for name in columns]
    words = called("rotate:deg", "skewX:deg", "scale2:")
    return Signal("transform", s, columns, (), lambda row, _: row[:, at], words, FINE)


def tilt(here: Here, s: int, content: list[Node]) -> Node:
    """The content of a layer that turns out of the plane, inside HTML: SVG itself knows no depth."""
    columns = ("rotation_x", "rotation_y", "rotation", "skew", "scale_x", "scale_y")
    at = [_AT[name] for name in columns]
    eye = here.program.colours_end + here.program.frame.loose + 2

    def of(row: Floats, more: Floats) -> Floats:
        return np.concatenate([more, row[:, at]], -1)

    def texts(values: Floats) -> list[str]:
        made = []
        for near, x, y, turn, skew, sx, sy in values.tolist():
            eye_text = f"perspective({number(1.0 / near, 2)}px)" if near > 1e-9 else "perspective(none)"
            made.append(
                f"{eye_text} rotateX({number(x, 3)}deg) rotateY({number(y, 3)}deg) rotate({number(turn, 3)}deg) "
                f"skewX({number(skew, 3)}deg) scale({number(sx, 4)}, {number(sy, 4)})"
            )
        return made

    outer, inner = html_room(content)
    here.put(inner, origin(s))
    here.put(inner, Signal("transform", s, columns, (eye,), of, texts))
    return outer


def html_room(content: list[Node], style: dict[str, str] | None = None) -> tuple[Node, Node]:
    """SVG inside HTML inside SVG: the outermost node, and the HTML one. Nothing is cut off at its edges."""
    # In a file of its own the SVG would be an element of HTML without its namespace, and would not be drawn.
    attrs = {"xmlns": SVG, "width": "1", "height": "1"}
    drawing = Node("svg", attrs=attrs, style={"overflow": "visible", "display": "block"}, children=content)
    box = {"width": "1px", "height": "1px", **(style or {})}
    inner = Node("div", style=box, children=[drawing] if content else [], html=True)
    outer = Node("foreignObject", attrs={"width": "1", "height": "1"}, style={"overflow": "visible"}, children=[inner])
    return outer, inner
