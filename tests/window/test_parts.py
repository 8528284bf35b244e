"""Parts in the real window: made, opened, changed inside, fed, rehearsed, dissolved; and the way out."""

import unittest
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QPushButton

from avelt.core.edits.frames import remove_frame
from avelt.core.edits.inputs import add_input
from avelt.core.edits.layers import set_value
from avelt.core.edits.parts import in_stage
from avelt.core.edits.project import new_project
from avelt.core.edits.routes import add_route
from avelt.core.formats.project_file import open_project
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.triggers import Crosses, Signal, Tap
from avelt.core.model.values import Use
from avelt.core.timing.compile import compile_still
from avelt.window.controls.fields import NumberField
from avelt.window.frames.part_dialogs import PartDialog, UseDialog
from avelt.window.shell.stage_bar import StageBar
from tests.support import click, pixel, type_into
from tests.window.test_frames import FramesCase

KEY = Qt.Key


class PartsCase(FramesCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        # These begin with a project that has no part yet.
        bare = remove_frame(self.project, find_frame(self.project, "On the water").id)
        self.workspace.session.replace(replace(bare, parts=()))
        self.settle()
        self.bar = self.window.findChild(StageBar)

    def make(self) -> Any:
        """The uppermost card of the first frame as a part, by its key."""
        self.choose("Outer Holm card")
        self.board.setFocus()
        QTest.keyClick(self.board, KEY.Key_P, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        return self.workspace.layer

    def open_it(self) -> None:
        self.make()
        point = self.middle("Outer Holm card")
        QTest.mouseDClick(self.board, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point.toPoint())
        self.settle()

    def picture(self) -> Any:
        frame = self.workspace.whole.frames[0]
        return self.workspace.painter().render(compile_still(frame, self.workspace.whole).at(0.0))

    def test_made_and_dissolved_with_the_same_picture(self) -> None:
        before = self.picture()
        use = self.make()
        self.assertIsInstance(use.body, Use)
        self.assertEqual([part.name for part in self.project.parts], ["Outer Holm card"])
        self.assertEqual(self.picture(), before)
        self.station.do("part_dissolve")
        self.assertEqual(self.workspace.layer.name, "Outer Holm card")
        self.assertNotIsInstance(self.workspace.layer.body, Use)
        self.assertEqual(self.picture(), before)
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual(self.project.parts, ())

    def test_a_double_click_goes_in_and_esc_out(self) -> None:
        self.assertFalse(self.bar.isVisible())
        self.open_it()
        self.assertEqual((self.project.name, [f.name for f in self.project.frames]), ("Outer Holm card", ["at rest"]))
        self.assertTrue(self.bar.isVisible())
        self.assertEqual(self.workspace.stages.names(self.workspace.whole), ("Skerry Line", "Outer Holm card"))
        QTest.keyClick(self.board, KEY.Key_Escape)
        self.settle()
        self.assertEqual(self.project.name, "Skerry Line")
        self.assertEqual(self.workspace.layer.name, "Outer Holm card")
        self.assertFalse(self.bar.isVisible())
        QTest.keyClick(self.board, KEY.Key_Return)
        self.settle()
        self.assertEqual(self.project.name, "Outer Holm card")
        (up,) = [b for b in self.bar.findChildren(QPushButton) if b.text() == "Skerry Line" and b.isVisible()]
        click(up)
        self.assertEqual(self.project.name, "Skerry Line")
        self.window.do("close_part")  # nothing is open
        self.assertEqual(self.project.name, "Skerry Line")

    def test_parts_open_in_each_other(self) -> None:
        self.open_it()
        inner = self.project.frames[0]
        self.workspace.choose(inner.id, find_layer(inner, "Outer Holm card").children[0].id)
        self.station.do("part_make")
        name = self.workspace.layer.name
        self.station.do("part_open")
        self.assertEqual(self.workspace.stages.names(self.workspace.whole), ("Skerry Line", "Outer Holm card", name))
        self.window.do("close_part")
        self.assertEqual(self.workspace.layer.name, name)
        self.station.do("part_open")
        self.workspace.close_part(0)
        self.assertEqual(self.workspace.layer.name, "Outer Holm card")

    def test_what_is_changed_inside_shows_wherever_it_is_used(self) -> None:
        self.open_it()
        frame = self.project.frames[0]
        for layer in frame.layers[0].children:
            self.workspace.do("hide", lambda p, ident=layer.id: set_value(p, frame.id, ident, "hidden", True))
        self.window.do("close_part")
        x, y, w, h = self.box("Outer Holm card")
        ground = pixel(self.picture(), 2, round(y + h / 2))
        self.assertEqual(pixel(self.picture(), round(x + w / 2), round(y + h / 2)), ground)
        for _ in frame.layers[0].children:
            self.window.do("undo")
        self.assertNotEqual(pixel(self.picture(), round(x + w / 2), round(y + h / 2)), ground)

    def test_undo_closes_a_part_that_is_not_made_any_more(self) -> None:
        self.open_it()
        self.window.do("undo")
        self.settle()
        self.assertEqual((self.project.name, self.project.parts), ("Skerry Line", ()))
        self.assertFalse(self.bar.isVisible())

    def test_the_whole_is_saved_and_another_project_is_no_part(self) -> None:
        self.open_it()
        self.window.do("next_state")
        path = Path(self.folder.name) / "p.avelt"
        self.assertTrue(self.window.save_to(path))
        saved = open_project(path)
        self.assertEqual(
            (saved.name, len(saved.frames), len(saved.parts[0].poses)), ("Skerry Line", 8, 2), "saved from inside"
        )
        self.assertIn("Skerry Line", self.window.windowTitle())
        self.assertEqual(self.project.name, "Outer Holm card")
        self.window.show_project(saved, path)
        self.assertEqual(self.project.name, "Skerry Line")
        self.window.show_project(new_project("Empty"), None)
        self.assertFalse(self.bar.isVisible())

    def test_every_station_is_about_the_open_part(self) -> None:
        self.open_it()
        self.window.do("next_state")
        ends = [frame.id for frame in self.project.frames]
        self.workspace.make("route", lambda p: add_route(p, ends[0], ends[1], Tap()))
        for station in ("routes", "pairs", "timing", "loops", "rehearse", "handoff", "frames"):
            self.window.go(station)
            self.settle()
            self.assertFalse(self.window.grab().isNull())
        self.assertEqual(len(self.workspace.whole.parts[0].routes), 1)
        self.assertEqual(len(self.workspace.whole.routes), len(self.workspace.session.project.routes))
        self.window.go("rehearse")
        self.settle()
        player = self.window.stations["rehearse"].player
        player.press(20, 20)
        player.release(20, 20)
        player.advance(player.now + 2000)
        self.assertEqual(player.frame.id, ends[1])

    def test_the_settings_of_a_use(self) -> None:
        use = self.make()
        self.workspace.do("in", lambda p: add_input(p, "wind", "number")[0])
        part = self.project.parts[0]
        self.workspace.do("inside", lambda p: in_stage(p, part.id, lambda s: add_input(s, "blow", "number")[0]))
        seen: list[str] = []

        def answer(text: str, name: str = "Card", speed: float = 2.0) -> Any:
            def ask(dialog: QDialog) -> bool:
                assert isinstance(dialog, PartDialog)
                ((entry, field),) = dialog.inputs
                seen.append(f"{entry.name}: {field.text()}")
                field.setText(text)
                dialog.name.setText(name)
                dialog.speed.show_value(speed)
                return True

            return ask

        def body() -> Any:
            return find_layer(self.project.frames[0], use.name).body

        self.station.commands.ask = answer("wind")
        self.station.do("part_settings")
        self.assertEqual(([f.name for f in body().feeds], body().speed), (["wind"], 2.0))
        self.assertEqual(self.project.parts[0].name, "Card")
        self.station.commands.ask = answer("3,5")
        self.station.do("part_settings")
        self.assertEqual([(f.name, f.value) for f in body().feeds], [("", 3.5)])
        before = self.project
        self.station.commands.ask = answer("soon")
        self.station.do("part_settings")
        self.assertIs(self.project, before)
        self.assertIn("soon", self.window.said.text())
        self.station.commands.ask = answer("")
        self.station.do("part_settings")
        self.assertEqual(body().feeds, ())
        self.assertEqual(seen, ["blow: ", "blow: wind", "blow: 3.5", "blow: 3.5"])

    def test_a_part_is_used_once_more(self) -> None:
        self.station.do("part_use")
        self.assertIn("no part yet", self.window.said.text())
        self.make()
        self.workspace.choose(find_frame(self.project, "Seat deck").id)
        self.station.commands.ask = lambda dialog: isinstance(dialog, UseDialog)
        self.station.do("part_use")
        layer, frame = self.workspace.layer, find_frame(self.project, "Seat deck")
        self.assertEqual((layer.x + layer.w / 2, layer.name), (frame.w / 2, "Outer Holm card"))

    def test_refusals_are_said(self) -> None:
        self.choose("Backdrop")
        before = self.project
        for command in ("part_open", "part_dissolve", "part_settings"):
            self.station.do(command)
            self.assertIn("Choose the use of a part", self.window.said.text())
        self.workspace.choose(self.project.frames[0].id)
        self.station.do("part_make")
        self.assertIn("Choose the layers", self.window.said.text())
        self.assertIs(self.project, before)

    def test_rehearse_plays_parts(self) -> None:
        use = self.make()
        part = self.project.parts[0]

        def inside(stage: Any) -> Any:
            from avelt.core.edits.frames import next_state

            stage = next_state(stage, stage.first, "gone")
            pose = find_frame(stage, "gone")
            stage = set_value(stage, pose.id, pose.layers[0].id, "opacity", 0.0)
            stage, blow = add_input(stage, "blow", "number")
            return add_route(stage, stage.first, pose.id, Crosses(blow, 0.5, "rising"))[0]

        self.workspace.do("inside", lambda p: in_stage(p, part.id, inside))
        self.workspace.do("in", lambda p: add_input(p, "wind", "number")[0])
        from avelt.core.edits.parts import feed

        self.workspace.do("feed", lambda p: feed(p, p.frames[0].id, use.id, "blow", "wind"))
        self.window.go("rehearse")
        self.settle()
        player = self.window.stations["rehearse"].player
        x, y, w, h = self.box("Outer Holm card")
        spot = round(x + w * 0.9), round(y + h * 0.9)
        before = pixel(self.workspace.painter().render(player.scene()), *spot)
        field = self.window.stations["rehearse"].inputs.rows["wind"]
        self.assertTrue(field.isVisible())
        type_into(field.findChild(NumberField), "1")
        self.assertEqual(player.inputs["wind"], 1.0)
        player.advance(player.now + 3000)
        self.assertNotEqual(pixel(self.workspace.painter().render(player.scene()), *spot), before)

    def test_inputs_are_set_while_it_runs(self) -> None:
        ends = [frame.id for frame in self.project.frames[:2]]

        def wired(project: Any) -> Any:
            project, sold = add_input(project, "sold", "yes/no")
            project, _ = add_input(project, "word", "text")
            project, bell = add_input(project, "bell", "signal")
            project, _ = add_route(project, ends[0], ends[1], Crosses(sold, True, "rising"))
            project, _ = add_route(project, ends[1], ends[0], Signal(bell))
            return project

        rehearse = self.window.stations["rehearse"]
        self.window.go("rehearse")
        self.settle()
        self.assertEqual(set(rehearse.inputs.rows), {entry.name for entry in self.project.inputs})
        self.workspace.do("wire", wired)
        self.settle()
        rehearse.clock.stop()
        rows, player = rehearse.inputs.rows, rehearse.player
        click(rows["sold"])
        player.advance(player.now + 2000)
        self.assertEqual(player.frame.id, ends[1])
        rehearse.clock.ms = player.now
        rows["bell"].click()
        player.advance(player.now + 2000)
        self.assertEqual(player.frame.id, ends[0])
        rehearse.clock.ms = player.now
        type_into(rows["word"], "Pier")
        self.assertEqual(player.inputs["word"], "Pier")
        count = len(player.log)
        type_into(rows["word"], "Pier")
        self.assertEqual(len(player.log), count)
        rehearse.start_over()
        self.assertEqual((rows["word"].text(), rows["sold"].text()), ("", "no"))


if __name__ == "__main__":
    unittest.main()
