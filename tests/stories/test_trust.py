"""The last ten percent that make people stay: it tells what is wrong before a client sees it, never loses work, and is at
home in the hands of whoever uses it.

A newcomer starts on the empty window and is guided to a first transition; makes two mistakes that Avelt finds, mends one and
means the other; the program is killed and the work is there again; a colleague overwrites the file and both stay; an
earlier version is opened beside; she takes other keys and less motion, and it is so the next day.
"""

import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt, QThreadPool
from PySide6.QtGui import QAccessible
from PySide6.QtTest import QTest

from avelt.core.edits.routes import move_end
from avelt.core.edits.wiring import return_trip
from avelt.core.formats.project_file import open_project, save_project
from avelt.core.model.find import find_layer
from avelt.core.model.motion import CueKey
from avelt.core.timing.schedule import timed
from avelt.window.common import accessible_tree, session
from avelt.window.shell.recovery import Recovery
from tests.support import WindowCase, click, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb


class PeopleStay(WindowCase, unittest.TestCase):
    """From an empty window on."""

    demo = False

    def test_the_first_days(self) -> None:
        self.file = Path(self.folder.name) / "first.avelt"
        self.walk(
            self.the_empty_start_offers_a_guide,
            self.two_screens_and_a_route,
            self.what_is_one_thing_and_when_it_moves,
            self.it_answers_the_hand,
            self.two_things_are_most_likely_not_meant,
            self.one_is_mended_and_one_is_meant,
            self.it_is_killed_and_the_work_is_there,
            self.a_colleague_writes_the_file,
            self.an_earlier_version_stands_beside,
            self.keys_and_motion_are_hers,
            self.everything_is_told_without_eyes,
            self.the_next_day_it_is_as_it_was_left,
        )

    def the_empty_start_offers_a_guide(self) -> None:
        self.assertIs(self.window.stack.currentWidget(), self.window.landing)
        click(self.window.landing.guide)
        self.assertEqual(self.window.guide.number.text(), "1 of 5")

    def two_screens_and_a_route(self) -> None:
        click(self.window.guide.help)
        self.settle()
        self.assertEqual([frame.name for frame in self.project.frames], ["Sailings", "Sailing detail"])
        click(self.window.guide.help)
        self.settle()
        matrix = self.window.stations["routes"].matrix
        click(matrix.viewport(), matrix.cell_rect(0, 1).center())
        self.settle()
        self.assertEqual(len(self.project.routes), 1)
        self.window.guide.look()
        self.assertEqual(self.window.guide.number.text(), "3 of 5")

    def what_is_one_thing_and_when_it_moves(self) -> None:
        click(self.window.guide.help)
        self.assertEqual(self.window.current, "pairs")
        click(self.window.guide.help)
        self.settle()
        body = self.window.stations["timing"].sheet.body
        place = next(k for k, row in enumerate(body.rows) if row.changes and not row.prop)
        rect = body.ribbon_rect(place)
        end = QPointF(rect.right() - 2, rect.center().y()).toPoint()
        QTest.mousePress(body, Qt.MouseButton.LeftButton, pos=end)
        QTest.mouseMove(body, end - QPoint(30, 0))
        QTest.mouseMove(body, end - QPoint(60, 0))
        QTest.mouseRelease(body, Qt.MouseButton.LeftButton, pos=end - QPoint(60, 0))
        self.settle()
        self.window.guide.look()
        self.assertEqual(self.window.guide.number.text(), "5 of 5")

    def it_answers_the_hand(self) -> None:
        click(self.window.guide.help)
        self.settle()
        player = self.window.stations["rehearse"].rehearsal.player
        player.press(100.0, 250.0)
        player.release(100.0, 250.0)
        self.window.guide.look()
        self.assertEqual(self.window.guide.number.text(), "Done")
        click(self.window.guide.leave)
        self.assertTrue(self.window.save_to(self.file))

    def look(self) -> None:
        self.window.checking.look()
        QThreadPool.globalInstance().waitForDone()
        self.settle()

    def choose(self, code: str) -> None:
        panel = self.window.checking.panel
        place = next(k for k, entry in enumerate(panel.shown) if entry.check.code == code)
        rect = panel.list.visualItemRect(panel.list.topLevelItem(place))
        QTest.mouseClick(panel.list.viewport(), Qt.MouseButton.LeftButton, pos=rect.center())

    def two_things_are_most_likely_not_meant(self) -> None:
        route = self.project.routes[0].id
        bare = replace(self.project.routes[0].transition, cues=(), ties=(), staggers=())
        self.workspace.do("calm", lambda p: replace(p, routes=(replace(p.routes[0], transition=bare),)))
        self.workspace.do("long", lambda p: move_end(p, route, 2_000.0))
        self.window.do("checks")
        self.look()
        found = {entry.check.code for entry in self.window.checking.open}
        self.assertTrue({"too long", "dead end"} <= found, found)
        self.assertIn("Timing  1", self.window.top.stations["timing"].text())

    def one_is_mended_and_one_is_meant(self) -> None:
        panel = self.window.checking.panel
        self.choose("too long")
        click(panel.go)
        self.assertEqual(self.window.current, "timing")
        click(panel.mend)
        self.look()
        self.choose("dead end")
        self.assertFalse(panel.mend.isVisible())
        type_into(panel.reason, "the way back comes next week")
        self.look()
        self.assertNotIn("dead end", [entry.check.code for entry in self.window.checking.open])
        self.workspace.do("back", lambda p: return_trip(p, p.routes[0].id)[0])
        self.window.checking.close()

    def it_is_killed_and_the_work_is_there(self) -> None:
        whole, state = self.workspace.whole, self.window.keeper.recovery.folder
        self.window.keeper.look()
        QThreadPool.globalInstance().waitForDone()
        self.window.keeper.abandon()
        with mock.patch.object(self.window.keeper, "stop"):
            self.close_window(self.window)
        self.window = self.open_window()
        self.assertEqual(self.window.keeper.recovery.folder, state)
        with mock.patch.object(type(self.window), "choose", return_value="open") as asked:
            self.window.offer_recovered()
        words = asked.call_args.args[1]
        self.assertIn("first.avelt", words)
        self.assertIn("just now", words)
        self.assertIn("is only there", words)  # what the file does not have yet: the way back
        self.assertEqual(self.workspace.whole, whole)
        self.assertTrue(self.window.do_save())
        self.assertEqual(Recovery(state).kept(), ())

    def a_colleague_writes_the_file(self) -> None:
        mine = self.workspace.whole
        save_project(replace(mine, name="Theirs"), self.file)
        with mock.patch.object(type(self.window), "choose", return_value="") as asked:
            self.window.look_at_file()
        self.assertIn("name differs", asked.call_args.args[1])
        self.workspace.do("mine", lambda p: replace(p, name="Mine"))
        with mock.patch.object(type(self.window), "choose", return_value="copy"):
            self.assertTrue(self.window.do_save())
        self.assertEqual(open_project(self.file).name, "Theirs")
        self.assertEqual(open_project(self.file.with_name("first 2.avelt")).name, "Mine")
        self.window.open_file(self.file)

    def an_earlier_version_stands_beside(self) -> None:
        def answer(window: Any, form: Any) -> bool:
            form.list.setCurrentRow(form.list.count() - 1)
            return True

        with mock.patch.object(type(self.window), "ask", answer):
            self.window.do("versions")
        older = self.window.others[-1]
        self.assertIn(", earlier", older.workspace.whole.name)
        self.assertLess(len(older.workspace.whole.routes), len(self.workspace.whole.routes))
        older.workspace.session.saved()
        older.close()

    def keys_and_motion_are_hers(self) -> None:
        self.window.settings.set_keys("go loops", "Alt+L")
        self.window.settings.change(motion="less")
        self.window.activateWindow()
        self.window.setFocus()
        self.settle()
        QTest.keyClick(self.window, Qt.Key.Key_L, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.window.current, "loops")
        self.assertFalse(self.window.stations["loops"].clock.playing)

    def everything_is_told_without_eyes(self) -> None:
        accessible_tree.install()
        self.window.go("timing")
        self.settle()
        face = QAccessible.queryAccessibleInterface(self.window.stations["timing"].sheet.body)
        told = [face.child(k).text(QAccessible.Text.Name) for k in range(face.childCount())]
        card = find_layer(self.project.frames[0], "Grey Stack card")
        route = self.workspace.route
        pair = next(row.ends for row in self.window.stations["timing"].sheet.body.rows if row.ends.from_id == card.id)
        when = timed(self.project, route.transition, *CueKey(*pair, ""))
        self.assertTrue(any(f"{when.start:.0f} to {when.end:.0f} ms" in words for words in told))

    def the_next_day_it_is_as_it_was_left(self) -> None:
        self.window.go("pairs")
        self.window.keep_session()
        memory = self.workspace.remembered
        self.close_window(self.window)
        self.window = self.open_window()
        self.workspace.remembered = memory
        self.window.landing.show_recent(session.recent(memory))
        click(self.window.landing.files.itemAt(1).widget())
        self.settle()
        self.assertEqual((self.workspace.path, self.window.current), (self.file, "pairs"))


class InARealWindow(unittest.TestCase):
    @needs_xvfb
    def test_people_stay(self) -> None:
        run_in_xvfb(self, "tests.stories.test_trust.PeopleStay")


if __name__ == "__main__":
    unittest.main()
