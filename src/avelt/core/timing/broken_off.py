"""A motion that takes the place of another one on its way: it begins with what is on screen."""

from __future__ import annotations

from avelt.core.geometry.flatten import flatten
from avelt.core.model.kinds import kind_of
from avelt.core.model.values import Frame, Project, Transition
from avelt.core.pairing.joined import Joined
from avelt.core.timing.compile import compile_frames, paired
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.snapshot import snapshot

_MOST_DRAWN = 8  # frames that a chain of interrupted motions looks back to


def from_screen(project: Project, scene: Scene, home: Frame, right: Frame, transition: Transition) -> Program:
    """The motion from a scene, as a state of the frame ``home``, to a frame.

    What is on screen has the partners that it has in the frames as they were drawn, not those that its look and place
    on the way suggest: a motion that is turned round pairs as it did, decisions by hand hold, and hardly anything has
    to be found while somebody waits.
    """
    left = snapshot(scene, home)
    before = (frame for frame in scene.program.drawn if frame is not right)
    joined = joined_on_screen(scene.program, left, right, transition)
    return compile_frames(project, left, right, transition, joined, (right, *before)[:_MOST_DRAWN])


def joined_on_screen(program: Program, left: Frame, right: Frame, transition: Transition) -> Joined:
    """The pairs between what a program shows (``left``) and a frame. What a layer becomes has the first word, then
    what it comes from."""
    before, after = flatten(left), flatten(right)
    apart = {(entry.from_id, entry.to_id) for entry in transition.decisions if not entry.together}
    comes_from = {part.layer.id: part.left.id for part in program.contents if part.left is not None}
    to_of: dict[str, str] = {}
    taken: set[str] = set()
    for known_as in ({layer.id: layer.id for layer in before.layers}, comes_from):
        for layer in before.layers:
            if layer.id in to_of or layer.id not in known_as:
                continue
            partner = _partner(program.drawn, known_as[layer.id], right, transition)
            if partner in taken or partner not in after.index or (layer.id, partner) in apart:
                continue
            if kind_of(layer).holds == kind_of(after.layers[after.index[partner]]).holds:
                to_of[layer.id] = partner
                taken.add(partner)
    return Joined(before, after, to_of)


def _partner(drawn: tuple[Frame, ...], layer_id: str, right: Frame, transition: Transition) -> str:
    """The partner of a layer of the newest of some frames that has it; empty for none."""
    frame = next((frame for frame in drawn if layer_id in flatten(frame).index), None)
    if frame is None or frame is right:
        return layer_id if frame is right else ""
    return paired(frame, right, transition).to_of.get(layer_id, "")
