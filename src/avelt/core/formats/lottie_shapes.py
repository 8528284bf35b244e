"""Shapes of a Lottie file: outlines with their fills and strokes, in groups; what of them moves becomes loops.

Source: the Lottie specification 1.0 (Lottie Animation Community), "Shapes".
"""

from __future__ import annotations

import math
from typing import Protocol

import msgspec

from avelt.core.arrays import np
from avelt.core.formats.lottie_moves import (
    Json,
    Keyed,
    Moves,
    along_a_line,
    first,
    keyed,
    moving,
    number,
    numbers,
    of_position,
    round_keys,
)
from avelt.core.geometry.bezier import bounds_of
from avelt.core.geometry.outlines import outline
from avelt.core.model.layers import Stop
from avelt.core.model.second import LayerChanges
from avelt.core.model.values import Box, Layer, Linear, Oval, Paint, Path, Pose, Radial, Solid, Stroke, Subpath
from avelt.core.record import Record
from avelt.core.words import tr

replace = msgspec.structs.replace
_SHAPES = ("rc", "el", "sh", "sr")
_PAINTS = ("fl", "st", "gf", "gs")
_CAPS = {1: "butt", 2: "round", 3: "square"}
_JOINS = {1: "miter", 2: "round", 3: "bevel"}
_MOST_POINTS = 400


class Home(Protocol):
    """What is needed of the reader."""

    begins: float
    length: float

    def ident(self) -> str: ...
    def note(self, where: str, says: str, what: str = "left out") -> None: ...
    def loop(self, layer: str, name: str, move: Moves | None, changes: LayerChanges | None = None) -> None: ...
    def keys(self, prop: Json, count: int, where: str) -> Keyed | None: ...
    def _placed(
        self, ks: Json, name: str, children: tuple[Layer, ...], box: tuple[float, float, float, float], opacity: bool
    ) -> Layer: ...


class _Line(Record, frozen=True):
    """An outline in the px of its group: its layer (box, oval or path) before it is painted."""

    layer: Layer


