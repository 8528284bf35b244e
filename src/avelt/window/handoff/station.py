"""Hand-off: what was designed, written in every kind that is needed, seen beside the design before it leaves."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLineEdit, QProgressBar, QSlider, QVBoxLayout, QWidget

from avelt.browser.headless import has_browser
from avelt.core.edits.session import Change
from avelt.core.errors import AveltError
from avelt.core.handoff.delivery import Delivery, Report, Wanted
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.deliver.kinds import BY_KEY, KINDS, Asked
from avelt.deliver.subjects import ALL, Subject, as_wanted, offers, subject_of
from avelt.deliver.writing import Order, Written
from avelt.paint.letters import QtLetters
from avelt.verify.compare import Verdict, on_white
from avelt.window.common.jobs import Latest
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.code_view import CodeView, take_code
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import add_all, bar, button, label, panel, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.handoff.choices import Choices, remember, remembered
from avelt.window.handoff.code_view import code_of
from avelt.window.handoff.facts import Facts, rows_of, tip_of
from avelt.window.handoff.jobs import CloseJob, Eye, Look, Looked, LookJob, Made, MakeJob, WriteJob
from avelt.window.handoff.kind_list import KindList
from avelt.window.handoff.pictures_view import PicturesView
from avelt.window.handoff.settings import Settings

_SOON = 250  # ms after an edit that deliveries are made anew
_AT_ONCE = 1_500_000.0  # pixels that are painted in the thread of the window
_STEPS = 1000  # of the slider
_SCALE = 2.0  # pixels to a px
_AFTER = 2000.0  # ms of the loops after an arrival that can be looked at


class HandoffStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.choices = Choices()
        self.subject: Subject | None = None
        self.made: dict[str, Made] = {}
        self.verdicts: dict[str, Verdict] = {}
        self.eye = Eye()
        self._for: tuple[Project, str, Wanted] | None = None  # what the deliveries were made from
        self._seen_of: tuple[str, Delivery | None] = ("", None)
        self._here = False  # whether the station is in front
        self._again = False  # another moment is wanted as soon as this one is seen
        self.maker, self.writer, self.looker = Latest(self), Latest(self), Latest(self)
        self.clock = Clock(self)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_SOON)
        self._make()
        self._connect()

    # Making the widgets

    def _make(self) -> None:
        strip, layout = bar()
        self.subjects = Pick()
        self.subjects.setMinimumWidth(230)
        self.subjects.setMaximumWidth(330)
        self.subjects.setToolTip(tr("What is handed off"))
        self.everything = label("", "quiet")
        self.folder = QLineEdit("~")
        self.folder.setMinimumWidth(150)
        self.choose_folder = button(tr("Choose…"), tr("Choose the folder to write into"))
        self.write = button(tr("Write"), tr("Write what is ticked (Ctrl+Return)"), "strong")
        self.write.setShortcut("Ctrl+Return")
        self.stop = button(tr("Stop"), tr("Stop; nothing is written"))
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(90)
        add_all(layout, label(tr("Hand off"), "quiet"), self.subjects, self.everything, None)
        add_all(
            layout, label(tr("Into"), "quiet"), self.folder, self.choose_folder, self.progress, self.stop, self.write
        )
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 12, 12, 12)
        inner.setSpacing(12)
        inner.addWidget(self._make_kinds())
        inner.addLayout(self._make_right(), 1)
        self.empty = EmptyPlace(
            tr("There is nothing that moves to hand off yet. Make a route in Routes."),
            tr("Go to Routes"),
            lambda: self.workspace.station_wanted.emit("routes"),
        )
        lay_out(self, strip, self.body, self.empty)

    def _make_kinds(self) -> QWidget:
        self.kinds = KindList(self.workspace)
        self.kinds.size_of = self.size_words
        left = panel()
        left.setFixedWidth(290)
        layout = QVBoxLayout(left)
        layout.setContentsMargins(0, 4, 0, 4)
        layout.addWidget(scrolled(self.kinds))
        return left

    def _make_right(self) -> QVBoxLayout:
        self.pictures = PicturesView(self.workspace)
        self.moment = QSlider(Qt.Orientation.Horizontal)
        self.moment.setRange(0, _STEPS)
        self.moment.setAccessibleName(tr("Moment"))
        self.moment.setToolTip(tr("The moment that is looked at"))
        self.play = button(tr("Play"), tr("Play or stop (Space); comma and full stop go a frame back and on"))
        self.play.setFixedWidth(64)
        self.at = label(tr("0 ms"), "quiet")
        self.at.setFixedWidth(64)
        self.facts, self.settings = Facts(self.workspace), Settings()
        side = QWidget()
        side.setFixedWidth(272)
        beside = QVBoxLayout(side)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(10)
        add_all(beside, self.facts, self.settings)
        beside.addStretch(1)
        upper = panel()
        looks = QVBoxLayout()
        looks.setSpacing(6)
        looks.addWidget(self.pictures, 1)
        looks.addLayout(row(self.play, self.moment, self.at))
        whole = QHBoxLayout(upper)
        whole.setContentsMargins(18, 12, 18, 10)
        whole.setSpacing(20)
        whole.addLayout(looks, 1)
        whole.addWidget(side)
        self.code_name = label("", "heading")
        self.answer = label("")
        self.answer.setWordWrap(True)
        self.copy = button(tr("Copy"), tr("Copy all of the text"))
        self.code = CodeView(self.workspace)
        self.sheet = panel()
        inside = QVBoxLayout(self.sheet)
        inside.setContentsMargins(18, 8, 12, 10)
        inside.addLayout(row(self.code_name, None, self.copy))
        inside.addWidget(self.code, 1)
        right = QVBoxLayout()
        right.setSpacing(8)
        right.addWidget(upper, 5)
        right.addWidget(self.answer)
        self.answer.hide()
        right.addWidget(self.sheet, 4)
        return right

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(self._changed)
        workspace.routed.connect(self._routed)
        self.code.typed.connect(self._take_typed)
        workspace.chose.connect(lambda: self.code.mark(self._layer()) if self.isVisible() else None)
        self.subjects.activated.connect(lambda k: self._chosen(subject=self.subjects.itemData(k)))
        self.kinds.chose.connect(lambda key: self._chosen(kind=key))
        self.kinds.ticked.connect(lambda: self._chosen(ticked=self.kinds.marked))
        self.settings.edited.connect(lambda: self._chosen(wanted=self.settings.wanted))
        self.folder.editingFinished.connect(lambda: self._chosen(folder=self.folder.text()))
        self.choose_folder.clicked.connect(self._choose_folder)
        self.copy.clicked.connect(self._copy)
        self.write.clicked.connect(self.make)
        self.stop.clicked.connect(self.writer.stop)
        self.moment.valueChanged.connect(self._dragged)
        self.play.clicked.connect(self.clock.toggle)
        self.clock.ticked.connect(self._ticked)
        self.clock.played.connect(self._played)
        self._soon.timeout.connect(self._make_next)
        self.maker.answered.connect(self._taken)
        self.maker.failed.connect(self._say)
        self.writer.progressed.connect(self._progressed)
        self.writer.answered.connect(self._written)
        self.writer.failed.connect(self._failed)
        self.writer.ended.connect(self._show_busy)
        self.looker.answered.connect(self._seen)
        self.looker.failed.connect(self._unseen)

    # Coming and going

    def enter(self) -> None:
        """The station comes to the front."""
        self._here = True
        self.choices = remembered(self.workspace.remembered, self._project_key())
        if self.choices.subject in ("", ALL) or self.choices.subject.startswith("route:"):
            route = self.workspace.route
            if self.choices.subject != ALL:
                self.choices = replace(self.choices, subject=f"route:{route.id}" if route is not None else "")
        self.refresh()

    def leave(self) -> None:
        """Another station comes to the front; what is written goes on."""
        self.maker.stop()
        self.looker.stop()
        self._soon.stop()
        self.clock.stop()
        self._here = False
        self._closing = CloseJob(self.eye)
        self._closing.start()

    def _say(self, words: str) -> None:
        """A sentence under the pictures, or none."""
        self.answer.setText(words)
        self.answer.setVisible(bool(words))

    def _project_key(self) -> str:
        return str(self.workspace.path or self.workspace.whole.name)

    def _layer(self) -> str:
        layer = self.workspace.layer
        return layer.name if layer is not None else ""

    def refresh(self) -> None:
        """Take everything over from the project."""
        known = offers(self.workspace.project)
        self.body.setVisible(bool(known))
        self.empty.setVisible(not known)
        self.subjects.clear()
        for key, words in known:
            self.subjects.addItem(words, key)
        self.subjects.addItem(tr("Everything"), ALL)
        routes, others = sum(key.startswith("route:") for key, _ in known), len(known)
        self.everything.setText(tr("of {others} motions, {routes} of them transitions", others=others, routes=routes))
        if not known:
            return
        place = self.subjects.findData(self.choices.subject)
        if place < 0:
            place = 0
            self.choices = replace(self.choices, subject=known[0][0])
        self.subjects.setCurrentIndex(place)
        self.folder.setText(self.choices.folder)
        self.kinds.show_choice(self.choices.kind, self.choices.ticked)
        self.settings.show_wanted(self.choices.wanted, BY_KEY[self.choices.kind])
        self._show_busy()
        self._renew()

    def _changed(self, change: Change) -> None:
        if self.isVisible():
            self.refresh()

    def _routed(self) -> None:
        route = self.workspace.route
        if self.isVisible() and route is not None and self.choices.subject.startswith("route:"):
            self._chosen(subject=f"route:{route.id}")

    def _chosen(self, **what: object) -> None:
        """Something else is chosen: it is remembered, and what hangs on it is made anew."""
        self.choices = replace(self.choices, **what)  # type: ignore[arg-type]
        remember(self.workspace.remembered, self._project_key(), self.choices)
        subject = str(what.get("subject", ""))
        if subject.startswith("route:"):
            self.workspace.choose_route(subject.partition(":")[2])
        self.kinds.show_choice(self.choices.kind, self.choices.ticked)
        self.settings.show_wanted(self.choices.wanted, BY_KEY[self.choices.kind])
        self._show_busy()
        self._renew()

    def _take_typed(self, text: str) -> None:
        take_code(self.workspace, self.choices.subject.partition(":")[2], self.code.whole, text)

    # Making deliveries

    def asked(self) -> Asked | None:
        """What the deliveries in sight are made of."""
        if self.subject is None:
            return None
        wanted = replace(self.choices.wanted, name=self.subject.name)
        return Asked(self._project(), self.subject, wanted, QtLetters())

    def _project(self) -> Project:
        return as_wanted(self.workspace.project, self.choices.wanted)

    def _renew(self) -> None:
        """See whether deliveries must be made anew, and begin."""
        project, key = self._project(), self.choices.subject
        if key == ALL:
            key = next((k for k, _ in offers(project)), "")
        before, made_from = self._for, (project, key, self.choices.wanted)
        if before is None or before[0] is not project or before[1:] != made_from[1:]:
            self._for = made_from
            self.made, self.verdicts = {}, {}
            try:
                self.subject = subject_of(project, key) if key else None
                self._say("")
            except AveltError as error:
                self.subject = None
                self._say(str(error))
            self.clock.set_duration(self._length())
            self._show_moment(self.clock.ms)
            self.play.setEnabled(self.subject is not None)
        self._show()
        self._soon.start()

    def _make_next(self) -> None:
        """Make the chosen kind, then the others: what is quick first."""
        asked = self.asked()
        if asked is None or self.maker.job is not None or not self._here:
            return
        order = [BY_KEY[self.choices.kind], *sorted(KINDS, key=lambda kind: (kind.looks, kind.key == "html"))]
        for kind in order:
            if kind.key not in self.made:
                self.maker.start(MakeJob(kind.key, asked))
                return

    def _taken(self, made: object) -> None:
        if not isinstance(made, Made) or self.maker.job is not None:
            return
        self.made[made.kind] = made
        self._show()
        self._make_next()

    def size_words(self, kind: str) -> str:
        """How large a delivery is, or that it is not known yet."""
        made = self.made.get(kind)
        if made is None:
            return "…"
        if made.delivery is None:
            return "–"
        size = made.delivery.size
        return (
            f"{size / 1e6:.1f} MB"
            if size >= 1e6
            else f"{size / 1000:.1f} kB"
            if size < 1e5
            else f"{size / 1000:.0f} kB"
        )

    @property
    def delivery(self) -> Delivery | None:
        """The delivery that is looked at."""
        made = self.made.get(self.choices.kind)
        return made.delivery if made is not None else None

    # Showing

    def _show(self) -> None:
        self.kinds.update()
        delivery, kind = self.delivery, BY_KEY[self.choices.kind]
        report: Report | None = delivery.report if delivery is not None else None
        verdict = self.verdicts.get(kind.key)
        looking = kind.plays and delivery is not None and has_browser()
        self.facts.show_rows(rows_of(report, verdict, looking), tip_of(report))
        name, text = code_of(kind.key, delivery) if delivery is not None else ("", "")
        made = self.made.get(kind.key)
        if made is not None and made.trouble:
            self._say(made.trouble)
        self.sheet.setVisible(bool(name) or delivery is None)
        self.code_name.setText(name or kind.title)
        self.copy.setEnabled(bool(text))
        open_to = kind.key == "css" and self.choices.subject.startswith("route:") and not self.choices.wanted.calm
        self.code.show_code(text, self._layer(), open_to)
        self._look_soon()

    def _length(self) -> float:
        """How many ms there are to look at."""
        if self.subject is None:
            return 0.0
        show = self.subject.show
        return show.length + (min(show.period, _AFTER) if show.period else 0.0)

    def _dragged(self, place: int) -> None:
        self.clock.stop()
        self.clock.seek(self._length() * place / _STEPS)

    def _ticked(self, ms: float) -> None:
        self._show_moment(ms)
        self._look_soon()

    def _show_moment(self, ms: float) -> None:
        """The slider goes along; it does not answer."""
        length = self._length()
        self.moment.blockSignals(True)
        self.moment.setValue(round(_STEPS * ms / length) if length else 0)
        self.moment.blockSignals(False)

    def _played(self, playing: bool) -> None:
        self.play.setText(tr("Stop") if playing else tr("Play"))

    def _look_soon(self) -> None:
        """Show the design at once, and the delivery as soon as it is seen. Playing shows both of one moment only."""
        ms, subject = self.clock.ms, self.subject
        self.at.setText(f"{ms:.0f} ms")
        if subject is None:
            for k in range(3):
                self.pictures.show_picture(k, None)
            return
        kind, asked, delivery = BY_KEY[self.choices.kind], self.asked(), self.delivery
        why = self._why_unseen()
        judged = isinstance(self.looker.job, LookJob) and self.looker.job.look.judge
        if why or judged or not self.clock.playing:
            scene = subject.show.scene_at(ms)
            # What is seen at once is not finer than it can be made at once; the look itself brings the whole picture.
            scale = min(_SCALE, (_AT_ONCE / max(1.0, scene.size[0] * scene.size[1])) ** 0.5)
            self.pictures.show_picture(0, on_white(self.workspace.painter().render(scene, scale)))
        if why or asked is None or delivery is None:
            for k in (1, 2):
                self.pictures.show_picture(k, None, why)
            return
        if self._seen_of[0] != kind.key or self._seen_of[1] is not delivery:
            self._seen_of = kind.key, delivery
            self.looker.stop()
            for k in (1, 2):
                self.pictures.show_picture(k, None, tr("It is being looked at."))
        if self.looker.job is not None:
            self._again = True
            return
        self._look(Look(kind.key, asked, delivery, ms))

    def _look(self, look: Look) -> None:
        if not self._here:
            return
        self.looker.start(LookJob(look, self.eye))

    def _why_unseen(self) -> str:
        kind = BY_KEY[self.choices.kind]
        if not kind.plays and not kind.looks:
            return tr("These are numbers and words; there is nothing to compare.")
        if kind.plays and not has_browser():
            return tr("There is no Chromium on this machine to look at it in. It can be written all the same.")
        return "" if self.delivery is not None else tr("It is being made.")

    def _seen(self, looked: object) -> None:
        if not isinstance(looked, Looked):
            return
        asked, delivery = self.asked(), self.delivery
        if looked.kind == self.choices.kind and delivery is not None and asked is not None:
            self.pictures.show_picture(0, looked.designed)
            self.pictures.show_picture(1, looked.delivered)
            self.pictures.show_picture(2, looked.apart)
            if looked.verdict is not None:
                self.verdicts[looked.kind] = looked.verdict
                self.facts.show_rows(rows_of(delivery.report, looked.verdict, True), tip_of(delivery.report))
            elif BY_KEY[looked.kind].plays and looked.kind not in self.verdicts and not self._again:
                # What is seen at once is seen first; then at all moments.
                self._look(Look(looked.kind, asked, delivery, self.clock.ms, judge=True))
                return
        self._look_again()

    def _unseen(self, words: str) -> None:
        if self._again:
            self._look_again()
            return
        for k in (1, 2):
            self.pictures.show_picture(k, None, words)
        self._look_again()

    def _look_again(self) -> None:
        if self._again:
            self._again = False
            QTimer.singleShot(0, self, self._look_soon)

    def _copy(self) -> None:
        self.code.copy_all()
        self.workspace.said.emit(tr("{words} is copied.", words=self.code_name.text()))

    # Writing

    def _show_busy(self) -> None:
        busy, count = self.writer.job is not None, len(self.choices.ticked)
        self.write.setText(tr("Write {n} kinds", "Write {n} kind", count))
        self.write.setEnabled(not busy and count > 0)
        self.stop.setVisible(busy)
        self.progress.setVisible(busy)

    def _choose_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, tr("Write into"), str(Path(self.folder.text()).expanduser()))
        if folder:
            self.folder.setText(folder)
            self._chosen(folder=folder)

    def make(self) -> None:
        """Write all that is ticked, in the background."""
        if self.writer.job is not None or not self.choices.ticked:
            return
        folder = Path(self.folder.text()).expanduser()
        self._say("")
        self.progress.setValue(0)
        order = Order(self.workspace.project, self.choices.subject, self.choices.ticked, self.choices.wanted, folder)
        self.writer.start(WriteJob(order))
        self._show_busy()

    def _progressed(self, done: int, whole: int) -> None:
        self.progress.setMaximum(whole)
        self.progress.setValue(done)

    def _written(self, written: object) -> None:
        if isinstance(written, Written):
            count, folder = len(written.names), self.folder.text()
            files = tr("1 file is") if count == 1 else tr("{count} files are", count=count)
            self._say(
                tr(
                    "{files} written into {folder}, {size:.0f} kB.",
                    files=files,
                    folder=folder,
                    size=written.size / 1000,
                )
            )

    def _failed(self, words: str) -> None:
        self._say(words)
