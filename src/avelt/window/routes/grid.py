"""Where the matrix's cells and heads stand: pure arithmetic on sizes and zoom."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF

from avelt.core.record import Record

CELL_W, CELL_H, GAP = 134.0, 102.0, 10.0
HEAD_W, HEAD_H = 196.0, 116.0
_LARGEST, _SMALLEST = 1.5, 0.25
_SMALL_HEADS = 0.6  # below this zoom heads have no pictures


class Grid(Record, frozen=True):
    """``n`` rows and columns. ``zoom`` is fixed, or fitted to the room while ``fits``."""

    n: int
    zoom: float = 1.0
    fits: bool = True

    def of(self, n: int) -> Grid:
        """For another number of frames."""
        return replace(self, n=n)

    def zoomed(self, zoom: float | None) -> Grid:
        """At a zoom, or fitted for ``None``."""
        if zoom is None:
            return replace(self, fits=True)
        return replace(self, zoom=min(_LARGEST, max(_SMALLEST, zoom)), fits=False)

    def within(self, w: float, h: float) -> Grid:
        """With a fitted zoom for a room of this size: cells grow, but never below their plain size."""
        if not self.fits or not self.n:
            return self
        by_w = (w - HEAD_W - 14) / self.n / (CELL_W + GAP)
        by_h = (h - HEAD_H - 14) / self.n / (CELL_H + GAP)
        return replace(self, zoom=min(_LARGEST, max(1.0 if self.n < 12 else 0.7, min(by_w, by_h))))

    @property
    def small(self) -> bool:
        """Whether heads are but a line of words."""
        return self.zoom < _SMALL_HEADS

    @property
    def head_w(self) -> float:
        """How wide the heads of rows are."""
        return 150.0 if self.small else HEAD_W

    @property
    def head_h(self) -> float:
        """How high the heads of columns are."""
        return 96.0 if self.small else HEAD_H

    @property
    def gap(self) -> float:
        """Between cells."""
        return GAP if self.zoom >= 0.7 else 4.0

    @property
    def cell_w(self) -> float:
        """How wide a cell is."""
        return CELL_W * self.zoom

    @property
    def cell_h(self) -> float:
        """How high a cell is."""
        return CELL_H * self.zoom

    def size(self) -> tuple[float, float]:
        """Of the whole matrix."""
        return (
            self.head_w + self.n * (self.cell_w + self.gap) + 8,
            self.head_h + self.n * (self.cell_h + self.gap) + 8,
        )

    def cell(self, row: int, column: int) -> QRectF:
        """A cell, unscrolled."""
        return QRectF(
            self.head_w + 2 + column * (self.cell_w + self.gap),
            self.head_h + 2 + row * (self.cell_h + self.gap),
            self.cell_w,
            self.cell_h,
        )

    def row_head(self, row: int) -> QRectF:
        """The head beside a row, unscrolled."""
        return QRectF(0, self.cell(row, 0).top(), self.head_w - 8, self.cell_h)

    def column_head(self, column: int) -> QRectF:
        """The head above a column, unscrolled."""
        return QRectF(self.cell(0, column).left(), 0, self.cell_w, self.head_h - 8)

    def visible(self, offset: QPointF, w: float, h: float) -> tuple[range, range]:
        """Rows and columns of which something can be seen."""
        step_x, step_y = self.cell_w + self.gap, self.cell_h + self.gap
        rows = range(max(0, int(offset.y() // step_y)), min(self.n, int((offset.y() + h - self.head_h) // step_y) + 1))
        columns = range(
            max(0, int(offset.x() // step_x)), min(self.n, int((offset.x() + w - self.head_w) // step_x) + 1)
        )
        return rows, columns
