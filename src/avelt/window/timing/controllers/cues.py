"""What is done with the time and the curve of the chosen cues in Timing."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from avelt.core.curves.named import title
from avelt.core.edits.cues import TimeOf, curve_cues, inherit_cues, retime_cues, shift_cues, times_of
from avelt.core.edits.routes import edit_named_curve, move_end, set_base_curve, set_duration
from avelt.core.model.curves import Curve, Named, PlainCurve
from avelt.core.model.motion import CueKey
from avelt.core.words import tr
from avelt.window.controls.number_text import Amount
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.controllers.keyframes import KeyframeController
from avelt.window.timing.curve_editor import CurveEditor
from avelt.window.timing.popovers import BaseCurves
from avelt.window.timing.sheet import Sheet
from avelt.window.timing.top_bar import TimingBar


class CueController(Controller):
    """Carries out what ribbons, the curve editor and the bar ask for."""

    def __init__(
        self,
        context: TimingContext,
        window: QWidget,
        sheet: Sheet,
        bench: CurveEditor,
        bar: TimingBar,
        keyframes: KeyframeController,
    ) -> None:
        super().__init__(context, window)
        self.bench, self.bar, self.keyframes = bench, bar, keyframes
        self._times: dict[CueKey, tuple[float, float]] = {}
        self.bases = BaseCurves(window)
        body, head = sheet.body, sheet.head
        body.dragged.connect(self._drag_time)
        body.dropped.connect(self._dropped)
        body.nudged.connect(self._nudge)
        head.stretched.connect(self._stretch)
        head.dropped.connect(self._dropped)
        bench.shaped.connect(self._shape)
        bench.settled.connect(self.workspace.end_gesture)
        body.cancelled.connect(self._cancelled)
        head.cancelled.connect(self._cancelled)
        bench.cancelled.connect(self._cancelled)
        bench.inherited.connect(lambda: self.inherit(context.key))
        bench.chosen.connect(self.choose_curve)
        bench.timed.connect(self._set_times)
        bench.refused.connect(self.workspace.said)
        bench.noted.connect(self.workspace.said)
        bar.length.committed.connect(self._set_length)
        bar.length.refused.connect(self.workspace.said)
        bar.base.activated.connect(self._set_base)
        bar.roles.clicked.connect(self._open_bases)
        self.bases.chosen.connect(self._set_role)

    def _words(self, key: CueKey | None) -> str:
        keys = self.context.keys
        return self.context.name(key) if len(keys) < 2 or key not in keys else tr("{count} cues", count=len(keys))

    def _targets(self, key: CueKey) -> tuple[CueKey, ...]:
        chosen = self.context.keys
        return chosen if key in chosen else (key,)

    def _drag_time(self, key: CueKey, start: float, end: float) -> None:
        if not self.route_id:
            return
        targets = self._targets(key)
        if not self._times or set(self._times) != set(targets):
            self._times = times_of(self.workspace.project, self.route_id, targets)
        base = self._times
        by_start, by_end = start - base[key][0], end - base[key][1]
        self.workspace.gesture(
            tr("time {key}", key=self._words(key)), lambda p: shift_cues(p, self.route_id, base, by_start, by_end)
        )

    def _dropped(self) -> None:
        self._times = {}
        self.workspace.end_gesture()
        self.context.measured.emit()

    def _cancelled(self) -> None:
        self._times = {}
        self.context.cancel_drag()
        self.context.measured.emit()

    def _nudge(self, key: CueKey, by: float) -> None:
        if self.route_id:
            base = times_of(self.workspace.project, self.route_id, self._targets(key))
            self.workspace.do(
                tr("time {key}", key=self._words(key)), lambda p: shift_cues(p, self.route_id, base, by, by)
            )

    def _set_times(self, which: TimeOf, amount: Amount) -> None:
        """What was typed for a time, put on each chosen cue by itself: each keeps what was not typed."""
        keys = self.context.keys
        if self.keyframes.keyframe() is not None:
            # What is shown ends at the chosen keyframe.
            bench = self.bench
            if which != "start":
                moment = bench.ends.value if which == "end" else bench.start.value + bench.lasts.value
                self.keyframes.type_moment(moment)
        elif keys:
            self.workspace.do(
                tr("time {words}", words=self._words(keys[-1])),
                lambda p: retime_cues(p, self.route_id, keys, which, amount.of),
            )

    def _stretch(self, length: float, only_end: bool) -> None:
        does = move_end if only_end else set_duration
        self.workspace.gesture(tr("change duration"), lambda p: does(p, self.route_id, length))

    def _shape(self, curve: PlainCurve) -> None:
        if self.context.route is None or self.context.key is None:
            return
        if self.keyframes.keyframe() is not None:
            self.keyframes.curve_into(curve, gesture=True)
            return
        named = self.context.cue_curve()
        if isinstance(named, Named) and self.bench.for_all.isChecked():
            name = title(self.workspace.project, named)
            self.workspace.gesture(
                tr("curve {name}, for all", name=name), lambda p: edit_named_curve(p, named.id, curve)
            )
            return
        keys = self.context.keys
        self.workspace.gesture(
            tr("curve of {key}", key=self._words(self.context.key)), lambda p: curve_cues(p, self.route_id, keys, curve)
        )

    def choose_curve(self, curve: Curve) -> None:
        """Another curve for the chosen cues, or into the chosen key."""
        keys = self.context.keys
        if self.keyframes.keyframe() is not None:
            self.keyframes.curve_into(curve, gesture=False)
        elif self.context.route is not None and keys:
            self.workspace.do(
                tr("curve of {words}", words=self._words(keys[-1])), lambda p: curve_cues(p, self.route_id, keys, curve)
            )

    def choose_named(self, ident: str) -> None:
        """A named curve for the chosen cues."""
        self.choose_curve(Named(ident))

    def inherit(self, key: CueKey | None) -> None:
        """A cue, with all that are chosen beside it, inherits its time and curve again."""
        if self.route_id and key is not None:
            targets = self._targets(key)
            self.workspace.do(
                tr("inherit {key}", key=self._words(key)), lambda p: inherit_cues(p, self.route_id, targets)
            )

    def _set_length(self, value: float) -> None:
        if self.route_id:
            self.workspace.do(tr("change duration"), lambda p: set_duration(p, self.route_id, value))

    def _set_base(self, place: int) -> None:
        ident = self.bar.base.itemData(place)
        if self.route_id and ident is not None:
            self.workspace.do(tr("change base curve"), lambda p: set_base_curve(p, self.route_id, Named(ident)))

    def _open_bases(self) -> None:
        route = self.context.route
        if route is not None:
            motion = route.transition
            self.bases.show_curves(
                self.workspace.project,
                {"both": motion.curve, "enters": motion.enter_curve, "leaves": motion.leave_curve},
            )
            roles = self.bar.roles
            self.bases.open_at(roles.mapToGlobal(roles.rect().bottomLeft()))

    def _set_role(self, curve: Curve | None, role: str) -> None:
        if role == "both" and curve is None:
            return
        self.workspace.do(tr("change base curve"), lambda p: set_base_curve(p, self.route_id, curve, role))  # type: ignore[arg-type]
