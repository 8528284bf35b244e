"""The numbers of two frames laid out: what each is at both ends, and which property of which pair it belongs to.

Nothing here depends on when things move, so a layout is kept while only times and curves change: most edits in Timing
do nothing else.
"""

from __future__ import annotations

import msgspec
from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour, dashes, reshape, spaces
from avelt.core.cache import Cache
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.model.find import by_identity
from avelt.core.model.kinds import mask_of
from avelt.core.model.motion import PairKey, Space
from avelt.core.model.properties import COLUMN, PROPERTY_OF_COLUMN, SCALARS
from avelt.core.model.values import Frame, Group, Layer, Paint, Path, Shadow, Text, Transition
from avelt.core.pairing.joined import Joined
from avelt.core.record import Mutable, Record, lazy
from avelt.core.timing import layering
from avelt.core.timing.away import posed
from avelt.core.timing.content import Change, change_of, outline_of, rule_of
from avelt.core.timing.coupled import cleared, coupled, tints
from avelt.core.timing.layer_rows import row_in
from avelt.core.timing.merge import Merged, Slot, merge, standing
from avelt.core.timing.second_poses import LoopPose, Second, second_poses
from avelt.core.timing.slots import FrameSlot, OutlineSlot, PaintSlot, ShadowSlot, SlotContents
from avelt.core.timing.staying import stay
from avelt.core.turns import others_first

Ids = PairKey
#: The properties that numbers belong to; ``Layout.prop_of`` are places in it.
PROPS = tuple(dict.fromkeys((*PROPERTY_OF_COLUMN, "fill", "shadow")))
_PLACE = {prop: k for k, prop in enumerate(PROPS)}
_OF_COLUMNS = np.array([_PLACE[prop] for prop in PROPERTY_OF_COLUMN])
_STROKE = ("stroke_width", "trim_start", "trim_end", "trim_offset")
_KEPT = 64
_KEPT_BLOCKS = 60_000


class Look(Record, frozen=True):
    """What of a pair's cues says how its numbers are laid out: angles the shortest way, spaces of colours, and whether
    its outline goes by another cue than its size."""

    shortest: frozenset[str] = frozenset()
    spaces: tuple[tuple[str, Space], ...] = ()
    apart: bool = False

    def space(self, prop: str) -> Space:
        """The space in which a property's colours blend."""
        return dict(self.spaces).get(prop, "oklab")

    def with_shortest(self, prop: str) -> Look:
        """The same, with the angles of a property going the shortest way."""
        return replace(self, shortest=self.shortest | {prop})


PLAIN = Look()


class Layout(Record, frozen=True):
    """Numbers at both ends (n,), and for each its slot and the place of its property in ``PROPS`` (n,)."""

    a: Flat
    b: Flat
    merged: Merged
    ids: tuple[Ids, ...]  # of each slot
    parts: tuple[SlotContents, ...]
    start: Floats
    end: Floats
    slot_of: np.ndarray
    prop_of: np.ndarray
    in_space: np.ndarray  # of each colour, its place in ``spaces.SPACES``
    swaps: tuple[tuple[int, float], ...]  # slots whose content swaps, and at which share of the length
    frame: FrameSlot
    loops: tuple[LoopPose, ...]
    held: tuple[tuple[int, int], ...] = ()  # slots that stand still in a group, and the slot of that group

    @property
    def colours(self) -> int:
        """How many colours there are."""
        return len(self.in_space)

    @lazy
    def row_of(self) -> dict[Ids, int]:
        """The slot of each pair."""
        return {ids: s for s, ids in enumerate(self.ids)}

    @lazy
    def roles(self) -> np.ndarray:
        """Of each slot (slots,) whether it leaves (1), enters (2) or neither (0)."""
        return np.array([1 if ids[1] is None else 2 if ids[0] is None else 0 for ids in self.ids], np.intp)

    @lazy
    def differs(self) -> np.ndarray:
        """The places (n,) whose numbers are others at the end."""
        return np.flatnonzero(self.start != self.end)

    def ends_of(self, slot: int) -> tuple[Floats, Floats]:
        """The dense numbers of a slot at both ends."""
        width = len(SCALARS)
        return self.start[slot * width : (slot + 1) * width], self.end[slot * width : (slot + 1) * width]


