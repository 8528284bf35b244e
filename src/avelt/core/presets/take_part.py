"""Taking the parts of another project in, with ids of this one."""

from __future__ import annotations

import re

import msgspec

from avelt.core.edits.frames import free_name, with_ids
from avelt.core.model.find import layer_index
from avelt.core.model.moves import moves_of
from avelt.core.model.values import Asset, Part, Project

replace = msgspec.structs.replace
_ID = re.compile(r'"[A-Z]\d+"')


def take_part(project: Project, carried: Project) -> tuple[Project, str]:
    """The parts of another project, with fresh ids; what is there already (the same but for ids and name) is used.
    Gives the id of the last of them."""
    assets: dict[str, Asset] = {asset.id: asset for asset in (*carried.assets, *project.assets)}
    project = replace(project, assets=tuple(assets.values()))
    ids: dict[str, str] = {}
    last = ""
    for part in carried.parts:
        # A part comes after those that it uses, so their new ids are known.
        wanted = replace(part, poses=with_ids(part.poses, ids))
        same = next((known for known in project.parts if _bare(known) == _bare(wanted)), None)
        if same is not None:
            ids[part.id] = last = same.id
            continue
        made, next_id = _fresh(wanted, project.next_id, [known.name for known in project.parts])
        project = replace(project, parts=(*project.parts, made), next_id=next_id)
        ids[part.id] = last = made.id
    return project, last


def _bare(part: Part) -> bytes:
    """A part with its ids numbered as they come: two that are alike but for ids and name give the same.

    Those of parts that it uses are kept: they say which.
    """
    # Made anew as a whole, as one with fresh ids was: what is a default by identity only is not left out of either.
    own = with_ids(replace(part, id="", name="", links=()), {})
    seen: dict[str, str] = {}

    def number(match: re.Match[str]) -> str:
        found = match.group(0)
        return found if found.startswith('"P') else f'"{seen.setdefault(found, f"#{len(seen)}")}"'

    return _ID.sub(number, msgspec.json.encode(own).decode()).encode()


def _fresh(part: Part, next_id: int, names: list[str]) -> tuple[Part, int]:
    """A part with ids that the project does not have."""
    ids: dict[str, str] = {}

    def new(old: str, prefix: str) -> None:
        nonlocal next_id
        if old not in ids:
            ids[old] = f"{prefix}{next_id}"
            next_id += 1

    new(part.id, "P")
    for pose in part.poses:
        new(pose.id, "F")
        for layer in layer_index(pose).values():
            new(layer.id, "L")
            new(layer.origin, "L")
        for move in moves_of(pose):
            new(move.id, "O")
            new(move.origin, "O")
    for route in part.routes:
        new(route.id, "R")
    for entry in part.inputs:
        new(entry.id, "I")
    for track in part.tracks:
        new(track.id, "T")
        for phase in track.phases:
            new(phase.id, "H")
    made: Part = with_ids(replace(part, name="", links=()), ids)
    return replace(made, name=free_name(names, part.name)), next_id
