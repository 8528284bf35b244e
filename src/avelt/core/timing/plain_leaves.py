"""Layers of a program that are as simple as most are: a box or an oval with one solid fill and nothing else about it.

What they are painted as needs a few numbers only, so where many play at once they are looked up once a program.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

from avelt.core.arrays import Floats, np
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import box_outline, fit_radii, oval_outline
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Box, Layer, Oval
from avelt.core.record import Record
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.slots import SlotContents

CLEAR = 1.0 / 1024.0  # less than this of opacity cannot be seen in 8 bits
OF_PLAIN = (*(COLUMN[name] for name in ("opacity", "w", "h")), *range(COLUMN["radius_1"], COLUMN["radius_4"] + 1))
_TURNED = (COLUMN["rotation_x"], COLUMN["rotation_y"])
_WIDTH = len(SCALARS)
Shape = tuple[float, float, float, Floats | None]
#: What must be nothing, and stay so.
_NONE = tuple(COLUMN[name] for name in ("blur", "back_blur", "cut_top", "cut_right", "cut_bottom", "cut_left"))


class Plain(Record, frozen=True):
    """One such layer, where its one colour is, and whether it is a box."""

    layer: Layer
    colour: int
    box: bool


def plain_leaves(program: Program) -> tuple[Plain | None, ...]:
    """For each slot what it is, where it is as simple; remembered with the program."""
    found: tuple[Plain | None, ...] | None = program.__dict__.get("plain_leaves")
    if found is None:
        written = np.zeros(len(program.start), bool)
        for track in program.tracks:
            written[track.written] = True
        found = tuple(_of(program, s, part, written) for s, part in enumerate(program.contents))
        program.__dict__["plain_leaves"] = found
    return found


def _of(program: Program, s: int, part: SlotContents, written: np.ndarray) -> Plain | None:
    layer = part.right
    if layer is None or part.left is not layer or part.change or not isinstance(layer.body, Box | Oval):
        return None
    if layer.stroke is not None or part.stroke or part.shadows or layer.blend != "normal" or len(part.fills) != 1:
        return None
    paint = part.fills[0]
    if paint.kind != "solid" or paint.pattern is not None or paint.show != "both" or paint.count != 1:
        return None
    first = s * _WIDTH
    nothing = [first + column for column in _NONE]
    if written[nothing].any() or program.start[nothing].any():
        return None
    return Plain(layer, paint.colour, isinstance(layer.body, Box))


def numbers_of(vector: Floats, s: int, columns: tuple[int, ...]) -> tuple[float, ...]:
    """A few of the dense numbers of a slot, as plain floats."""
    first, item = s * _WIDTH, vector.item
    return tuple([item(first + column) for column in columns])


def look_up(program: Program, scenes: Sequence[Scene], vectors: Floats, colours: Floats) -> None:
    """What painting scenes of one program needs, worked out together from their numbers (n, numbers) and colours
    (n, count, 4): their leaves where it is flat, else the transforms of its layers. It is kept with each scene."""
    rows = vectors[:, : program.dense].reshape(len(scenes), -1, _WIDTH)
    if rows[..., _TURNED].any():
        return
    matrices = affine.compose(rows[..., :10]).tolist()
    if not is_flat(program):
        for scene, own in zip(scenes, matrices, strict=True):
            scene.__dict__["own_matrices"] = dict(enumerate(map(tuple, own)))
        return
    leaves = [leaf for leaf in plain_leaves(program) if leaf is not None]
    tones = np.clip(colours[:, [leaf.colour for leaf in leaves]], 0.0, 1.0).tolist()
    shape = _shapes(program, rows)
    shapes = (
        [shape] * len(scenes) if shape is not None else [_shaped(leaves, its) for its in rows[..., OF_PLAIN].tolist()]
    )
    order = program.merged.before[-1]
    for scene, forms, its_matrices, its_tones in zip(scenes, shapes, matrices, tones, strict=True):
        scene.__dict__["leaves"] = tuple(
            [
                (form[0], its_matrices[s], form[1], form[2], form[3], its_tones[s])
                for s in order
                if (form := forms[s]) is not None and its_tones[s][3] > 0.0
            ]
        )


def is_flat(program: Program) -> bool:
    """Whether a still program is nothing but such layers, none in another, on no ground; remembered with it."""
    found: bool | None = program.__dict__.get("is_flat")
    if found is None:
        top, plain = program.merged.before.get(-1, ()), plain_leaves(program)
        alone = program.clocks.stands and len(top) == len(plain) > 0 and all(leaf is not None for leaf in plain)
        found = alone and program.has_no_ground
        program.__dict__["is_flat"] = found
    return found


def _shapes(program: Program, rows: Floats) -> list[Shape | None] | None:
    """What leaves have besides their place and colour, where nothing moves that: looked up once a program."""
    found: list[Shape | None] | None = program.__dict__.get("leaf_shapes")
    if found is None and "leaf_shapes" not in program.__dict__:
        columns = np.concatenate([np.zeros(0, np.intp), *(track.written for track in program.tracks)]).astype(np.intp)
        moves = np.isin(columns[columns < program.dense] % _WIDTH, OF_PLAIN).any()
        leaves = [leaf for leaf in plain_leaves(program) if leaf is not None]
        found = None if moves else _shaped(leaves, rows[0][:, OF_PLAIN].tolist())
        program.__dict__["leaf_shapes"] = found
    return found


def _shaped(leaves: Sequence[Plain], numbers: Sequence[Sequence[float]]) -> list[Shape | None]:
    """Opacity, size and outline (none: the whole box) of leaves by their numbers; ``None`` for what cannot be seen."""
    found: list[Shape | None] = []
    for leaf, (opacity, w, h, *radii) in zip(leaves, numbers, strict=True):
        outline = None
        if not leaf.box:
            outline = ovals(w, h)
        elif any(radii):
            outline = boxes(w, h, tuple(radii))[1]
        seen = opacity >= CLEAR and w > 0.0 and h > 0.0
        found.append((min(1.0, opacity), w, h, outline) if seen else None)
    return found


@lru_cache(maxsize=4096)
def boxes(w: float, h: float, radii: tuple[float, ...]) -> tuple[tuple[float, ...], Floats]:
    """The radii that fit a box, and its outline; boxes that only move keep theirs."""
    outline = box_outline(w, h, radii)
    outline.flags.writeable = False
    return fit_radii(radii, w, h), outline


@lru_cache(maxsize=4096)
def ovals(w: float, h: float) -> Floats:
    """The outline of an oval."""
    outline = oval_outline(w, h)
    outline.flags.writeable = False
    return outline
