"""What a touch may start is worked out before it comes: the first picture of a transition is there at once."""

from __future__ import annotations

from collections.abc import Callable
from itertools import islice

from PySide6.QtCore import QObject, QTimer

from avelt.core.cache import Cache
from avelt.core.running.foresight import motions_from, pairs_on_the_way
from avelt.core.running.player import Player
from avelt.core.running.rules import Rules
from avelt.core.running.world import World
from avelt.core.timing.program import Program, Scene
from avelt.window.common.jobs import Job, Latest

_QUIET = 120  # ms without a change: what is being dragged or scrolled does not stand yet
_BETWEEN = 30  # ms between two pictures that are painted ahead, for what else there is to do
_KNOWN = 24  # transitions that are worked out, and known to be painted: more are not kept
_PAIRED = 64  # pairings that a touch on the way may need: half of what is kept
_EARLY = 16.0  # ms into a transition: what its first picture needs


class Ahead(QObject):
    """Compiles the transitions that leave the frame in front, in the background, pairs what a touch on their way will
    need, and has an early picture of each painted, one after the other: the compiler and the painter keep what they
    need. All of it while nothing moves, since two threads of one program take turns, and each waits for the other."""

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
        self._painted: Cache[bool] = Cache(_KNOWN)
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._compiled)
        self._seen: tuple[object, ...] = ()
        self._assets: object = None
        self._to_compile: tuple[Rules, World] | None = None
        self._to_pair: tuple[Rules, World] | None = None
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
            self._seen, self._to_compile, self._to_pair = stands, (rules, player.world), None
            self.jobs.stop()
            self._waiting.clear()
            self._turn.start(_QUIET)
        self._go_on()

    def _go_on(self) -> None:
        left = self._to_compile is not None or self._waiting or self._to_pair is not None
        if left and not self._turn.isActive():
            self._turn.start(_BETWEEN)

    def waiting(self) -> int:
        """How many pictures are still to be painted."""
        return len(self._waiting)

    def _compiled(self, programs: tuple[Program, ...] | None) -> None:
        if self._to_compile is not None or programs is None:  # another frame is in front by now, or that was the end
            return
        keeps = self._keeps()
        self._waiting = [program for program in programs if not self._painted.has((program,), keeps)]
        self._go_on()

    def _next(self) -> None:
        if not self._rests():  # the next picture that is shown asks again
            return
        if self._to_compile is not None:
            self.jobs.start(_Compile(self._to_compile))
            self._to_compile, self._to_pair = None, self._to_compile
        elif self._to_pair is not None and self.jobs.job is None:
            self.jobs.start(_Pair(self._to_pair))
            self._to_pair = None
        elif self._waiting:
            program = self._waiting.pop(0)
            self._paint(program.at(min(_EARLY, program.duration / 2)))
            self._painted.get((program,), self._keeps(), lambda: True)
        self._go_on()


class _Compile(Job):
    request: tuple[Rules, World]

    def work(self) -> tuple[Program, ...]:
        made: list[Program] = []
        for program in islice(motions_from(*self.request), _KNOWN):
            made.append(program)
            if not self.go_on(len(made), len(made)):
                break
        return tuple(made)


class _Pair(Job):
    request: tuple[Rules, World]

    def work(self) -> None:
        for count, _ in enumerate(islice(pairs_on_the_way(*self.request), _PAIRED)):
            if not self.go_on(count, count):
                break
