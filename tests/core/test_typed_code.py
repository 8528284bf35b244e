"""Code that was typed into: times and curves go back into their cues, all else is refused with its line."""

from __future__ import annotations

import re
import unittest

from avelt.core.edits.typed_code import take_typed
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.handoff.css_back import typed
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.web import css_folder
from avelt.core.model.curves import Handles
from avelt.core.model.find import find_layer, frame_by_id
from avelt.core.model.motion import CueKey, PairKey
from avelt.core.timing.compile import compile_route, pairing_of
from avelt.core.timing.schedule import timed
from avelt.demo.shipped import shipped_demo
from avelt.paint.letters import QtLetters


class Typing(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.project = shipped_demo()
        cls.route = cls.project.routes[0]
        program = compile_route(cls.project, cls.route)
        cls.css = css_folder(program, cls.project, QtLetters(), Wanted(name="m")).files["motion.css"].decode()

    def pair(self, name: str) -> PairKey:
        """The pair of a layer that enters or is shared, by its name there."""
        layer = find_layer(frame_by_id(self.project, self.route.arrives), name).id
        return PairKey(pairing_of(self.project, self.route).from_of.get(layer), layer)

    def when(self, project: object, name: str, prop: str = "") -> tuple[float, float]:
        found = timed(project, project.routes[0].transition, *CueKey(*self.pair(name), prop))
        return found.start, found.end

    def take(self, new: str) -> object:
        return take_typed(self.project, self.route.id, typed(self.css, new))

    def line(self, name: str, what: str = "") -> str:
        """The first animation row of a layer."""
        rule = self.css[self.css.index(f"/* {name} */") :]
        return next(line for line in rule.split("\n") if re.search(rf"{what} var\(|{what} \d", line))

    def test_nothing_typed_is_nothing_changed(self) -> None:
        self.assertEqual(typed(self.css, self.css), [])

    def test_a_delay_of_one_layer(self) -> None:
        line = self.line("Hero card", "position")
        self.assertIn(" 130ms both", line)
        made = self.take(self.css.replace(line, line.replace("130ms", "90ms"), 1))
        self.assertEqual(self.when(made, "Hero card"), (90.0, 440.0))
        self.assertEqual(self.when(made, "Island"), self.when(self.project, "Island"))

    def test_a_length_and_a_curve_written_out(self) -> None:
        line = self.line("Hero card", "position")
        new = re.sub(r"var\(--length-\d+\)", "0.2s", line)
        new = re.sub(r"var\(--curve-\d+\)", "cubic-bezier(0.4, 0, 0.6, 1)", new)
        made = self.take(self.css.replace(line, new, 1))
        self.assertEqual(self.when(made, "Hero card"), (130.0, 330.0))
        found = timed(made, made.routes[0].transition, *self.pair("Hero card"), "")
        self.assertEqual(found.plain, Handles(0.4, 0.0, 0.6, 1.0))

    def test_one_property_of_several(self) -> None:
        line = self.line("Grey Stack far hill", "shape")
        made = self.take(self.css.replace(line, line.replace("130ms", "160ms"), 1))
        self.assertEqual(self.when(made, "Grey Stack far hill", "shape"), (160.0, 510.0))
        self.assertEqual(self.when(made, "Grey Stack far hill", "position"), (130.0, 480.0))

    def test_a_shared_length_changes_all_that_use_it(self) -> None:
        number = re.search(r"--length-(\d+): 110ms", self.css).group(1)
        changes = typed(self.css, self.css.replace(f"--length-{number}: 110ms", f"--length-{number}: 95ms"))
        self.assertEqual([(change.layer, change.end - change.start) for change in changes], [("Header", 95.0)])

    def refused(self, new: str) -> str:
        with self.assertRaises(AveltError) as caught:
            self.take(new)
        return str(caught.exception)

    def test_what_cannot_be_taken_is_said_with_its_line(self) -> None:
        number = self.css[: self.css.index("@keyframes")].count("\n") + 1
        self.assertIn(
            f"line {number + 1}", self.refused(self.css.replace(self.css.split("\n")[number], "  from { top: 3px }", 1))
        )
        line = self.line("Hero card", "position")
        self.assertIn("no time", self.refused(self.css.replace("--length-1: 480ms", "--length-1: soon", 1)))
        self.assertIn("Only lengths", self.refused(self.css.replace(line, line.replace("both", "none"), 1)))
        self.assertIn("Only lengths", self.refused(self.css + "\nbody { color: red }"))
        self.assertIn(
            "line", self.refused(self.css.replace(line, re.sub(r"var\(--curve-\d+\)", "cubic-bezier(9)", line), 1))
        )

    def test_loops_and_what_is_of_no_layer(self) -> None:
        loop = next(line for line in self.css.split("\n") if " infinite " in line)
        with self.assertRaises(FormatError) as caught:
            typed(self.css, self.css.replace(loop, re.sub(r"var\(--length-\d+\)", "99ms", loop), 1))
        self.assertIn("Loops", str(caught.exception))
        inner = next(line for line in self.css.split("\n") if "stop-color var(" in line)
        changes = typed(self.css, self.css.replace(inner, inner.replace(" 0ms", " 7ms"), 1))
        with self.assertRaises(EditError):
            take_typed(self.project, self.route.id, changes)


if __name__ == "__main__":
    unittest.main()
