"""Filters of SVG and CSS as what a layer has: blur and shadows.

A chain of primitives is worked through with signs instead of pixels: the graphic itself, shades (the graphic's
shape in one colour, moved and blurred), floods of colour, and stacks of these. What comes out at the end is a
blur and shadows where it can be said so; what cannot raises ``FormatError`` with the reason.
Source of the primitives: Filter Effects Module Level 1.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import msgspec
import tinycss2
from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.blending import colour, conversions
from avelt.core.errors import FormatError
from avelt.core.formats.css_shadow import css_shadow
from avelt.core.formats.svg_style import Sheet
from avelt.core.formats.svg_values import length, numbers
from avelt.core.formats.xml_tree import Node
from avelt.core.model.values import Shadow
from avelt.core.record import Mutable, Record
from avelt.core.words import tr

_HARD = 10.0  # an alpha multiplied by this or more is the bare shape
_MOST_PARTS = 64
_DARK = 0.2  # a colour darker than this counts as black where light is added up
Rgb = tuple[float, float, float]


class _Graphic(Record, frozen=True):
    blur: float = 0.0
    alpha: float = 1.0
    x: float = 0.0
    y: float = 0.0


class _Shade(Record, frozen=True):
    """The shape in one colour. ``hole``: all but the shape; ``inner``: all but it, inside the unmoved shape."""

    rgb: Rgb = (0.0, 0.0, 0.0)
    alpha: float = 1.0
    x: float = 0.0
    y: float = 0.0
    blur: float = 0.0
    hole: bool = False
    inner: bool = False


class _Flood(Record, frozen=True):
    rgb: Rgb
    alpha: float


class _Stack(Record, frozen=True):
    """What lies over each other, the lowest first."""

    parts: tuple[_Graphic | _Shade | _Flood, ...] = ()


_Picture = _Graphic | _Shade | _Flood | _Stack
_NOTHING = _Stack()


class Effects(Record, frozen=True):
    """What a filter comes to. ``notes`` say what was not taken over exactly."""

    blur: float = 0.0
    shadows: tuple[Shadow, ...] = ()
    opacity: float = 1.0
    notes: tuple[str, ...] = ()
    #: When only the shape shows, in one colour: that colour, and how far it is shifted.
    tone: str = ""
    shift: tuple[float, float] = (0.0, 0.0)


class _Chain(Mutable):
    """One filter element at work: results by name, and the box for shares of it."""

    node: Node
    sheet: Sheet
    box: tuple[float, float, float, float]
    results: dict[str, _Picture] = msgspec.field(default_factory=dict)
    last: _Picture = msgspec.field(default_factory=_Graphic)
    notes: list[str] = msgspec.field(default_factory=list)

    def wanted(self, node: Node, key: str = "in") -> _Picture:
        name = node.attrs.get(key, "").strip()
        if name == "SourceGraphic":
            return _Graphic()
        if name == "SourceAlpha":
            return _Shade()
        if name in ("BackgroundImage", "BackgroundAlpha", "FillPaint", "StrokePaint"):
            return _NOTHING
        return self.results.get(name, self.last)

    def number(self, node: Node, key: str, default: str = "0", whole: float = 1.0) -> float:
        found = numbers(node.attrs.get(key, default)) or numbers(default)
        return found[0] * (whole if self.shares else 1.0)

    @property
    def shares(self) -> bool:
        return self.node.attrs.get("primitiveUnits") == "objectBoundingBox"

    def flood(self, node: Node) -> _Flood:
        style = self.sheet.declared(node)
        text = style.get("flood-color", "black")
        rgba = colour.parse("black" if text.lower() == "currentcolor" else text)
        alpha = style.get("flood-opacity", "1").strip()
        share = float(alpha[:-1]) / 100 if alpha.endswith("%") else float(alpha)
        return _Flood(rgba[:3], rgba[3] * min(1.0, max(0.0, share)))

    def linear(self, node: Node) -> bool:
        """Whether the primitive reckons in linear light."""
        for holder in (node, self.node):
            value = self.sheet.declared(holder).get("color-interpolation-filters", "")
            if value:
                return value != "sRGB"
        return True


def evaluated(node: Node, sheet: Sheet, box: tuple[float, float, float, float]) -> Effects:
    """A ``filter`` element over a shape's box (x, y, w, h), lengths in the shape's user units."""
    chain = _Chain(node, sheet, box)
    any_part = False
    for part in node.children():
        if part.tag not in _PRIMITIVES:
            if part.tag in ("desc", "title", "metadata", "animate", "set"):
                continue
            raise FormatError(tr("{tag} has no equal here", tag=part.tag))
        any_part = True
        try:
            chain.last = _PRIMITIVES[part.tag](chain, part)
        except ValueError:
            raise FormatError(tr("a number of {tag} cannot be read", tag=part.tag)) from None
        if part.attrs.get("result"):
            chain.results[part.attrs["result"].strip()] = chain.last
    if not any_part:
        return Effects(opacity=0.0)
    return _concluded(chain.last, chain.notes, chain.linear(node))


def _concluded(last: _Picture, notes: list[str], linear: bool) -> Effects:
    parts = _parts(last)
    places = [k for k, part in enumerate(parts) if isinstance(part, _Graphic)]
    if not places and len(parts) == 1 and isinstance(parts[0], _Shade) and not (parts[0].hole or parts[0].inner):
        only = parts[0]
        tone = colour.to_text((*only.rgb, 1.0))
        return Effects(only.blur, (), only.alpha, tuple(notes), tone, (only.x, only.y))
    if not parts:
        return Effects(opacity=0.0)
    if not places:
        raise FormatError(tr("it shows something else than the layer itself"))
    if len(places) > 1:
        notes = [*notes, "the layer is painted over itself by its filter"]
    at = places[-1]
    graphic = parts[at]
    if not isinstance(graphic, _Graphic):
        raise FormatError(tr("it leaves out the layer"))
    if graphic.x or graphic.y:
        raise FormatError(tr("it moves the layer"))
    shadows: list[Shadow] = []
    for k, part in enumerate(parts):
        if isinstance(part, _Graphic):
            continue
        if not isinstance(part, _Shade) or part.hole or (part.inner and k < at) or (not part.inner and k > at):
            raise FormatError(tr("it paints something that is neither a shadow nor the layer"))
        # The layer's blur is laid over its shadows too: they need only what is left.
        own = part.blur if part.inner else math.sqrt(max(0.0, part.blur**2 - graphic.blur**2))
        if part.inner and linear and max(part.rgb) < _DARK:
            # Laid over the layer in linear light, black covers less than it does in sRGB.
            part = replace(part, alpha=1.0 - (1.0 - part.alpha) ** (1 / 2.2))
        if part.alpha > 0:
            shadows.append(Shadow(colour.to_text((*part.rgb, part.alpha)), part.x, part.y, own, part.inner))
    shadows.sort(key=lambda shadow: shadow.inner)
    outer = [shadow for shadow in shadows if not shadow.inner]
    return Effects(graphic.blur, (*reversed(outer), *(s for s in shadows if s.inner)), graphic.alpha, tuple(notes))


def _parts(picture: _Picture) -> tuple[_Graphic | _Shade | _Flood, ...]:
    return picture.parts if isinstance(picture, _Stack) else (picture,)


def _over(low: _Picture, high: _Picture) -> _Picture:
    parts = (*_parts(low), *_parts(high))
    if len(parts) > _MOST_PARTS:
        raise FormatError(tr("it stacks too much"))
    return parts[0] if len(parts) == 1 else _Stack(parts)


def _each(picture: _Picture, change: Callable[[_Graphic | _Shade | _Flood], _Graphic | _Shade | _Flood]) -> _Picture:
    made = tuple(change(part) for part in _parts(picture))
    return made[0] if len(made) == 1 else _Stack(made)


def _blur(chain: _Chain, node: Node) -> _Picture:
    found = numbers(node.attrs.get("stdDeviation", "0")) or [0.0]
    along, across = found[0], found[1] if len(found) > 1 else found[0]
    if chain.shares:
        along, across = along * chain.box[2], across * chain.box[3]
    if along < 0 or across < 0:
        along = across = 0.0
    if abs(along - across) > 0.01 * max(along, across):
        chain.notes.append("a blur that differs along x and y is made even")
    deviation = math.sqrt(along * across) if along and across else max(along, across) / 2
    source = chain.wanted(node)
    whole = any(isinstance(part, _Graphic) for part in _parts(source))

    def soft(part: _Graphic | _Shade | _Flood) -> _Graphic | _Shade | _Flood:
        if isinstance(part, _Flood):
            return part
        if isinstance(part, _Shade) and part.inner and deviation:
            if not whole:
                raise FormatError(tr("it blurs an inner shadow once more"))
            return part  # the layer's blur is laid over its inner shadows anyway
        return replace(part, blur=math.hypot(part.blur, deviation))

    return _each(source, soft)


def _offset(chain: _Chain, node: Node) -> _Picture:
    dx, dy = chain.number(node, "dx", whole=chain.box[2]), chain.number(node, "dy", whole=chain.box[3])

    def moved(part: _Graphic | _Shade | _Flood) -> _Graphic | _Shade | _Flood:
        if isinstance(part, _Flood) or not (dx or dy):
            return part
        if isinstance(part, _Shade) and part.inner:
            raise FormatError(tr("it moves an inner shadow"))
        return replace(part, x=part.x + dx, y=part.y + dy)

    return _each(chain.wanted(node), moved)


def _matrix_of(node: Node) -> np.ndarray | None:
    """The 4 x 5 matrix of a feColorMatrix; ``None`` for one that changes nothing."""
    kind = node.attrs.get("type", "matrix")
    values = numbers(node.attrs.get("values", ""))
    if kind == "matrix":
        if len(values) != 20:
            return None
        return np.array(values).reshape(4, 5)
    if kind == "saturate":
        return None if not values or values[0] == 1 else np.full((4, 5), np.nan)
    if kind == "hueRotate":
        return None if not values or values[0] % 360 == 0 else np.full((4, 5), np.nan)
    return np.full((4, 5), np.nan)


def _recoloured(chain: _Chain, node: Node) -> _Picture:
    matrix = _matrix_of(node)
    linear = chain.linear(node)

    def change(part: _Graphic | _Shade | _Flood) -> _Graphic | _Shade | _Flood:
        if matrix is None:
            return part
        if np.isnan(matrix).any():
            if isinstance(part, _Shade) and part.rgb == (0.0, 0.0, 0.0) and node.attrs["type"] != "luminanceToAlpha":
                return part
            raise FormatError(tr("it changes the layer's colours"))
        rows, alpha = matrix[:3], matrix[3]
        if np.any(alpha[:3] != 0) or alpha[4] != 0:
            raise FormatError(tr("it makes transparency from colours"))
        factor = float(alpha[3])
        if isinstance(part, _Graphic):
            if np.array_equal(rows, np.eye(3, 5)):
                return replace(part, alpha=part.alpha * min(1.0, factor))
            if np.any(rows[:, :4] != 0):
                raise FormatError(tr("it changes the layer's colours"))
            part = _Shade(alpha=part.alpha, x=part.x, y=part.y, blur=part.blur)
        rgb = np.array(part.rgb)
        light = conversions.to_linear(rgb) if linear else rgb
        made = np.clip(rows[:, :3] @ light + rows[:, 4] + (rows[:, 3] if factor >= _HARD else 0.0), 0.0, 1.0)
        made = conversions.from_linear(made) if linear else made
        tone = (float(made[0]), float(made[1]), float(made[2]))
        return replace(part, rgb=tone, alpha=1.0 if factor >= _HARD else min(1.0, part.alpha * factor))

    return _each(chain.wanted(node), change)


def _transferred(chain: _Chain, node: Node) -> _Picture:
    factor, hole = 1.0, False
    for part in node.children():
        kind, values = part.attrs.get("type", "identity"), numbers(part.attrs.get("tableValues", ""))
        if part.tag != "feFuncA":
            if kind != "identity":
                raise FormatError(tr("it changes the layer's colours"))
            continue
        if kind == "linear" and chain.number(part, "intercept") == 0:
            factor = float(part.attrs.get("slope", "1"))
        elif kind == "table" and len(values) == 2 and values[0] == 0:
            factor = values[1]
        elif kind == "table" and values == [1.0, 0.0]:
            hole = True
        elif kind not in ("identity", "discrete") or (kind == "discrete" and values):
            raise FormatError(tr("it bends the layer's transparency"))

    def change(part: _Graphic | _Shade | _Flood) -> _Graphic | _Shade | _Flood:
        made = replace(part, alpha=max(0.0, min(1.0, part.alpha * factor)))
        if hole:
            if not isinstance(made, _Shade):
                made = _Shade(x=getattr(made, "x", 0.0), y=getattr(made, "y", 0.0), blur=getattr(made, "blur", 0.0))
            made = replace(made, hole=not made.hole)
        return made

    return _each(chain.wanted(node), change)


def _is_shape(picture: _Picture) -> bool:
    """The bare shape where it stands."""
    return isinstance(picture, _Graphic | _Shade) and not (
        picture.x or picture.y or picture.blur or getattr(picture, "hole", False) or getattr(picture, "inner", False)
    )


def _plain(node: Node, key: str) -> float:
    found = numbers(node.attrs.get(key, "0"))
    return found[0] if found else 0.0


def _composited(chain: _Chain, node: Node) -> _Picture:
    first, second = chain.wanted(node), chain.wanted(node, "in2")
    operator = node.attrs.get("operator", "over")
    if operator == "over":
        return _over(second, first)
    if operator == "arithmetic":
        k1, k2, k3, k4 = (_plain(node, f"k{k}") for k in range(1, 5))
        if (k1, k4) == (0, 0) and (k2, k3) == (-1, 1):
            first, second, operator = second, first, "out"
        elif (k1, k4) == (0, 0) and (k2, k3) == (1, -1):
            operator = "out"
        elif (k1, k4) == (0, 0) and (k2, k3) == (0, 1):
            return second
        elif (k1, k4) == (0, 0) and (k2, k3) == (1, 0):
            return first
        else:
            raise FormatError(tr("it reckons with pixels"))
    made = _inside(first, second) if operator == "in" else _outside(first, second) if operator == "out" else None
    if operator == "atop" and isinstance(first, _Shade) and first.inner and _is_shape(second):
        made = _over(second, first)
    if made is None:
        raise FormatError(tr("it combines by “{operator}”", operator=operator))
    return made


def _inside(first: _Picture, second: _Picture) -> _Picture | None:
    if isinstance(first, _Flood) and isinstance(second, _Shade):
        return replace(second, rgb=first.rgb, alpha=first.alpha * second.alpha)
    if isinstance(first, _Flood) and isinstance(second, _Graphic):
        return _Shade(first.rgb, first.alpha * second.alpha, second.x, second.y, second.blur)
    if isinstance(first, _Shade) and first.hole and _is_shape(second):
        return replace(first, hole=False, inner=True)
    if isinstance(first, _Shade) and first.inner and _is_shape(second):
        return first
    if isinstance(first, _Graphic) and _is_shape(first) and _is_shape(second):
        return first
    return None


def _outside(first: _Picture, second: _Picture) -> _Picture | None:
    if _is_shape(first) and isinstance(second, _Shade | _Graphic) and not _is_shape(second):
        tone = first.rgb if isinstance(first, _Shade) else (0.0, 0.0, 0.0)
        return _Shade(tone, 1.0, second.x, second.y, second.blur, inner=True)
    if isinstance(first, _Shade) and not first.inner and _is_shape(second):
        return first  # a shadow knocked out where the layer covers it anyway
    if isinstance(first, _Flood) and isinstance(second, _Shade | _Graphic):
        return _Shade(first.rgb, first.alpha, second.x, second.y, second.blur, hole=True)
    return None


def _blended(chain: _Chain, node: Node) -> _Picture:
    high, low = chain.wanted(node), chain.wanted(node, "in2")
    mode = node.attrs.get("mode", "normal")
    if mode != "normal" and _parts(low) and _parts(high):
        inner = all(isinstance(part, _Shade) and part.inner for part in _parts(high))
        dark = all(sum(getattr(part, "rgb", (1.0,))) < 1.5 for part in _parts(high))
        if not (inner and dark and mode in ("multiply", "darken", "overlay")):
            raise FormatError(tr("it blends by “{mode}”", mode=mode))
        chain.notes.append(f"an inner shadow blended by “{mode}” is painted over the layer")
    return _over(low, high)


def _merged(chain: _Chain, node: Node) -> _Picture:
    whole: _Picture = _NOTHING
    for part in node.children():
        if part.tag == "feMergeNode":
            whole = _over(whole, chain.wanted(part))
    return whole


def _dropped(chain: _Chain, node: Node) -> _Picture:
    found = numbers(node.attrs.get("stdDeviation", "2")) or [2.0]
    flood = chain.flood(node)
    below = chain.wanted(node)
    base = next((part for part in _parts(below) if isinstance(part, _Graphic)), _Graphic())
    cast = _Shade(
        flood.rgb,
        flood.alpha,
        base.x + chain.number(node, "dx", "2", chain.box[2]),
        base.y + chain.number(node, "dy", "2", chain.box[3]),
        math.hypot(base.blur, found[0] * (chain.box[2] if chain.shares else 1.0)),
    )
    return _over(cast, below)


def _morphed(chain: _Chain, node: Node) -> _Picture:
    chain.notes.append("a shape made thicker or thinner by its filter keeps its size")
    return chain.wanted(node)


_PRIMITIVES: dict[str, Callable[[_Chain, Node], _Picture]] = {
    "feGaussianBlur": _blur,
    "feOffset": _offset,
    "feFlood": lambda chain, node: chain.flood(node) if chain.flood(node).alpha > 0 else _NOTHING,
    "feColorMatrix": _recoloured,
    "feComponentTransfer": _transferred,
    "feComposite": _composited,
    "feBlend": _blended,
    "feMerge": _merged,
    "feDropShadow": _dropped,
    "feMorphology": _morphed,
}


def css_functions(text: str, size: float) -> tuple[list[str], Effects]:
    """A CSS ``filter`` value: the ids of the filters it refers to, and what its functions come to.

    ``size`` is the font size for em. ``FormatError`` for a function that has no equal here.
    """
    ids: list[str] = []
    blur, alpha, shadows = 0.0, 1.0, []
    for token in tinycss2.parse_component_value_list(text):
        if token.type in ("whitespace", "comment"):
            continue
        if token.type == "url":
            ids.append(token.value.lstrip("#"))
        elif token.type == "function":
            inner = tinycss2.serialize(token.arguments).strip()
            if token.lower_name == "url":
                ids.append(inner.strip("'\"").lstrip("#"))
            elif token.lower_name == "blur":
                blur = math.hypot(blur, length(inner or "0", 0.0, size))
            elif token.lower_name == "drop-shadow":
                shadows.append(css_shadow(inner, size))
            elif token.lower_name == "opacity":
                alpha *= float(inner[:-1]) / 100 if inner.endswith("%") else float(inner or "1")
            else:
                raise FormatError(tr("{lower_name}() has no equal here", lower_name=token.lower_name))
        elif token.type == "ident" and token.lower_value == "none":
            continue
        else:
            raise FormatError(tr("“{words}” is not a filter", words=text[:40]))
    return ids, Effects(blur, tuple(shadows), min(1.0, max(0.0, alpha)))
