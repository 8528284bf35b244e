"""A rehearsal: a player, and all that is done to it on a tape that can be gone back on, replayed and gone on from."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable

from msgspec.structs import replace

from avelt.core.errors import AveltError
from avelt.core.model.find import frame_by_id
from avelt.core.model.tapes import MOST_EVENTS, Event, Move, Tape
from avelt.core.model.values import Project
from avelt.core.running.player import Player
from avelt.core.running.tape import done, player_of, start_that_fits
from avelt.core.running.touch import Taken
from avelt.core.words import tr


class Rehearsal:
    """Plays a project by a tape that grows.

    ``player`` is at the furthest moment that was played; ``seen`` gives any earlier one. Events behind that are still
    to come: they are done as time goes on, until something else is done instead. ``missed``: what of the tape means
    nothing in this project.
    """

    def __init__(self, project: Project, tape: Tape | None = None) -> None:
        tape = tape or Tape()
        self.project = project
        self.start, self.missed = start_that_fits(project, tape.start)
        self.events: list[Event] = list(tape.events)
        self.until = tape.until
        self.player = player_of(project, replace(tape, start=self.start))
        self._done = 0  # events that were done
        self._idle = False  # whether the last one changed nothing

    @property
    def ends(self) -> float:
        """Until when there is something on the tape, or was played, ms."""
        return max(self.player.now, self.until, self.events[-1].at if self.events else 0.0)

    def advance(self, ms: float) -> None:
        """Go on to a time, with what is on the tape; never back."""
        while self._done < len(self.events) and self.events[self._done].at <= ms:
            number, event = self._done + 1, self.events[self._done]
            self.player.advance(event.at)
            self._done = number
            try:
                done(self.player, event)
            except AveltError as error:
                self.missed.append(tr("Event {number}: {error}", number=number, error=error))
        self.player.advance(ms)

    def seen(self, ms: float) -> Player:
        """The rehearsal as it is at a time; it plays on to there where it was not yet."""
        if ms >= self.player.now:
            self.advance(ms)
            return self.player
        return self.player.moment(ms)

    def do(self, event: Event) -> Taken:
        """Something is done at the time of the event: what the tape had after it is gone. Gives what took it."""
        self.cut(event.at)
        self.advance(event.at)
        before = self.player.marks
        taken = done(self.player, event)
        idle = isinstance(event, Move) and self.player.marks == before
        if idle and self._idle and self.events and isinstance(self.events[-1], Move):
            self.events[-1] = event  # of places that changed nothing the last one is enough
        elif len(self.events) < MOST_EVENTS:
            self.events.append(event)
        self._done, self._idle = len(self.events), idle
        return taken

    def cut(self, ms: float) -> None:
        """What is on the tape after a time is gone, and so is what was played after it."""
        if ms < self.player.now:
            self.player.rewind(ms)
        place = bisect_right(self.events, ms, key=lambda event: event.at)
        self._idle = self._idle and place == len(self.events)
        del self.events[place:]
        self._done, self.until = min(self._done, place), 0.0

    @property
    def full(self) -> bool:
        """Whether no more events fit on the tape."""
        return len(self.events) >= MOST_EVENTS

    def tape(self, name: str = "") -> Tape:
        """What was done until now, as a value."""
        return Tape(name=name, start=self.start, events=tuple(self.events), until=self.ends)

    def again(self, project: Project, ms: float) -> Rehearsal:
        """The same tape on another project (an edited one), at the same moment."""
        first = self.start
        known = {frame.id for frame in project.frames}
        if first.frame:  # a frame that got another name is the same frame
            ident = next((frame.id for frame in self.project.frames if frame.name == first.frame), "")
            first = replace(first, frame=frame_by_id(project, ident).name) if ident in known else first
        made = Rehearsal(project, replace(self.tape(), start=first))
        made.advance(ms)
        return made

    def with_events(self, events: Iterable[Event], ms: float) -> Rehearsal:
        """The same rehearsal by other events, at a moment."""
        made = Rehearsal(self.project, replace(self.tape(), events=tuple(events)))
        made.advance(ms)
        return made
