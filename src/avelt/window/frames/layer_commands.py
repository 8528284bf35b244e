"""What can be done to chosen layers and frames, each as one entry of undo. Handed the workspace, nothing else."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.edits import nodes
from avelt.core.edits.arrange import ALIGNMENTS, align, distribute, repeat
from avelt.core.edits.clip import Clip, copied, pasted
from avelt.core.edits.follows import set_stays_put
from avelt.core.edits.layers import edit_layer
from avelt.core.edits.outlines import COMBINATIONS, How, combine, flattened, to_path
from avelt.core.edits.paints import add_stop, ends
from avelt.core.edits.structure import (
    carry,
    duplicate,
    edit_layers,
    fit_groups,
    group_layers,
    remove_layers,
    reorder,
    ungroup,
    unmask,
    use_as_mask,
)
from avelt.core.edits.values import Spot
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import layer_index
from avelt.core.model.values import Group, Layer, Project, Text
from avelt.core.timing.relatives import relatives
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.frames.gestures import put_paint
from avelt.window.frames.handles import paint_shown

replace = msgspec.structs.replace
_SHIFT = 12.0  # px that a duplicate is beside its original


def text_outline(layer: Layer) -> list[tuple[Floats, bool]]:
    """A text's words as outlines, by the fonts that are there (``outlines.TextOutline``)."""
    from avelt.paint.fonts import set_text
    from avelt.paint.outlines import from_path

    body = layer.body
    if not isinstance(body, Text):
        return []
    found: list[tuple[Floats, bool]] = []
    for run in set_text(body, body.size, body.letter_spacing, body.line_height, layer.w):
        found += from_path(run.path)
    return found


def words_for(workspace: Workspace, verb: str) -> str:
    """The words of an undo entry: the layer's name, or how many there are."""
    layer, spots = workspace.layer, workspace.chosen
    return (
        f"{verb} {layer.name}"
        if layer is not None and len(spots) == 1
        else tr("{verb} {count} layers", verb=verb, count=len(spots))
    )


def by_frame(spots: Sequence[Spot]) -> dict[str, list[str]]:
    """Frame id -> the chosen ids in it."""
    found: dict[str, list[str]] = {}
    for frame_id, layer_id in spots:
        found.setdefault(frame_id, []).append(layer_id)
    return found


def on_each_frame(workspace: Workspace, words: str, edit: Callable[[Project, str, list[str]], Project]) -> bool:
    """An edit of the chosen layers, frame by frame, as one entry."""
    spots = workspace.chosen
    if not spots:
        workspace.said.emit(tr("Choose a layer first."))
        return False

    def change(project: Project) -> Project:
        for frame_id, ids in by_frame(spots).items():
            project = edit(project, frame_id, ids)
        return project

    return workspace.do(words_for(workspace, words), change)


# Structure


def put_together(
    workspace: Workspace, without: str, words: str, edit: Callable[[Project, str, list[str]], tuple[Project, str]]
) -> None:
    """The chosen layers of the chosen frame become one, which is chosen; ``without`` is said when there are none."""
    frame, ids = workspace.frame, workspace.chosen_here
    if frame is None or not ids:
        workspace.said.emit(without)
        return
    made = workspace.make(words, lambda p: edit(p, frame.id, ids))
    if made is not None:
        workspace.choose(frame.id, made)


def group(workspace: Workspace) -> None:
    """The chosen layers in a group."""
    words = tr("group {count} layers", count=len(workspace.chosen_here))
    put_together(workspace, tr("Choose the layers to group."), words, group_layers)


def ungroup_chosen(workspace: Workspace) -> None:
    """The chosen group's layers in its place."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        workspace.said.emit(tr("Choose a group first."))
        return
    inner = [(frame.id, child.id) for child in layer.children]
    if workspace.do(tr("ungroup {layer}", layer=layer.name), lambda p: ungroup(p, frame.id, layer.id)):
        workspace.choose_several(inner)


def mask(workspace: Workspace) -> None:
    """The topmost chosen layer masks the others."""
    without = tr("Choose the layers and, above them, the one that masks them.")
    put_together(workspace, without, "mask", use_as_mask)


def release_mask(workspace: Workspace) -> None:
    """The chosen group (or the one that the chosen mask lies in) without its mask."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        return
    flat = flatten(frame)
    up = int(flat.parent[flat.index[layer.id]])
    holder = layer if isinstance(layer.body, Group) and layer.body.mask else flat.layers[up] if up >= 0 else layer
    if not (isinstance(holder.body, Group) and holder.body.mask):
        workspace.said.emit(tr("Nothing here is masked."))
        return
    workspace.do(tr("let the mask of {holder} go", holder=holder.name), lambda p: unmask(p, frame.id, holder.id))


def shift_order(workspace: Workspace, how: str) -> None:
    """Up, down, to the top or the bottom among the siblings."""
    words = {"up": tr("raise"), "down": tr("lower"), "top": tr("bring to front"), "bottom": tr("send to back")}[how]
    on_each_frame(workspace, words, lambda p, frame_id, ids: reorder(p, frame_id, ids, how))


