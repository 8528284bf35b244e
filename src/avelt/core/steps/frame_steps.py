"""Steps that make and change frames, layers, loops and inputs.

Every ``do_...`` takes the project, the step as it was said and what it stands beside; it gives the new project.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from avelt.core.edits import follows, frames, inputs, loops, shapes, structure
from avelt.core.edits.layers import edit_layer, fit_text
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.screen_file import read_screen
from avelt.core.model.follows import ByPointer
from avelt.core.model.values import Follow, Layer, Project, RoundKey, Solid, Text
from avelt.core.model.values import Path as PathBody
from avelt.core.steps.drawing import drawn
from avelt.core.steps.names import curve_of, find_frame, layer_of, loop_of
from avelt.core.steps.properties import PROPERTIES, changed, in_second_pose, numbers, pose_of
from avelt.core.steps.said import Said, Site, ms_of
from avelt.core.steps.triggers import lag_of, source_of

replace = msgspec.structs.replace


# Frames and layers


def do_frame(project: Project, said: Said, site: Site) -> Project:
    """A new frame, empty or a copy whose layers keep their origins."""
    name = said["name"]
    if any(frame.name == name for frame in project.frames):
        raise EditError(f"There is a frame {name!r} already.")
    if "copy" in said:
        source = find_frame(project, said["copy"])
        project = frames.next_state(project, source.id, name)
    else:
        w, h = numbers(said["size"], 2, 2, "size") if "size" in said else (360.0, 640.0)
        project, _ = shapes.new_frame(project, name, w, h)
    made = find_frame(project, name)
    if "background" in said:
        project = shapes.set_background(project, made.id, said["background"])
    return project


def do_import(project: Project, said: Said, site: Site) -> Project:
    """A drawing or picture beside the steps becomes a frame."""
    imported = read_screen(_beside(site, said["asset"]), site.measure)
    project = frames.add_frames(project, [imported.frame], imported.assets)
    return frames.rename_frame(project, project.frames[-1].id, said["name"]) if "name" in said else project


def _beside(site: Site, name: str) -> Path:
    path = (site.folder / name).resolve()
    if not path.is_relative_to(site.folder.resolve()):
        raise FormatError(f"{name!r} does not lie beside the steps.")
    return path


def do_set(project: Project, said: Said, site: Site) -> Project:
    """Properties of a layer, or of a frame when no layer is said."""
    frame = find_frame(project, said["in"])
    own = {name: value for name, value in said.items() if name in PROPERTIES}
    if "layer" in said:
        layer = layer_of(frame, said["layer"])
        if "stays_put" in said:
            project = follows.set_stays_put(project, frame.id, layer.id, bool(said["stays_put"]))
        project = edit_layer(project, frame.id, layer.id, lambda old: _with(old, own, site))
        return structure.fit_groups(project, frame.id, [layer.id])
    for name, value in said.items():
        if name == "size":
            project = shapes.set_frame_size(project, frame.id, *numbers(value, 2, 2, "size"))
        elif name == "background":
            project = shapes.set_background(project, frame.id, value)
        elif name == "perspective":
            project = shapes.set_perspective(project, frame.id, numbers(value, 1, 1, name)[0])
        elif name == "clips":
            project = shapes.set_frame_clips(project, frame.id, bool(value))
        elif name == "content":
            axes = None if "scroll" not in said else axes_of(said["scroll"])
            w, h = numbers(value, 2, 2, "content")
            project = follows.set_content(project, frame.id, w, h, axes)
        elif name == "scroll" and "content" not in said:
            project = follows.set_scroll(project, frame.id, axes_of(value))
        elif name == "first" and value:
            project = frames.set_first(project, frame.id)
        elif name not in ("do", "in", "first", "scroll"):
            raise FormatError(f"A frame has no {name!r} that could be set.", hint="Say which layer is meant.")
    return project


def _with(layer: Layer, own: Said, site: Site) -> Layer:
    for name, value in own.items():
        layer = changed(layer, name, value)
    words = {"text", "font_size", "letter_spacing", "weight", "line_height"} & set(own)
    return fit_text(layer, site.measure) if words and "size" not in own and isinstance(layer.body, Text) else layer


def do_draw(project: Project, said: Said, site: Site) -> Project:
    """A new layer on top of a frame: a box, an oval, a line, words, or a path as SVG says it."""
    frame = find_frame(project, said["in"])
    kind = said["kind"]
    if kind == "path":
        layer = drawn(said.get("d", ""))
    elif kind == "text":
        layer = shapes.new_text(0.0, 0.0, said.get("text", ""), 0.0)
        layer = fit_text(replace(layer, fills=layer.fills or (Solid("#000000"),)), site.measure)
    elif kind in ("box", "oval"):
        layer = (shapes.new_box if kind == "box" else shapes.new_oval)(0.0, 0.0, 100.0, 100.0)
    else:
        raise FormatError(f"There is no kind {kind!r} of layer: box, oval, text or path.")
    own = {name: value for name, value in said.items() if name in PROPERTIES and name not in ("text", "d")}
    layer = _with(replace(layer, name=said.get("name", kind)), own, site)
    parent = layer_of(frame, said["inside"]).id if "inside" in said else ""
    project, ident = shapes.add_layer(project, frame.id, layer, parent)
    if "name" in said:  # two may have one name: then they are told apart by a number behind it
        project = edit_layer(project, frame.id, ident, lambda old: replace(old, name=said["name"]))
    return project


def do_group(project: Project, said: Said, site: Site) -> Project:
    """Layers become a group in their place."""
    frame = find_frame(project, said["in"])
    ids = [layer_of(frame, name).id for name in said["layers"]]
    return structure.group_layers(project, frame.id, ids, said.get("name", ""))[0]


def axes_of(value: object) -> follows.Axes:
    """Along which axes a frame is scrolled."""
    if value in ("down", "right", "both"):
        return value  # type: ignore[return-value]
    if value in ("", "none", None, False):
        return ""
    raise FormatError(f"“scroll” is down, right, both or none, not {value!r}.")


def do_follow(project: Project, said: Said, site: Site) -> Project:
    """A layer that follows a value, or changes of what follows with the same name."""
    frame = find_frame(project, said["in"])
    layer = layer_of(frame, said["layer"])
    name = said.get("name", "")
    known = next((entry for entry in frame.follows if name and entry.name == name), None)
    by = source_of(project, frame, said["value"]) if "value" in said else None
    if known is None:
        project, ident = follows.add_follow(project, frame.id, layer.id, by)
    else:
        ident = known.id

    def change(old: Follow) -> Follow:
        new = replace(old, name=name or old.name, layer=layer.id, by=by or old.by)
        if isinstance(new.by, ByPointer) and known is None:
            new = replace(new, start=0.0, end=1.0)
        if "pose" in said:
            offset, changes = pose_of(layer, said["pose"])
            new = replace(new, offset=offset, changes=changes)
        for field, key in (("start", "from"), ("end", "to")):
            if key in said:
                new = replace(new, **{field: numbers(said[key], 1, 1, key)[0]})
        if "lag" in said:
            new = replace(new, lag=lag_of(said))
        if "muted" in said:
            new = replace(new, muted=bool(said["muted"]))
        return replace(new, curve=curve_of(project, said["curve"])) if "curve" in said else new

    return follows.edit_follow(project, frame.id, ident, change)


# Loops and inputs


def do_loop(project: Project, said: Said, site: Site) -> Project:
    """A loop on a layer, or changes of the one with the same name."""
    frame = find_frame(project, said["in"])
    layer = layer_of(frame, said["layer"])
    name = said.get("name", "")
    known = next((loop for loop in frame.loops if name and loop.name == name), None)
    if known is None:
        project, ident = loops.add_loop(project, frame.id, layer.id)
    else:
        ident = known.id

    def change(old: Any) -> Any:
        new = replace(old, name=name or old.name, layer=layer.id)
        if "pose" in said:
            new = in_second_pose(new, layer, said["pose"])
        for field, keys in (("duration", ("duration", "length")), ("wait", ("wait",)), ("start_offset", ("phase",))):
            value = ms_of(said, *keys)
            new = new if value is None else replace(new, **{field: value})
        if "rounds" in said:
            new = replace(new, rounds=int(numbers(said["rounds"], 1, 1, "rounds")[0]))
        if "both_ways" in said:
            new = replace(new, direction="there and back" if said["both_ways"] else "one way")
        if "wait_when" in said:
            words = {"once": "once", "each": "before each round"}
            if said["wait_when"] not in words:
                raise FormatError("“wait_when” is once or each.")
            new = replace(new, wait_when=words[said["wait_when"]])
        if "at_rest" in said:
            if said["at_rest"] not in ("jump", "hold"):
                raise FormatError("“at_rest” is jump or hold.")
            new = replace(new, at_rest=said["at_rest"])
        if "muted" in said:
            new = replace(new, muted=bool(said["muted"]))
        if "until" in said:
            new = replace(new, until=said["until"])
        if "jitter" in said:
            new = replace(new, jitter=numbers(said["jitter"], 1, 1, "jitter")[0])
        if "seed" in said:
            new = replace(new, seed=int(numbers(said["seed"], 1, 1, "seed")[0]))
        if "d" in said:
            new = replace(new, path=_loop_path(said["d"]))
        if "rotate" in said:
            new = replace(new, rotates=bool(said["rotate"]))
        if "keyframes" in said:
            new = replace(new, keyframes=tuple(_round_key(project, key) for key in said["keyframes"]))
        return replace(new, curve=curve_of(project, said["curve"])) if "curve" in said else new

    return loops.edit_loop(project, frame.id, ident, change)


def _loop_path(d: str) -> tuple[tuple[float, float], ...]:
    """SVG path data as a loop's path: it begins where the layer stands."""
    if not d:
        return ()
    body = drawn(d).body
    if not isinstance(body, PathBody):
        raise FormatError("The path data draw nothing.")
    points = body.subpaths[0].points
    x, y = points[:2]
    pairs = zip(points[2::2], points[3::2], strict=True)
    return tuple((round(a - x, 6), round(b - y, 6)) for a, b in pairs)


