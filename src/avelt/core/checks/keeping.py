"""What is wrong with linked presets, kept tapes and pictures."""

from __future__ import annotations

import json
from collections.abc import Iterator

from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import walk
from avelt.core.model.values import Picture, Project
from avelt.core.running.tape import start_that_fits
from avelt.core.words import tr

_HEAVY = 400_000  # bytes
_MORE = 3.0  # times as many pixels across as it is shown with at its largest


def links(project: Project) -> Iterator[Trouble]:
    """Links to what the project does not carry."""
    carried = {entry.name for entry in project.presets}
    for link in project.links:
        if link.preset not in carried:
            about = (link.route,) if link.route else ()
            says = tr("The preset {preset} is linked to, but the project does not carry it.", preset=link.preset)
            yield Trouble("link gone", says, about, (link.frame,) if link.frame else (), others=(link.id,))


def quieter(project: Project) -> Iterator[Trouble]:
    """Carried presets without a quieter stand-in."""
    for entry in project.presets:
        try:
            named = json.loads(entry.document).get("quieter", "")
        except (ValueError, AttributeError):
            named = ""
        if not named:
            says = tr(
                "The preset {entry} names no quieter variant for people who ask for less motion.", entry=entry.name
            )
            yield Trouble("no quieter", says, others=(entry.name,))


def tapes(project: Project) -> Iterator[Trouble]:
    """Kept tapes that begin where nothing is any more."""
    for tape in project.tapes:
        _, missed = start_that_fits(project, tape.start)
        for says in missed:
            yield Trouble("tape", f"{tape.name}: {says}", others=(f"tape:{tape.name}",))


def heavy_pictures(project: Project) -> Iterator[Trouble]:
    """Pictures with far more pixels than are ever shown: every delivery carries them."""
    shown: dict[str, tuple[float, str, str]] = {}
    stages = [*project.frames, *(pose for part in project.parts for pose in part.poses)]
    for frame in stages:
        for layer in walk(frame.layers):
            if isinstance(layer.body, Picture):
                size = max(layer.w * abs(layer.scale_x), layer.h * abs(layer.scale_y))
                if size > shown.get(layer.body.asset, (0.0, "", ""))[0]:
                    shown[layer.body.asset] = (size, frame.id, layer.id)
    for asset in project.assets:
        size, there, ident = shown.get(asset.id, (0.0, "", ""))
        if size and len(asset.data) > _HEAVY and max(asset.w, asset.h) > _MORE * size:
            weighs = tr("{w} × {h} px ({count:.1f} MB)", w=asset.w, h=asset.h, count=len(asset.data) / 1000000.0)
            says = tr("A picture of {weighs} is shown {size:.0f} px large at most.", weighs=weighs, size=size)
            yield Trouble("picture heavy", says, (), (there,), layers=(ident,))


RULES = (quieter, tapes, heavy_pictures)
