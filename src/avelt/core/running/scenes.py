"""What is on screen at the moment of a world: its scene, and what lies under a point of it."""

from __future__ import annotations

from collections.abc import Mapping
from weakref import ref

from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.cache import Cache
from avelt.core.geometry import tilt
from avelt.core.model.curves import Curve
from avelt.core.model.find import walk
from avelt.core.model.parts import uses_in
from avelt.core.model.phases import Phase, Rounds, ShowBlend, ShowMotion
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Frame, Group, Layer, Transition, Use
from avelt.core.running.carrying import carried_speed
from avelt.core.running.hits import slots_at
from avelt.core.running.orders import Orders
from avelt.core.running.rules import Rules
from avelt.core.running.splitting import stand_in
from avelt.core.running.world import Child, Lead, OnTrack, World, begun_of, leaving, since_of
from avelt.core.timing.clocks import Clocks
from avelt.core.timing.compile import compile_frames
from avelt.core.timing.items import scale_inside
from avelt.core.timing.plain_leaves import look_up
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.slots import SlotContents
from avelt.core.timing.snapshot import snapshot

_leads: Cache[Program] = Cache(64)
_OPACITY, _W, _H = COLUMN["opacity"], COLUMN["w"], COLUMN["h"]


def scene_of(rules: Rules, world: World) -> Scene:
    """What is on screen at the world's moment."""
    orders = rules.orders
    main = world.tracks[0] if orders is not None and orders.main is not None and world.tracks else None
    if orders is not None and main is not None:
        return track_scene(rules, world, main)
    motion = world.actor.motion
    program, ms = (motion.program, motion.moment(world.now)) if motion is not None else (world.actor.still, 0.0)
    return _filled(rules, world, program, ms, since_of(world))


def _filled(rules: Rules, world: World, program: Program, ms: float, since: Mapping[str, float]) -> Scene:
    """A program's scene with the parts and the side tracks that stand in it, without what a condition hides."""
    inside: dict[int, Scene] = {}
    alike: dict[Program, list[tuple[int, World, float]]] = {}
    for slot, content in enumerate(program.contents) if program.opens else ():
        there = stand_in(content.layer)
        if there is not None:
            state = next((entry for entry in world.tracks if entry.track == there[0]), None)
            if state is not None and rules.orders is not None:
                inside[slot] = track_scene(rules, world, state, there[1])
            continue
        for place, child in _parts_in(world, slot, content).items():
            inner, actor = rules.of(child), child.world.actor
            if inner.orders is None and actor.motion is None and not actor.still.opens:
                alike.setdefault(actor.still, []).append((place, child.world, child.moment(world.now)))
            else:
                inside[place] = scene_of(inner, child.now(world.now))
    for still, found in alike.items():
        inside |= _alike(rules, still, found)
    scene = program.while_running(ms, since, inside) if inside else program.while_running(ms, since)
    return without(scene, [slot for slot, text in program.conditions if not rules.holds(text, world.inputs)])


def _alike(rules: Rules, still: Program, found: list[tuple[int, World, float]]) -> dict[int, Scene]:
    """The scenes of parts that stand in the same pose, each with its own times: worked out together."""
    times = _times(still.clocks, found)
    if len(found) > 1:
        scenes = still.last_scenes_at(times)
        if not scenes:
            scenes, vectors, colours = still.scenes_at(times)
            look_up(still, scenes, vectors, colours)
    else:
        scenes = [still.at_times(times[0])]
    if still.conditions:
        hidden = [[slot for slot, text in still.conditions if not rules.holds(text, w.inputs)] for _, w, _ in found]
        scenes = [without(scene, slots) for scene, slots in zip(scenes, hidden, strict=True)]
    return {place: scene for (place, *_), scene in zip(found, scenes, strict=True)}


def _times(clocks: Clocks, found: list[tuple[int, World, float]]) -> Floats:
    """The times (n, clocks) of parts that stand."""
    begun = [begun_of(world, clocks) for _, world, _ in found]
    if any(one is None for one in begun):
        return np.array([clocks.running(0.0, since_of(world, now)) for _, world, now in found])
    times = np.zeros((len(found), 1 + len(clocks.origins)))
    times[:, 1:] = np.array([now for *_, now in found])[:, None] - np.array(begun, float).reshape(
        len(found), len(clocks.origins)
    )
    return times


