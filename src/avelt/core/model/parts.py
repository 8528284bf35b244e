"""Parts: which uses which, and a part looked at as a project of its own. Nothing here changes anything."""

from __future__ import annotations

from collections.abc import Iterator
from functools import reduce

import msgspec

from avelt.core.errors import FormatError, NotFound
from avelt.core.model.find import by_identity, walk
from avelt.core.model.kinds import part_of
from avelt.core.model.values import Frame, Input, Layer, Link, Part, Project, Use
from avelt.core.words import tr

replace = msgspec.structs.replace
MAX_DEPTH = 16  # parts in parts


def _uses_in(frame: Frame) -> tuple[Layer, ...]:
    return tuple(layer for layer in walk(frame.layers) if isinstance(layer.body, Use))


#: The uses of parts in a frame, in paint order.
uses_in = by_identity(_uses_in)


def part_by_id(project: Project, part_id: str) -> Part:
    """The part of this id; ``NotFound`` when there is none."""
    for part in project.parts:
        if part.id == part_id:
            return part
    raise NotFound(tr("There is no part {part_id!r}.", part_id=part_id))


def find_part(project: Project, wanted: str) -> Part:
    """A part by id or name; the nearest name is suggested."""
    for part in project.parts:
        if wanted in (part.id, part.name):
            return part
    from rapidfuzz import process

    near = process.extractOne(wanted, [part.name for part in project.parts], score_cutoff=60)
    raise NotFound(
        tr("There is no part {wanted!r}.", wanted=wanted),
        hint=tr("Did you mean {near!r}?", near=near[0]) if near else "",
    )


def pose_of(part: Part, pose_id: str = "") -> Frame:
    """A pose by its id; the first where there is none of it."""
    wanted = pose_id or part.first
    return next((pose for pose in part.poses if pose.id == wanted), part.poses[0])


def as_stage(project: Project, part: Part) -> Project:
    """A part as a project of its own: poses are its frames, and everything that works on frames works on them."""
    return replace(
        project,
        name=part.name,
        frames=part.poses,
        routes=part.routes,
        inputs=part.inputs,
        first=part.first or part.poses[0].id,
        tracks=part.tracks,
        tapes=(),
        links=part.links,
    )


def all_links(project: Project) -> list[Link]:
    """The links of a project and its parts to presets."""
    return [*project.links, *(link for part in project.parts for link in part.links)]


def linked_names(project: Project) -> set[str]:
    """The names of the presets that a project and its parts link to."""
    return {link.preset for link in all_links(project)}


def parts_in(part: Part) -> Iterator[str]:
    """The ids of the parts that a part uses."""
    for pose in part.poses:
        for layer in uses_in(pose):
            yield part_of(layer)


def used_by(project: Project, part_id: str) -> tuple[str, ...]:
    """The names of the frames and parts that use a part."""
    frames = [f.name for f in project.frames if any(part_of(use) == part_id for use in uses_in(f))]
    return (*frames, *(part.name for part in project.parts if part_id in parts_in(part)))


def fits(entry: Input, value: object) -> bool:
    """Whether a value is one that an input can have."""
    if entry.kind == "number":
        return isinstance(value, int | float) and not isinstance(value, bool)
    return isinstance(value, bool) if entry.kind == "yes/no" else isinstance(value, str)


def refuse_circles(project: Project) -> None:
    """Raise ``FormatError`` with the names when a part is used in itself, or parts lie too deep in each other."""
    by_id = {part.id: part for part in project.parts}
    depths: dict[str, int] = {}

    def depth(part: Part, above: tuple[Part, ...]) -> int:
        if part in above:
            first, *more = (entry.name for entry in above[above.index(part) :])
            words = reduce(
                lambda inner, outer: tr("{inner} in {outer}", inner=inner, outer=outer), (*more, first), first
            )
            raise FormatError(tr("A part would be used in itself: {words}.", words=words), "parts")
        if part.id not in depths:
            inner = (by_id[ident] for ident in dict.fromkeys(parts_in(part)) if ident in by_id)
            depths[part.id] = 1 + max((depth(entry, (*above, part)) for entry in inner), default=0)
        return depths[part.id]

    if max((depth(part, ()) for part in project.parts), default=0) > MAX_DEPTH:
        raise FormatError(tr("Parts lie more than {max_depth} deep in each other.", max_depth=MAX_DEPTH), "parts")