def _round_key(project: Project, said: Any) -> RoundKey:
    """``{"at": 0.2, "far": 1, "curve": "linear"}``: a share of the round, how far towards the second pose."""
    if not isinstance(said, dict) or not {"at", "far"} <= set(said) <= {"at", "far", "curve"}:
        raise FormatError('A keyframe of a loop is an object such as {"at": 0.2, "far": 1}.')
    at, far = (numbers(said[key], 1, 1, key)[0] for key in ("at", "far"))
    if not 0.0 <= at <= 1.0:
        raise FormatError("“at” is a share of the round, 0 to 1.")
    return RoundKey(at, far, curve_of(project, said["curve"]) if "curve" in said else None)


def do_copy_loop(project: Project, said: Said, site: Site) -> Project:
    """The same loop on other layers, each some ms later."""
    frame = find_frame(project, said["in"])
    loop = loop_of(frame, said["loop"])
    layers = [layer_of(frame, name).id for name in said["layers"]]
    return loops.copy_loop(project, frame.id, loop.id, layers, ms_of(said, "step") or 0.0)[0]


def do_input(project: Project, said: Said, site: Site) -> Project:
    """An input: a number, yes or no, text, or a signal."""
    kind = said.get("kind", "yes/no")
    if kind not in inputs.FIRST:
        raise FormatError(f"There is no kind {kind!r} of input: {', '.join(inputs.FIRST)}.")
    start = said.get("start")
    if start is not None and not _fits(kind, start):
        raise FormatError(f"An input of the kind {kind} cannot start as {start!r}.")
    if isinstance(start, int) and not isinstance(start, bool):
        start = float(start)
    return inputs.add_input(project, said["name"], kind, start)[0]


def _fits(kind: str, value: object) -> bool:
    if kind == "number":
        return isinstance(value, int | float) and not isinstance(value, bool)
    return isinstance(value, bool) if kind == "yes/no" else isinstance(value, str)
