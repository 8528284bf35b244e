"""Uses of parts that are one outline: paired with an outline they are one themselves, so that the one reshapes into
the other."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.cache import Cache
from avelt.core.geometry.resize import resized
from avelt.core.geometry.used import as_used, first_pose
from avelt.core.model.find import layer_index
from avelt.core.model.kinds import kind_of
from avelt.core.model.parts import uses_in
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Frame, Layer, Part, Project, Use
from avelt.core.pairing.joined import Joined

_EVEN = 1e-6
_outlined: Cache[Joined] = Cache(64)


def as_outlines(project: Project, joined: Joined) -> Joined:
    """Two frames in which the uses that are one outline, and paired with an outline, are that outline."""
    left, right = joined.before.frame, joined.after.frame
    if not project.parts or left is right or not (uses_in(left) or uses_in(right)):
        return joined
    return _outlined.get((project.parts, joined), None, lambda: _made(project.parts, left, right, joined))


def _made(parts: tuple[Part, ...], left: Frame, right: Frame, joined: Joined) -> Joined:
    by_id = {part.id: part for part in parts}
    before, after = layer_index(left), layer_index(right)
    found: tuple[dict[str, Layer], dict[str, Layer]] = ({}, {})
    for one, other in joined.to_of.items():
        pair = before[one], after[other]
        for side, (layer, partner) in enumerate((pair, pair[::-1])):
            outline = outline_of(by_id, layer) if kind_of(partner).shape else None
            if outline is not None:
                found[side][layer.id] = outline
    ends = []
    for frame, made in zip((left, right), found, strict=True):
        ends.append(change_layers(frame, {ident: lambda _, to=to: to for ident, to in made.items()}))  # type: ignore[misc]
    return joined.within(ends[0], ends[1])


def outline_of(parts: dict[str, Part], layer: Layer) -> Layer | None:
    """A use as the one outline that its part is, in its place; ``None`` where it is more than that, or moves."""
    use = layer.body
    part = parts.get(use.part) if isinstance(use, Use) else None
    if not isinstance(use, Use) or part is None or part.routes or any(track.phases for track in part.tracks):
        return None
    pose = first_pose(as_used(part, use, layer.w, layer.h), use)
    if len(pose.layers) != 1 or pose.loops or pose.w <= 0.0 or pose.h <= 0.0:
        return None
    inner = pose.layers[0]
    plain = replace(Layer("", "", "", inner.body), id=inner.id, origin=inner.origin, name=inner.name, pivot=inner.pivot)
    own = replace(inner, x=0.0, y=0.0, w=0.0, h=0.0, fills=(), stroke=None, opacity=1.0)
    if not kind_of(inner).shape or own != plain:
        return None  # it is turned, scaled, hidden or has effects of its own
    wide, high = (layer.w / pose.w, layer.h / pose.h) if use.fit != "keep" else (1.0, 1.0)
    if inner.stroke is not None and abs(wide - high) > _EVEN:
        return None
    made = resized(inner, inner.w * wide, inner.h * high)
    x, y = layer.x + inner.x * wide, layer.y + inner.y * high
    pivot_x, pivot_y = layer.x + layer.pivot[0] * layer.w, layer.y + layer.pivot[1] * layer.h
    stroke = inner.stroke
    if stroke is not None:
        dashes = tuple(dash * wide for dash in stroke.dashes)
        stroke = replace(stroke, width=stroke.width * wide, dashes=dashes, dash_offset=stroke.dash_offset * wide)
    return replace(
        layer,
        body=made.body,
        x=x,
        y=y,
        w=made.w,
        h=made.h,
        pivot=((pivot_x - x) / made.w if made.w else 0.5, (pivot_y - y) / made.h if made.h else 0.5),
        opacity=layer.opacity * inner.opacity,
        fills=inner.fills,
        stroke=stroke,
    )
