"""What a kept shadow depends on."""

from __future__ import annotations

from PySide6.QtGui import QTransform

from avelt.core.timing.painted import Item, Shade


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
