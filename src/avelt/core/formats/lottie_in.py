"""Lottie JSON as a frame: layers, and a loop for each property that moves. What has no place here is named.

Source: the Lottie specification 1.0 (Lottie Animation Community).
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import math
from typing import Any

import msgspec

from avelt.core.errors import AveltError, FormatError
from avelt.core.formats import lottie_moves as moves
from avelt.core.formats.checked import frame_is_sound
from avelt.core.formats.lottie_moves import Json, Keyed, Moves, first, keyed, number, numbers
from avelt.core.formats.lottie_shapes import Shapes
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.plain_json import plain_json
from avelt.core.formats.svg_in import Imported
from avelt.core.model.curves import Hold, Line
from avelt.core.model.limits import MAX_LAYERS, MAX_SVG_BYTES
from avelt.core.model.second import LayerChanges
from avelt.core.model.values import Asset, Box, Frame, Group, Layer, Loop, Note, Picture, Pose, Run, Solid, Source, Text
from avelt.core.words import tr

replace = msgspec.structs.replace
_DEEP = 16  # compositions in each other
_LEFT_OUT = {
    "tm": tr("its time is remapped"),
    "ef": "effects",
    "sy": tr("layer styles"),
    "ao": tr("it turns along its path"),
}


def is_lottie(data: bytes) -> bool:
    """Whether bytes look like Lottie JSON."""
    head = data.lstrip(b"\xef\xbb\xbf \t\r\n")
    return head.startswith(b"{") and b'"layers"' in data and b'"op"' in data and b'"ip"' in data


def read_lottie(data: bytes, name: str, path: str = "") -> Imported:
    """A Lottie file's bytes as a frame called ``name``; ``FormatError`` when it is none."""
    place = path or name
    document = plain_json(data, MAX_SVG_BYTES, "JSON", place)
    if not isinstance(document, dict) or not isinstance(document.get("layers"), list):
        raise FormatError(tr("This is no Lottie animation: it has no layers."), place)
    w, h, rate = (number(document.get(key)) for key in ("w", "h", "fr"))
    begins, ends = number(document.get("ip")), number(document.get("op"))
    if w <= 0.0 or h <= 0.0 or rate <= 0.0 or ends <= begins:
        raise FormatError(tr("This is no Lottie animation: its size, rate or length cannot be."), place)
    try:
        reader = _Reader(document, begins, ends - begins, rate)
        layers = reader.layers(document["layers"], w, h, 0)
    except RecursionError:
        raise FormatError(tr("Layers lie too deep in each other."), place) from None
    except (TypeError, ValueError, KeyError, IndexError, AttributeError, OverflowError) as error:
        # A value of another kind than the format has there: which of the thousand it is, its own words say best.
        raise FormatError(
            tr("A value in it is not of the kind that the format has there: {error}.", error=error), place
        ) from None
    source = Source(place, hashlib.sha256(data).hexdigest(), "", layers, tuple(reader.notes), (w, h), "#ffffff00")
    loops = tuple(loop for loop in reader.loops if loop.layer in reader.kept)
    frame = Frame("", name, w, h, "#ffffff00", True, layers, loops, source=source)
    try:
        frame_is_sound(frame, "animation", set(reader.assets))
    except FormatError as error:
        raise error.at(place) from None
    return Imported(frame, tuple(reader.assets.values()))


