"""What the station in front offers the shelf: what a preset is put on, and what of its motion can be kept."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, Protocol, cast

from avelt.core.errors import AveltError
from avelt.core.model.find import layer_index, route_by_id, route_title
from avelt.core.model.motion import PairKey
from avelt.core.model.values import Project
from avelt.core.presets import record
from avelt.core.presets.capture import capture, left_out
from avelt.core.presets.pieces import Piece, pieces
from avelt.core.presets.places import Where
from avelt.core.presets.values import Preset
from avelt.core.record import Record
from avelt.core.timing.schedule import timed
from avelt.core.words import tr
from avelt.window.shelf.target import Target

if TYPE_CHECKING:
    from avelt.window.common.workspace import Workspace
    from avelt.window.loops.station import LoopsStation
    from avelt.window.routes.station import RoutesStation
    from avelt.window.shell.stations import Stations
    from avelt.window.timing.station import TimingStation


class Front(Protocol):
    """What is known of the window: the station in front, and all that were made."""

    current: str
    workspace: Workspace
    stations: Stations


class Offer(Record, frozen=True):
    """Motion that can be kept: what it is in words, what is not kept of it, and taking it under a name."""

    words: str
    take: Callable[[str], Preset]
    missing: str = ""

    def pieces(self) -> tuple[Piece, ...]:
        """What it would carry; nothing where it cannot be taken, which is said when it is."""
        try:
            return pieces(self.take("Preset"))
        except AveltError:
            return ()


def target_of(window: Front) -> Target:
    """What a preset would be put on in the station in front."""
    workspace, project = window.workspace, window.workspace.project
    if window.current == "routes":
        routes = [i for i in cast("RoutesStation", window.stations["routes"]).matrix.chosen if i]
        if len(routes) > 1:
            return Target(Where(routes=tuple(routes)), tr("For <b>{count} routes</b>", count=len(routes)))
    route = workspace.route
    if window.current in ("frames", "loops") and workspace.frame is not None:
        layers, frame = tuple(workspace.chosen_here), workspace.frame
        others: dict[str, list[str]] = {}
        for frame_id, layer_id in workspace.chosen:
            if frame_id != frame.id:
                others.setdefault(frame_id, []).append(layer_id)
        also = tuple(Where((), (), ident, tuple(found)) for ident, found in others.items())
        named = _named(project, (*layers, *(ident for found in others.values() for ident in found)), ())
        place = tr("{count} frames", count=1 + len(also)) if also else frame.name
        return Target(Where((), (), frame.id, layers), tr("For {named} in {place}", named=named, place=place), also)
    if route is None:
        return Target()
    pairs = _pairs(window)
    layers = tuple(pair.to_id for pair in pairs if pair.to_id is not None)
    title = route_title(project, route).replace(" > ", " → ")
    words = (
        tr("For {project} in {title}", project=_named(project, layers, pairs), title=title)
        if pairs
        else tr("For <b>{title}</b>", title=title)
    )
    return Target(Where((route.id,), pairs, route.arrives, layers), words)


def _pairs(window: Front) -> tuple[PairKey, ...]:
    """The pairs whose rows are chosen in Timing."""
    if "timing" not in window.stations:
        return ()
    context = cast("TimingStation", window.stations["timing"]).context
    if context.route is None or context.route is not window.workspace.route or context.key is None:
        return ()
    return tuple(dict.fromkeys(key.pair for key in context.keys or (context.key,)))


def _named(project: Project, layers: tuple[str, ...], pairs: tuple[PairKey, ...]) -> str:
    """The one layer that is meant by its name, several by their number."""
    count = max(len(layers), len(pairs))
    if count != 1:
        return tr("<b>{count} layers</b>", count=count) if count else tr("<b>what you choose</b>")
    wanted = {*layers, *(ident for pair in pairs for ident in pair if ident)}
    for frame in project.frames:
        for ident, layer in layer_index(frame).items():
            if ident in wanted:
                return f"<b>{layer.name}</b>"
    return tr("<b>1 layer</b>")


def offers(window: Front) -> list[Offer]:
    """The motion that can be kept from here, what is most likely meant first."""
    project = window.workspace.project
    found: list[Offer] = []
    if window.current == "loops":
        found += _loops(window, project)
    route = window.workspace.route
    if route is None:
        return found
    pairs = _pairs(window)
    if len(pairs) == 1:
        missing = left_out(project, route.id, pairs[0])
        found.append(Offer(tr("the motion of this layer"), partial(capture, project, route.id, pairs[0]), missing))
        if timed(project, route.transition, *pairs[0], "position").motion_path is not None:
            found.append(Offer(tr("its motion path"), partial(record.capture_path, project, route.id, pairs[0])))
        curve = timed(project, route.transition, *pairs[0], "").plain
        found.append(Offer(tr("its curve"), partial(record.capture_curve, project, curve)))
    elif pairs:
        words = tr("these {count} layers with their ties and staggers", count=len(pairs))
        found.append(Offer(words, partial(record.capture_shared, project, route.id, pairs)))
    for rule in route.transition.staggers:
        if pairs and set(pairs) <= {key.pair for key in rule.cues}:
            found.append(Offer(tr("their stagger"), partial(record.capture_stagger, project, route.id, rule.id)))
    title = route_title(project, route_by_id(project, route.id)).replace(" > ", " → ")
    found.append(Offer(tr("all of {title}", title=title), partial(record.capture_transition, project, route.id)))
    return found


def _loops(window: Front, project: Project) -> list[Offer]:
    station, frame = cast("LoopsStation", window.stations["loops"]), window.workspace.frame
    found = []
    loop = next((entry for entry in frame.loops if entry.id == station.loop_id), None) if frame is not None else None
    if frame is not None and loop is not None:
        found.append(
            Offer(tr("the loop {loop}", loop=loop.name), partial(record.capture_loop, project, frame.id, loop.id))
        )
    whole = window.workspace.whole
    part = window.workspace.stages.part(whole)
    if part is not None:
        found.append(Offer(tr("the part {part}", part=part.name), partial(record.capture_part, whole, part.id)))
    return found
