"""The demo project, made from the screens in this folder through the same import that everybody uses."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import as_file, files

import msgspec

from avelt.core.edits.frames import add_frames, put_frame
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.project import new_project
from avelt.core.formats.screen_file import read_screen
from avelt.core.formats.svg_text import TextMeasure, rough_width
from avelt.core.model.curves import Named
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.tree import map_layers
from avelt.core.model.values import Frame, Layer, Pose, Project
from avelt.core.steps.read import applied, steps_of
from avelt.core.steps.said import Site
from avelt.demo.routes import wire

SCREENS = ("Sailings", "Sailing detail", "Boarding pass", "Seat deck", "Delay notice")
STEPS = ("On the water.json", "By hand.json")
replace = msgspec.structs.replace


@lru_cache(maxsize=4)
def build_demo(measure: TextMeasure = rough_width) -> Project:
    """The Skerry Line: five screens, the routes between them and their loops; and what is made by steps: the sea, with
    parts that loop and one that a running order drives, and screens that answer the hand, with two tapes."""
    project = new_project("Skerry Line")
    for name in SCREENS:
        with as_file(files("avelt.demo").joinpath(f"{name}.svg")) as path:
            imported = read_screen(path, measure)
        # The notice is shown over other frames: round its paper nothing of it is seen.
        # The screens stand on white; the notice is shown over them and has no ground.
        ground = imported.frame.background if name == "Delay notice" else "#ffffff"
        frame = replace(imported.frame, source=None, background=ground)
        project = add_frames(project, [frame], imported.assets)
    return _at_sea(wire(_loops(project)), measure)


def _at_sea(project: Project, measure: TextMeasure) -> Project:
    """What is made by the steps in this folder."""
    for name in STEPS:
        with as_file(files("avelt.demo").joinpath(name)) as path:
            project = applied(project, steps_of(path.read_bytes(), name), Site(path.parent, measure), name)
    return project


def _loops(project: Project) -> Project:
    detail = find_frame(project, "Sailing detail")
    boat, swell = find_layer(detail, "Boat"), find_layer(detail, "Swell")
    detail = replace(detail, layers=_with_pivot(detail, boat.id, (0.5, 0.9)))
    project = put_frame(project, detail)
    project, rock = add_loop(project, detail.id, boat.id, Pose(shift_y=4.0, rotation=5.0))
    project = edit_loop(
        project, detail.id, rock, lambda loop: replace(loop, name="boat rock", duration=2600.0, curve=Named("swell"))
    )
    project, sway = add_loop(project, detail.id, swell.id, Pose(shift_x=-24.0, shift_y=3.0))
    project = edit_loop(
        project,
        detail.id,
        sway,
        lambda loop: replace(
            loop, name="swell", duration=2600.0, wait=325.0, wait_when="before each round", curve=Named("swell")
        ),
    )
    dot = find_layer(detail, "Seat dot")
    project, blink = add_loop(project, detail.id, dot.id, Pose(scale_x=1.5, scale_y=1.5, opacity=0.45))
    project = edit_loop(
        project,
        detail.id,
        blink,
        lambda loop: replace(loop, name="seat blink", duration=420.0, wait=1530.0, wait_when="before each round"),
    )
    boarding = find_frame(project, "Boarding pass")
    ring = find_layer(boarding, "Gate ring")
    project, glow = add_loop(project, boarding.id, ring.id, Pose(scale_x=1.7, scale_y=1.7, opacity=0.0))
    return edit_loop(
        project,
        boarding.id,
        glow,
        lambda loop: replace(
            loop, name="lantern", direction="one way", duration=700.0, wait=900.0, wait_when="before each round"
        ),
    )


def _with_pivot(frame: Frame, layer_id: str, pivot: tuple[float, float]) -> tuple[Layer, ...]:
    return map_layers(frame.layers, {layer_id: lambda layer: replace(layer, pivot=pivot)})
