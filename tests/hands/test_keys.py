"""Every key of docs/keys.md, pressed on a real display, does what the table says."""

from __future__ import annotations

import unittest
from typing import Any

import msgspec
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QLineEdit

from avelt.core.edits.frames import rename_frame
from avelt.window.controls.fields import NumberField
from avelt.window.frames.actions import ACTIONS
from avelt.window.shell.commands import COMMANDS, STATIONS
from avelt.window.shell.station_keys import STATION_KEYS
from tests.hands.hands import Case, Hands, as_xdotool
from tests.xvfb import needs_hands, run_in_xvfb


class Keys(Hands, Case):  # type: ignore[misc]
    def heard(self, entries: Any) -> list[str]:
        """What the entries of a table are asked to do from now on; they only say so."""
        found: list[str] = []
        for entry in entries:
            before = entry.do
            msgspec.structs.force_setattr(entry, "do", lambda _, words=entry.words: found.append(words))
            self.addCleanup(msgspec.structs.force_setattr, entry, "do", before)
        return found

    def press_all(self, entries: Any, found: list[str]) -> None:
        for entry in entries:
            if entry.keys:
                found.clear()
                self.key(entry.keys)
                self.assertEqual(found, [entry.words], entry.keys)

    def test_keys_of_the_window(self) -> None:
        found: list[str] = []
        frame = self.window.workspace.project.frames[0].id
        for name in ("One", "Two"):
            self.window.workspace.do("rename", lambda p, name=name: rename_frame(p, frame, name))
        self.window.do("undo")
        self.window.do = found.append  # type: ignore[assignment, method-assign]
        for command in COMMANDS:
            if command.keys:
                with self.subTest(command.id):
                    found.clear()
                    self.key(command.keys)
                    self.assertEqual(found, [command.id])

    def test_keys_of_stations_in_their_view_and_in_their_lists(self) -> None:
        for ident, _ in STATIONS:
            entries = STATION_KEYS.get(ident, ())
            self.window.go(ident)
            self.settle()
            found = self.heard(entries)
            self.press_all(entries, found)
            lists = [v for v in self.window.front().findChildren(QAbstractItemView) if v.isVisible() and v.isEnabled()]
            for view in lists:
                with self.subTest(ident, view=view.accessibleName()):
                    view.setFocus()
                    self.press_all([e for e in entries if e.keys in ("Ctrl+C", "Ctrl+V", "Del", "P", "N", "A")], found)

    def test_keys_of_frames(self) -> None:
        self.window.go("frames")
        frames = self.window.stations["frames"]
        frame = self.window.workspace.project.frames[0]
        self.window.workspace.choose(frame.id, frame.layers[-1].id)
        self.settle()
        found = self.heard(ACTIONS)
        self.press_all(ACTIONS, found)
        frames.tree.tree.setFocus()
        self.press_all([a for a in ACTIONS if a.keys in ("Ctrl+C", "Ctrl+V", "Ctrl+D", "Ctrl+G")], found)

    def test_keys_of_stations_lead_there(self) -> None:
        for place, (ident, _) in enumerate(STATIONS, 1):
            self.key(f"Ctrl+{place}")
            self.assertEqual(self.window.current, ident)

    def test_delete_removes_what_is_chosen(self) -> None:
        workspace = self.window.workspace
        frame = workspace.project.frames[0]
        self.window.go("frames")
        for where in ("board", "tree"):
            ident = workspace.project.frames[0].layers[-1].id
            workspace.choose(frame.id, ident)
            view = self.window.stations["frames"]
            (view.board if where == "board" else view.tree.tree).setFocus()
            self.key("Del")
            self.assertNotIn(ident, [layer.id for layer in workspace.project.frames[0].layers], where)

    def test_delete_in_loops_and_pairs(self) -> None:
        workspace = self.window.workspace
        frame = next(frame for frame in workspace.project.frames if frame.loops)
        workspace.choose(frame.id)
        self.window.go("loops")
        self.settle()
        count = len(frame.loops)
        self.key("Del")
        after = next(f for f in workspace.project.frames if f.id == frame.id)
        self.assertEqual(len(after.loops), count - 1)
        self.window.go("pairs")
        self.settle()
        self.window.say("")
        self.key("Del")
        self.assertNotEqual(self.window.said.text(), "")

    def test_space_plays_after_a_list_and_after_a_number(self) -> None:
        self.window.go("timing")
        self.settle()
        clock = self.window.clock()
        front = self.window.front()
        combo = next(c for c in front.findChildren(QComboBox) if c.isVisible() and not c.isEditable() and c.count() > 1)
        combo.setFocus()
        index = combo.currentIndex()
        self.key("Space")
        self.assertTrue(clock.playing)
        self.assertFalse(combo.view().isVisible())
        self.key("Space")
        self.assertFalse(clock.playing)
        self.assertEqual(combo.currentIndex(), index)
        number = next(n for n in front.findChildren(NumberField) if n.isVisible() and n.isEnabled())
        for leave in ("Return", "Esc"):
            number.setFocus()
            number.selectAll()
            self.type("410")
            self.key(leave)
            self.assertFalse(isinstance(self.focus(), QLineEdit), leave)
            self.key("Space")
            self.assertTrue(clock.playing, leave)
            self.key("Space")

    def test_a_space_in_a_text_is_a_space(self) -> None:
        self.window.go("frames")
        field = self.window.stations["frames"].tree.search
        field.setFocus()
        self.type("a b")
        self.assertEqual(field.text(), "a b")


class OnARealDisplay(unittest.TestCase):
    @needs_hands
    def test_every_key(self) -> None:
        run_in_xvfb(self, "tests.hands.test_keys.Keys", hands=True)

    def test_how_keys_are_said(self) -> None:
        said = {k: as_xdotool(k) for k in ("Ctrl+Shift+S", "?", "+", "Ctrl++", "Del", "Shift+Del", "Ctrl+Return", "0")}
        self.assertEqual(
            list(said.values()),
            ["ctrl+shift+s", "question", "plus", "ctrl+plus", "Delete", "shift+Delete", "ctrl+Return", "0"],
        )


if __name__ == "__main__":
    unittest.main()
