"""Side tracks: the layers that one moves are taken out of the poses, and stand in for by one layer where they lay.

What stands in is a use of no part, as large as the stage: the scene of the side track stands in it. So a main order and
side tracks are programs of their own, and everything that knows scenes in scenes (painters, samples, hits) knows them.
"""

from __future__ import annotations

from collections.abc import Mapping
from itertools import groupby

from msgspec.structs import replace

from avelt.core.model.find import walk
from avelt.core.model.phases import ShowLoops, Track, poses_of
from avelt.core.model.values import Frame, Group, Layer, Project, Use
from avelt.core.record import Record

_STANDS_IN = "track:"


class Split(Record, frozen=True):
    """Poses by id: what is left to the main order, and for each side track (by id) what it has in each place (by a key
    that is the same in all poses)."""

    main: Mapping[str, Frame]
    sides: Mapping[str, Mapping[str, Mapping[str, Frame]]]


def stand_in(layer: Layer | None) -> tuple[str, str] | None:
    """The side track (its id) and the place that a layer stands in for; ``None`` for a layer of its own."""
    if layer is None or not isinstance(layer.body, Use) or not layer.body.part.startswith(_STANDS_IN):
        return None
    track, _, key = layer.body.part[len(_STANDS_IN) :].partition(":")
    return track, key


def origin_of(track: str, place: str) -> str:
    """The origin of the layer that stands in for a side track (its id) in a place."""
    return f"{_STANDS_IN}{track}:{place}"


def moved_by(project: Project, track: Track) -> frozenset[str]:
    """The origins of the layers that a side track moves: those that it names, or those that differ among the poses that
    it shows, and those that loop there."""
    if track.layers:
        return frozenset(track.layers)
    wanted = {pose for phase in track.phases for pose in poses_of(phase.shows)}
    poses = [frame for frame in project.frames if frame.id in wanted]
    seen: dict[str, list[Layer]] = {}
    for pose in poses:
        for layer in walk(pose.layers):
            body = replace(layer.body, children=()) if isinstance(layer.body, Group) else layer.body
            seen.setdefault(layer.origin, []).append(replace(layer, id="", body=body))
    differ = {origin for origin, found in seen.items() if len(found) < len(poses) or any(e != found[0] for e in found)}
    at_work = {phase.shows.pose for phase in track.phases if isinstance(phase.shows, ShowLoops)}
    for pose in poses:
        origins = {layer.id: layer.origin for layer in walk(pose.layers)}
        if pose.id in at_work:
            differ |= {origins[loop.layer] for loop in pose.loops}
    return frozenset(differ)


def split(project: Project, sides: tuple[Track, ...]) -> Split:
    """The poses of a stage parted among its main order and its side tracks; what two want is the first one's."""
    owner = {origin: track.id for track in reversed(sides) for origin in moved_by(project, track)}
    main: dict[str, Frame] = {}
    parted: dict[str, dict[str, dict[str, Frame]]] = {track.id: {} for track in sides}
    for pose in project.frames:
        found: dict[tuple[str, str], tuple[Layer, ...]] = {}
        layers = _without(pose, pose.layers, "", owner, found)
        main[pose.id] = _of(pose, layers)
        for (track, key), taken in found.items():
            clear = replace(_of(pose, taken), background="#ffffff00", clips=False, entrance=None)
            parted[track].setdefault(key, {})[pose.id] = clear
    for places in parted.values():
        for there in places.values():
            for pose in project.frames:
                empty = replace(pose, layers=(), loops=(), background="#ffffff00", clips=False, entrance=None)
                there.setdefault(pose.id, empty)
    return Split(main, parted)


def _of(pose: Frame, layers: tuple[Layer, ...]) -> Frame:
    """A pose with only some of its layers, and the loops on them."""
    ids = {layer.id for layer in walk(layers)}
    loops = tuple(loop for loop in pose.loops if loop.layer in ids)
    return replace(pose, layers=layers, loops=loops, follows=tuple(f for f in pose.follows if f.layer in ids))


def _without(
    pose: Frame,
    layers: tuple[Layer, ...],
    parent: str,
    owner: Mapping[str, str],
    found: dict[tuple[str, str], tuple[Layer, ...]],
) -> tuple[Layer, ...]:
    """Layers of one parent without those of side tracks; neighbours of one track are stood in for together."""
    made: list[Layer] = []
    counts: dict[str, int] = {}
    for track, neighbours in groupby(layers, key=lambda layer: owner.get(layer.origin, "")):
        run = tuple(neighbours)
        if track:
            counts[track] = counts.get(track, 0) + 1
            key = f"{parent}/{counts[track]}"
            found[track, key] = run
            origin = origin_of(track, key)
            made.append(Layer(f"{origin}@{pose.id}", origin, "", Use(origin), 0.0, 0.0, pose.w, pose.h))
            continue
        for layer in run:
            if isinstance(layer.body, Group):
                inner = _without(pose, layer.body.children, layer.origin, owner, found)
                layer = replace(layer, body=replace(layer.body, children=inner))
            made.append(layer)
    return tuple(made)
