"""Drags in a world that is being changed: what is held goes with the pointer, and let go it comes to rest."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.follows import ByDrag
from avelt.core.model.triggers import STAYS, Drag
from avelt.core.model.values import Follow, Route
from avelt.core.record import Record
from avelt.core.running.along import along
from avelt.core.running.follow_work import FollowWork, share_between
from avelt.core.running.following import Following, let_go
from avelt.core.running.world import Grip
from avelt.core.timing.followers import clock_of
from avelt.core.timing.scrolling import ACROSS, DOWN
from avelt.core.words import tr

_RECENT = 60.0  # ms of a drag that say how fast it is
_ALONE = 300.0  # ms that a layer that follows a drag takes from end to end, let go
_WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "down": (0.0, 1.0), "up": (0.0, -1.0)}


class _Pull(Record, frozen=True):
    """What a drag does to a route: the share of its way since the press, shares a ms, and the route's lag."""

    route: Route
    share: float
    pace: float
    lag: float


class DragWork(FollowWork):
    """The world with what is dragged in it."""

    def drag_layer(self, layers: tuple[str, ...]) -> str | None:
        """The innermost of some layers (ids, innermost first) that can be dragged; ``""`` for anywhere."""
        for ident in (*layers, ""):
            if self._routes_on(ident) or self._follows_on(ident):
                return ident
        motion = self.motion
        on = motion.route.trigger if motion is not None and motion.following is not None else None
        return "" if isinstance(on, Drag) and self._takes(on, layers) else None

    def _routes_on(self, layer: str) -> list[Route]:
        routes = self.rules.of_kind(self.frame, Drag)
        return [r for r in routes if isinstance(r.trigger, Drag) and r.trigger.layer == layer and self.may(r)]

    def _follows_on(self, layer: str) -> list[Follow]:
        own = [f for f in self.shown.follows if isinstance(f.by, ByDrag)]
        return [f for f in own if isinstance(f.by, ByDrag) and f.by.layer == layer]

    def _takes(self, on: Drag, layers: tuple[str, ...]) -> bool:
        """Whether a press on some layers takes hold of what a drag moves; its layer may be that of either frame."""
        motion = self.motion
        if not on.layer or motion is None:
            return not on.layer
        contents = (c for c in motion.program.contents if c.left is not None and c.left.id == on.layer)
        same = {side.id for content in contents for side in (content.left, content.right) if side is not None}
        return bool(({on.layer} | same) & set(layers))

    def gripped(self, layers: tuple[str, ...], x: float, y: float) -> None:
        """The pointer goes down on layers: what can be dragged there is held."""
        layer = self.drag_layer(layers)
        if layer is None:
            return
        share, motion = 0.0, self.motion
        on = motion.route.trigger if motion is not None and motion.following is not None else None
        if isinstance(on, Drag) and self._takes(on, layers):
            share, layer = self._taken_back(on), on.layer
        follows: dict[str, float] = {}
        for follow in self._follows_on(layer):
            clock = clock_of(follow)
            known = self.follows.get(clock, Following(lag=follow.lag))
            follows[clock] = known.at(self.now)
            self.follows[clock] = known.aimed(self.now, follows[clock], held=True)
        paths = [r.trigger.path for r in self._routes_on(layer) if isinstance(r.trigger, Drag)]
        paths += [f.by.path for f in self._follows_on(layer) if isinstance(f.by, ByDrag)]
        ways = {path: found[0] for path in paths if path and (found := self._along(path, x, y)) is not None}
        self.grip = Grip(x, y, layer, share, follows, ((self.now, x, y),), ways)

    def _taken_back(self, on: Drag) -> float:
        """What was let go is held again, where it is: how far that is."""
        self.unsure()
        motion = self.motion
        if motion is None or motion.following is None:
            return 0.0
        share = motion.following.at(self.now)
        held = replace(motion.following, lag=on.lag).aimed(self.now, share, held=True)
        self.motion = replace(motion, following=held)
        self.note("drag", tr("{layer} at {share:.2f}", layer=self._word(on.layer), share=share))
        return share

    def _along(self, path: str, x: float, y: float) -> tuple[float, float] | None:
        scene = self.still.while_running(0.0, {ACROSS: self.scroll[0], DOWN: self.scroll[1]})
        return along(scene, path, x, y)

    def _travel(self, grip: Grip, by: Drag | ByDrag, x: float, y: float) -> tuple[float, float]:
        """How far a drag has come since the press, px, and the length of the path that it is along (0: an axis)."""
        if by.along == "path":
            found = self._along(by.path, x, y)
            if found is None or by.path not in grip.ways:
                return 0.0, 0.0
            return (found[0] - grip.ways[by.path]) * found[1], found[1]
        right, down = _WAYS[by.along]
        return (x - grip.x) * right + (y - grip.y) * down, 0.0

    def _speed(self, grip: Grip, by: Drag | ByDrag) -> float:
        """How fast it is dragged, px a ms."""
        first, last = grip.recent[0], grip.recent[-1]
        if last[0] <= first[0]:
            return 0.0
        travels = [self._travel(grip, by, *entry[1:])[0] for entry in (first, last)]
        return (travels[1] - travels[0]) / (last[0] - first[0])

    def dragged(self, x: float, y: float) -> None:
        """The pointer that is down is elsewhere: what it holds goes with it."""
        grip = self.grip
        if grip is None:
            return
        recent = (*(entry for entry in grip.recent if entry[0] >= self.now - _RECENT), (self.now, x, y))
        self.grip = grip = replace(grip, recent=recent)
        for follow in self._follows_on(grip.layer):
            by, clock = follow.by, clock_of(follow)
            whole = follow.end - follow.start
            if not isinstance(by, ByDrag) or clock not in grip.follows or not whole:
                continue
            began = grip.follows[clock]
            value = follow.start + began * whole if began else 0.0
            share = share_between(value + self._travel(grip, by, x, y)[0], follow.start, follow.end)
            known = self.follows[clock]
            if share != known.wanted:
                self.grip = replace(self.grip, moved=True)
                self.follows[clock] = known.aimed(self.now, share, self._speed(grip, by) / whole, True)
        self._drag_routes(grip, x, y)

    def _drag_routes(self, grip: Grip, x: float, y: float) -> None:
        pulls = [self._pull(grip, route, x, y) for route in self._routes_on(grip.layer)]
        motion = self.motion
        if motion is not None and motion.following is not None and motion.following.held:
            own = self._pull(grip, motion.route, x, y)
            share = grip.share + own.share
            pulls = [pull for pull in pulls if pull.share > 0.0 and pull.route.id != motion.route.id]
            if share > 0.0 or not pulls:
                if share != motion.following.wanted:
                    self.grip = replace(self.grip or grip, moved=True)
                self.motion = replace(motion, following=motion.following.aimed(self.now, share, own.pace, True))
                return
            self.motion = replace(motion, following=motion.following.aimed(self.now, 0.0))
        best = max(pulls, key=lambda pull: pull.share, default=None)
        if best is not None and best.share > 0.0:
            self.grip = replace(self.grip or grip, moved=True, share=0.0)
            if not isinstance(best.route.action, STAYS):
                self.note(
                    "drag",
                    tr("{layer}, to {route}", layer=self._word(grip.layer), route=self.target_of(best.route).name),
                )
            self.aim(best.route, best.share, best.lag, best.pace, held=True)

    def _pull(self, grip: Grip, route: Route, x: float, y: float) -> _Pull:
        """How far a drag has come since the press for a route, and how fast it goes."""
        on = route.trigger
        if not isinstance(on, Drag):
            return _Pull(route, 0.0, 0.0, 0.0)
        travel, length = self._travel(grip, on, x, y)
        whole = max(length or on.travel, 1e-9)
        return _Pull(route, travel / whole, self._speed(grip, on) / whole, on.lag)

    def _word(self, layer: str) -> str:
        return self.name_of(layer) if layer else tr("anywhere")

    def let_off(self) -> bool:
        """What is held is let go; gives whether it had been dragged."""
        grip, self.grip = self.grip, None
        if grip is None:
            return False
        for follow in self._follows_on(grip.layer):
            by, clock = follow.by, clock_of(follow)
            if isinstance(by, ByDrag) and clock in grip.follows and clock in self.follows:
                self.follows[clock] = let_go(self.follows[clock], self.now, by.let_go, 0.5, _ALONE)
        motion = self.motion
        on = motion.route.trigger if motion is not None else None
        if motion is None or motion.following is None or not motion.following.held or not isinstance(on, Drag):
            return grip.moved
        known = motion.following
        following = let_go(known, self.now, on.let_go, on.lets_go, motion.end - motion.start)
        self.motion = replace(motion, following=following)
        ends_in = "stays" if following.settling is None else "goes on" if following.end else "goes back"
        self.note("let go", tr("at {wanted:.2f}, {ends_in}", wanted=known.wanted, ends_in=ends_in))
        if following.settling is not None and following.end:
            self.sure()
        return grip.moved
