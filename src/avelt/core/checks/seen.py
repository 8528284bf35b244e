"""What hurts or cannot be read: flashes, and words on a ground that they do not stand out from.

Sources: WCAG 2.2, 2.3.1 (general flash: a pair of opposing changes of relative luminance by 10 % or more where the
darker one is below 0.80; more than three in a second; area above a quarter of 10 degrees of sight, 341 x 256 px) and
1.4.3 (relative luminance and contrast).
"""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.arrays import np
from avelt.core.checks.compiled import transitions
from avelt.core.checks.trouble import Trouble
from avelt.core.model.curves import Drawn, Drops, Points, Ring
from avelt.core.model.find import frame_by_id
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Frame, Project
from avelt.core.timing.compile import compile_still
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.tracks import BlendTrack, KeyframeTrack
from avelt.core.words import tr

_RATE = 60.0  # looks a second
_MOST_MS = 4_000.0  # of loops that are looked at
_AREA = 341.0 * 256.0 / 4.0  # px
_STEP, _DARK, _MOST_FLASHES = 0.10, 0.80, 3
_CHUNK = 24
READABLE, LOST = 3.0, 1.6  # contrast at rest that is fine; contrast on the way that is none
_LOST_MS = 120.0
_LOOKS, _FIRST_LOOKS = 33, 9


def luminance(colours: np.ndarray) -> np.ndarray:
    """Relative luminance (...,) of sRGB colours (..., 3 or more), 0..1."""
    rgb = np.clip(colours[..., :3], 0.0, 1.0)
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    return np.asarray(linear @ np.array([0.2126, 0.7152, 0.0722]))


