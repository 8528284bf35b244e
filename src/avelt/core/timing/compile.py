"""From a route to a program: pair, merge, lay out the numbers, and give each its cue."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.blending import spaces
from avelt.core.cache import Cache
from avelt.core.curves.easing import CurveTable
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.geometry.used import as_used, first_pose
from avelt.core.model.curves import Line, PlainCurve
from avelt.core.model.motion import CueKey
from avelt.core.model.parts import uses_in
from avelt.core.model.properties import COLUMN, KEYED, SCALARS
from avelt.core.model.values import Frame, NamedCurve, Part, Project, Route, Transition, Use
from avelt.core.pairing.engine import Pairing, pair_frames
from avelt.core.pairing.joined import Joined
from avelt.core.timing import layering, tracks
from avelt.core.timing.clocks import NEVER, Clocks
from avelt.core.timing.followers import is_follow, moved_by_clocks
from avelt.core.timing.layout import PLAIN, PROPS, Ids, Layout, Look, layout_of, still_layout
from avelt.core.timing.loops import LoopCurve
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program, Scene, UseSlot
from avelt.core.timing.schedule import Timed, Timings
from avelt.core.timing.scrolling import ACROSS, DOWN, all_that_goes
from avelt.core.timing.second_poses import LoopPose
from avelt.core.timing.single_shapes import as_outlines
from avelt.core.timing.slots import SlotContents
from avelt.core.turns import others_first

_POSITION = PROPS.index("position")
_ON_PATH = ("x", "y", "w", "h", "pivot_x", "pivot_y", "rotation")
_pairings: Cache[Pairing] = Cache(128)
_stills: Cache[Program] = Cache(256)
_between: Cache[Program] = Cache(48)


def paired(left: Frame, right: Frame, transition: Transition) -> Pairing:
    """The pairing of two frames, kept while neither they nor the decisions change."""
    decisions = transition.decisions
    return _pairings.get((left, right), decisions, lambda: pair_frames(left, right, decisions))


def pairing_of(project: Project, route: Route) -> Pairing:
    """The pairing of what a route moves between."""
    return paired(*ends(project, route), route.transition)


def compile_route(project: Project, route: Route) -> Program:
    """The route's transition as a program, kept while neither it nor the project changes."""
    return compile_between(project, *ends(project, route), route.transition)


def compile_between(project: Project, left: Frame, right: Frame, transition: Transition) -> Program:
    """The motion between two frames as ``compile_frames`` has it, kept while they are the same values."""
    made = project, left, right, transition
    return _between.get(made, None, lambda: compile_frames(*made))


def compile_still(frame: Frame, project: Project | None = None) -> Program:
    """One frame as a program in which nothing moves but its loops, remembered while it stays as it is.

    The project is asked for the named curves of loops.
    """
    with_parts = project is not None and bool(uses_in(frame))
    curves = project.curves if project is not None and (moved_by_clocks(frame) or with_parts) else ()
    parts = project.parts if project is not None and with_parts else ()
    return _stills.get((frame, curves, parts), None, lambda: _compile_still(frame, curves, parts))


def _compile_still(frame: Frame, curves: tuple[NamedCurve, ...], parts: tuple[Part, ...]) -> Program:
    holder = Project(name="", curves=curves, parts=parts)
    return compile_frames(holder, frame, frame, Transition(duration=0.0, curve=Line()))


def _uses(project: Project | None, contents: tuple[SlotContents, ...]) -> tuple[UseSlot, ...]:
    """What stands in the slots in which a part is used; where two parts are a pair, both."""
    if project is None or not project.parts:
        return ()
    by_id = {part.id: part for part in project.parts}
    made: list[UseSlot] = []
    for slot, content in enumerate(contents):
        sides = (content.left, content.right)
        known: set[str] = set()
        for side in sides:
            body = side.body if side is not None else None
            part = by_id.get(body.part) if isinstance(body, Use) else None
            if side is not None and isinstance(body, Use) and part is not None and part.id not in known:
                place = ~slot if known else slot
                known.add(part.id)
                part = as_used(part, body, side.w, side.h)
                made.append(UseSlot(place, compile_still(first_pose(part, body), project), body.speed, body.offset))
    return tuple(made)


def at_rest(scene: Scene) -> Scene:
    """A scene; while nothing has moved, and at an end at which layers change groups, the frame itself.

    On their way such layers move over (or under) their groups, so that only the frame has them at their exact place.
    """
    program = scene.program
    if program.left is program.right or scene.inside or scene.looping:
        return scene
    if scene.at <= 0.0 and (program.lifts or (not program.uses and np.array_equal(scene.vector, program.start))):
        return compile_still(program.left).at(0.0)
    return compile_still(program.right).at(0.0) if program.lifts and scene.at >= program.duration else scene


