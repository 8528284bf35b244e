"""A program as Lottie JSON (the open specification, version 1.0): shape layers with groups; what is cut off or masked
is a composition of its own. What the format cannot say is named in the report."""

from __future__ import annotations

import math
from typing import Any

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour
from avelt.core.errors import FormatError
from avelt.core.geometry.bezier import box_outline
from avelt.core.handoff import order
from avelt.core.handoff.courses import Stage
from avelt.core.handoff.delivery import Delivery, Report, Wanted, as_json
from avelt.core.handoff.draft import Draft, Here
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.loop_rounds import common_period
from avelt.core.handoff.lottie_keys import RATE, Json, fixed, frames_of, still, still_group
from avelt.core.handoff.lottie_paints import Properties
from avelt.core.handoff.markup import Pictures
from avelt.core.handoff.nodes import slug
from avelt.core.handoff.pieces import form_of
from avelt.core.model.kinds import group_of
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Box, Group, Layer, Oval, Path, Picture, Project, Text, Use
from avelt.core.timing.items import scale_inside
from avelt.core.timing.program import Program
from avelt.core.timing.slots import SlotContents
from avelt.core.words import tr

_ROOM = 1000.0  # px around what a composition shows, which cuts off at its edges
_AT = COLUMN
_CLEAR = 1.0 / 1024.0


def lottie(program: Program, project: Project, letters: Letters, wanted: Wanted) -> Delivery:
    """One JSON file; text as outlines, pictures inside. ``FormatError`` where nothing moves: there are no stills."""
    maker = _Maker(Here(Draft(letters), Stage(program)), Pictures(project.assets))
    stage = maker.here.stage
    loops = [track.loop for track in stage.loops if not track.loop.rounds and not track.fades]
    maker.until = stage.last or (common_period(loops)[0] * wanted.rounds if loops else 0.0)
    if maker.until <= 0.0:
        raise FormatError(
            tr("Nothing moves in {name}, and a vector animation has no stills.", name=wanted.name),
            hint=tr("Take a picture (png)."),
        )
    layers = maker.layers(-1)
    if wanted.background != "none":
        layers.append(maker.ground(wanted.background))
    document = {
        "v": "5.7.0",
        "fr": RATE,
        "ip": 0,
        "op": max(1.0, round(frames_of(maker.until), 4)),
        "w": round(program.left.w),
        "h": round(program.left.h),
        "nm": wanted.name,
        "ddd": 0,
        "assets": maker.assets,
        "layers": layers,
    }
    for number, layer in enumerate(layers, 1):
        layer["ind"] = number
    maker.here.close()
    draft = maker.here.draft
    name = f"{slug(wanted.name, 'motion')}.json"
    return Delivery({name: as_json(document)}, name, Report(tuple(draft.fitted), tuple(draft.left_out)))


