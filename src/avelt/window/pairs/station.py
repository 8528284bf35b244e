"""Pairs: what Avelt takes as one thing and why; settling it by hand; how the rest comes and goes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.edits.routes import accept_all, decide, set_absent, set_all_absent, settle, undecide
from avelt.core.edits.session import Change
from avelt.core.model.find import frame_by_id, layer_index, route_by_id
from avelt.core.model.values import Away, Project
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.core.words import tr
from avelt.window.common.station_keys import press
from avelt.window.common.workspace import Workspace
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import NumberField, bar, button, label, panel
from avelt.window.controls.painted import Tick
from avelt.window.pairs.context import Chosen, PairsContext
from avelt.window.pairs.ghosts import ghost_of, outermost_alone, pose_of
from avelt.window.pairs.keys import KEYS
from avelt.window.pairs.threads import Threads
from avelt.window.pairs.trees import PairTree
from avelt.window.pairs.why import WhySheet

_MOST_GHOSTS = 60


class PairsStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.context = PairsContext()
        self._make()
        self._connect()

    def _make(self) -> None:
        strip, layout = bar()
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.summary = label("", "quiet")
        self.show_ghosts = Tick(tr("ghosts"))
        self.show_ghosts.setChecked(True)
        self.show_ghosts.setToolTip(tr("Where layers stand on the frame that does not have them (G)"))
        self.trust = NumberField("", 0.05, 0.0, 1.0)
        self.trust.setFixedWidth(56)
        self.trust.setToolTip(tr("Pairs below this want to be looked at"))
        self.trust.show_value(self.workspace.trust)
        self.next = button(tr("Next unsure"), tr("Go to the next pair that wants to be looked at (N)"))
        self.again = button(tr("Pair again"), tr("Forget all that was decided by hand on this route"))
        self.accept = button(
            tr("Accept all sure"), tr("Keep all sure pairs as they are, whatever changes later"), "strong"
        )
        for widget in (self.leaves_name, label("→", "quiet"), self.arrives_name, self.summary):
            layout.addWidget(widget)
        layout.addStretch(1)
        for made in (
            self.show_ghosts,
            label(tr("Trust above"), "quiet"),
            self.trust,
            self.next,
            self.again,
            self.accept,
        ):
            layout.addWidget(made)
        self.left_tree, self.right_tree = (
            PairTree(self.workspace, "from", tr("Leaves from")),
            PairTree(self.workspace, "to", tr("Arrives as")),
        )
        self.threads = Threads(self.workspace, self.context)
        self.threads.row_y = self._row_y
        upper = QHBoxLayout()
        upper.setSpacing(0)
        upper.addWidget(_titled(self.left_tree, tr("Leaves from"), "leaves"))
        upper.addWidget(self.threads, 1)
        upper.addWidget(_titled(self.right_tree, tr("Arrives as"), "arrives"))
        self.empty = EmptyPlace(
            tr("Pairs belong to a transition. Make one in Routes first."),
            tr("Go to Routes"),
            lambda: self.workspace.station_wanted.emit("routes"),
        )
        self.sheet = WhySheet(self.workspace)
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 10, 12, 12)
        inner.setSpacing(12)
        inner.addLayout(upper, 1)
        inner.addWidget(self.sheet)
        self.strip = strip
        lay_out(self, strip, self.body, self.empty)

    def _connect(self) -> None:
        workspace, sheet = self.workspace, self.sheet
        workspace.changed.connect(self._changed)
        workspace.routed.connect(self._routed)
        workspace.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        for tree, other in ((self.left_tree, self.right_tree), (self.right_tree, self.left_tree)):
            tree.picked.connect(lambda ids, current, side=tree.side: self.choose_several(side, ids, current))
            tree.dropped.connect(lambda ident, where, tree=tree, other=other: self._dropped(tree, other, ident, where))
            tree.verticalScrollBar().valueChanged.connect(self.threads.update)
            tree.itemExpanded.connect(lambda _: self.threads.update())
            tree.itemCollapsed.connect(lambda _: self.threads.update())
        self.threads.picked.connect(self.choose)
        self.threads.picked_also.connect(self.choose_also)
        self.threads.paired.connect(self.pair)
        self.threads.posed.connect(self._pose_ghost)
        self.threads.cancelled.connect(self.workspace.cancel_gesture)
        self.show_ghosts.toggled.connect(lambda _: self._show_chosen())
        self.trust.committed.connect(self._set_trust)
        self.trust.refused.connect(workspace.said)
        self.next.clicked.connect(self.next_unsure)
        self.again.clicked.connect(self.pair_again)
        self.accept.clicked.connect(self.accept_sure)
        sheet.looked.connect(self._look_at)
        sheet.pair_these.clicked.connect(lambda: self.pair(self.context.chosen.left, self.context.chosen.right))
        sheet.apart.clicked.connect(self.keep_apart)
        sheet.leave_to.clicked.connect(self.forget_decision)
        sheet.content_wanted.connect(lambda key: self._settle(tr("how contents change"), content=key))
        sheet.swap_wanted.connect(lambda share: self._settle(tr("when contents swap"), swap_at=share))
        sheet.order_wanted.connect(lambda share: self._settle(tr("when order flips"), order_at=share))
        sheet.ways.changed.connect(self._set_pose)
        sheet.ways.for_all.connect(self._way_for_all)
        sheet.ways.reset.connect(self._as_all)

    # Showing

    def enter(self) -> None:
        """The station comes to the front, with the layer that is chosen elsewhere."""
        self.refresh()
        layer, route = self.workspace.layer, self.workspace.route
        if layer is not None and route is not None and self.workspace.frame is not None:
            if self.workspace.frame.id == route.leaves:
                self.choose("from", layer.id)
            elif self.workspace.frame.id == route.arrives:
                self.choose("to", layer.id)

    def leave(self) -> None:
        """Another station comes to the front."""

    def _routed(self) -> None:
        self.context.choose(Chosen())
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        route, project = self.workspace.route, self.workspace.project
        self.body.setVisible(route is not None)
        self.empty.setVisible(route is None)
        self.strip.setVisible(route is not None)
        self.context.pairing = None
        if route is None:
            return
        self.context.frames = left, right = ends(project, route)
        self.context.pairing = pairing = pairing_of(project, route)
        unsure = sum(pair.confidence < self.workspace.trust for pair in pairing.pairs)
        self.leaves_name.setText(frame_by_id(project, route.leaves).name)
        self.arrives_name.setText(frame_by_id(project, route.arrives).name)
        look = tr(", {unsure} to look at", unsure=unsure) if unsure else ""
        self.summary.setText(
            tr(
                "{count} pairs{look}, {count2} leave, {count3} enter",
                count=len(pairing.pairs),
                look=look,
                count2=len(pairing.leaves),
                count3=len(pairing.enters),
            )
        )
        self.next.setEnabled(bool(unsure))
        self.again.setEnabled(bool(route.transition.decisions))
        self.left_tree.fill(left, pairing, route.transition)
        self.right_tree.fill(right, pairing, route.transition)
        known = (layer_index(left), layer_index(right))
        kept = [
            Chosen(entry.left if entry.left in known[0] else "", entry.right if entry.right in known[1] else "")
            for entry in self.context.every
        ]
        kept = [entry for entry in kept if entry != Chosen()]
        if not kept and pairing.pairs:
            first = min(pairing.pairs, key=lambda pair: pair.confidence)
            kept = [Chosen(first.from_id, first.to_id)]
        self.context.choose(kept[-1] if kept else Chosen(), tuple(kept[:-1]))
        self._show_chosen()

    def _show_chosen(self) -> None:
        if self.context.pairing is None or self.workspace.route is None:
            return
        transition = self.workspace.route.transition
        for tree, ident, ids in (
            (self.left_tree, self.context.chosen.left, [entry.left for entry in self.context.every]),
            (self.right_tree, self.context.chosen.right, [entry.right for entry in self.context.every]),
        ):
            tree.open_around(ident)
            tree.show_layers([one for one in ids if one], ident)
        self._make_ghosts()
        self.threads.update()
        self.sheet.show_couple(self.context, transition)

    def _make_ghosts(self) -> None:
        route, shown = self.workspace.route, self.show_ghosts.isChecked()
        if route is None or self.context.pairing is None:
            return
        program = self.workspace.program(route)
        alone = self.context.chosen.alone
        self.threads.ghost = ghost_of(program, self.context.pairing, route.transition, alone) if alone else None
        idents = outermost_alone(self.context.pairing)[:_MOST_GHOSTS] if shown else ()
        made = (ghost_of(program, self.context.pairing, route.transition, ident) for ident in idents)
        self.threads.ghosts = tuple(ghost for ghost in made if ghost is not None)

    def _row_y(self, side: str, layer_id: str) -> float | None:
        tree = self.left_tree if side == "from" else self.right_tree
        where = tree.row_middle(layer_id)
        return float(self.threads.mapFromGlobal(where).y()) if where is not None else None

    # Choosing

    def choose(self, side: str, layer_id: str) -> None:
        """Look at a layer, with its partner when it has one."""
        self.choose_several(side, (layer_id,), layer_id)

    def choose_several(self, side: str, ids: Sequence[str], layer_id: str) -> None:
        """Choose layers of a side, one to be shown in full, each with its partner."""
        if self.context.pairing is None:
            return
        found = {ident: self._couple(side, ident) for ident in ids}
        self.context.choose(found[layer_id], tuple(found.values()))
        self.workspace.choose_layer(layer_id)
        self._show_chosen()

    def choose_also(self, side: str, layer_id: str) -> None:
        """One more beside what is chosen, or one less."""
        if self.context.pairing is None:
            return
        couple, every = self._couple(side, layer_id), self.context.every
        rest = tuple(entry for entry in every if entry != couple)
        if couple in every and rest:
            self.context.choose(rest[-1], rest[:-1])
        else:
            self.context.choose(couple, rest)
        self._show_chosen()

    def _couple(self, side: str, layer_id: str) -> Chosen:
        pairing = self.context.pairing
        if pairing is None:
            return Chosen()
        if side == "from":
            return Chosen(layer_id, pairing.to_of.get(layer_id, ""))
        return Chosen(pairing.from_of.get(layer_id, ""), layer_id)

    def _look_at(self, chosen: Chosen) -> None:
        self.context.choose(chosen)
        self._show_chosen()

    def next_unsure(self) -> None:
        """The next pair that wants to be looked at."""
        if self.context.pairing is None:
            return
        unsure = [pair for pair in self.context.pairing.pairs if pair.confidence < self.workspace.trust]
        if unsure:
            ids = [pair.from_id for pair in unsure]
            at = ids.index(self.context.chosen.left) if self.context.chosen.left in ids else -1
            pair = unsure[(at + 1) % len(unsure)]
            self._look_at(Chosen(pair.from_id, pair.to_id))

    def _set_trust(self, value: float) -> None:
        self.workspace.trust = value
        self.refresh()
        self.workspace.routed.emit()

    # Settling

    def _dropped(self, tree: PairTree, other: PairTree, layer_id: str, where: QPoint) -> None:
        """A layer was dragged out of a tree: onto the other tree, or onto a frame."""
        found = other.layer_at(where)
        if not found:
            under = self.threads.drop_at(QPointF(self.threads.mapFromGlobal(where)), tree.side, layer_id)
            found = under[1] if under is not None and under[0] != tree.side else ""
        if found:
            self.pair(layer_id, found) if tree.side == "from" else self.pair(found, layer_id)

    def pair(self, left: str, right: str) -> None:
        """Pair two layers by hand."""
        route = self.workspace.route
        if route is None or not left or not right:
            return
        before = self.context.every
        self.context.choose(Chosen(left, right))
        if not self.workspace.do(tr("pair by hand"), lambda p: decide(p, route.id, left, right, True)):
            self.context.choose(before[-1], before[:-1])
        self.refresh()

    def keep_apart(self) -> None:
        """Take the chosen pairs apart."""
        route, pairs = self.workspace.route, self.context.pairs
        if route is None or not pairs:
            return
        self._each(tr("keep apart"), pairs, lambda p, entry: decide(p, route.id, entry.left, entry.right, False))
        self.choose_several("from", [entry.left for entry in pairs], pairs[-1].left)

    def forget_decision(self) -> None:
        """Let Avelt decide again about the chosen layers; says so when nothing was decided about them."""
        route = self.workspace.route
        entries = tuple(entry for entry in self.context.every if entry.left or entry.right)
        if route is None or not entries:
            self.workspace.said.emit(tr("Choose a layer first."))
            return
        left, right = {entry.left for entry in entries} - {""}, {entry.right for entry in entries} - {""}
        if not any(d.from_id in left or d.to_id in right for d in route.transition.decisions):
            self.workspace.said.emit(tr("Nothing was decided by hand about what is chosen."))
            return
        self._each(
            tr("decide automatically"),
            entries,
            lambda p, entry: undecide(p, route.id, entry.left or None, entry.right or None),
        )

    def _each(
        self, words: str, entries: Sequence[Chosen], change: Callable[[Project, Chosen], Project], dragged: bool = False
    ) -> bool:
        """One edit of several, as one entry."""

        def edit(project: Project) -> Project:
            for entry in entries:
                project = change(project, entry)
            return project

        words = words if len(entries) < 2 else f"{words}: {len(entries)}"
        return self.workspace.gesture(words, edit, self) if dragged else self.workspace.do(words, edit)

    def pair_again(self) -> None:
        """Forget everything that was decided by hand on this route."""
        route = self.workspace.route
        if route is not None:
            self.workspace.do(tr("pair again"), lambda p: undecide(p, route.id, None, None))

    def accept_sure(self) -> None:
        """Keep all sure pairs as they are."""
        route = self.workspace.route
        if route is None or self.context.pairing is None:
            return
        sure = [p for p in self.context.pairing.pairs if p.by == "evidence" and p.confidence >= self.workspace.trust]
        if not sure:
            self.workspace.said.emit(tr("All sure pairs are kept already."))
            return
        self.workspace.do(
            tr("accept all sure pairs"), lambda p: accept_all(p, route.id, [(e.from_id, e.to_id) for e in sure])
        )
        self.workspace.said.emit(tr("{count} pairs are kept, whatever changes later.", count=len(sure)))

    def _changed(self, change: Change) -> None:
        if self.isVisible() and change.concerns(self.workspace.route):
            self.refresh()

    def _settle(self, words: str, **own: object) -> None:
        route, pairs = self.workspace.route, self.context.pairs
        if route is not None and pairs:
            self._each(words, pairs, lambda p, entry: settle(p, route.id, (entry.left, entry.right), **own))  # type: ignore[arg-type]

    # Leaving and entering

    def _set_pose(self, pose: Away, names: Sequence[str], dragged: bool = False) -> None:
        """Another pose for all chosen layers that stand alone; of the others only what was changed of it."""
        route, alone = self.workspace.route, self.context.chosen.alone
        if route is None or not alone:
            return
        leaves = bool(self.context.chosen.left)
        own = {name: getattr(pose, name) for name in names}

        def change(project: Project, entry: Chosen) -> Project:
            now = pose_of(route_by_id(project, route.id).transition, entry.alone, leaves)[0]
            new = replace(now, **own) if own and entry.alone != alone else pose
            return set_absent(project, route.id, entry.alone, new)

        entries = tuple(Chosen(ident, "") if leaves else Chosen("", ident) for ident in self.context.singles)
        self._each(tr("drag ghost") if dragged else tr("how it comes and goes"), entries, change, dragged)

    def _pose_ghost(self, pose: Away, over: bool) -> None:
        """While a ghost is dragged the pose is shown; the whole drag is one entry."""
        ghost = self.threads.ghost
        if ghost is None:
            return
        base = ghost.pose
        names = [name for name in base.__struct_fields__ if getattr(base, name) != getattr(pose, name)]
        self._set_pose(pose, names, dragged=True)
        if over:
            self.workspace.end_gesture()

    def _way_for_all(self) -> None:
        route, alone = self.workspace.route, self.context.chosen.alone
        if route is None or not alone:
            return
        side, pose = ("leave" if self.context.chosen.left else "enter"), self.sheet.ways.pose

        def edit(project):  # type: ignore[no-untyped-def]
            project = set_all_absent(project, route.id, side, pose)  # type: ignore[arg-type]
            return set_absent(project, route.id, alone, None)

        words = "leave" if side == "leave" else "enter"
        if self.workspace.do(tr("the same for all that {words}", words=words), edit):
            self.workspace.said.emit(tr("All that {words} without one of their own now go like this.", words=words))

    def _as_all(self) -> None:
        route, singles = self.workspace.route, self.context.singles
        if route is not None and singles:
            entries = tuple(Chosen(ident, "") for ident in singles)
            self._each(tr("use the shared one"), entries, lambda p, entry: set_absent(p, route.id, entry.alone, None))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not press(KEYS, self, event):
            super().keyPressEvent(event)


def _titled(tree: PairTree, words: str, role: str) -> QWidget:
    holder = panel()
    inside = QVBoxLayout(holder)
    inside.setContentsMargins(10, 8, 4, 8)
    inside.addWidget(label(words, role))
    inside.addWidget(tree)
    holder.setFixedWidth(252)
    return holder
