"""The value table: what each relative has in each frame, and setting it from text. No widget here."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import get_args

from avelt.core.edits.follows import set_stays_put
from avelt.core.edits.frames import put_frame
from avelt.core.edits.layers import (
    ALWAYS_SEEN,
    SETTERS,
    edit_layer,
    fit_text,
    move_in_frame,
    resized,
    set_value,
    shadow_text,
)
from avelt.core.edits.paints import paint_text
from avelt.core.edits.structure import fit_groups
from avelt.core.edits.values import Spot
from avelt.core.errors import FormatError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.values import Blend, Box, Frame, Group, Layer, Picture, Project, Stroke, Text, Use
from avelt.core.record import Record
from avelt.core.timing.relatives import relatives
from avelt.core.words import tr
from avelt.paint.fonts import measure_text
from avelt.window.controls.number_text import is_relative, read_amount, read_number

SHOWN = ("used", "all", "differs")
Read = Callable[[Frame, Layer], str | None]


class Cell(Record, frozen=True):
    """One value: its text, whether it differs from the frame to the left, the layer it belongs to."""

    text: str
    differs: bool
    frame_id: str
    layer_id: str
    swatch: str = ""


class ValueRow(Record, frozen=True):
    """A property with a cell a frame. ``choices`` are the values that it can have, when they are few."""

    name: str
    label: str
    cells: tuple[Cell, ...]
    choices: tuple[str, ...] = ()


class _Kind(Record, frozen=True):
    """A row of the table: how it is read, and what it says when nothing was done (such a row is not "used")."""

    name: str
    label: str
    read: Read
    rest: str | None = None
    choices: tuple[str, ...] = ()


def _n(value: float) -> str:
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _place(frame: Frame, layer: Layer) -> str:
    flat = flatten(frame)
    x, y = (float(v) for v in flat.bounds[flat.index[layer.id]][:2])
    return f"{_n(x)}, {_n(y)}"


def _scale(frame: Frame, layer: Layer) -> str:
    if layer.scale_x == layer.scale_y:
        return f"{_n(layer.scale_x * 100)} %"
    return f"{_n(layer.scale_x * 100)}, {_n(layer.scale_y * 100)} %"


def _corner(frame: Frame, layer: Layer) -> str | None:
    if not isinstance(layer.body, Box):
        return None
    radii = layer.body.radii
    return _n(radii[0]) if len(set(radii)) == 1 else " ".join(_n(r) for r in radii)


def _painted(layer: Layer) -> bool:
    return not isinstance(layer.body, Group | Picture)


def _fill(frame: Frame, layer: Layer) -> str | None:
    return paint_text(layer.fills[-1] if layer.fills else None, layer.w, layer.h) if _painted(layer) else None


def _stroke(read: Callable[[Stroke], str]) -> Read:
    return lambda frame, layer: read(layer.stroke) if layer.stroke is not None else None


def _stroke_paint(frame: Frame, layer: Layer) -> str | None:
    if not _painted(layer):
        return None
    return paint_text(layer.stroke.paint, layer.w, layer.h) if layer.stroke is not None else "none"


def _line(stroke: Stroke) -> str:
    dashes = " ".join(_n(d) for d in stroke.dashes)
    return ", ".join(part for part in (stroke.cap, stroke.join if stroke.join != "round" else "", dashes) if part)


def _trim(stroke: Stroke) -> str:
    shift = f" {_n(stroke.trim_offset * 100)}" if stroke.trim_offset else ""
    return f"{_n(stroke.trim_start * 100)} to {_n(stroke.trim_end * 100)}{shift} %"


def _of(kind: type, read: Callable[[Layer], str]) -> Read:
    return lambda frame, layer: read(layer) if isinstance(layer.body, kind) else None


def _yes(value: bool) -> str:
    return "yes" if value else "no"


_YES_NO = ("no", "yes")
#: The nine points that a pivot is offered at; any other can be typed.
_NINE = tuple(f"{x}, {y} %" for y in (0, 50, 100) for x in (0, 50, 100))
#: Rows whose choices are offers: something else can be typed too.
OPEN_CHOICES = ("pivot",)
ROWS: tuple[_Kind, ...] = (
    _Kind("name", tr("name"), lambda f, layer: layer.name),
    _Kind("position", tr("position"), _place),
    _Kind("size", tr("size"), lambda f, layer: f"{_n(layer.w)} × {_n(layer.h)}"),
    _Kind("rotation", tr("rotation"), lambda f, layer: f"{_n(layer.rotation)}°"),
    _Kind("rotation_x", tr("rotation x"), lambda f, layer: f"{_n(layer.rotation_x)}°", "0°"),
    _Kind("rotation_y", tr("rotation y"), lambda f, layer: f"{_n(layer.rotation_y)}°", "0°"),
    _Kind("scale", tr("scale"), _scale),
    _Kind("skew", tr("skew"), lambda f, layer: f"{_n(layer.skew)}°", "0°"),
    _Kind("pivot", tr("pivot"), lambda f, x: f"{_n(x.pivot[0] * 100)}, {_n(x.pivot[1] * 100)} %", "50, 50 %", _NINE),
    _Kind("corner", tr("corner"), _corner),
    _Kind("opacity", tr("opacity"), lambda f, layer: f"{_n(layer.opacity * 100)} %"),
    _Kind("hidden", tr("hidden"), lambda f, layer: _yes(layer.hidden), "no", _YES_NO),
    _Kind("stays_put", tr("stays put"), lambda f, layer: _yes(layer.stays_put), "no", _YES_NO),
    _Kind("fill", tr("fill"), _fill),
    _Kind("stroke", tr("stroke"), _stroke_paint, "none"),
    _Kind("stroke_width", tr("stroke width"), _stroke(lambda s: _n(s.width))),
    _Kind("line", tr("stroke ends, dashes"), _stroke(_line), "butt, miter"),
    _Kind("trim", tr("stroke trim"), _stroke(_trim), "0 to 100 %"),
    _Kind("shadow", tr("shadow"), lambda f, layer: ", ".join(shadow_text(s) for s in layer.shadows) or "none", "none"),
    _Kind("blur", tr("blur"), lambda f, layer: _n(layer.blur), "0"),
    _Kind("back_blur", tr("blur beneath"), lambda f, layer: _n(layer.back_blur), "0"),
    _Kind("blend", tr("blend"), lambda f, layer: layer.blend, "normal", get_args(Blend)),
    _Kind("words", tr("words"), _of(Text, lambda x: x.body.words.replace("\n", "\\n"))),  # type: ignore[union-attr]
    _Kind("type", tr("type size"), _of(Text, lambda x: _n(x.body.size))),  # type: ignore[union-attr]
    _Kind("weight", tr("type weight"), _of(Text, lambda x: str(x.body.weight)), "400"),  # type: ignore[union-attr]
    _Kind("line_height", tr("line height"), _of(Text, lambda x: _n(x.body.line_height)), "1.2"),  # type: ignore[union-attr]
    _Kind("letter_spacing", tr("letter spacing"), _of(Text, lambda x: _n(x.body.letter_spacing)), "0"),  # type: ignore[union-attr]
    _Kind("align", tr("aligned"), _of(Text, lambda x: x.body.align), "left", ("left", "center", "right")),  # type: ignore[union-attr]
    _Kind("clip", tr("clips"), _of(Group, lambda x: _yes(x.body.clips)), "no", _YES_NO),  # type: ignore[union-attr]
    _Kind("fit", tr("picture fits by"), _of(Picture, lambda x: x.body.fit), "stretch", ("stretch", "inside", "cover")),  # type: ignore[union-attr]
    _Kind("part_fit", tr("part fits by"), _of(Use, lambda x: x.body.fit), "scale", ("scale", "stretch", "keep")),  # type: ignore[union-attr]
    _Kind("only_if", tr("seen only if"), lambda f, layer: layer.only_if or ALWAYS_SEEN, ALWAYS_SEEN),
)
#: Rows whose values are colours or gradients.
PAINTS = ("fill", "stroke")
_SHAPES = ("position", "size", "rotation", "scale", "skew", "words", "type", "weight", "letter_spacing", "line_height")
_DEGREES = ("rotation", "rotation_x", "rotation_y", "skew")
_NUMBER = re.compile(r"-?\d+\.?\d*")
_NUMBERS = ("blur", "back_blur", "type", "weight", "line_height", "letter_spacing", "stroke_width")


def value_rows(project: Project, frame: Frame, layer: Layer, show: str = "used") -> tuple[ValueRow, ...]:
    """The table of a chosen layer: rows that a relative has; by ``show`` those in use, all, or those that differ."""
    family = relatives(project, frame, layer)
    rows: list[ValueRow] = []
    for kind in ROWS:
        cells: list[Cell] = []
        last: str | None = None
        for other in project.frames:
            relative = family.get(other.id)
            text = kind.read(other, relative) if relative is not None else None
            if text is None or relative is None:
                cells.append(Cell("—", False, other.id, ""))
                continue
            differs = last is not None and text != last
            swatch = text if kind.name in PAINTS and text.startswith(("#", "rgb")) else ""
            cells.append(Cell(text, differs, other.id, relative.id, swatch))
            last = text
        there = [cell for cell in cells if cell.layer_id]
        used = kind.rest is None or any(cell.text != kind.rest for cell in there)
        wanted = show == "all" or (used if show == "used" else any(cell.differs for cell in cells))
        if there and wanted:
            rows.append(ValueRow(kind.name, kind.label, tuple(cells), kind.choices))
    return tuple(rows)


def _holds(frame: Frame) -> str:
    w, h = max(frame.w, frame.content[0]), max(frame.h, frame.content[1])
    return f"{_n(w)} × {_n(h)}, {tr(frame.scroll)}" if frame.scroll else tr("what is seen")


def frame_rows(project: Project) -> tuple[ValueRow, ...]:
    """What the frames themselves are, side by side."""
    reads: tuple[tuple[str, str, Callable[[Frame], str]], ...] = (
        ("size", tr("size"), lambda frame: f"{_n(frame.w)} × {_n(frame.h)}"),
        ("holds", tr("holds, scrolls"), _holds),
        ("background", tr("background"), lambda frame: frame.background),
        (
            "perspective",
            tr("perspective"),
            lambda frame: f"{_n(frame.perspective)} px" if frame.perspective else tr("flat"),
        ),
        ("layers", tr("layers"), lambda frame: str(len(layer_index(frame)))),
        ("loops", tr("loops"), lambda frame: ", ".join(loop.name for loop in frame.loops) or tr("none")),
        (
            "entrance",
            tr("entrance"),
            lambda frame: tr(frame.entrance.when) if frame.entrance is not None else tr("none"),
        ),
    )
    made = []
    for name, title, read in reads:
        texts = [read(frame) for frame in project.frames]
        cells = [
            Cell(text, k > 0 and text != texts[k - 1], frame.id, "", text if name == "background" else "")
            for k, (frame, text) in enumerate(zip(project.frames, texts, strict=True))
        ]
        made.append(ValueRow(name, title, tuple(cells)))
    return tuple(made)


def _two(text: str) -> tuple[float, float]:
    parts = [part for part in text.replace("×", ",").replace("x", ",").replace(";", ",").split(",") if part.strip()]
    if len(parts) != 2:
        raise FormatError(tr("“{words}” is not two numbers.", words=text))
    return read_number(parts[0]), read_number(parts[1])


def _share(text: str) -> float:
    """``40 %``, ``40`` or ``0.4`` as a share."""
    value = read_number(text, "%")
    return value / 100.0 if "%" in text or abs(value) > 1 else value


_PERCENTS = ("opacity", "scale")
_MEASURED = ("position", "size", *_PERCENTS, *_DEGREES, *_NUMBERS)


def _absolute(frame: Frame, layer: Layer, name: str, text: str) -> str:
    """What was typed as the values that it means for this layer: ``1.5x`` is another size for each."""
    parts = [part.strip() for part in text.split(",")]
    if not any(_acts(part, name in _PERCENTS) for part in parts):
        return text
    kind = next((row for row in ROWS if row.name == name), None)
    shown = kind.read(frame, layer) if kind is not None else None
    if shown is None:
        return text
    now = [float(found) for found in _NUMBER.findall(shown.replace("−", "-"))]
    if not now or name not in _MEASURED:
        return text
    unit = "%" if name in _PERCENTS else "°" if name in _DEGREES else ""
    if len(parts) == 1:
        parts = parts * len(now)
    made = [read_amount(part, unit).of(before) for part, before in zip(parts, now, strict=False)]
    return ", ".join(f"{value:.10g}" for value in made) + (" %" if unit == "%" else "")


def _acts(text: str, percents: bool) -> bool:
    """Whether a part does something to the value; an unsigned percent of a row of percents is the value."""
    return is_relative(text) and not (percents and text[-1:] == "%" and text[:1] not in "+-")


def set_from_text(project: Project, frame_id: str, layer_id: str, name: str, text: str) -> Project:
    """A value typed into the table; an ``AveltError`` when it makes no sense there."""
    frame = frame_by_id(project, frame_id)
    if name in _MEASURED:
        text = _absolute(frame, layer_index(frame)[layer_id], name, text)
    if name == "position":
        x, y = _two(text)
        flat = flatten(frame)
        bx, by = (float(v) for v in flat.bounds[flat.index[layer_id]][:2])
        return put_frame(project, move_in_frame(frame, layer_id, x - bx, y - by))
    if name == "size":
        w, h = _two(text)
        return edit_layer(project, frame_id, layer_id, lambda layer: resized(layer, w, h))
    if name == "stays_put":
        if text not in _YES_NO:
            raise FormatError(tr("“{words}” is neither yes nor no.", words=text))
        return set_stays_put(project, frame_id, layer_id, text == "yes")
    if name == "opacity":
        return set_value(project, frame_id, layer_id, "opacity", _share(text))
    if name == "scale":
        parts = [part for part in text.replace(";", ",").split(",") if part.strip()]
        shares = [_share(f"{part}%" if "%" in text and "%" not in part else part) for part in parts]
        if len(shares) not in (1, 2):
            raise FormatError(tr("“{words}” is not a scale.", words=text))
        return edit_layer(
            project,
            frame_id,
            layer_id,
            lambda layer: SETTERS["scale_y"](SETTERS["scale_x"](layer, shares[0]), shares[-1]),
        )
    if name in _DEGREES:
        return set_value(project, frame_id, layer_id, name, read_number(text, "°"))
    if name in _NUMBERS:
        project = set_value(project, frame_id, layer_id, name, read_number(text))
    else:
        project = set_value(project, frame_id, layer_id, name, text)
    if name in ("words", "type", "weight", "letter_spacing"):
        project = edit_layer(project, frame_id, layer_id, lambda layer: fit_text(layer, measure_text))
    return project


def set_many(project: Project, spots: Sequence[Spot], name: str, text: str) -> Project:
    """The same text typed for several layers."""
    for frame_id, layer_id in spots:
        project = set_from_text(project, frame_id, layer_id, name, text)
        if name in _SHAPES:
            project = fit_groups(project, frame_id, [layer_id])
    return project