class _Maker(Properties):
    """Layers and groups of one program."""

    # Layers

    def layers(self, parent: int, shift: float = 0.0, without: frozenset[int] = frozenset()) -> list[Json]:
        """What lies in a slot as layers, topmost first."""
        made = []
        for entry in reversed(order.placed(self.program, parent)):
            s = entry.slot
            if s in without or not (self.here.stage.looked(s, "opacity") > _CLEAR).any():
                continue
            layer = self._layer(s, shift)
            starts = [max(0.0, a) for a, _ in entry.spans]
            ends = [min(self.until, b) for _, b in entry.spans]
            layer["ip"], layer["op"] = round(frames_of(min(starts)), 4), round(frames_of(max(ends)), 4) + 0.001
            made.append(layer)
        return made

    def _layer(self, s: int, shift: float) -> Json:
        part = self.program.contents[s]
        self._names_what_lacks(s, part)
        common = {"nm": part.layer.name, "ddd": 0, "st": 0, "ip": 0, "op": frames_of(self.until), "sr": 1, "bm": 0}
        if isinstance(part.layer.body, Picture):
            return {**common, **self._image(s, part.layer.body, shift)}
        if not self._needs_layers(s):
            group = self._group(s)
            return {**common, "ty": 4, "ks": self.transform(s, shift), "shapes": group}
        return {**common, **self._composition(s, part, shift)}

    def _needs_layers(self, s: int) -> bool:
        part = self.program.contents[s]
        body = part.layer.body
        if isinstance(body, Picture):
            return True
        if not isinstance(body, Group):
            return False
        sides = [group_of(side) for side in (part.left, part.right) if side is not None]
        if any(group is not None and (group.clips or group.mask) for group in sides):
            return True
        return any(self._needs_layers(entry.slot) for entry in order.placed(self.program, s))

    def _composition(self, s: int, part: SlotContents, shift: float) -> Json:
        """A group whose layers are a composition of their own: it may be cut off, or masked by one of them."""
        w, h = self.here.stage.looked(s, "w", "h").max(0).tolist()
        wide, high = math.ceil(w + 2 * _ROOM), math.ceil(h + 2 * _ROOM)
        groups = [group_of(side) for side in (part.left, part.right) if side is not None]
        ids = {group.mask for group in groups if group is not None and group.mask}
        masks = frozenset(
            entry.slot
            for entry in order.placed(self.program, s)
            if any(side is not None and side.id in ids for side in self._sides(entry.slot))
        )
        inside = self.layers(s, _ROOM, masks)
        if masks:
            content = self._asset(inside, wide, high)
            by = next(group.mask_by for group in reversed(groups) if group is not None)
            matte = {**self._layer(min(masks), _ROOM), "td": 1}
            plain = {
                "ty": 0,
                "nm": "content",
                "refId": content,
                "w": wide,
                "h": high,
                "ip": 0,
                "op": frames_of(self.until),
                "st": 0,
                "sr": 1,
                "bm": 0,
                "ddd": 0,
                "ks": still(),
                "tt": 1 if by == "alpha" else 3,
            }
            inside = [matte, plain]
        made: Json = {"ty": 0, "refId": self._asset(inside, wide, high), "w": wide, "h": high}
        made["ks"] = self.transform(s, shift, _ROOM)
        if any(group is not None and group.clips for group in groups):
            made["masksProperties"] = [
                {"mode": "a", "inv": False, "pt": self._box_shape(s, _ROOM), "o": fixed(100), "x": fixed(0)}
            ]
            made["hasMask"] = True
        return made

    def _sides(self, s: int) -> tuple[Layer | None, Layer | None]:
        return self.program.contents[s].left, self.program.contents[s].right

    def _asset(self, layers: list[Json], w: int, h: int) -> str:
        for number, layer in enumerate(layers, 1):
            layer["ind"] = number
        ident = f"comp_{len(self.assets)}"
        self.assets.append({"id": ident, "nm": ident, "layers": layers, "w": w, "h": h})
        return ident

    def _box_shape(self, s: int, shift: float) -> Json:
        w, h = _AT["w"], _AT["h"]

        def of(row: Floats) -> Floats:
            return np.stack([(box_outline(max(0.0, r[w]), max(0.0, r[h]), (0.0,) * 4) + shift).ravel() for r in row])

        return self._shapes(self.columns(s, ("w", "h"), of), (25,), (True,))[0]

    def _image(self, s: int, body: Picture, shift: float) -> Json:
        ident = f"picture_{len(self.assets)}"
        asset = self.pictures.asset(body.asset)
        self.assets.append(
            {"id": ident, "w": asset.w, "h": asset.h, "u": "", "p": self.pictures.inside(body.asset), "e": 1}
        )
        if body.fit != "stretch":
            self.here.draft.lacks(self.here.name_of(s), tr("how the picture fits"), tr("it is stretched over its box"))
        ks = self.transform(s, shift)
        w, h, sx, sy = (_AT[name] for name in ("w", "h", "scale_x", "scale_y"))
        px, py = _AT["pivot_x"], _AT["pivot_y"]
        size = np.array([asset.w or 1, asset.h or 1], float)
        ks["a"] = self.prop(self.columns(s, ("pivot_x", "pivot_y"), lambda row: row[:, [px, py]] * size))
        ks["s"] = self.prop(
            self.columns(
                s, ("w", "h", "scale_x", "scale_y"), lambda row: row[:, [w, h]] / size * row[:, [sx, sy]] * 100.0
            )
        )
        return {"ty": 2, "refId": ident, "ks": ks}

    def ground(self, wanted: str | None) -> Json:
        """The frame's background as the lowest layer."""
        w, h = self.program.left.w, self.program.left.h
        shape = {"ty": "rc", "p": fixed([w / 2, h / 2]), "s": fixed([w, h]), "r": fixed(0)}
        if wanted is None:
            fill = self._solid("fl", self.program.frame.colour)
        else:
            rgba = colour.parse(wanted)
            fill = {"ty": "fl", "c": fixed([*rgba[:3]]), "o": fixed(rgba[3] * 100), "r": 1}
        group = {"ty": "gr", "nm": "background", "it": [shape, fill, still_group()]}
        return {
            "ty": 4,
            "nm": "background",
            "ks": still(),
            "shapes": [group],
            "ip": 0,
            "op": frames_of(self.until) + 0.001,
            "st": 0,
            "sr": 1,
            "bm": 0,
            "ddd": 0,
        }

    # Shapes

    def _group(self, s: int) -> list[Json]:
        """What a slot shows, without its own transform, topmost first."""
        part = self.program.contents[s]
        if isinstance(part.layer.body, Group):
            made = []
            for entry in reversed(order.placed(self.program, s)):
                if not (self.here.stage.looked(entry.slot, "opacity") > _CLEAR).any():
                    continue
                inner = self.program.contents[entry.slot]
                self._names_what_lacks(entry.slot, inner)
                group = {
                    "ty": "gr",
                    "nm": inner.layer.name,
                    "it": [*self._group(entry.slot), {"ty": "tr", **self.transform(entry.slot)}],
                }
                made.append(self._seen(group, list(entry.spans)))
            return made
        both = part.both
        if part.change in ("swap", "cross-fade", "roll") and both is not None:
            if part.change == "roll":
                self.here.draft.lacks(self.here.name_of(s), tr("rolling digits"), tr("one number fades into the other"))
            mix = _AT["mix"]
            made = []
            for k in (1, 0):

                def of(row: Floats, k: int = k) -> Floats:
                    share = row[:, [mix]].clip(0, 1)
                    return np.asarray((share if k else 1.0 - share) * 100.0)

                opacity = self.prop(self.columns(s, ("mix",), of), single=True)
                made.append(
                    {"ty": "gr", "nm": both[k].name, "it": [*self._leaf(s, part, both[k]), still_group(opacity)]}
                )
            return made
        return self._leaf(s, part, part.layer)

    def _seen(self, group: Json, spans: list[order.Span]) -> Json:
        """A group that is there only for some spans of time."""
        inner = [(a, b) for a, b in spans if a > 1e-3 or b < self.until - 1e-3]
        if not inner or len(inner) < len(spans):
            return group
        marks = sorted({min(self.until, max(0.0, t)) for span in spans for t in span if math.isfinite(t)})
        now = 100.0 if any(a <= 0.0 for a, _ in spans) else 0.0
        keys: list[Json] = [{"t": 0, "s": [now], "h": 1}]
        for t in marks:
            value = 100.0 if any(a <= t < b for a, b in spans) else 0.0
            if value != now:
                keys.append({"t": round(frames_of(t), 4), "s": [value], "h": 1})
                now = value
        return {
            "ty": "gr",
            "nm": group["nm"],
            "it": [group, still_group({"a": 1, "k": keys} if len(keys) > 1 else None)],
        }

    def _leaf(self, s: int, part: SlotContents, layer: Layer) -> list[Json]:
        body = layer.body
        if isinstance(body, Use):
            return self._use(s, layer)
        if isinstance(body, Text):
            return self._words(s, part, body)
        if not isinstance(body, Box | Oval | Path):
            return []
        piece = form_of(self.here, s, layer, part, True)
        signal = piece.outline if piece is not None else None
        if signal is None:
            return []
        lengths, closed = self._structure(layer, part)
        shapes = [{"ty": "sh", "ks": shape} for shape in self._shapes(signal, lengths, closed)]
        return [{"ty": "gr", "nm": "form", "it": [*shapes, *self._paints(s, part), still_group()]}]

    def _structure(self, layer: Layer, part: SlotContents) -> tuple[tuple[int, ...], tuple[bool, ...]]:
        body = layer.body
        if part.outline is not None and (isinstance(body, Path) or part.change == "reshape"):
            return part.outline.lengths, part.outline.closed
        if isinstance(body, Path):
            return tuple(len(sub.points) // 2 for sub in body.subpaths), tuple(sub.closed for sub in body.subpaths)
        return ((25,), (True,)) if isinstance(body, Box) else ((13,), (True,))

    def _words(self, s: int, part: SlotContents, body: Text) -> list[Json]:
        at = [_AT[name] for name in ("type_size", "letter_spacing", "line_height", "w")]
        width = len(COLUMN)

        def set_at(row: Floats) -> Any:
            size, spacing, line, wide = (float(v) for v in row[at])
            return self.here.draft.letters.words(body, size, spacing, line, wide)

        made = []
        names = ("type_size", "letter_spacing", "line_height", *(() if body.align == "left" else ("w",)))
        for k, run in enumerate(set_at(self.program.start[s * width : (s + 1) * width])):
            if not run.outline:
                continue
            lengths, closed = tuple(len(p) for p, _ in run.outline), tuple(c for _, c in run.outline)

            def of(row: Floats, k: int = k) -> Floats:
                return np.stack([np.concatenate([p.ravel() for p, _ in set_at(r)[k].outline]) for r in row])

            shapes = [{"ty": "sh", "ks": shape} for shape in self._shapes(self.columns(s, names, of), lengths, closed)]
            paints = self._paints(s, part)
            if run.fill is not None and getattr(run.fill, "color", None):
                rgba = colour.parse(run.fill.color)
                paints = [{"ty": "fl", "c": fixed([*rgba[:3]]), "o": fixed(rgba[3] * 100), "r": 1}]
            for paint in paints:
                if paint["ty"] in ("fl", "gf"):
                    paint["r"] = 2 if run.rule == "evenodd" else 1
            made.append({"ty": "gr", "nm": "words", "it": [*shapes, *paints, still_group()]})
        return made

    def _use(self, s: int, layer: Layer) -> list[Json]:
        use = self.uses.get(s)
        if use is None:
            return []
        outer = self.here.stage
        stage = Stage(use.program, use.speed * outer.speed, use.offset + use.speed * outer.offset)
        maker = _Maker(Here(self.here.draft, stage), self.pictures, self.assets)
        maker.until = self.until
        scene = use.rest
        w, h = _AT["w"], _AT["h"]

        def of(row: Floats) -> Floats:
            return np.array([scale_inside(scene, r[w], r[h], layer) for r in row]) * 100.0

        if any(maker._needs_layers(entry.slot) for entry in order.placed(use.program, -1)):
            self.here.draft.lacks(self.here.name_of(s), tr("what cuts off or masks in a part"), tr("all of it is seen"))
        inner = []
        for entry in reversed(order.placed(use.program, -1)):
            group = {
                "ty": "gr",
                "nm": use.program.contents[entry.slot].layer.name,
                "it": [*maker._group(entry.slot), {"ty": "tr", **maker.transform(entry.slot)}],
            }
            inner.append(group)
        maker.here.close()
        scale = self.prop(self.columns(s, ("w", "h"), of))
        return [{"ty": "gr", "nm": layer.name, "it": [*inner, {**still_group(), "s": scale}]}]

    def _names_what_lacks(self, s: int, part: SlotContents) -> None:
        """Say what of a layer the format has no words for."""
        stage, name, lacks = self.here.stage, self.here.name_of(s), self.here.draft.lacks
        if part.shadows:
            lacks(name, tr("its shadow"), tr("the format has none"))
        if stage.ever(s, "blur", 0.0) or stage.ever(s, "back_blur", 0.0):
            lacks(name, tr("its blur"), tr("the format has none"))
        if stage.ever(s, "rotation_x", 0.0) or stage.ever(s, "rotation_y", 0.0):
            lacks(name, tr("its turn out of the plane"), tr("it stays flat"))
        if any(stage.ever(s, f"cut_{side}", 0.0) for side in ("top", "right", "bottom", "left")):
            lacks(name, tr("how it is cut off"), tr("all of it is seen"))
        if part.layer.blend != "normal":
            lacks(name, tr("its blend mode"), tr("it lies plainly over what is beneath"))
