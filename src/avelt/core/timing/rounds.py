"""Loops beside each other: when all of them begin a round together, and what jumps where a round ends."""

from __future__ import annotations

from collections.abc import Sequence
from math import hypot, lcm

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.curves.named import plain
from avelt.core.model.curves import Hold, Steps
from avelt.core.model.find import layer_index
from avelt.core.model.values import Frame, Layer, Loop, Project
from avelt.core.record import Record
from avelt.core.timing.loops import LoopCurve, round_duration
from avelt.core.words import tr

LONGEST = 60_000  # ms; a longer period is none that anybody sees
_NEAR = 0.03  # how much shorter or longer a round may be made so that all fit together
_CLEAR = 1.0 / 512.0  # of opacity: less is nothing in eight bits
_SEEN = 1e-3  # of the way; less than that is no jump


class Period(Record, frozen=True):
    """One round of all: ms, 0 when there is none up to a minute. Then ``nearest`` is one, and ``rounds`` are the rounds
    (ms) of the loops, in their order, with which it would be."""

    ms: float
    nearest: float = 0.0
    rounds: tuple[float, ...] = ()


def common_period(loops: Sequence[Loop]) -> Period:
    """When all of some loops begin a round together. Rounds count in whole ms.

    >>> one, other = (Loop(k, k, "", "", duration=ms) for k, ms in (("a", 2200.0), ("b", 2500.0)))
    >>> common_period([one, other]).ms
    55000.0
    """
    rounds = [max(1, round(round_duration(loop))) for loop in loops]
    if not rounds:
        return Period(0.0)
    whole = lcm(*rounds)
    return Period(float(whole)) if whole <= LONGEST else _nearest(rounds)


