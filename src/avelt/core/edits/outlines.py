"""Shapes out of shapes: any layer as a path, groups flattened, outlines combined.

Cutting and joining of outlines is done by pathops; what goes in and comes out are our own cubics.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.edits.frames import put_frame, without_layers
from avelt.core.edits.place import inside, reboxed, space_of
from avelt.core.edits.structure import children_of, edit_layers, parent_of, topmost_chosen, with_children
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.arc import trimmed
from avelt.core.geometry.bezier import bounds_of, line_to
from avelt.core.geometry.flatten import flatten
from avelt.core.geometry.outlines import outline
from avelt.core.geometry.place import local_of
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.kinds import kind_of
from avelt.core.model.values import Group, Layer, Path, Picture, Project, Subpath, Text
from avelt.core.words import tr

replace = msgspec.structs.replace
Outline = list[tuple[Floats, bool]]
#: Gives the outlines of a text layer's words in its own px. Painting rooms hand in one that knows fonts.
TextOutline = Callable[[Layer], Outline]
How = Literal["union", "subtract", "intersect", "exclude"]
COMBINATIONS: dict[How, str] = {
    "union": tr("Union"),
    "subtract": tr("Subtract"),
    "intersect": tr("Intersect"),
    "exclude": tr("Exclude"),
}


def own_outline(layer: Layer, of_text: TextOutline) -> tuple[Outline, str]:
    """A layer's outline in its own px, and its fill rule; of a group, that of all that is seen in it."""
    body = layer.body
    own = outline(body, layer.w, layer.h)
    if own is not None:
        return own, body.rule if isinstance(body, Path) else "nonzero"
    if isinstance(body, Text):
        return of_text(layer), "nonzero"
    return from_pathops(area_of(layer, of_text)), "nonzero"


def to_pathops(outline: Outline, rule: str) -> Any:
    """Our outline as one of pathops'."""
    import pathops

    path = pathops.Path(fillType=pathops.FillType.EVEN_ODD if rule == "evenodd" else pathops.FillType.WINDING)
    for points, closed in outline:
        corners = points.tolist()
        path.moveTo(*corners[0])
        for k in range(1, len(corners) - 2, 3):
            path.cubicTo(*corners[k], *corners[k + 1], *corners[k + 2])
        if closed:
            path.close()
    return path


def from_pathops(path: Any) -> Outline:
    """An outline of pathops as ours; quadratics become cubics."""
    import pathops

    made: Outline = []
    points: list[tuple[float, float]] = []

    def finish(closed: bool) -> None:
        if len(points) > 1:
            if closed and points[0] != points[-1]:
                points.extend(line_to(points[-1], points[0]))
            made.append((np.array(points), closed))
        points.clear()

    path.convertConicsToQuads()
    for verb, raw in path:
        pts = [(float(x), float(y)) for x, y in raw]
        if verb == pathops.PathVerb.MOVE:
            finish(False)
            points.append(pts[0])
        elif verb == pathops.PathVerb.LINE:
            points.extend(line_to(points[-1], pts[0]))
        elif verb == pathops.PathVerb.QUAD:
            (x0, y0), (hx, hy), (x1, y1) = points[-1], *pts
            points.extend(
                [
                    (x0 + (hx - x0) * 2 / 3, y0 + (hy - y0) * 2 / 3),
                    (x1 + (hx - x1) * 2 / 3, y1 + (hy - y1) * 2 / 3),
                    (x1, y1),
                ]
            )
        elif verb == pathops.PathVerb.CUBIC:
            points.extend(pts)
        elif verb == pathops.PathVerb.CLOSE:
            finish(True)
    finish(False)
    return made


def area_of(layer: Layer, of_text: TextOutline) -> Any:
    """What a layer covers in its own px, strokes too, as an outline of pathops."""
    import pathops

    whole = pathops.Path()
    if isinstance(layer.body, Group):
        mask = None
        for child in layer.body.children:
            if child.hidden:
                continue
            part = _moved(area_of(child, of_text), local_of(child))
            if child.id == layer.body.mask:
                mask = part
            else:
                whole = pathops.op(whole, part, pathops.PathOp.UNION)
        return whole if mask is None else pathops.op(whole, mask, pathops.PathOp.INTERSECTION)
    outline, rule = own_outline(layer, of_text)
    shape = to_pathops(outline, rule)
    if layer.fills or layer.stroke is None or isinstance(layer.body, Picture):
        whole = shape
    if layer.stroke is not None and layer.stroke.width > 0:
        stroke = layer.stroke
        line = to_pathops(trimmed(outline, stroke.trim_start, stroke.trim_end, stroke.trim_offset), rule)
        caps = {
            "butt": pathops.LineCap.BUTT_CAP,
            "round": pathops.LineCap.ROUND_CAP,
            "square": pathops.LineCap.SQUARE_CAP,
        }
        joins = {
            "miter": pathops.LineJoin.MITER_JOIN,
            "round": pathops.LineJoin.ROUND_JOIN,
            "bevel": pathops.LineJoin.BEVEL_JOIN,
        }
        line.stroke(stroke.width, caps[stroke.cap], joins[stroke.join], stroke.miter)
        line.convertConicsToQuads()
        whole = pathops.op(whole, line, pathops.PathOp.UNION)
    return whole