def _parts_in(world: World, slot: int, content: SlotContents) -> dict[int, Child]:
    """The parts at work in a slot: that of the frame arrived at where both are one, else both."""
    side = content.left
    if side is not None and side is content.right:
        alone = world.children.get(side.origin) if isinstance(side.body, Use) else None
        return {slot: alone} if alone is not None else {}
    uses = [(side.origin, side.body) for side in (content.left, content.right) if side and isinstance(side.body, Use)]
    if not uses:
        return {}
    places = {slot: uses[-1][0]}
    if len(uses) == 2 and uses[0][1].part != uses[1][1].part:
        gone = leaving(uses[0][0])
        places = {slot: gone if gone in world.children else uses[0][0], ~slot: uses[1][0]}
    return {place: child for place, origin in places.items() if (child := world.children.get(origin)) is not None}


def without(scene: Scene, slots: list[int]) -> Scene:
    """A scene in which some slots cannot be seen. Of the same scene it is the same one as long as somebody holds it."""
    if not slots:
        return scene
    known: tuple[list[int], ref[Scene]] | None = scene.__dict__.get("without")
    made = known[1]() if known is not None and known[0] == slots else None
    if made is None:
        vector = scene.vector.copy()
        vector[: scene.program.dense].reshape(-1, len(COLUMN))[slots, _OPACITY] = 0.0
        made = replace(scene, vector=vector)
        made.__dict__["whole"] = scene  # it is as old as what it was made from
        scene.__dict__["without"] = slots, ref(made)
    return made


# Phases


def share_of(state: OnTrack, now: float) -> float:
    """How far a blend is at a time of its stage: 0..1.

    ``q' = (p - q) / lag`` solved between events, where p is constant: ``q = p + (q0 - p) exp(-(t - t0) / lag)``.
    """
    if state.lag <= 0.0:
        return state.wanted
    return float(state.wanted + (state.share - state.wanted) * np.exp(-(now - state.since) / state.lag))


def moment_of(orders: Orders, phase: Phase, state: OnTrack, program: Program, now: float) -> float:
    """The time of a phase's program at a time of its stage."""
    if isinstance(phase.shows, ShowBlend):
        return share_of(state, now) * program.duration
    if not isinstance(phase.shows, ShowMotion):
        return 0.0
    ms, one = now - state.began, orders.length(state.track, phase)
    if isinstance(phase.lasts, Rounds) and 0.0 < one <= ms < one * phase.lasts.count:
        return ms % one
    return min(ms, one)


def track_scene(rules: Rules, world: World, state: OnTrack, place: str = "") -> Scene:
    """What a track shows in one of its places."""
    orders = rules.orders
    assert orders is not None
    phase = orders.phase(state.track, state.phase)
    program = orders.program(state.track, phase, place)
    ms = moment_of(orders, phase, state, program, world.now)
    since = {clock: far for clock, far in since_of(world).items() if clock.startswith("\0")}
    since |= {loop.origin: world.now - state.began for loop in orders.loops(state.track, phase)}
    lead = state.lead
    if lead is None or world.now >= lead.end:
        return _filled(rules, world, program, ms, since)
    return _filled(rules, world, _led(rules, world, state, phase, lead, place), world.now - lead.start, since)


def _led(rules: Rules, world: World, state: OnTrack, phase: Phase, lead: Lead, place: str) -> Program:
    """The transition into a phase: from what was on screen to what the phase shows, which may move meanwhile."""
    orders = rules.orders
    assert orders is not None
    left, right = lead.left[place], orders.ends(state.track, phase, place)[1]
    motion = Transition(lead.end - lead.start, lead.curve)
    if isinstance(phase.shows, ShowMotion | ShowBlend):
        program = orders.program(state.track, phase, place)
        there = program.while_running(moment_of(orders, phase, state, program, world.now), {})
        return compile_frames(orders.project, left, replace(snapshot(there, right), loops=()), motion)

    def make() -> Program:
        program = compile_frames(orders.project, left, right, motion)
        old, ms, rate = lead.old[place]
        speed = carried_speed(old, ms, program) if rate else np.zeros(0)
        return program.carrying(speed * rate) if rate else program

    return _leads.get((left, right, lead), (state.track, place), make)


