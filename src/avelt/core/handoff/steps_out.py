"""The project as steps: ``avelt edit`` on an empty project makes it again."""

from __future__ import annotations

from typing import Any

import msgspec

from avelt.core.handoff.delivery import Delivery, Report, Wanted
from avelt.core.handoff.nodes import slug
from avelt.core.model.values import LISTS, Project


def steps_for(project: Project) -> list[dict[str, Any]]:
    """The steps: what the project has once, then every entry of its lists, then the frame that it starts with."""
    once: dict[str, Any] = {"do": "project", "name": project.name, "grid": project.grid}
    once |= {"next_id": project.next_id, "bare": True}
    if project.swatches:
        once["swatches"] = list(project.swatches)
    steps = [once]
    for name in LISTS:
        steps += [{"do": "add", "to": name, "value": value} for value in getattr(project, name)]
    if project.first:
        steps.append({"do": "set", "in": project.first, "first": True})
    return steps


def steps_delivery(project: Project, wanted: Wanted) -> Delivery:
    """One file: a step a line, pictures in it."""
    lines = [msgspec.json.encode(step) for step in steps_for(project)]
    data = b"[\n" + b",\n".join(lines) + b"\n]\n"
    name = f"{slug(wanted.name, 'motion')}.json"
    return Delivery({name: data}, name, Report())
