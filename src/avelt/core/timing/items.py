"""A scene as a tree of things to paint: plain data, in paint order. Painters decide nothing more."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from typing import Any, TypeVar

from avelt.core.arrays import Floats, np
from avelt.core.blending.rolling import columns
from avelt.core.cache import Cache
from avelt.core.geometry import affine, tilt
from avelt.core.geometry.bezier import box_outline
from avelt.core.model.kinds import group_of, words_of
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Body, Box, Group, Layer, Oval, Path, Picture, Stroke, Text, Use
from avelt.core.record import Record
from avelt.core.timing.content import rule_of
from avelt.core.timing.painted import Brush, Item, Pen, Shade
from avelt.core.timing.plain_leaves import CLEAR, OF_PLAIN, Plain, boxes, numbers_of, ovals, plain_leaves
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.slots import OutlineSlot, PaintSlot, SlotContents

_OPACITY, _MIX, _W, _H = COLUMN["opacity"], COLUMN["mix"], COLUMN["w"], COLUMN["h"]
_RADII = slice(COLUMN["radius_1"], COLUMN["radius_4"] + 1)
_WIDTH, _OFFSET = COLUMN["stroke_width"], COLUMN["dash_offset"]
_TRIM = slice(COLUMN["trim_start"], COLUMN["trim_offset"] + 1)
_BLUR, _BACK_BLUR = COLUMN["blur"], COLUMN["back_blur"]
_TYPE, _LETTER_SPACING, _LINE = COLUMN["type_size"], COLUMN["letter_spacing"], COLUMN["line_height"]
_CUT = slice(COLUMN["cut_top"], COLUMN["cut_left"] + 1)
_ROTATION_X, _ROTATION_Y = COLUMN["rotation_x"], COLUMN["rotation_y"]
_NO_STOPS = np.zeros(1)
_KEPT_ITEMS = 60_000
Row = list[float]
V = TypeVar("V")


Matrix = tuple[float, ...]
Matrices = Mapping[int, Matrix]


def items(scene: Scene) -> list[Item]:
    """The scene's top items in paint order; what cannot be seen is left out."""
    known: Matrices | None = scene.__dict__.get("own_matrices")
    return items_in(scene, -1, matrices_now(scene) if known is None else known)


def matrices_now(scene: Scene, slots: np.ndarray | None = None) -> Matrices:
    """The transforms of slots (all unless told) to their parents; where nothing moves all, made once a program."""
    every = np.arange(len(scene.program.contents))
    if scene.vector is not scene.program.start:
        return matrices_of(scene, every if slots is None else slots)
    return _kept_with(scene.program, "start_matrices", scene.perspective, lambda: matrices_of(scene, every))


def _kept_with(program: Program, name: str, key: Hashable, make: Callable[[], V]) -> V:
    """Something made once for a program, and kept as long as it."""
    kept: dict[Hashable, V] = program.__dict__.setdefault(name, {})
    if key not in kept:
        kept[key] = make()
    return kept[key]


def matrices_of(scene: Scene, slots: np.ndarray) -> Matrices:
    """The transforms of slots (n,) to their parents: six numbers each, nine where turned out of the plane."""
    rows = scene.scalars if len(slots) == len(scene.scalars) else scene.scalars[slots]
    found: dict[int, Matrix] = dict(zip(slots.tolist(), map(tuple, affine.compose(rows[:, :10]).tolist()), strict=True))
    turned = np.flatnonzero(rows[:, _ROTATION_X] != 0.0) if len(rows) else np.zeros(0, np.intp)
    turned = np.union1d(turned, np.flatnonzero(rows[:, _ROTATION_Y] != 0.0)).astype(np.intp)
    for k in turned.tolist():
        row = rows[k]
        found[int(slots[k])] = tuple(
            tilt.tilted(row[:10], float(row[_ROTATION_X]), float(row[_ROTATION_Y]), scene.perspective).ravel().tolist()
        )
    return found


def items_in(scene: Scene, parent: int, matrices: Matrices) -> list[Item]:
    """The items that lie in a slot (-1: the frame), in paint order."""
    made: list[Item] = []
    for s in scene.order.get(parent, ()):
        made += item_of(scene, s, matrices)
    return made