def contrast(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Contrast (...,) of two relative luminances, 1..21."""
    return np.asarray((np.maximum(one, other) + 0.05) / (np.minimum(one, other) + 0.05))


def flashes(values: np.ndarray, rate: float = _RATE) -> int:
    """How many flashes there are in the worst second of relative luminances (n,), ``rate`` a second."""
    turns: list[int] = []  # where an opposing change of 10 % is complete
    low = high = float(values[0]) if len(values) else 0.0
    way = 0
    for k, value in enumerate(values.tolist()):
        if way <= 0 and value - low >= _STEP and low < _DARK:
            turns.append(k)
            way, high = 1, value
        elif way >= 0 and high - value >= _STEP and value < _DARK:
            turns.append(k)
            way, low = -1, value
        low, high = min(low, value) if way <= 0 else low, max(high, value) if way >= 0 else high
    second = int(rate)
    return max((sum(k <= other < k + second for other in turns) // 2 for k in turns), default=0)


def flashing(project: Project) -> Iterator[Trouble]:
    """Frames whose loops, and transitions whose keyframes, flash more than three times in a second."""
    for frame in project.frames:
        if _may_flash(frame):
            says = _flashing(compile_still(frame, project), _MOST_MS, frame)
            if says:
                yield Trouble("flashes", says, (), (frame.id,))
    for route, program in transitions(project):
        frame = frame_by_id(project, route.arrives)
        if not (_swings(program) or _may_flash(frame) or _may_flash(frame_by_id(project, route.leaves))):
            continue
        says = _flashing(program, program.last, frame)
        if says:
            yield Trouble("flashes", says, (route.id,))


def _may_flash(frame: Frame) -> bool:
    """Whether a loop of a frame changes how light something is."""
    return any(
        not loop.muted and (loop.offset.opacity != 1.0 or loop.changes.fills is not None) for loop in frame.loops
    )


def _swings(program: Program) -> bool:
    """Whether anything may go to and fro often enough within a transition."""
    keyed = any(isinstance(track, KeyframeTrack) and len(track.moments) > 4 for track in program.tracks)
    curves = (curve for track in program.tracks if isinstance(track, BlendTrack) for curve in track.curves.curves)
    return keyed or any(isinstance(curve, Ring | Drops | Points | Drawn) for curve in curves)


def _flashing(program: Program, length: float, frame: Frame) -> str:
    """Which layer flashes most and how often in its worst second, in words; empty unless those are large together."""
    moments = np.arange(0.0, max(length, 1.0), 1000.0 / _RATE)
    light, area = [], np.zeros(len(program.contents))
    for first in range(0, len(moments), _CHUNK):
        for ms in moments[first : first + _CHUNK].tolist():
            scene = program.at_times(program.clocks.started_at_zero(ms))
            light.append(_light(scene))
            area = np.maximum(area, _areas(scene))
    table = np.array(light)
    spread = np.ptp(table, axis=0)
    found = [(flashes(table[:, s]), s) for s in np.flatnonzero(spread >= _STEP).tolist()]
    worst = [(count, s) for count, s in found if count > _MOST_FLASHES]
    if not worst or sum(area[s] for _, s in worst) < min(_AREA, frame.w * frame.h / 4.0):
        return ""
    count, slot = max(worst)
    name = program.contents[slot].layer.name
    return tr("{name} flashes {count} times in a second: more than three can cause seizures.", name=name, count=count)


def _light(scene: Scene) -> np.ndarray:
    """What each slot (slots,) shows on the frame's background, as relative luminance."""
    ground = float(luminance(scene.background))
    opacity = scene.world_opacity()
    own = np.full(len(opacity), ground)
    alpha = np.zeros(len(opacity))
    for s, part in enumerate(scene.program.contents):
        if part.fills and part.fills[-1].kind == "solid":
            colour = scene.colours[part.fills[-1].colour]
            own[s], alpha[s] = float(luminance(colour)), float(colour[3])
        elif part.fills or part.layer.kind == "picture":
            own[s], alpha[s] = 0.4, 1.0  # something that is neither light nor dark
    share = alpha * opacity
    return np.asarray(own * share + ground * (1.0 - share))


def _areas(scene: Scene) -> np.ndarray:
    world, rows = scene.world(), scene.scalars
    scale = np.abs(world[:, 0] * world[:, 3] - world[:, 1] * world[:, 2])
    return np.asarray(rows[:, COLUMN["w"]] * rows[:, COLUMN["h"]] * scale)


def unreadable(project: Project) -> Iterator[Trouble]:
    """Words that can be read on both sides, and not on the way, for longer than a blink."""
    for route, program in transitions(project):
        words = [
            s
            for s, part in enumerate(program.contents)
            if part.both is not None and part.layer.kind == "text" and part.fills
        ]
        if not words:
            continue
        for looks, least in ((2, READABLE), (_FIRST_LOOKS, READABLE)):  # few looks first: most words stay readable
            found = np.array(
                [_contrasts(program.at(ms), words) for ms in np.linspace(0.0, program.last, looks).tolist()]
            )
            ends = found[[0, -1]].min(0) >= least
            words = [s for k, s in enumerate(words) if ends[k] and (looks == 2 or found[:, k].min() < least)]
            if not words:
                break
        if not words:
            continue
        moments = np.linspace(0.0, program.last, _LOOKS)
        found = np.array([_contrasts(program.at(ms), words) for ms in moments.tolist()])
        for k, slot in enumerate(words):
            row = found[:, k]
            if min(row[0], row[-1]) < READABLE:
                continue
            lost = _longest(row < LOST) * program.last / (_LOOKS - 1)
            if lost > _LOST_MS:
                at = float(moments[int(np.argmin(row))])
                name = program.contents[slot].layer.name
                when = tr("for {lost:.0f} ms around {at:.0f} ms", lost=lost, at=at)
                says = tr("{name} cannot be read {when}: it has nearly the colour of its ground.", name=name, when=when)
                layers = tuple(i for i in program.ends_of(slot) if i)
                yield Trouble("unreadable", says, (route.id,), layers=layers, value=at)


def _contrasts(scene: Scene, words: list[int]) -> np.ndarray:
    """The contrast of each text with what lies below its middle; 21 where it is clear or the ground no plain colour."""
    world, rows, opacity = scene.world(), scene.scalars, scene.world_opacity()
    place = np.full(len(opacity), -1)
    order = _paint_order(scene)
    place[order] = np.arange(len(order))
    grounds = np.array([bool(part.fills) and part.layer.kind != "text" for part in scene.program.contents])
    a, b, c, d, e, f = world.T
    across = a * d - b * c
    flat = np.abs(across) < 1e-9
    across = np.where(flat, 1.0, across)
    wide, high = rows[:, COLUMN["w"]], rows[:, COLUMN["h"]]
    out = np.full(len(words), 21.0)
    for k, s in enumerate(words):
        if place[s] < 0 or opacity[s] < 0.5:
            continue
        m, w, h = world[s], wide[s] / 2, high[s] / 2
        x, y = m[0] * w + m[2] * h + m[4] - e, m[1] * w + m[3] * h + m[5] - f
        u, v = (d * x - c * y) / across, (a * y - b * x) / across
        holds = (
            (u >= 0.0) & (u <= wide) & (v >= 0.0) & (v <= high) & grounds & ~flat & (place >= 0) & (place < place[s])
        )
        below = np.flatnonzero(holds)
        ground = _ground(scene, below[np.argsort(place[below])].tolist(), opacity)
        if ground is not None:
            paint = scene.colours[scene.program.contents[s].fills[-1].colour]
            share = paint[3] * opacity[s]
            shown = paint[:3] * share + ground * (1.0 - share)
            out[k] = float(contrast(luminance(shown), luminance(ground)))
    return out


def _ground(scene: Scene, below: list[int], opacity: np.ndarray) -> np.ndarray | None:
    """The colour that slots, the lowest first, make on the background; ``None`` when it is no plain one."""
    ground, plain = scene.background[:3], True
    for slot in below:
        paint = scene.program.contents[slot].fills[-1]
        if paint.kind != "solid":
            plain = plain and opacity[slot] < 0.1
            continue
        colour = scene.colours[paint.colour]
        share = colour[3] * opacity[slot]
        ground = colour[:3] * share + ground * (1.0 - share)
        plain = plain or share > 0.95
    return ground if plain else None


def _paint_order(scene: Scene) -> list[int]:
    found: list[int] = []

    def visit(parent: int) -> None:
        for slot in scene.order.get(parent, ()):
            if not scene.program.is_absent(slot, scene.at):
                found.append(slot)
                visit(slot)

    visit(-1)
    return found


def _longest(flags: np.ndarray) -> int:
    """The longest run of true ones."""
    most = run = 0
    for flag in flags.tolist():
        run = run + 1 if flag else 0
        most = max(most, run)
    return most


RULES = (flashing, unreadable)
