"""A newcomer's five minutes in Timing: a card that opens into its page, made to feel good.

She watches it at a tenth of the speed, drags one ribbon and tries another easing, takes one property apart from the
others, types 360 for a whole turn, changes a curve once for all that use it, brings three lines in one after the other
and ties the button to them, keeps a colour standing until it has been seen, bends the card's way, drags a line to
where it comes from, compares two versions in step and keeps one, and gives the button an entrance after the arrival.
All of it can be taken back, and all of it is in the file.
"""

import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from avelt.core.edits.keyframes import HOLDS
from avelt.core.model.curves import Named
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN
from avelt.core.timing.schedule import duration_of, timed
from avelt.window.timing import threads
from avelt.window.timing.row_paint import value_rect
from tests.support import WindowCase, click, drag, send, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="360" height="640" font-family="Hanken Grotesk">'
LINES = {"Berth line": "Berth 4 to 9", "Tide line": "High water at noon", "Night line": "Quiet after ten"}
SECOND, LAST = list(LINES)[1:]
LAMP = '<rect id="Lamp" x="{x}" y="{y}" width="44" height="44" rx="8" fill="{fill}"/>'
LIST = (
    f'{HEAD}<rect id="Ground" width="360" height="640" fill="#eef3f1"/>'
    '<text id="Title" x="20" y="60" font-size="28" fill="#16323a">Pontoons</text>'
    + "".join(
        f'<g id="{name} card"><rect id="{name} paper" x="20" y="{90 + 120 * k}" width="320" height="100" rx="14" '
        f'fill="{fill}"/><text id="{name} word" x="40" y="{150 + 120 * k}" font-size="20">{name}</text></g>'
        for k, (name, fill) in enumerate((("North", "#f1b263"), ("West", "#8fc7b4"), ("Lee", "#c4d7e2")))
    )
    + LAMP.format(x=290, y=560, fill="#d9d2c4")
    + "</svg>"
)
PAGE = (
    f'{HEAD}<rect id="Ground" width="360" height="640" fill="#eef3f1"/>'
    '<g id="North card"><rect id="North paper" x="0" y="0" width="360" height="260" rx="0" fill="#f1b263"/>'
    '<text id="North word" x="24" y="230" font-size="34">North</text></g>'
    + "".join(
        f'<text id="{name}" x="24" y="{330 + 44 * k}" font-size="18" fill="#16323a">{words}</text>'
        for k, (name, words) in enumerate(LINES.items())
    )
    + '<rect id="Moor" x="24" y="540" width="250" height="60" rx="30" fill="#16323a"/>'
    + LAMP.format(x=20, y=20, fill="#0f7f74")
    + "</svg>"
)
ALSO, FREE, NONE = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.NoModifier,
)


