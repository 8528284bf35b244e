"""The list of what is wrong: found in the background, counted at the stations, led to, mended, muted."""

import unittest

from PySide6.QtCore import Qt, QThreadPool
from PySide6.QtTest import QTest

from avelt.core.edits.frames import remove_layer
from avelt.core.edits.parts import in_stage, new_part
from avelt.core.edits.routes import set_duration
from avelt.core.model.find import find_frame, find_layer
from tests.support import WindowCase, click, type_into


class Checks(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.checking = self.window.checking

    def look(self) -> None:
        """Look, and wait until the answer is there."""
        self.checking.look()
        QThreadPool.globalInstance().waitForDone()
        self.settle()

    def spoil(self) -> None:
        """A transition that takes too long, a layer that a trigger needs is gone, a part that nothing uses."""
        project = self.workspace.whole
        project = set_duration(project, project.routes[8].id, 1900.0)
        frame = find_frame(project, "Boarding pass")
        project = remove_layer(project, frame.id, find_layer(frame, "Gate").id)
        project, _ = new_part(project, "Lamp", 40.0, 40.0)
        self.workspace.session.do("spoil", project)

    def open(self) -> None:
        self.spoil()
        self.window.do("checks")
        QThreadPool.globalInstance().waitForDone()
        self.settle()

    def choose(self, code: str) -> None:
        rows = self.checking.panel.shown
        place = next(k for k, entry in enumerate(rows) if entry.check.code == code)
        item = self.checking.panel.list.topLevelItem(place)
        rect = self.checking.panel.list.visualItemRect(item)
        QTest.mouseClick(self.checking.panel.list.viewport(), Qt.MouseButton.LeftButton, pos=rect.center())

    def test_the_demo_is_clean_and_the_stations_count_what_is_not(self) -> None:
        self.look()
        self.assertEqual(self.checking.button.text(), "Nothing to mend")
        self.assertEqual(self.window.top.stations["routes"].text(), "Routes")
        self.spoil()
        self.look()
        self.assertEqual(self.checking.button.text(), "Checks  3")
        self.assertEqual(self.window.top.stations["routes"].text(), "Routes  1")
        self.assertEqual(self.window.top.stations["timing"].text(), "Timing  1")
        self.window.do("undo")
        self.look()
        self.assertEqual(self.window.top.stations["routes"].text(), "Routes")

    def test_the_worst_comes_first_and_each_leads_to_its_place(self) -> None:
        self.open()
        panel = self.checking.panel
        self.assertEqual([e.check.severity for e in panel.shown], ["error", "warning", "note"])
        self.assertEqual(panel.list.topLevelItem(0).data(0, Qt.ItemDataRole.AccessibleTextRole), "wrong")
        self.choose("too long")
        click(panel.go)
        self.settle()
        self.assertEqual(self.window.current, "timing")
        self.assertEqual(self.window.stations["timing"].context.route.id, panel.chosen.trouble.routes[0])
        self.choose("layer gone")
        QTest.keyClick(panel.list, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.window.current, "routes")
        click(panel.which.button(1))
        self.assertEqual([e.check.station for e in panel.shown], ["routes"])

    def test_a_click_mends_and_undo_takes_it_back(self) -> None:
        self.open()
        self.choose("too long")
        route = self.workspace.whole.routes[8].id
        self.assertEqual(self.checking.panel.mend.text(), "Take 600 ms")
        click(self.checking.panel.mend)
        QThreadPool.globalInstance().waitForDone()
        self.settle()
        self.assertEqual(self.workspace.whole.routes[8].transition.duration, 600.0)
        self.assertNotIn("too long", [e.check.code for e in self.checking.found])
        self.window.do("undo")
        self.assertEqual(self.workspace.whole.routes[8].transition.duration, 1900.0)
        self.assertEqual(self.workspace.whole.routes[8].id, route)
        self.choose_first()
        self.assertFalse(self.checking.panel.mend.isVisible())

    def choose_first(self) -> None:
        self.choose("layer gone")

    def test_muting_needs_a_reason_and_can_be_taken_back(self) -> None:
        self.open()
        panel = self.checking.panel
        self.choose("part unused")
        self.assertFalse(panel.mute.isEnabled())
        type_into(panel.reason, "for the next screen")
        QThreadPool.globalInstance().waitForDone()
        self.settle()
        self.assertEqual([m.reason for m in self.workspace.whole.muted], ["for the next screen"])
        self.assertEqual(self.checking.button.text(), "Checks  2")
        click(panel.which.button(2))
        self.assertEqual([e.reason for e in panel.shown], ["for the next screen"])
        self.assertIn("next screen", panel.reason.text())
        click(panel.mute)
        QThreadPool.globalInstance().waitForDone()
        self.settle()
        self.assertEqual(self.workspace.whole.muted, ())

    def test_it_leads_into_a_part(self) -> None:
        part = next(part for part in self.workspace.whole.parts if part.name == "Tabs")
        project = in_stage(self.workspace.whole, part.id, lambda s: set_duration(s, s.routes[0].id, 1800.0))
        self.workspace.session.do("slow", project)
        self.window.do("checks")
        QThreadPool.globalInstance().waitForDone()
        self.settle()
        self.choose("too long")
        click(self.checking.panel.go)
        self.settle()
        self.assertEqual(self.workspace.stages.part(self.workspace.whole).id, part.id)
        self.assertEqual(self.window.current, "timing")
        click(self.checking.panel.mend)
        stage = next(p for p in self.workspace.whole.parts if p.id == part.id)
        self.assertEqual(stage.routes[0].transition.duration, 600.0)
        QThreadPool.globalInstance().waitForDone()

    def test_escape_closes_it(self) -> None:
        self.open()
        QTest.keyClick(self.checking.panel.list, Qt.Key.Key_Escape)
        self.assertFalse(self.checking.is_open)
        self.assertEqual(self.checking.panel.title.text(), "Checks: 3")


if __name__ == "__main__":
    unittest.main()