def item_of(scene: Scene, s: int, matrices: Matrices) -> Sequence[Item]:
    """The items that a slot is now: none when it cannot be seen, two while two contents fade over each other.

    In a frame that stands they are those of the layer, whatever else was edited: they are kept with it.
    """
    program = scene.program
    if scene.vector is program.start:
        inner = scene.inside.get(s)
        if inner is not None and "leaves" in inner.__dict__:
            return _use_that_stands(scene, s, inner, matrices)
    if scene.vector is program.start and program.clocks.stands and not scene.inside:
        return _standing.get((program.contents[s].layer,), (s, scene.perspective), lambda: _made(scene, s, matrices))
    if _is_fixed(scene, s):
        return _kept_with(program, "fixed_items", (s, scene.flipped), lambda: _made(scene, s, matrices))
    made: dict[int, Sequence[Item]] = scene.__dict__.setdefault("items_made", {})
    if s not in made:
        made[s] = _made(scene, s, matrices)
    return made[s]


def _use_that_stands(scene: Scene, s: int, inner: Scene, matrices: Matrices) -> Sequence[Item]:
    """A use of which nothing moves but what lies in it: the item that it was before, with other leaves."""
    kept: dict[tuple[int, Program], Sequence[Item]] = scene.program.__dict__.setdefault("uses_that_stand", {})
    key = s, inner.program
    known = kept.get(key)
    if known is None:
        known = kept[key] = _made(scene, s, matrices)
    if len(known) != 1 or known[0].children:
        return _made(scene, s, matrices)
    one = known[0]
    return (
        Item(s, one.layer, one.matrix, one.opacity, one.w, one.h, clips=one.clips, leaves=inner.__dict__["leaves"]),
    )


_standing: Cache[Sequence[Item]] = Cache(_KEPT_ITEMS)


def _plain(scene: Scene, s: int, plain: Plain, matrix: Matrix) -> Sequence[Item]:
    """The item of a layer that is as simple as most: the same that ``_leaf`` makes of it, sooner."""
    opacity, w, h, *corners = numbers_of(scene.vector, s, OF_PLAIN)
    if opacity < CLEAR:
        return ()
    colours = scene.colours[plain.colour : plain.colour + 1]
    fills = [Brush("solid", colours, _NO_STOPS, (), (), "pad")] if colours.item(3) > 0.0 else []
    w, h = max(0.0, w), max(0.0, h)
    radii: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)
    if plain.box:
        radii, outline = boxes(w, h, tuple(corners))
    else:
        outline = ovals(w, h)
    item = Item(s, plain.layer, matrix, min(1.0, opacity), w, h, fills, None, [(outline, True)])
    item.radii, item.plain = radii, True
    item.still, item.stays, item.whole = _stands(scene, s)
    return (item,)


def _is_fixed(scene: Scene, s: int) -> bool:
    """Whether the items of a slot are the same in every such scene of the program."""
    stands = scene.program.stands
    if scene.bent or not stands.fixed[s] or s in scene.inside or scene.program.is_absent(s, scene.at):
        return False
    return not (scene.scrolled and s in stands.goes)


def _stands(scene: Scene, s: int) -> tuple[bool, bool, bool]:
    """Whether an item is still, stays, and is whole; of a scene with numbers of its own nobody knows."""
    return (False, False, False) if scene.bent else scene.program.stands.of_items[s]