_layouts: Cache[Layout] = Cache(_KEPT)


def layout_of(left: Frame, right: Frame, joined: Joined, transition: Transition, looks: dict[Ids, Look]) -> Layout:
    """The layout of a transition between two frames, kept while nothing that it depends on changes."""
    key = (transition.settled, transition.absents, transition.leave, transition.enter, frozenset(looks.items()))

    def make() -> Layout:
        merged = merge(joined, layering.lifted(joined, transition))
        return _layout(_Build(joined.before, joined.after, merged, transition, looks), left, right)

    return _layouts.get((joined,), key, make)


def still_layout(frame: Frame) -> Layout:
    """The layout of a frame that stands."""
    flat = flatten(frame)
    return _layout(_Build(flat, flat, standing(flat), Transition(duration=0.0), {}), frame, frame)


def _layout(build: _Build, left: Frame, right: Frame) -> Layout:
    build.seconds = second_poses(build.a, build.b, build.merged)
    for s in range(len(build.merged.slots)):
        build.add(s)
    return build.finish(left, right)


class _Block(Record, frozen=True):
    """What one slot puts into the layout. It is the same for the same two layers at the same place."""

    dense: tuple[list[float], list[float]]
    colours: list[tuple[np.ndarray, np.ndarray, int, int, Space]]
    loose: list[tuple[float, float, int, int]]
    part: SlotContents
    swaps: list[tuple[int, float]]


_blocks: Cache[_Block] = Cache(_KEPT_BLOCKS)


class _Drawn(Record, frozen=True):
    """What is drawn of a layer, as it was laid out first."""

    fills: tuple[PaintSlot, ...]
    strokes: tuple[PaintSlot, ...]
    shadows: tuple[ShadowSlot, ...]
    outline: OutlineSlot | None
    colours: list[tuple[np.ndarray, np.ndarray, int, int, Space]]
    loose: list[tuple[float, float, int, int]]
    first_colour: int
    first_loose: int


_drawn: Cache[_Drawn] = Cache(4096)


def _drawn_alike(first: Layer, second: Layer) -> bool:
    """Whether the very same is drawn of two layers."""
    return first is second or (
        first.fills is second.fills
        and first.stroke is second.stroke
        and first.shadows is second.shadows
        and first.body is second.body
    )


