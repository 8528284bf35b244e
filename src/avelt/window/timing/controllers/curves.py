"""What is done with curves from Timing: the drawer, keeping, renaming, giving up, making a use its own; and turns."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QInputDialog, QLineEdit, QMenu, QWidget

from avelt.core.curves import easing, text
from avelt.core.curves.named import title
from avelt.core.edits.cues import space_of_cues
from avelt.core.edits.curves import keep_curve, make_own, remove_curve, rename_curve
from avelt.core.edits.routes import set_cue, settle
from avelt.core.errors import FormatError
from avelt.core.model.curves import Named
from avelt.core.model.motion import Space
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.common.menus import open_at
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.controllers.cues import CueController
from avelt.window.timing.curve_editor import CurveEditor
from avelt.window.timing.drawer import CurveDrawer


class CurveController(Controller):
    """Carries out what the drawer and the curve editor ask for, for the chosen cue."""

    def __init__(self, context: TimingContext, window: QWidget, editor: CurveEditor, cues: CueController) -> None:
        super().__init__(context, window)
        self.editor, self.cues = editor, cues
        self.drawer = CurveDrawer(self.workspace, window)
        self.drawer.taken.connect(cues.choose_named)
        self.drawer.keep_wanted.connect(self.keep)
        self.drawer.rename_wanted.connect(self.rename)
        self.drawer.remove_wanted.connect(self.remove)
        editor.drawer_wanted.connect(self.open_drawer)
        editor.own_wanted.connect(self.make_own)
        editor.shortest_wanted.connect(self.set_shortest)
        editor.space_wanted.connect(self.set_space)
        editor.shift_wanted.connect(self.set_shift)
        editor.canvas.menu_wanted.connect(lambda where: open_at(self.menu(), where) if context.key else None)

    def menu(self) -> QMenu:
        """What can be done with the curve that is shown."""
        menu = QMenu(self.window)
        for words, does in (
            (tr("Named curves…\tC"), self.open_drawer),
            (tr("Keep under a name…"), self.keep),
            (tr("Make its own"), self.make_own),
            ("", None),
            (tr("Copy as text"), self.copy),
            (tr("Paste"), self.paste),
            (tr("Run backwards"), self.turn_round),
            ("", None),
            (tr("Back to inherited time and curve\tShift+Del"), lambda: self.cues.inherit(self.context.key)),
        ):
            if does is None:
                menu.addSeparator()
            else:
                menu.addAction(words).triggered.connect(lambda _=False, does=does: does())
        return menu

    def copy(self) -> None:
        """The curve as text, for other programs too."""
        QGuiApplication.clipboard().setText(text.own(self.editor.canvas.curve))
        self.workspace.said.emit(tr("Curve copied as text."))

    def paste(self) -> None:
        """A curve from the clipboard's text."""
        try:
            self.cues.choose_curve(text.parse(QGuiApplication.clipboard().text().strip()))
        except FormatError as error:
            self.workspace.said.emit(str(error))

    def turn_round(self) -> None:
        """The same curve run backwards."""
        self.cues.choose_curve(easing.reversed_curve(self.editor.canvas.curve))

    def set_shortest(self, on: bool) -> None:
        """Angles of the chosen cues go the shortest way, or as typed."""
        route, keys = self.context.route, self.context.keys

        def edit(project: Project) -> Project:
            for key in keys:
                project = set_cue(project, route.id if route else "", key, shortest=on or None)
            return project

        if route is not None and keys:
            self.workspace.do(tr("how angles go"), edit)

    def set_space(self, space: Space) -> None:
        """The space in which the colours of the chosen cues blend."""
        route, keys = self.context.route, self.context.keys
        if route is not None and keys:
            self.workspace.do(tr("colour space"), lambda p: space_of_cues(p, route.id, keys, space))

    def set_shift(self, share: float) -> None:
        """Where the outline of the chosen pair begins."""
        route, key = self.context.route, self.context.key
        if route is not None and key is not None and key.from_id is not None and key.to_id is not None:
            ends = (key.from_id, key.to_id)
            self.workspace.do(tr("where an outline begins"), lambda p: settle(p, route.id, ends, shift=share))

    def open_drawer(self) -> None:
        """The named curves with their pictures."""
        if self.context.key is not None:
            self._show()
            self.drawer.open_over(self.window)

    def follow(self) -> None:
        """Take over the project while the drawer is open."""
        if self.drawer.isVisible():
            self._show()

    def _show(self) -> None:
        curve = self.context.cue_curve()
        self.drawer.cards.show_curves(self.workspace.project, curve.id if isinstance(curve, Named) else "")

    def keep(self) -> None:
        """The cue's curve under a name."""
        route, key, curve = self.context.route, self.context.key, self.context.cue_curve()
        if route is None or key is None or curve is None:
            return
        name, ok = QInputDialog.getText(self.window, tr("Keep curve"), tr("Name"), QLineEdit.EchoMode.Normal, "")
        if ok and name.strip():
            self.workspace.do(
                tr("keep curve {strip}", strip=name.strip()), lambda p: keep_curve(p, route.id, key, curve, name)[0]
            )

    def rename(self, curve_id: str) -> None:
        """Another name for a curve."""
        if curve_id:
            old = title(self.workspace.project, Named(curve_id))
            name, ok = QInputDialog.getText(self.window, tr("Rename curve"), tr("Name"), QLineEdit.EchoMode.Normal, old)
            if ok:
                self.workspace.do(tr("rename curve {old}", old=old), lambda p: rename_curve(p, curve_id, name))

    def remove(self, curve_id: str) -> None:
        """Give up a curve that nothing uses."""
        if curve_id:
            name = title(self.workspace.project, Named(curve_id))
            self.workspace.do(tr("remove curve {name}", name=name), lambda p: remove_curve(p, curve_id))

    def make_own(self) -> None:
        """The named curve becomes the cue's own."""
        route, key, curve = self.context.route, self.context.key, self.context.cue_curve()
        if route is not None and key is not None and curve is not None:
            self.workspace.do(tr("make a curve its own"), lambda p: make_own(p, route.id, key, curve))
