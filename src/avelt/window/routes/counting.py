"""Counting the pairs of the routes that are seen, one a round of events: large projects never hold up the window."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, QTimer, Signal

from avelt.core.model.find import route_by_id
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.window.common.workspace import Workspace


class PairCounts(QObject):
    """Knows how many pairs a route has and how many of them are unsure. ``counted`` comes after each new one."""

    counted = Signal()

    def __init__(self, workspace: Workspace, wanted: Callable[[], Iterable[str]], parent: QObject) -> None:
        super().__init__(parent)
        self.workspace, self._wanted = workspace, wanted
        self._kept: dict[str, tuple[tuple[object, ...], tuple[int, int]]] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self.count_one)

    def start(self) -> None:
        """Go on counting what is wanted now."""
        self._timer.start()

    def known(self, route_id: str) -> tuple[int, int] | None:
        """Pairs and unsure ones, as far as they are counted; those of before an edit until they are."""
        kept = self._kept.get(route_id)
        return kept[1] if kept is not None else None

    def count_one(self) -> None:
        """Count the first route that is wanted and not known."""
        project = self.workspace.project
        for route_id in self._wanted():
            route = route_by_id(project, route_id)
            key = (*ends(project, route), route.transition.decisions, self.workspace.trust)
            kept = self._kept.get(route_id)
            if kept is not None and all(a is b for a, b in zip(kept[0], key, strict=True)):
                continue
            pairs = pairing_of(project, route).pairs
            self._kept[route_id] = (key, (len(pairs), sum(pair.confidence < self.workspace.trust for pair in pairs)))
            self.counted.emit()
            return
        self._timer.stop()
