"""SVG text as text layers: runs of one style, broken into pieces where the file places them anew."""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable
from dataclasses import dataclass, field

from avelt.core.errors import FormatError
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_style import Style
from avelt.core.formats.svg_values import length
from avelt.core.formats.xml_tree import Node
from avelt.core.model.values import BASELINE, Paint, Run, Text

#: Gives the width in px of the widest line of a text. Painting rooms hand in one that knows fonts.
TextMeasure = Callable[[Text], float]
_ALIGN = {"start": "left", "middle": "center", "end": "right"}
_WEIGHTS = {"normal": 400, "bold": 700, "bolder": 700, "lighter": 300}
#: Where the baseline lies below the wanted line, in font sizes, for a typical sans.
_SHIFT = {
    "middle": 0.26, "central": 0.35, "hanging": 0.75, "text-before-edge": 0.93, "text-top": 0.93,
    "before-edge": 0.93, "text-after-edge": -0.21, "text-bottom": -0.21, "after-edge": -0.21, "ideographic": -0.21,
    "mathematical": 0.4,
}  # fmt: skip


def rough_width(text: Text) -> float:
    """A width without any font: narrow letters count little, wide ones much (ems of a typical sans)."""
    narrow, wide = set("iljtfrI.,:;'|!()[] "), set("mwMW@%—")
    widest = 0.0
    for line in text.words.split("\n"):
        ems = sum(0.3 if c in narrow else 0.85 if c in wide else 0.56 for c in line)
        widest = max(widest, ems * text.size + len(line) * text.tracking)
    return widest * (1.05 if text.weight >= 600 else 1.0)


@dataclass
class Piece:
    """Text that starts at one place: the anchor's x and the first baseline's y, in user space."""

    x: float
    y: float
    style: Style
    runs: list[tuple[str, Style, Node]] = field(default_factory=list)

    @property
    def words(self) -> str:
        """The piece's text."""
        return "".join(text for text, _, _ in self.runs)


@dataclass(frozen=True)
class Setting:
    """A piece as a text body and the box it stands in."""

    body: Text
    x: float
    y: float
    w: float
    h: float
    style: Style


