"""An old file is opened, worked on and kept: nothing of it is lost, whatever is tried on the way."""

from __future__ import annotations

import json
import shutil
import unittest
import unittest.mock
import zipfile
from pathlib import Path

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avelt.core.formats.project_file import open_project
from avelt.core.model.values import FORMAT
from tests.support import WindowCase, drag, send

FILES = Path(__file__).resolve().parent.parent / "files"


class AnOldFile(WindowCase, unittest.TestCase):
    """In one window, from format 3 to format 4."""

    def test_the_afternoon(self) -> None:
        self.path = Path(self.folder.name) / "rich.avelt"
        shutil.copy(FILES / "format_3.avelt", self.path)
        self.walk(
            self.open_what_was_made_long_ago,
            self.begin_a_drag_and_think_better_of_it,
            self.drag_for_good_and_save,
            self.try_a_file_with_something_unknown,
            self.find_all_of_it_again,
        )

    def open_what_was_made_long_ago(self) -> None:
        self.assertTrue(self.window.open_file(self.path))
        self.assertEqual(len(self.project.routes), 16)
        self.window.go("timing")
        self.workspace.choose_route("r1")
        self.settle()
        self.station = self.window.stations["timing"]
        self.body = self.station.sheet.body
        self.assertIn("Card", {row.left_name for row in self.body.rows})
        self.assertEqual(len(self.body.staggers), 2)

    def ribbon(self) -> QPointF:
        place = next(k for k, row in enumerate(self.body.rows) if row.changes and not row.timed.hung)
        return self.body.ribbon_rect(place).center()

    def begin_a_drag_and_think_better_of_it(self) -> None:
        before = self.project
        start = self.ribbon()
        send(self.body, QEvent.Type.MouseButtonPress, start)
        send(self.body, QEvent.Type.MouseMove, start + QPointF(30, 0))
        self.assertIsNot(self.project, before)
        QTest.keyClick(QApplication.focusWidget() or self.body, Qt.Key.Key_Escape)
        send(self.body, QEvent.Type.MouseButtonRelease, start + QPointF(30, 0), down=False)
        self.assertIs(self.project, before)
        self.assertEqual(self.workspace.session.undo_label, "")

    def drag_for_good_and_save(self) -> None:
        before = self.project
        start = self.ribbon()
        drag(self.body, start, start + QPointF(30, 0))
        self.assertIsNot(self.project, before)
        self.assertTrue(self.window.save_to(self.path))
        with zipfile.ZipFile(self.path) as archive:
            document = json.loads(archive.read("project.json"))
        self.assertEqual(document["format"], FORMAT)
        self.assertNotIn("wait", document["routes"][0])
        self.assertEqual(document["routes"][0]["delay"], 120.0)

    def try_a_file_with_something_unknown(self) -> None:
        odd = Path(self.folder.name) / "odd.avelt"
        with zipfile.ZipFile(self.path) as source, zipfile.ZipFile(odd, "w") as made:
            for entry in source.infolist():
                data = source.read(entry)
                if entry.filename == "project.json":
                    data = data.replace(b'"delay":120.0', b'"delay":120.0,"later":true')
                made.writestr(entry, data)
        open_now, said = self.project, []
        self.workspace.said.connect(said.append)
        with unittest.mock.patch.object(self.window, "say", said.append):
            self.assertFalse(self.window.open_file(odd))
        self.assertIn("later", said[-1])
        self.assertIn("routes[0]", said[-1])
        self.assertIs(self.project, open_now)

    def find_all_of_it_again(self) -> None:
        self.assertEqual(open_project(self.path), self.project)
        while self.workspace.session.undo_label:
            self.window.do("undo")
        self.assertEqual(self.project, open_project(FILES / "format_3.avelt"))
