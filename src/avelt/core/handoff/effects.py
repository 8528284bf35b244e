"""What is done to a layer as a whole: blur, shadows, what cuts it off, masks, how it mixes with what is beneath."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.curves.text import number
from avelt.core.handoff.courses import FINE, Of, Signal
from avelt.core.handoff.css_text import px
from avelt.core.handoff.draft import Here
from avelt.core.handoff.nodes import Node
from avelt.core.model.properties import COLUMN
from avelt.core.timing.slots import ShadowSlot, SlotContents
from avelt.core.words import tr

_FAR = 4.0  # how many times its own size a layer may stand out beyond its box on a side that is not cut
_ROOM = "-5000"
_WIDE = "10000"


def opacity(here: Here, s: int, node: Node) -> None:
    """A layer's own opacity."""
    at = COLUMN["opacity"]
    signal = Signal(
        "opacity", s, ("opacity",), (), lambda row, _: row[:, [at]].clip(0, 1), _numbers, FINE, shared="opacity"
    )
    here.put(node, signal, "1")


def _numbers(values: Floats) -> list[str]:
    return [number(v, 4) for v in values[:, 0].tolist()]


def soften(here: Here, s: int, node: Node, part: SlotContents) -> Node:
    """Blur and shadows on a node; gives the node in which the layer itself lies."""
    outer = [shadow for shadow in part.shadows if not shadow.inner]
    inner = [shadow for shadow in part.shadows if shadow.inner]
    blurs = here.stage.ever(s, "blur", 0.0)
    if not (outer or inner or blurs):
        return node
    first = outer[:1] if not inner and len(outer) <= 1 else []
    if first or blurs:
        here.put(node, _filter(here, s, first[0] if first else None, blurs))
    if first or not part.shadows:
        return node
    inside = Node("g")
    node.children.append(inside)
    inside.attrs["filter"] = f"url(#{here.draft.define(_shades(here, s, outer, inner))})"
    return inside


def _filter(here: Here, s: int, shadow: ShadowSlot | None, blurs: bool) -> Signal:
    """One shadow and a blur as CSS filter functions; their lengths are standard deviations."""
    more: list[int] = []
    if shadow is not None:
        convert, texts = here.colour_form(shadow.colour)
        colour = here.program.dense + 4 * shadow.colour
        loose = here.program.colours_end + shadow.loose
        more = [*range(loose, loose + 3), *range(colour, colour + 4)]
    at = COLUMN["blur"]

    def of(row: Floats, rest: Floats) -> Floats:
        soft = np.maximum(row[:, [at]], 0.0)
        if shadow is None:
            return soft
        # Colours weigh as much as px: a hundredth of their way is as much as one px.
        return np.concatenate([soft, rest[:, :2], np.maximum(rest[:, 2:3], 0.0), convert(rest[:, 3:]) * FINE], -1)

    def said(values: Floats) -> list[str]:
        blur = [f"blur({number(v, 3)}px)" if blurs else "" for v in values[:, 0].tolist()]
        if shadow is None:
            return blur
        colours = texts(values[:, 4:] / FINE)
        shades = [
            f"drop-shadow({number(x, 3)}px {number(y, 3)}px {number(soft, 3)}px {colour})"
            for (x, y, soft), colour in zip(values[:, 1:4].tolist(), colours, strict=True)
        ]
        return [f"{shade} {soft}".strip() for shade, soft in zip(shades, blur, strict=True)]

    return Signal("filter", s, ("blur",) if blurs else (), tuple(more), of, said)


def _shades(here: Here, s: int, outer: list[ShadowSlot], inner: list[ShadowSlot]) -> Node:
    """Several shadows, or inner ones, as an SVG filter. Its colours move; lengths stand where they arrive."""
    filter_ = Node(
        "filter",
        attrs={
            "filterUnits": "userSpaceOnUse",
            "x": _ROOM,
            "y": _ROOM,
            "width": _WIDE,
            "height": _WIDE,
            "color-interpolation-filters": "sRGB",
        },
    )
    layers: list[str] = []
    parts = filter_.children
    for k, shadow in enumerate([*reversed(outer), *inner]):
        name = f"s{k}"
        first = here.program.colours_end + shadow.loose
        dx, dy, soft = here.program.end[first : first + 3].tolist()
        if here.program.changes(first, 3):
            here.draft.lacks(
                here.name_of(s), tr("moving shadows"), tr("of several, or inner ones, only the colours move")
            )
        flood = Node("feFlood", attrs={"result": f"{name}c"})
        here.put(flood, here.colour("flood-color", shadow.colour))
        if shadow.inner:
            parts += [
                Node("feOffset", attrs={"in": "SourceAlpha", "dx": number(dx), "dy": number(dy), "result": f"{name}o"}),
                flood,
                Node("feFlood", attrs={"flood-color": "black", "result": f"{name}k"}),
                _composite(f"{name}k", f"{name}o", "out", f"{name}f"),
                Node("feGaussianBlur", attrs={"in": f"{name}f", "stdDeviation": number(soft), "result": f"{name}b"}),
                _composite(f"{name}c", f"{name}b", "in", f"{name}d"),
                _composite(f"{name}d", "SourceAlpha", "in", name),
            ]
        else:
            parts += [
                Node("feGaussianBlur", attrs={"in": "SourceAlpha", "stdDeviation": number(soft), "result": f"{name}b"}),
                Node("feOffset", attrs={"in": f"{name}b", "dx": number(dx), "dy": number(dy), "result": f"{name}o"}),
                flood,
                _composite(f"{name}c", f"{name}o", "in", name),
            ]
        layers.append(name)
    order = [*layers[: len(outer)], "SourceGraphic", *layers[len(outer) :]]
    parts.append(Node("feMerge", children=[Node("feMergeNode", attrs={"in": name}) for name in order]))
    return filter_


