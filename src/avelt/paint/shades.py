"""What pictures that are kept depend on, and how shadows are made of less."""

from __future__ import annotations

import math
from collections.abc import Hashable

from PySide6.QtGui import QImage, QTransform

from avelt.core.arrays import np
from avelt.core.record import Record
from avelt.core.timing.painted import Brush, Item, Shade
from avelt.core.timing.plain_leaves import boxes
from avelt.paint.effects import from_pixels, pixels

_OPAQUE = 1.0 - 1e-6
_SOFT = 2.0  # px of the device: a shadow with such a deviation has no edge to be seen
_SIZES = 4  # in which such a shadow is kept from a size to its double
_SURE = 4  # px that a blur may reach further than three deviations, as it is rounded


def bare(item: Item) -> Item:
    """The item without its effects."""
    return Item(
        item.slot,
        item.layer,
        item.matrix,
        1.0,
        item.w,
        item.h,
        pen=item.pen,
        outline=item.outline,
        text=item.text,
        type_size=item.type_size,
        picture=item.picture,
        free=item.free,
        rolling=item.rolling,
    )


def only_casts(item: Item) -> bool:
    """Whether shadows outside of it are all that is done with an item which is no group."""
    if not item.shades or item.children or item.leaves or item.opacity < 1.0 or any(s.inner for s in item.shades):
        return False
    plain = item.blend == "normal" and item.mask is None and not item.isolates
    return plain and item.blur <= 0.0 and item.back_blur <= 0.0 and not item.cut


class Short(Record, frozen=True):
    """An item, perhaps one with columns and rows of pixels taken out of its middle, where they are all alike."""

    item: Item
    across: tuple[int, int] = (0, 0)  # from where, and how many
    down: tuple[int, int] = (0, 0)

    def with_middle(self, image: QImage, left: int, top: int) -> QImage:
        """A picture of it, whose corner is there, with all of them."""
        values = pixels(image)
        for axis, (at, count), first in ((1, self.across, left), (0, self.down, top)):
            if count:
                repeats = np.ones(values.shape[axis], np.intp)
                repeats[at - first] += count
                values = np.repeat(values, repeats, axis)
        return from_pixels(values) if self.across[1] or self.down[1] else image


def without_middle(item: Item, matrix: QTransform, deviation: float) -> Short:
    """A box whose shadow is to be blurred by so many px of the device: what lies further from its edges than the blur
    reaches need not be blurred."""
    fills = _alike_everywhere(item.fills)
    turned = matrix.m12() != 0.0 or matrix.m21() != 0.0 or min(matrix.m11(), matrix.m22()) <= 0.0
    if not fills or turned or item.form != "box" or item.pen is not None:
        return Short(item)
    wide, high = item.w * matrix.m11(), item.h * matrix.m22()
    round_ = min(max(item.radii), min(item.w, item.h) / 2) * max(matrix.m11(), matrix.m22())
    edge = math.ceil(round_ + 3.0 * deviation) + _SURE
    across, down = (max(0, math.floor(length) - 2 * edge) for length in (wide, high))
    if not (across or down):
        return Short(item)
    w, h = (wide - across) / matrix.m11(), (high - down) / matrix.m22()
    radii, outline = boxes(w, h, item.radii)
    small = bare(item)
    small.w, small.h, small.radii, small.outline, small.fills = w, h, radii, [(outline, True)], fills
    return Short(small, (edge, across), (edge, down))


def _alike_everywhere(fills: list[Brush]) -> list[Brush]:
    """Paint that casts the same shadow and is the same all over; empty where there is none."""
    if all(brush.kind == "solid" for brush in fills):
        return fills
    opaque = any(brush.pattern is None and float(brush.colours[:, 3].min()) >= _OPAQUE for brush in fills)
    return [Brush("solid", np.array([[0.0, 0.0, 0.0, 1.0]]), np.zeros(1), (), (), "pad")] if opaque else []


def scaled_by(matrix: QTransform, scale: float, deviation: float) -> float:
    """How much smaller than the picture of it that is kept a shadow is drawn: 1 where it must be painted as it is.

    Of what grows or shrinks as a whole every picture would want a shadow of its own. A soft one looks the same when it
    is painted a little larger and made smaller, so one serves for a step of sizes. ``scale``: pixels to a px of the
    frame; ``deviation``: of its blur, px of the device.
    """
    size = matrix.m11()
    even = matrix.m12() == matrix.m21() == 0.0 and abs(matrix.m22() - size) <= 1e-9 * size
    if deviation < _SOFT or not even or scale <= 0.0 or abs(size / scale - 1.0) < 1e-9:
        return 1.0
    steps = math.log2(size / scale) * _SIZES
    return float(2.0 ** ((steps - math.ceil(steps)) / _SIZES))


