"""Small values and gestures for tests."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QWidget

from avelt.core.curves.named import STARTERS
from avelt.core.edits.routes import add_route
from avelt.core.model.curves import Line
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Box, Frame, Group, Layer, Oval, Project, Route, Run, Solid, Text, Transition
from avelt.core.presets.shelf import Shelf
from avelt.window.shell.main_window import MainWindow
from avelt.window.shell.recovery import Recovery
from avelt.window.start import application, make_window


def box(
    ident: str, x: float, y: float, w: float, h: float, color: str = "#336699", name: str = "", **own: Any
) -> Layer:
    """A box; its origin is its own unless it is named."""
    own.setdefault("origin", ident)
    body = own.pop("body", Box())
    return Layer(id=ident, name=name or ident, body=body, x=x, y=y, w=w, h=h, fills=(Solid(color),), **own)


def oval(ident: str, x: float, y: float, w: float, h: float, color: str = "#993366", **own: Any) -> Layer:
    """An oval."""
    return box(ident, x, y, w, h, color, body=Oval(), **own)


def text(ident: str, words: str, x: float = 0, y: float = 0, size: float = 16, name: str = "") -> Layer:
    """A text of one run."""
    return Layer(
        ident, ident, name or ident, Text((Run(words),), size=size), x, y, 80, size * 1.2, fills=(Solid("#111"),)
    )


def group(ident: str, x: float, y: float, children: tuple[Layer, ...], name: str = "", **own: Any) -> Layer:
    """A group around its children, which are placed in it."""
    w = max((child.x + child.w for child in children), default=0.0)
    h = max((child.y + child.h for child in children), default=0.0)
    clips = own.pop("clips", False)
    return Layer(ident, own.pop("origin", ident), name or ident, Group(children, clips), x, y, w, h, **own)


def project_of(left: tuple[Layer, ...], right: tuple[Layer, ...], transition: Transition | None = None) -> Project:
    """Two frames A and B of 200 x 200 with one route, straight and 100 ms long unless told."""
    frames = (Frame("A", "A", 200, 200, layers=left), Frame("B", "B", 200, 200, layers=right))
    route = Route("R", "A", "B", Tap(), transition or Transition(100.0, Line()))
    return Project("Test", frames=frames, routes=(route,), curves=STARTERS, first="A", next_id=100)


def tapped(frames: tuple[Frame, ...], *ways: tuple[str, str, float]) -> Project:
    """Frames with routes on a tap anywhere, straight: (leaves, arrives, ms)."""
    project = replace(project_of((), ()), frames=frames, routes=())
    for leaves, arrives, ms in ways:
        project, _ = add_route(project, leaves, arrives, Tap(), Transition(ms, Line()))
    return project


def pixel(image: QImage, x: int, y: int) -> tuple[int, int, int]:
    """One pixel's red, green and blue."""
    colour = image.pixelColor(x, y)
    return colour.red(), colour.green(), colour.blue()


class WindowCase:
    """Mix in: a window on the demo, shown at 1280 x 800, with a shelf of its own."""

    demo = True

    def setUp(self) -> None:
        self.app = application()
        self.folder = tempfile.TemporaryDirectory()
        self.window = self.open_window()

    def open_window(self) -> MainWindow:
        folder = Path(self.folder.name)
        window = make_window(None, self.demo, False, Shelf(folder / "shelf"), Recovery(folder / "state"))
        window.show()
        window.activateWindow()
        self.settle()
        return window

    def tearDown(self) -> None:
        self.close_window(self.window)
        self.folder.cleanup()

    def close_window(self, window: MainWindow) -> None:
        window.workspace.session.saved()
        self.app.removeEventFilter(window)
        window.close()
        # Functions connected to the desk hold its stations and they hold the desk: only its end frees them all, and
        # windows that stay alive make every later test slower.
        for part in (window, window.workspace, window.workspace.theme):
            part.deleteLater()
        self.settle()

    def settle(self) -> None:
        """Let everything that waits happen."""
        for _ in range(3):
            self.app.processEvents()
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def walk(self, *steps: Any) -> None:
        """The steps of a story one after the other; what one of them breaks is said with its name."""
        for step in steps:
            with self.subTest(step.__name__):
                step()
            self.assertFalse(self.window.grab().isNull())

    def take_all_back_and_again(self) -> None:
        """Undo to the empty project, redo to what it is, and find it in its file."""
        whole, count = self.project, 0
        while self.workspace.session.undo_label:
            self.window.do("undo")
            count += 1
        self.assertEqual((self.project.frames, self.project.routes), ((), ()))
        for _ in range(count):
            self.window.do("redo")
        self.assertEqual(self.project, whole)
        path = Path(self.folder.name) / "story.avelt"
        self.assertTrue(self.window.save_to(path))
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.project, whole)

    def loosen(self) -> None:
        """Nothing is tied to anything on the first route any more: what is tied and staggered stays where it is."""
        from avelt.core.edits.ties_and_staggers import dissolve, untie
        from avelt.core.model.find import route_by_id

        project, ident = self.project, self.project.routes[0].id
        motion = route_by_id(project, ident).transition
        for rule in motion.staggers:
            project = dissolve(project, ident, rule.id)
        self.window.workspace.session.replace(untie(project, ident, [tie.cue for tie in motion.ties]))
        self.settle()

    def pick(self, chooser: QComboBox, words: str) -> None:
        """Choose an entry of a list as a person does."""
        place = chooser.findText(words)
        self.assertGreaterEqual(place, 0, words)
        chooser.setCurrentIndex(place)
        chooser.activated.emit(place)

    @property
    def workspace(self) -> Any:
        return self.window.workspace

    @property
    def project(self) -> Project:
        return self.window.workspace.project


def send(
    widget: QWidget, kind: QEvent.Type, point: QPointF, keys: Any = Qt.KeyboardModifier.NoModifier, down: bool = True
) -> None:
    """One mouse event at a point of the widget."""
    left = Qt.MouseButton.LeftButton
    button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else left
    buttons = left if down else Qt.MouseButton.NoButton
    event = QMouseEvent(kind, point, widget.mapToGlobal(point), button, buttons, keys)
    QApplication.sendEvent(widget, event)


def drag(
    widget: QWidget, start: QPointF, end: QPointF, steps: int = 6, keys: Any = Qt.KeyboardModifier.NoModifier
) -> None:
    """Press, move in steps, release."""
    send(widget, QEvent.Type.MouseButtonPress, start, keys)
    for k in range(1, steps + 1):
        send(widget, QEvent.Type.MouseMove, start + (end - start) * k / steps, keys)
    send(widget, QEvent.Type.MouseButtonRelease, end, keys, down=False)
    QApplication.processEvents()


def click(widget: QWidget, point: QPointF | None = None, keys: Any = Qt.KeyboardModifier.NoModifier) -> None:
    """A click in the middle, or at a point."""
    where = point.toPoint() if point is not None else QPoint(widget.width() // 2, widget.height() // 2)
    QTest.mouseClick(widget, Qt.MouseButton.LeftButton, keys, where)
    QApplication.processEvents()


def type_into(field: QWidget, words: str) -> None:
    """Take over a field's text and press Return."""
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, words)
    QTest.keyClick(field, Qt.Key.Key_Return)
    QApplication.processEvents()


def keeping(name: str, place: int = 0, tags: str = "") -> Any:
    """Somebody who fills in the form of a preset and saves."""

    def answer(form: Any) -> bool:
        form.what.setCurrentIndex(place)
        type_into(form.name, name)
        type_into(form.tags, tags)
        return bool(form.ok.isEnabled())

    return answer