def lead_into(rules: Rules, world: World, state: OnTrack, duration: float, curve: Curve) -> Lead:
    """A transition of so many ms that begins with what a track shows now."""
    orders = rules.orders
    assert orders is not None
    phase = orders.phase(state.track, state.phase)
    left: dict[str, Frame] = {}
    old: dict[str, tuple[Program, float, float]] = {}
    for place in orders.places(state.track):
        scene = track_scene(rules, world, state, place)
        left[place] = replace(snapshot(scene, orders.ends(state.track, phase, place)[1]), loops=())
        program = orders.program(state.track, phase, place)
        ms = moment_of(orders, phase, state, program, world.now)
        under_way = isinstance(phase.shows, ShowMotion) and state.lead is None and 0.0 < ms < program.last
        old[place] = program, ms, 1.0 if under_way else 0.0
    return Lead(left, old, world.now, world.now + duration, curve)


# What lies under a point


def layers_at(rules: Rules, world: World, x: float, y: float) -> tuple[str, ...]:
    """Ids of the stage's layers under a point, innermost first. While it comes, the arriving frame's."""
    motion = world.actor.motion
    return _layers_in(scene_of(rules, world), x, y, motion is not None and motion.may_arrive)


def _layers_in(scene: Scene, x: float, y: float, arriving: bool) -> tuple[str, ...]:
    found: list[str] = []
    for slot in slots_at(scene, x, y):
        content = scene.program.contents[slot]
        layer = content.right if arriving else content.left
        if stand_in(content.layer) is not None:
            inner = into(scene, slot, x, y)
            found += _layers_in(scene.inside[slot], *inner, arriving) if inner is not None else ()
        elif layer is not None:
            found.append(layer.id)
    return tuple(found)


def into(scene: Scene, slot: int, x: float, y: float) -> tuple[float, float] | None:
    """A point in the px of the scene that stands in a slot; ``None`` where there is none, or edge on."""
    inner = scene.inside.get(slot)
    if inner is None:
        return None
    back = tilt.back_to(scene.tilts().get(slot, scene.world()[slot]), x, y)
    if back is None:
        return None
    row = scene.scalars[slot]
    sx, sy = scale_inside(inner, float(row[_W]), float(row[_H]), scene.program.contents[slot].layer)
    return back[0] / sx, back[1] / sy


def place_in(rules: Rules, world: World, layer_id: str, x: float, y: float) -> tuple[float, float] | None:
    """Where a point is over a layer: shares of its width and height; ``None`` where it is not there, or edge on."""
    scene = scene_of(rules, world)
    for slot, content in enumerate(scene.program.contents):
        if layer_id in {side.id for side in (content.left, content.right) if side is not None}:
            back = tilt.back_to(scene.tilts().get(slot, scene.world()[slot]), x, y)
            w, h = (max(float(scene.scalars[slot, k]), 1e-9) for k in (_W, _H))
            return None if back is None else (back[0] / w, back[1] / h)
    return None


def point_in(rules: Rules, world: World, origin: str, x: float, y: float) -> tuple[float, float] | None:
    """A point in the px of the part at work in a use (by its origin), also where it lies outside of it."""
    scene = scene_of(rules, world)
    for slot, content in enumerate(scene.program.contents):
        if origin in {side.origin for side in (content.left, content.right) if side is not None}:
            return into(scene, slot, x, y)
    return None


def use_at(rules: Rules, world: World, x: float, y: float) -> tuple[str, float, float] | None:
    """The part at work under a point: the origin of its use, and the point in its px; ``None`` for none."""
    return _use_in(scene_of(rules, world), world, x, y) if world.children else None


def _use_in(scene: Scene, world: World, x: float, y: float) -> tuple[str, float, float] | None:
    for slot in slots_at(scene, x, y):
        point, content = into(scene, slot, x, y), scene.program.contents[slot]
        if point is None:
            continue
        if stand_in(content.layer) is not None:
            found = _use_in(scene.inside[slot], world, *point)
            if found is not None:
                return found
            continue
        origins = [side.origin for side in (content.right, content.left) if side is not None]
        origin = next((entry for entry in origins if entry in world.children), None)
        if origin is not None:
            return origin, *point
    return None


def uses_shown(rules: Rules, frame: Frame, world: World) -> list[Layer]:
    """The uses of parts in a frame that no condition hides."""
    if not uses_in(frame):
        return []
    if not any(layer.only_if for layer in walk(frame.layers)):
        return list(uses_in(frame))
    found: list[Layer] = []

    def look(layers: tuple[Layer, ...]) -> None:
        for layer in layers:
            if layer.only_if and not rules.holds(layer.only_if, world.inputs):
                continue
            if isinstance(layer.body, Group):
                look(layer.body.children)
            elif layer in uses_in(frame):
                found.append(layer)

    look(frame.layers)
    return found