def shade_key(item: Item, matrix: QTransform, entry: Shade) -> tuple[object, ...]:
    """All that a shadow's picture depends on, apart from where it stands."""
    outline = tuple(points.tobytes() for points, _ in item.outline or ())
    pen = (item.pen.width, item.pen.trim, item.pen.brush.colours.tobytes()) if item.pen is not None else None
    turn = tuple(round(v, 5) for v in (matrix.m11(), matrix.m12(), matrix.m21(), matrix.m22()))
    fills = tuple(brush.colours.tobytes() for brush in item.fills)
    return (
        item.form,
        item.rolling,
        item.w,
        item.h,
        outline,
        pen,
        turn,
        fills,
        item.type_size,
        item.letter_spacing,
        entry.colour.tobytes(),
        entry.blur,
    )


def what_is_drawn(item: Item) -> tuple[object, ...] | None:
    """The layers that say what something that stays shows, in paint order: none for a layer whose key says it all;
    ``None`` where something in it is on its way. Of groups in it their key says the rest (``sheet_key``)."""
    if not item.children and not item.leaves and is_simple(item):
        return ()
    if not item.children or not all(child.whole for child in item.children):
        return None
    if item.mask is not None and not item.mask.whole:
        return None
    return tuple(child.layer for child in _inside(item) if not child.children)


def as_painted(item: Item, matrix: QTransform, area: Hashable) -> tuple[tuple[object, ...], tuple[object, ...]] | None:
    """The layers and all else that says what an item that rests puts on a canvas, whatever program it is of; ``None``
    where they do not."""
    drawn = what_is_drawn(item)
    if drawn is None and item.whole and not (item.children or item.leaves):
        drawn = (item.layer,)
    if drawn is None:
        return None
    own = (item.opacity, item.blend, item.back_blur, item.isolates, len(drawn))
    return drawn, (own, sheet_key(item, matrix, area))


def _inside(item: Item) -> list[Item]:
    """All that lies in an item, parents first."""
    found: list[Item] = []
    todo = [*item.children, *([item.mask] if item.mask is not None else ())]
    while todo:
        child = todo.pop()
        found.append(child)
        todo += child.children
        if child.mask is not None:
            todo.append(child.mask)
    return found


def sheet_key(item: Item, matrix: QTransform, area: Hashable) -> tuple[object, ...]:
    """What else a group's sheet depends on: what is done with all of it and of the groups in it, and where they stand.
    Not its opacity. Groups are known by that, not by their layers: one that lost a layer on its way is another value.
    """
    place = tuple(getattr(matrix, f"m{row}{column}")() for row in (1, 2, 3) for column in (1, 2, 3))
    groups = tuple(
        (
            child.matrix,
            child.opacity,
            child.blend,
            child.back_blur,
            child.isolates,
            len(child.children),
            _done_with(child),
        )
        for child in _inside(item)
        if child.children
    )
    return (place, area, _done_with(item), look_of(item), groups)


def _done_with(item: Item) -> tuple[object, ...]:
    """What is done with all of an item together."""
    shades = tuple((s.colour.tobytes(), s.x, s.y, s.blur, s.inner) for s in item.shades)
    return (item.w, item.h, item.cut, item.blur, shades, item.mask is not None, item.mask_by, item.clips)


def is_simple(item: Item) -> bool:
    """Whether ``look_of`` is all that there is to see of a layer."""
    plain = not item.rolling and item.pen is None and item.picture is None
    return plain and all(brush.kind == "solid" for brush in item.fills)


def look_of(item: Item) -> tuple[object, ...]:
    """A layer's form and colours; empty for a group."""
    if item.children:
        return ()
    outline = tuple((points.tobytes(), closed) for points, closed in item.outline or ())
    words = (item.text, item.type_size, item.letter_spacing, item.line_height) if item.text is not None else ()
    return (item.form, item.rule, item.radii, outline, words, *(brush.colours.tobytes() for brush in item.fills))
