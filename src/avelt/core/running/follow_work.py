"""What follows a value in a world that is being changed: motions of routes, and layers inside a frame.

A value is the travel of a drag, how far the frame is scrolled, where the pointer is, or an input. A motion that follows
one may go back as long as it is not let go towards its end: the stage stays in the frame that is left, with its routes.
"""

from __future__ import annotations

from abc import abstractmethod

from msgspec.structs import replace

from avelt.core.model.follows import ByInput, ByPointer, ByScroll
from avelt.core.model.triggers import STAYS, Action, Drag, Pointer, Scroll
from avelt.core.model.values import Follow, Frame, Route, Transition
from avelt.core.running.carrying import carried_speed
from avelt.core.running.following import CLOSE, LEAST, Following
from avelt.core.running.part_work import PartWork
from avelt.core.running.scenes import place_in, scene_of
from avelt.core.running.world import Left, UnderWay
from avelt.core.timing.broken_off import from_screen
from avelt.core.timing.compile import compile_between, compile_still
from avelt.core.timing.followers import clock_of
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of
from avelt.core.timing.scrolling import AT_TOP, Offset, most_scrolled, scrolled
from avelt.core.words import tr


def share_between(value: float, start: float, end: float) -> float:
    """How far a value is from one to another, 0..1; where both are one it is there or not.

    >>> share_between(130.0, 100.0, 160.0), share_between(130.0, 160.0, 100.0)
    (0.5, 0.5)
    """
    if end == start:
        return 1.0 if value >= end else 0.0
    return min(1.0, max(0.0, (value - start) / (end - start)))


