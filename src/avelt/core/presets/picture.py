"""The moving picture of a preset: a small scene that moves as the preset says."""

from __future__ import annotations

import msgspec

from avelt.core.curves.named import STARTERS
from avelt.core.model.motion import PairKey
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Box, Decision, Frame, Layer, Project, Route, Solid, Transition
from avelt.core.presets.capture import put
from avelt.core.presets.values import Preset
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program

W, H = 168.0, 84.0
_LEAVING, _ARRIVING = "#E58A43", "#0E7C74"


def picture_program(preset: Preset) -> Program:
    """A box that moves, grows, changes colour and corners with the preset's cues (or enters, or leaves)."""
    small = Layer("a", "a", "Box", Box((4, 4, 4, 4)), 16, 44, 34, 24, fills=(Solid(_LEAVING),))
    large = Layer("b", "b", "Box", Box((8, 8, 8, 8)), 96, 16, 56, 44, rotation=0.0, fills=(Solid(_ARRIVING),))
    middle = msgspec.structs.replace(large, x=56.0, y=20.0)
    left = Frame("left", "Left", W, H, "#F3EEE2", True, (small,))
    right = Frame("right", "Right", W, H, "#F3EEE2", True, (large,))
    ends = PairKey("a", "b")
    decisions: tuple[Decision, ...] = (Decision("a", "b", True),)
    if preset.kind == "enter":
        left, right = msgspec.structs.replace(left, layers=()), msgspec.structs.replace(right, layers=(middle,))
        ends, decisions = PairKey(None, "b"), ()
    elif preset.kind == "leave":
        middle = msgspec.structs.replace(middle, fills=(Solid(_LEAVING),))
        left, right = msgspec.structs.replace(left, layers=(middle,)), msgspec.structs.replace(right, layers=())
        ends, decisions = PairKey("b", None), ()
    route = Route("r", "left", "right", Tap(), Transition(preset.duration or 300.0, STARTERS[0].curve, (), decisions))
    project = Project("Picture", frames=(left, right), routes=(route,), curves=STARTERS, first="left")
    project = put(project, "r", ends, preset)
    return compile_route(project, project.routes[0])
