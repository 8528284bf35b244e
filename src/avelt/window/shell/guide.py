"""A first transition in the real program: each step says what to do, and sees for itself when it is done."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol, cast

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label

_LOOK = 300  # ms between two looks whether a step is done


class Front(Protocol):
    """What a step looks at."""

    current: str
    workspace: Workspace

    def go(self, ident: str) -> None: ...
    def clock_runs(self) -> bool: ...
    def touched(self) -> bool: ...
    def bring_two(self) -> None: ...


class Step(Record, frozen=True):
    """``done``: whether it is, given the window and the project as it was when the step began. ``help``: what a button
    does for the person, with its words."""

    words: str
    done: Callable[[Front, object], bool]
    button: str = ""
    help: Callable[[Front], object] | None = None


STEPS: tuple[Step, ...] = (
    Step(
        tr("Two screens are needed. Import your own (Ctrl+I), or take two of the ferry company's."),
        lambda front, before: len(front.workspace.project.frames) >= 2,
        tr("Take two screens"),
        lambda front: front.bring_two(),
    ),
    Step(
        tr(
            "A route leads from one to the other. In Routes, click the cell from the first to "
            "the second and press Return."
        ),
        lambda front, before: bool(front.workspace.project.routes),
        tr("Go to Routes"),
        lambda front: front.go("routes"),
    ),
    Step(
        tr("What is one thing on both screens? Pairs shows what Avelt found and why. Look through it."),
        lambda front, before: front.current == "pairs",
        tr("Go to Pairs"),
        lambda front: front.go("pairs"),
    ),
    Step(
        tr("In Timing, press Space to play. Then drag the end of a ribbon, or give it another curve."),
        lambda front, before: front.current == "timing" and front.workspace.project is not before,
        tr("Go to Timing"),
        lambda front: front.go("timing"),
    ),
    Step(
        tr("Rehearse it: touch what you chose as trigger, as somebody would who uses it."),
        lambda front, before: front.current == "rehearse" and front.touched(),
        tr("Go to Rehearse"),
        lambda front: front.go("rehearse"),
    ),
)
_DONE = tr("That was a transition. Shelf keeps it for others, Hand-off delivers it. The guide is over.")


class GuideBar(QFrame):
    """A line above the station. It can be left at any time."""

    left = Signal()

    def __init__(self, front: Front) -> None:
        super().__init__()
        self.front = front
        self.place = 0
        self._before: object = None
        self.setProperty("role", "bar")
        self.number = label("", "heading")
        self.words = label("")
        self.words.setWordWrap(True)
        self.help = button("", tr("Do this for me"), "strong")
        self.skip = button(tr("Skip"), tr("The next step"))
        self.leave = button(tr("Leave the guide"), tr("Everything stays as it is"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 7, 14, 7)
        layout.setSpacing(10)
        layout.addWidget(self.number)
        layout.addWidget(self.words, 1)
        for widget in (self.help, self.skip, self.leave):
            layout.addWidget(widget)
        self.help.clicked.connect(self._help)
        self.skip.clicked.connect(self._next)
        self.leave.clicked.connect(self.stop)
        self._timer = QTimer(self)
        self._timer.setInterval(_LOOK)
        self._timer.timeout.connect(self.look)
        self.hide()

    def start(self) -> None:
        """From the first step on."""
        self.place = 0
        self.show()
        self._timer.start()
        self._show_step()
        self.look()

    def stop(self) -> None:
        """The guide is over."""
        self._timer.stop()
        self.hide()
        self.left.emit()

    def look(self) -> None:
        """Go on when the step is done."""
        while self.place < len(STEPS) and STEPS[self.place].done(self.front, self._before):
            self._next()

    def _next(self) -> None:
        self.place += 1
        self._show_step()

    def _show_step(self) -> None:
        self._before = self.front.workspace.project
        over = self.place >= len(STEPS)
        step = None if over else STEPS[self.place]
        self.number.setText(tr("Done") if over else tr("{place} of {count}", place=self.place + 1, count=len(STEPS)))
        self.words.setText(_DONE if step is None else step.words)
        self.help.setVisible(step is not None and step.help is not None)
        self.help.setText(step.button if step is not None else "")
        self.skip.setVisible(not over)
        self.leave.setText(tr("Close") if over else tr("Leave the guide"))
        if over:
            self._timer.stop()

    def _help(self) -> None:
        if self.place < len(STEPS):
            help_ = STEPS[self.place].help
            if help_ is not None:
                help_(self.front)
        self.look()


def guide_of(window: QWidget) -> GuideBar:
    """A guide for a window."""
    return GuideBar(cast(Front, window))
