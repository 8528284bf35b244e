"""Who may import whom, and the sizes that keep rooms readable."""

import ast
import unittest
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src" / "avelt"
WINDOW_PACKAGES = {"PySide6", "PySide2", "PyQt5", "PyQt6", "shiboken6", "tkinter", "gi", "wx"}
#: Inside the core: each room and the rooms it may not know.
ABOVE = {
    "model": {"curves", "blending", "pairing", "timing", "running", "presets", "edits", "formats"},
    "geometry": {"curves", "blending", "pairing", "timing", "running", "presets", "edits", "formats"},
    "curves": {"blending", "pairing", "timing", "running", "presets", "edits", "formats"},
    "blending": {"pairing", "timing", "running", "presets", "edits", "formats"},
    "pairing": {"timing", "running", "presets", "edits", "formats"},
    "timing": {"running", "presets", "edits", "formats"},
}


def imports(path: Path) -> set[str]:
    """Every module that a file imports, also inside functions."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
            found |= {f"{node.module}.{alias.name}" for alias in node.names}
    return found


class ImportRules(unittest.TestCase):
    def test_core_knows_no_window_package(self) -> None:
        for path in SRC.glob("core/**/*.py"):
            roots = {name.split(".")[0] for name in imports(path)}
            self.assertFalse(roots & WINDOW_PACKAGES, path)

    def test_rooms_stand_on_each_other_in_one_direction(self) -> None:
        for path in SRC.glob("core/**/*.py"):
            names = imports(path)
            self.assertFalse([n for n in names if n.startswith(("avelt.paint", "avelt.window", "avelt.cli"))], path)
        for path in SRC.glob("paint/**/*.py"):
            self.assertFalse([n for n in imports(path) if n.startswith(("avelt.window", "avelt.cli"))], path)

    def test_inside_the_core_nothing_looks_up(self) -> None:
        for room, above in ABOVE.items():
            for path in (SRC / "core" / room).glob("*.py"):
                known = {n.split(".")[2] for n in imports(path) if n.startswith("avelt.core.") and n.count(".") > 1}
                self.assertFalse(known & above, path)

    def test_modules_stay_readable(self) -> None:
        for path in SRC.glob("**/*.py"):
            self.assertLessEqual(len(path.read_text().splitlines()), 530, path)

    def test_every_public_function_of_the_core_says_what_it_does(self) -> None:
        for path in SRC.glob("core/**/*.py"):
            tree = ast.parse(path.read_text())
            self.assertTrue(path.name == "__init__.py" or ast.get_docstring(tree), path)
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    self.assertTrue(ast.get_docstring(node), f"{path}: {node.name}")
