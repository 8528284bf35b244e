"""What a preset moves, in words of the properties: for finding it, and for saying what is in it."""

from __future__ import annotations

from avelt.core.model.motion import Away, Pose
from avelt.core.model.properties import PROPERTIES
from avelt.core.model.values import Loop
from avelt.core.presets.values import Preset

#: What ``LayerChanges`` of a loop say, by the property that it is.
OF_CHANGES = {
    "w": "size",
    "h": "size",
    "pivot": "position",
    "rotation_x": "rotation_xy",
    "rotation_y": "rotation_xy",
    "skew": "skew",
    "blur": "blur",
    "back_blur": "blur",
    "fills": "fill",
    "stroke": "stroke",
    "shadows": "shadow",
    "body": "shape",
}
#: What a pose says, by the property that it is.
OF_POSE = {
    "shift_x": "position",
    "shift_y": "position",
    "rotation": "rotation",
    "scale_x": "scale",
    "scale_y": "scale",
    "opacity": "opacity",
}
_STILL = Pose()
#: The properties that presets are looked for by.
WORDS = tuple(prop.key for prop in PROPERTIES if prop.key != "rotation_xy")


def moves(preset: Preset) -> frozenset[str]:
    """The properties that it says something about; a motion of the whole layer moves what differs there."""
    found = {cue.prop for cue in preset.cues if cue.prop}
    for away in (preset.absent, preset.absent_px):
        if away is not None:
            found |= _of_away(away)
    if preset.motion_path is not None or any(cue.motion_path is not None for cue in preset.cues):
        found.add("position")
    if preset.recorded is not None:
        motion = preset.recorded.transition
        found |= {cue.prop for cue in motion.cues if cue.prop}
        found |= {"position"} if any(cue.motion_path is not None for cue in motion.cues) else set()
        for absent in motion.absents:
            found |= _of_away(absent.pose)
        found |= _of_away(motion.leave) | _of_away(motion.enter)
    if preset.loop is not None:
        found |= of_loop(preset.loop.loop)
    # Out of the plane it is a rotation, too, for who looks for one.
    return frozenset(found | {"rotation"} if "rotation_xy" in found else found)


def _of_pose(pose: Pose) -> set[str]:
    return {prop for name, prop in OF_POSE.items() if getattr(pose, name) != getattr(_STILL, name)}


def _of_away(away: Away) -> set[str]:
    found = _of_pose(away)
    found |= {"position"} if away.edge else set()
    found |= {"scale"} if away.side else set()
    found |= {"cut"} if any(away.cut) else set()
    return found | ({"blur"} if away.blur else set())


def of_loop(loop: Loop) -> set[str]:
    """The properties that a loop moves."""
    found = _of_pose(loop.offset) | ({"position"} if loop.path else set())
    return found | {prop for name, prop in OF_CHANGES.items() if getattr(loop.changes, name) is not None}
