"""Pairs: what Avelt takes as one thing and why; settling it by hand; how the rest comes and goes."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QSizePolicy, QTreeWidgetItem, QVBoxLayout, QWidget

from avelt.core.edits.routes import decide, set_absent, undecide
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.values import FADED, Frame, Layer, Pose
from avelt.core.pairing.engine import Pairing
from avelt.core.pairing.explain import pair_of, reasons, why_alone
from avelt.core.timing.compile import pairing_of
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import NumberField, bar, button, label, panel, row
from avelt.window.controls.painted import Tree, children_of
from avelt.window.pairs.threads import Bars, Chosen, Threads
from avelt.window.shell.desk import UNSURE, Desk

_ID = Qt.ItemDataRole.UserRole


class PairsStation(QWidget):
    """The station."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.chosen = Chosen()
        self.pairing: Pairing | None = None
        self._make()
        self._connect()

    def _make(self) -> None:
        strip, layout = bar()
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.summary = label("", "quiet")
        self.next = button("Next unsure", "Go to the next pair below 0.70 (N)")
        for widget in (self.leaves_name, label("→", "quiet"), self.arrives_name, self.summary):
            layout.addWidget(widget)
        layout.addStretch(1)
        layout.addWidget(self.next)
        self.left_tree, self.right_tree = self._tree("Leaves from"), self._tree("Arrives as")
        self.threads = Threads(self.desk)
        upper = QHBoxLayout()
        upper.setSpacing(12)
        for tree, words, role in (
            (self.left_tree, "Leaves from", "leaves"),
            (None, "", ""),
            (self.right_tree, "Arrives as", "arrives"),
        ):
            holder = panel()
            inside = QVBoxLayout(holder)
            if tree is None:
                inside.setContentsMargins(0, 0, 0, 0)
                inside.addWidget(self.threads)
                upper.addWidget(holder, 1)
                continue
            inside.setContentsMargins(10, 8, 4, 8)
            inside.addWidget(label(words, role))
            inside.addWidget(tree)
            holder.setFixedWidth(252)
            upper.addWidget(holder)
        self.empty = EmptyPlace(
            "Pairs belong to a transition. Make one in Routes first.", "Go to Routes",
            lambda: self.desk.station_wanted.emit("routes"),
        )  # fmt: skip
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 10, 12, 12)
        inner.setSpacing(12)
        inner.addLayout(upper, 1)
        inner.addWidget(self._make_why())
        lay_out(self, strip, self.body, self.empty)

    def _tree(self, name: str) -> Tree:
        tree = Tree()
        tree.setColumnCount(2)
        tree.setHeaderHidden(True)
        tree.setIndentation(11)
        tree.setAccessibleName(name)
        tree.header().setStretchLastSection(False)
        tree.header().setSectionResizeMode(0, tree.header().ResizeMode.Stretch)
        tree.header().setSectionResizeMode(1, tree.header().ResizeMode.ResizeToContents)
        return tree

    def _make_why(self) -> QWidget:
        sheet = panel()
        sheet.setFixedHeight(226)
        self.title = label("", "heading")
        self.why = label("", "quiet")
        self.why.setWordWrap(True)
        self.bars = Bars(self.desk)
        self.candidates = [button("", "Look at this couple") for _ in range(4)]
        self.pair_these = button("Pair these", "Take them as one layer, whatever the evidence says", "strong")
        self.apart = button("Keep apart", "Never take them as one layer")
        self.leave_to = button("Leave it to Avelt", "Forget what was decided by hand about them")
        self.absent_title = label("", "heading")
        self.fields = {
            "shift_x": NumberField("px", 1.0), "shift_y": NumberField("px", 1.0), "turn": NumberField("°", 1.0),
            "scale": NumberField("%", 1.0, 0.0, 10000.0), "opacity": NumberField("%", 1.0, 0.0, 100.0),
        }  # fmt: skip
        words = {
            "shift_x": "Shift right",
            "shift_y": "Shift down",
            "turn": "Turn",
            "scale": "Scale",
            "opacity": "Opacity",
        }
        self.absent = QWidget()
        grid = QGridLayout(self.absent)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(4)
        for k, (key, field) in enumerate(self.fields.items()):
            grid.addWidget(label(words[key], "quiet"), k, 0)
            grid.addWidget(field, k, 1)
        left = QVBoxLayout()
        left.addWidget(self.title)
        left.addWidget(self.why)
        left.addSpacing(4)
        left.addWidget(self.bars, 1)
        left.setSpacing(3)
        self.why.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        middle = QVBoxLayout()
        self.other_title = label("Other candidates", "heading")
        middle.addWidget(self.other_title)
        for made in self.candidates:
            made.setStyleSheet("text-align: left;")
            middle.addWidget(made)
        middle.addStretch(1)
        right = QVBoxLayout()
        right.addWidget(self.absent_title)
        right.addWidget(self.absent)
        right.addStretch(1)
        right.addLayout(row(self.pair_these, self.apart))
        right.addLayout(row(self.leave_to, None))
        layout = QHBoxLayout(sheet)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(24)
        layout.addLayout(left, 5)
        for part, width in ((middle, 240), (right, 250)):
            holder = QWidget()
            holder.setLayout(part)
            part.setContentsMargins(0, 0, 0, 0)
            holder.setFixedWidth(width)
            layout.addWidget(holder)
        return sheet

    def _connect(self) -> None:
        desk = self.desk
        desk.changed.connect(lambda _: self.refresh() if self.isVisible() else None)
        desk.routed.connect(self._routed)
        desk.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        self.left_tree.currentItemChanged.connect(lambda item, _: self._from_tree("from", item))
        self.right_tree.currentItemChanged.connect(lambda item, _: self._from_tree("to", item))
        self.threads.picked.connect(self.choose)
        self.threads.paired.connect(self.pair)
        self.next.clicked.connect(self.next_unsure)
        self.pair_these.clicked.connect(lambda: self.pair(self.chosen.left, self.chosen.right))
        self.apart.clicked.connect(self.keep_apart)
        self.leave_to.clicked.connect(self._leave_to)
        for place, made in enumerate(self.candidates):
            made.clicked.connect(lambda _=False, place=place: self._look_at(place))
        for key, field in self.fields.items():
            field.committed.connect(lambda value, key=key: self._set_absent(key, value))
            field.refused.connect(desk.said)

    # Showing

    def enter(self) -> None:
        """The station comes to the front, with the layer that is chosen elsewhere."""
        self.refresh()
        layer, route = self.desk.layer, self.desk.route
        if layer is not None and route is not None and self.desk.frame is not None:
            if self.desk.frame.id == route.leaves:
                self.choose("from", layer.id)
            elif self.desk.frame.id == route.arrives:
                self.choose("to", layer.id)

    def leave(self) -> None:
        """Another station comes to the front."""

    def _routed(self) -> None:
        self.chosen = Chosen()
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        route, project = self.desk.route, self.desk.project
        self.body.setVisible(route is not None)
        self.empty.setVisible(route is None)
        self.pairing = None
        if route is None:
            for widget in (self.leaves_name, self.arrives_name, self.summary):
                widget.setText("")
            return
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        self.pairing = pairing = pairing_of(project, route)
        unsure = sum(pair.confidence < UNSURE for pair in pairing.pairs)
        self.leaves_name.setText(left.name)
        self.arrives_name.setText(right.name)
        look = f", {unsure} to look at" if unsure else ""
        self.summary.setText(
            f"{len(pairing.pairs)} pairs{look}, {len(pairing.leaves)} leave, {len(pairing.enters)} enter"
        )
        self.next.setEnabled(bool(unsure))
        self.threads.pairing, self.threads.frames = pairing, (left, right)
        self._fill(self.left_tree, left, "from")
        self._fill(self.right_tree, right, "to")
        if self.chosen.left not in layer_index(left):
            self.chosen = Chosen("", self.chosen.right)
        if self.chosen.right not in layer_index(right):
            self.chosen = Chosen(self.chosen.left, "")
        if not self.chosen.left and not self.chosen.right and pairing.pairs:
            first = min(pairing.pairs, key=lambda pair: pair.confidence)
            self.chosen = Chosen(first.from_id, first.to_id)
        self._show_chosen()

    def _fill(self, tree: Tree, frame: Frame, side: str) -> None:
        assert self.pairing is not None
        known = self.pairing.to_of if side == "from" else self.pairing.from_of
        other = self.pairing.right if side == "from" else self.pairing.left
        names = {layer.id: layer.name for layer in other.flat.layers}
        theme = self.desk.theme
        blocker = QSignalBlocker(tree)
        tree.clear()

        def add(parent: QTreeWidgetItem, layer: Layer) -> None:
            partner = known.get(layer.id)
            words = "" if partner else ("leaves" if side == "from" else "enters")
            item = QTreeWidgetItem(parent, [layer.name, words])
            item.setData(0, _ID, layer.id)
            item.setToolTip(0, f"{layer.name} ({layer.kind}), {'pairs with ' + names[partner] if partner else words}")
            if partner is None:
                item.setForeground(0, theme.quiet)
                item.setForeground(1, theme.leaves_text if side == "from" else theme.arrives_text)
            for child in reversed(layer.children):
                add(item, child)
            item.setExpanded(any(inner.id in known for inner in _inside(layer)))

        for layer in reversed(frame.layers):
            add(tree.invisibleRootItem(), layer)
        del blocker

    def _show_chosen(self) -> None:
        assert self.pairing is not None
        left, right = self.chosen.left, self.chosen.right
        for tree, ident in ((self.left_tree, left), (self.right_tree, right)):
            blocker = QSignalBlocker(tree)
            tree.show_current(_find(tree.invisibleRootItem(), ident))
            del blocker
        self.threads.chosen = self.chosen
        self.threads.update()
        pair = pair_of(self.pairing, left or right)
        is_pair = pair is not None and (pair.from_id, pair.to_id) == (left, right)
        both = bool(left and right)
        self._show_reasons(left, right, is_pair)
        self._show_candidates(left, right)
        alone = left if left and not right else right if right and not left else ""
        self._show_absent(alone)
        # An unsure pair can be settled, not only made.
        self.pair_these.setEnabled(both and (not is_pair or (pair is not None and pair.by == "evidence")))
        self.apart.setEnabled(both and is_pair)
        decided = self.desk.route is not None and any(
            left == d.from_id or right == d.to_id for d in self.desk.route.transition.decisions
        )
        self.leave_to.setEnabled(decided)

    def _show_reasons(self, left: str, right: str, is_pair: bool) -> None:
        assert self.pairing is not None
        p = self.desk.theme.palette
        name_left = _name(self.pairing, left, "from")
        name_right = _name(self.pairing, right, "to")
        first = f"<span style='color:{p.leaves_text}'>{name_left}</span>"
        second = f"<span style='color:{p.arrives_text}'>{name_right}</span>"
        self.bars.entries = []
        if left and right:
            verb = "are one layer" if is_pair else "might be one layer"
            self.title.setText(f"Why {first} and {second} {verb}")
            pair = pair_of(self.pairing, left)
            how = {"hand": "paired by hand", "origin": "copied from each other"}.get(
                pair.by if pair and is_pair else "", ""
            )
            self.why.setText(how or ("by evidence" if is_pair else "not a pair now"))
            self.bars.entries = [(r.what, r.score, r.says) for r in reasons(self.pairing, left, right)]
        elif left or right:
            side = "from" if left else "to"
            self.title.setText(f"{first} leaves" if left else f"{second} enters")
            self.why.setText(why_alone(self.pairing, left or right, side))
        else:
            self.title.setText("Choose a layer on either side.")
            self.why.setText("")
        self.bars.update()

    def _show_candidates(self, left: str, right: str) -> None:
        assert self.pairing is not None
        self._shown: list[Chosen] = []
        words: list[str] = []
        if left:
            for entry in self.pairing.candidates(left, "from"):
                if entry.layer != right:
                    self._shown.append(Chosen(left, entry.layer))
                    words.append(f"{_name(self.pairing, entry.layer, 'to')}   {entry.score:.2f}")
        elif right:
            for entry in self.pairing.candidates(right, "to"):
                self._shown.append(Chosen(entry.layer, right))
                words.append(f"{_name(self.pairing, entry.layer, 'from')}   {entry.score:.2f}")
        self.other_title.setText("Other candidates" if words else "No other candidates")
        for place, made in enumerate(self.candidates):
            made.setVisible(place < len(words))
            if place < len(words):
                made.setText(words[place])

    def _show_absent(self, alone: str) -> None:
        self.absent.setVisible(bool(alone))
        if not alone or self.desk.route is None:
            self.absent_title.setText("")
            return
        leaves = bool(self.chosen.left)
        self.absent_title.setText("Goes to this as it leaves" if leaves else "Comes from this as it enters")
        pose = self._pose_of(alone)
        for key, field in self.fields.items():
            value = {
                "shift_x": pose.shift_x, "shift_y": pose.shift_y, "turn": pose.turn, "scale": pose.scale_x * 100,
                "opacity": pose.opacity * 100,
            }[key]  # fmt: skip
            field.show_value(value)

    def _pose_of(self, layer_id: str) -> Pose:
        assert self.desk.route is not None
        return next((a.pose for a in self.desk.route.transition.absents if a.layer == layer_id), FADED)

    # Doing

    def choose(self, side: str, layer_id: str) -> None:
        """Look at a layer, with its partner when it has one."""
        if self.pairing is None:
            return
        if side == "from":
            self.chosen = Chosen(layer_id, self.pairing.to_of.get(layer_id, ""))
        else:
            self.chosen = Chosen(self.pairing.from_of.get(layer_id, ""), layer_id)
        self.desk.choose_layer(layer_id)
        self._show_chosen()

    def _from_tree(self, side: str, item: QTreeWidgetItem | None) -> None:
        if item is not None:
            self.choose(side, item.data(0, _ID))

    def _look_at(self, place: int) -> None:
        self.chosen = self._shown[place]
        self._show_chosen()

    def pair(self, left: str, right: str) -> None:
        """Pair two layers by hand."""
        route = self.desk.route
        if route is None or not left or not right:
            return
        self.chosen = Chosen(left, right)
        self.desk.do("pair by hand", lambda p: decide(p, route.id, left, right, True))
        self.refresh()

    def keep_apart(self) -> None:
        """Take the chosen pair apart."""
        route, chosen = self.desk.route, self.chosen
        if route is None or not chosen.left or not chosen.right:
            return
        self.desk.do("keep apart", lambda p: decide(p, route.id, chosen.left, chosen.right, False))
        self.chosen = Chosen(chosen.left, "")
        self.refresh()

    def _leave_to(self) -> None:
        route, chosen = self.desk.route, self.chosen
        if route is not None:
            self.desk.do(
                "leave pair to Avelt", lambda p: undecide(p, route.id, chosen.left or None, chosen.right or None)
            )

    def next_unsure(self) -> None:
        """The next pair that wants to be looked at."""
        if self.pairing is None:
            return
        unsure = [pair for pair in self.pairing.pairs if pair.confidence < UNSURE]
        if unsure:
            ids = [pair.from_id for pair in unsure]
            at = ids.index(self.chosen.left) if self.chosen.left in ids else -1
            pair = unsure[(at + 1) % len(unsure)]
            self.chosen = Chosen(pair.from_id, pair.to_id)
            self._show_chosen()

    def _set_absent(self, key: str, value: float) -> None:
        route = self.desk.route
        alone = self.chosen.left or self.chosen.right
        if route is None or not alone:
            return
        pose = self._pose_of(alone)
        parts = {
            "shift_x": pose.shift_x, "shift_y": pose.shift_y, "turn": pose.turn, "scale_x": pose.scale_x,
            "scale_y": pose.scale_y, "opacity": pose.opacity,
        }  # fmt: skip
        if key == "scale":
            parts["scale_x"] = parts["scale_y"] = value / 100
        elif key == "opacity":
            parts["opacity"] = value / 100
        else:
            parts[key] = value
        self.desk.do("how it comes and goes", lambda p: set_absent(p, route.id, alone, Pose(**parts)))


def _inside(layer: Layer) -> list[Layer]:
    return [entry for child in layer.children for entry in (child, *_inside(child))]


def _name(pairing: Pairing, layer_id: str, side: str) -> str:
    flat = (pairing.left if side == "from" else pairing.right).flat
    return flat.layers[flat.index[layer_id]].name if layer_id in flat.index else ""


def _find(item: QTreeWidgetItem, ident: str) -> QTreeWidgetItem | None:
    for child in children_of(item):
        if child.data(0, _ID) == ident:
            return child
        found = _find(child, ident)
        if found is not None:
            return found
    return None