def compile_frames(
    project: Project | None,
    left: Frame,
    right: Frame,
    transition: Transition,
    joined: Joined | None = None,
    drawn: tuple[Frame, ...] = (),
) -> Program:
    """The motion between two frames as a program.

    ``joined``: the pairs, where they are not those of ``paired``. ``drawn``: the frames that what is seen comes from,
    the newest first, where they are not these two.
    """
    drawn = drawn or (right, left)  # as they were, before a part in them is taken as its outline
    times = Timings(project or Project(name=""), transition)
    plan = times.plan
    if project is not None and project.parts and left is not right:
        joined = as_outlines(project, joined or paired(left, right, transition).joined)
        left, right = joined.before.frame, joined.after.frame
    own = {key.pair for key in (*plan.cues, *plan.hung)}
    looks = {ids: look for ids in own if (look := _look(times, ids)) is not PLAIN}
    if left is right and not looks and not transition.decisions and not transition.settled:
        layout = still_layout(left)
    else:
        layout = layout_of(left, right, joined or paired(left, right, transition).joined, transition, looks)
    others_first()
    cues = _Cues(times, own)
    blend = _blend(cues, layout, plan.duration)
    last = max(plan.duration, float(blend.ends.max(initial=0.0)))
    others_first()
    loops, clocks = _loops(times, layout, plan.duration, stands=left is right)
    scrolls, clocks = _scrolls(layout, clocks)
    return Program(
        left=left,
        right=right,
        merged=layout.merged,
        contents=layout.parts,
        frame=layout.frame,
        start=layout.start,
        colours=layout.colours,
        tracks=(blend, *_courses(times, own, layout, last), *loops, *scrolls),
        duration=plan.duration,
        last=last,
        clocks=clocks,
        in_space=layout.in_space,
        uses=_uses(project, layout.parts),
        orders=layering.orders(layout.merged, layout.a, layout.b, transition, plan.duration),
        drawn=drawn,
    )


def _blend(cues: _Cues, layout: Layout, duration: float) -> tracks.BlendTrack:
    """All that goes from one value to another: each number by the cue of its pair and property."""
    table = cues.table(layout)
    width = len(SCALARS)
    cue_of = np.full(len(layout.start), cues.number_of(0.0, duration, Line()), np.intp)
    inside = layout.slot_of >= 0  # the others are the frame's own
    cue_of[inside] = table[layout.slot_of[inside], layout.prop_of[inside]]
    cue_of[-1] = cues.number_of(duration / 2, duration / 2, Line())
    # The eye comes nearer as the layers do: along the transition's curve, as 1 over its distance.
    cue_of[-2] = cues.number_of(0.0, duration, cues.times.plain(cues.times.transition.curve))
    for slot, share in layout.swaps:
        moment = duration * share
        when = replace(cues.times.of(*layout.ids[slot], "shape"), start=moment, end=moment)
        cue_of[slot * width + COLUMN["mix"]] = cues.number(when)
    places = layout.differs
    spans = np.array([(start, end) for start, end, _ in cues.numbers], float)
    curves = CurveTable([curve for *_, curve in cues.numbers])
    return tracks.BlendTrack(
        places, layout.start[places], layout.end[places], cue_of[places], spans[:, 0], spans[:, 1], curves
    )


def _loops(times: Timings, layout: Layout, duration: float, stands: bool) -> tuple[list[tracks.LoopTrack], Clocks]:
    """The loops of both frames, and their clocks. One that both frames share runs on through the transition."""
    of_left = {loop.origin for loop in layout.a.frame.loops}
    origins = list(dict.fromkeys(pose.loop.origin for pose in layout.loops))
    follows = {pose.loop.origin for pose in layout.loops if is_follow(pose.loop)}
    begins = tuple(NEVER if o in follows else 0.0 if o in of_left else duration for o in origins)
    made = [
        tracks.LoopTrack(
            pose.loop,
            pose.slot,
            1 + origins.index(pose.loop.origin),
            LoopCurve(pose.loop, times.plain),
            pose.places,
            pose.added,
            pose.scaled,
            pose.ratios,
            not pose.of_right and not stands,
            duration,
            len(layout.ids) * len(SCALARS),
            ArcLengthPath(np.array([(0.0, 0.0), *pose.loop.path])) if pose.loop.path else None,
            _moved(pose),
        )
        for pose in layout.loops
    ]
    return made, Clocks(tuple(origins), begins, stands)


