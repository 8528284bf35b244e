"""Pairs: what Avelt takes as one thing and why; settling it by hand; how the rest comes and goes."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QSizePolicy, QTreeWidgetItem, QVBoxLayout, QWidget

from avelt.core.edits.routes import decide, set_absent, undecide
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.values import FADED, Frame, Layer, Pose
from avelt.core.pairing.engine import Pair, Pairing
from avelt.core.pairing.explain import pair_of, reasons, why_alone
from avelt.core.timing.compile import pairing_of
from avelt.window.controls.drawing import draw_frame
from avelt.window.controls.empty import EmptyPlace
from avelt.window.controls.fields import NumberField, bar, button, label, panel, row
from avelt.window.controls.painted import Tree, children_of
from avelt.window.controls.views import box_polygon, fit
from avelt.window.shell.desk import Desk
from avelt.window.theme import Theme, font

UNSURE = 0.70
_ID = Qt.ItemDataRole.UserRole


@dataclass(frozen=True)
class Chosen:
    """The layers that are looked at: one of either side, or one alone."""

    left: str = ""
    right: str = ""


class Threads(QWidget):
    """Both frames with a thread from layer to layer."""

    picked = Signal(str, str)  # side, layer id
    paired = Signal(str, str)  # dragged from one to the other

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.pairing: Pairing | None = None
        self.frames: tuple[Frame, Frame] | None = None
        self.chosen = Chosen()
        self._drag: tuple[str, str, QPointF] | None = None
        self._at = QPointF()

    def places(self) -> tuple[QRectF, QRectF]:
        """Where the two frames stand."""
        assert self.frames is not None
        area = QRectF(self.rect()).adjusted(30, 14, -30, -14)
        half = (area.width() - 150) / 2
        made = []
        for k, frame in enumerate(self.frames):
            room = QRectF(area.left() + k * (half + 150), area.top(), half, area.height())
            made.append(fit(QRectF(0, 0, frame.w, frame.h).size(), room))
        return made[0], made[1]

    def _middle(self, side: int, layer_id: str) -> QPointF | None:
        assert self.frames is not None
        frame, rect = self.frames[side], self.places()[side]
        flat = flatten(frame)
        if layer_id not in flat.index:
            return None
        x, y, w, h = (float(v) for v in flat.bounds[flat.index[layer_id]])
        scale = rect.width() / frame.w
        return QPointF(
            min(rect.right(), max(rect.left(), rect.left() + (x + w / 2) * scale)),
            min(rect.bottom(), max(rect.top(), rect.top() + (y + h / 2) * scale)),
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.frames is None or self.pairing is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.desk.theme
        sides = ((theme.leaves, self.chosen.left), (theme.arrives, self.chosen.right))
        for frame, rect, (colour, layer_id) in zip(self.frames, self.places(), sides, strict=True):
            scale = rect.width() / frame.w
            draw_frame(painter, self.desk.picture(frame, scale * self.devicePixelRatioF()), rect, colour, 1.8)
            flat = flatten(frame)
            if layer_id in flat.index:
                i = flat.index[layer_id]
                to = QTransform(scale, 0, 0, scale, rect.left(), rect.top())
                painter.setClipRect(rect.adjusted(-2, -2, 2, 2))
                painter.setPen(QPen(theme.now, 2))
                painter.drawPolygon(box_polygon(flat.world[i], flat.layers[i].w, flat.layers[i].h, to))
                painter.setClipping(False)
        for pair in self.pairing.pairs:
            if pair.from_id != self.chosen.left:
                self._thread(painter, theme, pair, False)
        for pair in self.pairing.pairs:
            if pair.from_id == self.chosen.left:
                self._thread(painter, theme, pair, True)
        if self._drag is not None:
            painter.setPen(QPen(theme.now, 1.8, Qt.PenStyle.DashLine))
            painter.drawLine(self._drag[2], self._at)

    def _thread(self, painter: QPainter, theme: Theme, pair: Pair, chosen: bool) -> None:
        start, end = self._middle(0, pair.from_id), self._middle(1, pair.to_id)
        if start is None or end is None:
            return
        unsure = pair.confidence < UNSURE
        colour = QColor(theme.now if chosen else theme.trouble if unsure else theme.quiet)
        colour.setAlphaF(1.0 if chosen or unsure else 0.35)
        path = QPainterPath(start)
        bend = max(40.0, (end.x() - start.x()) / 2)
        path.cubicTo(start + QPointF(bend, 0), end - QPointF(bend, 0), end)
        style = Qt.PenStyle.DashLine if unsure else Qt.PenStyle.SolidLine
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 2.2 if chosen else 1.8 if unsure else 1.2, style))
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        for point in (start, end):
            painter.drawEllipse(point, 3, 3)
        if unsure or chosen:
            middle = path.pointAtPercent(0.5)
            pill = QRectF(middle.x() - 21, middle.y() - 11, 42, 22)
            painter.setBrush(theme.sheet)
            painter.setPen(QPen(colour, 1.4))
            painter.drawRoundedRect(pill, 11, 11)
            painter.setFont(font(11.5, 600))
            painter.drawText(pill, Qt.AlignmentFlag.AlignCenter, f"{pair.confidence:.2f}")

    def _under(self, point: QPointF) -> tuple[str, str] | None:
        if self.frames is None:
            return None
        for side, (frame, rect) in zip(("from", "to"), zip(self.frames, self.places(), strict=True), strict=True):
            if rect.contains(point):
                scale = rect.width() / frame.w
                layer = layer_at(frame, (point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale)
                return (side, layer.id) if layer is not None else None
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._under(event.position())
        if found is not None:
            self.picked.emit(*found)
            self._drag = (*found, event.position())
            self._at = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._at = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        found = self._under(event.position())
        if drag is not None and found is not None and found[0] != drag[0]:
            left, right = (drag[1], found[1]) if drag[0] == "from" else (found[1], drag[1])
            self.paired.emit(left, right)
        self.update()


class Bars(QWidget):
    """The evidence as bars with a sentence each."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.entries: list[tuple[str, float, str]] = []

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.desk.theme
        for k, (what, score, says) in enumerate(self.entries):
            y = k * 19.5
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            painter.drawText(QRectF(0, y, 116, 18), Qt.AlignmentFlag.AlignVCenter, what)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.faint)
            painter.drawRoundedRect(QRectF(120, y + 6, 110, 7), 3.5, 3.5)
            painter.setBrush(theme.quiet)
            painter.drawRoundedRect(QRectF(120, y + 6, max(0.0, 110 * score), 7), 3.5, 3.5)
            painter.setPen(theme.ink)
            painter.drawText(QRectF(240, y, 34, 18), Qt.AlignmentFlag.AlignVCenter, f"{score:.2f}")
            painter.drawText(QRectF(282, y, self.width() - 282, 18), Qt.AlignmentFlag.AlignVCenter, says)


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
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(strip)
        whole.addWidget(self.body, 1)
        whole.addWidget(self.empty, 1)

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
        self.pair_these.setEnabled(both and not is_pair)
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


def unsure_count(desk: Desk) -> int:
    """Pairs of the chosen route that want to be looked at."""
    if desk.route is None:
        return 0
    return sum(pair.confidence < UNSURE for pair in pairing_of(desk.project, desk.route).pairs)


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
