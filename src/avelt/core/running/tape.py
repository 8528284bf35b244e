"""Tapes: what somebody did and when, as a document; and playing one, sampled at moments.

Same tape, same scenes: for every step of the clock, and from machine to machine.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import msgspec
from msgspec.structs import replace

from avelt.core.errors import AveltError, FormatError
from avelt.core.model.find import find_frame
from avelt.core.model.parts import fits
from avelt.core.model.tape_sound import tape_is_sound
from avelt.core.model.tapes import (
    FORMAT,
    MOST_BYTES,
    MOST_EVENTS,
    Event,
    KeyDown,
    Loaded,
    Move,
    Out,
    Press,
    Release,
    Scrolled,
    Sent,
    Start,
    Tape,
    Told,
)
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Project
from avelt.core.running.player import Player
from avelt.core.running.touch import Taken
from avelt.core.words import tr


def read_tape(data: bytes, place: str) -> Tape:
    """A tape from a document; ``FormatError`` with the number of the event (from 1) that is wrong."""
    if len(data) > MOST_BYTES:
        raise FormatError(tr("The tape is too large."), place)
    try:
        plain = msgspec.json.decode(data)
        version = plain.get("format", FORMAT) if isinstance(plain, dict) else FORMAT
        if isinstance(version, int) and version > FORMAT:
            raise FormatError(
                tr("The tape is of format {version}, this Avelt reads up to {format}.", version=version, format=FORMAT),
                place,
            )
        if isinstance(plain, dict) and isinstance(plain.get("events"), list) and len(plain["events"]) > MOST_EVENTS:
            raise FormatError(tr("A tape has at most {most_events:,} events.", most_events=MOST_EVENTS), place)
        tape = msgspec.convert(plain, Tape)
    except FormatError:
        raise
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("This is no tape: {said}.", said=_said(str(error))), place) from None
    try:
        tape_is_sound(tape)
    except FormatError as error:
        raise error.at(place) from None
    return tape


def _said(text: str) -> str:
    """The place of an event counted from 1."""
    head, mark, rest = text.rstrip(".").partition("`$.events[")
    number, close, tail = rest.partition("]")
    if mark and close and number.isdigit():
        return tr("{head}event {number}{rstrip}", head=head, number=int(number) + 1, rstrip=tail.rstrip("`"))
    return text.rstrip(".")


def player_of(project: Project, tape: Tape) -> Player:
    """A player at the start of a tape; ``AveltError`` for a frame or an input that is not there."""
    first = find_frame(project, tape.start.frame).id if tape.start.frame else ""
    known = {entry.name: entry for entry in project.inputs if entry.kind != "signal"}
    told: dict[str, InputValue] = {}
    for name, value in tape.start.inputs.items():
        if name not in known:
            raise FormatError(tr("There is no input {name!r}.", name=name), "start")
        if not fits(known[name], value):
            raise FormatError(
                tr("The input {name!r} is a {kind}: {value!r} is none.", name=name, kind=known[name].kind, value=value),
                "start",
            )
        told[name] = float(value) if known[name].kind == "number" else value
    return Player(project, tape.start.loading, first, told, tape.start.seed)


def start_that_fits(project: Project, start: Start) -> tuple[Start, list[str]]:
    """What of a tape's start a project knows, and sentences about what it does not."""
    missed: list[str] = []
    if start.frame and all(frame.name != start.frame and frame.id != start.frame for frame in project.frames):
        missed.append(tr("There is no frame {frame!r}: it begins with the first.", frame=start.frame))
        start = replace(start, frame="")
    known = {entry.name: entry for entry in project.inputs if entry.kind != "signal"}
    told: dict[str, InputValue] = {}
    for name, value in start.inputs.items():
        if name in known and fits(known[name], value):
            told[name] = value
        else:
            missed.append(tr("The input {name!r} cannot begin as {value!r}.", name=name, value=value))
    return replace(start, inputs=told), missed


def done(player: Player, event: Event) -> Taken:
    """Do one event, its time being now; gives what took it, where something takes such a thing."""
    if isinstance(event, Press):
        player.press(event.x, event.y)
    elif isinstance(event, Release):
        return player.release(event.x, event.y)
    elif isinstance(event, Told):
        player.set_input(event.name, event.value, event.part)
    elif isinstance(event, Sent):
        player.send(event.name, event.part)
    elif isinstance(event, Loaded):
        player.loaded()
    elif isinstance(event, Move):
        player.move(event.x, event.y)
    elif isinstance(event, Out):
        player.out()
    elif isinstance(event, KeyDown):
        return player.key(event.key)
    elif isinstance(event, Scrolled):
        player.scroll(event.dx, event.dy)
    return None


def played(
    project: Project, tape: Tape, moments: Sequence[float], step: float = 0.0, missed: list[str] | None = None
) -> Iterator[tuple[float, Player]]:
    """The player at moments (ms, going up), each after all events of that moment; then at ``until``.

    ``step``: the clock goes in steps of so many ms; what comes out is the same. ``missed``: what means nothing in the
    project is told there and passed over, as it is for a tape of an older version of it; without that it is refused.
    """
    if missed is not None:
        start, gone = start_that_fits(project, tape.start)
        missed += gone
        tape = replace(tape, start=start)
    player = player_of(project, tape)
    waiting = list(enumerate(tape.events, 1))
    place = 0

    def go_to(ms: float) -> None:
        nonlocal place
        while place < len(waiting) and waiting[place][1].at <= ms:
            number, event = waiting[place]
            _advance(player, event.at, step)
            try:
                done(player, event)
            except AveltError as error:
                if missed is None:
                    raise error.at(tr("event {number}", number=number)) from None
                missed.append(tr("event {number}: {error}", number=number, error=error))
            place += 1
        _advance(player, ms, step)

    for ms in sorted(moments):
        go_to(ms)
        yield ms, player
    go_to(max(tape.until, player.now))


def _advance(player: Player, to_ms: float, step: float) -> None:
    if step > 0.0:
        while player.now + step < to_ms:
            player.advance(player.now + step)
    player.advance(to_ms)


def schema() -> dict[str, Any]:
    """The JSON Schema of a tape, made from the types."""
    return msgspec.json.schema(Tape)