class Shapes:
    """Reads the shapes of layers."""

    def __init__(self, home: Home) -> None:
        self.home = home

    def read(self, items: list[Json], name: str, inherited: tuple[Json, ...] = (), depth: int = 0) -> tuple[Layer, ...]:
        """The layers of a list of shapes, lowest first."""
        rows = [row for row in items if isinstance(row, dict) and not row.get("hd")]
        paints = tuple(row for row in rows if row.get("ty") in _PAINTS) or inherited
        trims = [row for row in rows if row.get("ty") == "tm"]
        made: list[Layer] = []
        outlines: list[_Line] = []
        for row in rows:
            kind = row.get("ty")
            if kind == "gr":
                if depth > 40:
                    self.home.note(name, tr("groups that lie too deep in each other"))
                    continue
                group = self._group(row, paints, depth)
                if group is not None:
                    made.append(group)
            elif kind in _SHAPES:
                found = self._shape(row, name)
                if found is not None:
                    outlines.append(found)
            elif kind in ("rd", "rp", "mm", "pb", "zz", "tw", "op"):
                self.home.note(str(row.get("nm") or name), tr("the change of outlines {kind!r}", kind=kind))
        if outlines:
            made += self._painted(outlines, paints, trims, name)
        return tuple(reversed(made))

    def _group(self, row: Json, inherited: tuple[Json, ...], depth: int) -> Layer | None:
        items = [entry for entry in row.get("it") or [] if isinstance(entry, dict)]
        name = str(row.get("nm") or "Group")[:200]
        transform = next((entry for entry in items if entry.get("ty") == "tr"), {})
        children = self.read([entry for entry in items if entry.get("ty") != "tr"], name, inherited, depth + 1)
        if not children:
            return None
        if len(children) == 1 and _rests(transform):
            return replace(children[0], name=name)
        left, top = min(c.x for c in children), min(c.y for c in children)
        right, low = max(c.x + c.w for c in children), max(c.y + c.h for c in children)
        return self.home._placed(transform, name, children, (left, top, right - left, low - top), opacity=True)

    # Outlines

    def _shape(self, row: Json, name: str) -> _Line | None:
        kind, called = row.get("ty"), str(row.get("nm") or name)[:200]
        if kind == "sh":
            made = self.outline(row.get("ks"), called, name)
            return _Line(made[0]) if made is not None else None
        if kind == "sr":
            return self._star(row, called)
        (x, y), (w, h) = first(row.get("p"), 2), first(row.get("s"), 2)
        if w <= 0.0 or h <= 0.0:
            w, h = max(w, 0.01), max(h, 0.01)
        ident = self.home.ident()
        radius = min(first(row.get("r"), 1)[0], w / 2.0, h / 2.0) if kind == "rc" else 0.0
        body: Box | Oval = Box((radius,) * 4) if kind == "rc" else Oval()
        layer = Layer(ident, ident, called, body, x - w / 2.0, y - h / 2.0, w, h)
        place = self.home.keys(row.get("p"), 2, name)
        if place is not None:
            self.home.loop(ident, f"{called} position", of_position(place, self.home.begins, self.home.length))
        size = self.home.keys(row.get("s"), 2, name)
        if size is not None:
            self._sized(size, layer)
        if moving(row.get("r")):
            self.home.note(called, tr("its corners move; they stay as they are at first"), "approximated")
        return _Line(layer)

    def _sized(self, size: Keyed, layer: Layer) -> None:
        """A size that moves, about its middle; both sides go alike."""
        column = max((0, 1), key=lambda k: abs(along_a_line(size, k)[1]))
        _, most, fars = along_a_line(size, column)
        if abs(most) < 1e-9:
            return
        place = max(range(len(fars)), key=lambda k: abs(fars[k]))
        w, h = (max(0.01, value) for value in size.values[place])
        shift = Pose(shift_x=(layer.w - w) / 2.0, shift_y=(layer.h - h) / 2.0)
        fars = [far / fars[place] for far in fars]
        move = Moves(shift, round_keys(size, fars, self.home.begins, self.home.length))
        self.home.loop(layer.id, f"{layer.name} size", move, LayerChanges(w=w, h=h))

    def outline(self, prop: Json, called: str, where: str) -> tuple[Layer, bool] | None:
        """A path as a layer in the px that it is said in; ``None`` when it is none. And whether it moves."""
        found = _keys_of_path(prop)
        start = _points(found[0][1]) if found else None
        if start is None:
            self.home.note(where, tr("an outline that cannot be read"))
            return None
        layer = self._from(start[0], start[1], called)
        if len(found) > 1:
            self._reshaped(found, layer, where)
        return layer, len(found) > 1

    def _from(self, points: np.ndarray, closed: bool, called: str) -> Layer:
        ident = self.home.ident()
        x, y, w, h = bounds_of([points])
        body = Path((Subpath(tuple((points - [x, y]).ravel().tolist()), closed),))
        return Layer(ident, ident, called, body, x, y, max(w, 0.01), max(h, 0.01))

    def _reshaped(self, found: list[tuple[float, Json, Json]], layer: Layer, where: str) -> None:
        """An outline that moves, between its first and the one farthest from it."""
        shapes = [_points(value) for _, value, _ in found]
        base = shapes[0]
        if base is None or any(s is None or s[0].shape != base[0].shape for s in shapes):
            self.home.note(where, tr("outlines of other numbers of points; the first one stays"), "approximated")
            return
        all_points = np.array([shape[0] for shape in shapes if shape is not None])
        ways = (all_points - all_points[0]).reshape(len(all_points), -1)
        far = np.linalg.norm(ways, axis=1)
        place = int(far.argmax())
        if far[place] <= 1e-6:
            return
        most = ways[place]
        shares = ways @ most / float(most @ most)
        aside = np.abs(ways - shares[:, None] * most).max()
        if aside > 0.5:
            self.home.note(
                where, tr("outlines on the way that are not between two; they are taken nearest"), "approximated"
            )
        x, y, w, h = bounds_of([all_points[place]])
        body = Path((Subpath(tuple((all_points[place] - [x, y]).ravel().tolist()), base[1]),))
        changes = LayerChanges(w=max(w, 0.01), h=max(h, 0.01), body=body)
        as_numbers = {
            "k": [{**key, "t": t, "s": [share]} for (t, _, key), share in zip(found, shares.tolist(), strict=True)]
        }
        timed = keyed(as_numbers, 1)
        if timed is not None:
            fars = [value[0] for value in timed.values]
            shift = Pose(shift_x=x - layer.x, shift_y=y - layer.y)
            move = Moves(shift, round_keys(timed, fars, self.home.begins, self.home.length))
            self.home.loop(layer.id, f"{layer.name} shape", move, changes)

    def _star(self, row: Json, called: str) -> _Line:
        x, y = first(row.get("p"), 2)
        count = int(min(_MOST_POINTS, max(3.0, first(row.get("pt"), 1, 5.0)[0])))
        outer, inner = first(row.get("or"), 1, 50.0)[0], first(row.get("ir"), 1, 25.0)[0]
        turn = math.radians(first(row.get("r"), 1)[0])
        star = int(number(row.get("sy"), 1.0)) == 1
        many = count * 2 if star else count
        for key in ("p", "pt", "or", "ir", "r", "os", "is"):
            if moving(row.get(key)):
                self.home.note(called, tr("a star that moves; it stays as it is at first"), "approximated")
        if first(row.get("os"), 1)[0] or first(row.get("is"), 1)[0]:
            self.home.note(called, tr("round corners of a star"), "approximated")
        corners = []
        for k in range(many):
            radius = inner if star and k % 2 else outer
            angle = turn + 2.0 * math.pi * k / many - math.pi / 2.0
            corners.append((x + radius * math.cos(angle), y + radius * math.sin(angle)))
        points = [corners[0]]
        for k in range(many):
            a, b = corners[k], corners[(k + 1) % many]
            points += [a, b, b]
        return _Line(self._from(np.array(points), True, called))

    # Paint

    def _painted(self, outlines: list[_Line], paints: tuple[Json, ...], trims: list[Json], name: str) -> list[Layer]:
        """The outlines of a group as layers with its paints, the first painted last."""
        layers = [entry.layer for entry in outlines]
        if len(layers) > 1:
            layers = [self._together(layers, name)] if not self._any_moves(layers) else layers
        return [self._dressed(layer, paints, trims, name) for layer in layers]

    def _any_moves(self, layers: list[Layer]) -> bool:
        moved = {loop.layer for loop in getattr(self.home, "loops", ())}
        return any(layer.id in moved for layer in layers)

    def _together(self, layers: list[Layer], name: str) -> Layer:
        """Several outlines that are painted as one: holes stay holes."""
        x, y = min(layer.x for layer in layers), min(layer.y for layer in layers)
        w, h = max(layer.x + layer.w for layer in layers) - x, max(layer.y + layer.h for layer in layers) - y
        subpaths: list[Subpath] = []
        for layer in layers:
            for points, closed in outline(layer.body, layer.w, layer.h) or []:
                moved = np.asarray(points) + np.array([layer.x - x, layer.y - y])
                subpaths.append(Subpath(tuple(moved.ravel().tolist()), closed))
        ident = self.home.ident()
        return Layer(ident, ident, name, Path(tuple(subpaths)), x, y, w, h)

    def _dressed(self, layer: Layer, paints: tuple[Json, ...], trims: list[Json], name: str) -> Layer:
        fills: list[Paint] = []
        stroke: Stroke | None = None
        order: list[str] = []
        for row in paints:
            kind = str(row.get("ty"))
            paint, strong = self._paint(row, layer, name), first(row.get("o"), 1, 100.0)[0] / 100.0
            paint = _faded(paint, strong)
            order.append(kind[1] if kind in ("gs", "gf") else kind[0])
            if kind in ("fl", "gf"):
                fills.append(paint)
                if int(number(row.get("r"), 1.0)) == 2 and isinstance(layer.body, Path):
                    layer = replace(layer, body=replace(layer.body, rule="evenodd"))
            elif stroke is None:
                stroke = self._stroke(row, paint, trims, name)
            else:
                self.home.note(name, tr("more than one stroke"))
        under = stroke is not None and "f" in order and order.index("f") < order.index("s")
        made = replace(layer, fills=tuple(reversed(fills)), stroke=replace(stroke, under=under) if stroke else None)
        for row in paints:
            self._moving_paint(row, made, fills)
        if made.stroke is not None:
            for row in trims:
                self._moving_trim(row, made)
        elif trims:
            self.home.note(name, tr("a fill that is drawn on"))
        return made

    def _paint(self, row: Json, layer: Layer, name: str) -> Paint:
        if row.get("ty") in ("fl", "st"):
            return Solid(_colour(first(row.get("c"), 4, 1.0)))
        stops = _stops(row)
        (x1, y1), (x2, y2) = first(row.get("s"), 2), first(row.get("e"), 2)
        if any(moving(row.get(key)) for key in ("s", "e")) or moving((row.get("g") or {}).get("k")):
            self.home.note(name, tr("a gradient that moves; it stays as it is at first"), "approximated")
        w, h = layer.w or 1.0, layer.h or 1.0
        dx, dy = x2 - x1, y2 - y1
        at = ((x1 - layer.x) / w, (y1 - layer.y) / h)
        if int(number(row.get("t"), 1.0)) == 2:
            radius = math.hypot(dx, dy)
            return Radial(stops, (radius / w, 0.0, 0.0, radius / h, *at))
        return Linear(stops, (dx / w, dy / h, -dy / w, dx / h, *at))

    def _stroke(self, row: Json, paint: Paint, trims: list[Json], name: str) -> Stroke:
        made = Stroke(
            paint,
            max(0.0, first(row.get("w"), 1, 1.0)[0]),
            _CAPS.get(int(number(row.get("lc"), 1.0)), "butt"),  # type: ignore[arg-type]
            _JOINS.get(int(number(row.get("lj"), 1.0)), "miter"),  # type: ignore[arg-type]
            max(1.0, number(row.get("ml"), 4.0)),
        )
        dashes = [entry for entry in row.get("d") or [] if isinstance(entry, dict)]
        lengths = tuple(max(0.0, first(e.get("v"), 1)[0]) for e in dashes if e.get("n") in ("d", "g"))
        shift = next((first(e.get("v"), 1)[0] for e in dashes if e.get("n") == "o"), 0.0)
        made = replace(made, dashes=lengths if any(lengths) else (), dash_offset=shift)
        for trim in trims[:1]:
            start, end = sorted(first(trim.get(key), 1, usual)[0] / 100.0 for key, usual in (("s", 0.0), ("e", 100.0)))
            offset = first(trim.get("o"), 1)[0] / 360.0
            made = replace(made, trim_start=start, trim_end=end, trim_offset=offset)
        if len(trims) > 1:
            self.home.note(name, tr("more than one trim"))
        return made

    def _moving_paint(self, row: Json, layer: Layer, fills: list[Paint]) -> None:
        """Loops for a colour, an opacity or a width that moves."""
        kind = row.get("ty")
        if kind in ("gf", "gs"):
            return
        strong = first(row.get("o"), 1, 100.0)[0] / 100.0
        for key, count, factor in (("c", 4, 1.0), ("o", 1, 0.01), ("w", 1, 1.0)):
            found = self.home.keys(row.get(key), count, layer.name) if key in row else None
            if found is None:
                continue
            far = np.array(found.values) - np.array(found.values[0])
            place = int(np.abs(far).max(1).argmax())
            most = far[place]
            if not most.any():
                continue
            shares = (far @ most / float(most @ most)).tolist()
            value = found.values[place]
            if key == "w" and layer.stroke is not None and kind == "st":
                changes = LayerChanges(stroke=replace(layer.stroke, width=max(0.0, value[0])))
            else:
                colour = value if key == "c" else first(row.get("c"), 4, 1.0)
                alpha = strong if key == "c" else value[0] * factor
                paint = _faded(Solid(_colour(colour)), alpha)
                changes = self._with_paint(layer, kind, paint, fills, row)
            move = Moves(Pose(), round_keys(found, shares, self.home.begins, self.home.length))
            self.home.loop(layer.id, f"{layer.name} {'width' if key == 'w' else 'colour'}", move, changes)

    def _with_paint(self, layer: Layer, kind: Json, paint: Paint, fills: list[Paint], row: Json) -> LayerChanges:
        if kind == "st" and layer.stroke is not None:
            return LayerChanges(stroke=replace(layer.stroke, paint=paint))
        made = list(layer.fills)
        if made:
            made[-1] = paint
        return LayerChanges(fills=tuple(made))

    def _moving_trim(self, row: Json, layer: Layer) -> None:
        stroke = layer.stroke
        if stroke is None:
            return
        for key, field, factor in (("s", "trim_start", 100.0), ("e", "trim_end", 100.0), ("o", "trim_offset", 360.0)):
            found = self.home.keys(row.get(key), 1, layer.name)
            if found is None:
                continue
            base, most, fars = along_a_line(found)
            if abs(most) < 1e-9:
                continue
            changes = LayerChanges(stroke=msgspec.structs.replace(stroke, **{field: (base + most) / factor}))
            move = Moves(Pose(), round_keys(found, fars, self.home.begins, self.home.length))
            self.home.loop(layer.id, f"{layer.name} trim", move, changes)


