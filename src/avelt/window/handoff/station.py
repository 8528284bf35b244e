"""Hand-off: a transition as a GIF to send to somebody."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QLineEdit, QProgressBar, QVBoxLayout, QWidget

from avelt.core.edits.session import Change
from avelt.core.model.find import frame_by_id
from avelt.core.timing.schedule import duration_of
from avelt.paint.moving import Moving, moments
from avelt.window.common.jobs import Latest
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import NumberField, add_all, bar, button, label, panel, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.controls.views import SceneView
from avelt.window.handoff.job import GifJob, GifRequest

_SIZES = (("half size", 0.5), ("as designed", 1.0), ("double", 2.0))
_RATES = (10.0, 12.5, 20.0, 25.0, 33.3, 50.0)


class HandoffStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self.jobs = Latest(self)
        self.jobs.progressed.connect(self._progressed)
        self.jobs.answered.connect(lambda words: self.answer.setText(words))
        self.jobs.failed.connect(lambda words: self.answer.setText(words))
        self.jobs.ended.connect(self._show_busy)
        self._make()
        self._connect()

    def _make(self) -> None:
        strip, layout = bar()
        self.routes = Pick()
        self.routes.setMinimumWidth(260)
        self.routes.setToolTip("The transition to give away")
        self.folder = QLineEdit("~")
        self.folder.setMinimumWidth(240)
        self.choose_folder = button("Choose…", "Choose the folder to write into")
        add_all(layout, label("Hand off", "quiet"), self.routes, None)
        add_all(layout, label("Into", "quiet"), self.folder, self.choose_folder)
        view_panel, settings = self._make_view(), self._make_settings()
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 12, 12, 12)
        inner.setSpacing(12)
        inner.addWidget(settings)
        inner.addWidget(view_panel, 1)
        self.empty = EmptyPlace(
            "There is no transition to hand off yet. Make one in Routes.",
            "Go to Routes",
            lambda: self.workspace.station_wanted.emit("routes"),
        )
        lay_out(self, strip, self.body, self.empty)

    def _make_view(self) -> QWidget:
        self.view = SceneView(self.workspace)
        view_panel = panel()
        inside = QVBoxLayout(view_panel)
        inside.setContentsMargins(16, 12, 16, 16)
        inside.addWidget(label("As designed", "heading"))
        inside.addWidget(self.view, 1)
        return view_panel

    def _make_settings(self) -> QWidget:
        settings = panel()
        settings.setFixedWidth(420)
        self.name = QLineEdit()
        self.size_choice, self.rate = Pick(), Pick()
        for words, _ in _SIZES:
            self.size_choice.addItem(words)
        self.size_choice.setCurrentIndex(1)
        for value in _RATES:
            self.rate.addItem(f"{value:g} pictures a second")
        self.rate.setCurrentIndex(3)
        self.loop = Tick("plays as a loop")
        self.loop.setChecked(True)
        self.rest = NumberField("ms", 100.0, 20.0, 60_000.0, 0)
        self.rest.show_value(600.0)
        self.facts = label("", "quiet")
        self.write = button("Write the GIF", "Make the moving picture (Ctrl+Return)", "strong")
        self.write.setShortcut("Ctrl+Return")
        self.stop = button("Stop", "Stop; nothing is written")
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.answer = label("")
        self.answer.setWordWrap(True)
        form = QGridLayout()
        form.setHorizontalSpacing(14)
        form.setVerticalSpacing(10)
        rows = (
            ("File", self.name),
            ("Size", self.size_choice),
            ("Frame rate", self.rate),
            ("Loop", self.loop),
            ("Rests at the end", self.rest),
        )
        for k, (words, field) in enumerate(rows):
            form.addWidget(label(words, "quiet"), k, 0)
            form.addWidget(field, k, 1)
        form.setColumnStretch(1, 1)
        layout2 = QVBoxLayout(settings)
        layout2.setContentsMargins(18, 14, 18, 16)
        layout2.setSpacing(12)
        layout2.addWidget(label("Picture loop (GIF)", "heading"))
        layout2.addLayout(form)
        layout2.addWidget(self.facts)
        layout2.addLayout(row(self.write, self.stop, None))
        layout2.addWidget(self.progress)
        layout2.addWidget(self.answer)
        layout2.addStretch(1)
        return settings

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(self._changed)
        workspace.routed.connect(lambda: self.refresh() if self.isVisible() else None)
        self.clock.ticked.connect(self._ticked)
        self.routes.activated.connect(lambda k: workspace.choose_route(self.routes.itemData(k)))
        self.choose_folder.clicked.connect(self._choose_folder)
        for field in (self.size_choice, self.rate):
            field.activated.connect(self._show_facts)
        self.write.clicked.connect(self.make)
        self.stop.clicked.connect(self.jobs.stop)

    def enter(self) -> None:
        """The station comes to the front."""
        self.refresh()
        if self.workspace.route is not None:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front; work that runs goes on."""
        self.clock.stop()

    def refresh(self) -> None:
        """Take everything over from the project."""
        project, route = self.workspace.project, self.workspace.route
        self.body.setVisible(route is not None)
        self.empty.setVisible(route is None)
        self.routes.clear()
        for entry in project.routes:
            left, right = frame_by_id(project, entry.leaves), frame_by_id(project, entry.arrives)
            self.routes.addItem(f"{left.name} → {right.name}", entry.id)
        if route is None:
            return
        self.routes.setCurrentIndex(self.routes.findData(route.id))
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        wanted = f"{left.name} to {right.name}.gif"
        if not self.name.isModified():
            self.name.setText(wanted)
        self.clock.set_duration(duration_of(route.transition, self.workspace.project))
        self._show_facts()
        self._show_busy()
        self._ticked(self.clock.ms)

    def _changed(self, change: Change) -> None:
        if self.isVisible() and (change.concerns(self.workspace.route) or "frames" in change.touched.fields):
            self.refresh()

    def wanted(self) -> Moving:
        """What is set."""
        return Moving(
            _SIZES[self.size_choice.currentIndex()][1],
            _RATES[self.rate.currentIndex()],
            self.loop.isChecked(),
            self.rest.value,
        )

    def _show_facts(self) -> None:
        route = self.workspace.route
        if route is None:
            return
        frame, wanted = frame_by_id(self.workspace.project, route.leaves), self.wanted()
        length = duration_of(route.transition, self.workspace.project)
        size = f"{frame.w * wanted.scale:.0f} × {frame.h * wanted.scale:.0f} px"
        self.facts.setText(f"{size}, {len(moments(length, wanted.rate))} pictures, {length:g} ms")

    def _show_busy(self) -> None:
        busy = self.jobs.job is not None
        self.write.setEnabled(not busy)
        self.stop.setEnabled(busy)
        self.progress.setVisible(busy)

    def _ticked(self, ms: float) -> None:
        route = self.workspace.route
        if route is not None:
            self.view.show_scene(self.workspace.program(route).from_start(ms))

    def _choose_folder(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, "Write into", str(Path(self.folder.text()).expanduser()))
        if folder:
            self.folder.setText(folder)

    def make(self) -> None:
        """Write the GIF in the background."""
        route, name = self.workspace.route, self.name.text().strip()
        if route is None or self.jobs.job is not None:
            return
        if not name:
            self.answer.setText("Give the file a name first.")
            return
        path = Path(self.folder.text()).expanduser() / (name if name.lower().endswith(".gif") else f"{name}.gif")
        self.answer.setText("")
        self.progress.setValue(0)
        request = GifRequest(self.workspace.program(route), self.workspace.project, path, self.wanted())
        self.jobs.start(GifJob(request))
        self._show_busy()

    def _progressed(self, done: int, whole: int) -> None:
        self.progress.setMaximum(whole)
        self.progress.setValue(done)