def _composite(first: str, second: str, operator: str, result: str) -> Node:
    return Node("feComposite", attrs={"in": first, "in2": second, "operator": operator, "result": result})


# What cuts off


def clip_to_box(here: Here, s: int, node: Node) -> None:
    """Nothing of what lies in the node is seen outside of its box."""
    shape = Node("rect")
    for prop, name in (("width", "w"), ("height", "h")):
        here.put(shape, here.size(prop, s, name))
    node.attrs["clip-path"] = f"url(#{here.draft.define(Node('clipPath', children=[shape]))})"


def is_cut(here: Here, s: int) -> bool:
    """Whether some side of a layer is ever cut off."""
    return any(here.stage.ever(s, f"cut_{side}", 0.0) for side in ("top", "right", "bottom", "left"))


def cut(here: Here, s: int, node: Node, stays_inside: bool) -> None:
    """Sides cut off by shares of the box. Sides that are not cut have no edge: a layer that stays inside of its box
    has nothing beyond it, and is spared the leap."""
    names = ("cut_top", "cut_right", "cut_bottom", "cut_left")
    top, right, bottom, left = (COLUMN[name] for name in names)
    w_at, h_at = COLUMN["w"], COLUMN["h"]
    w, h = here.stage.looked(s, "w", "h").max(0).tolist()
    far = _FAR * (max(w, h) + 100.0)
    never = [not here.stage.ever(s, name, 0.0) for name in names]

    def edges(row: Floats, _: Floats) -> Floats:
        width, height = row[:, w_at], row[:, h_at]
        shares = [row[:, at].clip(0.0, 1.0) for at in (top, right, bottom, left)]
        free = [
            np.full(len(row), no) if stays_inside else (share <= 0.0) for no, share in zip(never, shares, strict=True)
        ]
        x0 = np.where(free[3], -far, shares[3] * width)
        y0 = np.where(free[0], -far, shares[0] * height)
        x1 = np.where(free[1], far, (1.0 - shares[1]) * width)
        y1 = np.where(free[2], far, (1.0 - shares[2]) * height)
        return np.stack([x0, y0, np.maximum(x1 - x0, 0.0), np.maximum(y1 - y0, 0.0)], -1)

    shape = Node("rect")

    def one(k: int) -> Of:
        return lambda row, more: edges(row, more)[:, [k]]

    for k, prop in enumerate(("x", "y", "width", "height")):
        here.put(shape, Signal(prop, s, ("w", "h", *names), (), one(k), px()))
    node.attrs["clip-path"] = f"url(#{here.draft.define(Node('clipPath', children=[shape]))})"


def mask_with(here: Here, s: int, node: Node, content: list[Node], by: str) -> None:
    """Only what a drawing lets through is seen."""
    mask = Node(
        "mask",
        attrs={"maskUnits": "userSpaceOnUse", "x": _ROOM, "y": _ROOM, "width": _WIDE, "height": _WIDE},
        style={"mask-type": by},
        children=content,
    )
    node.attrs["mask"] = f"url(#{here.draft.define(mask)})"


def mix(here: Here, node: Node, part: SlotContents) -> None:
    """How it mixes with what lies beneath."""
    left, right = (side.blend if side is not None else None for side in (part.left, part.right))
    first, last = left or right or "normal", right or left or "normal"
    here.flips(node, "mix-blend-mode", first, last, "normal")


def isolate(node: Node) -> None:
    """What lies in it mixes with nothing outside."""
    node.style["isolation"] = "isolate"


def back_blur(here: Here, s: int, shape: Signal | None) -> Node:
    """What lies beneath, blurred inside the layer's form: HTML's own, as SVG has none."""
    # A browser blurs only what lies beneath the element's own box: the box reaches out as far as the blur does, and the
    # form is cut out of it.
    out = float(np.ceil(3.0 * here.stage.looked(s, "back_blur").max()) + 2.0)
    box = Node("div", html=True, style={"margin": f"-{number(out)}px"})
    for prop, name in (("width", "w"), ("height", "h")):
        here.put(box, here.size(prop, s, name, 2.0 * out))
    at = COLUMN["back_blur"]

    def said(values: Floats) -> list[str]:
        return [f"blur({number(v, 3)}px)" for v in values[:, 0].tolist()]

    here.put(box, Signal("backdrop-filter", s, ("back_blur",), (), lambda row, _: np.maximum(row[:, [at]], 0.0), said))
    if shape is not None:
        here.put(
            box,
            Signal(
                "clip-path",
                shape.slot,
                shape.columns,
                shape.more,
                lambda row, more: shape.of(row, more) + out,
                shape.texts,
                shape.fine,
            ),
        )
    return Node("foreignObject", attrs={"width": "1", "height": "1"}, style={"overflow": "visible"}, children=[box])
