"""One drawing that holds several screens beside each other: finding them, and taking it apart into frames."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from avelt.core.formats.svg_in import Imported
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.geometry.place import with_matrix
from avelt.core.model.find import walk
from avelt.core.model.values import Box, Frame, Group, Layer, Picture, Text
from avelt.core.record import Record

replace = msgspec.structs.replace
_LEAST_SIDE = 120.0  # px: smaller things are cards, not screens
_SHAPES = (0.38, 2.6)  # width by height that screens have, from a tall phone to a wide display
_PHONE = (520.0, 0.38, 0.78)  # a drawing at most so wide, of these shapes, is one screen itself
_LEAST_SHARE = 0.04  # of the drawing that a screen covers
_ALIKE = 3.0  # how many times larger one screen may be than another, by area
_OVERLAP = 0.02  # of the smaller screen that two may share
_GROUND = 0.8  # of the drawing: what covers more is the table that the screens lie on
_LABEL = 60.0  # px above a screen in which its name may stand
Rect = tuple[float, float, float, float]


class Screen(Record, frozen=True):
    """One screen in a drawing: its name, its box (x, y, w, h) there, and the layers on it, lowest first."""

    name: str
    box: Rect
    ids: tuple[str, ...]


def screens_in(frame: Frame) -> tuple[Screen, ...]:
    """The screens that lie beside each other in a drawing; none when it is one screen itself.

    A screen is a group or a ground (a filled box or picture) of a screen's shape that lies in the drawing, overlaps no
    other, is about as large as the others, and holds all else: what lies in none of them may only be a name above it.
    """
    if frame.w <= _PHONE[0] and _PHONE[1] <= frame.w / frame.h <= _PHONE[2]:
        return ()
    flat = flatten(frame)
    level = _level(flat)
    whole = frame.w * frame.h
    rooms = []
    for i in level:
        x, y, w, h = _rect(flat, i)
        if w * h >= _LEAST_SHARE * whole and _is_ground(flat.layers[i]) and _like_a_screen(frame, (x, y, w, h)):
            rooms.append((i, (x, y, w, h)))
    rooms = _outermost(rooms)
    if len(rooms) < 2 or _sections([box for _, box in rooms]):
        return ()
    if any(_shared(a[1], b[1]) for k, a in enumerate(rooms) for b in rooms[k + 1 :]):
        return ()
    areas = [r[2] * r[3] for _, r in rooms]
    if max(areas) > _ALIKE * min(areas):
        return ()
    members: dict[int, list[int]] = {i: [] for i, _ in rooms}
    names: dict[int, str] = {}
    for i in level:
        x, y, w, h = _rect(flat, i)
        home = next((j for j, r in rooms if _holds(r, x + w / 2, y + h / 2)), None)
        if home is not None:
            members[home].append(i)
        elif isinstance(flat.layers[i].body, Text):
            below = [(r[1] - y, j) for j, r in rooms if 0 <= r[1] - (y + h) <= _LABEL and r[0] - 8 <= x <= r[0] + r[2]]
            if not below:
                return ()
            names.setdefault(min(below)[1], " ".join(flat.layers[i].body.words.split()))  # type: ignore[union-attr]
        elif w * h < _GROUND * whole:
            return ()
    rooms.sort(key=lambda room: (round(room[1][1] / 50), room[1][0]))
    return tuple(
        Screen(
            names.get(i) or _given_name(flat.layers[i]) or f"{frame.name} {k + 1}",
            box,
            tuple(flat.layers[j].id for j in members[i]),
        )
        for k, (i, box) in enumerate(rooms)
    )


def _level(flat: Flat) -> list[int]:
    """The rows among which screens are looked for: the top ones, or those in a group around everything."""
    top = [i for i in range(len(flat.layers)) if flat.parent[i] < 0 and flat.opacity[i] > 0]
    while len(top) == 1 and isinstance(flat.layers[top[0]].body, Group):
        group = flat.layers[top[0]]
        if group.opacity < 1 or group.body.mask or group.body.clips:  # type: ignore[union-attr]
            break
        top = [i for i in range(len(flat.layers)) if flat.parent[i] == top[0] and flat.opacity[i] > 0]
    return top


def _like_a_screen(frame: Frame, box: Rect) -> bool:
    """Whether a box is in the drawing's own window, and of a size and shape that screens have."""
    x, y, w, h = box
    inside = x >= -1 and y >= -1 and x + w <= frame.w + 1 and y + h <= frame.h + 1
    return inside and min(w, h) >= _LEAST_SIDE and _SHAPES[0] <= w / h <= _SHAPES[1]


