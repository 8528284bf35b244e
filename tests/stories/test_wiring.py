"""A newcomer's two minutes in Routes and Pairs: four tabs wired both ways, timed together, and the odd match mended.

She brings four screens with one tab bar in, makes all twelve routes in one step, shortens them together, makes one of
them longer than the rest, puts a notice over a screen that comes by itself under a condition and its way back in one
step, sees in the matrix what is wrong after a tab was deleted and mends it, settles the pair whose name differs by a
letter, keeps two cards apart, and drags a ghost to where the leaving layer shall go. All of it can be taken back.
"""

import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.checks.routes import of_route, troubles
from avelt.core.edits.frames import remove_layer
from avelt.core.model.find import find_frame, find_layer, find_route, route_by_id
from avelt.core.model.triggers import PutAway, ShowOver, Tap, Timer
from avelt.core.timing.schedule import duration_of
from avelt.window.routes.dialogs import EveryDialog
from tests.support import WindowCase, click, drag, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb

TABS = ("Home", "Map", "Tickets", "Crew")
COLORS = ("#2f6f94", "#d98f2e", "#5a8f5c", "#8e2f5c")
HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="360" height="640" font-family="Hanken Grotesk">'
NOTICE = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="360" height="220"><rect id="Notice paper" width="360" height="220" '
    'rx="24" fill="#fff4e6"/><rect id="Fine" x="24" y="140" width="312" height="52" rx="26" fill="#16323a"/></svg>'
)
MORE = Qt.KeyboardModifier.ShiftModifier


def drawing(k: int) -> str:
    bar = "".join(
        f'<g id="Tab {name}"><rect id="{name} ground" x="{j * 90}" y="580" width="90" height="60" '
        f'fill="{"#dfe9ea" if j == k else "#ffffff"}"/><text id="{name} word" x="{j * 90 + 20}" y="615" font-size="13">{name}</text></g>'
        for j, name in enumerate(TABS)
    )
    # The same card is named otherwise by a letter on every second screen.
    card = "Big card" if k % 2 == 0 else "Big cart"
    return (
        f'{HEAD}<rect id="Ground" width="360" height="640" fill="#f4f6f3"/><text id="Title" x="20" y="60" font-size="28">{TABS[k]}</text>'
        f'<rect id="{card}" x="20" y="{90 + 30 * k}" width="320" height="{120 + 40 * k}" rx="16" fill="{COLORS[k]}"/>'
        f'<circle id="Lamp {TABS[k]}" cx="{60 + 70 * k}" cy="480" r="24" fill="{COLORS[k]}"/>'
        f'<g id="Tab bar">{bar}</g></svg>'
    )


