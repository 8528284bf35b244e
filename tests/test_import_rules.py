"""Who may import whom: every room is named, nothing looks up, and no file is in a circle."""

from __future__ import annotations

import ast
import unittest
from pathlib import Path

SRC = Path(__file__).resolve().parent.parent / "src" / "avelt"
WINDOW_PACKAGES = {"PySide6", "PySide2", "PyQt5", "PyQt6", "shiboken6", "tkinter", "gi", "wx"}
#: Every room and the rooms that it may know, beside itself. A new room is a row; ``tests/`` and ``bench/`` know all.
ROOMS: dict[str, str] = {
    "core.errors": "",
    "core.stopping": "",
    "core.arrays": "",
    "core.turns": "",
    "core.cache": "core.turns",
    "core.record": "",
    "core.words": "",
    "core.logs": "",
    "core.model": "core.errors core.cache",
    "core.geometry": "core.errors core.cache core.model",
    "core.curves": "core.errors core.model core.geometry",
    "core.blending": "core.errors core.model core.geometry core.curves",
    "core.pairing": "core.errors core.turns core.model core.geometry core.curves core.blending",
    "core.timing": "core.errors core.turns core.cache core.model core.geometry core.curves core.blending core.pairing",
    "core.running": "core.errors core.cache core.model core.geometry core.timing",
    "core.checks": "core.errors core.model core.geometry core.curves core.blending core.pairing core.timing core.running",
    "core.formats": "core.errors core.stopping core.model core.geometry core.curves core.blending core.timing",
    "core.edits": "core.errors core.model core.geometry core.curves core.blending core.pairing core.timing core.formats",
    "core.steps": "core.errors core.model core.geometry core.curves core.blending core.pairing core.timing core.formats "
    "core.edits",
    "core.presets": "core.errors core.record core.model core.geometry core.curves core.blending core.pairing core.timing core.formats core.edits",
    "core.handoff": "core.errors core.cache core.model core.geometry core.curves core.blending core.timing core.running",
    "paint": "core.*",
    "browser": "core.errors core.stopping",
    "deliver": "core.* paint",
    "verify": "core.* paint browser deliver",
    "demo": "core.*",
    "desktop": "core.errors core.record core.formats",
    "window.theme": "paint",
    "window.common": "core.* paint window.theme",
    "window.controls": "core.* paint window.theme window.common",
    "window.frames": "core.* paint window.theme window.common window.controls",
    "window.routes": "core.* paint window.theme window.common window.controls",
    "window.pairs": "core.* paint window.theme window.common window.controls",
    "window.timing": "core.* paint window.theme window.common window.controls",
    "window.loops": "core.* paint window.theme window.common window.controls",
    "window.rehearse": "core.* paint deliver window.theme window.common window.controls",
    "window.handoff": "core.* paint browser deliver verify window.theme window.common window.controls",
    "window.checks": "core.* window.theme window.common window.controls",
    "window.shelf": "core.* paint window.theme window.common window.controls",
    "window.shell": "core.* paint demo window.*",
    "window.start": "core.* paint demo window.*",
    "tools": "core.* paint browser deliver demo window.*",
    "cli": "core.* paint browser deliver verify demo desktop tools window.start window.common",
}


def module_of(path: Path) -> str:
    """The dotted name of a file below ``avelt``."""
    return ".".join(path.relative_to(SRC).with_suffix("").parts).removesuffix(".__init__")


MODULES = {module_of(path): path for path in SRC.rglob("*.py")}


def room_of(module: str) -> str:
    """The room that a module lies in; the files of the command line are one room."""
    parts = module.split(".")
    if parts[0] in ("core", "window"):
        return ".".join(parts[:2])
    return "cli" if parts[0].startswith("cli") or parts[0] == "__main__" else parts[0]


def imports(path: Path) -> set[str]:
    """Every module that a file imports: for types and inside functions too."""
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
            found |= {f"{node.module}.{alias.name}" for alias in node.names}
    return found


def own_imports(module: str) -> set[str]:
    """The modules of Avelt that a module imports; a package's own ``__init__`` is none."""
    names = {name.removeprefix("avelt.") for name in imports(MODULES[module]) if name.startswith("avelt.")}
    return {name for name in names if name in MODULES and MODULES[name].name != "__init__.py"}


def circles(graph: dict[str, set[str]]) -> list[list[str]]:
    """The strongly connected groups of more than one module (Tarjan)."""
    number: dict[str, int] = {}
    low: dict[str, int] = {}
    pile: list[str] = []
    found: list[list[str]] = []

    def visit(module: str) -> None:
        number[module] = low[module] = len(number)
        pile.append(module)
        for other in graph[module]:
            if other not in number:
                visit(other)
            if other in pile:
                low[module] = min(low[module], low[other])
        if low[module] == number[module]:
            group = pile[pile.index(module) :]
            del pile[pile.index(module) :]
            if len(group) > 1:
                found.append(group)

    for module in graph:
        if module not in number:
            visit(module)
    return found


class ImportRules(unittest.TestCase):
    def test_core_knows_no_window_package(self) -> None:
        for path in SRC.glob("core/**/*.py"):
            roots = {name.split(".")[0] for name in imports(path)}
            self.assertFalse(roots & WINDOW_PACKAGES, path)

    def test_every_room_is_named_and_knows_only_what_it_may(self) -> None:
        for module in MODULES:
            room = room_of(module)
            if MODULES[module].name == "__init__.py" and room not in ROOMS:
                continue
            self.assertIn(room, ROOMS, module)
            allowed = [*ROOMS[room].split(), "core.arrays", "core.record", "core.words"]
            for other in own_imports(module):
                known = room_of(other)
                may = known == room or any(
                    known == entry or (entry.endswith("*") and known.startswith(entry[:-1])) for entry in allowed
                )
                self.assertTrue(may, f"{module} imports {other}")

    def test_numpy_is_loaded_by_one_module_only(self) -> None:
        """As a module is imported; its rarer pieces are imported by the functions that need them."""
        for module, path in MODULES.items():
            top = [
                node
                for node in ast.parse(path.read_text(encoding="utf-8")).body
                if isinstance(node, ast.ImportFrom | ast.Import)
            ]
            names = {alias.name for node in top for alias in node.names} | {getattr(node, "module", "") for node in top}
            self.assertFalse({str(name).split(".")[0] for name in names} & {"numpy"}, module)

    def test_there_is_no_circle(self) -> None:
        self.assertEqual(circles({module: own_imports(module) - {module} for module in MODULES}), [])

    def test_a_circle_would_be_found(self) -> None:
        self.assertEqual(len(circles({"a": {"b"}, "b": {"c"}, "c": {"a"}, "d": {"a"}})), 1)
        self.assertEqual(circles({"a": {"b"}, "b": {"c"}, "c": set()}), [])

    def test_modules_stay_readable(self) -> None:
        for path in SRC.glob("**/*.py"):
            self.assertLessEqual(len(path.read_text(encoding="utf-8").splitlines()), 530, path)

    def test_every_public_function_of_the_core_says_what_it_does(self) -> None:
        for path in SRC.glob("core/**/*.py"):
            tree = ast.parse(path.read_text(encoding="utf-8"))
            self.assertTrue(path.name == "__init__.py" or ast.get_docstring(tree), path)
            for node in tree.body:
                if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_"):
                    self.assertTrue(ast.get_docstring(node), f"{path}: {node.name}")
