"""Taking in what changed in the file that a frame came from.

Three states are compared: the layers as they were brought in (``Source.base``), the file as it is now, and the
frame with what was changed by hand. What differs between the first two is offered; what is taken in reaches only
values that nobody changed by hand. Ids stay, so cues, decisions and loops stay.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Any, Literal

import msgspec

from avelt.core.edits.frames import put_frame, without_layers
from avelt.core.edits.paints import paint_text
from avelt.core.edits.place import inside, space_of
from avelt.core.edits.structure import children_of, fresh_copy, parent_of, with_children
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.kinds import kind_of
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Asset, Decision, Frame, Group, Layer, Project, Text
from avelt.core.pairing.engine import pair_frames
from avelt.core.record import Record
from avelt.core.words import tr

replace = msgspec.structs.replace
Kind = Literal["new", "gone", "changed"]
FRAME = "frame"  # the key of what changed about the frame itself
_NEAR = 1e-6

#: What is compared: the field of a layer and the word for it.
_FIELDS = (
    ("name", "name"),
    ("x", "x"),
    ("y", "y"),
    ("w", "width"),
    ("h", "height"),
    ("rotation", "rotation"),
    ("scale_x", "scale"),
    ("scale_y", "scale"),
    ("skew", "skew"),
    ("opacity", "opacity"),
    ("hidden", "hidden"),
    ("fills", "fill"),
    ("stroke", "stroke"),
    ("blend", "blend"),
    ("blur", "blur"),
    ("shadows", "shadow"),
)
_GROUP_FIELDS = ("clips", "mask_by", "isolates")


class SourceChange(Record, frozen=True):
    """One difference between the file then and now.

    ``key`` names it for ticking; ``before`` is the layer as it was brought in, ``after`` as the file has it now;
    ``target`` the layer's id in the frame (of a new one: the group it goes into). ``fields`` are those that
    differ, ``says`` them in words, ``by_hand`` the words of those that were changed by hand and stay.
    """

    key: str
    kind: Kind
    name: str
    before: Layer | None
    after: Layer | None
    target: str
    fields: tuple[str, ...] = ()
    says: tuple[str, ...] = ()
    by_hand: tuple[str, ...] = ()


def differences(frame: Frame, new: Frame) -> tuple[SourceChange, ...]:
    """What the file says now that it did not when the frame was brought in; in paint order, the gone ones last."""
    source = frame.source
    if source is None:
        return ()
    base = Frame("", frame.name, *(source.size if source.size[0] else (new.w, new.h)), layers=source.base)
    partner = _matched(base, new)
    current = layer_index(frame)
    old = layer_index(base)
    found: list[SourceChange] = []
    sides = [
        f"{word} {_plain(a)} → {_plain(b)}"
        for word, a, b in (
            ("width", base.w, new.w),
            ("height", base.h, new.h),
            ("background", source.background, new.background),
        )
        if a != b
    ]
    if sides:
        found.append(SourceChange(FRAME, "changed", frame.name, None, None, "", (), tuple(sides)))
    flat = flatten(new)
    parents = {child.id: layer.id for layer in walk(base.layers) for child in layer.children}
    for i, after in enumerate(flat.layers):
        before = old.get(partner.get(after.id, ""))
        up = flat.layers[int(flat.parent[i])] if flat.parent[i] >= 0 else None
        if before is None:
            if up is None or up.id in partner:
                target = partner.get(up.id, "") if up is not None else ""
                found.append(SourceChange(f"new {after.id}", "new", after.name, None, after, target))
            continue
        fields = tuple(_fields_that_differ(before, after))
        home = parents.get(before.id, "")
        if (partner.get(up.id, "") if up is not None else "") != home and home in set(partner.values()):
            # It went into another group: its place there says nothing about its place here.
            fields = tuple(field for field in fields if field not in ("x", "y"))
        if fields:
            mine = current.get(before.id)
            by_hand = tuple(
                dict.fromkeys(_word(f) for f in fields if mine is not None and _get(mine, f) != _get(before, f))
            )
            says = tuple(dict.fromkeys(_says(f, before, after) for f in fields))
            found.append(
                SourceChange(
                    f"changed {before.id}", "changed", after.name, before, after, before.id, fields, says, by_hand
                )
            )
    kept = set(partner.values())
    there = flatten(base)
    for i, before in enumerate(there.layers):
        up = there.layers[int(there.parent[i])] if there.parent[i] >= 0 else None
        if before.id not in kept and (up is None or up.id in kept):
            found.append(SourceChange(f"gone {before.id}", "gone", before.name, before, None, before.id))
    return tuple(found)


def _matched(base: Frame, new: Frame) -> dict[str, str]:
    """New layer's id -> base layer's id. The same path of names says it for certain, pairing finds the rest."""
    left, right = _by_path(base), _by_path(new)
    certain = [Decision(left[path], right[path], True) for path in left if path in right]
    # A layer that is the same but for its name was renamed.
    known, taken = ({d.from_id for d in certain}, {d.to_id for d in certain})
    alone = {_but_name(x): x.id for x in walk(new.layers) if x.id not in taken and not kind_of(x).holds}
    for layer in walk(base.layers):
        if layer.id not in known and not kind_of(layer).holds and _but_name(layer) in alone:
            certain.append(Decision(layer.id, alone.pop(_but_name(layer)), True))
    pairing = pair_frames(replace(base, id="base"), replace(new, id="new"), tuple(certain))
    return _with_groups(base, new, {to: start for start, to in pairing.to_of.items()})


def _with_groups(base: Frame, new: Frame, partner: dict[str, str]) -> dict[str, str]:
    """Groups that found no partner by themselves are those that hold most of the same layers."""
    old_parent = {child.id: layer.id for layer in walk(base.layers) for child in layer.children}
    for group in reversed(list(walk(new.layers))):
        if group.id in partner or not group.children:
            continue
        taken = set(partner.values())
        homes = Counter(old_parent.get(partner[child.id], "") for child in group.children if child.id in partner)
        for home, count in homes.most_common(1):
            if home and home not in taken and 2 * count >= len(group.children):
                partner[group.id] = home
    return partner


def _but_name(layer: Layer) -> Layer:
    return replace(layer, id="", origin="", name="")


def _by_path(frame: Frame) -> dict[tuple[str, ...], str]:
    found: dict[tuple[str, ...], str] = {}

    def visit(layers: tuple[Layer, ...], path: tuple[str, ...]) -> None:
        seen: Counter[str] = Counter()
        for layer in layers:
            seen[layer.name] += 1
            group = "group" if kind_of(layer).holds else "leaf"
            own = (*path, f"{group} {layer.name} {seen[layer.name]}")
            found[own] = layer.id
            visit(layer.children, own)

    visit(frame.layers, ())
    return found


def _get(layer: Layer, field: str) -> Any:
    if field == "body":
        return layer.body
    if field.startswith("body."):
        return getattr(layer.body, field[5:], None)
    return getattr(layer, field)


def _fields_that_differ(before: Layer, after: Layer) -> Iterator[str]:
    text = isinstance(before.body, Text) and before.body == after.body
    for field, _ in _FIELDS:
        a, b = _get(before, field), _get(after, field)
        if text and field in ("x", "w"):
            # A text's box is as wide as the fonts of the machine make it: only its anchor can have moved.
            keep = {"left": 0.0, "center": 0.5, "right": 1.0}[before.body.align]  # type: ignore[union-attr]
            a, b = before.x + before.w * keep, after.x + after.w * keep
            if field == "w":
                continue
        if a != b and not (isinstance(a, float) and isinstance(b, float) and abs(a - b) <= _NEAR * max(1.0, abs(a))):
            yield field
    if isinstance(before.body, Group) and isinstance(after.body, Group):
        for name in _GROUP_FIELDS:
            if getattr(before.body, name) != getattr(after.body, name):
                yield f"body.{name}"
    elif before.body != after.body:
        yield "body"


def _word(field: str) -> str:
    return dict(_FIELDS).get(field, "shape" if field == "body" else field.removeprefix("body.").replace("_", " "))


def _plain(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def _says(field: str, before: Layer, after: Layer) -> str:
    a, b = _get(before, field), _get(after, field)
    if field == "fills":
        one, two = (paint_text(f[-1] if f else None, side.w, side.h) for f, side in ((a, before), (b, after)))
        return tr("fill {value} → {two}", value=one, two=two)
    if field == "body" and isinstance(a, Text) and isinstance(b, Text) and a.words != b.words:
        return tr("words “{a}” → “{b}”", a=a.words[:24], b=b.words[:24])
    if isinstance(a, float | str | bool) and isinstance(b, float | str | bool):
        return f"{_word(field)} {_plain(a)} → {_plain(b)}"
    return _word(field)


# Taking in


def update_from_file(
    project: Project, frame_id: str, new: Frame, assets: Sequence[Asset], keys: Sequence[str]
) -> Project:
    """The frame with the ticked differences; the rest is offered again the next time."""
    frame = frame_by_id(project, frame_id)
    source = frame.source
    if source is None or new.source is None:
        return project
    order: tuple[Kind, ...] = ("gone", "new", "changed")  # what comes out of a group has its new place then
    changes = sorted(
        (change for change in differences(frame, new) if change.key in keys),
        key=lambda change: order.index(change.kind),
    )
    base = Frame("", "", layers=source.base)
    partner = _matched(Frame("", "", *source.size, layers=source.base), new)
    next_id = project.next_id
    gone: set[str] = set()
    for change in changes:
        if change.key == FRAME:
            frame = replace(frame, w=new.w, h=new.h, background=new.background)
            source = replace(source, size=(new.w, new.h), background=new.background)
        elif change.kind == "changed":
            frame, base = _changed(frame, change, base), _changed(base, change, base)
        elif change.kind == "gone":
            kept = set(partner.values())
            gone |= {layer.id for layer in walk((change.before,))} - kept if change.before else set()
            frame, base = _without(frame, change.target, kept), _without(base, change.target, kept)
        elif change.after is not None:
            made, next_id, numbers = _fresh(change.after, next_id, partner)
            if made is not None:
                partner.update(numbers)
                before = _standing_before(new, change.after.id, partner)
                frame, base = (
                    _with_new(frame, change.target, made, before),
                    _with_new(base, change.target, made, before),
                )
    have = {asset.id for asset in project.assets}
    assets_now = (*project.assets, *(asset for asset in assets if asset.id not in have))
    source = replace(source, sha256=new.source.sha256, base=base.layers, notes=new.source.notes)
    project = replace(project, assets=assets_now, next_id=next_id)
    return without_layers(put_frame(project, replace(frame, source=source)), frame_id, gone)


def _changed(frame: Frame, change: SourceChange, base: Frame) -> Frame:
    before, after = change.before, change.after
    if before is None or after is None:
        return frame

    def taken(layer: Layer) -> Layer:
        for field in change.fields:
            if _get(layer, field) != _get(before, field):
                continue  # changed by hand: it stays
            if field.startswith("body."):
                layer = replace(layer, body=replace(layer.body, **{field[5:]: _get(after, field)}))
            else:
                layer = replace(layer, **{field: _get(after, field)})
        if isinstance(after.body, Text) and layer.body == after.body and "x" not in change.fields:
            layer = replace(layer, w=after.w) if layer.w == before.w else layer
        return layer

    return change_layers(frame, {change.target: taken})


def _without(frame: Frame, layer_id: str, kept: set[str]) -> Frame:
    """Without a layer; what lies in it and is in the file still comes out into its place."""
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        return frame
    flat = flatten(frame)
    parent = parent_of(flat, layer_id)
    space = space_of(flat, parent)
    saved = tuple(inside(flat, ident, space) for ident in _outermost(layer, kept))
    siblings = children_of(frame, parent)
    place = next(k for k, entry in enumerate(siblings) if entry.id == layer_id)
    return with_children(frame, parent, (*siblings[:place], *saved, *siblings[place + 1 :]))


def _outermost(layer: Layer, kept: set[str]) -> list[str]:
    """The ids in a layer that are among those kept, without what lies in another of them."""
    found: list[str] = []
    for child in layer.children:
        found += [child.id] if child.id in kept else _outermost(child, kept)
    return found


def _fresh(layer: Layer, next_id: int, partner: dict[str, str]) -> tuple[Layer | None, int, dict[str, str]]:
    """A new layer with ids of the project, without what the frame has already; and new id -> import id's partner."""
    stripped = _stripped(layer, partner)
    if stripped is None:
        return None, next_id, {}
    made, next_id = fresh_copy(stripped, next_id, keep_origins=False)
    numbers = {a.id: b.id for a, b in zip(walk((stripped,)), walk((made,)), strict=True)}
    return made, next_id, numbers