class TwoMinutes(WindowCase, unittest.TestCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        self.drawings = tempfile.TemporaryDirectory()
        self.addCleanup(self.drawings.cleanup)
        self.paths = []
        for k, name in enumerate((*TABS, "Notice")):
            path = Path(self.drawings.name) / f"{name}.svg"
            path.write_text(drawing(k) if name in TABS else NOTICE)
            self.paths.append(path)

    @property
    def routes(self) -> Any:
        return self.window.stations["routes"]

    @property
    def canvas(self) -> Any:
        return self.routes.matrix.viewport()

    def cell(self, row: int, column: int) -> QPointF:
        return self.routes.matrix.cell_rect(row, column).center()

    def bring_in(self) -> None:
        names = ([str(path) for path in self.paths], "")
        with mock.patch("PySide6.QtWidgets.QFileDialog.getOpenFileNames", return_value=names):
            click(self.window.stations["frames"].empty.button)
        self.assertEqual([f.name for f in self.project.frames], [*TABS, "Notice"])

    def every_tab_to_every_tab(self) -> None:
        click(self.window.top.stations["routes"])

        def answered(station: Any, project: Any, chosen: Any) -> Any:
            dialog = EveryDialog(station, project, chosen)
            click(dialog.ticks[4], QPointF(8, dialog.ticks[4].height() / 2))
            self.assertIn("12 routes will be made", dialog.says.text())
            dialog.exec = lambda: 1
            return dialog

        with mock.patch("avelt.window.routes.station.EveryDialog", side_effect=answered):
            click(self.routes.every)
        self.assertEqual(len(self.project.routes), 12)
        for route in self.project.routes:
            left = next(f for f in self.project.frames if f.id == route.leaves)
            right = next(f for f in self.project.frames if f.id == route.arrives)
            self.assertEqual(route.trigger, Tap(find_layer(left, f"Tab {right.name}").id))

    def time_them_together(self) -> None:
        self.assertEqual(len(self.routes.matrix.chosen), 12)
        type_into(self.routes.many.length, "200 ms")
        self.pick(self.routes.many.curve, "Steady")
        self.assertEqual({duration_of(r.transition) for r in self.project.routes}, {200.0})
        click(self.canvas, self.cell(0, 2))
        type_into(self.routes.one.length, "2*160")
        drag(self.canvas, self.cell(0, 2), self.cell(2, 0))
        self.assertEqual(duration_of(find_route(self.project, "Tickets > Home").transition), 320.0)

    def a_notice_over_the_map(self) -> None:
        click(self.canvas, self.cell(1, 4))
        one = self.routes.one
        self.pick(one.trigger, "timer")
        type_into(one.trigger_form.fields["after"], "3s")
        self.pick(one.action, "show over")
        with mock.patch("avelt.window.routes.dialogs.InputsDialog.exec", lambda dialog: click(dialog.add)):
            click(self.routes.inputs)
        type_into(one.only_if, "not input")
        route = self.workspace.route
        self.assertEqual((route.trigger, route.action, route.only_if), (Timer(3000.0), ShowOver(), "not input"))
        QTest.keyClick(self.routes.matrix, Qt.Key.Key_R)
        self.assertEqual(
            (self.workspace.route.action, self.workspace.route.leaves), (PutAway(), self.project.frames[4].id)
        )
        on = one.trigger_form.fields["layer"]
        self.pick(on, next(on.itemText(k) for k in range(on.count()) if on.itemText(k).strip() == "Fine"))
        self.assertEqual(troubles(self.project), ())

    def what_is_wrong_is_seen_and_mended(self) -> None:
        home = find_frame(self.project, "Home")
        tab = find_layer(home, "Tab Crew")
        self.workspace.do("remove the tab", lambda p: remove_layer(p, home.id, tab.id))
        route = find_route(self.project, "Home > Crew")
        self.assertEqual(of_route(self.project, route.id)[0].code, "layer gone")
        click(self.routes.only_trouble, QPointF(8, self.routes.only_trouble.height() / 2))
        self.assertEqual(self.routes.matrix.table.ids(), [route.id])
        click(self.canvas, self.cell(0, 3))
        on = self.routes.one.trigger_form.fields["layer"]
        self.assertIn("gone", on.currentText())
        self.pick(on, next(on.itemText(k) for k in range(on.count()) if on.itemText(k).strip() == "Lamp Home"))
        self.assertEqual(of_route(self.project, route.id), ())
        click(self.routes.only_trouble, QPointF(8, self.routes.only_trouble.height() / 2))

    def the_name_that_differs_by_a_letter(self) -> None:
        click(self.canvas, self.cell(0, 1))
        click(self.routes.one.pair)
        pairs = self.window.stations["pairs"]
        card, cart = find_layer(self.project.frames[0], "Big card"), find_layer(self.project.frames[1], "Big cart")
        self.assertEqual(pairs.context.pairing.to_of[card.id], cart.id)
        pairs.choose("from", card.id)
        self.assertTrue(any("1 letter apart" in says for what, _, says in pairs.sheet.bars.entries if what == "name"))
        self.assertIn("position", pairs.sheet.changes.text())
        lamps = find_layer(self.project.frames[0], "Lamp Home"), find_layer(self.project.frames[1], "Lamp Map")
        if pairs.context.pairing.to_of.get(lamps[0].id) != lamps[1].id:
            pairs.pair(lamps[0].id, lamps[1].id)
        pairs.choose("from", lamps[0].id)
        QTest.keyClick(pairs, Qt.Key.Key_A)
        self.assertIn(lamps[0].id, pairs.context.pairing.leaves)
        self.assertIn(lamps[1].id, pairs.context.pairing.enters)

    def a_ghost_says_where_it_goes(self) -> None:
        pairs = self.window.stations["pairs"]
        lamp = find_layer(self.project.frames[0], "Lamp Home")
        pairs.choose("from", lamp.id)
        self.assertIn("No partner", pairs.sheet.why.text())
        threads = pairs.threads
        middle = threads._shape(threads.ghost).boundingRect().center()
        drag(threads, middle, middle + QPointF(0, 60))
        pose = next(a.pose for a in self.workspace.route.transition.absents if a.layer == lamp.id)
        self.assertGreater(pose.shift_y, 40.0)
        self.assertEqual(route_by_id(self.project, self.workspace.route.id).transition.absents[0].layer, lamp.id)

    def test_the_two_minutes(self) -> None:
        self.walk(
            self.bring_in,
            self.every_tab_to_every_tab,
            self.time_them_together,
            self.a_notice_over_the_map,
            self.what_is_wrong_is_seen_and_mended,
            self.the_name_that_differs_by_a_letter,
            self.a_ghost_says_where_it_goes,
        )
        self.take_all_back_and_again()


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_two_minutes_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_wiring.TwoMinutes")
