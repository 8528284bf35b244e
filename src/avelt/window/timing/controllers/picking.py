"""Choosing layers in the views of Timing: clicks, deeper clicks, and what a right click is about."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QWidget

from avelt.core.model.motion import PairKey
from avelt.core.words import tr
from avelt.window.common.menus import open_at
from avelt.window.common.picking import taken
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.controllers.ties import TieController
from avelt.window.timing.rows import Row, holding, moving_properties
from avelt.window.timing.selection import Selection
from avelt.window.timing.sheet_rows import SheetRows
from avelt.window.timing.stage import Stage


class PickController(Controller):
    """For the three views of a station. ``opened`` turns the groups whose rows are shown open or closed."""

    def __init__(
        self,
        context: TimingContext,
        window: QWidget,
        stage: Stage,
        rows: SheetRows,
        ties: TieController,
        turn: Callable[[set[PairKey]], None],
    ) -> None:
        super().__init__(context, window)
        self.now, self.rows, self.ties, self.turn = stage.now, rows, ties, turn
        for side, view in enumerate((stage.left.view, stage.right.view)):
            view.picked.connect(lambda ident, side=side: self.pick_layer(side, ident))
            view.picked_also.connect(lambda ident, side=side: self.pick_layer(side, ident, also=True))
            view.menu_wanted.connect(self._menu)
            view.counts = partial(self._moves, side)
        self.now.clicked.connect(self._clicked)
        self.now.menu_wanted.connect(self._menu_in_now)
        self.workspace.chose.connect(self._chose)

    def _moves(self, side: int, ident: str) -> bool:
        """Whether a layer of the frame left (0) or arrived at (1) moves by itself."""
        program = self.context.program
        if program is None:
            return False
        return any(program.ends_of(slot)[side] == ident for slot in moving_properties(program))

    def tell(self) -> None:
        """The chosen layer is chosen in the other stations, too."""
        key = self.context.key
        ident = (key.from_id or key.to_id) if key is not None else None
        if ident:
            self.workspace.choose_layer(ident)

    def pick_layer(self, side: int, ident: str, tell: bool = True, also: bool = False) -> None:
        """Choose the row of a layer of the frame left (``side`` 0) or arrived at (1), or of what it moves with."""
        program = self.context.program
        for s, part in enumerate(program.contents if program is not None else ()):
            layer = part.left if side == 0 else part.right
            if layer is not None and layer.id == ident:
                self.pick_slot(s, tell, also)
                return

    def pick_slot(self, slot: int, tell: bool = True, also: bool = False) -> None:
        """Choose the row of a slot, opening the groups it is folded into; without a row, that of what it lies in."""
        program = self.context.program
        if program is None:
            return
        moving = moving_properties(program)
        while slot >= 0 and slot not in moving and self._row_of(slot) is None:
            slot = int(program.parent[slot])
        if slot < 0:
            return
        if self._row_of(slot) is None:
            self._open_around(slot)
        found = self._row_of(slot)
        if found is None:
            self.workspace.said.emit(tr("The rows that are shown leave this layer out: show all that changes."))
        elif also:
            self.context.select(self.context.selection.toggled(found.key))
            self.tell()
        elif self.context.key is None or self.context.key.pair != found.ends or len(self.context.keys) > 1:
            self.context.select(Selection((found.key,)))
            if tell:
                self.tell()

    def _row_of(self, slot: int) -> Row | None:
        """The row of a slot's layer, when it is shown."""
        program = self.context.program
        ends = program.ends_of(slot) if program is not None else None
        return next((entry for entry in self.rows.rows if entry.ends == ends and not entry.prop), None)

    def _open_around(self, slot: int) -> None:
        """Open the groups that a slot lies in."""
        program = self.context.program
        if program is None:
            return
        closed = set()
        up = int(program.parent[slot])
        shown = {entry.ends: entry.open for entry in self.rows.rows if not entry.prop}
        quiet = holding(program, moving_properties(program)) - set(moving_properties(program))
        while up >= 0:
            ends = program.ends_of(up)
            # A head that is not shown yet is closed, unless it is one of those that are opened by themselves.
            if not shown.get(ends, up in quiet):
                closed.add(ends)
            up = int(program.parent[up])
        self.turn(closed)

    def chain_at(self, x: float, y: float) -> tuple[int, ...]:
        """What a click in the Now view can take at a point, the outermost first: what moves, else all there is."""
        program, chain = self.context.program, self.now.chain_at(x, y)
        moving = moving_properties(program) if program is not None else {}
        return tuple(slot for slot in chain if slot in moving) or chain

    def _clicked(self, x: float, y: float, deeper: bool, also: bool) -> None:
        if not deeper and not also and self.ties.take_point(x, y):
            return
        chain = self.chain_at(x, y)
        if chain:
            chosen = () if also else (self.context.slot,)
            self.pick_slot(taken(chain, chosen, deeper), also=also)

    def _menu_in_now(self, x: float, y: float, where: QPoint) -> None:
        """A right click in the Now view chooses what lies there first."""
        chain, program = self.chain_at(x, y), self.context.program
        slots = {program.slot_of(*key.pair) for key in self.context.keys} if program is not None else set()
        if chain and not slots & set(chain):
            self.pick_slot(taken(chain, (), False))
        self._menu(where)

    def _menu(self, where: QPoint) -> None:
        open_at(self.ties.menu(), where)

    def _chose(self) -> None:
        """Another layer was chosen elsewhere."""
        layer, key = self.workspace.layer, self.context.key
        if not self.window.isVisible() or layer is None or (key and layer.id in key.pair):
            return
        for side in (0, 1):
            self.pick_layer(side, layer.id, tell=False)