def _made(scene: Scene, s: int, matrices: Matrices) -> Sequence[Item]:
    plain = plain_leaves(scene.program)[s]
    if plain is not None and s not in scene.inside:
        return _plain(scene, s, plain, matrices[s])
    row: Row = scene.scalars[s].tolist()
    opacity = min(1.0, row[_OPACITY])
    if opacity < CLEAR or scene.program.is_absent(s, scene.at):
        return ()
    part = scene.program.contents[s]
    matrix = matrices[s]
    w, h = max(0.0, row[_W]), max(0.0, row[_H])
    still = bool(scene.program.stands.still[s])
    if isinstance(part.layer.body, Group):
        return (_group(scene, s, part, row, opacity, w, h, matrix, matrices, still),)
    both = part.both
    if s in scene.inside and (not part.change or both is None):
        return (_use(scene, s, scene.inside[s], _shown(part, scene.flipped), part, row, opacity, w, h, matrix),)
    if part.change in ("roll", "reshape") and both is not None:
        share = row[_MIX]
        layer = both[0] if share <= 0.0 else both[1] if share >= 1.0 else _shown(part, scene.flipped)
        item = _leaf(scene, s, layer, part, row, matrix, opacity, w, h, still)
        if share not in (0.0, 1.0):
            _between(scene, item, part, both, share)
        return (item,)
    if not part.change or both is None:
        layer = _shown(part, scene.flipped)
        return (_leaf(scene, s, layer, part, row, matrix, opacity, w, h, still),)
    # Two contents over each other: the arriving one fades in over the leaving one, which goes as it is covered.
    mix = min(1.0, max(0.0, row[_MIX]))
    found = []
    for layer, share in ((both[0], 1.0 - mix), (both[1], mix)):
        if share <= 0.0:
            continue
        inner = scene.inside.get(~s if layer is both[1] else s, scene.inside.get(s))
        if inner is not None and isinstance(layer.body, Use):
            found.append(_use(scene, s, inner, layer, part, row, opacity * share, w, h, matrix))
        else:
            found.append(_leaf(scene, s, layer, part, row, matrix, opacity * share, w, h, False))
    return found


def _shown(part: SlotContents, flipped: bool) -> Layer:
    if part.left is None or part.right is None:
        return part.layer
    return part.right if flipped else part.left


def _group(
    scene: Scene,
    s: int,
    part: SlotContents,
    row: Row,
    opacity: float,
    w: float,
    h: float,
    matrix: Matrix,
    matrices: Matrices,
    still: bool,
) -> Item:
    layer = _shown(part, scene.flipped)
    body = group_of(layer) or Group()
    clips = any(
        side is not None and isinstance(side.body, Group) and side.body.clips for side in (part.left, part.right)
    )
    children = items_in(scene, s, matrices)
    item = Item(s, layer, matrix, opacity, w, h, clips=clips, mask_by=body.mask_by, isolates=body.isolates)
    _, item.stays, item.whole = _stands(scene, s)
    _effects(scene, part, row, item)
    for child in children:
        if body.mask and child.layer.id == body.mask:
            item.mask = child
        else:
            item.children.append(child)
    if body.mask and item.mask is None and not any(c.layer.id == body.mask for c in children):
        # The mask lets nothing through now (or is of the other frame): an empty one keeps that true.
        known = any(
            side is not None and side.id == body.mask
            for t in scene.order.get(s, ())
            for side in (scene.program.contents[t].left, scene.program.contents[t].right)
        )
        if known:
            item.mask = Item(s, layer, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), 0.0, 0.0, 0.0)
    item.still = still and all(child.still for child in item.children) and (item.mask is None or item.mask.still)
    return item


def _use(
    scene: Scene,
    s: int,
    inner: Scene,
    layer: Layer,
    part: SlotContents,
    row: Row,
    opacity: float,
    w: float,
    h: float,
    matrix: Matrix,
) -> Item:
    """A slot in which another scene stands: that scene's items, scaled to its box."""
    item = Item(s, layer, matrix, opacity, w, h, stays=_stands(scene, s)[1])
    _effects(scene, part, row, item)
    x, y = scale_inside(inner, w, h, layer)
    leaves = inner.__dict__.get("leaves")
    if leaves is not None and opacity >= 1.0 and (x, y) == (1.0, 1.0) and _is_bare(item):
        item.leaves, item.clips = leaves, inner.program.left.clips
        return item
    item.children = [*_ground(inner, s, layer), *items(inner)]
    item.clips = inner.program.left.clips and inner.program.right.clips
    if (x, y) != (1.0, 1.0):
        # The items of a standing scene are kept: one more between takes them to the box.
        between = Item(s, layer, (x, 0.0, 0.0, y, 0.0, 0.0), 1.0, w / x, h / y, children=item.children)
        between.stays = item.stays
        item.children = [between]
    return item


