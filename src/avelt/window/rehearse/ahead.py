"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import islice
from math import inf

from PySide6.QtCore import QObject, QTimer

from avelt.core.cache import Cache
from avelt.core.running.foresight import motions_from, motions_on_the_way
from avelt.core.running.player import Player
from avelt.core.running.rules import Rules
from avelt.core.running.world import World
from avelt.core.timing.program import Program, Scene
from avelt.window.common.jobs import Job, Latest

Ways = tuple[Callable[[Rules, World], Iterator[Program]], float]  # and how many layers at the most

_QUIET = 120  # ms without a change: what is being dragged or scrolled does not stand yet
_BETWEEN = 30  # ms between two pictures that are painted ahead, for what else there is to do
_KNOWN = 24  # transitions that are worked out at a time
_LAYERS = 6_000  # of all that take over half way: it should be there before somebody touches
_PAINTED = 112  # transitions of which it is known that they are painted, as many as are kept
_PAINTED_LAYERS = 60_000  # of them
_EARLY = 16.0  # ms into a transition: what its first picture needs


class Ahead(QObject):
    """Compiles the transitions that leave the frame in front, then those that take over half way, in the background,
    and has an early picture of each painted, one after the other: the compiler and the painter keep what they need.
    All of it while nothing moves, since two threads of one program take turns, and each waits for the other."""

    def __init__(
        self,
        parent: QObject,
        paint: Callable[[Scene], object],
        rests: Callable[[], bool],
        keeps: Callable[[], tuple[float, int]],
    ) -> None:
        """``paint`` paints a scene, and keeps what it needs while ``keeps`` is the same; ``rests``: nothing moves."""
        super().__init__(parent)
        self._paint, self._rests, self._keeps = paint, rests, keeps
        self._painted: Cache[Program] = Cache(_PAINTED, _layers, _PAINTED_LAYERS)
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._compiled)
        self._seen: tuple[object, ...] = ()
        self._assets: object = None
        self._to_compile: list[Ways] = []
        self._here: tuple[Rules, World] | None = None
        self._waiting: list[Program] = []
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._next)

    def look(self, player: Player) -> None:
        """The stage as it stands; called for every picture that is shown."""
        rules, actor = player.rules, player.world.actor
        stands = (rules, actor.frame, actor.shown, actor.scroll, player.world.inputs)
        if stands != self._seen:
            if self._assets is not rules.project.assets:
                self._assets = rules.project.assets
                self._painted.clear()  # it is a painter with other pictures that paints now
            self._seen, self._here = stands, (rules, player.world)
            self._to_compile = [(motions_from, inf), (motions_on_the_way, _LAYERS)]
            self.jobs.forget()
            self._waiting.clear()
            self._turn.start(_QUIET)
        self._go_on()

    def _go_on(self) -> None:
        if (self._to_compile or self._waiting) and not self._turn.isActive():
            self._turn.start(_BETWEEN)

    def waiting(self) -> int:
        """How many pictures are still to be painted."""
        return len(self._waiting)

    def _compiled(self, programs: tuple[Program, ...]) -> None:
        keeps = self._keeps()
        self._waiting += [program for program in programs if not self._painted.has((program,), keeps)]
        self._go_on()

    def _next(self) -> None:
        if not self._rests():  # the next picture that is shown asks again
            return
        if self._waiting:
            program = self._waiting.pop(0)
            self._paint(program.at(min(_EARLY, program.duration / 2)))
            self._painted.get((program,), self._keeps(), lambda: program)
        elif self._to_compile and self.jobs.job is None and self._here is not None:
            self.jobs.start(_Compile((self._to_compile.pop(0), *self._here)))
        self._go_on()


class _Compile(Job):
    request: tuple[Ways, Rules, World]

    def work(self) -> tuple[Program, ...]:
        (ways, room), rules, world = self.request
        made: list[Program] = []
        for program in islice(ways(rules, world), _KNOWN):
            made.append(program)
            room -= _layers(program)
            if room < 0.0 or not self.go_on(len(made), len(made)):
                break
        return tuple(made)


def _layers(program: Program) -> int:
    return len(program.contents)