def _scrolls(layout: Layout, clocks: Clocks) -> tuple[list[tracks.ScrollTrack], Clocks]:
    """What goes as the frame is scrolled, where it can be; and the clocks with those that say how far."""
    left, right = layout.a.frame, layout.b.frame
    if not left.scroll and not right.scroll:
        return [], clocks
    of_left, of_right = all_that_goes(left), all_that_goes(right)
    # A slot goes as its layer in the frame arrived at does, or in the one left.
    goes = [
        content.right.id in of_right if content.right is not None else content.layer.id in of_left
        for content in layout.parts
    ]
    up = layout.merged.parent
    rows = np.array([s for s, own in enumerate(goes) if own and not (up[s] >= 0 and goes[up[s]])], np.intp)
    first = rows * len(SCALARS)
    made = tracks.ScrollTrack(first + COLUMN["x"], first + COLUMN["y"], 1 + len(clocks.origins))
    return [made], clocks.and_also(ACROSS, DOWN)


def _moved(pose: LoopPose) -> np.ndarray:
    """The places that a loop on a path moves."""
    names = ("x", "y", "rotation") if pose.loop.rotates else ("x", "y")
    row = pose.slot * len(SCALARS)
    return np.array([row + COLUMN[name] for name in names]) if pose.loop.path else tracks.NOTHING


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

    def number(self, when: Timed) -> int:
        """The number of a cue."""
        return self.number_of(when.start, when.end, when.plain)

    def number_of(self, start: float, end: float, curve: PlainCurve) -> int:
        """The number of what runs from one moment to another, ms."""
        return self.numbers.setdefault((start, end, curve), len(self.numbers))

    def table(self, layout: Layout) -> np.ndarray:
        """The number of every property's cue (slots, props). Pairs without any of their own share one by their role."""
        inherited = np.zeros(3, np.intp)
        with_own = [s for pair in self.own if (s := layout.row_of.get(pair, -1)) >= 0]
        plain = layout.roles.copy()
        plain[with_own] = -1
        for role in np.unique(plain[plain >= 0]).tolist():
            inherited[role] = self.number(self.times.of(*layout.ids[int(np.argmax(plain == role))], ""))
        made = np.repeat(inherited[layout.roles][:, None], len(PROPS), 1)
        for pair in self.own:
            s = layout.row_of.get(pair, -1)
            if s < 0:
                continue
            made[s] = self.number(self.times.of(*pair, ""))
            for k, prop in enumerate(PROPS):
                if self.times.plan.has_own(CueKey(*pair, prop)):
                    made[s, k] = self.number(self.times.of(*pair, prop))
        for s, group in layout.held:
            made[s, _POSITION] = made[group, _POSITION]
        return made


def _courses(
    times: Timings, own: set[Ids], layout: Layout, last: float
) -> tuple[tracks.KeyframeTrack | tracks.MotionPathTrack, ...]:
    """What goes over keys or along a way."""
    straight: list[tracks.KeyframeTrack | tracks.MotionPathTrack] = []
    ways: list[tracks.MotionPathTrack] = []
    turned = {cue.key.pair for cue in times.plan.cues.values() if cue.keyframes or cue.motion_path is not None}
    rows = sorted((layout.row_of[ids], ids) for ids in own & turned if ids in layout.row_of)
    for s, ids in rows:
        start, end = layout.ends_of(s)
        for prop, names in KEYED.items():
            when = times.of(*ids, prop)
            if when.motion_path is not None and prop == "position":
                columns = np.array([COLUMN[name] for name in _ON_PATH])
                places = s * len(SCALARS) + columns
                ways.append(tracks.followed(places, start[columns[:6]], end[columns[:6]], when, times.plain, last))
            elif when.keyframes and prop == "fill":
                straight += _keyed_fill(times, layout, s, when, last)
            elif when.keyframes:
                columns = np.array([COLUMN[name] for name in names])
                values = [np.array(key.value, float) for key in when.keyframes]
                places = s * len(SCALARS) + columns
                straight.append(tracks.keyed(places, start[columns], end[columns], values, when, times.plain, last))
    # Sizes and turns must be known when the place on a way is worked out.
    return (*straight, *ways)


def _keyed_fill(times: Timings, layout: Layout, s: int, when: Timed, last: float) -> list[tracks.KeyframeTrack]:
    """The colours that a fill of one colour passes, in the space that it blends in."""
    fills = layout.parts[s].fills
    if not fills or fills[-1].kind != "solid":
        return []
    places = len(layout.ids) * len(SCALARS) + 4 * fills[-1].colour + np.arange(4)
    values = [spaces.vectors(np.array(key.value), when.space) for key in when.keyframes]
    return [tracks.keyed(places, layout.start[places], layout.end[places], values, when, times.plain, last)]