def _rests(transform: Json) -> bool:
    """Whether a group's transform does nothing and does not move."""
    usual = {"a": (0.0, 0.0), "p": (0.0, 0.0), "s": (100.0, 100.0), "r": (0.0,), "o": (100.0,), "sk": (0.0,)}
    return all(
        not moving(transform.get(key)) and (key not in transform or first(transform[key], len(value)) == value)
        for key, value in usual.items()
    )


def _keys_of_path(prop: Json) -> list[tuple[float, Json, Json]]:
    """The keyframes of a path: time, outline, key; one where it stands still."""
    if not isinstance(prop, dict):
        return []
    k = prop.get("k")
    if isinstance(k, dict):
        return [(0.0, k, {})]
    if not isinstance(k, list):
        return []
    found: list[tuple[float, Json, Json]] = []
    before: Json = None
    for key in (entry for entry in k if isinstance(entry, dict)):
        value = key.get("s", before)
        value = value[0] if isinstance(value, list) and value else value
        before = key.get("e", value)
        if isinstance(value, dict):
            found.append((number(key.get("t")), value, key))
    return found


def _points(value: Json) -> tuple[np.ndarray, bool] | None:
    """Cubic Beziers (1 + 3 n, 2) of an outline, and whether it is closed; ``None`` when it is none."""
    if not isinstance(value, dict) or not all(isinstance(value.get(key), list) for key in ("v", "i", "o")):
        return None
    nodes, into, out = ([numbers(p, 2) for p in value[key]] for key in ("v", "i", "o"))
    if not nodes or not len(nodes) == len(into) == len(out):
        return None
    closed = bool(value.get("c"))
    made = [nodes[0]]
    for k in range(len(nodes) if closed else len(nodes) - 1):
        a, b = k, (k + 1) % len(nodes)
        made += [
            (nodes[a][0] + out[a][0], nodes[a][1] + out[a][1]),
            (nodes[b][0] + into[b][0], nodes[b][1] + into[b][1]),
            nodes[b],
        ]
    if len(made) == 1:
        made += [nodes[0]] * 3
    return np.array(made, float), closed


