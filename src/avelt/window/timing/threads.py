"""Ties and staggers over the rows of the cue sheet: where their threads run, and painting them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from avelt.core.model.motion import CueKey, Moment, Stagger, Tie
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.theme import Theme, font

RectOf = Callable[[CueKey], QRectF | None]
_KNOB = 4.0


class Thread(Record, frozen=True):
    """One tie as it is drawn: from the end it is tied to to the end that hangs."""

    tie: Tie
    first: QPointF
    last: QPointF
    label: QRectF
    words: str


class Marks(Record, frozen=True):
    """The starts of a stagger's cues, and its label."""

    rule: Stagger
    points: tuple[QPointF, ...]
    label: QRectF
    words: str


def end_point(rect: QRectF, moment: Moment) -> QPointF:
    """The end of a ribbon at half its height."""
    return QPointF(rect.left() if moment == "start" else rect.right(), rect.center().y())


def threads(ties: tuple[Tie, ...], rect_of: RectOf) -> list[Thread]:
    """Ties between rows that are shown."""
    made = []
    for tie in ties:
        own, other = rect_of(tie.cue), rect_of(tie.to)
        if own is None or other is None:
            continue
        first, last = end_point(other, tie.to_at), end_point(own, tie.at)
        middle = (first + last) / 2
        words = f"{tie.by:+.0f}".replace("-", "−") if round(tie.by) else "0"
        made.append(Thread(tie, first, last, QRectF(middle.x() + 6, middle.y() - 8, 16 + 7 * len(words), 16), words))
    return made


def marks(staggers: tuple[tuple[Stagger, int], ...], rect_of: RectOf) -> list[Marks]:
    """The start marks of staggers with at least two rows shown; each with how many of its cues were moved."""
    made = []
    for rule, moved in staggers:
        found = sorted((rect for key in rule.cues if (rect := rect_of(key)) is not None), key=lambda rect: rect.top())
        points = [end_point(rect, "start") for rect in found]
        if len(points) < 2:
            continue
        each = tr("each") if rule.spread == "step" else tr("in all")
        words = f"{rule.ms:g} ms {each}, {ORDER_WORDS[rule.order]}"
        words += tr(", and {moved} moved", moved=moved) if moved else ""
        # Beside the first ribbon, over nothing: behind its end.
        place = end_point(found[0], "end")
        made.append(Marks(rule, tuple(points), QRectF(place.x() + 12, place.y() - 8, 14 + 6.2 * len(words), 16), words))
    return made


ORDER_WORDS = {
    "sheet": tr("as listed"),
    "paint": tr("as painted"),
    "left to right": tr("left to right"),
    "top to bottom": tr("top to bottom"),
    "distance": tr("by distance"),
    "random": tr("random"),
}


def path_between(first: QPointF, last: QPointF) -> QPainterPath:
    """A hanging thread: out of the end it leaves, into the end it reaches."""
    path = QPainterPath(first)
    sag = max(14.0, abs(last.x() - first.x()) * 0.35)
    path.cubicTo(first + QPointF(sag, 0), last - QPointF(sag, 0), last)
    return path


def paint_threads(painter: QPainter, theme: Theme, found: list[Thread]) -> None:
    """Ties, each with its offset."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for thread in found:
        painter.setPen(QPen(theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path_between(thread.first, thread.last))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.now)
        for point in (thread.first, thread.last):
            painter.drawEllipse(point, 3.2, 3.2)
        _label(painter, theme, thread.label, thread.words)


def paint_marks(painter: QPainter, theme: Theme, found: list[Marks]) -> None:
    """Staggers: a mark at every start, joined."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for entry in found:
        pen = QPen(theme.now, 1.2, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([2, 3])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(list(entry.points))
        painter.setPen(QPen(theme.now, 2.2))
        for point in entry.points:
            painter.drawLine(point + QPointF(0, -8), point + QPointF(0, 8))
        _label(painter, theme, entry.label, entry.words)


def _label(painter: QPainter, theme: Theme, rect: QRectF, words: str) -> None:
    ground = QColor(theme.sheet)
    ground.setAlphaF(0.86)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    painter.drawRoundedRect(rect, 4, 4)
    painter.setFont(font(11))
    painter.setPen(theme.now)
    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, words)


def paint_knobs(painter: QPainter, theme: Theme, rect: QRectF) -> None:
    """The rings beside a ribbon from which a tie is drawn."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.now, 1.5))
    painter.setBrush(theme.sheet)
    for moment in ("start", "end"):
        painter.drawEllipse(knob(rect, moment), _KNOB, _KNOB)


def knob(rect: QRectF, moment: Moment) -> QPointF:
    """Where the ring of an end stands."""
    return end_point(rect, moment) + QPointF(-10.0 if moment == "start" else 10.0, 0.0)


def knob_at(rect: QRectF, point: QPointF) -> Moment | None:
    """The end whose ring is at a point."""
    for moment in ("start", "end"):
        if (knob(rect, moment) - point).manhattanLength() <= _KNOB + 3:
            return moment
    return None
