"""Which items are painted together, which are kept, and what a kept shadow depends on."""

from __future__ import annotations

from PySide6.QtGui import QTransform

from avelt.core.timing.items import Item, Shade
from avelt.core.timing.program import Program
from avelt.paint.outlines import own_transform


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


def mixes(item: Item) -> bool:
    """Whether what it looks like depends on what lies beneath."""
    if item.blend != "normal" or item.back_blur > 0.0:
        return True
    alone = item.isolates or item.mask is not None or item.opacity < 1.0 or item.blur > 0.0 or bool(item.shades)
    return not alone and any(mixes(child) for child in item.children)


def opens(item: Item) -> bool:
    """Whether a group is painted as if its layers lay beside it."""
    effects = (
        item.blur > 0.0 or item.shades or item.back_blur > 0.0 or item.blend != "normal" or item.isolates or item.cut
    )
    return bool(item.children) and item.opacity >= 1.0 and item.mask is None and not item.clips and not effects


def flat_items(
    level: list[Item], base: QTransform, program: Program, out: list[tuple[Item, QTransform, bool]], fixed: bool = True
) -> None:
    """Items with their transform; plain groups that hold something moving are opened."""
    for item in level:
        matrix = own_transform(item) * base
        mixing = program.mixes and mixes(item)
        if opens(item) and (not item.still or mixing):
            flat_items(item.children, matrix, program, out, fixed and bool(program.still[item.slot]))
        else:
            out.append((item, matrix, fixed and item.still and not mixing))
