"""SVG text as text layers: runs of one style, broken into pieces where the file places them anew."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable

import msgspec

from avelt.core.arrays import np
from avelt.core.errors import FormatError
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_style import Style
from avelt.core.formats.svg_values import length, path_data
from avelt.core.formats.xml_tree import Node
from avelt.core.geometry import arc
from avelt.core.model.values import BASELINE, Paint, Run, Text
from avelt.core.record import Mutable, Record

#: Gives the width in px of the widest line of a text. Painting rooms hand in one that knows fonts.
TextMeasure = Callable[[Text], float]
#: The values of x, y, dx, dy and rotate of an element, one a letter.
Letters = dict[str, list[float]]
_UNSEEN = 0.6  # px that a letter may be off its natural place and still belong to its run
_ALIGN = {"start": "left", "middle": "center", "end": "right"}
_WEIGHTS = {"normal": 400, "bold": 700, "bolder": 700, "lighter": 300}
#: Where the baseline lies below the wanted line, in font sizes, for a typical sans.
_SHIFT = {
    "middle": 0.26,
    "central": 0.35,
    "hanging": 0.75,
    "text-before-edge": 0.93,
    "text-top": 0.93,
    "before-edge": 0.93,
    "text-after-edge": -0.21,
    "text-bottom": -0.21,
    "after-edge": -0.21,
    "ideographic": -0.21,
    "mathematical": 0.4,
}


def rough_width(text: Text) -> float:
    """A width without any font: narrow letters count little, wide ones much (ems of a typical sans)."""
    narrow, wide = set("iljtfrI.,:;'|!()[] "), set("mwMW@%—")
    widest = 0.0
    for line in text.words.split("\n"):
        ems = sum(0.3 if c in narrow else 0.85 if c in wide else 0.56 for c in line)
        widest = max(widest, ems * text.size + len(line) * text.letter_spacing)
    return widest * (1.05 if text.weight >= 600 else 1.0)


class Piece(Mutable):
    """Text that starts at one place: the anchor's x and the first baseline's y, in user space; turned about it."""

    x: float
    y: float
    style: Style
    runs: list[tuple[str, Style, Node]] = msgspec.field(default_factory=list)
    turn: float = 0.0

    @property
    def words(self) -> str:
        """The piece's text."""
        return "".join(text for text, _, _ in self.runs)


class Setting(Record, frozen=True):
    """A piece as a text body and the box it stands in; turned by degrees about the point (pin)."""

    body: Text
    x: float
    y: float
    w: float
    h: float
    style: Style
    turn: float = 0.0
    pin: tuple[float, float] = (0.0, 0.0)