def _is_bare(item: Item) -> bool:
    """Whether nothing is done with all of it together."""
    return not (item.cut or item.shades or item.blur or item.back_blur) and item.blend == "normal"


def _ground(inner: Scene, s: int, layer: Layer) -> list[Item]:
    """What lies beneath a scene that stands in a slot: its background, where it has one."""
    ground = inner.background
    if ground[3] < CLEAR:
        return []
    w, h = inner.size
    brush = Brush("solid", ground[None], _NO_STOPS, (), (), "pad")
    outline = [(box_outline(w, h, (0.0,) * 4), True)]
    return [Item(s, layer, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), 1.0, w, h, [brush], outline=outline, free=True)]


def scale_inside(inner: Scene, w: float, h: float, layer: Layer) -> tuple[float, float]:
    """How many times as large a scene is shown in the box of a layer: in x and y."""
    if isinstance(layer.body, Use) and layer.body.fit == "keep":
        return 1.0, 1.0
    width, height = inner.size
    return (w / width if width > 0 and w > 0 else 1.0, h / height if height > 0 and h > 0 else 1.0)


def _leaf(
    scene: Scene,
    s: int,
    layer: Layer,
    part: SlotContents,
    row: Row,
    matrix: Matrix,
    opacity: float,
    w: float,
    h: float,
    still: bool,
) -> Item:
    item = Item(s, layer, matrix, opacity, w, h)
    _, item.stays, item.whole = _stands(scene, s)
    item.still = still
    _effects(scene, part, row, item)
    item.fills = [brush for paint in part.fills if (brush := _brush(scene, paint)) is not None]
    body = layer.body
    if layer.stroke is not None or part.stroke:
        source = layer.stroke or part.pen
        width = row[_WIDTH]
        brush = _brush(scene, part.stroke[0]) if part.stroke else None
        if source and width > 0 and brush is not None:
            start, end, offset = row[_TRIM]
            item.pen = Pen(
                brush,
                width,
                source.cap,
                source.join,
                source.miter,
                _dashes(scene, part, source),
                row[_OFFSET],
                (start, end, offset),
                source.under,
            )
    FORMS[type(body)](Form(scene, part, layer, row, w, h), body, item)
    return item


class Form(Record, frozen=True):
    """What a layer is given its form from: its numbers now, and its box."""

    scene: Scene
    part: SlotContents
    layer: Layer
    row: Row
    w: float
    h: float


def _box(form: Form, body: Box, item: Item) -> None:
    radii = tuple(form.row[_RADII]) if not form.part.change else body.radii
    item.radii, outline = boxes(form.w, form.h, radii)
    item.outline = [(outline, True)]


def _oval(form: Form, body: Oval, item: Item) -> None:
    item.outline = [(ovals(form.w, form.h), True)]


def _path(form: Form, body: Path, item: Item) -> None:
    item.rule = body.rule
    item.outline = (
        _outline(form.scene, form.part.outline, form.w, form.h, item.slot)
        if form.part.outline is not None and not form.part.change
        else _own_outline(form.layer, body, form.w, form.h)
    )


def _text(form: Form, body: Text, item: Item) -> None:
    item.text = body
    item.type_size, item.letter_spacing, item.line_height = (form.row[c] for c in (_TYPE, _LETTER_SPACING, _LINE))


def _picture(form: Form, body: Picture, item: Item) -> None:
    item.picture = body


def _nothing(form: Form, body: Group, item: Item) -> None:
    """A group is what lies in it."""


def _no_part(form: Form, body: Use, item: Item) -> None:
    """A use whose part is not there shows nothing; one whose part is there is the scene in its slot."""


#: What is painted of each kind, by the type of its body.
FORMS: dict[type[Body], Callable[[Form, Any, Item], None]] = {
    Box: _box,
    Oval: _oval,
    Path: _path,
    Text: _text,
    Picture: _picture,
    Group: _nothing,
    Use: _no_part,
}


