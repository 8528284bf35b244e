"""Edits of loops."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from avelt.core.arrays import np
from avelt.core.edits.frames import free_name, put_frame
from avelt.core.errors import EditError, FormatError, NotFound
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.expressions import parse
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.limits import MAX_MS
from avelt.core.model.values import Layer, LayerChanges, Loop, Path, Pose, Project, RoundKey
from avelt.core.timing.loops import round_duration
from avelt.core.words import tr

replace = msgspec.structs.replace


def add_loop(project: Project, frame_id: str, layer_id: str, pose: Pose | None = None) -> tuple[Project, str]:
    """A new loop on a layer and its id: there and back, endless, at rest until a second pose is given to it."""
    frame = frame_by_id(project, frame_id)
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        raise EditError(tr("Choose a layer of the frame first."))
    ident = f"O{project.next_id}"
    name = free_name([loop.name for loop in frame.loops], f"{layer.name} loop")
    loop = Loop(ident, ident, layer_id, name, pose or Pose(), 1600.0)
    frame = replace(frame, loops=(*frame.loops, loop))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def edit_loop(project: Project, frame_id: str, loop_id: str, change: Callable[[Loop], Loop]) -> Project:
    """One loop changed, kept inside what can be played."""
    frame = frame_by_id(project, frame_id)
    if all(loop.id != loop_id for loop in frame.loops):
        raise NotFound(tr("There is no loop {loop_id!r}.", loop_id=loop_id))

    def done(old: Loop) -> Loop:
        new = change(old)
        try:
            parse(new.until)
        except FormatError as error:
            raise EditError(str(error)) from None
        return replace(
            new,
            duration=min(MAX_MS, max(1.0, new.duration)),
            wait=min(MAX_MS, max(0.0, new.wait)),
            rounds=max(0, int(new.rounds)),
            jitter=min(1.0, max(0.0, new.jitter)),
            seed=min(2**31, max(0, int(new.seed))),
            keyframes=tuple(sorted(new.keyframes, key=lambda key: key.at)),
        )

    loops = tuple(done(loop) if loop.id == loop_id else loop for loop in frame.loops)
    return project if loops == frame.loops else put_frame(project, replace(frame, loops=loops))


def copy_loop(
    project: Project, frame_id: str, loop_id: str, layers: Iterable[str], step: float = 0.0
) -> tuple[Project, list[str]]:
    """The same loop on other layers of its frame, each beginning ``step`` ms after the one before; their ids."""
    frame = frame_by_id(project, frame_id)
    source = next((loop for loop in frame.loops if loop.id == loop_id), None)
    if source is None:
        raise EditError(tr("The loop is not there any more."))
    others = [ident for ident in layers if ident != source.layer]
    return paste_loop(project, frame_id, source, layer_index(frame)[source.layer], others, step)


def paste_loop(
    project: Project, frame_id: str, source: Loop, of: Layer, layers: Iterable[str], step: float = 0.0
) -> tuple[Project, list[str]]:
    """A loop of some layer on others, in whatever frame they are; each begins ``step`` ms after the one before.

    What a second pose has that a layer cannot have (an outline of another kind) is left out.
    """
    frame = frame_by_id(project, frame_id)
    index = layer_index(frame)
    wanted = [index[ident] for ident in layers if ident in index]
    if not wanted:
        raise EditError(tr("Choose the layers that shall have the same loop."))
    made, next_id, names = [], project.next_id, [loop.name for loop in frame.loops]
    for place, layer in enumerate(wanted, 1):
        name = free_name(names, source.name.replace(of.name, layer.name))
        names.append(name)
        ident = f"O{next_id}"
        next_id += 1
        moved = replace(source, id=ident, origin=ident, layer=layer.id, name=name, changes=_fitting(source, of, layer))
        made.append(replace(moved, start_offset=source.start_offset - step * place))
    frame = replace(frame, loops=(*frame.loops, *made))
    return replace(put_frame(project, frame), next_id=next_id), [loop.id for loop in made]


def _fitting(loop: Loop, of: Layer, layer: Layer) -> LayerChanges:
    """What a loop changes of one layer, for another: a size is kept as a share of the layer's own."""
    changes = loop.changes
    if changes.body is not None and type(layer.body) is not type(changes.body):
        changes = replace(changes, body=None)
    wide = layer.w * (changes.w / of.w) if changes.w is not None and of.w else None
    high = layer.h * (changes.h / of.h) if changes.h is not None and of.h else None
    return replace(changes, w=wide, h=high)


def along_layer(project: Project, frame_id: str, loop_id: str, path_id: str) -> Project:
    """A loop goes along the outline of a path layer of its frame, from where its layer stands; ``""``: straight."""
    frame = frame_by_id(project, frame_id)
    points: tuple[tuple[float, float], ...] = ()
    if path_id:
        layer = layer_index(frame).get(path_id)
        if layer is None or not isinstance(layer.body, Path) or not layer.body.subpaths:
            raise EditError(tr("Choose a path layer of the frame."))
        flat = flatten(frame)
        loop = next(loop for loop in frame.loops if loop.id == loop_id)
        there = affine.apply(flat.world[flat.index[path_id]], np.array(layer.body.subpaths[0].points).reshape(-1, 2))
        up = int(flat.parent[flat.index[loop.layer]])
        back = affine.invert(flat.world[up]) if up >= 0 else None
        there = there if back is None else affine.apply(back, there)
        points = tuple((float(x), float(y)) for x, y in np.round(there[1:] - there[0], 6))
    return edit_loop(project, frame_id, loop_id, lambda old: replace(old, path=points))


def shift_phase(loop: Loop, by: float) -> Loop:
    """A loop that begins ``by`` ms later: as a phase inside its round, so that it runs from the first moment."""
    whole = round_duration(loop)
    phase = loop.start_offset - by
    return replace(loop, start_offset=phase % whole if loop.rounds == 0 and whole > 0 else phase)


def close_seam(loop: Loop) -> Loop:
    """The end of a round as its start: the last keyframe has the first one's value, a way there gets its way back."""
    if loop.keyframes:
        first = loop.keyframes[0].far if loop.keyframes[0].at <= 0.0 else 0.0
        last = loop.keyframes[-1]
        if last.at >= 1.0:
            return replace(loop, keyframes=(*loop.keyframes[:-1], replace(last, far=first)))
        return replace(loop, keyframes=(*loop.keyframes, RoundKey(1.0, first)))
    if loop.path:
        return replace(loop, path=(*loop.path[:-1], (0.0, 0.0)))
    return replace(loop, direction="there and back")


def remove_loop(project: Project, frame_id: str, loop_id: str) -> Project:
    """Without the loop."""
    frame = frame_by_id(project, frame_id)
    return put_frame(project, replace(frame, loops=tuple(loop for loop in frame.loops if loop.id != loop_id)))
