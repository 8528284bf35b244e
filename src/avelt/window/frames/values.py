"""The value table: what each relative has in each frame, and setting it from text. No widget here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from avelt.core.blending import colour
from avelt.core.edits.frames import put_frame
from avelt.core.edits.layers import SETTERS, edit_layer, move_in_frame, resized, set_value
from avelt.core.errors import FormatError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id
from avelt.core.model.values import Box, Frame, Layer, Project, Solid, Text
from avelt.core.timing.relatives import relatives
from avelt.window.controls.number_text import read_number

Set = Callable[[Project, str, str, str], Project]


@dataclass(frozen=True)
class Cell:
    """One value: its text, whether it differs from the frame to the left, the layer it belongs to."""

    text: str
    differs: bool
    frame_id: str
    layer_id: str
    swatch: str = ""


@dataclass(frozen=True)
class ValueRow:
    """A property with a cell a frame."""

    name: str
    label: str
    cells: tuple[Cell, ...]


def _n(value: float) -> str:
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _place(frame: Frame, layer: Layer) -> str:
    flat = flatten(frame)
    x, y = (float(v) for v in flat.bounds[flat.index[layer.id]][:2])
    return f"{_n(x)}, {_n(y)}"


def _fill(layer: Layer) -> str:
    if not layer.fills:
        return "none"
    last = layer.fills[-1]
    return colour.to_text(colour.parse(last.color)) if isinstance(last, Solid) else "gradient"


_READ: tuple[tuple[str, str, Callable[[Frame, Layer], str | None]], ...] = (
    ("name", "name", lambda f, layer: layer.name),
    ("place", "place", _place),
    ("size", "size", lambda f, layer: f"{_n(layer.w)} × {_n(layer.h)}"),
    ("turn", "turn", lambda f, layer: f"{_n(layer.turn)}°"),
    ("scale", "scale", lambda f, layer: f"{_n(layer.scale_x * 100)} %"),
    (
        "corner", "corner",
        lambda f, layer: _n(max(layer.body.radii)) if isinstance(layer.body, Box) else None,
    ),
    ("opacity", "opacity", lambda f, layer: f"{_n(layer.opacity * 100)} %"),
    ("fill", "fill", lambda f, layer: None if layer.kind in ("group", "picture") else _fill(layer)),
    ("stroke", "stroke", lambda f, layer: _n(layer.stroke.width) if layer.stroke else None),
    ("type", "type size", lambda f, layer: _n(layer.body.size) if isinstance(layer.body, Text) else None),
)  # fmt: skip


def value_rows(project: Project, frame: Frame, layer: Layer) -> tuple[ValueRow, ...]:
    """The table of a chosen layer; rows that no relative has are left out."""
    family = relatives(project, frame, layer)
    rows: list[ValueRow] = []
    for name, label, read in _READ:
        cells: list[Cell] = []
        last: str | None = None
        for other in project.frames:
            relative = family.get(other.id)
            text = read(other, relative) if relative is not None else None
            if text is None or relative is None:
                cells.append(Cell("—", False, other.id, ""))
                continue
            differs = last is not None and text != last
            swatch = text if name == "fill" and text.startswith(("#", "rgb")) else ""
            cells.append(Cell(text, differs, other.id, relative.id, swatch))
            last = text
        if any(cell.layer_id for cell in cells):
            rows.append(ValueRow(name, label, tuple(cells)))
    return tuple(rows)


def _two(text: str) -> tuple[float, float]:
    parts = [part for part in text.replace("×", ",").replace("x", ",").replace(";", ",").split(",") if part.strip()]
    if len(parts) != 2:
        raise FormatError(f"“{text}” is not two numbers.")
    return read_number(parts[0]), read_number(parts[1])


def set_from_text(project: Project, frame_id: str, layer_id: str, name: str, text: str) -> Project:
    """A value typed into the table; ``FormatError`` when it makes no sense there."""
    frame = frame_by_id(project, frame_id)
    if name == "place":
        x, y = _two(text)
        flat = flatten(frame)
        bx, by = (float(v) for v in flat.bounds[flat.index[layer_id]][:2])
        return put_frame(project, move_in_frame(frame, layer_id, x - bx, y - by))
    if name == "size":
        w, h = _two(text)
        return edit_layer(project, frame_id, layer_id, lambda layer: resized(layer, w, h))
    if name in ("name", "fill"):
        return set_value(project, frame_id, layer_id, name, text)
    if name in ("opacity", "scale"):
        value = read_number(text, "%")
        if "%" in text or value > 1:
            value /= 100.0
        if name == "scale":
            return edit_layer(
                project, frame_id, layer_id,
                lambda layer: SETTERS["scale_y"](SETTERS["scale_x"](layer, value), value),
            )  # fmt: skip
        return set_value(project, frame_id, layer_id, "opacity", value)
    number = read_number(text, "°")
    return set_value(project, frame_id, layer_id, name, number)
