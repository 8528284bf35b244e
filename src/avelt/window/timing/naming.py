"""What is done with curves from Timing: the drawer, keeping, renaming, giving up, making a use its own; and turns."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QInputDialog, QLineEdit

from avelt.core.curves.named import title
from avelt.core.edits.cues import space_of_cues
from avelt.core.edits.curves import keep_curve, make_own, remove_curve, rename_curve
from avelt.core.edits.routes import set_cue, settle
from avelt.core.model.curves import Named
from avelt.core.model.motion import Space
from avelt.core.model.values import Project
from avelt.window.timing.deeds import Deeds
from avelt.window.timing.drawer import CurveDrawer

if TYPE_CHECKING:
    from avelt.window.timing.station import TimingStation


class CurveNames(Deeds):
    """Carries out what the drawer and the bench ask for, for the chosen cue of a station."""

    def __init__(self, station: TimingStation) -> None:
        super().__init__(station)
        self.drawer = CurveDrawer(self.workspace, station)
        self.drawer.keep_wanted.connect(self.keep)
        self.drawer.rename_wanted.connect(self.rename)
        self.drawer.remove_wanted.connect(self.remove)
        station.bench.drawer_wanted.connect(self.open_drawer)
        station.bench.own_wanted.connect(self.make_own)
        station.bench.shortest_wanted.connect(self.set_shortest)
        station.bench.space_wanted.connect(self.set_space)
        station.bench.shift_wanted.connect(self.set_shift)

    def set_shortest(self, on: bool) -> None:
        """Angles of the chosen cues go the shortest way, or as typed."""
        route, keys = self.station.route, self.station.keys()

        def edit(project: Project) -> Project:
            for key in keys:
                project = set_cue(project, route.id if route else "", key, shortest=on or None)
            return project

        if route is not None and keys:
            self.workspace.do("the way of a turn", edit)

    def set_space(self, space: Space) -> None:
        """The space in which the colours of the chosen cues blend."""
        route, keys = self.station.route, self.station.keys()
        if route is not None and keys:
            self.workspace.do("colour space", lambda p: space_of_cues(p, route.id, keys, space))

    def set_shift(self, share: float) -> None:
        """Where the outline of the chosen pair begins."""
        route, key = self.station.route, self.station.key
        if route is not None and key is not None and key[0] is not None and key[1] is not None:
            ends = (key[0], key[1])
            self.workspace.do("where an outline begins", lambda p: settle(p, route.id, ends, shift=share))

    def open_drawer(self) -> None:
        """The named curves with their pictures."""
        if self.station.key is not None:
            self._show()
            self.drawer.open_over(self.station)

    def follow(self) -> None:
        """Take over the project while the drawer is open."""
        if self.drawer.isVisible():
            self._show()

    def _show(self) -> None:
        ready = self.station.route is not None and self.station.key is not None
        curve = self.station.cue_curve() if ready else None
        self.drawer.cards.show_curves(self.workspace.project, curve.id if isinstance(curve, Named) else "")

    def keep(self) -> None:
        """The cue's curve under a name."""
        route, key = self.station.route, self.station.key
        if route is None or key is None:
            return
        curve = self.station.cue_curve()
        name, ok = QInputDialog.getText(self.station, "Keep curve", "Name", QLineEdit.EchoMode.Normal, "")
        if ok and name.strip():
            self.workspace.do(f"keep curve {name.strip()}", lambda p: keep_curve(p, route.id, key, curve, name)[0])

    def rename(self, curve_id: str) -> None:
        """Another name for a curve."""
        if curve_id:
            old = title(self.workspace.project, Named(curve_id))
            name, ok = QInputDialog.getText(self.station, "Rename curve", "Name", QLineEdit.EchoMode.Normal, old)
            if ok:
                self.workspace.do(f"rename curve {old}", lambda p: rename_curve(p, curve_id, name))

    def remove(self, curve_id: str) -> None:
        """Give up a curve that nothing uses."""
        if curve_id:
            name = title(self.workspace.project, Named(curve_id))
            self.workspace.do(f"remove curve {name}", lambda p: remove_curve(p, curve_id))

    def make_own(self) -> None:
        """The named curve becomes the cue's own."""
        route, key = self.station.route, self.station.key
        if route is not None and key is not None:
            curve = self.station.cue_curve()
            self.workspace.do("make a curve its own", lambda p: make_own(p, route.id, key, curve))