def _stripped(layer: Layer, partner: dict[str, str]) -> Layer | None:
    if layer.id in partner:
        return None
    if not isinstance(layer.body, Group):
        return layer
    children = tuple(made for child in layer.body.children if (made := _stripped(child, partner)) is not None)
    mask = layer.body.mask if any(child.id == layer.body.mask for child in children) else ""
    return replace(layer, body=replace(layer.body, children=children, mask=mask))


def _standing_before(new: Frame, layer_id: str, partner: dict[str, str]) -> list[str]:
    """The frame's ids of the siblings that the file has right beneath a layer, nearest first."""
    flat = flatten(new)
    siblings = children_of(new, parent_of(flat, layer_id))
    place = next(k for k, entry in enumerate(siblings) if entry.id == layer_id)
    return [partner[entry.id] for entry in reversed(siblings[:place]) if entry.id in partner]


def _with_new(frame: Frame, parent: str, layer: Layer, beneath: list[str]) -> Frame:
    if parent and parent not in layer_index(frame):
        parent = ""
    siblings = children_of(frame, parent)
    order = [entry.id for entry in siblings]
    place = next((order.index(ident) + 1 for ident in beneath if ident in order), 0)
    return with_children(frame, parent, (*siblings[:place], layer, *siblings[place:]))