def _nearest(rounds: Sequence[int]) -> Period:
    """A period that some rounds nearly have: the first of which none is far away, or else the best. It is a multiple
    of how often each goes round in it, so that all rounds are whole ms and meet when they are taken."""
    longest = max(rounds)
    found: list[tuple[float, int, tuple[float, ...]]] = []
    for times in range(1, max(1, LONGEST // longest) + 1):
        often = [max(1, round(longest * times / one)) for one in rounds]
        step = lcm(*often)
        period = max(1, round(longest * times / step)) * step
        made = tuple(float(period // count) for count in often)
        found.append((max(abs(b / a - 1.0) for a, b in zip(rounds, made, strict=True)), period, made))
    short = [entry for entry in found if entry[1] <= LONGEST] or found
    _, period, made = next((entry for entry in short if entry[0] <= _NEAR), min(short))
    return Period(0.0, float(period), made)


def in_step(loop: Loop, one_round: float) -> Loop:
    """A loop whose round is of a length: its motion and its wait keep their shares of it."""
    whole = round_duration(loop)
    if whole <= 0.0 or whole == one_round:
        return loop
    ratio = one_round / whole
    wait = loop.wait * ratio if loop.wait_when == "before each round" else loop.wait
    return replace(loop, duration=loop.duration * ratio, wait=wait)


def jump_of(loop: Loop, project: Project | None = None) -> float:
    """How far a loop jumps where one round ends and the next begins: a share of the way to its second pose."""
    if loop.rounds == 1 or loop.muted:
        return 0.0
    end, start = LoopCurve(loop, lambda curve: plain(project, curve)).along(np.array([1.0, 0.0])).tolist()
    return float(end - start)


def seam(layer: Layer, loop: Loop, project: Project | None = None, others: Sequence[Loop] = ()) -> tuple[str, ...]:
    """What jumps where one round ends and the next begins, in words; nothing when the seam is closed.

    Whole turns are none, about any axis, and neither is a path that ends where it begins, what is not seen at one of
    the ends (``others``: loops that may fade the same layer in step), or a loop that jumps all the time: by steps.
    """
    far = jump_of(loop, project)
    if abs(far) <= _SEEN or _by_steps(loop, project) or _unseen(layer, (loop, *others), loop, project):
        return ()
    found: list[str] = []
    pose, changes = loop.offset, loop.changes
    if loop.path:
        x, y = loop.path[-1]
        if hypot(x, y) > _SEEN:
            found.append(tr("position by {x:.4g} px", x=hypot(x, y) * abs(far)))
    elif hypot(pose.shift_x, pose.shift_y) > _SEEN:
        found.append(tr("position by {shift_x:.4g} px", shift_x=hypot(pose.shift_x, pose.shift_y) * abs(far)))
    turn = (pose.rotation * far) % 360.0
    if min(turn, 360.0 - turn) > _SEEN:
        found.append(tr("rotation by {turn:.4g}°", turn=min(turn, 360.0 - turn)))
    if abs(pose.scale_x - 1.0) > _SEEN or abs(pose.scale_y - 1.0) > _SEEN:
        found.append(tr("scale by {max:.0%}", max=max(abs(pose.scale_x - 1.0), abs(pose.scale_y - 1.0)) * abs(far)))
    if abs(pose.opacity - 1.0) > _SEEN:
        found.append(tr("opacity by {abs:.0%}", abs=abs(pose.opacity - 1.0) * layer.opacity * abs(far)))
    words = {
        "w": "width",
        "h": "height",
        "body": "shape",
        "fills": "fill",
        "shadows": "shadow",
        "back_blur": tr("blur behind"),
    }
    for name in changes.__struct_fields__:
        if getattr(changes, name) is not None and not _turns_whole(layer, loop, name, far):
            found.append(words.get(name, name.replace("_", " ")))
    return tuple(found)


def seams_in_words(frame: Frame, project: Project) -> dict[str, str]:
    """What jumps at the seams of a frame's loops, in words by their ids; loops whose seams are closed are left out."""
    layers = layer_index(frame)
    found = {
        loop.id: ", ".join(seam(layers[loop.layer], loop, project, beside(frame, loop)))
        for loop in frame.loops
        if loop.layer in layers
    }
    return {ident: words for ident, words in found.items() if words}


def beside(frame: Frame, loop: Loop) -> tuple[Loop, ...]:
    """The other loops of the layer that a loop moves."""
    return tuple(one for one in frame.loops if one.layer == loop.layer and one.id != loop.id and not one.muted)


def _by_steps(loop: Loop, project: Project | None) -> bool:
    """Whether a loop moves by jumps alone: its curve, or every curve into its keyframes, is steps or a hold."""
    look = LoopCurve(loop, lambda curve: plain(project, curve))
    curves = [curve for _, curve in look.keys] if loop.keyframes else [look.curve]
    return all(isinstance(curve, Steps | Hold) for curve in curves)


def _unseen(layer: Layer, loops: Sequence[Loop], of: Loop, project: Project | None) -> bool:
    """Whether the layer is clear at the end of a round or at its start, by itself or by loops in step with ``of``."""
    for share in (1.0, 0.0):
        opacity = layer.opacity
        for loop in loops:
            if loop is of or (loop.duration, loop.wait, loop.start_offset) == (of.duration, of.wait, of.start_offset):
                far = float(LoopCurve(loop, lambda curve: plain(project, curve)).along(np.array([share]))[0])
                opacity *= 1.0 + (loop.offset.opacity - 1.0) * far
        if opacity <= _CLEAR:
            return True
    return False


def _turns_whole(layer: Layer, loop: Loop, name: str, far: float) -> bool:
    """Whether something goes round by whole turns, which nobody sees: a rotation out of the plane, or a trim by rounds
    of its outline."""
    if name in ("rotation_x", "rotation_y"):
        turn = (getattr(loop.changes, name) - getattr(layer, name)) * far % 360.0
        return bool(min(turn, 360.0 - turn) <= _SEEN)
    stroke = loop.changes.stroke
    if name != "stroke" or stroke is None:
        return False
    return stroke.trim_offset != 0.0 and (stroke.trim_offset * far) % 1.0 == 0.0
