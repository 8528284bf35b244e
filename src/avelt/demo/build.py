"""The demo project, made from the screens in this folder through the same import that everybody uses."""

from __future__ import annotations

from importlib.resources import as_file, files

import msgspec

from avelt.core.edits.frames import add_frames, new_project, next_state, put_frame, rename_frame
from avelt.core.edits.layers import move_in_frame
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import add_route, set_absent, set_cue
from avelt.core.formats.bring_in import read_screen
from avelt.core.formats.svg_text import TextMeasure, rough_width
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.tree import map_layers
from avelt.core.model.triggers import Tap, Timer
from avelt.core.model.values import Frame, Handles, Layer, Named, Pose, Project, Spring, Transition

SCREENS = ("Sailings", "Sailing detail")
LATE = "Sailing detail, late"
replace = msgspec.structs.replace


def build_demo(measure: TextMeasure = rough_width) -> Project:
    """Three frames, four routes, three loops of the Skerry Line."""
    project = new_project("Skerry Line")
    for name in SCREENS:
        with as_file(files("avelt.demo").joinpath(f"{name}.svg")) as path:
            imported = read_screen(path, measure)
        frame = replace(imported.frame, source=None)
        project = add_frames(project, [frame], imported.assets)
    project = _loops(project)
    project = _late(project)
    return _routes(project)


def _loops(project: Project) -> Project:
    detail = find_frame(project, "Sailing detail")
    boat, swell = find_layer(detail, "Boat"), find_layer(detail, "Swell")
    detail = replace(detail, layers=_with_pivot(detail, boat.id, (0.5, 0.9)))
    project = put_frame(project, detail)
    project, rock = add_loop(project, detail.id, boat.id, Pose(shift_y=4.0, turn=5.0))
    project = edit_loop(
        project, detail.id, rock, lambda loop: replace(loop, name="boat rock", length=2600.0, curve=Named("swell"))
    )
    project, sway = add_loop(project, detail.id, swell.id, Pose(shift_x=-24.0, shift_y=3.0))
    project = edit_loop(
        project, detail.id, sway,
        lambda loop: replace(
            loop, name="swell", length=2600.0, wait=350.0, wait_when="before each round", curve=Named("swell")
        ),
    )  # fmt: skip
    dot = find_layer(detail, "Seat dot")
    project, blink = add_loop(project, detail.id, dot.id, Pose(scale_x=1.5, scale_y=1.5, opacity=0.45))
    return edit_loop(
        project, detail.id, blink,
        lambda loop: replace(loop, name="seat blink", length=420.0, wait=1500.0, wait_when="before each round"),
    )  # fmt: skip


def _with_pivot(frame: Frame, layer_id: str, pivot: tuple[float, float]) -> tuple[Layer, ...]:
    return map_layers(frame.layers, {layer_id: lambda layer: replace(layer, pivot=pivot)})


def _late(project: Project) -> Project:
    """The detail's next state: the notice has come down over it."""
    detail = find_frame(project, "Sailing detail")
    project = next_state(project, detail.id)
    late = project.frames[project.frames.index(find_frame(project, "Sailing detail")) + 1]
    project = rename_frame(project, late.id, LATE)
    late = find_frame(project, LATE)
    notice = find_layer(late, "Notice")
    return put_frame(project, move_in_frame(late, notice.id, 0.0, 190.0))


def _routes(project: Project) -> Project:
    sailings, detail, late = (find_frame(project, name) for name in (*SCREENS, LATE))
    card = find_layer(sailings, "Grey Stack card")
    project, out = add_route(project, sailings.id, detail.id, Tap(card.id), Transition(480.0, Named("settle")))
    project, back = add_route(
        project, detail.id, sailings.id, Tap(find_layer(detail, "Back").id), Transition(360.0, Named("settle"))
    )
    project, _ = add_route(project, detail.id, late.id, Timer(2000.0), Transition(420.0, Named("buoy")))
    project, _ = add_route(
        project, late.id, detail.id, Tap(find_layer(late, "Notice").id), Transition(240.0, Named("leave"))
    )
    project, late_back = add_route(
        project, late.id, sailings.id, Tap(find_layer(late, "Back").id), Transition(360.0, Named("settle"))
    )

    project = _way_back(_way_back(project, back, detail), late_back, late)

    def cue(project: Project, left: str | None, right: str | None, prop: str = "", **own: object) -> Project:
        ends = (find_layer(sailings, left).id if left else None, find_layer(detail, right).id if right else None)
        return set_cue(project, out, (*ends, prop), **own)  # type: ignore[arg-type]

    project = cue(project, "Grey Stack card", "Hero card", "place", start=40.0, curve=Spring(0.22))
    project = cue(project, "Grey Stack time", "Time", start=60.0, end=440.0)
    project = cue(project, "Grey Stack name", "Island", start=80.0, end=460.0)
    project = cue(project, "Grey Stack time", "Time", "type", start=60.0, end=320.0, curve=Handles(0.3, 0.0, 0.1, 1.0))
    for name, begin, end in (
        ("Header", 0, 170),
        ("Outer Holm card", 0, 210),
        ("Sandray card", 30, 250),
        ("Tab bar", 0, 220),
    ):
        project = cue(project, name, None, start=float(begin), end=float(end), curve=Named("leave"))
    for name, shift in (("Outer Holm card", -40.0), ("Sandray card", 40.0), ("Tab bar", 80.0)):
        project = set_absent(project, out, find_layer(sailings, name).id, Pose(shift_y=shift, opacity=0.0))
    for name, start in (
        ("Boat", 220.0),
        ("Swell", 280.0),
        ("Facts", 200.0),
        ("Back", 180.0),
        ("Deck note", 200.0),
        ("Route line", 240.0),
        ("Board button", 280.0),
    ):
        project = cue(project, None, name, start=start, end=480.0, curve=Named("arrive"))
    project = set_absent(project, out, find_layer(detail, "Boat").id, Pose(shift_x=-50.0, turn=-8.0, opacity=0.0))
    project = set_absent(project, out, find_layer(detail, "Swell").id, Pose(shift_y=30.0, opacity=0.0))
    # The water comes piece by piece, not as one.
    project = set_absent(project, out, find_layer(detail, "Water").id, Pose())
    for name in ("Deck note", "Route line", "Board button"):
        project = set_absent(project, out, find_layer(detail, name).id, Pose(shift_y=36.0, opacity=0.0))
    return project


def _way_back(project: Project, route_id: str, frame: Frame) -> Project:
    """Leaving the detail: what is its own goes at once, the list comes as the card lands."""
    sailings = find_frame(project, "Sailings")
    for name in ("Water", "Back", "Facts", "Deck note", "Route line", "Board button", "Notice"):
        key = (find_layer(frame, name).id, None, "")
        project = set_cue(project, route_id, key, start=0.0, end=130.0, curve=Named("leave"))
    for name, begin in (("Header", 120.0), ("Outer Holm card", 130.0), ("Sandray card", 160.0), ("Tab bar", 140.0)):
        layer = find_layer(sailings, name)
        project = set_cue(project, route_id, (None, layer.id, ""), start=begin, end=360.0, curve=Named("arrive"))
    return project
