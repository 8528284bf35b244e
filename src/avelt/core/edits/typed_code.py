"""Times and curves that were typed into code, put into the cues that they came from."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from avelt.core.edits.routes import set_cue
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.schedule import timed
from avelt.core.words import tr

_NEAR = 1.0  # ms


class TypedTimes(Protocol):
    """What is needed of a change (see ``handoff/css_back.py``)."""

    @property
    def layer(self) -> str: ...
    @property
    def prop(self) -> str: ...
    @property
    def line(self) -> int: ...
    @property
    def was(self) -> tuple[float, float]: ...
    @property
    def start(self) -> float: ...
    @property
    def end(self) -> float: ...
    @property
    def curve(self) -> PlainCurve | None: ...


def take_typed(project: Project, route_id: str, changes: Sequence[TypedTimes]) -> Project:
    """The project with the cues as they were typed; ``EditError`` with the line of what is no cue of its own."""
    program = compile_route(project, route_by_id(project, route_id))
    slots: dict[str, list[int]] = {}
    for slot, part in enumerate(program.contents):
        slots.setdefault(part.layer.name, []).append(slot)
    for change in changes:
        place = f"line {change.line}"
        found = slots.get(change.layer, [])
        if not change.layer or not found:
            raise EditError(tr("This is not of one layer: change it in the sheet."), place)
        if len(found) > 1:
            raise EditError(
                tr("Several layers are called “{layer}”: change it in the sheet.", layer=change.layer), place
            )
        key = CueKey(*program.ends_of(found[0]), change.prop)
        now = timed(project, route_by_id(project, route_id).transition, *key)
        if abs(now.start - change.was[0]) > _NEAR or abs(now.end - change.was[1]) > _NEAR:
            raise EditError(tr("This comes of several cues: change them in the sheet."), place)
        curve: Curve | str = change.curve if change.curve is not None else "keep"
        project = set_cue(project, route_id, key, start=max(0.0, change.start), end=max(0.0, change.end), curve=curve)
    return project
