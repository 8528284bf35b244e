"""The quieter variant of a project, for people whom motion makes ill: what moved fades, what repeated stands.

After WCAG 2.3.3 and Media Queries 5 (``prefers-reduced-motion``): nothing travels, turns or grows by itself. What a
hand drags still goes with it, without lag; what only moves along (with scrolling or the pointer) stays.
"""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.curves import Line
from avelt.core.model.find import layer_index
from avelt.core.model.follows import ByPointer, ByScroll
from avelt.core.model.motion import Decision, Pose, Transition
from avelt.core.model.triggers import Drag, Pointer, Scroll
from avelt.core.model.values import Follow, Frame, Group, Layer, Loop, Part, Project, Route
from avelt.core.timing.compile import paired
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of

LONGEST = 200.0  # ms of a fade
_MOST_TURNS = 8  # that pairs are sought anew
_MOST_DECISIONS = 100_000  # beyond, what is left may move
_FADES = {"opacity", "fills", "stroke", "shadows"}  # what may change by itself
_STAYS = frozenset(("id", "name", "locked", "any_turn", "only_if", "stays_put", "body", *_FADES))


def quieter(project: Project) -> Project:
    """The project as it is shown with less motion."""
    return replace(
        project,
        frames=tuple(_frame(frame) for frame in project.frames),
        routes=tuple(_route(project, route) for route in project.routes),
        parts=tuple(_part(project, part) for part in project.parts),
    )


def _part(project: Project, part: Part) -> Part:
    stage = replace(project, frames=part.poses, routes=part.routes)
    poses = tuple(_frame(pose) for pose in part.poses)
    return replace(part, poses=poses, routes=tuple(_route(stage, route) for route in part.routes))


def _frame(frame: Frame) -> Frame:
    """A frame whose layers are there at once, and of which nothing moves by itself."""
    loops = tuple(loop if _only_fades(loop) else replace(loop, muted=True) for loop in frame.loops)
    follows = tuple(_follow(follow) for follow in frame.follows)
    if loops == frame.loops and follows == frame.follows and frame.entrance is None:
        return frame
    return replace(frame, loops=loops, follows=follows, entrance=None)


def _only_fades(moves: Loop | Follow) -> bool:
    still = replace(moves.offset, opacity=1.0) == Pose()
    changed = {name for name in moves.changes.__struct_fields__ if getattr(moves.changes, name) is not None}
    return still and changed <= _FADES and not (isinstance(moves, Loop) and moves.path)


def _follow(follow: Follow) -> Follow:
    along = isinstance(follow.by, ByScroll | ByPointer) and not _only_fades(follow)
    return replace(follow, lag=0.0, muted=follow.muted or along)


def _route(project: Project, route: Route) -> Route:
    if isinstance(route.trigger, Drag):  # it goes as the hand goes
        return replace(route, trigger=replace(route.trigger, lag=0.0))
    if isinstance(route.trigger, Scroll | Pointer):
        route = replace(route, trigger=replace(route.trigger, lag=0.0))
    old = route.transition
    left, right = ends(project, route)
    return replace(
        route,
        transition=Transition(min(duration_of(old, project), LONGEST), Line(), decisions=_decided(left, right, old)),
    )


def _decided(left: Frame, right: Frame, old: Transition) -> tuple[Decision, ...]:
    """Pairs that would move are none: one fades out, the other in. What was parted must not find another partner that
    it would move to, so pairs are sought again until none moves."""
    before, after = layer_index(left), layer_index(right)
    found = {(d.from_id, d.to_id): False for d in old.decisions if not d.together}
    pairing = paired(left, right, old)
    for _ in range(_MOST_TURNS):
        pairs = [(a, b) for a, b in pairing.to_of.items() if a in before and b in after]
        found |= {(a, b): not _moves(before[a], after[b]) for a, b in pairs}
        if all(found[pair] for pair in pairs):
            break
        made = tuple(Decision(a, b, together) for (a, b), together in found.items())
        pairing = paired(left, right, Transition(decisions=made))
    else:
        stay = {ident for pair, together in found.items() if together for ident in pair}
        lefts, rights = before.keys() - stay, after.keys() - stay
        if len(lefts) * len(rights) <= _MOST_DECISIONS:
            found |= {(a, b): False for a in sorted(lefts) for b in sorted(rights)}
    return tuple(Decision(a, b, together) for (a, b), together in found.items())


def _moves(one: Layer, other: Layer) -> bool:
    """Whether a layer goes elsewhere, turns, or becomes larger or another thing on its way."""
    names = (name for name in one.__struct_fields__ if name not in _STAYS and name != "origin")
    if any(getattr(one, name) != getattr(other, name) for name in names):
        return True
    if isinstance(one.body, Group) and isinstance(other.body, Group):
        bare = [replace(group, children=(), mask="") for group in (one.body, other.body)]
        return bare[0] != bare[1] or _masks_differ(one.body, other.body)
    return one.body != other.body


def _masks_differ(one: Group, other: Group) -> bool:
    """Whether what is seen through changes: a mask comes, goes or moves."""
    first, second = (next((c for c in g.children if c.id == g.mask), None) for g in (one, other))
    if first is None or second is None:
        return first is not second
    return _moves(first, second)
