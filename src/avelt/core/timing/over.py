"""The two pictures between which a route moves, for every kind of action.

A frame shown over another is laid into a copy of the frame beneath, as a group of its own with a scrim under it: so
what lies beneath stays, and the rest is like any transition. Its added layers have ids made from the frame's, so that
cues can be of them.
"""

from __future__ import annotations

import msgspec

from avelt.core.cache import Cache
from avelt.core.model.find import by_identity, frame_by_id, frame_of_entrance, phase_of_motion, route_by_id, walk
from avelt.core.model.tree import map_layers
from avelt.core.model.triggers import PutAway, ReplaceOver, SendSignal, SetInput, ShowOver
from avelt.core.model.values import Box, Frame, Group, Layer, Project, Route, Solid

replace = msgspec.structs.replace
_PLAIN = ShowOver()


def ends(project: Project, route: Route) -> tuple[Frame, Frame]:
    """What is on screen before and after the route's transition.

    Where the route goes to a frame, layers of an entrance are not there yet.
    """
    leaves, arrives = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
    if frame_of_entrance(route.id):
        return entrance_ends(arrives)
    action = route.action
    if phase_of_motion(route.id):
        return leaves, arrives
    if isinstance(action, ShowOver):
        return leaves, overlaid(leaves, arrives, action)
    if isinstance(action, PutAway):
        return overlaid(arrives, leaves, how_shown(project, leaves.id, arrives.id)), arrives
    if isinstance(action, ReplaceOver):
        beneath = _beneath(project, leaves.id)
        if beneath is not None:
            under, how = beneath
            return overlaid(under, leaves, how), overlaid(under, arrives, how)
    if isinstance(action, SetInput | SendSignal):  # one stays where one is: what came to life is there
        return leaves, arrives
    return leaves, at_arrival(arrives)


def at_arrival(frame: Frame) -> Frame:
    """The frame as it is arrived at: without the layers of its entrance. The same value for the same frame."""
    return frame if frame.entrance is None else _bare(frame)


def entrance_ends(frame: Frame) -> tuple[Frame, Frame]:
    """What is on screen before and after a frame's entrance."""
    return at_arrival(frame), frame


def _without(frame: Frame) -> Frame:
    if frame.entrance is None:
        return frame
    layers = map_layers(frame.layers, dict.fromkeys(frame.entrance.layers, lambda _: None))
    left = {layer.id for layer in walk(layers)}
    loops = tuple(loop for loop in frame.loops if loop.layer in left)
    follows = tuple(follow for follow in frame.follows if follow.layer in left)
    return replace(frame, layers=layers, loops=loops, follows=follows, entrance=None)


_bare = by_identity(_without)


def ends_by_id(project: Project, route_id: str) -> tuple[Frame, Frame]:
    """The same by the route's id; ``NotFound`` when there is none."""
    return ends(project, route_by_id(project, route_id))


def how_shown(project: Project, over: str, beneath: str) -> ShowOver:
    """How a frame is shown over another, as the route that shows it says; the plain way when none does."""
    for route in project.routes:
        if route.arrives == over and route.leaves == beneath and isinstance(route.action, ShowOver):
            return route.action
    found = _beneath(project, over)
    return found[1] if found else _PLAIN


def place_of(beneath: tuple[float, float], over: tuple[float, float], how: ShowOver) -> tuple[float, float]:
    """Where the top left of a frame of size ``over`` stands on one of size ``beneath``, px.

    >>> place_of((360, 640), (320, 200), ShowOver("bottom"))
    (20.0, 440.0)
    """
    if how.at == "by hand":
        return how.x, how.y
    words = how.at.split()
    across = 0.0 if "left" in words else 1.0 if "right" in words else 0.5
    down = 0.0 if "top" in words else 1.0 if "bottom" in words else 0.5
    return (beneath[0] - over[0]) * across, (beneath[1] - over[1]) * down


def scrim_id(over: str) -> str:
    """The id of the scrim under a frame that is shown over another."""
    return f"{over}:scrim"


def sheet_id(over: str) -> str:
    """The id of the group that a frame is when it is shown over another."""
    return f"{over}:sheet"


def _beneath(project: Project, over: str) -> tuple[Frame, ShowOver] | None:
    """The first frame over which this one is shown, also when it got there by a swap."""
    seen, wanted = {over}, [over]
    while wanted:
        frame_id = wanted.pop(0)
        for route in project.routes:
            if route.arrives != frame_id:
                continue
            if isinstance(route.action, ShowOver):
                return frame_by_id(project, route.leaves), route.action
            if isinstance(route.action, ReplaceOver) and route.leaves not in seen:
                seen.add(route.leaves)
                wanted.append(route.leaves)
    return None


def overlaid(under: Frame, over: Frame, how: ShowOver) -> Frame:
    """A copy of a frame with another laid over it; the same value for the same frames."""
    return _overlaid.get((under, over), how, lambda: _lay(under, over, how))


_overlaid: Cache[Frame] = Cache(128)


def _lay(below: Frame, above: Frame, how: ShowOver) -> Frame:
    x, y = place_of((below.w, below.h), (above.w, above.h), how)
    ground = Layer(
        f"{above.id}:ground",
        f"{above.id}:ground",
        "Ground",
        Box(),
        w=above.w,
        h=above.h,
        fills=(Solid(above.background),),
    )
    sheet = Layer(
        sheet_id(above.id),
        sheet_id(above.id),
        above.name,
        Group((ground, *above.layers), clips=above.clips),
        x=x,
        y=y,
        w=above.w,
        h=above.h,
    )
    added: tuple[Layer, ...] = (sheet,)
    if how.scrim:
        scrim = Layer(
            scrim_id(above.id), scrim_id(above.id), "Scrim", Box(), w=below.w, h=below.h, fills=(Solid(how.scrim),)
        )
        added = (scrim, sheet)
    return replace(
        below,
        layers=(*below.layers, *added),
        loops=(*below.loops, *above.loops),
        follows=(*below.follows, *above.follows),
        content=above.content,
        scroll=above.scroll,
        source=None,
    )
