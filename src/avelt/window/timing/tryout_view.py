"""The panel of tryouts: a column a version, or a row of frames each. It emits what is wanted, knows no project edit."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QObject, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFormLayout, QHBoxLayout, QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.edits.tryouts import Feel
from avelt.core.model.curves import Named
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.drawing import draw_frame
from avelt.window.controls.fields import Choice, NumberField, button, column, label, panel, row
from avelt.window.controls.painted import Pick
from avelt.window.controls.views import SceneView
from avelt.window.theme import font

_GAP = 10.0
_MOST_FRAMES = 14
_NAME = 150  # px beside a row of frames


class VersionView(Record, frozen=True):
    """A version as it is shown; ``ident`` is empty for the transition itself, ``end`` is when its last cue ends."""

    ident: str
    name: str
    program: Program
    feel: Feel
    end: float


class Wishes(QObject):
    """What is wanted of a version, each with its id; one for all columns."""

    named = Signal(str, str)
    dropped = Signal(str)
    kept = Signal(str)
    lasting = Signal(str, float, bool)
    curved = Signal(str, object)
    stepped = Signal(str, float, bool)
    cancelled = Signal()


class VersionColumn(QWidget):
    """One version: its name, its moment, what is compared, and what can become of it."""

    def __init__(self, workspace: Workspace, wishes: Wishes) -> None:
        super().__init__()
        self.workspace, self.wishes = workspace, wishes
        self.view: VersionView | None = None
        self.name = QLineEdit()
        self.name.setToolTip(tr("The version's name"))
        self.ends = label("", "quiet")
        self.scene = SceneView(workspace)
        self.length = NumberField("ms", 10.0, 0.0, 3_600_000.0, 0)
        self.curve = Pick()
        self.step = NumberField("ms", 5.0, 0.0, 3_600_000.0, 0)
        self.step.setToolTip(tr("The time of the stagger"))
        self.keep = button(tr("Keep this one"), tr("It becomes the transition; the others are deleted"), "strong")
        self.drop = button(tr("Delete"), tr("Without this version"))
        form = QFormLayout()
        form.setHorizontalSpacing(10)
        form.setVerticalSpacing(5)
        self.words = [label(tr("Duration"), "quiet"), label(tr("Curve"), "quiet"), label(tr("Stagger"), "quiet")]
        for words, field in zip(self.words, (self.length, self.curve, self.step), strict=True):
            form.addRow(words, field)
        paper = panel()
        inner = column(spacing=8)
        inner.setContentsMargins(12, 10, 12, 10)
        inner.addLayout(row(self.name, self.ends))
        inner.addWidget(self.scene, 1)
        inner.addLayout(form)
        inner.addLayout(row(self.keep, self.drop, None))
        paper.setLayout(inner)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(paper)
        self._connect()

    @property
    def _ident(self) -> str:
        return self.view.ident if self.view is not None else ""

    def _connect(self) -> None:
        self.name.editingFinished.connect(self._named)
        self.keep.clicked.connect(lambda: self.wishes.kept.emit(self._ident))
        self.drop.clicked.connect(lambda: self.wishes.dropped.emit(self._ident))
        for field, signal in ((self.length, self.wishes.lasting), (self.step, self.wishes.stepped)):
            field.scrubbed.connect(lambda ms, signal=signal: signal.emit(self._ident, ms, False))
            field.cancelled.connect(self.wishes.cancelled)
            field.committed.connect(lambda ms, signal=signal: signal.emit(self._ident, ms, True))
        self.curve.activated.connect(self._curved)

    def _named(self) -> None:
        if self.name.isModified() and self._ident:
            self.name.setModified(False)
            self.wishes.named.emit(self._ident, self.name.text())

    def _curved(self, place: int) -> None:
        ident = self.curve.itemData(place)
        if ident is not None:
            self.wishes.curved.emit(self._ident, Named(ident))

    def show_version(self, view: VersionView) -> None:
        """Take a version over."""
        self.view = view
        if not self.name.hasFocus():
            self.name.setText(view.name)
        self.name.setReadOnly(not view.ident)
        self.name.setStyleSheet("" if view.ident else "border-color: transparent; background: transparent;")
        self.drop.setVisible(bool(view.ident))
        self.ends.setText(f"{view.end:.0f} ms")
        self.length.show_value(view.feel.length)
        show_named(self.curve, self.workspace.project, view.feel.curve)
        for widget in (self.step, self.words[2]):
            widget.setVisible(view.feel.step is not None)
        self.step.show_value(view.feel.step or 0.0)


class FrameRow(QWidget):
    """A version's frames at equal times. They are painted one at a time, so that the window never waits."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.view: VersionView | None = None
        self.last = 1.0
        self.moments: tuple[float, ...] = ()
        self.pictures: list[QImage] = []
        self._painter = workspace.painter()
        self._next = QTimer(self)
        self._next.setInterval(0)
        self._next.timeout.connect(self._paint_next)
        self.setMinimumHeight(110)

    def show_version(self, view: VersionView, last: float) -> None:
        """Another version; ``last`` is the time that all versions are shown for."""
        if self.view is None or view.program is not self.view.program or last != self.last:
            self._painter = self.workspace.painter()
            self.view, self.last = view, max(1.0, last)
            self._begin()
        self.view = view
        self.update()

    def _size(self) -> tuple[float, float]:
        """A picture's width and height, px."""
        if self.view is None:
            return 1.0, 1.0
        left, right = self.view.program.left, self.view.program.right
        w, h = max(left.w, right.w), max(left.h, right.h)
        tall = max(40.0, self.height() - 24.0)
        return w / h * tall, tall

    def _begin(self) -> None:
        if self.view is None:
            return
        wide = self._size()[0] + _GAP
        count = max(2, min(_MOST_FRAMES, int((self.width() - _NAME) // wide)))
        self.moments = tuple(self.last * k / (count - 1) for k in range(count))
        self.pictures = []
        self._next.start()

    def _paint_next(self) -> None:
        if self.view is None or len(self.pictures) >= len(self.moments):
            self._next.stop()
            return
        scene = self.view.program.at(min(self.moments[len(self.pictures)], self.view.program.last))
        scale = self._size()[0] / scene.size[0] * self.devicePixelRatioF()
        self.pictures.append(self._painter.render(scene, scale))
        self.update()

    def resizeEvent(self, event: object) -> None:
        self._begin()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.view is None:
            return
        painter, theme = QPainter(self), self.workspace.theme
        painter.setPen(theme.ink)
        painter.setFont(font(13, 700))
        painter.drawText(QRectF(0, 0, _NAME - 12, 20), Qt.AlignmentFlag.AlignVCenter, self.view.name)
        painter.setFont(font(12.5))
        painter.setPen(theme.quiet)
        painter.drawText(QRectF(0, 20, _NAME - 12, 20), Qt.AlignmentFlag.AlignVCenter, f"{self.view.end:.0f} ms")
        wide, tall = self._size()
        for k, image in enumerate(self.pictures):
            own = min(wide, tall * image.width() / max(1, image.height()))
            rect = QRectF(_NAME + k * (wide + _GAP), 2, own, own * image.height() / max(1, image.width()))
            past = self.moments[k] > self.view.end + 0.5
            draw_frame(painter, image, rect, theme.line if past else theme.ink, 1.2, 4.0)
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            words = f"{self.moments[k]:.0f}"
            painter.drawText(QRectF(rect.left(), tall + 4, wide, 16), Qt.AlignmentFlag.AlignCenter, words)


class TryoutPanel(QWidget):
    """All versions under a strip of what is common to them."""

    def __init__(self, workspace: Workspace, clock: Clock) -> None:
        super().__init__()
        self.workspace, self.clock = workspace, clock
        self.wishes = Wishes(self)
        self.views: list[VersionView] = []
        self.columns: list[VersionColumn] = []
        self.frame_rows: list[FrameRow] = []
        self.heading = label("", "heading")
        self.big, self.of_length = label("0", "heading"), label("", "quiet")
        self.play = button(tr("Play"), tr("Play or stop (Space)"), "strong")
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS], [tr("Play at {s:g} of the speed", s=s) for s in SPEEDS])
        self.scope = Choice([tr("The whole"), tr("The chosen cues")])
        self.shown = Choice(
            [tr("Playing"), tr("As frames")], [tr("In step, beside each other"), tr("At equal times, to look at")]
        )
        self.more = button(tr("One version more"), tr("Like the last one to begin with"))
        self.back = button(tr("Keep all, back to the sheet"), tr("The versions stay with the project (T)"))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._lay_out()
        clock.played.connect(lambda on: self.play.setText(tr("Stop") if on else tr("Play")))
        self.play.clicked.connect(clock.toggle)
        self.speeds.picked.connect(lambda k: setattr(clock, "speed", SPEEDS[k]))
        self.shown.picked.connect(self.stack.setCurrentIndex)

    def _lay_out(self) -> None:
        self.beside, self.under = QWidget(), QWidget()
        self._beside, self._under = QHBoxLayout(self.beside), QVBoxLayout(self.under)
        self._beside.setContentsMargins(0, 0, 0, 0)
        self._beside.setSpacing(12)
        self._under.setContentsMargins(16, 12, 16, 12)
        self._under.setSpacing(12)
        paper = panel()
        inside = column(self.under)
        inside.setContentsMargins(0, 0, 0, 0)
        paper.setLayout(inside)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.beside)
        self.stack.addWidget(paper)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 10, 12, 12)
        whole.setSpacing(10)
        whole.addLayout(row(self.heading, None, self.more, self.back))
        whole.addLayout(
            row(
                self.play,
                self.speeds,
                self.big,
                self.of_length,
                None,
                label(tr("Compare"), "quiet"),
                self.scope,
                self.shown,
            )
        )
        whole.addWidget(self.stack, 1)

    def whole_or_cues(self) -> bool:
        """Whether the chosen cues are compared."""
        return self.scope.button(1).isChecked()

    def show_scope(self, heading: str, names: Sequence[str]) -> None:
        """What is compared."""
        self.heading.setText(heading)
        cues = self.scope.button(1)
        cues.setText(
            tr("{count} cues", count=len(names)) if len(names) > 1 else names[0] if names else tr("The chosen cue")
        )
        cues.setToolTip(", ".join(names))
        cues.setEnabled(bool(names))

    def show_versions(self, views: list[VersionView], last: float, more: bool) -> None:
        """Take the versions over."""
        self.views = views
        self.of_length.setText(f"/ {last:.0f} ms")
        self.more.setEnabled(more)
        while len(self.columns) < len(views):
            self._add()
        while len(self.columns) > len(views):
            for parts in (self.columns, self.frame_rows):
                parts.pop().deleteLater()
        for view, part, frames in zip(views, self.columns, self.frame_rows, strict=True):
            part.show_version(view)
            frames.show_version(view, last)

    def _add(self) -> None:
        part, frames = VersionColumn(self.workspace, self.wishes), FrameRow(self.workspace)
        self.columns.append(part)
        self.frame_rows.append(frames)
        self._beside.addWidget(part, 1)
        self._under.addWidget(frames, 1)

    def tick(self, ms: float) -> None:
        """All versions at one moment; those that are over stand at their end."""
        self.big.setText(f"{ms:.0f}")
        for view, part in zip(self.views, self.columns, strict=False):
            part.scene.show_scene(view.program.at(min(ms, view.program.last)))