class FiveMinutes(WindowCase, unittest.TestCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        self.drawings = tempfile.TemporaryDirectory()
        self.addCleanup(self.drawings.cleanup)
        self.paths = []
        for name, text in (("List", LIST), ("Page", PAGE)):
            self.paths.append(Path(self.drawings.name) / f"{name}.svg")
            self.paths[-1].write_text(text)

    # What she looks at

    @property
    def station(self) -> Any:
        return self.window.stations["timing"]

    @property
    def body(self) -> Any:
        return self.station.sheet.body

    @property
    def motion(self) -> Any:
        return self.workspace.route.transition

    def place(self, name: str, prop: str = "") -> int:
        ends = next(row.ends for row in self.body.rows if name in (row.left_name, row.right_name) and not row.prop)
        return next(k for k, row in enumerate(self.body.rows) if row.key == CueKey(*ends, prop))

    def when(self, name: str, prop: str = "") -> Any:
        return timed(self.project, self.station.context.route.transition, *self.body.rows[self.place(name, prop)].key)

    def choose(self, *names: str) -> None:
        for k, name in enumerate(names):
            place = self.place(name)
            self.station.sheet.reveal(self.body.rows[place].key)
            click(self.body, QPointF(150, place * 29 + 14), ALSO if k else NONE)

    def open(self, name: str) -> None:
        click(self.body, QPointF(30, self.place(name) * 29 + 14))
        self.settle()

    def press(self, key: Any, keys: Any = NONE) -> None:
        self.body.setFocus()
        QTest.keyClick(self.body, key, keys)
        self.settle()

    # What she does

    def bring_two_screens_in_and_wire_them(self) -> None:
        names = ([str(path) for path in self.paths], "")
        with mock.patch("PySide6.QtWidgets.QFileDialog.getOpenFileNames", return_value=names):
            click(self.window.stations["frames"].empty.button)
        click(self.window.top.stations["routes"])
        matrix = self.window.stations["routes"].matrix
        click(matrix.viewport(), matrix.cell_rect(0, 1).center())
        self.assertEqual(len(self.project.routes), 1)
        click(self.window.top.stations["timing"])
        self.settle()
        self.assertIn("North card", {row.left_name for row in self.body.rows})
        self.assertEqual({row.role for row in self.body.rows if row.right_name in (*LINES, "Moor")}, {"enters"})

    def watch_slowly_and_set_the_length(self) -> None:
        click(self.station.speeds.button(3))
        self.press(Qt.Key.Key_Space)
        self.assertTrue(self.station.clock.playing)
        before = self.station.clock.ms
        self.station.clock.advance(100.0)
        self.assertAlmostEqual(self.station.clock.ms - before, 10.0, delta=5.0)
        self.press(Qt.Key.Key_Space)
        click(self.station.speeds.button(0))
        type_into(self.station.length, "400")
        self.assertEqual(duration_of(self.motion, self.project), 400.0)

    def one_bar_another_easing(self) -> None:
        rect = self.body.ribbon_rect(self.place("West card"))
        edge = QPointF(rect.right() - 1, rect.center().y())
        drag(self.body, edge, QPointF(self.body.scale.x(180.0, self.body.width()), edge.y()))
        self.assertEqual(self.when("West card").end, 180.0)
        self.pick(self.station.curve_editor.kind, "Sink")
        self.assertEqual(self.when("West card").curve, Named("sink"))

    def one_property_without_the_others(self) -> None:
        self.open("North card")
        size = self.when("North card", "size")
        rect = self.body.ribbon_rect(self.place("North card", "position"))
        travel = self.body.scale.x(60.0, self.body.width()) - self.body.scale.x(0.0, self.body.width())
        edge = QPointF(rect.left() + 1, rect.center().y())
        drag(self.body, edge, edge + QPointF(travel, 0))
        self.assertEqual(self.when("North card", "position").start, 60.0)
        self.assertEqual(self.when("North card", "size"), size)

    def a_whole_turn_is_typed(self) -> None:
        self.choose("Lamp")
        self.pick(self.station.shows, "everything")
        self.open("Lamp")
        place = self.place("Lamp", "rotation")
        send(self.body, QEvent.Type.MouseButtonDblClick, QPointF(value_rect(1, place, self.body.width()).center()))
        field = next(found for found in self.body.findChildren(QLineEdit) if found.isVisible())
        type_into(field, "360")
        self.settle()
        self.pick(self.station.shows, "all that changes")
        self.assertIn("Changed in Page", self.window.said.text())
        self.station.pick(self.body.rows[self.place("Lamp", "rotation")].key)
        turns = [
            self.station.context.program.at(ms).scalars[self.station.now.slot, COLUMN["rotation"]]
            for ms in (0, 200, 400)
        ]
        self.assertEqual((turns[0], turns[2]), (0.0, 360.0))
        self.assertTrue(90 < turns[1] < 359)

    def a_shared_curve_once_for_all(self) -> None:
        self.pick(self.station.curve_editor.kind, "Settle")
        users = [row.key for row in self.body.rows if row.timed.curve == Named("settle")]
        self.assertGreater(len(users), 2)
        before = next(entry for entry in self.project.curves if entry.id == "settle").curve
        click(self.station.curve_editor.for_all, QPointF(8, self.station.curve_editor.for_all.height() / 2))
        canvas = self.station.curve_editor.canvas
        spot = canvas._spots()[0]
        drag(canvas, canvas.place_of(spot), canvas.place_of((spot[0] + 0.15, spot[1])))
        after = next(entry for entry in self.project.curves if entry.id == "settle").curve
        self.assertNotEqual(before, after)
        for key in users:
            self.assertEqual(timed(self.project, self.motion, *key).plain, after)
        click(self.station.curve_editor.for_all, QPointF(8, self.station.curve_editor.for_all.height() / 2))

    def three_lines_one_after_the_other_then_the_button(self) -> None:
        self.choose(*LINES)
        type_into(self.station.curve_editor.lasts, "180")
        self.press(Qt.Key.Key_G)
        form = self.station.ties.stagger_form
        type_into(form.ms, "50")
        form.hide()
        starts = [self.when(name).start for name in LINES]
        self.assertEqual(np.diff(starts).tolist(), [50.0, 50.0])
        first = self.body.ribbon_rect(self.place(SECOND))
        send(self.body, QEvent.Type.MouseMove, first.center(), down=False)
        button = self.body.ribbon_rect(self.place("Moor"))
        drag(self.body, threads.knob(first, "end"), QPointF(button.left() + 6, button.center().y()))
        (thread,) = self.body.seen_ties()
        click(self.body, thread.label.center())
        type_into(self.station.ties.tie_form.offset, "-60")
        self.station.ties.tie_form.hide()
        self.assertEqual(self.when("Moor").start, self.when(SECOND).end - 60)
        gap = self.when("Moor").start
        self.choose(SECOND)
        type_into(self.station.curve_editor.lasts, "220")
        self.assertEqual(self.when("Moor").start, gap + 40)

    def a_colour_held_until_it_was_seen(self) -> None:
        if not self.body.rows[self.place("Lamp")].open:
            self.open("Lamp")
        self.station.pick(self.body.rows[self.place("Lamp", "fill")].key)
        self.station.clock.seek(240.0)
        self.press(Qt.Key.Key_K)
        self.press(Qt.Key.Key_Return)
        form = self.station.keyframes.form
        self.assertTrue(form.isVisible())
        place = next(k for k in range(form.curve.count()) if form.curve.itemData(k) == HOLDS)
        form.curve.setCurrentIndex(place)
        form.curve.activated.emit(place)
        form.hide()
        self.assertEqual(self.when("Lamp", "fill").keyframes[0].curve, HOLDS)
        program = self.station.context.program
        paint = program.contents[self.station.now.slot].fills[-1]
        colours = [program.at(ms).colours[paint.colour] for ms in (0.0, 120.0, 239.0, 400.0)]
        np.testing.assert_allclose(colours[1], colours[0], atol=1e-9)
        np.testing.assert_allclose(colours[2], colours[0], atol=1e-9)
        self.assertGreater(np.abs(colours[3] - colours[0]).max(), 0.1)

    def the_card_goes_a_rounder_way(self) -> None:
        self.choose("North card")
        self.station.clock.seek(160.0)
        now = self.station.now
        row = now.scene.scalars[now.slot]
        middle = now.to_widget().map(QPointF(float(row[0] + row[2] / 2), float(row[1] + row[3] / 2)))
        drag(now, middle, middle + QPointF(24, 0))
        self.settle()
        when = self.when("North card", "position")
        self.assertIsNotNone(when.motion_path)
        self.assertEqual(when.keyframes, ())

    def a_line_dragged_to_where_it_comes_from(self) -> None:
        self.choose(LAST)
        click(self.station.strip.from_here)
        self.station.clock.seek(380.0)
        now = self.station.now
        layer = find_layer(find_frame(self.project, "Page"), LAST)
        row = now.scene.scalars[now.slot]
        spot = now.to_widget().map(QPointF(float(row[0]) + layer.w / 2, float(row[1]) + layer.h / 2))
        drag(now, spot, spot + QPointF(30, 0))
        self.settle()
        click(self.station.strip.from_here)
        pose = next(entry.pose for entry in self.motion.absents if entry.layer == layer.id)
        self.assertGreater(pose.shift_x, 20.0)

    def two_versions_in_step(self) -> None:
        self.press(Qt.Key.Key_T)
        panel = self.station.tryouts.panel
        type_into(panel.columns[1].length, "560")
        self.station.clock.seek(300.0)
        self.assertTrue((panel.columns[0].scene.scene.scalars != panel.columns[1].scene.scene.scalars).any())
        click(panel.shown.button(1))
        click(panel.shown.button(0))
        click(panel.columns[1].keep)
        self.settle()
        self.assertEqual(duration_of(self.motion, self.project), 560.0)
        self.assertEqual(self.workspace.route.tryouts, ())

    def the_button_comes_to_life_after_the_arrival(self) -> None:
        self.choose("Moor")
        menu = self.station.ties.menu()
        next(a for a in menu.actions() if a.text() == "Entrance after the arrival").trigger()
        self.settle()
        self.assertEqual([row.right_name for row in self.body.rows if not row.prop], ["Moor"])
        click(self.station.bar.back)
        self.assertNotIn("Moor", {row.right_name for row in self.body.rows})

    def the_ends_are_the_frames(self) -> None:
        """Painted, the first and the last picture are the frames themselves, to the pixel."""
        painter, program = self.workspace.painter(), self.station.context.program
        for ms, frame in ((0.0, self.station.context.ends[0]), (program.last, self.station.context.ends[1])):
            self.assertEqual(painter.render(program.at(ms), 0.5), self.workspace.picture(frame, 0.5))

    def test_the_five_minutes(self) -> None:
        self.walk(
            self.bring_two_screens_in_and_wire_them,
            self.watch_slowly_and_set_the_length,
            self.one_bar_another_easing,
            self.one_property_without_the_others,
            self.a_whole_turn_is_typed,
            self.a_shared_curve_once_for_all,
            self.three_lines_one_after_the_other_then_the_button,
            self.a_colour_held_until_it_was_seen,
            self.the_card_goes_a_rounder_way,
            self.a_line_dragged_to_where_it_comes_from,
            self.two_versions_in_step,
            self.the_button_comes_to_life_after_the_arrival,
            self.the_ends_are_the_frames,
        )
        self.take_all_back_and_again()


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_five_minutes_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_timing.FiveMinutes")
