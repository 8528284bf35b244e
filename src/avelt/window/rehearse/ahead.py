"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from itertools import islice
from time import perf_counter
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer

from avelt.core.cache import Cache
from avelt.core.running.foresight import motions_from, motions_inside, pairs_on_the_way
from avelt.core.running.player import Player
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import scene_of
from avelt.core.running.step import passed
from avelt.core.running.world import World
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.resting import drawing_of
from avelt.window.common.jobs import Job, Latest
from avelt.window.common.pictures_first import pictures

_QUIET = 150  # ms without a change: what is dragged or scrolled does not stand yet
_BETWEEN = 15  # ms between two turns, for what else there is to do
_WORKS = 0.004  # s that a turn paints before it lets others go on
_KNOWN = 24  # transitions that are worked out at a time
_PAIRED = 64  # pairings, or motions in parts: half of what is kept
_PAINTED = 112  # transitions of which it is known that they are painted, as many as are kept
_PAINTED_LAYERS = 60_000  # of them
_EARLY = 16.0  # ms into a transition: what its first picture needs
_PAINTED_AT = 2  # pictures with a finger down
_TAP = 400.0  # ms: who holds longer does not tap


class Step(NamedTuple):
    """What is worked out together, and at most how many."""

    find: Callable[[Rules, World], Iterator[Program | None]]
    most: int


class Ahead(QObject):
    """While nothing moves: compiles the transitions that leave the frame in front, those in parts, and finds the pairs
    of what could break the first off, in the background, where pictures go first; and has an early picture of each that
    leaves painted, a little at a time. The compiler and the painter keep what they need. While something moves, only
    what a finger that is down will begin is worked out (``foresee``)."""

    def __init__(
        self,
        parent: QObject,
        paint: Callable[[Scene], Iterable[object]],
        still: Callable[[], bool],
        keeps: Callable[[], tuple[float, int]],
    ) -> None:
        """``paint`` paints a scene step by step, and keeps what it needs while ``keeps`` is the same; ``still`` says
        whether nothing moves but loops."""
        super().__init__(parent)
        self._paint, self._still, self._keeps = paint, still, keeps
        self._painted: Cache[Program] = Cache(_PAINTED, _layers, _PAINTED_LAYERS)
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._compiled)
        self._seen: tuple[object, ...] = ()
        self._assets: object = None
        self._steps: list[Step] = []
        self._here: tuple[Rules, World] | None = None
        self._waiting: list[Program] = []
        self._begun: tuple[Iterator[object], tuple[float, int]] | None = None  # the picture of the first of them
        self._calm, self._turn = QTimer(self), QTimer(self)  # until it stands, and until the next turn
        for timer in (self._calm, self._turn):
            timer.setSingleShot(True)
            timer.timeout.connect(self._next)
        self._pressed = (-1.0, 0)  # when a finger went down, and for how many pictures it is

    def look(self, player: Player) -> None:
        """The stage as it stands; called for every picture that is shown."""
        rules, actor = player.rules, player.world.actor
        stands = (rules, actor.frame, actor.shown, actor.scroll, player.world.inputs)
        if stands != self._seen:
            if self._assets is not rules.project.assets:
                self._assets = rules.project.assets
                self._painted.clear()  # it is a painter with other pictures that paints now
            self._seen, self._here = stands, (rules, player.world)
            self._steps = [Step(motions_from, _KNOWN), Step(motions_inside, _PAIRED), Step(pairs_on_the_way, _PAIRED)]
            self.jobs.forget()
            self._waiting.clear()
            self._begun = None
            self._turn.stop()
            self._calm.start(_QUIET)
        self._go_on(0)  # once the picture is painted: there is time until the next one

    def foresee(self, player: Player) -> None:
        """A finger that is down goes up soon: what begins if it does now is worked out, once the picture is shown. The
        second time it is painted, too: most of what it paints is the same a moment later."""
        world = player.world
        since, count = self._pressed
        self._pressed = world.pressed_at, count + 1 if since == world.pressed_at else 1
        if player.holds or world.now - world.pressed_at > _TAP:
            return
        then = player.foreseen()
        motion = then.world.actor.motion if then is not None else None
        if then is None or motion is None or motion is world.actor.motion:
            return
        if self._painted.has((motion.program,), self._keeps()):
            return
        soon = scene_of(then.rules, passed(then.world, then.now + _EARLY))
        if self._pressed[1] == _PAINTED_AT:
            for _ in self._paint(soon):
                pass
        else:
            drawing_of(soon)

    def _go_on(self, after: int = _BETWEEN) -> None:
        if (self._steps or self._waiting) and not self._calm.isActive():
            self._turn.start(after)

    def waiting(self) -> int:
        """How many pictures are still to be painted."""
        return len(self._waiting)

    def _compiled(self, programs: tuple[Program, ...]) -> None:
        keeps = self._keeps()
        self._waiting += [program for program in programs if not self._painted.has((program,), keeps)]
        self._go_on()

    def _next(self) -> None:
        if not self._still():  # the next picture that is shown asks again
            return
        if self._steps and self._here is not None and self.jobs.job is None:
            self.jobs.start(_Compile((self._steps.pop(0), *self._here)))
        elif self._waiting:
            pictures.begin()
            self._paint_on()
            self._go_on()

    def _paint_on(self) -> None:
        program = self._waiting[0]
        if self._begun is None:
            self._begun = iter(self._paint(program.at(min(_EARLY, program.duration / 2)))), self._keeps()
        steps, keeps = self._begun
        began = perf_counter()
        if any(perf_counter() - began > _WORKS for _ in steps):
            return
        self._begun = None
        self._waiting.pop(0)
        self._painted.get((program,), keeps, lambda: program)


class _Compile(Job):
    request: tuple[Step, Rules, World]

    def work(self) -> tuple[Program, ...]:
        step, rules, world = self.request
        made: list[Program] = []
        try:
            for count, program in enumerate(islice(step.find(rules, world), step.most)):
                if program is not None:
                    made.append(program)
                if not self.go_on(count, step.most):
                    break
        except _StoppedError:
            pass
        return tuple(made)

    def between(self) -> None:
        super().between()
        if self.stopped:  # it only fills what is kept: it may end in the middle of a program
            raise _StoppedError


class _StoppedError(Exception):
    """What is worked out is not wanted any more."""


def _layers(program: Program) -> int:
    return len(program.contents)
