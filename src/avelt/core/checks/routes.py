"""What is wrong with the wiring: each rule is a function from the project to troubles, and a row of ``RULES``."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from avelt.core.checks import follows, phases
from avelt.core.checks.trouble import Trouble
from avelt.core.errors import FormatError
from avelt.core.model.expressions import names_in, parse
from avelt.core.model.find import by_identity, frame_by_id, layer_index, route_title
from avelt.core.model.triggers import (
    Crosses,
    Drag,
    Ends,
    Go,
    GoBack,
    PutAway,
    ReplaceOver,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    hot_area,
    same_touch,
    trigger_row,
)
from avelt.core.model.values import Project, Route
from avelt.core.words import tr


def missing_layers(project: Project) -> Iterator[Trouble]:
    """Triggers on layers that are not in the frame left any more."""
    for route in project.routes:
        layers = layer_index(frame_by_id(project, route.leaves))
        frame = frame_by_id(project, route.leaves).name
        if (touched := hot_area(route.trigger)) and touched not in layers:
            yield Trouble(
                "layer gone",
                tr(
                    "The layer to {trigger} is not in {frame} any more.",
                    trigger=tr(trigger_row(route.trigger).word),
                    frame=frame,
                ),
                (route.id,),
                (route.leaves,),
                tr("choose another"),
            )
        if isinstance(route.trigger, Drag) and route.trigger.along == "path" and route.trigger.path not in layers:
            yield Trouble(
                "path gone",
                tr("The path to drag along is not in {frame}.", frame=frame),
                (route.id,),
                (route.leaves,),
                tr("choose another"),
            )


def missing_inputs(project: Project) -> Iterator[Trouble]:
    """Triggers, actions and conditions that name what is not there."""
    ids = {entry.id: entry for entry in project.inputs}
    names = {entry.name for entry in project.inputs}
    for route in project.routes:
        for part in (route.trigger, route.action):
            if hasattr(part, "input") and part.input not in ids:
                what = "signal" if isinstance(part, Signal | SendSignal) else "input"
                yield Trouble(
                    "input gone",
                    tr("No {what} is chosen, or it is gone.", what=what),
                    (route.id,),
                    (),
                    tr("choose another"),
                )
        if isinstance(route.trigger, Ends) and not _motion_is_there(project, route):
            yield Trouble(
                "motion gone", tr("The motion that should end is not there."), (route.id,), (), tr("choose another")
            )
        try:
            unknown = [name for name in names_in(parse(route.only_if)) if name not in names]
        except FormatError as error:
            yield Trouble("condition", tr("The condition cannot be read: {error}", error=error), (route.id,))
            continue
        for name in unknown:
            yield Trouble(
                "condition", tr("The condition reads “{name}”, and there is no such input.", name=name), (route.id,)
            )


def _motion_is_there(project: Project, route: Route) -> bool:
    motion = route.trigger.motion if isinstance(route.trigger, Ends) else ""
    loops = {loop.id for loop in frame_by_id(project, route.leaves).loops}
    return motion in loops or any(r.id == motion and r.arrives == route.leaves for r in project.routes)


def same_trigger(project: Project) -> Iterator[Trouble]:
    """Two routes of one frame on the very same touch, under the same condition: only the first can ever run."""
    seen: dict[str, list[Route]] = {}
    for route in project.routes:
        for other in seen.setdefault(route.leaves, []):
            both_back = isinstance(route.action, GoBack) and isinstance(other.action, GoBack)  # each by where one was
            if not both_back and route.only_if == other.only_if and same_touch(route.trigger, other.trigger):
                word = tr(trigger_row(route.trigger).word)
                there = frame_by_id(project, other.arrives).name
                yield Trouble(
                    "same trigger",
                    tr("The same {word} already goes to {there}: only the first of both runs.", word=word, there=there),
                    (route.id, other.id),
                    (route.leaves,),
                )
                break
        seen[route.leaves].append(route)


def unreachable(project: Project) -> Iterator[Trouble]:
    """Frames that no way from the first one leads to. A running order shows poses without any route."""
    if phases.shown(project) or len(project.frames) < 2 or not project.routes:
        return
    first = project.first or project.frames[0].id
    reached, wanted = {first}, [first]
    while wanted:
        here = wanted.pop()
        for route in project.routes:
            if route.leaves == here and route.arrives not in reached:
                reached.add(route.arrives)
                wanted.append(route.arrives)
    for frame in project.frames:
        if frame.id not in reached:
            yield Trouble("unreachable", tr("No route leads to {frame}.", frame=frame.name), (), (frame.id,))


def dead_ends(project: Project) -> Iterator[Trouble]:
    """Frames that are arrived at and cannot be left."""
    if phases.shown(project):
        return
    closed = {r.arrives for r in project.routes if isinstance(r.action, ShowOver) and r.action.outside_closes}
    for frame in project.frames:
        arrived = any(r.arrives == frame.id != r.leaves for r in project.routes)
        left = any(r.leaves == frame.id != r.arrives for r in project.routes)
        if arrived and not left and frame.id not in closed:
            yield Trouble("dead end", tr("No route leaves {frame}.", frame=frame.name), (), (frame.id,))


def actions_without_ground(project: Project) -> Iterator[Trouble]:
    """Putting away or swapping what no route shows over anything; going back to where nobody came from."""
    shown = {r.arrives for r in project.routes if isinstance(r.action, ShowOver | ReplaceOver)}
    for route in project.routes:
        name = frame_by_id(project, route.leaves).name
        if isinstance(route.action, PutAway | ReplaceOver) and route.leaves not in shown:
            yield Trouble(
                "not over", tr("{name} is never shown over another frame.", name=name), (route.id,), (route.leaves,)
            )
        if isinstance(route.action, GoBack) and not any(
            r.leaves == route.arrives and r.arrives == route.leaves and isinstance(r.action, Go | GoBack)
            for r in project.routes
        ):
            there = frame_by_id(project, route.arrives).name
            yield Trouble(
                "no way there",
                tr("Nothing goes from {there} to {name}, so it cannot go back.", there=there, name=name),
                (route.id,),
            )


def circles(project: Project) -> Iterator[Trouble]:
    """Inputs and signals that set each other off without end."""
    names = {entry.id: entry.name for entry in project.inputs}
    steps: dict[str, list[tuple[str, str]]] = {}
    for route in project.routes:
        if isinstance(route.trigger, Crosses | Signal) and isinstance(route.action, SetInput | SendSignal):
            steps.setdefault(route.trigger.input, []).append((route.action.input, route.id))
    told: set[frozenset[str]] = set()
    for start in steps:
        for ring in _rings(steps, start):
            key = frozenset(route for _, route in ring)
            if key not in told:
                told.add(key)
                words = " → ".join(names.get(ident, "?") for ident in (start, *(node for node, _ in ring)))
                yield Trouble(
                    "circle",
                    tr("This goes round in a circle: {words}.", words=words),
                    tuple(route for _, route in ring),
                )


def _rings(steps: dict[str, list[tuple[str, str]]], start: str) -> Iterator[tuple[tuple[str, str], ...]]:
    """Shortest ways from a node back to itself."""
    ways: list[tuple[tuple[str, str], ...]] = [((node, route),) for node, route in steps.get(start, ())]
    seen: set[str] = set()
    while ways:
        way = ways.pop(0)
        node = way[-1][0]
        if node == start:
            yield way
        elif node not in seen:
            seen.add(node)
            ways += [(*way, step) for step in steps.get(node, ())]


Rule = Callable[[Project], Iterator[Trouble]]
RULES: tuple[Rule, ...] = (
    missing_layers,
    missing_inputs,
    same_trigger,
    unreachable,
    dead_ends,
    actions_without_ground,
    circles,
    *phases.RULES,
    *follows.RULES,
)


def _all(project: Project) -> tuple[Trouble, ...]:
    return tuple(trouble for rule in RULES for trouble in rule(project))


#: All troubles of a project's wiring, remembered by its identity.
troubles = by_identity(_all, 64)


def _by_route(project: Project) -> dict[str, tuple[Trouble, ...]]:
    found: dict[str, tuple[Trouble, ...]] = {}
    for trouble in troubles(project):
        for ident in trouble.routes:
            found[ident] = (*found.get(ident, ()), trouble)
    return found


_of_routes = by_identity(_by_route, 64)


def of_route(project: Project, route_id: str) -> tuple[Trouble, ...]:
    """The troubles that concern one route."""
    return _of_routes(project).get(route_id, ())


def in_words(project: Project, trouble: Trouble) -> str:
    """The trouble with its place in front, in one line."""
    places = [route_title(project, route) for route in project.routes if route.id in trouble.routes[:1]]
    places = places or [frame_by_id(project, ident).name for ident in trouble.frames[:1]]
    return f"{places[0]}: {trouble.says}" if places else trouble.says
