"""What is wrong with transitions: cues that do nothing, time in which nothing moves, motion that nobody sees, and
motion that is too much."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.checks.compiled import by_the_clock, span_of_motion, transitions
from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import layer_index
from avelt.core.model.motion import Cue, CueKey
from avelt.core.model.properties import BY_KEY, COLUMN
from avelt.core.model.values import Layer, Project, Route
from avelt.core.timing.compile import compile_route
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.timing.timeline import moving_groups
from avelt.core.words import tr

REST = 150.0  # ms in which nothing moves and that are felt
LONGEST = 1_500.0  # ms that one waits for a screen
MOST_AT_ONCE = 16  # motions that have nothing to do with each other
_LOOKS = 13  # moments at which it is asked what is in sight
_SHIFTS = 8.0  # px: what moves less does not ask for a look
_SAME = 6.0  # px and 10 ms: motions nearer than that go together


def cues_that_do_nothing(project: Project) -> Iterator[Trouble]:
    """Cues of what is not there any more, or of what does not change."""
    for route, program in transitions(project):
        old = route.transition
        needed = {tie.to for tie in old.ties} | {key for rule in old.staggers for key in rule.cues}
        groups = moving_groups(program)
        moves = {slot for slot, _ in groups}
        for cue in old.cues:
            slot = program.slot_of(cue.from_id, cue.to_id)
            name = _name(project, route, cue.key)
            if slot < 0:
                says = tr("A cue is of {name}, which is no pair of this transition any more.", name=name)
                yield Trouble("cue idle", says, (route.id,), layers=_layers(cue.key), cue=cue.key)
                continue
            changes = bool(program.contents[slot].change) and cue.prop in ("", "shape", "fill")
            props = {prop.split(" ")[0] for s, prop in groups if s == slot}
            idle = not (cue.prop in props if cue.prop else slot in moves or changes)
            if idle and not changes and cue.key not in needed and _same_without(project, route, program, cue):
                what = BY_KEY[cue.prop].label if cue.prop in BY_KEY else cue.prop
                says = tr("The cue of {name} does nothing: its {what} is the same on both sides.", name=name, what=what)
                if not cue.prop:
                    apart = program.contents[slot].both is None
                    why = (
                        tr("what lies in it comes and goes by itself") if apart else tr("it is the same on both sides")
                    )
                    says = tr("The cue of {name} does nothing: {why}.", name=name, why=why)
                yield Trouble("cue idle", says, (route.id,), layers=_layers(cue.key), cue=cue.key)


def _same_without(project: Project, route: Route, program: Program, cue: Cue) -> bool:
    """Whether all is as it is without a cue: what lies in a group may take its times from the group's cue."""
    cues = tuple(other for other in route.transition.cues if other is not cue)
    bare = compile_route(project, replace(route, transition=replace(route.transition, cues=cues)))
    if bare.last != program.last or len(bare.start) != len(program.start):
        return False
    ms = np.linspace(0.0, program.last, _LOOKS)
    return bool(np.allclose(bare.table(ms), program.table(ms), atol=1e-6))


def _layers(key: CueKey) -> tuple[str, ...]:
    return tuple(ident for ident in key.pair if ident)


def _name(project: Project, route: Route, key: CueKey) -> str:
    left, right = (layer_index(frame) for frame in ends(project, route))
    layer = right.get(key.to_id or "") or left.get(key.from_id or "")
    return layer.name if layer is not None else tr("a layer that is gone")


def dead_waits(project: Project) -> Iterator[Trouble]:
    """Time before the first and after the last motion in which one waits for nothing."""
    for route, program in transitions(project):
        span = span_of_motion(program) if by_the_clock(route) else None
        if span is None:
            continue
        first, last = span
        if first > REST:
            says = tr("Nothing moves in the first {first:g} ms.", first=first)
            yield Trouble("dead wait", says, (route.id,), value=first)
        if program.last - last > REST:
            says = tr("Nothing moves after {last:g} ms, but it lasts {last2:g} ms.", last=last, last2=program.last)
            yield Trouble("dead rest", says, (route.id,), value=last)


