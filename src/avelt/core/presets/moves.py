"""What a preset moves, in words of the properties: for finding it, and for saying what is in it."""

from __future__ import annotations

from avelt.core.model.motion import Away, Pose
from avelt.core.model.properties import PROPERTIES
from avelt.core.model.values import Loop
from avelt.core.presets.values import Preset

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
        found |= _of_loop(preset.loop.loop)
    return frozenset(found)


def _of_pose(pose: Pose) -> set[str]:
    found = {"position"} if pose.shift_x or pose.shift_y else set()
    found |= {"rotation"} if pose.rotation else set()
    found |= {"scale"} if (pose.scale_x, pose.scale_y) != (1.0, 1.0) else set()
    return found | ({"opacity"} if pose.opacity != 1.0 else set())


def _of_away(away: Away) -> set[str]:
    found = _of_pose(away)
    found |= {"position"} if away.edge else set()
    found |= {"scale"} if away.side else set()
    found |= {"cut"} if any(away.cut) else set()
    return found | ({"blur"} if away.blur else set())


def _of_loop(loop: Loop) -> set[str]:
    found = _of_pose(loop.offset) | ({"position"} if loop.path else set())
    names = {"fills": "fill", "shadows": "shadow", "body": "shape", "w": "size", "h": "size", "blur": "blur"}
    for name in loop.changes.__struct_fields__:
        if getattr(loop.changes, name) is not None:
            found.add(names.get(name, name.split("_")[0]))
    return found