def _sections(boxes: Sequence[Rect]) -> bool:
    """Whether boxes are what one screen is made of: one under the other, each wider than high."""
    left, right = max(x for x, _, _, _ in boxes), min(x + w for x, _, w, _ in boxes)
    return right > left and all(w > h for _, _, w, h in boxes)


def _is_ground(layer: Layer) -> bool:
    if isinstance(layer.body, Group):
        return len(layer.children) >= 2
    return isinstance(layer.body, Picture) or (isinstance(layer.body, Box) and bool(layer.fills))


def _rect(flat: Flat, i: int) -> Rect:
    x, y, w, h = (float(v) for v in flat.bounds[i])
    return x, y, w, h


def _holds(box: Rect, x: float, y: float) -> bool:
    return box[0] - 0.5 <= x <= box[0] + box[2] + 0.5 and box[1] - 0.5 <= y <= box[1] + box[3] + 0.5


def _shared(a: Rect, b: Rect) -> bool:
    w = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    h = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return w > 0 and h > 0 and w * h > _OVERLAP * min(a[2] * a[3], b[2] * b[3])


def _outermost(rooms: list[tuple[int, Rect]]) -> list[tuple[int, Rect]]:
    """Without those that lie in a larger one, and of equal ones the lowest."""
    kept: list[tuple[int, Rect]] = []
    for i, box in sorted(rooms, key=lambda room: (-room[1][2] * room[1][3], room[0])):
        inside = any(
            _holds(other, box[0], box[1]) and _holds(other, box[0] + box[2], box[1] + box[3]) for _, other in kept
        )
        if not inside:
            kept.append((i, box))
    return kept


def _given_name(layer: Layer) -> str:
    """The layer's name, unless it only says what it is."""
    plain = layer.name.rstrip(" 0123456789").casefold()
    return "" if plain == layer.kind or plain in ("g", "rect", "frame") else layer.name


def apart(imported: Imported, screens: Sequence[Screen]) -> list[Imported]:
    """A frame for each screen, named after it, with the pictures that it uses."""
    frame = imported.frame
    flat = flatten(frame)
    made = []
    for screen in screens:
        layers: list[Layer] = []
        for ident in screen.ids:
            i = flat.index[ident]
            layers += _opened(flat, i, screen.box)
        own = Frame("", screen.name, screen.box[2], screen.box[3], frame.background, True, tuple(layers))
        inside = {layer.name for layer in walk(own.layers)}
        source = frame.source
        if source is not None:
            notes = tuple(note for note in source.notes if note.element.partition("#")[2] in inside or not note.element)
            source = replace(
                source, screen=screen.name, base=own.layers, notes=notes, size=(own.w, own.h), background=own.background
            )
        made.append(Imported(replace(own, source=source, isolates=frame.isolates), imported.assets))
    return made


def _opened(flat: Flat, i: int, box: Rect) -> list[Layer]:
    """A layer of the drawing as layers of its screen; a plain group that is the screen itself gives what is in it."""
    layer, world = flat.layers[i], flat.world[i]
    body = layer.body
    shift = [1.0, 0.0, 0.0, 1.0, -box[0], -box[1]]
    plain = isinstance(body, Group) and not (
        body.mask
        or body.clips
        or body.isolates
        or layer.opacity < 1
        or layer.shadows
        or layer.blur
        or layer.blend != "normal"
    )
    if plain and abs(layer.w - box[2]) < 1 and abs(layer.h - box[3]) < 1:
        return [
            with_matrix(child, affine.multiply(shift, flat.world[flat.index[child.id]])) for child in layer.children
        ]
    return [with_matrix(layer, affine.multiply(shift, world))]
