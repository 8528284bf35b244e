"""Number fields, the curve canvas, the clock, Find: driven by events."""

import unittest
from unittest import mock

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtTest import QTest

from avelt.core.errors import FormatError
from avelt.core.model.curves import Handles, Points, Spring
from avelt.window.controls.clock import Clock
from avelt.window.controls.fields import NumberField
from avelt.window.controls.number_text import read_number
from avelt.window.controls.views import on_pixels
from avelt.window.shell.find import Hit, ranked
from avelt.window.start import application
from avelt.window.theme import DARK, LIGHT, Theme
from avelt.window.timing.curve_canvas import CurveCanvas
from avelt.window.timing.curve_editor import CurveEditor
from tests.support import drag, type_into


class NumberTexts(unittest.TestCase):
    def test_units_and_arithmetic(self) -> None:
        cases = {
            ("0.4s", "ms"): 400,
            ("400ms", "ms"): 400,
            ("400", "ms"): 400,
            ("50%", ""): 0.5,
            ("50%", "%"): 50,
            ("-3", ""): -3,
            ("2*(8+4)/3-1", ""): 7,
            ("10 + 5", "px"): 15,
            ("1,5", ""): 1.5,
            ("--2", ""): 2,
            ("1s+20", "ms"): 1020,
            ("90°", "°"): 90,
        }
        for (text, unit), wanted in cases.items():
            with self.subTest(text):
                self.assertAlmostEqual(read_number(text, unit), wanted)

    def test_what_is_no_number(self) -> None:
        for bad in ("", "abc", "1+", "(2", "2)", "1/0", "3 apples", "__import__('os')", "1e400*1e400", "((((" * 40):
            with self.subTest(bad), self.assertRaises(FormatError):
                read_number(bad)


class Fields(unittest.TestCase):
    def setUp(self) -> None:
        self.app = application()
        self.field = NumberField("ms", 5.0, 0.0, 1000.0, 0)
        self.field.show_value(100)
        self.field.show()
        self.committed, self.scrubbed, self.refused = [], [], []
        self.field.committed.connect(self.committed.append)
        self.field.scrubbed.connect(self.scrubbed.append)
        self.field.refused.connect(self.refused.append)

    def tearDown(self) -> None:
        self.field.close()
        self.field.deleteLater()

    def test_typing_commits_once(self) -> None:
        type_into(self.field, "0.25s")
        self.assertEqual((self.committed, self.field.text()), ([250], "250 ms"))

    def test_nonsense_is_refused_and_restored(self) -> None:
        type_into(self.field, "soon")
        self.assertEqual((self.committed, self.field.text(), len(self.refused)), ([], "100 ms", 1))

    def test_values_stay_in_their_limits(self) -> None:
        type_into(self.field, "99999")
        self.assertEqual(self.committed, [1000])

    def test_arrows_step_and_escape_restores(self) -> None:
        self.field.setFocus()
        QTest.keyClick(self.field, Qt.Key.Key_Up)
        QTest.keyClick(self.field, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.committed, [105, 55])
        self.field.selectAll()
        QTest.keyClicks(self.field, "7")
        QTest.keyClick(self.field, Qt.Key.Key_Escape)
        self.assertEqual((self.field.text(), self.committed), ("55 ms", [105, 55]))

    def test_dragging_scrubs_and_commits_at_the_end(self) -> None:
        drag(self.field, QPointF(10, 10), QPointF(30, 10), steps=4)
        self.assertEqual(self.committed, [200])
        self.assertEqual(self.scrubbed[-1], 200)
        self.assertEqual(sorted(self.scrubbed), self.scrubbed)


class WholePixels(unittest.TestCase):
    def test_a_picture_stands_on_whole_pixels_in_its_own_shape(self) -> None:
        for ratio in (1.0, 1.25, 2.0):
            for width in (310.3, 309.5, 87.71):
                made = on_pixels(QRectF(20.4, 7.7, width, width * 16 / 9), ratio)
                numbers = [v * ratio for v in (made.left(), made.top(), made.width(), made.height())]
                for number in numbers:
                    self.assertAlmostEqual(number, round(number))
                self.assertLess(abs(made.left() - 20.4) * ratio, 0.51)
                self.assertEqual(round(numbers[2]), round(width * ratio))
                self.assertEqual(round(numbers[3]), round(round(numbers[2]) * 16 / 9))
        self.assertEqual(on_pixels(QRectF(3.3, 4.4, 0.0, 0.0), 1.0), QRectF(3.3, 4.4, 0.0, 0.0))


