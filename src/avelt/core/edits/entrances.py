"""Edits of entrances: how layers of a frame come after it was arrived at (the entrance)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec

from avelt.core.edits.cues import time_cues
from avelt.core.edits.frames import put_frame
from avelt.core.edits.ties_and_staggers import make_stagger
from avelt.core.errors import EditError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Named
from avelt.core.model.find import entrance_id, frame_by_id
from avelt.core.model.motion import Away, CueKey, Entrance, Stagger, Transition
from avelt.core.model.values import Frame, Group, Project
from avelt.core.words import tr

replace = msgspec.structs.replace
_EACH, _STEP = 320.0, 60.0  # ms


def make_entrance(project: Project, frame_id: str, layers: Iterable[str]) -> Project:
    """Layers that come after the arrival, one after the other from top to bottom: each rises and fades in.

    Of a group and what lies in it the group comes. Masks come with their groups.
    """
    frame = frame_by_id(project, frame_id)
    wanted = _outermost(frame, layers)
    if not wanted:
        raise EditError(tr("Choose the layers of the entrance: the frame has none of them."))
    motion = Transition(None, Named("settle"), enter=Away(shift_y=24.0, opacity=0.0), enter_curve=Named("arrive"))
    project = put_frame(project, replace(frame, entrance=Entrance(wanted, motion)))
    return _spread(project, frame_id, wanted)


def _spread(project: Project, frame_id: str, wanted: tuple[str, ...]) -> Project:

    route_id = entrance_id(frame_id)
    keys: list[CueKey] = [CueKey(None, ident, "") for ident in wanted]
    project = time_cues(project, route_id, keys, 0.0, _EACH)
    if len(keys) > 1:
        project = make_stagger(project, route_id, keys, Stagger("", (), "top to bottom", ms=_STEP))[0]
    return project


def set_layers(project: Project, frame_id: str, layers: Iterable[str]) -> Project:
    """Other layers are in the entrance; those that stay keep their cues. With none the entrance goes."""
    frame = frame_by_id(project, frame_id)
    if frame.entrance is None:
        return make_entrance(project, frame_id, layers)
    wanted = _outermost(frame, layers)
    if not wanted:
        return remove_entrance(project, frame_id)
    old = frame.entrance.transition
    kept = set(wanted)
    motion = replace(
        old,
        cues=tuple(cue for cue in old.cues if cue.to_id in kept),
        ties=tuple(tie for tie in old.ties if tie.cue.to_id in kept and tie.to.to_id in kept),
        staggers=tuple(
            entry
            for entry in (replace(e, cues=tuple(key for key in e.cues if key.to_id in kept)) for e in old.staggers)
            if len(entry.cues) > 1
        ),
        absents=tuple(entry for entry in old.absents if entry.layer in kept),
    )
    return put_frame(project, replace(frame, entrance=replace(frame.entrance, layers=wanted, transition=motion)))


def set_when(project: Project, frame_id: str, when: Literal["on arrival", "after loading"]) -> Project:
    """Whether it waits for the frame's loading to be done."""
    frame = frame_by_id(project, frame_id)
    if frame.entrance is None:
        raise EditError(tr("The frame has no entrance."))
    return put_frame(project, replace(frame, entrance=replace(frame.entrance, when=when)))


def remove_entrance(project: Project, frame_id: str) -> Project:
    """All layers are there when the frame is arrived at."""
    return put_frame(project, replace(frame_by_id(project, frame_id), entrance=None))


def _outermost(frame: Frame, layers: Iterable[str]) -> tuple[str, ...]:
    """Those that are in the frame and in none of the others, in paint order; masks never."""
    flat = flatten(frame)
    chosen = {ident for ident in layers if ident in flat.index}
    kept = []
    for i, layer in enumerate(flat.layers):
        up = int(flat.parent[i])
        body = flat.layers[up].body if up >= 0 else None
        if layer.id not in chosen or (isinstance(body, Group) and body.mask == layer.id):
            continue
        while up >= 0 and flat.layers[up].id not in chosen:
            up = int(flat.parent[up])
        if up < 0:
            kept.append(layer.id)
    return tuple(kept)
