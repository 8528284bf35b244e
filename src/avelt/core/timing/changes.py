"""What will change between two layers if they are one: words for the person who decides."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.model.kinds import kind_of
from avelt.core.model.values import Box, Layer, Path, Text
from avelt.core.pairing.engine import Pairing
from avelt.core.timing.content import same_form

_SAME = 0.5  # px


def what_changes(pairing: Pairing, from_id: str, to_id: str) -> tuple[str, ...]:
    """The properties that differ between a layer left and a layer arrived at, most seen first; empty for none."""
    a, b = pairing.left.flat, pairing.right.flat
    i, j = a.index[from_id], b.index[to_id]
    left, right = a.layers[i], b.layers[j]
    box_a, box_b = a.bounds[i], b.bounds[j]
    found: list[tuple[str, bool]] = [
        ("position", bool(np.hypot(*(box_a[:2] + box_a[2:] / 2 - box_b[:2] - box_b[2:] / 2)) > _SAME)),
        ("size", bool(np.abs(box_a[2:] - box_b[2:]).max() > _SAME)),
        (
            "rotation",
            left.rotation != right.rotation
            or (left.rotation_x, left.rotation_y) != (right.rotation_x, right.rotation_y),
        ),
        ("fill", left.fills != right.fills and not kind_of(left).holds),
        ("stroke", left.stroke != right.stroke),
        ("opacity", abs(float(a.opacity[i] - b.opacity[j])) > 1e-6),
        ("shadow", left.shadows != right.shadows),
        ("blur", (left.blur, left.back_blur) != (right.blur, right.back_blur)),
        *_of_body(left, right),
        ("order", _order_differs(pairing, i, j)),
    ]
    return tuple(word for word, differs in found if differs)


def _of_body(left: Layer, right: Layer) -> list[tuple[str, bool]]:
    one, other = left.body, right.body
    if isinstance(one, Text) and isinstance(other, Text):
        return [
            ("type size", one.size != other.size),
            ("weight", one.weight != other.weight),
            ("letter_spacing", one.letter_spacing != other.letter_spacing),
            ("words", one.words != other.words),
        ]
    if isinstance(one, Box) and isinstance(other, Box):
        return [("corners", one.radii != other.radii)]
    if isinstance(one, Path) and isinstance(other, Path):
        return [("shape", one.subpaths != other.subpaths)]
    return [("content", not same_form(left, right))]


def _order_differs(pairing: Pairing, i: int, j: int) -> bool:
    """Whether some other pair in the same group lies above on one side and below on the other."""
    groups = int(pairing.left.flat.parent[i]), int(pairing.right.flat.parent[j])
    kin = pairing.kin.get(groups)
    return kin is not None and bool(((kin[0] < i) != (kin[1] < j))[kin[0] != i].any())
