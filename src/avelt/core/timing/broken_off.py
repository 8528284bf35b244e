"""A motion that takes the place of another one on its way: it begins with what is on screen."""

from __future__ import annotations

from collections.abc import Callable, Iterator

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
    """The pairs between what a program shows (``left``) and a frame. The frame drawn last has the first word: what a
    layer is on its way to counts for more than what it comes from."""
    before, after = flatten(left), flatten(right)
    apart = {(entry.from_id, entry.to_id) for entry in transition.decisions if not entry.together}
    comes_from = {part.layer.id: part.left.id for part in program.contents if part.left is not None}
    names = [tuple(dict.fromkeys((layer.id, comes_from.get(layer.id, layer.id)))) for layer in before.layers]
    to_of: dict[str, str] = {}
    taken: set[str] = set()

    def join(partner_of: Callable[[str], str]) -> None:
        for layer, known_as in zip(before.layers, names, strict=True):
            for name in known_as:
                partner = partner_of(name) if layer.id not in to_of else ""
                if partner in taken or partner not in after.index or (layer.id, partner) in apart:
                    continue
                if kind_of(layer).holds == kind_of(after.layers[after.index[partner]]).holds:
                    to_of[layer.id] = partner
                    taken.add(partner)

    join(lambda name: name)  # the very layer that is arrived at needs no finding
    for known in pairs_as_drawn(program.drawn, right, transition):
        join(lambda name, known=known: known.get(name, ""))  # type: ignore[misc]
        if len(to_of) == len(before.layers):
            break
    return Joined(before, after, to_of)


def pairs_as_drawn(drawn: tuple[Frame, ...], right: Frame, transition: Transition) -> Iterator[dict[str, str]]:
    """The pairs between each of some frames, the newest first, and the frame arrived at: ids by ids."""
    for frame in drawn:
        if frame.id != right.id:
            yield paired(frame, right, transition).to_of
