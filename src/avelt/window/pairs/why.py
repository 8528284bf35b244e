"""Why two layers are taken as one, what else they could be, and what will change; with the buttons that settle it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.model.values import Settled, Transition
from avelt.core.pairing.engine import Pairing
from avelt.core.pairing.explain import pair_of, reasons, why_alone
from avelt.core.timing.changes import what_changes
from avelt.core.timing.content import change_of, choices
from avelt.core.words import listed, tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import NumberField, button, label, panel, row
from avelt.window.controls.painted import Pick
from avelt.window.pairs.context import Chosen, PairsContext
from avelt.window.pairs.ghosts import pose_of
from avelt.window.pairs.leaving import WaySheet
from avelt.window.pairs.threads import Bars

_CANDIDATES = 4
_SETTLING, _WAYS = 270, 524  # px for what is settled about a pair, and for the way of a layer alone


class WhySheet(QWidget):
    """The sheet under the frames."""

    looked = Signal(object)  # another couple (Chosen)
    content_wanted = Signal(str)
    swap_wanted = Signal(float)
    order_wanted = Signal(float)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._couples: list[Chosen] = []
        self.title = label("", "heading")
        self.why = label("", "quiet")
        self.why.setWordWrap(True)
        self.why.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.bars = Bars(workspace)
        self.bars.setFixedHeight(158)
        self.other_title = label(tr("Other candidates"), "heading")
        self.candidates = [button("", tr("Look at this couple")) for _ in range(_CANDIDATES)]
        self.changes_title = label(tr("What changes"), "heading")
        self.changes = label("", "quiet")
        self.changes.setWordWrap(True)
        self.content = Pick()
        self.content.setToolTip(tr("How the one content becomes the other"))
        self.swap_at = NumberField("%", 5.0, 0.0, 100.0, 0)
        self.swap_at.setToolTip(tr("When the content swaps, in shares of the transition"))
        self.order_at = NumberField("%", 5.0, 0.0, 100.0, 0)
        self.order_at.setToolTip(tr("When it changes in the paint order, in shares of the transition"))
        self.content_words, self.order_words = label(tr("Content"), "quiet"), label(tr("Order flips at"), "quiet")
        self.pair_these = button(
            tr("Pair these"), tr("Take them as one layer, whatever the evidence says (P)"), "strong"
        )
        self.apart = button(tr("Keep apart"), tr("Never take them as one layer (A)"))
        self.leave_to = button(tr("Decide automatically"), tr("Forget what was decided by hand about them"))
        self.ways = WaySheet(workspace)
        self._lay_out()
        for place, made in enumerate(self.candidates):
            made.clicked.connect(lambda _=False, place=place: self.looked.emit(self._couples[place]))
        self.content.activated.connect(lambda k: self.content_wanted.emit(self.content.itemData(k)))
        self.swap_at.committed.connect(lambda v: self.swap_wanted.emit(v / 100))
        self.order_at.committed.connect(lambda v: self.order_wanted.emit(v / 100))
        for field in (self.swap_at, self.order_at):
            field.setFixedWidth(64)
            field.refused.connect(workspace.said)

    def _lay_out(self) -> None:
        sheet = panel()
        sheet.setFixedHeight(226)
        left = QVBoxLayout()
        left.setSpacing(3)
        left.addWidget(self.title)
        left.addWidget(self.why)
        left.addSpacing(4)
        left.addWidget(self.bars)
        left.addStretch(1)
        middle = QVBoxLayout()
        middle.addWidget(self.other_title)
        for made in self.candidates:
            made.setProperty("room", "line")
            middle.addWidget(made)
        middle.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(6)
        right.addWidget(self.changes_title)
        right.addWidget(self.changes)
        self.content_row = QWidget()
        self.content_row.setLayout(row(self.content_words, self.content, self.swap_at, None))
        self.order_row = QWidget()
        self.order_row.setLayout(row(self.order_words, self.order_at, None))
        for made_row in (self.content_row, self.order_row):
            inner = made_row.layout()
            if inner is None:
                return
            inner.setContentsMargins(0, 0, 0, 0)
            right.addWidget(made_row)
        right.addStretch(1)
        right.addLayout(row(self.pair_these, self.apart))
        right.addLayout(row(self.leave_to, None))
        self.settle_side = _column(right, 264)
        self.middle = _column(middle, 226)
        self.right = QStackedWidget()
        self.right.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.right.addWidget(self.settle_side)
        self.right.addWidget(self.ways)
        layout = QHBoxLayout(sheet)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(24)
        layout.addLayout(left, 1)
        layout.addWidget(self.middle)
        layout.addWidget(self.right)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(sheet)

    # Showing

    def show_couple(self, context: PairsContext, transition: Transition) -> None:
        """Everything about the chosen couple, or the layer alone; and how many others are chosen with it."""
        pairing, frames, chosen = context.pairing, context.frames, context.chosen
        if pairing is None:
            return
        left, right = chosen.left, chosen.right
        is_pair = bool(left) and bool(right) and pairing.to_of.get(left) == right
        both = bool(left and right)
        self._show_reasons(pairing, chosen, is_pair)
        self._show_candidates(pairing, chosen)
        if context.also:
            pairs, singles = len(context.pairs), len(context.every) - len(context.pairs)
            words = [tr("{n} pairs", "{n} pair", pairs)] if pairs else []
            words += [tr("{singles} alone", singles=singles)] if singles else []
            self.why.setText(tr("{words} chosen: what is settled here goes for all of them", words=listed(words)))
        alone = chosen.alone
        self.right.setCurrentWidget(self.ways if alone else self.settle_side)
        self.right.setMinimumWidth(_WAYS if alone else _SETTLING)
        self.right.setMaximumWidth(self.width() if alone else _SETTLING)
        self.bars.setVisible(both)
        for widget in (self.pair_these, self.apart, self.leave_to, self.changes_title, self.changes):
            widget.setVisible(both)
        self.content_row.setVisible(False)
        self.order_row.setVisible(False)
        if both:
            self._show_changes(pairing, transition, chosen, is_pair)
            self.pair_these.setEnabled(not is_pair or not self._by_hand(pairing, left))
            self.apart.setEnabled(bool(context.pairs))
            self.leave_to.setEnabled(any(left == d.from_id or right == d.to_id for d in transition.decisions))
        elif alone:
            leaves = bool(left)
            pose, own = pose_of(transition, alone, leaves)
            self.ways.show_pose(pose, own, leaves, frames[0 if leaves else 1], alone)

    def _by_hand(self, pairing: Pairing, left: str) -> bool:
        pair = pair_of(pairing, left)
        return pair is not None and pair.by == "hand"

    def _show_reasons(self, pairing: Pairing, chosen: Chosen, is_pair: bool) -> None:
        p = self.workspace.theme.palette
        left, right = chosen.left, chosen.right
        first, second = (
            f"<span style='color:{colour}'>{_name(pairing, ident, side)}</span>"
            for colour, ident, side in ((p.leaves_text, left, "from"), (p.arrives_text, right, "to"))
        )
        self.bars.entries = []
        if left and right:
            verb = tr("are one layer") if is_pair else tr("might be one layer")
            self.title.setText(tr("Why {first} and {second} {verb}", first=first, second=second, verb=verb))
            pair = pair_of(pairing, left)
            how = {"hand": tr("paired by hand"), "origin": tr("copied from each other")}.get(
                pair.by if pair and is_pair else "", ""
            )
            sure = (
                tr("by evidence, {confidence:.0%} sure", confidence=pair.confidence)
                if pair is not None and is_pair
                else tr("not a pair now")
            )
            self.why.setText(how or sure)
            self.bars.entries = [(tr(r.what), r.score, r.says) for r in reasons(pairing, left, right)]
        elif left or right:
            self.title.setText(tr("{first} leaves", first=first) if left else tr("{second} enters", second=second))
            self.why.setText(why_alone(pairing, left or right, "from" if left else "to"))
        else:
            self.title.setText(tr("Choose a layer on either side."))
            self.why.setText("")
        self.bars.update()

    def _show_candidates(self, pairing: Pairing, chosen: Chosen) -> None:
        left, right = chosen.left, chosen.right
        self._couples = []
        words: list[str] = []
        if left:
            for entry in pairing.candidates(left, "from", _CANDIDATES + 1):
                if entry.layer != right:
                    self._couples.append(Chosen(left, entry.layer))
                    words.append(f"{_name(pairing, entry.layer, 'to')}   {entry.score:.2f}")
        elif right:
            for entry in pairing.candidates(right, "to", _CANDIDATES):
                self._couples.append(Chosen(entry.layer, right))
                words.append(f"{_name(pairing, entry.layer, 'from')}   {entry.score:.2f}")
        self.middle.setVisible(bool(left or right))
        self.other_title.setText(tr("Other candidates") if words else tr("No other candidates"))
        for place, made in enumerate(self.candidates):
            made.setVisible(place < len(words))
            if place < len(words):
                made.setText(words[place])

    def _show_changes(self, pairing: Pairing, transition: Transition, chosen: Chosen, is_pair: bool) -> None:
        left, right = chosen.left, chosen.right
        found = what_changes(pairing, left, right)
        self.changes_title.setText(tr("What changes") if is_pair else tr("If paired, it changes"))
        self.changes.setText(
            ", ".join(tr(word.replace("_", " ")) for word in found) if found else tr("nothing: it stays as it is")
        )
        a, b = pairing.left.flat, pairing.right.flat
        first, second = a.layers[a.index[left]], b.layers[b.index[right]]
        settled = next((s for s in transition.settled if (s.from_id, s.to_id) == (left, right)), Settled(left, right))
        possible = choices(first, second)
        self.content_row.setVisible(is_pair and bool(possible))
        if possible:
            now = change_of(first, second, settled)
            self.content.clear()
            for choice in possible:
                self.content.addItem(choice.words, choice.key)
            self.content.setCurrentIndex(self.content.findData(now))
            self.content.setToolTip(next(choice.says for choice in possible if choice.key == now))
            self.swap_at.setVisible(now == "swap")
            self.swap_at.show_value((0.5 if settled.swap_at is None else settled.swap_at) * 100)
        self.order_row.setVisible(is_pair and ("order" in found or settled.order_at is not None))
        self.order_at.show_value((0.5 if settled.order_at is None else settled.order_at) * 100)


def _column(layout: QVBoxLayout, width: int) -> QWidget:
    holder = QWidget()
    layout.setContentsMargins(0, 0, 0, 0)
    holder.setLayout(layout)
    holder.setFixedWidth(width)
    return holder


def _name(pairing: Pairing, layer_id: str, side: str) -> str:
    flat = (pairing.left if side == "from" else pairing.right).flat
    if layer_id not in flat.index:
        return ""
    layer = flat.layers[flat.index[layer_id]]
    return layer.name or layer.kind
