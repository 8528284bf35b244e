"""From a route to a program: pair, merge, lay out the numbers, and give each its cue."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from avelt.core.blending import spaces
from avelt.core.cache import Cache
from avelt.core.curves.easing import CurveTable
from avelt.core.model.curves import Line, PlainCurve
from avelt.core.model.find import by_identity
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN, KEYED, SCALARS
from avelt.core.model.values import Frame, Project, Route, Transition
from avelt.core.pairing.engine import Pairing, pair_frames
from avelt.core.timing import layering, tracks
from avelt.core.timing.layout import PLAIN, PROPS, Ids, Layout, Look, layout_of
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.schedule import Timed, Timings

_ON_PATH = ("x", "y", "w", "h", "pivot_x", "pivot_y", "rotation")
_pairings: Cache[Pairing] = Cache(256)


def paired(left: Frame, right: Frame, transition: Transition) -> Pairing:
    """The pairing of two frames, kept while neither they nor the decisions change."""
    decisions = transition.decisions
    return _pairings.get((left, right), decisions, lambda: pair_frames(left, right, decisions))


def pairing_of(project: Project, route: Route) -> Pairing:
    """The pairing of what a route moves between."""
    return paired(*ends(project, route), route.transition)


def compile_route(project: Project, route: Route) -> Program:
    """The route's transition as a program."""
    left, right = ends(project, route)
    return compile_frames(project, left, right, route.transition)


def _compile_still(frame: Frame) -> Program:
    return compile_frames(None, frame, frame, Transition(duration=0.0, curve=Line()))


#: One frame as a program in which nothing moves but its loops, remembered by the frame's identity.
compile_still = by_identity(_compile_still)


def at_rest(scene: Scene) -> Scene:
    """A scene; at an end of a transition in which layers change groups, the frame itself.

    On their way such layers move over (or under) their groups, so that only the frame has them at their exact place.
    """
    program = scene.program
    if scene.looping or not program.lifts or program.left is program.right:
        return scene
    if scene.at <= 0.0:
        return compile_still(program.left).at(0.0)
    return compile_still(program.right).at(0.0) if scene.at >= program.duration else scene


def compile_frames(project: Project | None, left: Frame, right: Frame, transition: Transition) -> Program:
    """The motion between two frames as a program."""
    pairing = paired(left, right, transition)
    times = Timings(project or Project(name=""), transition)
    plan = times.plan
    own = {key.pair for key in (*plan.cues, *plan.hung)}
    layout = layout_of(left, right, pairing, transition, {ids: _look(times, ids) for ids in own})
    cues = _Cues(times, own)
    table = cues.table(layout.ids)
    cue_of = table[layout.slot_of, layout.prop_of]
    for slot, share in layout.swaps:
        moment = plan.duration * share
        when = replace(times.of(*layout.ids[slot], "shape"), start=moment, end=moment)
        cue_of[slot * len(SCALARS) + COLUMN["mix"]] = cues.number(when)
    spans = np.array([(start, end) for start, end, _ in cues.numbers] or [(0.0, 0.0)], float)
    return Program(
        left=left,
        right=right,
        merged=layout.merged,
        contents=layout.parts,
        start=layout.start,
        end=layout.end,
        colours=layout.colours,
        cue_of=cue_of,
        cue_times=spans,
        curves=CurveTable([curve for *_, curve in cues.numbers] or [Line()]),
        duration=plan.duration,
        loops=layout.loops,
        tracks=_courses(times, own, layout),
        in_space=layout.in_space,
        orders=layering.orders(layout.merged, layout.a, layout.b, transition, plan.duration),
    )


def _look(times: Timings, ids: Ids) -> Look:
    """What of a pair's cues says how its numbers are laid out."""
    known, whole = times.plan, times.of(*ids, "")
    asked = ("rotation", "rotation_xy", "fill", "stroke", "shadow", "shape", "size")
    if not whole.shortest and whole.space == "oklab" and not any(known.has_own(CueKey(*ids, prop)) for prop in asked):
        return PLAIN
    shortest = frozenset(prop for prop in ("rotation", "rotation_xy") if times.of(*ids, prop).shortest)
    inks = tuple(
        (prop, space) for prop in ("fill", "stroke", "shadow") if (space := times.of(*ids, prop).space) != "oklab"
    )
    shape, size = times.of(*ids, "shape"), times.of(*ids, "size")
    apart = (shape.start, shape.end, shape.plain) != (size.start, size.end, size.plain)
    return Look(shortest, inks, apart)


class _Cues:
    """Cues by number: those that run alike are one."""

    def __init__(self, times: Timings, own: set[Ids]) -> None:
        self.times, self.own = times, own
        self.numbers: dict[tuple[float, float, PlainCurve], int] = {}
        self._inherited: dict[tuple[bool, bool], int] = {}

    def number(self, when: Timed) -> int:
        """The number of a cue."""
        return self.numbers.setdefault((when.start, when.end, when.plain), len(self.numbers))

    def table(self, ids: tuple[Ids, ...]) -> np.ndarray:
        """The number of every property's cue (slots, props). Most pairs have none of their own and share one."""
        made = np.zeros((len(ids), len(PROPS)), np.intp)
        for s, pair in enumerate(ids):
            if pair in self.own:
                made[s] = self.number(self.times.of(*pair, ""))
                for k, prop in enumerate(PROPS):
                    if self.times.plan.has_own(CueKey(*pair, prop)):
                        made[s, k] = self.number(self.times.of(*pair, prop))
                continue
            role = (pair[0] is None, pair[1] is None)
            if role not in self._inherited:
                self._inherited[role] = self.number(self.times.of(*pair, ""))
            made[s] = self._inherited[role]
        return made


def _courses(
    times: Timings, own: set[Ids], layout: Layout
) -> tuple[tracks.KeyframeTrack | tracks.MotionPathTrack, ...]:
    """What goes over keys or along a way."""
    straight: list[tracks.KeyframeTrack | tracks.MotionPathTrack] = []
    ways: list[tracks.MotionPathTrack] = []
    turned = {cue.key.pair for cue in times.plan.cues.values() if cue.keyframes or cue.motion_path is not None}
    for s, ids in enumerate(layout.ids):
        if ids not in own or ids not in turned:
            continue
        start, end = layout.ends_of(s)
        for prop, names in KEYED.items():
            when = times.of(*ids, prop)
            if when.motion_path is not None and prop == "position":
                columns = np.array([COLUMN[name] for name in _ON_PATH])
                places = s * len(SCALARS) + columns
                ways.append(tracks.followed(places, start[columns[:6]], end[columns[:6]], when, times.plain))
            elif when.keyframes and prop == "fill":
                straight += _keyed_fill(times, layout, s, when)
            elif when.keyframes:
                columns = np.array([COLUMN[name] for name in names])
                values = [np.array(key.value, float) for key in when.keyframes]
                places = s * len(SCALARS) + columns
                straight.append(tracks.keyed(places, start[columns], end[columns], values, when, times.plain))
    # Sizes and turns must be known when the place on a way is worked out.
    return (*straight, *ways)


def _keyed_fill(times: Timings, layout: Layout, s: int, when: Timed) -> list[tracks.KeyframeTrack]:
    """The colours that a fill of one colour passes, in the space that it blends in."""
    fills = layout.parts[s].fills
    if not fills or fills[-1].kind != "solid":
        return []
    places = len(layout.ids) * len(SCALARS) + 4 * fills[-1].colour + np.arange(4)
    values = [spaces.vectors(np.array(key.value), when.space) for key in when.keyframes]
    return [tracks.keyed(places, layout.start[places], layout.end[places], values, when, times.plain)]
