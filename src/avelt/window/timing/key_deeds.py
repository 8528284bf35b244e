"""Keys on the way: kept at the playhead or by what is changed in the Now view, dragged, typed, copied."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QRect

from avelt.core.edits.keyframes import (
    change_keyframe,
    keyframe_here,
    motion_path_points,
    put_keyframe,
    remove_keyframes,
    rotate_keyframes,
    value_at,
)
from avelt.core.geometry import motion_path as paths
from avelt.core.model.curves import Curve
from avelt.core.model.motion import CueKey, Keyframe
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, timed
from avelt.window.timing.deeds import Deeds
from avelt.window.timing.popovers import KeyForm

if TYPE_CHECKING:
    from avelt.window.timing.station import TimingStation


class KeyDeeds(Deeds):
    """For the keys of the chosen cue of a station."""

    def __init__(self, station: TimingStation) -> None:
        super().__init__(station)
        self.form = KeyForm(station)
        self.copied: tuple[str, bool, Keyframe] | None = None  # of which property, on a way or not, and the key
        now, body = station.now, station.sheet.body
        now.peg_dragged.connect(self._drag_keyframes)
        now.pegs_turned.connect(self._rotate_keyframes)
        now.layer_turned.connect(lambda degrees: self._change_layer("rotation", (degrees,)))
        now.layer_sized.connect(lambda dw, dh: self._change_layer("size", (dw, dh)))
        now.dropped.connect(self.dropped)
        body.peg_picked.connect(self._pick_keyframe)
        body.peg_dragged.connect(self._move_keyframe)
        body.peg_opened.connect(self._open_keyframe)
        self.form.moved.connect(self.type_moment)
        self.form.valued.connect(lambda value: self._change_key("change key", value=value))
        self.form.curved.connect(lambda curve: self._change_key("curve into key", curve=curve))
        self.form.removed.connect(self.remove_keyframe)

    # By what is changed in the Now view

    def drag(
        self, project: Project, program: Program, cue: CueKey, when: Timed, slot: int, ms: float, dx: float, dy: float
    ) -> None:
        """The layer's place at the moment becomes a key, so many px from where it is."""
        row = program.at(ms).scalars[slot]
        at = (ms - when.start) / when.duration
        if when.motion_path is None:
            value = (round(float(row[0]) + dx, 2), round(float(row[1]) + dy, 2))
        else:
            course = paths.ArcLengthPath(motion_path_points(program, slot, when.motion_path))
            spot = float(row[0] + row[4] * row[2]) + dx, float(row[1] + row[5] * row[3]) + dy
            value = (round(course.share_near(*spot), 4),)  # type: ignore[assignment]
        self.workspace.gesture("key on the way", lambda _: put_keyframe(project, self.route_id, cue, at, value))

    def _change_layer(self, prop: str, by: tuple[float, ...]) -> None:
        """A turn or a size at the playhead becomes a key, by so much from what it is."""
        key = self.station.key
        if key is None:
            return
        cue = (key[0], key[1], prop)
        project, program = self.begin()
        when, ms, slot = self.timed(cue), self.station.clock.ms, self.station.now.slot
        now = value_at(program, slot, prop, ms)
        value = tuple(round(old + more, 2) for old, more in zip(now, by, strict=True))
        at = (ms - when.start) / max(when.duration, 1e-9)
        self.workspace.gesture("key on the way", lambda _: put_keyframe(project, self.route_id, cue, at, value))

    # At the playhead

    def keyframe_here(self) -> None:
        """The chosen property's value at the playhead becomes a key."""
        key, program, slot = self.station.key, self.station.program, self.station.now.slot
        if key is None or program is None or slot < 0:
            return
        cue = key if key[2] else (key[0], key[1], "position")
        ms = self.station.clock.ms
        if self.workspace.do("key on the way", lambda p: keyframe_here(p, self.route_id, cue, program, slot, ms)):
            self.station.open_row(cue)
            moments = [entry.at for entry in self.timed(cue).keyframes]
            when = self.timed(cue)
            at = (ms - when.start) / max(when.duration, 1e-9)
            self._pick_keyframe(cue, int(np.argmin([abs(m - at) for m in moments])))

    def next_keyframe(self, step: int = 1) -> None:
        """The next key of the chosen cue, or the one before."""
        key = self.station.key
        count = len(self.timed(key).keyframes) if key is not None and self.station.route is not None else 0
        if key is not None and count:
            place = self.station.sheet.body.keyframe
            self._pick_keyframe(key, (place + step) % count if place >= 0 else (0 if step > 0 else count - 1))
        else:
            self.workspace.said.emit("This cue has no keys: K makes one at the playhead.")

    def copy_keyframe(self) -> bool:
        """Remember the chosen key; whether one is chosen."""
        key, cue = self.keyframe(), self.station.key
        if key is None or cue is None:
            return False
        self.copied = (cue[2], self.timed(cue).motion_path is not None, key)
        self.workspace.said.emit("Key copied: Ctrl+V puts it at the playhead.")
        return True

    def paste_keyframe(self) -> bool:
        """The remembered key at the playhead of the chosen cue; whether one was remembered."""
        cue, copied = self.station.key, self.copied
        if cue is None or copied is None:
            return False
        prop, on_way, key = copied
        target = cue if cue[2] else (cue[0], cue[1], prop)
        when = self.timed(target)
        if target[2] != prop or (when.motion_path is not None) != on_way:
            self.workspace.said.emit("The copied key is of another kind: choose the row of the same property.")
            return True
        at = (self.station.clock.ms - when.start) / max(when.duration, 1e-9)
        self.workspace.do("put key", lambda p: put_keyframe(p, self.route_id, target, at, key.value, key.curve))
        return True

    def _pick_keyframe(self, cue: object, place: int) -> None:
        self.station.sheet.body.keyframe = place
        self.station.now.keyframes_chosen = (place,) if self.station.key and self.station.key[2] == "position" else ()
        self.station.sheet.body.update()
        self.station.show_key()

    def keyframe(self) -> Keyframe | None:
        """The chosen key of the chosen cue."""
        key, place = self.station.key, self.station.sheet.body.keyframe
        if key is None or place < 0 or self.station.route is None:
            return None
        keys = self.timed(key).keyframes
        return keys[place] if place < len(keys) else None

    def _move_keyframe(self, cue: CueKey, place: int, ms: float) -> None:
        when = self.timed(cue)
        if when.duration <= 0 or place >= len(when.keyframes):
            return
        at = (ms - when.start) / when.duration
        found: list[int] = []

        def edit(p: Project) -> Project:
            p, new = change_keyframe(p, self.route_id, cue, place, at=at)
            found.append(new)
            return p

        if self.workspace.gesture("move key", edit):
            self.station.sheet.body.keyframe = found[-1]

    def _open_keyframe(self, cue: CueKey, place: int, where: QRect) -> None:
        self._pick_keyframe(cue, place)
        key = self.keyframe()
        if key is not None:
            when = self.timed(cue)
            on_way = when.motion_path is not None and cue[2] == "position"
            self.form.show_key(self.workspace.project, key, cue[2], on_way, when.start + key.at * when.duration)
            self.form.open_at(self.station.sheet.body.mapToGlobal(where.bottomRight()))

    def type_moment(self, ms: float) -> None:
        """The chosen key at another moment."""
        key = self.station.key
        if key is not None:
            when = self.timed(key)
            self._change_key("move key", at=(ms - when.start) / max(when.duration, 1e-9))

    def _change_key(self, words: str, **own: object) -> None:
        cue, place = self.station.key, self.station.sheet.body.keyframe
        if cue is None or self.keyframe() is None:
            return
        found: list[int] = []

        def edit(p: Project) -> Project:
            p, new = change_keyframe(p, self.route_id, cue, place, **own)  # type: ignore[arg-type]
            found.append(new)
            return p

        if self.workspace.do(words, edit):
            self.station.sheet.body.keyframe = found[-1]
            self.station.sheet.body.update()

    def curve_into(self, curve: Curve, gesture: bool) -> None:
        """The curve that leads into the chosen key."""
        cue, place = self.station.key, self.station.sheet.body.keyframe
        if cue is not None and self.keyframe() is not None:
            does = self.workspace.gesture if gesture else self.workspace.do
            does("curve into key", lambda p: change_keyframe(p, self.route_id, cue, place, curve=curve)[0])

    def remove_keyframe(self) -> bool:
        """Without the chosen key; whether there was one."""
        cue, place = self.station.key, self.station.sheet.body.keyframe
        self.form.hide()
        if cue is None or self.keyframe() is None:
            return False
        self.station.sheet.body.keyframe = -1
        return self.workspace.do("remove key", lambda p: remove_keyframes(p, self.route_id, cue, [place]))

    def _drag_keyframes(self, which: int, dx: float, dy: float) -> None:
        cue, now = self.place_cue, self.station.now
        if cue is None or self.station.route is None:
            return
        project, program = self.begin()
        when = timed(project, self.station.route.transition, *cue)
        chosen = now.keyframes_chosen or (which,)

        def edit(_: Project) -> Project:
            made = project
            for k in chosen:
                key = when.keyframes[k]
                if when.motion_path is None:
                    value: tuple[float, ...] = (round(key.value[0] + dx, 2), round(key.value[1] + dy, 2))
                else:
                    course = paths.ArcLengthPath(motion_path_points(program, now.slot, when.motion_path))
                    x, y = course.at(np.array(key.value[0]))
                    value = (round(course.share_near(float(x) + dx, float(y) + dy), 4),)
                made = change_keyframe(made, self.route_id, cue, k, value=value)[0]
            return made

        self.workspace.gesture("move keys", edit)

    def _rotate_keyframes(self, degrees: float, factor: float) -> None:
        cue, chosen = self.place_cue, self.station.now.keyframes_chosen
        if cue is not None and len(chosen) > 1:
            project, _ = self.begin()
            self.workspace.gesture(
                "turn keys", lambda _: rotate_keyframes(project, self.route_id, cue, chosen, degrees, factor)
            )
