"""The moving picture of a preset: a small scene that moves as the preset says. It is made by putting the preset on."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from itertools import cycle

import msgspec

from avelt.core.curves.named import STARTERS
from avelt.core.errors import AveltError
from avelt.core.model.motion import Decision, PairKey, Transition
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Box, Frame, Layer, Project, Route, Solid, Text
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.values import Preset, as_project
from avelt.core.record import Record
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of

replace = msgspec.structs.replace
W, H = 168.0, 84.0
_LEAVES, _ARRIVES = ("#E58A43", "#C96F2B", "#F0B68A"), ("#0E7C74", "#0A5F59", "#62ABA4")
_LEAVING, _ARRIVING, _GROUND = _LEAVES[0], _ARRIVES[0], "#F3EEE2"
#: What comes or goes stands in the middle third.
_MIDDLE = Layer("b", "b", "Box", Box((7, 7, 7, 7)), 64, 26, 40, 32, fills=(Solid(_ARRIVING),))
_SPREAD = 5  # layers that a stagger is shown on
_SHOWN_MS = 400.0  # of what has no length of its own


class Picture(Record, frozen=True):
    """What a preset looks like: a program and how long it is shown, ms."""

    program: Program
    duration: float


def picture_of(preset: Preset) -> Picture:
    """The moving picture of a preset of any kind; it is as large as its frame."""
    if preset.recorded is not None:
        project = as_project(preset)
        left, right = project.frames
        project = replace(project, frames=(_shown(left, _LEAVES), _shown(right, _ARRIVES)))
        return _of_route(project)
    if preset.loop is not None:
        (frame,) = as_project(preset).frames
        return Picture(compile_still(_shown(frame, _ARRIVES)), preset.duration)
    if preset.part is not None:
        project = as_project(preset)
        part = project.parts[-1]
        pose = replace(part.poses[0], background=part.poses[0].background or _GROUND)
        longest = max((loop.duration for loop in pose.loops), default=_SHOWN_MS)
        return Picture(compile_still(pose, project), longest)
    project, pairs = stage_of(preset)
    with suppress(AveltError):  # what cannot be put even here is shown at rest rather than not at all
        project = put_preset(project, preset, Where(routes=("r",), pairs=pairs)).project
    return _of_route(project)


def _of_route(project: Project) -> Picture:
    (route,) = project.routes
    return Picture(compile_route(project, route), end_of(route.transition, project))


def stage_of(preset: Preset) -> tuple[Project, tuple[PairKey, ...]]:
    """A box that moves, grows, changes colour and corners (or enters, or leaves); several boxes for a stagger."""
    small = Layer("a", "a", "Box", Box((4, 4, 4, 4)), 16, 44, 34, 24, fills=(Solid(_LEAVING),))
    large = Layer("b", "b", "Box", Box((8, 8, 8, 8)), 96, 16, 56, 44, rotation=0.0, fills=(Solid(_ARRIVING),))
    first: tuple[Layer, ...] = (small,)
    last: tuple[Layer, ...] = (large,)
    if preset.kind == "stagger":
        first = tuple(_bar(f"a{k}", k, 18.0, _LEAVING) for k in range(_SPREAD))
        last = tuple(_bar(f"b{k}", k, 114.0, _ARRIVING) for k in range(_SPREAD))
    elif preset.kind == "enter":
        first, last = (), (_MIDDLE,)
    elif preset.kind == "leave":
        first, last = (replace(_MIDDLE, fills=(Solid(_LEAVING),)),), ()
    left = Frame("left", "Left", W, H, _GROUND, True, first)
    right = Frame("right", "Right", W, H, _GROUND, True, last)
    both = tuple(PairKey(a.id, b.id) for a, b in zip(first, last, strict=False))
    pairs = both or tuple(PairKey(a.id, None) for a in first) or tuple(PairKey(None, b.id) for b in last)
    decisions = tuple(Decision(a.id, b.id, True) for a, b in zip(first, last, strict=False))
    motion = Transition(preset.duration or _SHOWN_MS, STARTERS[0].curve, (), decisions)
    route = Route("r", "left", "right", Tap(), motion)
    return Project("Picture", frames=(left, right), routes=(route,), curves=STARTERS, first="left"), pairs


def _bar(ident: str, place: int, x: float, color: str) -> Layer:
    return Layer(
        ident, ident, f"Bar {place + 1}", Box((3, 3, 3, 3)), x, 9.0 + 14.0 * place, 36, 10, fills=(Solid(color),)
    )


def _shown(frame: Frame, tones: tuple[str, ...]) -> Frame:
    """A frame of stand-ins: texts as the blocks that they fill, each layer in a tone of its own."""
    colours = cycle(tones)
    return replace(frame, background=_GROUND, layers=tuple(_block(layer, colours) for layer in frame.layers))


def _block(layer: Layer, colours: Iterator[str]) -> Layer:
    body = layer.body
    if isinstance(body, Text):
        body = Box((3, 3, 3, 3))
    fills = (Solid(next(colours)),) if layer.fills or isinstance(layer.body, Text) else ()
    if layer.children:
        body = replace(body, children=tuple(_block(child, colours) for child in layer.children))
    return replace(layer, body=body, fills=fills)
