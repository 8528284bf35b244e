"""Edits of the inputs that triggers and conditions read."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import msgspec

from avelt.core.edits.frames import free_name
from avelt.core.edits.phases import map_expressions
from avelt.core.edits.tape_names import input_renamed
from avelt.core.errors import EditError, FormatError
from avelt.core.model.expressions import may_be_name, names_read, renamed
from avelt.core.model.find import walk
from avelt.core.model.phases import ShowBlend
from avelt.core.model.tree import map_layers
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Feed, Frame, Input, Layer, Project, Route, Use
from avelt.core.words import tr

replace = msgspec.structs.replace
Kind = Literal["number", "yes/no", "text", "signal"]
FIRST: dict[str, InputValue] = {"number": 0.0, "yes/no": False, "text": "", "signal": False}


def add_input(
    project: Project, name: str = "", kind: Kind = "yes/no", start: InputValue | None = None
) -> tuple[Project, str]:
    """A new input and its id; without a name it gets one."""
    taken = [entry.name for entry in project.inputs]
    wanted = _name_is_sound(name) if name else free_name(taken, "input").replace(" ", "-")
    if wanted in taken:
        raise EditError(tr("There is an input “{wanted}” already.", wanted=wanted))
    ident = f"I{project.next_id}"
    made = Input(ident, wanted, kind, FIRST[kind] if start is None else start)
    return replace(project, inputs=(*project.inputs, made), next_id=project.next_id + 1), ident


def input_by_id(project: Project, input_id: str) -> Input | None:
    """The input of this id."""
    return next((entry for entry in project.inputs if entry.id == input_id), None)


def rename_input(project: Project, input_id: str, name: str) -> Project:
    """Another name, also in every condition that reads it and for every part that it feeds."""
    old = _known(project, input_id)
    name = _name_is_sound(name)
    if name == old.name:
        return project
    if name in [entry.name for entry in project.inputs]:
        raise EditError(tr("There is an input “{name}” already.", name=name))

    def text(old_text: str) -> str:
        try:
            return renamed(old_text, old.name, name)
        except FormatError:  # what cannot be read stays as it is: it is shown as trouble
            return old_text

    def change(route: Route) -> Route:
        return replace(route, only_if=text(route.only_if)) if route.only_if else route

    return map_expressions(
        replace(
            input_renamed(project, old.name, name),
            inputs=tuple(replace(e, name=name) if e.id == input_id else e for e in project.inputs),
            routes=tuple(change(route) for route in project.routes),
            frames=tuple(_reads(frame, old.name, name, text) for frame in project.frames),
        ),
        text,
    )


def _reads(frame: Frame, old: str, name: str, text: Callable[[str], str]) -> Frame:
    """A frame whose parts and conditions read an input by its new name."""

    def change(layer: Layer) -> Layer:
        feeds = tuple(
            replace(feed, name=name if feed.name == old else feed.name, expression=text(feed.expression))
            for feed in _feeds(layer)
        )
        layer = replace(layer, only_if=text(layer.only_if))
        return replace(layer, body=replace(layer.body, feeds=feeds)) if feeds else layer

    loops = tuple(replace(loop, until=text(loop.until)) if loop.until else loop for loop in frame.loops)
    frame = replace(frame, loops=loops) if loops != frame.loops else frame
    reads = [layer.id for layer in walk(frame.layers) if layer.only_if or _feeds(layer)]
    layers = map_layers(frame.layers, dict.fromkeys(reads, change)) if reads else frame.layers
    return replace(frame, layers=layers) if layers != frame.layers else frame


def _feeds(layer: Layer) -> tuple[Feed, ...]:
    return layer.body.feeds if isinstance(layer.body, Use) else ()


def set_input_kind(project: Project, input_id: str, kind: Kind) -> Project:
    """Another kind; it starts as that kind does."""
    old = _known(project, input_id)
    if kind == old.kind:
        return project
    return _put(project, replace(old, kind=kind, start=FIRST[kind]))


def set_start(project: Project, input_id: str, start: InputValue) -> Project:
    """What it is at first."""
    old = _known(project, input_id)
    return _put(project, replace(old, start=start))


def remove_input(project: Project, input_id: str) -> Project:
    """Without the input. What reads it keeps doing so and is shown as trouble."""
    _known(project, input_id)
    return replace(project, inputs=tuple(entry for entry in project.inputs if entry.id != input_id))


def used_by(project: Project, input_id: str) -> tuple[str, ...]:
    """Ids of the routes that read or write it."""
    entry = _known(project, input_id)
    found = []
    for route in project.routes:
        direct = input_id in (getattr(route.trigger, "input", None), getattr(route.action, "input", None))
        if direct or entry.name in names_read(route.only_if):
            found.append(route.id)
    return tuple(found)


def fed_in(project: Project, input_id: str) -> tuple[str, ...]:
    """Names of the frames with a part that it feeds, or a layer that it hides; and of the phases that read it."""
    name = _known(project, input_id).name
    frames = [frame.name for frame in project.frames if any(name in _read_by(layer) for layer in walk(frame.layers))]
    for track in project.tracks:
        for phase in track.phases:
            by = [phase.shows.by] if isinstance(phase.shows, ShowBlend) else []
            events = [getattr(rule.on, "input", "") for rule in phase.then]
            deeds = [deed.input for deed in (*phase.entering, *phase.leaving)]
            texts = [*by, *(rule.only_if for rule in phase.then)]
            if input_id in (*events, *deeds) or any(name in names_read(text) for text in texts):
                frames.append(phase.name)
    return tuple(frames)


def _read_by(layer: Layer) -> set[str]:
    """The names of the inputs that a layer reads."""
    found = {feed.name for feed in _feeds(layer)}
    for text in (layer.only_if, *(feed.expression for feed in _feeds(layer))):
        found |= names_read(text)
    return found - {""}


def _known(project: Project, input_id: str) -> Input:
    found = input_by_id(project, input_id)
    if found is None:
        raise EditError(tr("The input is not there any more."))
    return found


def _put(project: Project, made: Input) -> Project:
    return replace(project, inputs=tuple(made if e.id == made.id else e for e in project.inputs))


def _name_is_sound(name: str) -> str:
    name = name.strip()
    if not may_be_name(name):
        raise EditError(tr("“{name}” cannot be an input's name: letters, digits, _ and -, a letter first.", name=name))
    return name