def _colour(value: tuple[float, ...]) -> str:
    """A colour of shares (older files: of 255) as text."""
    top = 255.0 if max(value[:3]) > 1.0 else 1.0
    return "#" + "".join(f"{round(255 * min(1.0, max(0.0, v / top))):02x}" for v in value[:3])


def _faded(paint: Paint, alpha: float) -> Paint:
    """A paint so strong."""
    if alpha >= 1.0:
        return paint
    more = f"{round(255 * max(0.0, alpha)):02x}"
    if isinstance(paint, Solid):
        return Solid(paint.color[:7] + more)
    if isinstance(paint, Linear | Radial):
        return replace(paint, stops=tuple(replace(stop, color=stop.color[:7] + more) for stop in paint.stops))
    return paint


def _stops(row: Json) -> tuple[Stop, ...]:
    """The stops of a gradient: at, red, green, blue each; then at and alpha each."""
    g = row.get("g") if isinstance(row.get("g"), dict) else {}
    count = int(number(g.get("p"), 2.0))  # type: ignore[union-attr]
    k = g.get("k") if isinstance(g.get("k"), dict) else {}  # type: ignore[union-attr]
    flat = k.get("k", []) if isinstance(k, dict) else []
    if flat and isinstance(flat[0], dict):
        flat = flat[0].get("s", [])
    values = [number(v) for v in flat] if isinstance(flat, list) else []
    colours = [values[4 * j : 4 * j + 4] for j in range(max(0, min(count, len(values) // 4)))]
    alphas = values[4 * count :]
    clear = [(alphas[j], alphas[j + 1]) for j in range(0, len(alphas) - 1, 2)]
    made = []
    for stop in colours:
        color = _colour(tuple(stop[1:]))
        if clear:
            alpha = float(np.interp(stop[0], [at for at, _ in clear], [value for _, value in clear]))
            color += f"{round(255 * min(1.0, max(0.0, alpha))):02x}"
        made.append(Stop(min(1.0, max(0.0, stop[0])), color))
    return tuple(made) if len(made) >= 2 else (Stop(0.0, "#000000"), Stop(1.0, "#ffffff"))