def _dashes(scene: Scene, part: SlotContents, source: Stroke) -> tuple[float, ...]:
    """Dashes on their way; at an end just as the stroke there has them."""
    if part.dashes is None or part.left is None or part.right is None:
        return source.dashes
    program = scene.program
    first = program.colours_end + part.dashes[0]
    place = slice(first, first + part.dashes[1])
    now = scene.vector[place]
    for stroke, vector in ((part.left.stroke, program.start), (part.right.stroke, program.end)):
        if stroke is not None and np.array_equal(now, vector[place]):
            return stroke.dashes
    return tuple(max(0.0, value) for value in now.tolist())


def _between(scene: Scene, item: Item, part: SlotContents, both: tuple[Layer, Layer], share: float) -> None:
    """What an item shows on its way between two contents."""
    if part.outline is not None:
        item.outline = _outline(scene, part.outline, item.w, item.h, item.slot)
        item.free = True
        rules = {rule_of(side) for side in both}
        item.rule = rules.pop() if len(rules) == 1 else "nonzero"
    else:
        item.rolling = columns(words_of(both[0]), words_of(both[1]), share)


def _effects(scene: Scene, part: SlotContents, row: Row, item: Item) -> None:
    """Blur, shadows and blend of a slot; what lies beneath matters to its ``still`` as it does to blending."""
    item.blend = item.layer.blend
    cut = row[_CUT]
    if any(cut):
        item.cut = tuple(min(1.0, max(0.0, share)) for share in cut)
    item.blur, item.back_blur = max(0.0, row[_BLUR]), max(0.0, row[_BACK_BLUR])
    for slot in part.shadows:
        shade = scene.colours[slot.colour]
        if shade[3] > 0.0:
            x, y, blur = scene.loose[slot.loose : slot.loose + 3].tolist()
            item.shades.append(Shade(shade, x, y, max(0.0, blur), slot.inner))


def _brush(scene: Scene, paint: PaintSlot) -> Brush | None:
    colours = scene.colours[paint.colour : paint.colour + paint.count]
    if paint.show != "both":
        share = _progress_of(scene, paint)
        colours = colours.copy()
        colours[:, 3] *= share
    if not (colours[0, 3] > 0.0 if paint.count == 1 else (colours[:, 3] > 0).any()):
        return None
    if paint.kind == "solid":
        return Brush("solid", colours, _NO_STOPS, (), (), "pad")
    first, k = paint.loose, paint.count
    numbers = scene.loose[first : first + k + 9]
    return Brush(
        paint.kind,
        colours,
        numbers[:k],
        tuple(numbers[k : k + 6].tolist()),
        tuple(numbers[k + 6 :].tolist()),
        paint.spread,
        paint.pattern,
    )


def _progress_of(scene: Scene, paint: PaintSlot) -> float:
    """How much of a cross-faded paint shows: by time, as its numbers stand still."""
    length = scene.program.duration
    share = min(1.0, max(0.0, scene.at / length)) if length > 0 else 1.0
    return share if paint.show == "right" else 1.0 - share


def _outline(scene: Scene, slot: OutlineSlot, w: float, h: float, s: int) -> list[tuple[Floats, bool]]:
    """The outline now; one that does not change in a program is cut once and kept."""
    program = scene.program
    kept = program.kept_outlines.get(s)
    if kept is not None and kept[0] == (w, h):
        return kept[1]
    count = sum(slot.lengths)
    points = scene.loose[slot.loose : slot.loose + count * 2].reshape(-1, 2)
    keeps = not program.changes(program.colours_end + slot.loose, count * 2)
    if slot.unit:
        points = points * np.array([w or 1.0, h or 1.0])
    if keeps:
        points = points.copy()
        points.flags.writeable = False
    made, first = [], 0
    for length, closed in zip(slot.lengths, slot.closed, strict=True):
        made.append((points[first : first + length], closed))
        first += length
    if keeps:
        program.kept_outlines[s] = (w, h), made
    return made


def _own_outline(layer: Layer, body: Path, w: float, h: float) -> list[tuple[Floats, bool]]:
    """A path that keeps its own structure, stretched to the box it has now."""
    stretch = np.array([w / layer.w if layer.w else 1.0, h / layer.h if layer.h else 1.0])
    return [(np.array(sub.points, float).reshape(-1, 2) * stretch, sub.closed) for sub in body.subpaths]
