"""Finding things in a project. Nothing here changes anything."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, TypeVar

from avelt.core.cache import Cache
from avelt.core.errors import NotFound
from avelt.core.model.motion import Transition
from avelt.core.model.phases import Phase, ShowBlend, ShowMotion
from avelt.core.model.triggers import Loading
from avelt.core.model.values import Frame, Layer, Project, Route
from avelt.core.words import tr

V = TypeVar("V")
_KEEP = 512


def by_identity(make: Callable[[Any], V], most: int = _KEEP) -> Callable[[Any], V]:
    """Remember ``make(value)`` by the identity of an immutable value.

    The newest are kept, a few hundred (see ``Cache``); fewer of what is made of whole projects, or is large.
    """
    kept: Cache[V] = Cache(most)

    def get(value: Any) -> V:
        return kept.get((value,), None, lambda: make(value))

    get.__doc__ = make.__doc__
    return get


def walk(layers: tuple[Layer, ...]) -> Iterator[Layer]:
    """Every layer, parents before children, in paint order."""
    for layer in layers:
        yield layer
        yield from walk(layer.children)


def _index(frame: Frame) -> dict[str, Layer]:
    return {layer.id: layer for layer in walk(frame.layers)}


#: The frame's layers by id.
layer_index = by_identity(_index)


def frame_by_id(project: Project, frame_id: str) -> Frame:
    """The frame of this id; ``NotFound`` when there is none."""
    for frame in project.frames:
        if frame.id == frame_id:
            return frame
    raise NotFound(tr("There is no frame {frame_id!r}.", frame_id=frame_id))


def frame_of_layer(project: Project, layer_id: str) -> Frame | None:
    """The frame that holds the layer."""
    return next((frame for frame in project.frames if layer_id in layer_index(frame)), None)


_ENTRANCE = "entrance:"


def entrance_id(frame_id: str) -> str:
    """The id under which a frame's entrance can be edited as if it were a route."""
    return _ENTRANCE + frame_id


def frame_of_entrance(route_id: str) -> str:
    """The frame whose entrance an id means; empty for the id of a route."""
    return route_id[len(_ENTRANCE) :] if route_id.startswith(_ENTRANCE) else ""


def _as_route(frame: Frame) -> Route:
    transition = frame.entrance.transition if frame.entrance is not None else Transition()
    return Route(entrance_id(frame.id), frame.id, frame.id, Loading(), transition)


#: A frame's entrance as a route in its frame; remembered by the frame's identity.
entrance_route = by_identity(_as_route)


_PHASE = "phase:"


def phase_motion_id(phase_id: str) -> str:
    """The id under which what moves in a phase can be edited as if it were a route."""
    return _PHASE + phase_id


def phase_of_motion(route_id: str) -> str:
    """The phase whose motion an id means; empty for the id of a route."""
    return route_id[len(_PHASE) :] if route_id.startswith(_PHASE) else ""


def _phase_as_route(phase: Phase) -> Route | None:
    shows = phase.shows
    if not isinstance(shows, ShowMotion | ShowBlend):
        return None
    return Route(phase_motion_id(phase.id), shows.leaves, shows.arrives, Loading(), shows.transition)


#: What moves in a phase as a route, or ``None``; remembered by the phase's identity.
phase_route = by_identity(_phase_as_route)


def _motion_of_phase(project: Project, phase_id: str) -> Route | None:
    phases = (phase for track in project.tracks for phase in track.phases if phase.id == phase_id)
    return next((phase_route(phase) for phase in phases), None)


def route_by_id(project: Project, route_id: str) -> Route:
    """The route of this id, or the entrance or the motion of a phase that it means; ``NotFound`` when there is none."""
    if phase_id := phase_of_motion(route_id):
        moves = _motion_of_phase(project, phase_id)
        if moves is not None:
            return moves
    if frame_id := frame_of_entrance(route_id):
        frame = frame_by_id(project, frame_id)
        if frame.entrance is not None:
            return entrance_route(frame)
    for route in project.routes:
        if route.id == route_id:
            return route
    raise NotFound(tr("There is no route {route_id!r}.", route_id=route_id))


def find_frame(project: Project, wanted: str) -> Frame:
    """A frame by id or name, exact first, then whatever the case; the nearest name is suggested."""
    for frame in project.frames:
        if wanted == frame.id:
            return frame
    return project.frames[_place_named([frame.name for frame in project.frames], wanted, "frame")]


def find_layer(frame: Frame, wanted: str) -> Layer:
    """A layer of the frame by id or name."""
    index = layer_index(frame)
    if wanted in index:
        return index[wanted]
    layers = tuple(index.values())
    return layers[_place_named([layer.name for layer in layers], wanted, "layer")]


def find_route(project: Project, wanted: str) -> Route:
    """A route by id or by ``"From name > To name"``, with ``#2`` behind it for the second such one."""
    for route in project.routes:
        if wanted == route.id:
            return route
    text, mark, number = wanted.rpartition("#")
    if not mark or not number.isdigit():
        text, number = wanted, "1"
    left, arrow, right = text.partition(">")
    if not arrow:
        raise NotFound(
            tr("There is no route {wanted!r}.", wanted=wanted), hint=tr('Write it as "From name > To name".')
        )
    leaves, arrives = find_frame(project, left.strip()), find_frame(project, right.strip())
    fitting = [r for r in project.routes if (r.leaves, r.arrives) == (leaves.id, arrives.id)]
    place = int(number)
    if not 1 <= place <= len(fitting):
        raise NotFound(
            tr(
                "There is no route {wanted!r}: {count} go from {leaves} to {arrives}.",
                wanted=wanted,
                count=len(fitting),
                leaves=leaves.name,
                arrives=arrives.name,
            )
        )
    return fitting[place - 1]


def route_title(project: Project, route: Route) -> str:
    """``"From name > To name"``."""
    return f"{frame_by_id(project, route.leaves).name} > {frame_by_id(project, route.arrives).name}"


def _place_named(names: list[str], wanted: str, what: str) -> int:
    if wanted in names:
        return names.index(wanted)
    folded = [name.casefold() for name in names]
    if wanted.casefold() in folded:
        return folded.index(wanted.casefold())
    from rapidfuzz import process  # loaded when a name is not found

    near = process.extractOne(wanted, names, score_cutoff=60)
    hint = tr("Did you mean {near!r}?", near=near[0]) if near else ""
    raise NotFound(tr("There is no {what} {wanted!r}.", what=what, wanted=wanted), hint=hint)
