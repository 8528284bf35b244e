"""A new designer's hour with the sure hand: what she clicks is taken, what she types is meant, nothing is lost.

She gives the only screen an entrance, clicks what moves inside groups that rest, goes one deeper, bends a card's way
with the card under the pointer, ties and staggers and is told what that undoes, types a keyframe onto an end, settles
several pairs at once, puts one route's motion on others by name, and makes room; all of it can be taken back.
"""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from avelt.core.edits.entrances import remove_entrance
from avelt.core.edits.frames import next_state
from avelt.core.edits.keyframes import value_at
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import add_route
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_layer, route_by_id
from avelt.core.model.triggers import Tap
from avelt.core.timing.schedule import timed
from avelt.window.common.remembered import Remembered
from tests.support import WindowCase, click, drag, send
from tests.xvfb import needs_xvfb, run_in_xvfb

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="360" height="640">'
SHELF = (
    f'{HEAD}<rect id="Ground" width="360" height="640" fill="#eef3f1"/><g id="Rack">'
    + "".join(
        f'<g id="{name} box"><rect id="{name} side" x="30" y="{60 + 130 * k}" width="120" height="100" rx="12" '
        f'fill="{fill}"/><circle id="{name} dot" cx="60" cy="{90 + 130 * k}" r="14" fill="#16323a"/></g>'
        for k, (name, fill) in enumerate((("Rope", "#f1b263"), ("Lamp", "#8fc7b4"), ("Chart", "#c4d7e2")))
    )
    + "</g></svg>"
)
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class FirmGround(WindowCase, unittest.TestCase):
    demo = False

    def test_the_hour(self) -> None:
        self.walk(
            self.the_only_screen_gets_an_entrance,
            self.a_second_state_with_boxes_moved,
            self.what_moves_is_listed_and_clicked,
            self.a_way_bent_with_the_box_under_the_pointer,
            self.ties_and_staggers_say_what_they_undo,
            self.a_key_on_an_end_is_that_end,
            self.keys_paths_and_inheriting_go_apart,
            self.several_pairs_at_once,
            self.motion_put_on_others_by_name,
            self.open_in_timing_shows_the_route,
            self.room,
        )
        self.take_all_back_and_again()

    # Steps

    def the_only_screen_gets_an_entrance(self) -> None:
        path = Path(self.folder.name) / "Shelf.svg"
        path.write_text(SHELF, encoding="utf-8")
        self.window.import_files([path])
        while not self.project.frames:
            self.settle()
        frame = self.project.frames[0]
        self.workspace.choose(frame.id, find_layer(frame, "Rope box").id)
        self.window.stations["frames"].do("entrance")
        self.station = self.window.stations["timing"]
        self.assertEqual(self.window.current, "timing")
        self.assertEqual([row.right_name for row in self.rows() if row.changes], ["Rope box"])
        self.window.go("frames")
        self.window.go("timing")
        self.assertEqual([row.right_name for row in self.rows() if row.changes], ["Rope box"])

    def a_second_state_with_boxes_moved(self) -> None:
        first = self.project.frames[0]
        self.workspace.do("next state", lambda p: next_state(p, first.id))
        moved = self.project.frames[1]
        second = moved.id
        self.workspace.do("no entrance here", lambda p: remove_entrance(p, second))
        for k, name in enumerate(("Rope box", "Lamp box", "Chart box")):
            layer = find_layer(moved, name)
            self.workspace.do(
                "move", lambda p, i=layer.id, y=layer.y, k=k: set_value(p, second, i, "y", y + 60 + 10 * k)
            )
            self.workspace.do("move", lambda p, i=layer.id: set_value(p, second, i, "x", 150.0))
        self.route_id = self.workspace.make("route", lambda p: add_route(p, first.id, second, Tap()))
        self.workspace.motion_wanted.emit(self.route_id)
        self.settle()
        self.assertIsNone(self.station.context.entrance)

    def what_moves_is_listed_and_clicked(self) -> None:
        names = [row.left_name for row in self.rows()]
        self.assertEqual(names, ["Rack", "Rope box", "Lamp box", "Chart box"])
        self.assertEqual([row.changes for row in self.rows()], [False, True, True, True])
        now = self.station.now
        self.station.clock.seek(0.0)
        click(now, self.spot("Lamp dot"))
        self.assertEqual(self.chosen_name(), "Lamp box")  # what moves, not the dot in it nor the rack that rests
        click(now, self.spot("Rope dot"), SHIFT)
        self.assertEqual(len(self.station.context.keys), 2)
        self.right_click(now, self.spot("Chart dot"))
        self.assertEqual(self.chosen_name(), "Chart box")
        click(self.station.from_view, self.in_frame_view("Rope dot"))
        self.assertEqual(self.chosen_name(), "Rope box")
        self.window.go("loops")
        loops = self.window.stations["loops"]
        loops.clock.stop()
        to = loops.view.to_widget()
        send(loops.view, QEvent.Type.MouseButtonPress, to.map(QPointF(60, 90)))
        group = self.workspace.layer.name
        send(loops.view, QEvent.Type.MouseButtonDblClick, to.map(QPointF(60, 90)))
        self.assertEqual((group, self.workspace.layer.name), ("Rope box", "Rope dot"))
        self.window.go("timing")

    def a_way_bent_with_the_box_under_the_pointer(self) -> None:
        now, clock = self.station.now, self.station.clock
        self.station.pick(self.key("Rope box"))
        clock.seek(120.0)
        slot = now.slot
        before = value_at(self.station.context.program, slot, "position", 120.0)
        scale = now.to_widget().m11()
        start = self.middle(slot)
        drag(now, start, start + QPointF(70 * scale, -30 * scale))
        self.settle()
        after = value_at(self.station.context.program, slot, "position", 120.0)
        np.testing.assert_allclose(np.subtract(after, before), (70, -30), atol=1.0)
        self.assertEqual(timed(self.project, self.motion, *self.key("Rope box").of("position")).keyframes, ())

    def ties_and_staggers_say_what_they_undo(self) -> None:
        keys = [self.key(name) for name in ("Rope box", "Lamp box", "Chart box")]
        self.station.pick_range(tuple(keys))
        self.station.ties.stagger()
        self.station.ties.stagger_form.hide()
        body, place = self.station.sheet.body, self.place("Lamp box")
        self.station.pick(keys[1])
        rect = body.ribbon_rect(place)
        drag(body, rect.center(), rect.center() + QPointF(30, 0), keys=Qt.KeyboardModifier.AltModifier)
        self.settle()
        (marks,) = self.station.sheet.body.seen_staggers()
        self.assertTrue(marks.words.endswith("and 1 moved"), marks.words)
        self.station.pick_range((keys[0], keys[1]))
        self.station.ties.chain("after")
        self.assertIn("left its stagger", self.window.said.text())
        start, end = (timed(self.project, self.motion, *keys[0]), timed(self.project, self.motion, *keys[1]))
        self.assertEqual(end.start, start.end)

    def a_key_on_an_end_is_that_end(self) -> None:
        key = self.key("Chart box")
        self.station.pick(key)
        self.station.clock.seek(timed(self.project, self.motion, *key).start + 40.0)
        self.station.keyframes.keyframe_here()
        self.assertEqual(self.station.context.key.prop, "position")
        value = self.station.keyframes.keyframe().value
        when = self.station.context.timed(self.station.context.key)
        self.station.keyframes.type_moment(when.end)
        self.assertIn("Changed in", self.window.said.text())
        second = self.project.frames[1]
        layer = find_layer(second, "Chart box")
        np.testing.assert_allclose((layer.x, layer.y), value, atol=0.01)

    def keys_paths_and_inheriting_go_apart(self) -> None:
        cue = self.key("Rope box").of("position")
        self.station.open_row(cue)
        self.station.cues.inherit(cue)
        self.assertIsNotNone(timed(self.project, self.motion, *cue).motion_path)
        body = self.station.sheet.body
        body.setFocus()
        QTest.keyClick(body, Qt.Key.Key_Delete)
        self.assertIn("Choose a keyframe", self.window.said.text())
        QTest.keyClick(body, Qt.Key.Key_Delete, CTRL)
        self.assertIsNone(timed(self.project, self.motion, *cue).motion_path)

    def several_pairs_at_once(self) -> None:
        self.window.go("pairs")
        station = self.window.stations["pairs"]
        frame = self.project.frames[0]
        idents = [find_layer(frame, name).id for name in ("Chart dot", "Lamp dot")]
        station.choose_several("from", idents, idents[-1])
        click(station.sheet.apart)
        self.assertEqual({d.from_id for d in self.motion.decisions}, set(idents))
        self.window.do("undo")
        self.window.go("timing")

    def motion_put_on_others_by_name(self) -> None:
        second = self.project.frames[1]
        self.workspace.do("next state", lambda p: next_state(p, second.id))
        third = self.project.frames[2].id
        self.other_id = self.workspace.make("route", lambda p: add_route(p, second.id, third, Tap()))
        self.window.go("routes")
        station = self.window.stations["routes"]
        station.many.show_routes([self.route_id, self.other_id])
        self.assertFalse(station.many.copy.isEnabled())
        place = station.many.source.findData(self.route_id)
        station.many.source.setCurrentIndex(place)
        station.many.source.activated.emit(place)
        self.assertEqual(station.many.copy.text(), "Put on 1 route")
        station.many.copy.click()
        self.assertIn("found their place", self.window.said.text())

    def open_in_timing_shows_the_route(self) -> None:
        self.station.context.show_entrance(self.project.frames[0].id)
        self.assertIsNotNone(self.station.context.entrance)
        self.window.go("routes")
        card = self.window.stations["routes"].one
        card.show_route(route_by_id(self.project, self.route_id))
        card.time.click()
        self.assertEqual(self.station.context.route.id, self.route_id)
        self.assertEqual(self.window.current, "timing")

    def room(self) -> None:
        stage, wide = self.station.stage, self.station.stage.paper.width()
        click(stage.left.fold)
        self.settle()
        self.assertGreater(stage.paper.width(), wide + 60)
        self.assertTrue(self.workspace.remembered.flag("timing.from.folded"))
        self.station.body.set_share(0.7)
        self.settle()
        upper, lower = self.station.body.sizes()
        self.assertAlmostEqual(upper / (upper + lower), 0.7, delta=0.03)
        said = self.window.said
        self.assertGreaterEqual(said.y(), self.window.stack.geometry().bottom())  # under everything, over nothing
        self.station.body.set_share(0.55)
        click(stage.left.fold)

    # Help

    @property
    def motion(self) -> Any:
        return next(route for route in self.project.routes if route.id == self.route_id).transition

    def rows(self) -> Any:
        return [row for row in self.station.sheet.body.rows if not row.prop]

    def place(self, name: str) -> int:
        return next(k for k, row in enumerate(self.station.sheet.body.rows) if row.left_name == name and not row.prop)

    def key(self, name: str) -> Any:
        return self.station.sheet.body.rows[self.place(name)].key

    def chosen_name(self) -> str:
        return self.station.context.name(self.station.context.key.of(""))

    def in_frame(self, name: str) -> tuple[float, float]:
        frame = self.project.frames[0]
        flat = flatten(frame)
        x, y, w, h = flat.bounds[flat.index[find_layer(frame, name).id]]
        return float(x + w / 2), float(y + h / 2)

    def spot(self, name: str) -> QPointF:
        return self.station.now.to_widget().map(QPointF(*self.in_frame(name)))

    def in_frame_view(self, name: str) -> QPointF:
        view = self.station.from_view
        rect = view.place()
        scale = rect.width() / view.frame.w
        x, y = self.in_frame(name)
        return QPointF(rect.left() + x * scale, rect.top() + y * scale)

    def middle(self, slot: int) -> QPointF:
        scene = self.station.now.scene
        row = scene.scalars[slot]
        x, y = affine.apply(scene.world()[slot], np.array([row[2] / 2, row[3] / 2]))
        return self.station.now.to_widget().map(QPointF(float(x), float(y)))

    def right_click(self, widget: Any, at: QPointF) -> None:
        point = at.toPoint()
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, point, widget.mapToGlobal(point))
        QApplication.sendEvent(widget, event)
        menus = [menu for menu in self.window.findChildren(QMenu) if menu.isVisible()]
        self.assertTrue(menus)
        for menu in menus:
            menu.close()
        self.settle()


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_hour_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_firm_ground.FirmGround")


class Kept(unittest.TestCase):
    def test_what_is_remembered_is_read_again_and_nonsense_is_not(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deep" / "window.json"
            kept = Remembered(path)
            kept.keep("share", 0.4)
            kept.keep("on", True)
            again = Remembered(path)
            self.assertEqual((again.number("share", 0.5), again.flag("on"), again.number("on", 2.0)), (0.4, True, 2.0))
            path.write_text("[1, 2")
            with self.assertLogs("avelt"):
                self.assertEqual(Remembered(path).number("share", 0.5), 0.5)
            path.write_text("[]")
            self.assertFalse(Remembered(path).flag("on"))
            blocked = Remembered(Path(folder) / "deep" / "window.json" / "no")
            with self.assertLogs("avelt"):
                blocked.keep("share", 0.3)  # a place that cannot be written is no reason to stop
            self.assertEqual(blocked.number("share", 0.5), 0.3)


if __name__ == "__main__":
    unittest.main()
