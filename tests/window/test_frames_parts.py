"""The parts of Frames by themselves: colours, dialogs, the table's texts, where pages stand, clipboard, screens."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

import msgspec
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QColor, QGuiApplication, QImage
from PySide6.QtTest import QTest

from avelt.core.blending import colour
from avelt.core.errors import AveltError
from avelt.core.formats.screens import Screen
from avelt.core.formats.svg_in import read_svg
from avelt.core.model.find import find_frame, find_layer, layer_index
from avelt.core.model.values import Linear, Radial, Shadow, Solid, Stop, Stroke
from avelt.paint.fonts import measure_text
from avelt.window.frames import clipboard, overlay
from avelt.window.frames.apart import ApartDialog
from avelt.window.frames.colours import MOST_CHROMA, ColourPanel, Slider, from_lch, to_lch
from avelt.window.frames.dialogs import CarryDialog, CopiesDialog, FrameDialog, GridDialog
from avelt.window.frames.file_watch import FoundChanges, Offers, is_large, look
from avelt.window.frames.strips import NodeStrip, Strip, ToolStrip
from avelt.window.frames.values import ROWS, set_from_text, set_many, value_rows
from avelt.window.start import application
from avelt.window.theme import Theme
from tests.support import WindowCase, box, click, drag, group, oval, pixel, project_of, text, type_into

replace = msgspec.structs.replace
part = st.floats(0.02, 0.98)
SVG = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="60"><rect id="r" width="30" height="20"/></svg>'


class Colours(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.theme = Theme()

    @given(part, part, part)
    def test_lightness_chroma_and_hue_give_the_colour_back(self, r: Any, g: Any, b: Any) -> None:
        text = colour.to_text((r, g, b, 1.0))
        self.assertEqual(from_lch(*to_lch(text)), text)

    @given(st.floats(0.15, 0.95), st.floats(0, MOST_CHROMA), st.floats(0, 360))
    def test_what_no_screen_has_is_brought_to_the_nearest(self, light: Any, chroma: Any, hue: Any) -> None:
        made = to_lch(from_lch(light, chroma, hue, 1.0))
        self.assertAlmostEqual(made[0], light, delta=0.02)
        self.assertLessEqual(made[1], chroma + 0.02)

    def test_a_slider_by_mouse_and_keys(self) -> None:
        slider = Slider(self.theme, "Hue")
        slider.resize(216, 22)
        slider.show_value(0.2, [QColor("red"), QColor("blue")])
        heard, ended = [], []
        slider.moved.connect(heard.append)
        slider.let_go.connect(lambda: ended.append(True))
        drag(slider, QPointF(20, 10), QPointF(108, 10))
        self.assertAlmostEqual(heard[-1], 0.5, places=2)
        QTest.keyClick(slider, Qt.Key.Key_Right)
        QTest.keyClick(slider, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        self.assertAlmostEqual(slider.value, 0.41, places=2)
        self.assertEqual(len(ended), 3)
        image = slider.grab().toImage()
        self.assertGreater(pixel(image, 30, 8)[0], 150)

    def test_the_panel_shows_types_takes_and_refuses(self) -> None:
        from PySide6.QtWidgets import QWidget

        parent = QWidget()
        panel = ColourPanel(self.theme, parent)
        heard, settled, dropped = [], [], []
        panel.changed.connect(heard.append)
        panel.settled.connect(lambda: settled.append(True))
        panel.swatch_dropped.connect(dropped.append)
        panel.show_colour("Fill of Card", "solid", "#336699", ("#ff0000", "#00ff00"), ("#0000ff",))
        parent.show()
        panel.show()
        self.assertEqual((panel.heading.text(), panel.hex.text()), ("Fill of Card", "#336699"))
        type_into(panel.hex, "oklch(0.7 0.1 200)")
        self.assertEqual(panel.text, heard[-1])
        click(panel.kept, QPointF(30, 8))
        self.assertEqual(heard[-1], "#00ff00")
        QTest.mouseClick(panel.kept, Qt.MouseButton.RightButton, Qt.KeyboardModifier.NoModifier, QPoint(8, 8))
        self.assertEqual(dropped, ["#ff0000"])
        click(panel.kept, QPointF(200, 8))  # beyond the last
        self.assertEqual(heard[-1], "#00ff00")
        type_into(panel.hex, "sea")
        self.assertIn("not a colour", panel.trouble.text())
        self.assertEqual(len(settled), 2)
        QTest.keyClick(panel, Qt.Key.Key_Escape)
        self.assertFalse(panel.isVisible())


class Dialogs(unittest.TestCase):
    def setUp(self) -> None:
        application()

    def test_what_is_typed_is_given_back(self) -> None:
        repeat = CopiesDialog(None, "Card")
        repeat.across.show_value(4)
        self.assertEqual(repeat.values(), (4, 1, 8, 8))
        frame = project_of((), ()).frames[0]
        settings = FrameDialog(None, frame)
        settings.clips.setChecked(False)
        self.assertEqual(settings.values().clips, False)
        settings.background.setText("sea")
        settings.accept()
        self.assertIn("not a colour", settings.trouble.text())
        self.assertEqual(settings.result(), 0)

    def test_guides_are_numbers(self) -> None:
        frame = replace(project_of((), ()).frames[0], guides_x=(10.0, 20.5))
        dialog = GridDialog(None, 8.0, frame)
        self.assertEqual(dialog.guides["x"].text(), "10, 20.5")
        dialog.guides["y"].setText("5; 7")
        self.assertEqual(dialog.places("y"), [5, 7])
        dialog.guides["y"].setText("five")
        dialog.accept()
        self.assertIn("numbers", dialog.trouble.text())

    def test_frames_to_carry_to(self) -> None:
        frames = project_of((), ()).frames
        dialog = CarryDialog(None, "Card", frames)
        dialog.ticks[1][1].click()
        self.assertEqual(dialog.wanted(), ["B"])

    def test_screens_are_ticked_and_named(self) -> None:
        imported = read_svg(SVG.encode(), "Board")
        screens = (Screen("One", (0, 0, 40, 60), ()), Screen("Two", (50, 0, 40, 60), ()))
        dialog = ApartDialog(None, Theme(), imported, screens)
        self.assertEqual(dialog.apart.text(), "Make 2 frames")
        dialog.list.item(0).setCheckState(Qt.CheckState.Unchecked)
        dialog.list.item(1).setText("Pass")
        self.assertEqual([s.name for s in dialog.wanted()], ["Pass"])
        self.assertEqual(dialog.apart.text(), "Make 1 frame")
        dialog.list.item(1).setCheckState(Qt.CheckState.Unchecked)
        self.assertFalse(dialog.apart.isEnabled())
        self.assertFalse(dialog.preview.grab().isNull())


class Strips(unittest.TestCase):
    def setUp(self) -> None:
        application()

    def test_how_many_how_large_and_what_changed(self) -> None:
        strip = Strip()
        strip.show_frames(project_of((), ()).frames)
        self.assertEqual(strip.summary.text(), "2 frames, 200 × 200")
        strip.show_zoom(0.512)
        strip.show_offers(2)
        self.assertEqual((strip.actual.text(), strip.changes.text()), ("51 %", "2 files changed…"))
        strip.show_offers(0)
        self.assertTrue(strip.changes.isHidden())

    def test_tools_and_node_deeds_say_what_was_pressed(self) -> None:
        tools, heard = ToolStrip(), []
        tools.picked.connect(heard.append)
        click(tools.choice.button(4))
        tools.show_tool("oval")
        self.assertTrue(tools.choice.button(2).isChecked())
        tools.hint("Shift turns by steps")
        self.assertEqual((heard, tools.words.text()), (["pen"], "Shift turns by steps"))
        nodes, layer_commands = NodeStrip(), []
        nodes.wanted.connect(layer_commands.append)
        for made in nodes.buttons.values():
            click(made)
        self.assertEqual(layer_commands, [ident for ident, _, _ in NodeStrip.COMMANDS])


class Texts(unittest.TestCase):
    """The value table's texts: each can be typed again and means the same."""

    def look(self) -> Any:
        paint = Linear((Stop(0, "#ff0000"), Stop(1, "#0000ff")), (1.0, 0.0, 0.0, 1.0, 0.0, 0.5))
        rich = replace(
            box("a", 10, 20, 60, 40, rotation=370.0, scale_x=1.5, skew=10.0, blend="screen", blur=2.5),
            fills=(paint,),
            stroke=Stroke(Solid("#112233"), 3, "round", "bevel", dashes=(4.0, 2.0), trim_end=0.5, trim_offset=0.1),
            shadows=(Shadow("rgb(0 0 0 / 0.5)", 1, 2, 3), Shadow("#ffffff", 0, 1, 0, True)),
            rotation_y=30.0,
        )
        return project_of(
            (rich, text("t", "Calm\nsea"), group("g", 0, 0, (oval("o", 0, 0, 9, 9),), clips=True)),
            (box("b", 0, 0, 9, 9),),
        )

    def test_every_text_can_be_typed_again(self) -> None:
        project = self.look()
        frame = project.frames[0]
        for ident in ("a", "t", "g"):
            layer = layer_index(frame)[ident]
            rows = value_rows(project, frame, layer, "all")
            self.assertGreater(len(rows), 12)
            for row in rows:
                text_ = row.cells[0].text
                with self.subTest(layer=ident, row=row.name, text=text_):
                    again = set_from_text(project, "A", ident, row.name, text_)
                    kept = {
                        r.name: r.cells[0].text
                        for r in value_rows(again, again.frames[0], layer_index(again.frames[0])[ident], "all")
                    }
                    self.assertEqual(kept[row.name], text_)

    def test_what_is_shown_narrows(self) -> None:
        project = self.look()
        frame = project.frames[0]
        layer = layer_index(frame)["g"]
        used, every = (value_rows(project, frame, layer, show) for show in ("used", "all"))
        self.assertLess(len(used), len(every))
        self.assertIn("clip", {row.name for row in used})
        self.assertEqual({row.name for row in every} - {kind.name for kind in ROWS}, set())
        self.assertEqual(value_rows(project, frame, layer, "differs"), ())

    def test_nonsense_is_refused_in_every_row(self) -> None:
        project = self.look()
        for kind in ROWS:
            if kind.name in ("name", "words"):
                continue
            for ident in ("a", "t", "g"):
                with self.subTest(kind.name), self.assertRaises((AveltError, ValueError)):
                    set_from_text(project, "A", ident, kind.name, "wobble?!")

    def test_several_at_once_and_shares_in_all_spellings(self) -> None:
        project = self.look()
        made = set_many(project, [("A", "a"), ("B", "b")], "opacity", "40")
        self.assertEqual([layer_index(f)[i].opacity for f, i in zip(made.frames, "ab", strict=True)], [0.4, 0.4])
        for words in ("0.4", "40%", "40 %", "2*20"):
            self.assertEqual(
                layer_index(set_from_text(project, "B", "b", "opacity", words).frames[1])["b"].opacity, 0.4
            )
        scaled = layer_index(set_from_text(project, "B", "b", "scale", "120, 80 %").frames[1])["b"]
        self.assertEqual((scaled.scale_x, scaled.scale_y), (1.2, 0.8))

    def test_words_make_their_box_fit(self) -> None:
        project = self.look()
        short, long = (
            layer_index(set_from_text(project, "A", "t", "words", w).frames[0])["t"].w
            for w in ("Sea", "A much longer sea")
        )
        self.assertLess(short * 2, long)