class TextReader:
    """Reads one ``text`` element."""

    def __init__(
        self,
        style_of: Callable[[Node, Style], Style],
        paint: Callable[[Style, Node], Paint | None],
        notes: Notes,
        measure: TextMeasure,
        view: tuple[float, float],
        find: Callable[[str], Node | None] = lambda ident: None,
    ) -> None:
        self.style_of, self.paint, self.notes, self.measure, self.view = style_of, paint, notes, measure, view
        self.find = find
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
        letters = self._placed(node, style)
        self._place(letters, style)
        used = 0
        for part in node.content:
            if isinstance(part, str):
                text = re.sub(r"[\t\n\r]", " ", part) if self.keep_spaces else re.sub(r"\s+", " ", part)
                before = self.pieces[-1].words
                if not self.keep_spaces and (before == "" or before.endswith(" ")):
                    text = text.lstrip(" ")
                if text and (any(letters["rotate"]) or max(len(values) for values in letters.values()) > 1):
                    self._one_by_one(_cased(text, style), used, letters, style, node)
                elif text:
                    self.pieces[-1].runs.append((_cased(text, style), style, node))
                used += len(text)
            elif part.tag in ("tspan", "a", "textPath"):
                inner = self.style_of(part, style)
                if inner.get("display") == "none":
                    continue
                if part.tag != "textPath" or not self._along_path(part, inner):
                    self._gather(part, inner)
            elif part.tag not in ("title", "desc", "metadata"):
                self.notes.add("left out", f"{part.tag} inside text is not supported yet", part.says, part.line)

    def _placed(self, node: Node, style: Style) -> Letters:
        """Where the element wants its letters: the values of x, y, dx, dy and rotate, one a letter."""
        values: Letters = {}
        for key in ("x", "y", "dx", "dy", "rotate"):
            text = node.attrs.get(key, "").replace(",", " ").split()
            try:
                whole = self.view[0] if key in ("x", "dx") else self.view[1]
                values[key] = [length(word, whole, font_size(style)) for word in text]
            except FormatError as error:
                self.notes.add("unreadable", error.sentence, node.says, node.line)
                values[key] = []
        return values

    def _place(self, letters: Letters, style: Style, k: int = 0) -> None:
        """Begin a new piece where x, y, dx, dy or rotate ask for one before letter ``k``."""
        given = {key: values[k] for key, values in letters.items() if k < len(values)}
        turn = given.pop("rotate", letters["rotate"][-1] if letters["rotate"] else 0.0)
        if not given and turn == self.pieces[-1].turn and not (turn and k):
            return
        x, y = self._pen_now()
        x, y = given.get("x", x) + given.get("dx", 0.0), given.get("y", y) + given.get("dy", 0.0)
        natural = self._pen_now()
        if k and not turn and abs(x - natural[0]) < _UNSEEN and abs(y - natural[1]) < _UNSEEN:
            return  # it stands where it would stand anyway
        self.pieces.append(Piece(x, y, style, turn=turn))

    def _one_by_one(self, text: str, used: int, letters: Letters, style: Style, node: Node) -> None:
        """Letters of which each can have a place of its own."""
        for k, letter in enumerate(text, used):
            if k:
                self._place(letters, style, k)
            runs = self.pieces[-1].runs
            if runs and runs[-1][1] is style:
                runs[-1] = (runs[-1][0] + letter, style, node)
            else:
                runs.append((letter, style, node))

    def _along_path(self, part: Node, style: Style) -> bool:
        """Letters along a path, one by one; False when there is no such path."""
        target = self.find((part.attrs.get("href") or part.attrs.get("xlink:href") or "").lstrip("#"))
        subpaths = path_data(target.attrs.get("d", ""))[0] if target is not None else []
        if not subpaths:
            self.notes.add(
                "approximated", "text on a path that is not in the file is set straight", part.says, part.line
            )
            return False
        points = subpaths[0][0]
        along = arc.travelled(points)
        whole = float(along[-1, -1])
        first = len(self.pieces)
        self.pieces.append(Piece(0.0, 0.0, style))
        for child in part.content:
            if isinstance(child, str):
                self.pieces[-1].runs.append((_cased(re.sub(r"\s+", " ", child), style), style, part))
            elif child.tag in ("tspan", "a"):
                self._gather(child, self.style_of(child, style))
        letters = [(c, own, node) for piece in self.pieces[first:] for text, own, node in piece.runs for c in text]
        del self.pieces[first:]
        plain = {**style, "text-anchor": "start"}
        widths = [self.measure(self._body([Piece(0, 0, own, [(c, own, node)])], own)) for c, own, node in letters]
        anchor = {"middle": 0.5, "end": 1.0}.get(style.get("text-anchor", "start"), 0.0)
        try:
            at = length(part.attrs.get("startOffset", "0"), whole) - anchor * sum(widths)
        except FormatError:
            at = 0.0
        self.notes.add("approximated", "letters on a path stand one by one", part.says, part.line)
        for (letter, own, node), width in zip(letters, widths, strict=True):
            middle = at + width / 2
            at += width
            if not 0.0 <= middle <= whole or not letter.strip():
                continue
            k, t = arc.locate(along, middle)
            curve = arc.cubics(points)[k]
            (x, y), (dx, dy) = arc.at(curve[None], np.array([t]))[0, 0], arc.direction(curve, t)
            turn = math.degrees(math.atan2(dy, dx))
            x, y = float(x - dx * width / 2), float(y - dy * width / 2)
            self.pieces.append(Piece(x, y, plain, [(letter, {**own, "text-anchor": "start"}, node)], turn))
        return True

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
            not any(piece.turn for piece in pieces)
            and all(abs(piece.x - first.x) < 0.01 for piece in pieces)
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
        h = body.size * body.line_height * len(lines)
        return Setting(body, x, y, width, h, style, piece.turn, (piece.x, piece.y))

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
            tuple(merged),
            family(style),
            size,
            weight(style),
            slanted,
            gap / size if gap and size else 1.2,
            spacing,
            _ALIGN.get(style.get("text-anchor", "start"), "left"),  # type: ignore[arg-type]
        )


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
