"""Edits of loops."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from avelt.core.edits.frames import free_name, put_frame
from avelt.core.errors import EditError, FormatError, NotFound
from avelt.core.model.expressions import parse
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.limits import MAX_MS
from avelt.core.model.values import Loop, Pose, Project, RoundKey
from avelt.core.timing.loops import round_duration

replace = msgspec.structs.replace


def add_loop(project: Project, frame_id: str, layer_id: str, pose: Pose | None = None) -> tuple[Project, str]:
    """A new loop on a layer and its id: there and back, endless, at rest until a second pose is given to it."""
    frame = frame_by_id(project, frame_id)
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        raise EditError("Choose a layer of the frame first.")
    ident = f"O{project.next_id}"
    name = free_name([loop.name for loop in frame.loops], f"{layer.name} loop")
    loop = Loop(ident, ident, layer_id, name, pose or Pose(), 1600.0)
    frame = replace(frame, loops=(*frame.loops, loop))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def edit_loop(project: Project, frame_id: str, loop_id: str, change: Callable[[Loop], Loop]) -> Project:
    """One loop changed, kept inside what can be played."""
    frame = frame_by_id(project, frame_id)
    if all(loop.id != loop_id for loop in frame.loops):
        raise NotFound(f"There is no loop {loop_id!r}.")

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
    """The same loop on other layers of its frame, each beginning ``step`` ms after the one before; their ids.

    What a second pose has that its layer cannot have (an outline of another kind) is left out.
    """
    frame = frame_by_id(project, frame_id)
    source = next((loop for loop in frame.loops if loop.id == loop_id), None)
    index = layer_index(frame)
    wanted = [ident for ident in layers if ident in index and source is not None and ident != source.layer]
    if source is None or not wanted:
        raise EditError("Choose the layers that shall have the same loop.")
    of, made, next_id = index[source.layer], [], project.next_id
    names = [loop.name for loop in frame.loops]
    for place, ident in enumerate(wanted, 1):
        layer, changes = index[ident], source.changes
        if changes.body is not None and type(layer.body) is not type(changes.body):
            changes = replace(changes, body=None)
        if changes.w is not None or changes.h is not None:  # a size is kept as a share of the layer's own
            wide = layer.w * (changes.w / of.w) if changes.w is not None and of.w else None
            high = layer.h * (changes.h / of.h) if changes.h is not None and of.h else None
            changes = replace(changes, w=wide, h=high)
        name = free_name(names, source.name.replace(of.name, layer.name))
        names.append(name)
        fresh = f"O{next_id}"
        next_id += 1
        made.append(
            replace(
                source,
                id=fresh,
                origin=fresh,
                layer=ident,
                name=name,
                changes=changes,
                start_offset=source.start_offset - step * place,
            )
        )
    frame = replace(frame, loops=(*frame.loops, *made))
    return replace(put_frame(project, frame), next_id=next_id), [loop.id for loop in made]


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