class _Reader:
    """One file. ``begins`` and ``length`` are the round in frames; all loops are as long as that."""

    def __init__(self, document: Json, begins: float, length: float, rate: float) -> None:
        self.begins, self.length, self.rate = begins, length, rate
        self.duration = length / rate * 1000.0
        self.sources = {
            str(entry.get("id")): entry for entry in document.get("assets", []) or [] if isinstance(entry, dict)
        }
        fonts = document.get("fonts")
        named = fonts.get("list", []) if isinstance(fonts, dict) else []
        self.fonts = {str(f.get("fName")): str(f.get("fFamily", "")) for f in named if isinstance(f, dict)}
        self.notes: list[Note] = []
        self.loops: list[Loop] = []
        self.assets: dict[str, Asset] = {}
        self.kept: set[str] = set()
        self._next = 0
        self.shapes = Shapes(self)

    # What others need

    def ident(self) -> str:
        """A new id."""
        self._next += 1
        if self._next > MAX_LAYERS:
            raise FormatError(tr("There are more than {max_layers:,} layers.", max_layers=MAX_LAYERS))
        made = f"i{self._next}"
        self.kept.add(made)
        return made

    def note(self, where: str, says: str, what: str = "left out") -> None:
        """Something that has no place here."""
        made = Note(what, says, where)  # type: ignore[arg-type]
        if made not in self.notes:
            self.notes.append(made)

    def loop(self, layer: str, name: str, move: Moves | None, changes: LayerChanges | None = None) -> None:
        """A property moves by itself, round after round."""
        if move is None:
            return
        ident = f"o{len(self.loops) + 1}"
        self.loops.append(
            Loop(
                ident,
                ident,
                layer,
                name,
                move.offset,
                self.duration,
                "one way",
                curve=Line(),
                changes=changes or LayerChanges(),
                keyframes=move.keyframes,
                path=move.path,
            )
        )

    def keys(self, prop: Json, count: int, where: str) -> Keyed | None:
        """The keyframes of a property; expressions are named."""
        if isinstance(prop, dict) and isinstance(prop.get("x"), str):
            self.note(where, tr("it has an expression; its keyframes are taken"))
        return keyed(prop, count)

    # Layers

    def layers(self, given: list[Json], w: float, h: float, depth: int) -> tuple[Layer, ...]:
        """The layers of a composition, lowest first."""
        if depth > _DEEP:
            raise FormatError(tr("Compositions lie more than {deep} deep in each other.", deep=_DEEP))
        rows = [row for row in given if isinstance(row, dict)]
        by_index = {row.get("ind"): row for row in rows}
        made: list[Layer] = []
        matte: Layer | None = None
        for row in rows:  # the first lies on top
            if row.get("td"):
                matte = self._one(row, by_index, w, h, depth)
                continue
            layer = self._one(row, by_index, w, h, depth)
            if layer is None:
                continue
            if row.get("tt") and matte is not None:
                layer = self._matted(layer, matte, int(number(row.get("tt"))), w, h)
                matte = None
            made.append(layer)
        return tuple(reversed(made))

    def _one(self, row: Json, by_index: dict[Any, Json], w: float, h: float, depth: int) -> Layer | None:
        name = str(row.get("nm") or tr("Layer {get}", get=row.get("ind", ""))).strip()[:200] or tr("Layer")
        content = self._content(row, name, w, h, depth)
        if content is None:
            return None
        children, box = content
        layer = self._placed(row.get("ks"), name, children, box, opacity=True)
        self._seen(row, layer, name)
        for key, says in _LEFT_OUT.items():
            if row.get(key):
                self.note(name, says)
        if row.get("ddd"):
            self.note(name, tr("it lies in three dimensions; it is taken as flat"), "approximated")
        layer = self._masked(row, layer, name, box[:2])
        seen = {row.get("ind")}
        parent = row.get("parent")
        while parent is not None and parent in by_index and parent not in seen:
            seen.add(parent)
            above = by_index[parent]
            carrier = tr("{get} carries {name}", get=above.get("nm") or tr("Parent"), name=name)[:200]
            layer = self._placed(above.get("ks"), carrier, (layer,), (0.0, 0.0, w, h), opacity=False)
            parent = above.get("parent")
        return replace(layer, hidden=bool(row.get("hd")))

    def _content(
        self, row: Json, name: str, w: float, h: float, depth: int
    ) -> tuple[tuple[Layer, ...], tuple[float, float, float, float]] | None:
        """What a layer shows, in its own px, and the box that it fills there."""
        kind = row.get("ty")
        if kind == 3:
            return None  # it only carries others
        if kind == 4:
            children = self.shapes.read(row.get("shapes") or [], name)
            return (children, _bounds(children)) if children else None
        if kind == 1:
            sw, sh = number(row.get("sw"), 1.0), number(row.get("sh"), 1.0)
            colour = row.get("sc")
            fill = (Solid(colour if isinstance(colour, str) else "#000000"),)
            ident = self.ident()
            return (Layer(ident, ident, name, Box(), 0.0, 0.0, sw, sh, fills=fill),), (0.0, 0.0, sw, sh)
        if kind == 2:
            return self._picture(row, name)
        if kind == 0:
            source = self.sources.get(str(row.get("refId")))
            if source is None or not isinstance(source.get("layers"), list):
                self.note(name, tr("its composition is not in the file"))
                return None
            inner_w, inner_h = number(row.get("w"), w) or w, number(row.get("h"), h) or h
            if number(row.get("st")) != 0.0 or number(row.get("sr"), 1.0) != 1.0:
                self.note(name, tr("its time is shifted or stretched; it is taken as it stands"), "approximated")
            return self.layers(source["layers"], inner_w, inner_h, depth + 1), (0.0, 0.0, inner_w, inner_h)
        if kind == 5:
            return self._words(row, name)
        self.note(name, tr("layers of kind {kind!r}", kind=kind))
        return None

    def _picture(self, row: Json, name: str) -> tuple[tuple[Layer, ...], tuple[float, float, float, float]] | None:
        source = self.sources.get(str(row.get("refId"))) or {}
        data = source.get("p")
        if not isinstance(data, str) or not data.startswith("data:") or "," not in data:
            self.note(name, tr("its picture lies outside of the file"))
            return None
        try:
            asset = read_picture(base64.b64decode(data.split(",", 1)[1], validate=True), name)
        except (binascii.Error, ValueError, AveltError):
            self.note(name, tr("its picture cannot be read"))
            return None
        self.assets[asset.id] = asset
        w, h = number(source.get("w"), asset.w) or asset.w, number(source.get("h"), asset.h) or asset.h
        ident = self.ident()
        return (Layer(ident, ident, name, Picture(asset.id), 0.0, 0.0, w, h),), (0.0, 0.0, w, h)

    def _words(self, row: Json, name: str) -> tuple[tuple[Layer, ...], tuple[float, float, float, float]] | None:
        try:
            said = row["t"]["d"]["k"][0]["s"]
            words = str(said["t"]).replace("\r", "\n")
        except (KeyError, IndexError, TypeError):
            self.note(name, tr("its words cannot be read"))
            return None
        size = number(said.get("s"), 16.0)
        line = number(said.get("lh"), size * 1.2) / size if size > 0.0 else 1.2
        colour = numbers(said.get("fc", [0.0, 0.0, 0.0]), 3)
        align = {0: "left", 1: "right", 2: "center"}.get(int(number(said.get("j"))), "left")
        family = self.fonts.get(str(said.get("f")), "") or "sans-serif"
        text = Text((Run(words),), family, max(1.0, size), line_height=max(0.1, line), align=align)  # type: ignore[arg-type]
        w = max(1.0, max(len(part) for part in words.split("\n")) * size * 0.6)
        h = max(1.0, size * line * (words.count("\n") + 1))
        x = 0.0 if align == "left" else -w if align == "right" else -w / 2.0
        y = -size * (line / 2.0 + 0.35)
        self.note(name, tr("text is set anew, with a font of this machine"), "approximated")
        ident = self.ident()
        made = Layer(ident, ident, name, text, x, y, w, h, fills=(Solid(_hex(colour)),))
        return (made,), (x, y, w, h)

    # Where they are

    def _placed(
        self, ks: Json, name: str, children: tuple[Layer, ...], box: tuple[float, float, float, float], opacity: bool
    ) -> Layer:
        """A group round what a layer shows, where its transform puts it, with a loop for what of it moves."""
        ks = ks if isinstance(ks, dict) else {}
        x, y, w, h = box
        w, h = max(w, 1.0), max(h, 1.0)
        ident = self.ident()
        ax, ay = first(ks.get("a"), 2)
        anchor = self.keys(ks.get("a"), 2, name)
        if anchor is not None:
            self._anchored(anchor, ks, ident, name)
        px, py = self._position(ks.get("p"), ident, name)
        inner = tuple(replace(child, x=child.x - x, y=child.y - y) for child in children)
        made = Layer(
            ident,
            ident,
            name,
            Group(inner),
            px - ax + x,
            py - ay + y,
            w,
            h,
            pivot=((ax - x) / w, (ay - y) / h),
            rotation=self._rotation(ks, ident, name),
            skew=-first(ks.get("sk"), 1)[0],
        )
        scales = self._scales(ks.get("s"), ident, name)
        made = replace(made, scale_x=scales[0], scale_y=scales[1])
        return replace(made, opacity=self._opacity(ks.get("o"), ident, name)) if opacity else made

    def _anchored(self, anchor: Keyed, ks: Json, ident: str, name: str) -> None:
        """An anchor that moves takes what is shown along the other way, as large and as turned as that is."""
        if any(moves.moving(ks.get(key)) for key in ("r", "rz", "s", "sk")):
            self.note(
                name, tr("its anchor moves while it turns or grows; it stays where it is at first"), "approximated"
            )
            return
        turn = math.radians(first(ks.get("r", ks.get("rz")), 1)[0])
        sx, sy = (value / 100.0 for value in first(ks.get("s"), 2, 100.0))
        values = []
        for value in anchor.values:
            x, y = (value[0] - anchor.values[0][0]) * sx, (value[1] - anchor.values[0][1]) * sy
            values.append((math.sin(turn) * y - math.cos(turn) * x, -math.sin(turn) * x - math.cos(turn) * y))
        straight = (((0.0, 0.0), (0.0, 0.0)),) * len(anchor.curves)
        found = replace(anchor, values=tuple(values), handles=straight)
        self.loop(ident, f"{name} anchor", moves.of_position(found, self.begins, self.length))

    def _position(self, prop: Json, ident: str, name: str) -> tuple[float, float]:
        if isinstance(prop, dict) and prop.get("s") and ("x" in prop or "y" in prop):
            for key, pose in (("x", lambda _, by: Pose(shift_x=by)), ("y", lambda _, by: Pose(shift_y=by))):
                found = self.keys(prop.get(key), 1, name)
                if found is not None:
                    self.loop(ident, f"{name} {key}", moves.of_number(found, self.begins, self.length, pose))
            return first(prop.get("x"), 1)[0], first(prop.get("y"), 1)[0]
        found = self.keys(prop, 2, name)
        if found is not None:
            self.loop(ident, f"{name} position", moves.of_position(found, self.begins, self.length))
        x, y = first(prop, 2)
        return x, y

    def _rotation(self, ks: Json, ident: str, name: str) -> float:
        prop = ks.get("r", ks.get("rz"))
        found = self.keys(prop, 1, name)
        if found is not None:
            turn = moves.of_number(found, self.begins, self.length, lambda _, by: Pose(rotation=by))
            self.loop(ident, f"{name} rotation", turn)
        return first(prop, 1)[0]

    def _scales(self, prop: Json, ident: str, name: str) -> tuple[float, float]:
        found = self.keys(prop, 2, name)
        if found is None:
            x, y = first(prop, 2, 100.0)
            return x / 100.0, y / 100.0
        both = [moves.of_scale(found, self.begins, self.length, column) for column in (0, 1)]
        (x, one), (y, other) = both
        if one is not None and other is not None and one.keyframes == other.keyframes:
            together = replace(one.offset, scale_y=other.offset.scale_y)
            self.loop(ident, f"{name} scale", replace(one, offset=together))
        else:
            self.loop(ident, f"{name} scale x", one)
            self.loop(ident, f"{name} scale y", other)
        return x / 100.0, y / 100.0

    def _opacity(self, prop: Json, ident: str, name: str) -> float:
        found = self.keys(prop, 1, name)
        if found is None:
            return min(1.0, max(0.0, first(prop, 1, 100.0)[0] / 100.0))
        shares = replace(found, values=tuple((value[0] / 100.0,) for value in found.values))
        own, move = moves.of_opacity(shares, self.begins, self.length)
        self.loop(ident, f"{name} opacity", move)
        return own

    def _seen(self, row: Json, layer: Layer, name: str) -> None:
        """A layer that is there for a part of the time only fades in and out at once."""
        start, end = (
            number(row.get(key), usual) for key, usual in (("ip", self.begins), ("op", self.begins + self.length))
        )
        last = self.begins + self.length
        if start <= self.begins and end >= last:
            return
        times = [self.begins, max(self.begins, start), min(last, end), last]
        values = [0.0 if start > self.begins else 1.0, 1.0, 0.0 if end < last else 1.0]
        found = Keyed(
            tuple(times[:3]),
            tuple((value,) for value in values),
            (Hold(1.0), Hold(1.0)),
            (((0.0, 0.0), (0.0, 0.0)),) * 2,
        )
        if start <= self.begins:
            found = Keyed((times[0], times[2]), ((1.0,), (0.0,)), (Hold(1.0),), (((0.0, 0.0), (0.0, 0.0)),))
        _, move = moves.of_opacity(found, self.begins, self.length)
        self.loop(layer.id, f"{name} is there", move)

    # What covers them

    def _masked(self, row: Json, layer: Layer, name: str, corner: tuple[float, float]) -> Layer:
        """A layer seen through its mask, whose points are in the px of what it shows; its box begins at ``corner``."""
        given = [
            mask for mask in row.get("masksProperties") or [] if isinstance(mask, dict) and mask.get("mode") != "n"
        ]
        if not given:
            return layer
        mask = given[0]
        if len(given) > 1:
            self.note(name, tr("of its masks the first one is taken"), "approximated")
        if mask.get("mode") != "a" or mask.get("inv"):
            self.note(name, tr("a mask that takes away"))
            return layer
        outline = self.shapes.outline(mask.get("pt"), f"{name} mask", name)
        if outline is None or not isinstance(layer.body, Group):
            return layer
        made, _ = outline
        made = replace(made, x=made.x - corner[0], y=made.y - corner[1], fills=(Solid("#ffffff"),))
        body = Group((made, *layer.body.children), mask=made.id)
        return replace(layer, body=body)

    def _matted(self, layer: Layer, matte: Layer, how: int, w: float, h: float) -> Layer:
        """A layer seen through another one."""
        if how in (2, 4):
            self.note(layer.name, tr("a matte that takes away"))
            return layer
        ident = self.ident()
        body = Group((matte, layer), mask=matte.id, mask_by="luminance" if how == 3 else "alpha")
        return Layer(ident, ident, f"{layer.name} through {matte.name}"[:200], body, 0.0, 0.0, w, h)


def _bounds(layers: tuple[Layer, ...]) -> tuple[float, float, float, float]:
    """The box (x, y, w, h) of layers, px."""
    left, top = min(layer.x for layer in layers), min(layer.y for layer in layers)
    right, low = max(layer.x + layer.w for layer in layers), max(layer.y + layer.h for layer in layers)
    return left, top, right - left, low - top


def _hex(colour: tuple[float, ...]) -> str:
    """A colour of shares as text."""
    return "#" + "".join(f"{round(255 * min(1.0, max(0.0, value))):02x}" for value in colour[:3])
