"""From what runs to where it is made."""

from __future__ import annotations

from avelt.core.model.find import layer_index
from avelt.core.running.player import Player
from avelt.core.running.world import World
from avelt.window.common.workspace import Workspace
from avelt.window.rehearse.now_runs import Line


def lead_to(workspace: Workspace, player: Player, line: Line) -> None:
    """Go to the station where a thing is made, with it chosen."""
    kind, *about = line.leads
    if kind == "route":
        workspace.motion_wanted.emit(about[0])
    elif kind == "trigger":
        workspace.choose_route(about[0])
        workspace.station_wanted.emit("routes")
    elif kind == "layer":
        workspace.choose(about[0], about[1])
        workspace.station_wanted.emit("frames")
    elif kind == "motion":
        for part_id in parts_on_the_way(player.world, about[0]):
            workspace.open_part(part_id)
        workspace.motion_wanted.emit(about[1])
    elif kind in ("loop", "phase"):
        for part_id in parts_on_the_way(player.world, about[0]):
            workspace.open_part(part_id)
        if kind == "loop":
            _choose_loop(workspace, about[1])
        workspace.station_wanted.emit("loops")


def parts_on_the_way(world: World, inside: str) -> list[str]:
    """The ids of the parts at work that a path of use names leads through."""
    found: list[str] = []
    for name in inside.split("/") if inside else ():
        child = next((entry for entry in world.children.values() if entry.name == name), None)
        if child is None:
            break
        found.append(child.use.part)
        world = child.world
    return found


def _choose_loop(workspace: Workspace, loop_id: str) -> None:
    for frame in workspace.project.frames:
        for loop in frame.loops:
            if loop.id == loop_id and loop.layer in layer_index(frame):
                workspace.choose(frame.id, loop.layer)
                return