class TextReader:
    """Reads one ``text`` element."""

    def __init__(
        self, style_of: Callable[[Node, Style], Style], paint: Callable[[Style, Node], Paint | None], notes: Notes,
        measure: TextMeasure, view: tuple[float, float],
    ) -> None:  # fmt: skip
        self.style_of, self.paint, self.notes, self.measure, self.view = style_of, paint, notes, measure, view
        self.pieces: list[Piece] = []
        self.pen = (0.0, 0.0)
        self.keep_spaces = False

    def read(self, node: Node, style: Style) -> list[Setting]:
        """The element's settings: one for a plain text, several when it is placed in pieces."""
        self.keep_spaces = node.attrs.get("xml:space") == "preserve" or style.get("white-space", "") in (
            "pre",
            "pre-wrap",
        )
        self.pieces = [Piece(0.0, 0.0, style)]
        self._gather(node, style)
        pieces = [piece for piece in self.pieces if piece.words.strip() or (self.keep_spaces and piece.words)]
        if not self.keep_spaces:
            for piece in pieces:
                _trim(piece)
        lines = self._as_lines(pieces)
        return [lines] if lines else [self._set(piece) for piece in pieces]

    def _gather(self, node: Node, style: Style) -> None:
        self._place(node, style)
        for part in node.content:
            if isinstance(part, str):
                text = re.sub(r"[\t\n\r]", " ", part) if self.keep_spaces else re.sub(r"\s+", " ", part)
                before = self.pieces[-1].words
                if not self.keep_spaces and (before == "" or before.endswith(" ")):
                    text = text.lstrip(" ")
                if text:
                    self.pieces[-1].runs.append((_cased(text, style), style, node))
            elif part.tag in ("tspan", "a", "textPath"):
                inner = self.style_of(part, style)
                if inner.get("display") == "none":
                    continue
                if part.tag == "textPath":
                    self.notes.add("approximated", "text on a path is set straight", part.says, part.line)
                self._gather(part, inner)
            elif part.tag not in ("title", "desc", "metadata"):
                self.notes.add("left out", f"{part.tag} inside text is not supported yet", part.says, part.line)

    def _place(self, node: Node, style: Style) -> None:
        """Begin a new piece where x, y, dx or dy ask for one."""
        values: dict[str, list[float]] = {}
        for key in ("x", "y", "dx", "dy"):
            text = node.attrs.get(key, "").replace(",", " ").split()
            try:
                whole = self.view[0] if key in ("x", "dx") else self.view[1]
                values[key] = [length(word, whole, font_size(style)) for word in text]
            except FormatError as error:
                self.notes.add("unreadable", error.sentence, node.says, node.line)
                values[key] = []
            if len(values[key]) > 1:
                self.notes.add("approximated", "letters placed one by one are set as one run", node.says, node.line)
        if "rotate" in node.attrs:
            self.notes.add("left out", "letters turned one by one", node.says, node.line)
        if not any(values.values()):
            return
        x, y = self._pen_now()
        x = values["x"][0] if values["x"] else x
        y = values["y"][0] if values["y"] else y
        x += values["dx"][0] if values["dx"] else 0.0
        y += values["dy"][0] if values["dy"] else 0.0
        self.pieces.append(Piece(x, y, style))

    def _pen_now(self) -> tuple[float, float]:
        """Where the next letter would stand."""
        last = self.pieces[-1]
        if not last.runs:
            return last.x, last.y
        width = self.measure(self._body([last], last.style))
        anchor = last.style.get("text-anchor", "start")
        return last.x + width * {"start": 1.0, "middle": 0.5, "end": 0.0}.get(anchor, 1.0), last.y

    def _as_lines(self, pieces: list[Piece]) -> Setting | None:
        """Several pieces under each other at equal distances are the lines of one text."""
        if len(pieces) < 2:
            return None
        first = pieces[0]
        gaps = [b.y - a.y for a, b in itertools.pairwise(pieces)]
        sizes = {font_size(run[1]) for piece in pieces for run in piece.runs}
        same = (
            all(abs(piece.x - first.x) < 0.01 for piece in pieces)
            and all(abs(gap - gaps[0]) < 0.01 for gap in gaps)
            and gaps[0] > 0
            and len(sizes) == 1
            and len({piece.style.get("text-anchor", "start") for piece in pieces}) == 1
        )
        if not same:
            return None
        return self._set(first, pieces, gaps[0])

    def _set(self, piece: Piece, pieces: list[Piece] | None = None, gap: float = 0.0) -> Setting:
        lines = pieces or [piece]
        style = piece.runs[0][1] if len({id(run[1]) for run in piece.runs}) == 1 else piece.style
        body = self._body(lines, style, gap)
        width = self.measure(body)
        anchor = style.get("text-anchor", "start")
        x = piece.x - {"start": 0.0, "middle": 0.5, "end": 1.0}.get(anchor, 0.0) * width
        base = style.get("dominant-baseline", style.get("alignment-baseline", ""))
        y = piece.y + _SHIFT.get(base, 0.0) * body.size - body.size * (body.line_height / 2 + BASELINE)
        return Setting(body, x, y, width, body.size * body.line_height * len(lines), style)

    def _body(self, pieces: list[Piece], style: Style, gap: float = 0.0) -> Text:
        size = font_size(style)
        spacing = 0.0
        if style.get("letter-spacing", "normal") != "normal":
            try:
                spacing = length(style["letter-spacing"], size, size)
            except FormatError:
                spacing = 0.0
        runs: list[Run] = []
        for number, piece in enumerate(pieces):
            for place, (text, own, node) in enumerate(piece.runs):
                words = ("\n" if number and place == 0 else "") + text
                paints = ("fill", "fill-opacity", "color")
                other = any(own.get(key) != style.get(key) for key in paints)
                runs.append(_run(words, own, style, size, self.paint(own, node) if other else None))
        merged: list[Run] = []
        for run in runs:
            if merged and _same_look(merged[-1], run):
                merged[-1] = Run(merged[-1].text + run.text, run.fill, run.weight, run.size, run.italic, run.family)
            else:
                merged.append(run)
        slanted = style.get("font-style", "normal") in ("italic", "oblique")
        return Text(
            tuple(merged), family(style), size, weight(style), slanted,
            gap / size if gap and size else 1.2, spacing,
            _ALIGN.get(style.get("text-anchor", "start"), "left"),  # type: ignore[arg-type]
        )  # fmt: skip


def _trim(piece: Piece) -> None:
    while piece.runs:
        text, style, node = piece.runs.pop()
        if text.rstrip(" "):
            piece.runs.append((text.rstrip(" "), style, node))
            return


def _cased(text: str, style: Style) -> str:
    case = style.get("text-transform", "none")
    return text.upper() if case == "uppercase" else text.lower() if case == "lowercase" else text


def _run(words: str, own: Style, style: Style, size: float, fill: Paint | None) -> Run:
    own_size, own_weight = font_size(own), weight(own)
    italic, base_italic = (s.get("font-style", "normal") in ("italic", "oblique") for s in (own, style))
    return Run(
        words,
        fill,
        own_weight if own_weight != weight(style) else None,
        own_size if own_size != size else None,
        italic if italic != base_italic else None,
        family(own) if family(own) != family(style) else None,
    )


def _same_look(a: Run, b: Run) -> bool:
    return (a.fill, a.weight, a.size, a.italic, a.family) == (b.fill, b.weight, b.size, b.italic, b.family)


def font_size(style: Style) -> float:
    """The font size in px; relative sizes were resolved when the style was computed."""
    try:
        return max(0.0, length(style.get("font-size", "16px"), 16.0))
    except FormatError:
        return 16.0


def weight(style: Style) -> int:
    """The font weight, 1..1000."""
    value = style.get("font-weight", "normal")
    if value in _WEIGHTS:
        return _WEIGHTS[value]
    return min(1000, max(1, int(value))) if value.isdigit() else 400


def family(style: Style) -> str:
    """The font families, as the file lists them."""
    names = [name.strip().strip("'\"") for name in style.get("font-family", "sans-serif").split(",")]
    return ", ".join(name for name in names if name) or "sans-serif"
