"""``avelt info``: what is in a project."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

import msgspec

from avelt.cli_common import Arguments, print_result
from avelt.core.formats.project_file import open_project
from avelt.core.model.find import layer_index, route_title
from avelt.core.model.parts import used_by
from avelt.core.model.phases import Track
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Project, Route
from avelt.core.model.wording import action_words, trigger_words
from avelt.core.timing.schedule import duration_of


def build_info(parser: argparse.ArgumentParser) -> None:
    """``avelt info FILE [--json]``."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_info)


def _info(args: Arguments) -> None:
    project = open_project(args.file)
    frames: list[dict[str, Any]] = [
        {
            "id": frame.id,
            "name": frame.name,
            "w": frame.w,
            "h": frame.h,
            "layers": len(layer_index(frame)),
            "loops": [{"id": loop.id, "name": loop.name, "layer": loop.layer} for loop in frame.loops],
        }
        for frame in project.frames
    ]
    routes = [_route_plain(project, route) for route in project.routes]
    plain = {
        "name": project.name,
        "format": project.format,
        "first": project.first,
        "frames": frames,
        "routes": routes,
        "curves": [msgspec.to_builtins(curve) for curve in project.curves],
        "assets": len(project.assets),
        "parts": [
            {
                "id": part.id,
                "name": part.name,
                "w": part.w,
                "h": part.h,
                "poses": [pose.name for pose in part.poses],
                "inputs": [entry.name for entry in part.inputs],
                "routes": len(part.routes),
                "phases": _phases(part.tracks),
                "used_by": list(used_by(project, part.id)),
            }
            for part in project.parts
        ],
        "phases": _phases(project.tracks),
        "presets": [],
        "inputs": [msgspec.structs.asdict(entry) for entry in project.inputs],
    }
    lines = [f"{project.name}: {len(frames)} frames, {len(routes)} routes"]
    lines += [
        f"  frame {f['name']}: {f['w']:g} x {f['h']:g}, {f['layers']} layers, {len(f['loops'])} loops" for f in frames
    ]
    lines += [f"  input {entry.name}: {entry.kind}, starts as {entry.start!r}" for entry in project.inputs]
    for part in project.parts:
        phases = sum(len(track.phases) for track in part.tracks)
        users = ", ".join(used_by(project, part.id)) or "nothing"
        lines.append(f"  part {part.name}: {len(part.poses)} poses, {phases} phases, used by {users}")
    lines += [f"  route {r['title']}: {r['trigger']['says']}, {r['length']:g} ms" for r in routes]
    print_result(args, plain, lines)


def _phases(tracks: tuple[Track, ...]) -> dict[str, list[str]]:
    """The names of phases by those of their tracks."""
    return {track.name: [phase.name for phase in track.phases] for track in tracks}


def _route_plain(project: Project, route: Route) -> dict[str, Any]:
    trigger, action = msgspec.to_builtins(route.trigger), msgspec.to_builtins(route.action)
    if isinstance(route.trigger, Timer):
        trigger["wait"] = route.trigger.after  # as it was called before format 4; other programs read it
    trigger["says"] = " ".join(trigger_words(project, route))
    action["says"] = action_words(project, route.action)
    return {
        "id": route.id,
        "title": route_title(project, route),
        "leaves": route.leaves,
        "arrives": route.arrives,
        "trigger": trigger,
        "action": action,
        "wait": route.delay,
        "only_if": route.only_if,
        "parts": route.on_arrival,
        "length": duration_of(route.transition, project),
        "cues": len(route.transition.cues),
    }
