"""What layers of a Lottie file are made of: properties with their keyframes, outlines and paints."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.handoff.courses import FINE, Signal
from avelt.core.handoff.draft import Here
from avelt.core.handoff.lottie_keys import Json, Key, as_numbers, fixed, keyed, property_of, shape_of
from avelt.core.handoff.markup import Pictures
from avelt.core.model.properties import COLUMN
from avelt.core.timing.slots import PaintSlot, SlotContents
from avelt.core.words import tr

_DASHES = {"d": "dash", "g": "gap"}
_CAPS, _JOINS = {"butt": 1, "round": 2, "square": 3}, {"miter": 1, "round": 2, "bevel": 3}
_AT = COLUMN


class Properties:
    """One program's numbers as properties."""

    def __init__(self, here: Here, pictures: Pictures, assets: list[Json] | None = None) -> None:
        self.here, self.program = here, here.program
        self.pictures = pictures
        self.assets: list[Json] = assets if assets is not None else []
        self.until = 0.0
        self.uses = {use.slot: use for use in self.program.uses}

    # Properties

    def keys(self, signal: Signal) -> tuple[list[Key], list[float]]:
        """What a signal does."""
        said = self.here.texts(signal, as_numbers)
        return keyed(self.here.stage.moved(said), self.here.stage.first(said), self.until)

    def prop(self, signal: Signal, single: bool = False) -> Json:
        """A signal as a property."""
        return property_of(*self.keys(signal), single)

    def columns(self, s: int, names: tuple[str, ...], of: Callable[[Floats], Floats], fine: float = 1.0) -> Signal:
        """A signal that reads columns alone."""
        return Signal("", s, names, (), lambda row, _: of(row), as_numbers, fine)

    def _column(self, s: int, name: str, factor: float = 1.0, fine: float = 1.0) -> Json:
        at = _AT[name]
        return self.prop(self.columns(s, (name,), lambda row: row[:, [at]] * factor, fine), single=True)

    def transform(self, s: int, shift: float = 0.0, inner: float = 0.0) -> Json:
        """Where a slot is: ``shift`` is where its space begins, ``inner`` where its content does."""
        px, py, w, h, x, y = (_AT[name] for name in ("pivot_x", "pivot_y", "w", "h", "x", "y"))

        def pivot(row: Floats) -> Floats:
            return np.stack([row[:, px] * row[:, w], row[:, py] * row[:, h]], -1)

        def place(row: Floats) -> Floats:
            return np.asarray(row[:, [x, y]] + pivot(row) + shift)

        names = ("pivot_x", "pivot_y", "w", "h")
        sx, sy, opacity = _AT["scale_x"], _AT["scale_y"], _AT["opacity"]
        return {
            "a": self.prop(self.columns(s, names, lambda row: pivot(row) + inner)),
            "p": self.prop(self.columns(s, ("x", "y", *names), place)),
            "s": self.prop(self.columns(s, ("scale_x", "scale_y"), lambda row: row[:, [sx, sy]] * 100.0)),
            "r": self._column(s, "rotation"),
            "sk": self._column(s, "skew", -1.0),
            "sa": fixed(0),
            "o": self.prop(
                self.columns(s, ("opacity",), lambda row: row[:, [opacity]].clip(0, 1) * 100.0), single=True
            ),
        }

    def _shapes(self, signal: Signal, lengths: tuple[int, ...], closed: tuple[bool, ...]) -> list[Json]:
        """An outline as one property for each of its subpaths."""
        keys, first = self.keys(signal)
        made = []
        for n in range(len(lengths)):
            start = shape_of(first, lengths, closed)[n]
            if not keys:
                made.append(fixed(start))
                continue
            found = property_of(keys, first)
            frames = [{**entry, "s": [shape_of(entry["s"], lengths, closed)[n]]} for entry in found["k"]]
            made.append({"a": 1, "k": frames})
        return made

    def _paints(self, s: int, part: SlotContents) -> list[Json]:
        """Trims, strokes and fills of a form, topmost first."""
        made: list[Json] = []
        stage = self.here.stage
        trimmed = any(stage.ever(s, n, r) for n, r in (("trim_start", 0.0), ("trim_end", 1.0), ("trim_offset", 0.0)))
        source = (part.right and part.right.stroke) or (part.left and part.left.stroke) or part.pen
        if part.stroke and source:
            paint = self._paint(s, part.stroke[0], "st", "gs")
            if paint is not None:
                paint |= {
                    "w": self._column(s, "stroke_width"),
                    "lc": _CAPS[source.cap],
                    "lj": _JOINS[source.join],
                    "ml": source.miter,
                }
                if source.dashes:
                    names = ("d", "g")
                    paint["d"] = [
                        {"n": names[k % 2], "nm": f"{_DASHES[names[k % 2]]} {k // 2 + 1}", "v": fixed(v)}
                        for k, v in enumerate(source.dashes * (1 + len(source.dashes) % 2))
                    ]
                    # Players look their dashes up by name.
                    paint["d"].append({"n": "o", "nm": "offset", "v": self._column(s, "dash_offset")})
                made.append(paint)
        fills = [paint for slot in part.fills if (paint := self._paint(s, slot, "fl", "gf")) is not None]
        if trimmed and made:
            trim = {
                "ty": "tm",
                "s": self._column(s, "trim_start", 100.0),
                "e": self._column(s, "trim_end", 100.0),
                "o": self._column(s, "trim_offset", 360.0),
                "m": 1,
            }
            if fills:
                self.here.draft.lacks(
                    self.here.name_of(s), tr("a fill beside a stroke drawn in parts"), tr("the fill is cut too")
                )
            return [trim, *made, *reversed(fills)]
        return [*made, *reversed(fills)]

    def _paint(self, s: int, slot: PaintSlot, solid: str, gradient: str) -> Json | None:
        if slot.kind == "solid":
            return self._solid(solid, slot.colour)
        if slot.kind not in ("linear", "radial"):
            self.here.draft.lacks(
                self.here.name_of(s), tr("a {kind} paint", kind=tr(slot.kind)), tr("the format has none")
            )
            return None
        program, k = self.program, slot.count
        first = program.colours_end + slot.loose
        places = tuple(range(first, first + k))
        colours = tuple(range(program.dense + 4 * slot.colour, program.dense + 4 * (slot.colour + k)))
        space = program._in_space[slot.colour : slot.colour + k]

        def stops(_: Floats, more: Floats) -> Floats:
            out = []
            for row in more:
                rgba = program._to_colours(row[k:].reshape(k, 4), space)
                plain = np.concatenate([row[:k, None], rgba[:, :3]], 1).ravel()
                clear = np.stack([row[:k], rgba[:, 3]], -1).ravel()
                out.append(np.concatenate([plain, clear]))
            return np.array(out)

        over = tuple(range(first + k, first + k + 6))
        w_at, h_at = _AT["w"], _AT["h"]

        def end(u: float) -> Signal:
            def of(row: Floats, more: Floats) -> Floats:
                w, h = (np.where(row[:, n] != 0.0, row[:, n], 1.0) for n in (w_at, h_at))
                return np.stack([(more[:, 0] * u + more[:, 4]) * w, (more[:, 1] * u + more[:, 5]) * h], -1)

            return Signal("", s, ("w", "h"), over, of, as_numbers)

        if slot.kind == "radial":
            self.here.draft.lacks(self.here.name_of(s), tr("a radial gradient"), tr("it is round, without a focus"))
        return {
            "ty": gradient,
            "o": fixed(100),
            "r": 1,
            "t": 1 if slot.kind == "linear" else 2,
            "s": self.prop(end(0.0)),
            "e": self.prop(end(1.0)),
            "g": {"p": k, "k": self.prop(Signal("", -1, (), (*places, *colours), stops, as_numbers, FINE))},
        }

    def _solid(self, kind: str, place: int) -> Json:
        program = self.program
        first = program.dense + 4 * place
        space = program._in_space[place : place + 1]

        def rgba(more: Floats) -> Floats:
            return np.concatenate([program._to_colours(row.reshape(1, 4), space) for row in more])

        places = tuple(range(first, first + 4))
        ink = Signal("", -1, (), places, lambda _, more: rgba(more)[:, :3], as_numbers, FINE * 2)
        clear = Signal("", -1, (), places, lambda _, more: rgba(more)[:, 3:] * 100.0, as_numbers)
        return {"ty": kind, "c": self.prop(ink), "o": self.prop(clear, single=True), "r": 1}