class Viewport(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.board = self.window.stations["frames"].board
        self.pages = self.board.viewport

    def test_zooming_keeps_what_lies_under_the_pointer(self) -> None:
        frame = self.project.frames[1]
        self.pages.zoom_at(1.6, QPointF(400, 200))
        spot = QPointF(420, 180)
        before = self.board.viewport.spot(frame, self.pages.rect_of(frame), spot)
        self.pages.zoom_at(1.3, spot)
        after = self.board.viewport.spot(frame, self.pages.rect_of(frame), spot)
        self.assertLess((after - before).manhattanLength(), 0.01)

    def test_the_wheel_goes_where_there_is_more(self) -> None:
        self.pages.wheel(QPoint(0, -120), False)
        self.assertEqual(self.pages.pan.y(), 0.0)
        self.pages.set_scale(2.0)
        x, y = self.pages.pan.x(), self.pages.pan.y()
        self.pages.wheel(QPoint(0, -120), False)
        self.assertEqual((self.pages.pan.x(), self.pages.pan.y()), (x, y + 60))
        self.pages.wheel(QPoint(0, -120), True)
        self.assertEqual(self.pages.pan.x(), x + 60)
        self.pages.fit()
        self.assertEqual((self.pages.zoom, self.pages.pan), (1.0, QPointF(0, 0)))

    def test_a_frame_out_of_sight_is_brought_in(self) -> None:
        self.pages.set_scale(3.0)
        self.workspace.choose(self.project.frames[2].id)
        rect = self.pages.rect_of(self.project.frames[2])
        self.assertTrue(0 <= rect.left() < self.board.width())

    def test_the_grid_and_the_rulers_are_drawn(self) -> None:
        plain = self.board.grab().toImage()
        station = self.window.stations["frames"]
        click(station.tools.toggles["grid"])
        gridded = self.board.grab().toImage()
        self.assertNotEqual(plain, gridded)
        click(station.tools.toggles["rulers"])
        ruled = self.board.grab().toImage()
        self.assertEqual(pixel(ruled, 100, 3), (246, 243, 235))
        self.assertIn(overlay._ruler_step(0.5), (100, 200))

    def test_handles_can_be_seen(self) -> None:
        frame = self.project.frames[0]
        self.workspace.choose(frame.id, find_layer(frame, "Sandray card").id)
        at = self.board.grip("grip", (1, 1)).toPoint()
        shown = self.board.grab().toImage()
        around = {pixel(shown, at.x() + dx, at.y() + dy) for dx in range(-5, 6) for dy in range(-5, 6)}
        self.assertTrue(any(abs(r - 0x8E) < 12 and abs(g - 0x2F) < 12 for r, g, _ in around))


class Clipboard(WindowCase, unittest.TestCase):
    def put(self, **kinds: Any) -> None:
        data = QMimeData()
        for name, value in kinds.items():
            getattr(data, name)(value)
        QGuiApplication.clipboard().setMimeData(data)

    def tearDown(self) -> None:
        QGuiApplication.clipboard().setText("")
        super().tearDown()

    def test_pictures_files_and_svg(self) -> None:
        image = QImage(12, 8, QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.red)
        self.put(setImageData=image)
        found = clipboard.take(measure_text)
        self.assertEqual((found.frame.w, found.frame.h, len(found.assets)), (12, 8, 1))
        self.assertEqual(clipboard.as_clip(found).layers[0].kind, "picture")
        self.put(setUrls=[QUrl.fromLocalFile("/nowhere/List.svg"), QUrl.fromLocalFile("/nowhere/notes.txt")])
        self.assertEqual([path.name for path in clipboard.take(measure_text).paths], ["List.svg"])
        self.put(setText=f"<!-- drawn --> {SVG}")
        found = clipboard.take(measure_text)
        self.assertEqual((found.frame.w, clipboard.as_clip(found).layers[0].name), (90, "r"))
        self.put(setText="<svg")
        with self.assertRaises(AveltError):
            clipboard.take(measure_text)
        self.put(setText="only words")
        self.assertIsNone(clipboard.take(measure_text))

    def test_a_broken_drawing_on_the_clipboard_is_told_and_nothing_changes(self) -> None:
        self.put(setText="<svg xmlns='http://www.w3.org/2000/svg'><g>")
        before = self.project
        self.window.stations["frames"].do("paste")
        self.assertIs(self.project, before)
        self.assertIn("XML", self.window.said.text())

    def test_layers_as_a_frame_of_their_own(self) -> None:
        frame = self.project.frames[0]
        self.workspace.choose(frame.id, find_layer(frame, "Header").id)
        station = self.window.stations["frames"]
        station.do("copy")
        station.do("paste_frame")
        header = find_layer(frame, "Header")
        self.assertEqual((self.workspace.frame.name, self.workspace.frame.w), ("Pasted", header.w))


class FilesOfFrames(unittest.TestCase):
    def test_frames_without_files_and_files_that_are_gone(self) -> None:
        frame = project_of((), ()).frames[0]
        self.assertIn("did not come from a file", look(frame).trouble)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "A.svg"
            path.write_text(SVG)
            from avelt.core.formats.screen_file import read_screen

            own = read_screen(path).frame
            self.assertEqual((look(own).changes, look(own).trouble, is_large(own)), ((), "", False))
            path.unlink()
            self.assertIn("no such file", look(own).trouble)
            self.assertFalse(is_large(own))

    def test_a_screen_of_a_drawing_is_found_again_or_missed_by_name(self) -> None:
        card = '<g id="{0}" transform="translate({1} 20)"><rect width="200" height="300" fill="{2}"/><rect x="9" y="9" width="50" height="50"/></g>'

        def board(tone: Any) -> Any:
            inner = card.format("List", 20, "#fff") + card.format("Pass", 250, tone)
            return f'<svg xmlns="http://www.w3.org/2000/svg" width="480" height="340">{inner}</svg>'

        from avelt.core.edits.frames import add_frames
        from avelt.core.edits.project import new_project
        from avelt.core.formats.screen_file import read_screen
        from avelt.core.formats.screens import apart, screens_in

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "Board.svg"
            path.write_text(board("#ffffff"))
            imported = read_screen(path)
            parts = apart(imported, screens_in(imported.frame))
            project = add_frames(new_project("P"), [p.frame for p in parts], ())
            path.write_text(board("#ff0000"))
            self.assertEqual(look(project.frames[0]).changes, ())
            self.assertEqual([c.says for c in look(project.frames[1]).changes], [("fill #ffffff → #ff0000",)])
            path.write_text(board("#ffffff").replace("Pass", "Deck"))
            self.assertIn("no screen “Pass”", look(project.frames[1]).trouble)

    def test_offers_are_kept_by_frame(self) -> None:
        offers = Offers()
        project = project_of((), ())
        offers.put(FoundChanges("A", None, ("x",)))
        offers.put(FoundChanges("Z", None, ("x",)))
        offers.keep_to(project)
        self.assertEqual(list(offers.by_frame), ["A"])
        offers.put(FoundChanges("A"))
        self.assertEqual(offers.by_frame, {})


class ColourController(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.station = self.window.stations["frames"]
        frame = find_frame(self.project, "Sailing detail")
        self.workspace.choose(frame.id, find_layer(frame, "Button paper").id)
        self.inks = self.station.colours

    def test_kinds_keep_colours_and_a_stroke_is_made_from_nothing(self) -> None:
        self.inks.open("fill", QPoint(400, 400))
        before = self.workspace.layer.fills[-1].color
        for place, kind in ((2, Linear), (3, Radial)):
            click(self.inks.panel.kinds.button(place))
            self.assertIsInstance(self.workspace.layer.fills[-1], kind)
        click(self.inks.panel.kinds.button(1))
        self.assertEqual(self.workspace.layer.fills[-1], Solid(before))
        click(self.inks.panel.kinds.button(0))
        self.assertEqual(self.workspace.layer.fills, ())
        self.inks.open("stroke", QPoint(400, 400))
        self.inks.panel.take("#00ff00")
        self.assertEqual(self.workspace.layer.stroke.paint, Solid("#00ff00"))

    def test_one_colour_of_a_gradient(self) -> None:
        self.inks.open("fill", QPoint(400, 400))
        click(self.inks.panel.kinds.button(2))
        self.inks.open_stop(1, QPoint(10, 10))
        self.inks.panel.take("#123456")
        self.assertEqual(self.workspace.layer.fills[-1].stops[1].color, "#123456")
        self.assertIn("Colour 2 of 2", self.inks.panel.heading.text())
        self.workspace.choose(self.workspace.frame.id)
        self.assertFalse(self.inks.panel.isVisible())

    def test_all_chosen_take_the_colour(self) -> None:
        frame = self.project.frames[0]
        ids = [find_layer(frame, n).id for n in ("Backdrop", "Outer Holm paper")]
        self.workspace.choose_several([(frame.id, ident) for ident in ids])
        self.inks.open("fill", QPoint(100, 100))
        self.inks.panel.take("#abcdef")
        frame = self.project.frames[0]
        tones = [layer_index(frame)[i].fills[-1] for i in ids]
        colours = [t.color if isinstance(t, Solid) else t.stops[0].color for t in tones]
        self.assertEqual(colours, ["#abcdef", "#abcdef"])
        self.assertEqual(self.workspace.session.undo_label, "fill of 2 layers")