def out_of_sight(project: Project) -> Iterator[Trouble]:
    """Layers that move where nobody sees them all the way."""
    for route, program in transitions(project):
        slots = sorted({s for s, prop in moving_groups(program) if s >= 0 and prop != "opacity"})
        if not slots or any(frame.content != (0.0, 0.0) for frame in ends(project, route)):
            continue
        seen = _seen(program)
        for slot in slots:
            part = program.contents[slot]
            if not seen[slot] and not part.layer.children and not part.layer.hidden:
                key = program.ends_of(slot)
                says = tr("{layer} moves, but is never in sight.", layer=part.layer.name)
                yield Trouble("out of sight", says, (route.id,), layers=tuple(i for i in key if i))


def _seen(program: Program) -> np.ndarray:
    """Whether each slot (slots,) is inside the frame and not clear at some moment."""
    seen = np.zeros(len(program.contents), bool)
    reach = np.array([_reach(part.layer) for part in program.contents])
    for ms in np.linspace(0.0, program.last, _LOOKS).tolist():
        scene = program.at(ms)
        world, (w, h) = scene.world(), scene.size
        rows = scene.scalars
        corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float)
        grown = rows[:, (COLUMN["w"], COLUMN["h"])] + 2.0 * reach[:, None]
        local = corners[None] * grown[:, None, :] - reach[:, None, None]
        x = world[:, None, 0] * local[..., 0] + world[:, None, 2] * local[..., 1] + world[:, None, 4]
        y = world[:, None, 1] * local[..., 0] + world[:, None, 3] * local[..., 1] + world[:, None, 5]
        inside = (x.max(1) > 0.0) & (x.min(1) < w) & (y.max(1) > 0.0) & (y.min(1) < h)
        tilted = (rows[:, COLUMN["rotation_x"]] != 0.0) | (rows[:, COLUMN["rotation_y"]] != 0.0)
        seen |= (inside | tilted) & (scene.world_opacity() > 0.01)
    return seen


def _reach(layer: Layer) -> float:
    """How far a layer paints beyond its box, px."""
    line = layer.stroke.width if layer.stroke is not None else 0.0
    blur = 3.0 * max([layer.blur, *(shadow.blur for shadow in layer.shadows)])
    return blur + line + max([0.0, *(abs(shadow.x) + abs(shadow.y) for shadow in layer.shadows)])


def too_much(project: Project) -> Iterator[Trouble]:
    """Transitions that one has to wait for, and those in which too much happens at once."""
    for route, program in transitions(project):
        if not by_the_clock(route):
            continue
        if program.last > LONGEST:
            says = tr("It takes {last:g} ms until one can go on.", last=program.last)
            yield Trouble("too long", says, (route.id,), value=program.last)
        most, at = _most_at_once(program)
        if most > MOST_AT_ONCE:
            says = tr("At {at:g} ms {most} layers move in ways of their own: nobody can follow them.", at=at, most=most)
            yield Trouble("too many", says, (route.id,), value=at)


def _most_at_once(program: Program) -> tuple[int, float]:
    """How many motions that have nothing to do with each other are under way at once at most, and when, ms."""
    ms = np.linspace(0.0, program.last, _LOOKS)
    moving = sorted({s for s, prop in moving_groups(program) if s >= 0 and prop in ("position", "size")})
    ways: dict[tuple[int, ...], tuple[float, float]] = {}
    if not moving:
        return 0, 0.0
    rows = program.rows_of(moving, ms)
    spots = _middles(rows)
    for k, slot in enumerate(moving):
        way = spots[:, k] - spots[0, k]
        far = np.hypot(way[:, 0], way[:, 1])
        if far.max() < _SHIFTS:
            continue
        steps = np.abs(np.diff(far)) > 0.25
        first, last = ms[:-1][steps].min(), ms[1:][steps].max()
        group = int(program.parent[slot])
        ways.setdefault((group, *np.round(way / _SAME).astype(int).ravel().tolist()), (first, last))
    counts = [sum(first <= t < last for first, last in ways.values()) for t in ms.tolist()]
    most = int(np.argmax(counts)) if counts else 0
    return counts[most] if counts else 0, float(ms[most])


def _middles(rows: np.ndarray) -> np.ndarray:
    """The middles (moments, slots, 2) of boxes in what they lie in, turns left out."""
    x, y, w, h = (rows[..., COLUMN[name]] for name in ("x", "y", "w", "h"))
    return np.stack([x + w / 2, y + h / 2], -1)


RULES = (cues_that_do_nothing, dead_waits, out_of_sight, too_much)