class FollowWork(PartWork):
    """The world with what follows values in it."""

    @abstractmethod
    def go(self, route: Route) -> None:
        """A route is taken."""

    @abstractmethod
    def picture_after(self, route: Route, target: Frame) -> tuple[Frame, tuple[tuple[Frame, Frame], ...]]:
        """What is on screen after a route, and what lies beneath it."""

    @abstractmethod
    def target_of(self, route: Route) -> Frame:
        """The frame that a route arrives at now."""

    @abstractmethod
    def offset_at(self, route: Route, target: Frame) -> Offset:
        """How far the frame arrived at is scrolled then."""

    @abstractmethod
    def as_it_stands(self, target: Frame, picture: Frame, offset: Offset) -> Frame:
        """The picture arrived at with what follows a value there already where that says."""

    @abstractmethod
    def history_after(self, action: Action) -> tuple[str, ...]:
        """The frames that were before, once a route with this action is taken."""

    @abstractmethod
    def arrive(self, frame: Frame, running: UnderWay | None = None, first: bool = False) -> None:
        """A frame is arrived at."""

    # Layers inside the frame

    def look_at_follows(self, anew: bool = False) -> None:
        """Layers that follow something other than a drag are where their values say; ``anew``: at once, and only those
        of what is shown are kept."""
        kept: dict[str, Following] = {}
        for frame in self.shows():
            for follow in frame.follows:
                clock = clock_of(follow)
                known, share = self.follows.get(clock), self._share_of(follow)
                if known is None:
                    share = share or 0.0
                    kept[clock] = Following(share, share, self.now, follow.lag)
                elif share is not None and share != known.wanted:
                    kept[clock] = replace(known, lag=follow.lag).aimed(self.now, share)
                else:
                    kept[clock] = known
        self.follows = kept if anew else self.follows | kept

    def _share_of(self, follow: Follow) -> float | None:
        """How far the value is that a layer follows; ``None`` while nothing says so."""
        value: float | None = None
        by = follow.by
        if isinstance(by, ByScroll):
            value = self.scroll[by.axis == "down"]
        elif isinstance(by, ByPointer):
            value = self._pointer_over(by.layer, by.axis)
        elif isinstance(by, ByInput):
            entry = next((e for e in self.project.inputs if e.id == by.input), None)
            known = self.inputs.get(entry.name) if entry is not None else None
            value = float(known) if isinstance(known, int | float) else None
        return None if value is None else share_between(value, follow.start, follow.end)

    def _pointer_over(self, layer: str, axis: str) -> float | None:
        """Where the pointer is over a layer or the frame: a share of its width or height."""
        if self.pointer is None:
            return None
        x, y = self.pointer
        if not layer:
            return x / max(self.frame.w, 1e-9) if axis == "right" else y / max(self.frame.h, 1e-9)
        if self.rules.origin(layer) not in {self.rules.origin(ident) for ident in self.before.hovered}:
            return None
        place = place_in(self.rules, self.world(), layer, x, y)
        return None if place is None else place[axis == "down"]

    # Scrolling and the pointer

    def limits(self) -> Offset:
        """How far the frame can be scrolled; where nothing of it goes, as far as something follows that."""
        most = most_scrolled(self.frame)
        return self._limit("right", most[0]), self._limit("down", most[1])

    def _limit(self, axis: str, most: float) -> float:
        on_back = self.returns.route.trigger if self.returns is not None else None
        marks = [(on_back.start, on_back.end)] if isinstance(on_back, Scroll) and on_back.axis == axis else []
        if most <= 0.0:
            triggers = [route.trigger for route in self.rules.of_kind(self.frame, Scroll)]
            marks += [(on.start, on.end) for on in triggers if isinstance(on, Scroll) and on.axis == axis]
            own = [f for f in self.shown.follows if isinstance(f.by, ByScroll) and f.by.axis == axis]
            marks += [(follow.start, follow.end) for follow in own]
        return max([most, *(mark for pair in marks for mark in pair)])

    def scroll_by(self, dx: float, dy: float) -> bool:
        """The frame is scrolled; gives whether it could be."""
        most = self.limits()
        x, y = self.scroll
        there = min(most[0], max(0.0, x + dx)), min(most[1], max(0.0, y + dy))
        if there == self.scroll:
            return False
        self.scroll = there
        self.look_at_follows()
        for axis in ("right", "down"):
            if (x, y)[axis == "down"] != there[axis == "down"]:
                self._scrolled_to(axis, there[axis == "down"])
        return True

    def _scrolled_to(self, axis: str, value: float) -> None:
        for route in self.rules.of_kind(self.frame, Scroll):
            on = route.trigger
            if isinstance(on, Scroll) and on.axis == axis:
                self.aim(route, share_between(value, on.start, on.end), on.lag)
        back = self.returns
        on_back = back.route.trigger if back is not None else None
        if isinstance(on_back, Scroll) and on_back.axis == axis:
            self._return(share_between(value, on_back.start, on_back.end))

    def pointed(self) -> None:
        """The pointer is elsewhere: what follows it goes there."""
        self.look_at_follows()
        for route in self.rules.of_kind(self.frame, Pointer):
            on = route.trigger
            value = self._pointer_over(on.layer, on.axis) if isinstance(on, Pointer) else None
            if isinstance(on, Pointer) and value is not None:
                self.aim(route, share_between(value, on.start, on.end), on.lag)
        by = self.returns.route.trigger if self.returns is not None else None
        if isinstance(by, Pointer):
            value = self._pointer_over("", by.axis) if not by.layer else self._pointer_over_pair(by)
            if value is not None:
                self._return(share_between(value, by.start, by.end))

    def _pointer_over_pair(self, on: Pointer) -> float | None:
        """The same over the layer of this frame that is the one which the pointer was over in the frame before."""
        back = self.returns
        if back is None:
            return None
        content = next((c for c in back.program.contents if c.left is not None and c.left.id == on.layer), None)
        return self._pointer_over(content.right.id, on.axis) if content is not None and content.right else None

    # Motions

    def aim(self, route: Route, share: float, lag: float, pace: float = 0.0, held: bool = False) -> None:
        """What a route follows says how far it shall be."""
        if isinstance(route.action, STAYS):
            if share < 1.0:
                self.passed -= {route.id}
            elif route.id not in self.passed and self.may(route):
                self.passed |= {route.id}
                self.go(route)
            return
        motion = self.motion
        if motion is not None and motion.following is not None and motion.route.id == route.id:
            if motion.left is None:
                self.motion = replace(motion, following=motion.following.aimed(self.now, share, pace, held))
            return
        if share <= 0.0 or not self.may(route):
            return
        if motion is not None and not held:
            following = motion.following
            if following is None or motion.left is not None or following.wanted > 0.0:
                return  # what runs is not broken off by scrolling or by the pointer
        self._begin(route, Following(0.0, 0.0, self.now, lag).aimed(self.now, share, pace, held))

    def _begin(self, route: Route, following: Following) -> None:
        """A motion begins that follows a value; over what moves already, from what is on screen."""
        running, target = self.motion, self.target_of(route)
        picture = self.picture_after(route, target)[0]
        home = self.shown
        if running is not None:
            home = running.shown if running.may_arrive or running.home is None else running.home
        by_scroll = isinstance(route.trigger, Scroll)
        offset_there = self.scroll if by_scroll else self.offset_at(route, target)
        at_rest = running is None or (not running.may_arrive and running.rate(self.now) == 0.0 and self._near(running))
        base = AT_TOP if by_scroll and at_rest else self.scroll
        if at_rest:
            right = self.as_it_stands(target, scrolled(picture, AT_TOP if by_scroll else offset_there), offset_there)
            program = compile_between(self.project, scrolled(home, base), right, route.transition)
        else:
            right = self.as_it_stands(target, scrolled(picture, offset_there), offset_there)
            program = self._from_screen(route, home, right)
        length = max(program.duration, end_of(route.transition, self.project))
        for loop in self.shown.loops:
            self.loops.setdefault(loop.origin, self.now)
        self.begin_parts(picture, self.now)
        self.returns, self.wants_entrance = None, False
        self.motion = UnderWay(
            route, program, target, picture, self.now, self.now + length, base, following, scrolled(home, base)
        )
        self.look_at_follows()
        if not isinstance(route.trigger, Drag):
            self.note("scroll" if by_scroll else "starts", tr("to {target}", target=target.name))

    def _near(self, running: UnderWay) -> bool:
        return running.following is not None and running.following.at(self.now) <= CLOSE

    def _from_screen(self, route: Route, home: Frame, right: Frame) -> Program:
        """The motion from what is on screen, whose speed dies down while the value says the rest."""
        running = self.motion
        scene = scene_of(self.rules, self.world())
        program = from_screen(self.project, scene, home, right, route.transition)
        if running is None:
            return program
        ms, rate = running.moment(self.now), running.rate(self.now)
        speed = carried_speed(running.program, ms, program, rate, begins=False)
        return program.carrying(speed, over=max(program.duration, LEAST))

    def _return(self, share: float) -> None:
        """A frame that was arrived at by a value, which goes back now: so does the motion."""
        motion, route_moves = self.returns, self.motion is not None
        if motion is None or share >= 1.0 or route_moves or motion.left is None or motion.following is None:
            return
        left = motion.left
        program = compile_between(self.project, left.shown, motion.shown, motion.route.transition)
        following = Following(1.0, 1.0, self.now, motion.following.lag).aimed(self.now, share)
        self.returns = None
        self.motion = replace(motion, program=program, base=AT_TOP, following=following, home=left.shown)
        self._back_to(left)
        self.note("goes back", tr("to {target}", target=self.frame.name))

    def sure(self) -> None:
        """The motion under way will arrive: from now on the frame arrived at is the one that is touched."""
        motion = self.motion
        if motion is None or motion.left is not None:
            return
        route, target = motion.route, motion.to
        left = Left(self.frame, self.shown, self.arrived, self.fired, self.scroll, tuple(self.beneath), self.history)
        self.places[self.frame.id] = self.scroll
        offset = self.scroll if isinstance(route.trigger, Scroll) else self.offset_at(route, target)
        self.beneath = list(self.picture_after(route, target)[1])
        self.history = self.history_after(route.action)
        base = motion.base if isinstance(route.trigger, Scroll) else offset
        self.frame, self.scroll, self.ready_at = target, offset, None
        self.motion = replace(motion, left=left, base=base)

    def unsure(self) -> None:
        """Somebody takes the motion back into the hand: it may go back."""
        motion = self.motion
        if motion is not None and motion.left is not None:
            self._back_to(motion.left)
            if not isinstance(motion.route.trigger, Scroll):
                self.scroll = motion.left.scroll
                self.motion = replace(motion, base=motion.left.scroll)

    def _back_to(self, left: Left) -> None:
        self.frame, self.shown, self.arrived, self.fired = left.frame, left.shown, left.arrived, left.fired
        self.beneath, self.history = list(left.beneath), left.history
        self.still = compile_still(left.shown, self.project)
        for loop in self.shown.loops:
            self.loops.setdefault(loop.origin, self.now)
        if self.motion is not None:
            self.motion = replace(self.motion, left=None)

    def over(self) -> None:
        """The motion under way comes to an end: the frame is arrived at, or it is back where it began."""
        motion = self.motion
        if motion is None:
            return
        if motion.following is None:
            self.arrive(motion.to, motion)
        elif motion.following.end >= 1.0:
            self.sure()
            sure = self.motion
            self.arrive(motion.to, sure)
            if isinstance(motion.route.trigger, Scroll | Pointer):
                self.returns = sure
        else:
            self._came_back(motion)

    def _came_back(self, motion: UnderWay) -> None:
        home = motion.home if motion.home is not None else self.shown
        self.note("goes back", tr("to {target}", target=self.frame.name))
        if motion.program.left is home:
            self.motion = None
            self.look_at_follows(anew=True)
            self.keep_parts(*self.shows())
            return
        # It began in the middle of another motion: on to where that would have gone.
        plain = Transition(motion.program.duration, motion.route.transition.curve)
        scene = scene_of(self.rules, self.world())
        program = from_screen(self.project, scene, home, home, plain)
        route = Route("", self.frame.id, self.frame.id, transition=plain)
        shown = motion.home or home
        self.motion = UnderWay(route, program, self.frame, shown, self.now, self.now + program.duration, self.scroll)