def _moved(path: Any, matrix: Floats) -> Any:
    outline = [(affine.apply(matrix, points), closed) for points, closed in from_pathops(path)]
    return to_pathops(outline, "nonzero")


def as_path(layer: Layer, of_text: TextOutline) -> Layer:
    """The layer as a path that looks the same; its runs' own colours are those of the layer then."""
    outline, rule = own_outline(layer, of_text)
    return _with_body(layer, outline, rule)


def _with_body(layer: Layer, outline: Outline, rule: str = "nonzero") -> Layer:
    """The layer as a path of an outline in its own px."""
    if not outline:
        raise EditError(tr("Nothing is left of “{layer}”.", layer=layer.name))
    x, y, w, h = bounds_of([points for points, _ in outline])
    body = Path(
        tuple(Subpath(tuple((points - (x, y)).ravel().tolist()), closed) for points, closed in outline),
        "evenodd" if rule == "evenodd" else "nonzero",
    )
    return replace(reboxed(layer, x, y, w, h), body=body)


def to_path(project: Project, frame_id: str, ids: Sequence[str], of_text: TextOutline) -> Project:
    """Boxes, ovals and texts as paths, where they are and as they look."""
    index = layer_index(frame_by_id(project, frame_id))
    wanted = [i for i in ids if kind_of(index[i]).makes_path]
    if not wanted:
        raise EditError(tr("Choose boxes, ovals or texts to make paths of them."))
    return edit_layers(project, frame_id, wanted, lambda layer: as_path(layer, of_text))


def flattened(project: Project, frame_id: str, group_id: str, of_text: TextOutline) -> Project:
    """A group as one path over all that is seen in it, with the look of its lowest filled layer."""
    frame = frame_by_id(project, frame_id)
    group = layer_index(frame).get(group_id)
    if group is None or not isinstance(group.body, Group):
        raise EditError(tr("Choose a group to flatten it."))
    outline = from_pathops(area_of(group, of_text))
    inner = [layer for layer in walk(group.children) if not isinstance(layer.body, Group)]
    look = next((layer for layer in inner if layer.fills), None)
    fills = look.fills if look is not None else ()
    if look is None and inner and inner[0].stroke is not None:
        fills = (inner[0].stroke.paint,)
    gone = {layer.id for layer in walk(group.children)}
    project = edit_layers(project, frame_id, [group_id], lambda g: replace(_with_body(g, outline), fills=fills))
    return without_layers(project, frame_id, gone)


def combine(project: Project, frame_id: str, ids: Sequence[str], how: How, of_text: TextOutline) -> Project:
    """Several layers as one path in the place and with the look of the lowest, which keeps its identity."""
    import pathops

    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    if len(chosen) < 2:
        raise EditError(tr("Choose two layers or more to combine their outlines."))
    flat = flatten(frame)
    operation = {
        "union": pathops.PathOp.UNION,
        "subtract": pathops.PathOp.DIFFERENCE,
        "intersect": pathops.PathOp.INTERSECTION,
        "exclude": pathops.PathOp.XOR,
    }[how]
    lowest = chosen[0]
    space = space_of(flat, parent_of(flat, lowest))
    base = flat.layers[flat.index[lowest]]
    back = affine.invert(affine.multiply(space, local_of(base)))
    if back is None:
        raise EditError(tr("“{base}” has no size.", base=base.name))
    whole: Any = None
    for ident in chosen:
        layer = inside(flat, ident, affine.identity())
        outline, rule = own_outline(layer, of_text)
        there = affine.multiply(back, local_of(layer))
        part = to_pathops([(affine.apply(there, points), closed) for points, closed in outline], rule)
        whole = part if whole is None else pathops.op(whole, part, operation)
    made = _with_body(base, from_pathops(whole))
    if isinstance(base.body, Group) and not made.fills:
        look = next((layer for layer in walk(base.children) if layer.fills), None)
        made = replace(made, fills=look.fills if look is not None else ())
    gone = {layer.id for ident in chosen for layer in walk((flat.layers[flat.index[ident]],))} - {lowest}
    for ident in chosen:
        parent = parent_of(flatten(frame), ident)
        kept = tuple(
            made if child.id == lowest else child
            for child in children_of(frame, parent)
            if child.id == lowest or child.id != ident
        )
        frame = with_children(frame, parent, kept)
    return without_layers(put_frame(project, frame), frame_id, gone)
