"""Steps about parts: made of layers, given poses, used; and any other step done inside one.

A step is done inside a part when it says ``"part"``, or when its ``"in"`` names a part or one of its poses
(``"Part/Pose"``): poses are the frames there.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import msgspec

from avelt.core.edits import parts
from avelt.core.edits.layers import edit_layer
from avelt.core.errors import EditError, FormatError, NotFound
from avelt.core.model.find import find_frame, layer_index, walk
from avelt.core.model.parts import find_part, pose_of
from avelt.core.model.values import CLEAR, Frame, Layer, Part, PartChange, Project, Use
from avelt.core.steps.frame_steps import do_frame
from avelt.core.steps.names import layer_of, nearest
from avelt.core.steps.properties import PROPERTIES, changed, numbers
from avelt.core.steps.said import Said, Site, ms_of

replace = msgspec.structs.replace
FITS: dict[object, Literal["scale", "stretch", "keep"]] = {
    "scale": "scale",
    "scales": "scale",
    "stretch": "stretch",
    "stretches": "stretch",
    "keep": "keep",
    "keeps": "keep",
}
#: The verbs whose ``part`` is what they are about, not where they are done.
OF_PARTS = ("part", "pose", "use", "remove", "rename")
#: Of those, what is inside the part when a step says it beside the part.
INSIDE = dict.fromkeys(("remove", "rename"), ("route", "layer", "loop", "frame", "input", "phase", "track"))


def in_place(project: Project, said: Said, run: Callable[[Project, Said], Project], verb: str) -> Project:
    """A step done where it says: in the project, or in a part."""
    part, said = _where(project, said, verb)
    if part is None:
        return run(project, said)
    return parts.in_stage(project, part.id, lambda stage: run(stage, said))


def _where(project: Project, said: Said, verb: str) -> tuple[Part | None, Said]:
    inside = verb not in OF_PARTS or any(key in said for key in INSIDE.get(verb, ()))
    if "part" in said and inside:
        part = find_part(project, said["part"])
        return part, {key: value for key, value in said.items() if key != "part"}
    wanted = said.get("in")
    if not isinstance(wanted, str) or any(wanted in (frame.id, frame.name) for frame in project.frames):
        return None, said
    for part in project.parts:
        if wanted in (part.name, part.id):
            return part, {**said, "in": pose_of(part).id}
        if wanted.startswith(f"{part.name}/"):
            return part, {**said, "in": wanted[len(part.name) + 1 :]}
    return None, said


def do_part(project: Project, said: Said, site: Site) -> Project:
    """Layers become a part; without any an empty part of a size."""
    pose = said.get("pose", parts.FIRST_POSE)
    if "layers" in said:
        if "in" not in said:
            raise FormatError("“in” says where the layers are.")
        frame = find_frame(project, said["in"])
        ids = [layer_of(frame, name).id for name in said["layers"]]
        return parts.make_part(project, frame.id, ids, said.get("name", ""), pose)[0]
    if "name" not in said or "size" not in said:
        raise FormatError("A part is made of “layers”, or has a “name” and a “size”.")
    w, h = numbers(said["size"], 2, 2, "size")
    return parts.new_part(project, said["name"], w, h, pose)[0]


def do_pose(project: Project, said: Said, site: Site) -> Project:
    """A new pose of a part, a copy of another unless a size is said."""
    part = find_part(project, said["part"])
    own = {key: value for key, value in said.items() if key != "part"}
    if "copy" not in own and "size" not in own:
        own["copy"] = pose_of(part).id
    if "copy" not in own:
        own.setdefault("background", CLEAR)
    return parts.in_stage(project, part.id, lambda stage: do_frame(stage, own, site))


def do_use(project: Project, said: Said, site: Site) -> Project:
    """A use of a part on a frame, or changes of the one that ``layer`` names."""
    frame = find_frame(project, said["in"])
    if "layer" in said:
        ident = layer_of(frame, said["layer"]).id
        part = None
    else:
        if "part" not in said:
            raise FormatError("“part” says what is used.")
        part = find_part(project, said["part"])
        project, ident = parts.add_use(project, frame.id, part.id)
    own = {name: value for name, value in said.items() if name in PROPERTIES}
    if "if" in said:
        own["only_if"] = said["if"]
    for name, value in own.items():
        project = edit_layer(project, frame.id, ident, lambda old, n=name, v=value: changed(old, n, v))  # type: ignore[misc]
    use = layer_index(find_frame(project, frame.id))[ident]
    if not isinstance(use.body, Use):
        raise EditError(f"{use.name} is no use of a part.")
    part = part or find_part(project, use.body.part)
    body = replace(use.body, part=part.id)
    if "pose" in said:
        poses = {pose.name: pose.id for pose in part.poses} | {pose.id: pose.id for pose in part.poses}
        if said["pose"] not in poses:
            raise FormatError(f"{part.name} has no pose {said['pose']!r}.")
        body = replace(body, pose=poses[said["pose"]])
    if "fit" in said:
        if said["fit"] not in FITS:
            raise FormatError(f"A part fits by {', '.join(map(str, FITS))}, not {said['fit']!r}.")
        body = replace(body, fit=FITS[said["fit"]])
    if "changes" in said:
        body = replace(body, changes=_changes(part, said["changes"]))
    clock = said.get("clock", {})
    for key in clock:
        if key not in ("speed", "offset"):
            raise FormatError(f"A clock has no {key!r}: speed and offset.")
    speed, offset = ms_of(clock, "speed"), ms_of(clock, "offset")
    body = body if speed is None else replace(body, speed=max(0.0, speed))
    body = body if offset is None else replace(body, offset=offset)
    project = parts.edit_use(project, frame.id, ident, lambda _: body)
    for name, by in said.get("inputs", {}).items():
        project = parts.feed(project, frame.id, ident, name, float(by) if type(by) is int else by)
    return project


def _changes(part: Part, said: object) -> tuple[PartChange, ...]:
    """What a use shows otherwise: by the names of the part's layers their words, pictures or fills."""
    if not isinstance(said, dict):
        raise FormatError('Changes are an object such as {"Words": {"text": "Later"}}.')
    found: list[PartChange] = []
    for name, own in said.items():
        layer = next((made for pose in part.poses if (made := _layer_named(pose, name)) is not None), None)
        if layer is None:
            known = [entry.name for pose in part.poses for entry in walk(pose.layers)]
            raise FormatError(f"{part.name} has no layer {name!r}.", hint=nearest(name, known))
        if not isinstance(own, dict) or not own or not set(own) <= {"text", "asset", "fill"}:
            raise FormatError("A use changes text, asset or fill of a layer.")
        fills = changed(layer, "fill", own["fill"]).fills if "fill" in own else None
        found.append(PartChange(layer.origin, own.get("text"), own.get("asset"), fills))
    return tuple(found)


def _layer_named(pose: Frame, name: str) -> Layer | None:
    try:
        return layer_of(pose, name)
    except NotFound:
        return None


def do_dissolve(project: Project, said: Said, site: Site) -> Project:
    """The layers of a part stand in the place of its use again."""
    frame = find_frame(project, said["in"])
    return parts.dissolve(project, frame.id, layer_of(frame, said["layer"]).id)