def flip_flag(workspace: Workspace, name: str, layer_id: str = "") -> None:
    """Hidden or locked, turned round after one layer (the one shown in full unless it is named) for all chosen.

    A named layer that is not among the chosen is changed alone.
    """
    frame = workspace.frame
    layer = layer_index(frame).get(layer_id) if layer_id and frame is not None else workspace.layer
    if layer is None or frame is None:
        workspace.said.emit(tr("Choose a layer first."))
        return
    value = not getattr(layer, name)
    verb = {
        ("hidden", True): tr("hide"),
        ("hidden", False): tr("show"),
        ("locked", True): tr("lock"),
        ("locked", False): tr("unlock"),
    }
    if layer.id not in workspace.chosen_here:
        words = f"{verb[name, value]} {layer.name}"
        workspace.do(words, lambda p: edit_layer(p, frame.id, layer.id, lambda x: replace(x, **{name: value})))
        return
    on_each_frame(
        workspace,
        verb[name, value],
        lambda p, frame_id, ids: edit_layers(p, frame_id, ids, lambda x: replace(x, **{name: value})),
    )


def flip_put(workspace: Workspace) -> None:
    """Whether the chosen layers stay where they are when their frame is scrolled, turned round after one of them."""
    layer = workspace.layer
    if layer is None:
        workspace.said.emit(tr("Choose a layer first."))
        return
    stays = not layer.stays_put

    def change(project: Project, frame_id: str, ids: list[str]) -> Project:
        for ident in ids:
            project = set_stays_put(project, frame_id, ident, stays)
        return project

    on_each_frame(workspace, tr("keep in place") if stays else tr("let scroll"), change)


def flip_clip(workspace: Workspace) -> None:
    """Whether the chosen group cuts off what stands out of it."""
    layer, frame = workspace.layer, workspace.frame
    if frame is None or layer is None or not isinstance(layer.body, Group):
        workspace.said.emit(tr("Choose a group first."))
        return
    clips = not layer.body.clips
    words = tr("clip {name}", name=layer.name) if clips else tr("do not clip {name}", name=layer.name)
    workspace.do(
        words, lambda p: edit_layer(p, frame.id, layer.id, lambda g: replace(g, body=replace(g.body, clips=clips)))
    )


def remove(workspace: Workspace) -> None:
    """Without the chosen layers."""
    on_each_frame(workspace, "remove", remove_layers)


# Copies


def duplicate_chosen(workspace: Workspace) -> None:
    """Copies beside the chosen layers, chosen instead of them."""
    frame = workspace.frame
    if frame is None or not workspace.chosen_here:
        workspace.said.emit(tr("Choose a layer first."))
        return
    ids = workspace.chosen_here
    words = words_for(workspace, "duplicate")
    made = workspace.make(words, lambda p: duplicate(p, frame.id, ids, _SHIFT, _SHIFT))
    if made is not None:
        workspace.choose_several([(frame.id, ident) for ident in made])


def clip_of(workspace: Workspace) -> Clip | None:
    """The chosen layers, to be copied."""
    frame = workspace.frame
    return (
        copied(workspace.project, frame.id, workspace.chosen_here)
        if frame is not None and workspace.chosen_here
        else None
    )


def paste(workspace: Workspace, clip: Clip) -> None:
    """Copied layers onto the chosen frame, chosen; beside their originals where they were copied from there."""
    frame = workspace.frame
    if frame is None:
        workspace.said.emit(tr("Choose the frame to paste into."))
        return
    flat = flatten(frame)
    over = any(
        other.x == layer.x and other.y == layer.y and other.origin == layer.origin
        for layer in clip.layers
        for other in flat.layers
    )
    shift = (_SHIFT, _SHIFT) if over else (0.0, 0.0)
    count = len(clip.layers)
    words = tr("paste {also}", also=clip.layers[0].name if count == 1 else tr("{count} layers", count=count))
    made = workspace.make(words, lambda p: pasted(p, frame.id, clip, *shift))
    if made is not None:
        workspace.choose_several([(frame.id, ident) for ident in made])


def carry_to(workspace: Workspace, frame_ids: Sequence[str]) -> None:
    """The chosen layers into other frames, where they are and as what they are."""
    frame = workspace.frame
    if frame is None or not workspace.chosen_here:
        workspace.said.emit(tr("Choose a layer first."))
        return
    ids = workspace.chosen_here
    workspace.do(words_for(workspace, "carry"), lambda p: carry(p, frame.id, ids, frame_ids))


def copies_of_chosen(workspace: Workspace, across: int, down: int, gap_x: float, gap_y: float) -> None:
    """The chosen layer in rows and columns."""
    frame, layer = workspace.frame, workspace.layer
    if frame is not None and layer is not None:
        workspace.do(
            tr("repeat {layer}", layer=layer.name),
            lambda p: repeat(p, frame.id, layer.id, across, down, gap_x, gap_y)[0],
        )