class _Build(Mutable):
    a: Flat
    b: Flat
    merged: Merged
    transition: Transition
    looks: dict[Ids, Look]
    ids: list[Ids] = msgspec.field(default_factory=list)
    dense: list[tuple[list[float], list[float]]] = msgspec.field(default_factory=list)
    colours: list[tuple[np.ndarray, np.ndarray, int, int, Space]] = msgspec.field(default_factory=list)
    colour_count: int = 0
    loose: list[tuple[float, float, int, int]] = msgspec.field(default_factory=list)
    parts: list[SlotContents] = msgspec.field(default_factory=list)
    swaps: list[tuple[int, float]] = msgspec.field(default_factory=list)
    seconds: dict[int, list[Second]] = msgspec.field(default_factory=dict)
    held: list[tuple[int, int]] = msgspec.field(default_factory=list)

    def __post_init__(self) -> None:
        self.absents = {entry.layer: entry.pose for entry in self.transition.absents}
        self.settled = {PairKey(entry.from_id, entry.to_id): entry for entry in self.transition.settled}

    def add(self, s: int) -> None:
        """Lay out a slot. Where it depends on nothing but its two layers, it is taken from an earlier layout."""
        others_first()
        slot = self.merged.slots[s]
        left = self.a.layers[slot.left] if slot.left >= 0 else None
        right = self.b.layers[slot.right] if slot.right >= 0 else None
        ids = PairKey(left.id if left else None, right.id if right else None)
        self.ids.append(ids)
        plain = left is not None and right is not None and not slot.lifted and s not in self.seconds
        if not plain or ids in self.looks or ids in self.settled:
            self.lay(slot, s, ids, left, right)
            return
        counts = (len(self.colours), len(self.loose), len(self.swaps))

        def make() -> _Block:
            self.lay(slot, s, ids, left, right)
            colours, loose, swaps = counts
            return _Block(
                self.dense[-1], self.colours[colours:], self.loose[loose:], self.parts[-1], self.swaps[swaps:]
            )

        block = _blocks.get((left, right), (s, self.colour_count, len(self.loose)), make)
        if len(self.parts) <= s:
            self.dense.append(block.dense)
            self.colours += block.colours
            self.colour_count += sum(len(entry[0]) for entry in block.colours)
            self.loose += block.loose
            self.parts.append(block.part)
            self.swaps += block.swaps

    def lay(self, slot: Slot, s: int, ids: Ids, left: Layer | None, right: Layer | None) -> None:
        look = self.looks.get(ids, PLAIN)
        start, end = self.ends(slot, left, right)
        if (left is not None and left.any_turn) or (right is not None and right.any_turn):
            look = look.with_shortest("rotation")
        if look.shortest:
            shortest_ways(look, start, end)
        settled = self.settled.get(ids)
        change: Change = "" if left is None or right is None else change_of(left, right, settled)
        if change:
            end[COLUMN["mix"]] = 1.0
        if change == "swap":
            self.swaps.append((s, 0.5 if settled is None or settled.swap_at is None else settled.swap_at))
        self.dense.append((start, end))
        first, second = left or right, right or left
        if first is None or second is None:
            raise LookupError("a slot without a layer")
        if not change and s not in self.seconds and not look.spaces and not look.apart and _drawn_alike(first, second):
            fills, strokes, shadows, outline = self.put(first, s)
        else:
            fills = self.paints(first.fills, second.fills, s, "fill", look.space("fill"))
            strokes = self.paints(_ink(first), _ink(second), s, "stroke", look.space("stroke"))
            shadows = self.shadows(first.shadows, second.shadows, s, look.space("shadow"))
            outline = self.outline(first, second, change, s, look.apart, settled.shift if settled else 0.0)
        lines = self.dashes(left, right, s)
        others = (entry.layer.stroke for entry in self.seconds.get(s, ()))
        pen = first.stroke or second.stroke or next((stroke for stroke in others if stroke is not None), None)
        self.parts.append(SlotContents(left, right, fills, strokes, outline, change, shadows, lines, pen))

    def put(
        self, layer: Layer, s: int
    ) -> tuple[tuple[PaintSlot, ...], tuple[PaintSlot, ...], tuple[ShadowSlot, ...], OutlineSlot | None]:
        """What is drawn of a layer and becomes nothing else: laid out once, and put here."""
        first, colours, loose = len(self.colours), self.colour_count, len(self.loose)
        made: list[_Drawn] = []

        def make() -> _Drawn:
            fills = self.paints(layer.fills, layer.fills, s, "fill", "oklab")
            strokes = self.paints(_ink(layer), _ink(layer), s, "stroke", "oklab")
            shadows = self.shadows(layer.shadows, layer.shadows, s, "oklab")
            outline = self.outline(layer, layer, "", s, False, 0.0)
            numbers = self.colours[first:], self.loose[loose:]
            made.append(_Drawn(fills, strokes, shadows, outline, *numbers, colours, loose))
            return made[0]

        drawn = _drawn.get((layer.fills, layer.stroke, layer.shadows, layer.body), None, make)
        if made:
            return drawn.fills, drawn.strokes, drawn.shadows, drawn.outline
        for one, two, _, place, space in drawn.colours:
            self.colours.append((one, two, s, place, space))
            self.colour_count += len(one)
        self.loose += [(one, two, s, place) for one, two, _, place in drawn.loose]
        by = colours - drawn.first_colour, loose - drawn.first_loose
        fills, strokes = (tuple(paint.moved(*by) for paint in paints) for paints in (drawn.fills, drawn.strokes))
        shadows = tuple(shadow.moved(*by) for shadow in drawn.shadows)
        return fills, strokes, shadows, drawn.outline.moved(by[1]) if drawn.outline is not None else None

    def dashes(self, left: Layer | None, right: Layer | None, s: int) -> tuple[int, int] | None:
        """Where dashes have their numbers that become others."""
        if left is None or right is None or left.stroke is None or right.stroke is None:
            return None
        both = dashes.alike(left.stroke.dashes, right.stroke.dashes)
        if both is None:
            return None
        begin = len(self.loose)
        self.loose += [(x, y, s, _PLACE["stroke"]) for x, y in zip(*both, strict=True)]
        return begin, len(both[0])

    def ends(self, slot: Slot, left: Layer | None, right: Layer | None) -> tuple[list[float], list[float]]:
        start = row_in(self.a, slot.left, slot.lifted) if left else None
        end = row_in(self.b, slot.right, slot.lifted) if right else None
        if end is None and left is not None and start is not None:
            end = self.away(slot, left, start, self.a, slot.left)
        if start is None and right is not None and end is not None:
            start = self.away(slot, right, end, self.b, slot.right)
        if start is None or end is None:
            raise LookupError("a slot without a layer")
        if left is None or right is None:
            group = stay(self.merged, self.dense, slot, start, end)
            self.held += [(len(self.dense), group)] if group >= 0 else []
        if left and right and (left.stroke is None) != (right.stroke is None):
            # A stroke that only one side has fades at its own width and as it is cut.
            source = start if left.stroke is not None else end
            for name in _STROKE:
                start[COLUMN[name]] = end[COLUMN[name]] = source[COLUMN[name]]
        if left and right and isinstance(left.body, Text) != isinstance(right.body, Text):
            for name in ("type_size", "letter_spacing", "line_height"):
                column = COLUMN[name]
                source = start if isinstance(left.body, Text) else end
                start[column] = end[column] = source[column]
        return start, end

    def away(self, slot: Slot, layer: Layer, row: list[float], flat: Flat, index: int) -> list[float]:
        """The row of a layer where it is absent. Inside a group that is absent too it stays as it is."""
        inside = slot.parent >= 0 and (
            self.merged.slots[slot.parent].left < 0 or self.merged.slots[slot.parent].right < 0
        )
        up = int(flat.parent[index])
        is_mask = up >= 0 and isinstance(flat.layers[up].body, Group) and _mask_of(flat.layers[up]) == layer.id
        usual = self.transition.leave if slot.right < 0 else self.transition.enter
        pose = self.absents.get(layer.id, None if inside or is_mask else usual)
        return row.copy() if pose is None else posed(row, pose, flat, index, slot.lifted)

    def paints(
        self, left: tuple[Paint, ...], right: tuple[Paint, ...], s: int, prop: str, space: Space
    ) -> tuple[PaintSlot, ...]:
        made: list[PaintSlot] = []
        seconds = self.seconds.get(s, [])
        others = tuple((e.layer.fills if prop == "fill" else _ink(e.layer), e.of_right) for e in seconds)
        for entry in coupled(left, right, space, others):
            first = self.colour_count
            # A colour that fades keeps its hue: blended premultiplied, clear brings nothing of its own.
            self.colours.append((entry.left, entry.right, s, _PLACE[prop], space))
            self.colour_count += len(entry.left)
            loose = -1
            if entry.tails:
                loose = len(self.loose)
                self.loose += [(x, y, s, _PLACE[prop]) for x, y in entry.tails]
            for second, other in zip(seconds, entry.others, strict=True):
                if other is not None:
                    second.colours.append((first, other[0]))
                    second.loose.append((loose, other[1]))
            made.append(PaintSlot(entry.kind, first, len(entry.left), loose, entry.spread, entry.show, entry.pattern))
        return tuple(made)

    def shadows(
        self, left: tuple[Shadow, ...], right: tuple[Shadow, ...], s: int, space: Space
    ) -> tuple[ShadowSlot, ...]:
        """Shadows in turn, outer ones with outer ones; what one side lacks fades where it is."""
        made: list[ShadowSlot] = []
        seconds = self.seconds.get(s, [])
        if not left and not right and not seconds:
            return ()
        for inner in (False, True):
            stacks = [
                [shadow for shadow in shadows if shadow.inner is inner]
                for shadows in (left, right, *(entry.layer.shadows for entry in seconds))
            ]
            for k in range(max(map(len, stacks))):
                known = [stack[k] if k < len(stack) else None for stack in stacks]
                some = next(entry for entry in known if entry is not None)
                a, b = known[0] or cleared(known[1] or some), known[1] or cleared(known[0] or some)
                colours, loose = self.colour_count, len(self.loose)
                made.append(ShadowSlot(colours, loose, inner))
                place = _PLACE["shadow"]
                self.colours.append((*tints(a.color, b.color, space), s, place, space))
                self.colour_count += 1
                self.loose += [(x, y, s, place) for x, y in ((a.x, b.x), (a.y, b.y), (a.blur, b.blur))]
                for entry, own in zip(seconds, known[2:], strict=True):
                    base = b if entry.of_right else a
                    there = own or cleared(base)
                    one, two = tints(base.color, there.color, space)
                    entry.colours.append((colours, two - one))
                    moved = [there.x - base.x, there.y - base.y, there.blur - base.blur]
                    entry.loose.append((loose, np.array(moved)))
        return tuple(made)

    def outline(
        self, first: Layer, second: Layer, change: Change, s: int, apart: bool, shift: float
    ) -> OutlineSlot | None:
        if change == "reshape":
            rules = rule_of(first), rule_of(second)
            one, two = reshape.alike(outline_of(first), outline_of(second), shift, rules)
            return self.outline_slot(one, two, s)
        if change or not isinstance(first.body, Path) or not isinstance(second.body, Path):
            return None
        reshaped = [entry for entry in self.seconds.get(s, ()) if isinstance(entry.loop.changes.body, Path)]
        if first is second and len(reshaped) == 1 and not _same_nodes(first, reshaped[0].layer):
            # A frame at rest: the layer is cut as its loop's other outline needs it.
            one, two = reshape.alike(outline_of(first), outline_of(reshaped[0].layer))
            slot = self.outline_slot(one, one, s)
            reshaped[0].loose.append((slot.loose, _flat_points(two) - _flat_points(one)))
            return slot
        # In shares of the box when the box goes by a cue of its own.
        a, b = _path_numbers(first, apart), _path_numbers(second, apart)
        begin = len(self.loose)
        self.loose += [(x, y, s, _PLACE["shape"]) for x, y in zip(a, b, strict=True)]
        for entry in reshaped:
            base = second if entry.of_right else first
            if _same_nodes(base, entry.layer):
                moved = np.array(_path_numbers(entry.layer, apart)) - np.array(b if entry.of_right else a)
                entry.loose.append((begin, moved))
        return OutlineSlot(
            begin,
            tuple(len(sub.points) // 2 for sub in second.body.subpaths),
            tuple(sub.closed for sub in second.body.subpaths),
            apart,
        )

    def outline_slot(self, one: reshape.Outline, two: reshape.Outline, s: int) -> OutlineSlot:
        """Two outlines of one structure, in shares of the box."""
        begin = len(self.loose)
        for (a, _), (b, _) in zip(one, two, strict=True):
            numbers = zip(a.ravel().tolist(), b.ravel().tolist(), strict=True)
            self.loose += [(x, y, s, _PLACE["shape"]) for x, y in numbers]
        return OutlineSlot(begin, tuple(len(points) for points, _ in two), tuple(closed for _, closed in two), True)

    def frame(self, left: Frame, right: Frame) -> FrameSlot:
        """The numbers of the frame itself, laid out last; they belong to no slot."""
        made = FrameSlot(self.colour_count, len(self.loose))
        one, two = (np.array([colour.parse(side.background)]) for side in (left, right))
        self.colours.append((*spaces.between(one, two, "oklab"), -1, 0, "oklab"))
        self.colour_count += 1
        flip = (1.0, 1.0) if left is right else (0.0, 1.0)
        near = tuple(1.0 / side.perspective if side.perspective > 0.0 else 0.0 for side in (left, right))
        pairs = ((left.w, right.w), (left.h, right.h), near, flip)
        self.loose += [(x, y, -1, 0) for x, y in pairs]
        return made

    def finish(self, left: Frame, right: Frame) -> Layout:
        others_first()
        frame = self.frame(left, right)
        width = len(SCALARS)
        count = len(self.dense)
        dense = np.array(self.dense, float).reshape(-1, 2, width)
        loose = np.array(self.loose, float).reshape(-1, 4)
        where = loose[:, 2:].astype(np.intp)
        colour_a = np.concatenate([c[0] for c in self.colours])
        colour_b = np.concatenate([c[1] for c in self.colours])
        named = {space: k for k, space in enumerate(spaces.SPACES)}
        owner = np.array([(len(c[0]), c[2], c[3], named[c[4]]) for c in self.colours], np.intp)
        slot_of_colour, prop_of_colour = (np.repeat(owner[:, k], 4 * owner[:, 0]) for k in (1, 2))
        in_space = np.repeat(owner[:, 3], owner[:, 0])
        return Layout(
            self.a,
            self.b,
            self.merged,
            tuple(self.ids),
            tuple(self.parts),
            np.concatenate([dense[:, 0].ravel(), colour_a.ravel(), loose[:, 0]]),
            np.concatenate([dense[:, 1].ravel(), colour_b.ravel(), loose[:, 1]]),
            np.concatenate([np.repeat(np.arange(count), width), slot_of_colour, where[:, 0]]),
            np.concatenate([np.tile(_OF_COLUMNS, count), prop_of_colour, where[:, 1]]),
            in_space,
            tuple(self.swaps),
            frame,
            tuple(
                entry.laid_out(count * width, self.colour_count)
                for s in sorted(self.seconds)
                for entry in self.seconds[s]
            ),
            tuple(self.held),
        )


def shortest_ways(look: Look, start: list[float], end: list[float]) -> None:
    """Angles that shall not go as typed end less than half a turn from where they begin: the same angle."""
    for prop, names in (("rotation", ("rotation",)), ("rotation_xy", ("rotation_x", "rotation_y"))):
        if prop in look.shortest:
            for name in names:
                column = COLUMN[name]
                end[column] = start[column] + shortest_turn(end[column] - start[column])


def _ink(layer: Layer) -> tuple[Paint, ...]:
    """The paint of its stroke."""
    return (layer.stroke.paint,) if layer.stroke else ()


def _same_nodes(first: Layer, second: Layer) -> bool:
    """Whether two paths have the same subpaths with the same number of nodes."""
    one, two = (
        [(len(sub.points), sub.closed) for sub in layer.body.subpaths] if isinstance(layer.body, Path) else []
        for layer in (first, second)
    )
    return one == two


def _flat_points(outline: reshape.Outline) -> Floats:
    return np.concatenate([points.ravel() for points, _ in outline])


def _mask_of(layer: Layer) -> str:
    return mask_of(layer)


def shortest_turn(by: float) -> float:
    """A turn by degrees as one of at most half a circle: the same angle in the end.

    >>> [shortest_turn(by) for by in (350.0, -190.0, 180.0, 720.0)]
    [-10.0, 170.0, 180.0, 0.0]
    """
    turned = (by + 180.0) % 360.0 - 180.0
    return 180.0 if turned == -180.0 and by > 0 else turned


def _of_path(body: Path) -> np.ndarray:
    return np.array([v for sub in body.subpaths for v in sub.points], float).reshape(-1, 2)


_points = by_identity(_of_path)


def _path_numbers(layer: Layer, unit: bool) -> list[float]:
    numbers = _points(layer.body)
    if unit:
        numbers = numbers / np.array([layer.w or 1.0, layer.h or 1.0])
    flat: list[float] = numbers.ravel().tolist()
    return flat
