"""What is known of the delivery that is looked at: a word, and what it is."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.curves.text import number
from avelt.core.handoff.delivery import Report
from avelt.core.model.curves import Line
from avelt.verify.compare import Verdict
from avelt.window.common.accessible import Spoken
from avelt.window.common.workspace import Workspace
from avelt.window.theme import font

_ROW = 27.0
LINE = Line()


class Facts(QWidget):
    """Rows of a word and its value, with thin lines between."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.rows: tuple[tuple[str, str], ...] = ()
        self.setAccessibleName("Facts")

    def show_rows(self, rows: Sequence[tuple[str, str]], tip: str) -> None:
        """Show other facts; the tip says them in full."""
        self.rows = tuple(rows)
        self.setFixedHeight(int(_ROW * len(self.rows) + 1))
        self.setToolTip(tip)
        self.setAccessibleDescription("; ".join(f"{a}: {b}" for a, b in self.rows))
        self.update()

    def spoken(self) -> list[Spoken]:
        """The facts for assistive technology."""
        return [Spoken(f"{a}: {b}", QRectF(0, k * _ROW, self.width(), _ROW)) for k, (a, b) in enumerate(self.rows)]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme = self.workspace.theme
        painter.setFont(font(12))
        metrics: QFontMetrics = painter.fontMetrics()
        for k, (words, value) in enumerate(self.rows):
            rect = QRectF(0, k * _ROW, self.width(), _ROW)
            painter.setPen(QPen(theme.faint, 1))
            painter.drawLine(rect.topLeft(), rect.topRight())
            painter.setPen(theme.quiet)
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignVCenter), words)
            room = int(rect.width() - metrics.horizontalAdvance(words) - 10)
            painter.setPen(theme.ink)
            shown = metrics.elidedText(value, Qt.TextElideMode.ElideRight, room)
            painter.drawText(rect, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), shown)


def rows_of(report: Report | None, verdict: Verdict | None, looking: bool) -> list[tuple[str, str]]:
    """The facts of a delivery."""
    made: list[tuple[str, str]] = []
    if verdict is not None:
        worst = verdict.worst
        made += [
            ("Compared at", f"{len(verdict.moments)} moments"),
            ("Mean difference", f"{verdict.mean:.2f} of 255"),
            ("Pixels that are off", f"{verdict.off * 100:.2f} %"),
            ("Worst moment", f"{worst.at:.0f} ms, {worst.mean:.2f}"),
        ]
    elif looking:
        made.append(("Compared at", "being compared"))
    if report is not None:
        curves = [entry for entry in report.fitted if not entry.layer]
        others = [entry for entry in report.fitted if entry.layer]
        if curves:
            made.append(("Curves fitted", f"{len(curves)}, error {number(max(e.error for e in curves), 4)}"))
        if others:
            made.append(("Motions fitted", f"{len(others)}, error {number(max(e.error for e in others), 3)}"))
        out = report.left_out
        made.append(("Left out", f"{out[0].layer}: {out[0].what}" if out else "nothing"))
    return made


def tip_of(report: Report | None) -> str:
    """The whole report, line by line."""
    if report is None:
        return ""
    lines = [f"{e.layer or 'Curve'}: {e.what} is fitted, {e.error:.4f} {e.unit} off at most" for e in report.fitted]
    lines += [f"{e.layer}: {e.what}: {e.why}" for e in report.left_out]
    return "\n".join([*lines, *report.notes])
