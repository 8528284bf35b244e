"""One cue's motion put on others."""

from __future__ import annotations

from collections.abc import Iterable

from avelt.core.edits.afterwards import lengths_kept
from avelt.core.edits.cues import change_cues, place_cue
from avelt.core.edits.keyframes import keys_for
from avelt.core.edits.routes import set_cue
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.schedule import timed


@lengths_kept
def put_timing(project: Project, route_id: str, source: CueKey, keys: Iterable[CueKey]) -> Project:
    """When and how one cue goes, for others too: its time, its curve, whether it turns the shortest way.

    Cues of the same property also get its keyframes, as far from their own ends as they are from its, and its motion
    path; where it has none, theirs stay.
    """
    route = route_by_id(project, route_id)
    when = timed(project, route.transition, *source)
    program = compile_route(project, route) if when.keyframes else None
    for key in keys:
        if key == source:
            continue
        project = place_cue(project, route_id, key, when.start, when.end)
        project = set_cue(project, route_id, key, curve=when.curve, shortest=when.shortest or None)
        if key.prop != source.prop:
            continue
        if when.motion_path is not None or program is not None:
            project = change_cues(project, route_id, [key], motion_path=when.motion_path)
        if program is not None:
            moved = keys_for(when.keyframes, source, program, program, key)
            project = change_cues(project, route_id, [key], keyframes=moved)
    return project
