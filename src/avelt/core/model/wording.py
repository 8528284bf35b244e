"""Routes, triggers and actions in a few words, the same wherever they are shown."""

from __future__ import annotations

from avelt.core.model.find import layer_index
from avelt.core.model.triggers import (
    Action,
    Crosses,
    Drag,
    Ends,
    Go,
    InputValue,
    Key,
    Loading,
    Pointer,
    Scroll,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Timer,
    Trigger,
    action_row,
    trigger_row,
)
from avelt.core.model.values import Frame, Layer, Project, Route
from avelt.core.words import tr


def trigger_words(project: Project, route: Route) -> tuple[str, str]:
    """The kind of trigger, and what it is about: a layer, a time, a key."""
    return trigger_row(route.trigger).word, _about(project, route, route.trigger)


def _about(project: Project, route: Route, trigger: Trigger) -> str:
    frame = next((f for f in project.frames if f.id == route.leaves), None)
    if isinstance(trigger, Timer):
        return tr("after {after}", after=seconds(trigger.after))
    if isinstance(trigger, Key):
        return trigger.key or tr("no key")
    if isinstance(trigger, Loading):
        return tr(trigger.when)
    if isinstance(trigger, Scroll):
        return tr("{axis}, {start:g} to {end:g} px", axis=tr(trigger.axis), start=trigger.start, end=trigger.end)
    if isinstance(trigger, Crosses):
        return f"{input_name(project, trigger.input)} {tr(trigger.way)} {value_words(trigger.value)}"
    if isinstance(trigger, Signal):
        return input_name(project, trigger.input)
    if isinstance(trigger, Ends):
        return motion_name(project, trigger.motion)
    on = layer_name(frame, trigger.layer)
    if isinstance(trigger, Drag):
        path = layer_name(frame, trigger.path) if trigger.along == "path" else ""
        way = tr("along {path}", path=path) if path else tr(trigger.along)
        return f"{on}, {way}"
    if isinstance(trigger, Pointer):
        return f"{on}, {tr(trigger.axis)}"
    return on


def action_words(project: Project, action: Action) -> str:
    """What happens."""
    word = tr(action_row(action).word)
    if isinstance(action, ShowOver):
        return f"{word}, {tr(action.at)}"
    if isinstance(action, SetInput):
        return tr(
            "{project} becomes {value}", project=input_name(project, action.input), value=value_words(action.value)
        )
    if isinstance(action, SendSignal):
        return tr("sends {project}", project=input_name(project, action.input))
    return word


def short_action(action: Action) -> str:
    """The same in a word or two, and nothing for plainly going there."""
    return "" if isinstance(action, Go) else tr(action_row(action).word)


def layer_name(frame: Frame | None, layer_id: str) -> str:
    """The layer's name; "anywhere" for none, and a word for one that is gone."""
    if not layer_id:
        return tr("anywhere")
    layer: Layer | None = layer_index(frame).get(layer_id) if frame is not None else None
    return layer.name if layer is not None else tr("a layer that is gone")


def input_name(project: Project, input_id: str) -> str:
    """The input's name, or that there is none."""
    found = next((entry.name for entry in project.inputs if entry.id == input_id), "")
    return found or (tr("no input") if not input_id else tr("an input that is gone"))


def motion_name(project: Project, motion: str) -> str:
    """A route or a loop by its id."""
    for route in project.routes:
        if route.id == motion:
            names = {frame.id: frame.name for frame in project.frames}
            return f"{names.get(route.leaves, '?')} → {names.get(route.arrives, '?')}"
    loops = (loop.name for frame in project.frames for loop in frame.loops if loop.id == motion)
    return next(loops, tr("no motion"))


def value_words(value: InputValue) -> str:
    """A value as it is typed in a condition."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float | int) else f"“{value}”"


def seconds(ms: float) -> str:
    """A time in the unit that reads best."""
    return f"{ms / 1000:g} s" if ms >= 1000 else f"{ms:g} ms"
