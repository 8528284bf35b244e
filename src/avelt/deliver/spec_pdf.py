"""Spec sheets as a PDF on A4, painted by Qt."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPageLayout, QPageSize, QPainter, QPdfWriter, QPen, QPolygonF

from avelt.core.curves.text import number
from avelt.core.handoff.spec import SpecSheet
from avelt.core.handoff.spec_html import bars, curve_points, ticks
from avelt.core.words import tr
from avelt.paint.fonts import HOUSE_FAMILY, ensure_gui

_DPI = 144  # px of the page to an inch
_MM = _DPI / 25.4
_W, _H = 182.0 * _MM, 261.0 * _MM
_INK, _QUIET, _LINE, _MARK = QColor("#17232b"), QColor("#5f6f74"), QColor("#d8d4c8"), QColor("#1f7a6b")
#: Columns of the table: where they begin (shares of the width), what stands above, and whether it is a number.
_COLUMNS = (
    (0.0, tr("Layer"), False),
    (0.24, tr("Property"), False),
    (0.36, tr("Starts, ms"), True),
    (0.45, tr("Lasts, ms"), True),
    (0.54, tr("Curve"), True),
    (0.6, tr("From"), False),
    (0.8, tr("To"), False),
)


def spec_pdf(sheets: Sequence[SpecSheet], title: str) -> bytes:
    """The sheets, each beginning on a page of its own."""
    ensure_gui()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setCreator("Avelt")
    writer.setResolution(_DPI)
    margins = QMarginsF(14, 18, 14, 18)
    writer.setPageLayout(
        QPageLayout(
            QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, margins, QPageLayout.Unit.Millimeter
        )
    )
    page = _Page(writer)
    for k, sheet in enumerate(sheets):
        if k:
            page.turn()
        _sheet(page, sheet)
    page.painter.end()
    return bytes(buffer.data().data())


class _Page:
    """Where is written: a painter, and how far down the page it is."""

    def __init__(self, writer: QPdfWriter) -> None:
        self._writer = writer
        self.painter = QPainter(writer)
        self.y = 0.0

    def turn(self) -> None:
        """A new page."""
        self._writer.newPage()
        self.y = 0.0

    def room(self, h: float) -> bool:
        """Make sure that so much fits; whether a new page was begun."""
        if self.y + h <= _H or self.y == 0.0:
            return False
        self.turn()
        return True

    def font(self, size: float, weight: QFont.Weight = QFont.Weight.Normal) -> None:
        """The type to write in, px."""
        font = QFont([HOUSE_FAMILY, "Sans Serif"])
        font.setPixelSize(round(size))
        font.setWeight(weight)
        self.painter.setFont(font)

    def words(self, x: float, w: float, text: str, right: bool = False, color: QColor = _INK) -> float:
        """Text in a column at this height, wrapped; gives how high it is."""
        self.painter.setPen(color)
        align = (Qt.AlignmentFlag.AlignRight if right else Qt.AlignmentFlag.AlignLeft) | Qt.TextFlag.TextWrapAnywhere
        flags = int(align) if not right else int(Qt.AlignmentFlag.AlignRight)
        box = QRectF(x, self.y, w, 4000.0)
        used = self.painter.boundingRect(box, flags, text)
        self.painter.drawText(box, flags, text)
        return used.height()

    def height(self, w: float, text: str) -> float:
        """How high text would be in a column."""
        flags = int(Qt.AlignmentFlag.AlignLeft | Qt.TextFlag.TextWrapAnywhere)
        return self.painter.boundingRect(QRectF(0, 0, w, 4000.0), flags, text).height()


def _sheet(page: _Page, sheet: SpecSheet) -> None:
    page.font(34, QFont.Weight.DemiBold)
    page.y += page.words(0, _W, sheet.name) + 14
    for key, value in sheet.facts:
        page.font(17)
        page.words(0, 150, key, color=_QUIET)
        page.y += page.words(160, _W - 160, value) + 4
    if sheet.rows:
        _chart(page, sheet)
        _table(page, sheet)
    if sheet.curves:
        _curves(page, sheet)
    if sheet.loops:
        _heading(page, tr("Loops"))
        for entry in sheet.loops:
            page.font(15)
            page.room(30)
            page.words(0, _W * 0.3, f"{entry.layer}: {entry.name}")
            page.words(_W * 0.32, _W * 0.12, f"{number(entry.duration, 1)} ms", right=True)
            page.y += page.words(_W * 0.48, _W * 0.52, entry.says) + 6


def _heading(page: _Page, text: str) -> None:
    page.room(90)
    page.y += 26
    page.font(20, QFont.Weight.DemiBold)
    page.y += page.words(0, _W, text) + 8


def _chart(page: _Page, sheet: SpecSheet) -> None:
    _heading(page, tr("When"))
    label, line = 250.0, 22.0
    scale = (_W - label - 30) / max(sheet.duration, 1.0)
    painter = page.painter
    rows = bars(sheet)
    place = 0
    while place < len(rows):
        fits = max(1, int((_H - page.y - 30) // line))
        part = rows[place : place + fits]
        page.font(14)
        for ms in ticks(sheet.duration):
            x = label + ms * scale
            painter.setPen(QPen(_LINE, 1))
            painter.drawLine(QPointF(x, page.y + 22), QPointF(x, page.y + 26 + line * len(part)))
            painter.setPen(_QUIET)
            box = QRectF(x - 50, page.y, 100, 20)
            painter.drawText(box, int(Qt.AlignmentFlag.AlignHCenter), number(ms, 0))
        page.y += 26
        for layer, own in part:
            name = painter.fontMetrics().elidedText(layer, Qt.TextElideMode.ElideRight, int(label - 14))
            painter.setPen(_INK)
            painter.drawText(QRectF(0, page.y, label, line), int(Qt.AlignmentFlag.AlignVCenter), name)
            for n, row in enumerate(own):
                each = (line - 6) / len(own)
                x, w = label + row.delay * scale, max(2.0, row.duration * scale)
                painter.fillRect(QRectF(x, page.y + 3 + n * each, w, max(1.0, each - 1)), _MARK)
            page.y += line
        place += fits
        if place < len(rows):
            page.turn()


def _table(page: _Page, sheet: SpecSheet) -> None:
    _heading(page, tr("From and to"))
    _head(page)
    for row in sheet.rows:
        last = f"{row.last}\n{row.note}" if row.note else row.last
        cells = (
            row.layer,
            row.prop.replace("_", " "),
            number(row.delay, 1),
            number(row.duration, 1),
            str(row.curve + 1),
            row.first,
            last,
        )
        page.font(14)
        widths = _widths()
        high = max(page.height(w, text) for w, text in zip(widths, cells, strict=True))
        if page.room(high + 8):
            _head(page)
            page.font(14)
        for (share, _, right), w, text in zip(_COLUMNS, widths, cells, strict=True):
            page.words(share * _W, w, text, right)
        page.y += high + 4
        page.painter.setPen(QPen(_LINE, 0.7))
        page.painter.drawLine(QPointF(0, page.y), QPointF(_W, page.y))
        page.y += 4


def _widths() -> list[float]:
    ends = [*(share for share, _, _ in _COLUMNS[1:]), 1.0]
    return [(end - share) * _W - 10 for (share, _, _), end in zip(_COLUMNS, ends, strict=True)]


def _head(page: _Page) -> None:
    page.font(13)
    for (share, words, right), w in zip(_COLUMNS, _widths(), strict=True):
        page.words(share * _W, w, words, right, _QUIET)
    page.y += 22


def _curves(page: _Page, sheet: SpecSheet) -> None:
    _heading(page, tr("Curves"))
    for k, entry in enumerate(sheet.curves, 1):
        points = curve_points(entry.curve)
        low, high = min(0.0, float(points[:, 1].min())), max(1.0, float(points[:, 1].max()))
        page.font(14)
        text = f"{entry.feels}\n{entry.css}"
        tall = max(80.0 * (high - low), page.height(_W - 180, text) + 24) + 16
        page.room(tall)
        line = QPolygonF([QPointF(120 * t, page.y + 80 * (high - v)) for t, v in points.tolist()])
        page.painter.setPen(QPen(_LINE, 1))
        for level in (0.0, 1.0):
            y = page.y + 80 * (high - level)
            page.painter.drawLine(QPointF(0, y), QPointF(120, y))
        page.painter.setPen(QPen(_MARK, 2))
        page.painter.drawPolyline(line)
        top = page.y
        page.font(15, QFont.Weight.DemiBold)
        page.y += page.words(150, _W - 150, f"{k}  {entry.name}") + 2
        page.font(14)
        page.words(150, _W - 150, text)
        page.y = top + tall
