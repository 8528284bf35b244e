"""A transition's values at moments, in the frame's space: what ``avelt sample`` prints."""

from __future__ import annotations

from typing import Any

from avelt.core.arrays import np
from avelt.core.blending import colour
from avelt.core.geometry import affine
from avelt.core.model.properties import COLUMN
from avelt.core.timing.items import scale_inside
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.slots import ShadowSlot


def sample(program: Program, ms: float) -> list[dict[str, Any]]:
    """The records of a moment, loops at work as ``Program.from_start`` says."""
    return records_of(program.from_start(ms))


def records_of(scene: Scene) -> list[dict[str, Any]]:
    """One record a layer, in paint order, of those that are there in a scene.

    ``x, y, w, h`` is the box in the frame before its turn; ``matrix`` takes the layer's own box
    (0, 0, own w, own h) to the frame; ``opacity`` has that of the groups in it.
    """
    return _records(scene, affine.identity(), 1.0)


def _records(scene: Scene, outer: np.ndarray, dim: float, path: tuple[str, ...] = ()) -> list[dict[str, Any]]:
    """The records of a scene that stands under a transform and an opacity; uses are opened.

    In a use a record has a ``path``: the names of the uses that it lies in, and its own.
    """
    world, opacity = affine.multiply(outer, scene.world()), scene.world_opacity() * dim
    records: list[dict[str, Any]] = []

    def visit(parent: int) -> None:
        for slot in scene.order.get(parent, ()):
            if scene.program.is_absent(slot, scene.at):
                continue
            record = _record(scene, slot, world[slot], float(opacity[slot]))
            if path:
                record["path"] = [*path, record["name"]]
            records.append(record)
            visit(slot)
            mix = float(scene.scalars[slot, COLUMN["mix"]]) if ~slot in scene.inside else 0.0
            for place, share in ((slot, 1.0 - mix), (~slot, mix)):
                inner = scene.inside.get(place)
                if inner is None or share <= 0.0:
                    continue
                row = scene.scalars[slot]
                layer = scene.program.contents[slot].layer
                x, y = scale_inside(inner, float(row[COLUMN["w"]]), float(row[COLUMN["h"]]), layer)
                there = affine.multiply(world[slot], np.array([x, 0.0, 0.0, y, 0.0, 0.0]))
                records.extend(_records(inner, there, float(opacity[slot]) * share, (*path, record["name"])))

    visit(-1)
    return records


def _record(scene: Scene, slot: int, world: np.ndarray, opacity: float) -> dict[str, Any]:
    part = scene.program.contents[slot]
    row = scene.scalars[slot]
    value = {name: float(row[column]) for name, column in COLUMN.items()}
    turn, scale_x, scale_y, skew = affine.decompose(world)
    typed = _typed_turn(scene, slot)
    turn += 360.0 * round((typed - turn) / 360.0)
    w, h = value["w"] * abs(scale_x), value["h"] * abs(scale_y)
    px, py = value["pivot_x"] * value["w"], value["pivot_y"] * value["h"]
    centre = affine.apply(world, (px, py))
    record: dict[str, Any] = {
        "name": part.layer.name,
        "kind": part.layer.kind,
        "pair": [part.left.id if part.left else None, part.right.id if part.right else None],
        "x": float(centre[0]) - value["pivot_x"] * w,
        "y": float(centre[1]) - value["pivot_y"] * h,
        "w": w,
        "h": h,
        "own": [value["w"], value["h"]],
        "matrix": [float(v) for v in world],
        "turn": turn,
        "scale": [scale_x, scale_y],
        "skew": skew,
        "opacity": opacity,
    }
    # The keys of this record are a contract with other programs; the older spellings stay.
    for name, key in (("rotation_x", "turn_x"), ("rotation_y", "turn_y"), ("blur", "blur"), ("back_blur", "back_blur")):
        if value[name]:
            record[key] = value[name]
    if part.shadows:
        record["shadows"] = [_shadow(scene, shadow) for shadow in part.shadows]
    if part.fills:
        paint = part.fills[-1]
        record["fill"] = colour.to_text(scene.colours[paint.colour])
        if paint.kind != "solid":
            record["fill"] = None
            record["gradient"] = [colour.to_text(c) for c in scene.colours[paint.colour : paint.colour + paint.count]]
    else:
        record["fill"] = None
    if part.stroke:
        record["stroke"] = colour.to_text(scene.colours[part.stroke[0].colour])
        record["stroke_width"] = value["stroke_width"]
        record["trim"] = [value["trim_start"], value["trim_end"], value["trim_offset"]]
    if part.layer.kind == "box":
        record["radii"] = [value[f"radius_{k}"] for k in (1, 2, 3, 4)]
    if part.layer.kind == "text":
        record["type_size"] = value["type_size"]
        record["text"] = part.layer.body.words  # type: ignore[union-attr]
    if part.change:
        record["mix"], record["content"] = value["mix"], part.change
    cut = [value[f"cut_{side}"] for side in ("top", "right", "bottom", "left")]
    if any(cut):
        record["cut"] = cut
    return record


def _shadow(scene: Scene, slot: ShadowSlot) -> dict[str, Any]:
    x, y, blur = scene.loose[slot.loose : slot.loose + 3].tolist()
    return {"color": colour.to_text(scene.colours[slot.colour]), "x": x, "y": y, "blur": blur, "inner": slot.inner}


def _typed_turn(scene: Scene, slot: int) -> float:
    total = 0.0
    while slot >= 0:
        total += float(scene.scalars[slot, COLUMN["rotation"]])
        slot = int(scene.program.parent[slot])
    return total
