"""Steps that remove things and give them other names: one table of what there is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from avelt.core.edits import follows, frames, inputs, loops, parts, phases, routes, structure, tapes
from avelt.core.edits.layers import edit_layer
from avelt.core.errors import FormatError
from avelt.core.model.parts import find_part
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.steps.names import find_frame, find_route, follow_of, input_of, layer_of, loop_of
from avelt.core.steps.phase_steps import phase_of, track_of
from avelt.core.steps.said import Said, Site

replace = msgspec.structs.replace


class _Thing(Record, frozen=True):
    """How a thing that a step names is found, removed and renamed (``None``: it has no name)."""

    find: Callable[[Project, Said], Any]
    remove: Callable[[Project, Any], Project]
    rename: Callable[[Project, Any, str], Project] | None = None


def _in_frame(find: Callable[[Any, str], Any], key: str) -> Callable[[Project, Said], Any]:
    """A thing of the frame that a step says with “in”: its id with that of the frame."""

    def found(project: Project, said: Said) -> tuple[str, str]:
        if "in" not in said:
            raise FormatError("“in” is missing.")
        frame = find_frame(project, str(said["in"]))
        return frame.id, find(frame, said[key]).id

    return found


THINGS: dict[str, _Thing] = {
    "route": _Thing(lambda p, said: find_route(p, said["route"]).id, routes.remove_route),
    "layer": _Thing(
        _in_frame(layer_of, "layer"),
        lambda p, at: structure.remove_layers(p, at[0], [at[1]]),
        lambda p, at, name: edit_layer(p, at[0], at[1], lambda old: replace(old, name=name)),
    ),
    "loop": _Thing(
        _in_frame(loop_of, "loop"),
        lambda p, at: loops.remove_loop(p, *at),
        lambda p, at, name: loops.edit_loop(p, at[0], at[1], lambda old: replace(old, name=name)),
    ),
    "follow": _Thing(
        _in_frame(follow_of, "follow"),
        lambda p, at: follows.remove_follow(p, *at),
        lambda p, at, name: follows.edit_follow(p, at[0], at[1], lambda old: replace(old, name=name)),
    ),
    "tape": _Thing(lambda p, said: str(said["tape"]), tapes.remove_tape, tapes.rename_tape),
    "frame": _Thing(lambda p, said: find_frame(p, said["frame"]).id, frames.remove_frame, frames.rename_frame),
    "input": _Thing(lambda p, said: input_of(p, said["input"]).id, inputs.remove_input, inputs.rename_input),
    "phase": _Thing(
        phase_of,
        phases.remove_phase,
        lambda p, ident, name: phases.edit_phase(p, ident, lambda old: replace(old, name=name)),
    ),
    "track": _Thing(
        lambda p, said: track_of(p, said["track"]).id,
        phases.remove_track,
        lambda p, ident, name: phases.edit_track(p, ident, lambda old: replace(old, name=name)),
    ),
    "part": _Thing(lambda p, said: find_part(p, said["part"]).id, parts.remove_part, parts.rename_part),
}
NAMED = tuple(name for name, thing in THINGS.items() if thing.rename is not None)


def _thing(said: Said, names: tuple[str, ...]) -> tuple[str, _Thing]:
    found = [name for name in names if name in said]
    if found == ["phase", "track"]:
        found = ["phase"]  # the track only says where it is
    if len(found) != 1:
        raise FormatError(f"Say one of {', '.join(names)}.")
    return found[0], THINGS[found[0]]


def do_remove(project: Project, said: Said, site: Site) -> Project:
    """Without a thing."""
    _, thing = _thing(said, tuple(THINGS))
    return thing.remove(project, thing.find(project, said))


def do_rename(project: Project, said: Said, site: Site) -> Project:
    """Another name for a thing."""
    _, thing = _thing(said, NAMED)
    assert thing.rename is not None
    return thing.rename(project, thing.find(project, said), said["name"])