def choose_relatives(workspace: Workspace) -> None:
    """The same layer in all frames."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        workspace.said.emit(tr("Choose a layer first."))
        return
    found = relatives(workspace.project, frame, layer)
    spots = [(frame_id, other.id) for frame_id, other in found.items() if frame_id != frame.id]
    workspace.choose_several([*spots, (frame.id, layer.id)])
    workspace.said.emit(
        tr(
            "{count} of {count2} frames have {layer}.",
            count=len(spots) + 1,
            count2=len(workspace.project.frames),
            layer=layer.name,
        )
    )


# Places


def align_chosen(workspace: Workspace, how: str) -> None:
    """Edges or middles in one line."""
    on_each_frame(
        workspace,
        tr("align {alignments} of", alignments=ALIGNMENTS[how][0]),
        lambda p, frame_id, ids: align(p, frame_id, ids, how),
    )


def spread(workspace: Workspace, axis: int) -> None:
    """Equal gaps."""
    on_each_frame(workspace, "spread", lambda p, frame_id, ids: distribute(p, frame_id, ids, axis))


# Shapes


def combine_chosen(workspace: Workspace, how: How) -> None:
    """Several outlines as one."""
    frame = workspace.frame
    if frame is None or not workspace.chosen_here:
        workspace.said.emit(tr("Choose two layers or more to combine their outlines."))
        return
    ids = workspace.chosen_here
    if workspace.do(COMBINATIONS[how].lower(), lambda p: combine(p, frame.id, ids, how, text_outline)):
        left = [i for i in ids if i in flatten(workspace.frame or frame).index]
        workspace.choose_several([(frame.id, ident) for ident in left])


def make_paths(workspace: Workspace) -> None:
    """Boxes, ovals and texts as paths."""
    on_each_frame(workspace, tr("make a path of"), lambda p, frame_id, ids: to_path(p, frame_id, ids, text_outline))


def flatten_chosen(workspace: Workspace) -> None:
    """A group as one path."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        workspace.said.emit(tr("Choose a group first."))
        return
    workspace.do(tr("flatten {layer}", layer=layer.name), lambda p: flattened(p, frame.id, layer.id, text_outline))


# Nodes and gradients


def _on_path(workspace: Workspace, words: str, change: Callable[[Layer], Layer]) -> bool:
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        return False
    return workspace.do(
        tr("{words} of {layer}", words=words, layer=layer.name),
        lambda p: fit_groups(edit_layer(p, frame.id, layer.id, change), frame.id, [layer.id]),
    )


def add_node_at(workspace: Workspace, own: tuple[float, float], reach: float) -> None:
    """A node more where the outline is near a point of the layer."""
    layer = workspace.layer
    if layer is None:
        return
    sub, segment, t, away = nodes.nearest(nodes.outline_of(layer), *own)
    if away <= reach:
        _on_path(workspace, tr("add a node"), lambda x: nodes.add_node(x, sub, segment, t))


def remove_node_at(workspace: Workspace, node: tuple[int, int]) -> None:
    """Without a node."""
    _on_path(workspace, tr("remove a node"), lambda layer: nodes.remove_node(layer, *node))


NODE_COMMANDS: dict[str, tuple[str, Callable[[Layer, int, int], Layer]]] = {
    "smooth": (tr("smooth a node"), nodes.smooth_node),
    "corner": (tr("make a corner"), nodes.corner_node),
    "break": (tr("break a node"), nodes.break_node),
    "start": (tr("start at a node"), nodes.set_start),
    "close": (tr("close a part"), lambda layer, sub, _: nodes.close_part(layer, sub)),
    "remove": (tr("remove a node"), nodes.remove_node),
}


def on_node(workspace: Workspace, command: str, node: tuple[int, int] | None) -> bool:
    """One of the table's commands on the chosen node."""
    if node is None:
        workspace.said.emit(tr("Choose a node first."))
        return False
    words, change = NODE_COMMANDS[command]
    return _on_path(workspace, words, lambda layer: change(layer, *node))


def nudge_node(workspace: Workspace, node: tuple[int, int], dx: float, dy: float) -> None:
    """A node moved by px of the frame."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None:
        return
    world = flatten(frame).world[flatten(frame).index[layer.id]]
    back = affine.invert(np.array([*world[:4], 0.0, 0.0]))
    if back is not None:
        mx, my = (float(v) for v in affine.apply(back, (dx, dy)))
        _on_path(workspace, tr("move a node"), lambda x: nodes.move_node(x, *node, mx, my))


def add_stop_at(workspace: Workspace, which: str, own: tuple[float, float]) -> None:
    """A colour more on the gradient's line, nearest to a point of the layer."""
    layer = workspace.layer
    paint = paint_shown(layer, which) if layer is not None else None
    if layer is None or paint is None:
        return
    (x0, y0), (x1, y1) = ends(paint)
    along = np.array([(x1 - x0) * layer.w, (y1 - y0) * layer.h])
    here = np.array([own[0] - x0 * layer.w, own[1] - y0 * layer.h])
    at = float(np.clip(here @ along / max(float(along @ along), 1e-9), 0.0, 1.0))
    _on_path(workspace, tr("add a colour"), lambda x: put_paint(x, which, add_stop(paint, at)))
