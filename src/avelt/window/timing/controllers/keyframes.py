"""Keyframes: kept at the playhead or by what is changed in the Now view, dragged, typed, copied."""

from __future__ import annotations

from PySide6.QtCore import QRect
from PySide6.QtWidgets import QWidget

from avelt.core.arrays import np
from avelt.core.edits.keyframes import (
    change_keyframe,
    key_or_end,
    key_to_end,
    keyframe_here,
    path_course,
    put_keyframe,
    remove_keyframes,
    rotate_keyframes,
    value_at,
)
from avelt.core.model.curves import Curve
from avelt.core.model.motion import CueKey, Keyframe
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, timed
from avelt.core.words import tr
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.now_view import NowView
from avelt.window.timing.popovers import KeyframeForm
from avelt.window.timing.sheet_rows import SheetRows


class KeyframeController(Controller):
    """For the keys of the chosen cue of a station."""

    def __init__(self, context: TimingContext, window: QWidget, rows: SheetRows, now: NowView) -> None:
        super().__init__(context, window)
        self.rows, self.now = rows, now
        self.form = KeyframeForm(window)
        self.copied: tuple[str, bool, Keyframe] | None = None  # of which property, on a way or not, and the key
        now.keyframe_dragged.connect(self._drag_keyframes)
        now.keyframes_rotated.connect(self._rotate_keyframes)
        now.layer_rotated.connect(lambda degrees: self._change_layer("rotation", (degrees,)))
        now.layer_sized.connect(lambda dw, dh: self._change_layer("size", (dw, dh)))
        now.dropped.connect(context.end_drag)
        now.cancelled.connect(context.cancel_drag)
        rows.keyframe_picked.connect(self._pick_keyframe)
        rows.keyframe_dragged.connect(self._move_keyframe)
        rows.keyframe_opened.connect(self._open_keyframe)
        self.form.moved.connect(self.type_moment)
        self.form.valued.connect(lambda value: self._change_key(tr("change keyframe"), value=value))
        self.form.curved.connect(lambda curve: self._change_key(tr("curve into keyframe"), curve=curve))
        self.form.removed.connect(self.remove_keyframes)

    # By what is changed in the Now view

    def dragged(
        self, project: Project, program: Program, cue: CueKey, when: Timed, slot: int, ms: float, dx: float, dy: float
    ) -> Project:
        """The layer's place at the moment becomes a key, so many px from where it is."""
        row = program.at(ms).scalars[slot]
        at = (ms - when.start) / when.duration
        if when.motion_path is None:
            value: tuple[float, ...] = (round(float(row[0]) + dx, 2), round(float(row[1]) + dy, 2))
        else:
            course = path_course(program, slot, when.motion_path)
            spot = float(row[0] + row[4] * row[2]) + dx, float(row[1] + row[5] * row[3]) + dy
            value = (round(course.share_near(*spot), 4),)
        return put_keyframe(project, self.route_id, cue, at, value)

    def _change_layer(self, prop: str, by: tuple[float, ...]) -> None:
        """A turn or a size at the playhead becomes a key, by so much from what it is."""
        key = self.context.key
        if key is None:
            return
        cue = key.of(prop)
        base = self.context.base()
        if base is None:
            return
        project, program = base
        when, ms, slot = self.context.timed(cue), self.context.clock.ms, self.context.slot
        now = value_at(program, slot, prop, ms)
        value = tuple(round(old + more, 2) for old, more in zip(now, by, strict=True))
        at = (ms - when.start) / max(when.duration, 1e-9)
        self._said(self.workspace.make_while("keyframe", lambda _: key_or_end(project, self.route_id, cue, at, value)))

    def _said(self, words: str | None) -> None:
        if words:
            self.workspace.said.emit(words)

    # At the playhead

    def keyframe_here(self) -> None:
        """The value of each chosen property at the playhead becomes a key."""
        keys, program, ms = self.context.keys, self.context.program, self.context.clock.ms
        cues = tuple(dict.fromkeys(key if key.prop else key.of("position") for key in keys))
        if not cues or program is None:
            return
        slots = {cue: program.slot_of(*cue.pair) for cue in cues}

        def edit(project: Project) -> Project:
            for cue, slot in slots.items():
                if slot >= 0:
                    project = keyframe_here(project, self.route_id, cue, program, slot, ms)
            return project

        if self.workspace.do(tr("keyframe") if len(cues) < 2 else tr("{count} keyframes", count=len(cues)), edit):
            cue = cues[-1]
            if len(cues) == 1:
                self.context.row_wanted.emit(cue)
            moments = [entry.at for entry in self.context.timed(cue).keyframes]
            when = self.context.timed(cue)
            at = (ms - when.start) / max(when.duration, 1e-9)
            self._pick_keyframe(cue, int(np.argmin([abs(m - at) for m in moments])))

    def next_keyframe(self, step: int = 1) -> None:
        """The next key of the chosen cue, or the one before."""
        key = self.context.key
        count = len(self.context.timed(key).keyframes) if key is not None and self.context.route is not None else 0
        if key is not None and count:
            place = self.context.selection.keyframe
            self._pick_keyframe(key, (place + step) % count if place >= 0 else (0 if step > 0 else count - 1))
        else:
            self.workspace.said.emit(tr("This cue has no keyframes: K makes one at the playhead."))

    def copy_keyframe(self) -> bool:
        """Remember the chosen key; whether one is chosen."""
        key, cue = self.keyframe(), self.context.key
        if key is None or cue is None:
            return False
        self.copied = (cue.prop, self.context.timed(cue).motion_path is not None, key)
        self.workspace.said.emit(tr("Keyframe copied: Ctrl+V pastes it at the playhead."))
        return True

    def paste_keyframe(self) -> bool:
        """The remembered key at the playhead of the chosen cue; whether one was remembered."""
        cue, copied = self.context.key, self.copied
        if cue is None or copied is None:
            return False
        prop, on_way, key = copied
        target = cue if cue.prop else cue.of(prop)
        when = self.context.timed(target)
        if target.prop != prop or (when.motion_path is not None) != on_way:
            self.workspace.said.emit(tr("The copied keyframe is of another kind: choose the row of the same property."))
            return True
        at = (self.context.clock.ms - when.start) / max(when.duration, 1e-9)
        self._said(
            self.workspace.make(
                tr("paste keyframe"), lambda p: key_or_end(p, self.route_id, target, at, key.value, key.curve)
            )
        )
        return True

    def _pick_keyframe(self, cue: object, place: int) -> None:
        chosen = self.context.selection
        self.context.select(chosen.with_keyframes(self.context.key, (place,)))

    def keyframe(self) -> Keyframe | None:
        """The chosen key of the chosen cue."""
        key, place = self.context.key, self.context.selection.keyframe
        if key is None or place < 0 or self.context.route is None:
            return None
        keys = self.context.timed(key).keyframes
        return keys[place] if place < len(keys) else None

    def _move_keyframe(self, cue: CueKey, place: int, ms: float) -> None:
        when = self.context.timed(cue)
        if when.duration <= 0 or place >= len(when.keyframes):
            return
        at = (ms - when.start) / when.duration
        new = self.workspace.make_while(
            tr("move keyframe"), lambda p: change_keyframe(p, self.route_id, cue, place, at=at)
        )
        if new is not None:
            self._keep(new)

    def _keep(self, place: int) -> None:
        """The keyframe stays chosen though it is another one in the order now."""
        chosen = self.context.selection
        self.context.select(chosen.with_keyframes(self.context.key, (place,)))

    def _open_keyframe(self, cue: CueKey, place: int, where: QRect) -> None:
        self._pick_keyframe(cue, place)
        key = self.keyframe()
        if key is not None:
            when = self.context.timed(cue)
            on_way = when.motion_path is not None and cue.prop == "position"
            self.form.show_key(self.workspace.project, key, cue.prop, on_way, when.start + key.at * when.duration)
            self.form.open_at(self.rows.mapToGlobal(where.bottomRight()))

    def type_moment(self, ms: float) -> None:
        """The chosen key at another moment; at the start or end of its cue it becomes that end."""
        key, place = self.context.key, self.context.selection.keyframe
        if key is None or self.keyframe() is None:
            return
        when = self.context.timed(key)
        at = (ms - when.start) / max(when.duration, 1e-9)
        if 0.0 < at < 1.0:
            self._change_key(tr("move keyframe"), at=at)
        else:
            side = 0 if at <= 0.0 else 1
            self._said(
                self.workspace.make(tr("keyframe to end"), lambda p: key_to_end(p, self.route_id, key, place, side))
            )

    def _change_key(self, words: str, **own: object) -> None:
        cue, place = self.context.key, self.context.selection.keyframe
        if cue is None or self.keyframe() is None:
            return
        new = self.workspace.make(
            words,
            lambda p: change_keyframe(p, self.route_id, cue, place, **own),  # type: ignore[arg-type]
        )
        if new is not None:
            self._keep(new)

    def curve_into(self, curve: Curve, gesture: bool) -> None:
        """The curve that leads into the chosen key."""
        cue, place = self.context.key, self.context.selection.keyframe
        if cue is not None and self.keyframe() is not None:
            does = self.workspace.gesture if gesture else self.workspace.do
            does(tr("curve into keyframe"), lambda p: change_keyframe(p, self.route_id, cue, place, curve=curve)[0])

    def remove_keyframes(self) -> None:
        """Without the chosen keyframes; with none chosen, it says so."""
        self.form.hide()
        chosen = self.context.selection
        cue = chosen.keyframes_of
        if cue is None or self.context.route is None or not chosen.keyframes:
            self.workspace.said.emit(
                tr("Choose a keyframe to delete it. Shift+Del gives a cue its inherited time back.")
            )
            return
        self.context.select(chosen.with_keyframes(None, ()))
        words = tr("delete keyframes") if len(chosen.keyframes) > 1 else tr("delete keyframe")
        self.workspace.do(words, lambda p: remove_keyframes(p, self.route_id, cue, chosen.keyframes))

    def _drag_keyframes(self, which: int, dx: float, dy: float) -> None:
        cue = self.context.position_cue
        if cue is None or self.context.route is None:
            return
        base = self.context.base()
        if base is None:
            return
        project, program = base
        when = timed(project, self.context.route.transition, *cue)
        chosen = self.context.selection.keyframes_at(cue) or (which,)

        def edit(_: Project) -> Project:
            made = project
            for k in chosen:
                key = when.keyframes[k]
                if when.motion_path is None:
                    value: tuple[float, ...] = (round(key.value[0] + dx, 2), round(key.value[1] + dy, 2))
                else:
                    course = path_course(program, self.context.slot, when.motion_path)
                    x, y = course.at(np.array(key.value[0]))
                    value = (round(course.share_near(float(x) + dx, float(y) + dy), 4),)
                made = change_keyframe(made, self.route_id, cue, k, value=value)[0]
            return made

        self.workspace.gesture(tr("move keyframes"), edit)

    def _rotate_keyframes(self, degrees: float, factor: float) -> None:
        cue = self.context.position_cue
        chosen = self.context.selection.keyframes_at(cue)
        base = self.context.base()
        if cue is not None and len(chosen) > 1 and base is not None:
            project = base[0]
            self.workspace.gesture(
                tr("rotate keyframes"), lambda _: rotate_keyframes(project, self.route_id, cue, chosen, degrees, factor)
            )
