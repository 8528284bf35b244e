"""Kept tapes name frames, inputs and signals: when these get other names, tapes say those."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.tapes import Event, Sent, Tape, Told
from avelt.core.model.values import Project


def frame_renamed(project: Project, old: str, new: str) -> Project:
    """Tapes that begin with a frame begin with it by its new name."""

    def change(tape: Tape) -> Tape:
        return replace(tape, start=replace(tape.start, frame=new)) if tape.start.frame == old else tape

    return _changed(project, tuple(map(change, project.tapes)))


def input_renamed(project: Project, old: str, new: str) -> Project:
    """Tapes that set an input or send a signal of the project do so by its new name."""

    def event(entry: Event) -> Event:
        named = isinstance(entry, Told | Sent) and not entry.part and entry.name == old
        return replace(entry, name=new) if named else entry

    def change(tape: Tape) -> Tape:
        events = tuple(map(event, tape.events))
        inputs = {new if name == old else name: value for name, value in tape.start.inputs.items()}
        if events == tape.events and inputs == tape.start.inputs:
            return tape
        return replace(tape, start=replace(tape.start, inputs=inputs), events=events)

    return _changed(project, tuple(map(change, project.tapes)))


def _changed(project: Project, tapes: tuple[Tape, ...]) -> Project:
    return project if tapes == project.tapes else replace(project, tapes=tapes)
