"""Motion that took an hour to tune is used a hundred times: by its maker, in another project, and by others.

A designer keeps the way in which a button arrives, puts it on three layers of other sizes, linked; finds a stagger and a
whole transition in the catalogue; shares the button's motion; a colleague improves it; it changes everywhere, but for
what she had made her own.
"""

import tempfile
import unittest
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock

from dulwich.repo import Repo
from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt, QThreadPool
from PySide6.QtTest import QTest

from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.presets.shelf import Shelf
from avelt.core.presets.team import join
from avelt.core.timing.schedule import timed
from tests.support import WindowCase, click, keeping, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb

_ROW = 29  # px high


class UsedAHundredTimes(WindowCase, unittest.TestCase):
    """In one window, on the demo."""

    def test_the_week(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.team = Path(folder.name) / "team.git"
        self.team.mkdir()
        Repo.init_bare(str(self.team)).close()
        self.colleague = Shelf(Path(folder.name) / "colleague" / "presets")
        self.window.go("timing")
        self.settle()
        self.station, self.shelf = self.window.stations["timing"], self.window.shelf
        self.walk(
            self.she_keeps_how_the_button_arrives,
            self.puts_it_on_layers_of_other_sizes,
            self.sees_what_does_not_fit,
            self.makes_one_of_them_her_own,
            self.takes_a_whole_transition_out_of_the_catalogue,
            self.shares_it,
            self.a_colleague_improves_it,
            self.it_changes_everywhere_but_for_what_is_her_own,
            self.goes_back,
        )

    def row(self, name: str) -> tuple[int, Any]:
        rows = self.station.sheet.body.rows
        return next((k, r) for k, r in enumerate(rows) if r.right_name == name and not r.prop and r.left_name != name)

    def click_row(self, name: str, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> Any:
        place, row = self.row(name)
        self.station.sheet.scroller.ensureVisible(0, place * _ROW + _ROW // 2, 0, _ROW)
        click(self.station.sheet.body, QPointF(110, place * _ROW + 14), keys=keys)
        return row

    def lasts(self, name: str) -> float:
        when = timed(self.project, self.workspace.route.transition, *self.row(name)[1].key)
        return when.end - when.start

    def pose(self, name: str) -> Any:
        ident = self.row(name)[1].key.to_id
        return next(e.pose for e in self.workspace.route.transition.absents if e.layer == ident)

    def she_keeps_how_the_button_arrives(self) -> None:
        self.click_row("Board button")
        with mock.patch.object(self.window, "ask", new=keeping("Comes aboard", 0, "button")):
            click(self.station.save)
        self.assertTrue(self.shelf.isVisible())
        self.assertEqual(self.shelf.chosen.preset.kind, "enter")
        self.assertEqual(self.shelf.chosen.preset.tags, ("button",))

    def puts_it_on_layers_of_other_sizes(self) -> None:
        self.click_row("Deck note")
        self.click_row("Route line", Qt.KeyboardModifier.ControlModifier)
        self.assertIn("2 layers", self.shelf.target.text())
        before = self.project
        self.assertIsNotNone(self.shelf.preview.program)
        self.assertIs(self.project, before)
        click(self.shelf.fields.linked)
        click(self.shelf.use)
        button, note = (
            find_layer(find_frame(self.project, "Sailing detail"), n) for n in ("Board button", "Deck note")
        )
        kept = self.shelf.chosen.preset
        self.assertAlmostEqual(self.pose("Deck note").shift_y, kept.absent.shift_y * note.h)
        self.assertNotEqual(button.h, note.h)
        self.assertEqual(len(self.project.links), 2)

    def sees_what_does_not_fit(self) -> None:
        place, row = next(
            (k, r)
            for k, r in enumerate(self.station.sheet.body.rows)
            if r.left_name == "Grey Stack photo" and not r.prop
        )
        self.station.sheet.scroller.ensureVisible(0, place * _ROW + _ROW // 2, 0, _ROW)
        click(self.station.sheet.body, QPointF(110, place * _ROW + 14))
        self.assertFalse(self.shelf.use.isEnabled())
        self.assertIn("comes or goes", self.shelf.preview.says)
        self.assertEqual(self.station.context.key, row.key)

    def makes_one_of_them_her_own(self) -> None:
        self.click_row("Route line")
        type_into(self.station.curve_editor.lasts, "77")
        self.assertAlmostEqual(self.lasts("Route line"), 77.0)

    def takes_a_whole_transition_out_of_the_catalogue(self) -> None:
        self.window.go("routes")
        self.settle()
        route = find_route(self.project, "Sailings > Seat deck")
        self.workspace.choose_route(route.id)
        type_into(self.shelf.search, "next step")
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Next berth"])
        click(self.shelf.fields.linked)
        click(self.shelf.use)
        self.assertEqual(find_route(self.project, "Sailings > Seat deck").transition.duration, 380.0)
        self.shelf.search.clear()

    def finish(self) -> None:
        QThreadPool.globalInstance().waitForDone(60_000)
        self.settle()

    def shares_it(self) -> None:
        self.shelf.team.join(str(self.team))
        self.finish()
        self.shelf.choose("Comes aboard")
        menu = {action.text(): action for action in self.shelf.more_menu().actions()}
        menu["Send to the team"].trigger()
        click(self.shelf.where.button(3))
        self.assertIn("1 waits to be sent", self.shelf.note.text())
        self.shelf.team.sync()
        self.finish()
        self.assertIn("same here and there", self.shelf.note.text())

    def a_colleague_improves_it(self) -> None:
        with closing(join(self.colleague, str(self.team))) as there:
            (preset,) = there.read().presets
            cues = tuple(replace(cue, end=(cue.start or 0.0) + 0.25) if not cue.prop else cue for cue in preset.cues)
            there.publish([replace(preset, cues=cues)])
            there.sync(str)

    def it_changes_everywhere_but_for_what_is_her_own(self) -> None:
        route = find_route(self.project, "Sailings > Sailing detail")
        self.window.go("timing")
        self.workspace.choose_route(route.id)
        self.settle()
        self.before = self.lasts("Deck note")
        self.shelf.team.sync()
        self.finish()
        self.assertAlmostEqual(self.lasts("Deck note"), 120.0)  # a quarter of 480 ms
        self.assertNotAlmostEqual(self.before, 120.0)
        self.assertAlmostEqual(self.lasts("Route line"), 77.0)
        self.assertEqual(self.workspace.session.undo_label, "take changed presets")

    def goes_back(self) -> None:
        self.window.do("undo")
        self.assertAlmostEqual(self.lasts("Deck note"), self.before)
        QTest.keyClick(self.shelf, Qt.Key.Key_Escape)
        self.assertFalse(self.shelf.isVisible())
        self.assertFalse(self.window.grab().isNull())


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_week_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_shelf.UsedAHundredTimes")


if __name__ == "__main__":
    unittest.main()