class Canvas(unittest.TestCase):
    def setUp(self) -> None:
        self.app = application()
        self.canvas = CurveCanvas(Theme())
        self.canvas.resize(260, 320)
        self.canvas.curve = Handles(0.2, 0.0, 0.8, 1.0)
        self.shaped = []
        self.canvas.shaped.connect(self.shaped.append)
        self.canvas.show()

    def tearDown(self) -> None:
        self.canvas.close()
        self.canvas.deleteLater()

    def test_a_handle_follows_the_pointer(self) -> None:
        drag(self.canvas, self.canvas.place_of((0.2, 0.0)), self.canvas.place_of((0.5, 0.4)))
        last = self.shaped[-1]
        self.assertAlmostEqual(last.x1, 0.5, delta=0.02)
        self.assertAlmostEqual(last.y1, 0.4, delta=0.02)
        self.assertEqual((last.x2, last.y2), (0.8, 1.0))

    def test_a_handle_cannot_leave_time(self) -> None:
        drag(self.canvas, self.canvas.place_of((0.8, 1.0)), self.canvas.place_of((1.9, 1.2)))
        self.assertEqual(self.shaped[-1].x2, 1.0)
        self.assertGreater(self.shaped[-1].y2, 1.1)

    def test_keys_move_the_chosen_handle(self) -> None:
        self.canvas.setFocus()
        QTest.keyClick(self.canvas, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.shaped[-1], Handles(0.2, 0.1, 0.8, 1.0))
        QTest.keyClick(self.canvas, Qt.Key.Key_Tab)
        QTest.keyClick(self.canvas, Qt.Key.Key_Left)
        self.assertEqual(self.shaped[-1], Handles(0.2, 0.1, 0.79, 1.0))

    def test_points_stay_in_order(self) -> None:
        self.canvas.curve = Points(((0, 0), (0.3, 0.5), (0.6, 0.7), (1, 1)))
        drag(self.canvas, self.canvas.place_of((0.3, 0.5)), self.canvas.place_of((0.9, 0.2)))
        self.assertEqual(self.shaped[-1].points[1][0], 0.6)

    def test_the_bench_reads_text_and_numbers(self) -> None:
        bench = CurveEditor(Theme())
        chosen, refused, shaped = [], [], []
        bench.chosen.connect(chosen.append)
        bench.refused.connect(refused.append)
        bench.shaped.connect(shaped.append)
        from avelt.core.edits.project import new_project

        bench.show_cue(new_project("x"), "s", "o", Spring(0.2), Spring(0.2), None, 0, 100, True)
        bench.show()
        type_into(bench.words, "cubic-bezier(.1,.2,.3,.4)")
        self.assertEqual(chosen, [Handles(0.1, 0.2, 0.3, 0.4)])
        type_into(bench.words, "wobbly")
        self.assertEqual(len(refused), 1)
        type_into(bench.numbers[0], "0.5")
        self.assertEqual(shaped[-1], Spring(0.5))
        self.assertIn("Overshoots", bench.readout[0].text())
        bench.close()
        bench.deleteLater()


class Clocks(unittest.TestCase):
    def test_it_goes_at_its_speed_and_stops_at_the_end(self) -> None:
        clock = Clock()
        clock.set_duration(100.0)
        clock.loop = False
        clock.speed = 0.25
        clock.advance(40)
        self.assertEqual(clock.ms, 10)
        clock.advance(4000)
        self.assertEqual((clock.ms, clock.playing), (100, False))

    def test_it_catches_up_only_while_it_plays(self) -> None:
        clock, seen = Clock(), []
        clock.set_duration(100.0)
        clock.ticked.connect(seen.append)
        self.assertFalse(clock.catch_up())
        self.assertEqual((seen, clock.playing), ([], False))
        clock.play()
        with mock.patch.object(clock, "_since", mock.Mock(nsecsElapsed=lambda: 7_000_000)):
            self.assertTrue(clock.catch_up())
        self.assertEqual(seen, [7.0])
        clock.stop()

    def test_a_loop_rests_at_its_end_and_begins_again(self) -> None:
        clock = Clock()
        clock.set_duration(100.0)
        for _ in range(11):
            clock.advance(50)
        self.assertEqual(clock.ms, 0)

    def test_stepping_and_seeking(self) -> None:
        clock, seen = Clock(), []
        clock.ticked.connect(seen.append)
        clock.set_duration(100.0)
        clock.seek(50)
        clock.step(1)
        clock.step(-2)
        clock.seek(500)
        self.assertEqual([round(ms, 1) for ms in seen], [50, 67, 33, 100])

    def test_steps_are_frames_at_a_rate_and_what_stops_is_whole(self) -> None:
        clock = Clock()
        clock.set_duration(300.0)
        clock.rate = 24
        found = []
        for _ in range(4):
            clock.step(1)
            found.append(clock.ms)
        self.assertEqual(found, [42, 83, 125, 167])
        clock.play()
        clock.advance(0.4)
        clock.stop()
        self.assertEqual(clock.ms, 167)
        clock.seek(12.5)
        self.assertEqual(clock.ms, 12.5)


class Finding(unittest.TestCase):
    def test_the_best_comes_first(self) -> None:
        hits = [Hit(words, "x", lambda: None) for words in ("Save as…", "Save", "Grey Stack card", "Sandray card")]
        self.assertEqual(ranked(hits, "save")[0].words, "Save")
        self.assertEqual(ranked(hits, "gray stak")[0].words, "Grey Stack card")
        self.assertEqual(len(ranked(hits, "")), 4)
        self.assertEqual(ranked(hits, "qqqqq"), [])


def contrast(first: str, second: str) -> float:
    """WCAG 2.2 contrast ratio of two colours."""

    def light(text: str) -> float:
        channels = [int(text[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    a, b = sorted((light(first), light(second)), reverse=True)
    return (a + 0.05) / (b + 0.05)


class Contrast(unittest.TestCase):
    def test_text_can_be_read_on_every_ground(self) -> None:
        for palette in (LIGHT, DARK):
            for ground in (palette.desk, palette.bar, palette.sheet, palette.chosen):
                for ink in (palette.ink, palette.quiet, palette.leaves_text, palette.arrives_text, palette.trouble):
                    with self.subTest(ground=ground, ink=ink):
                        self.assertGreaterEqual(contrast(ink, ground), 4.5)
            self.assertGreaterEqual(contrast(palette.loop_text, palette.faint), 4.5)
            self.assertGreaterEqual(contrast(palette.sheet, palette.ink), 4.5)
            self.assertGreaterEqual(contrast(palette.ink, palette.differs), 4.5)
