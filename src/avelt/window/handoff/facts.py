"""What is known of the delivery that is looked at: a word, and what it is."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.curves.text import number
from avelt.core.handoff.delivery import Report
from avelt.core.model.curves import Line
from avelt.core.words import tr
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
        self.setAccessibleName(tr("Facts"))

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
            (tr("Compared at"), tr("{count} moments", count=len(verdict.moments))),
            (tr("Mean difference"), tr("{mean:.2f} of 255", mean=verdict.mean)),
            (tr("Pixels that are off"), f"{verdict.off * 100:.2f} %"),
            (tr("Worst moment"), f"{worst.at:.0f} ms, {worst.mean:.2f}"),
        ]
    elif looking:
        made.append((tr("Compared at"), tr("being compared")))
    if report is not None:
        curves = [entry for entry in report.fitted if not entry.layer]
        others = [entry for entry in report.fitted if entry.layer]
        if curves:
            made.append(
                (
                    tr("Curves fitted"),
                    tr("{count}, error {number}", count=len(curves), number=number(max(e.error for e in curves), 4)),
                )
            )
        if others:
            made.append(
                (
                    tr("Motions fitted"),
                    tr("{count}, error {number}", count=len(others), number=number(max(e.error for e in others), 3)),
                )
            )
        out = report.left_out
        made.append((tr("Left out"), f"{out[0].layer}: {out[0].what}" if out else tr("nothing")))
    return made


def tip_of(report: Report | None) -> str:
    """The whole report, line by line."""
    if report is None:
        return ""
    lines = [
        tr(
            "{layer}: {what} is fitted, {error:.4f} {unit} off at most",
            layer=e.layer or tr("Curve"),
            what=e.what,
            error=e.error,
            unit=e.unit,
        )
        for e in report.fitted
    ]
    lines += [f"{e.layer}: {e.what}: {e.why}" for e in report.left_out]
    return "\n".join([*lines, *report.notes])
