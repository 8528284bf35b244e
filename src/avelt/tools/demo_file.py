"""Writes the demo project that is shipped, from its screens and their wiring: ``python -m avelt.tools.demo_file``.

A test holds that it is what ``demo/build.py`` makes.
"""

from __future__ import annotations

from pathlib import Path

from avelt.core.formats.project_file import save_project
from avelt.core.timing.compile import compile_still
from avelt.demo.build import build_demo
from avelt.demo.shipped import NAME
from avelt.paint.fonts import measure_text
from avelt.paint.moving import png_bytes
from avelt.paint.painter import ScenePainter


def write(folder: Path) -> Path:
    """Write it into a folder; gives the file."""
    project = build_demo(measure_text)
    preview = png_bytes(ScenePainter(project.assets).render(compile_still(project.frames[0], project).at(0.0), 0.5))
    path = folder / NAME
    save_project(project, path, preview)
    return path


if __name__ == "__main__":
    print(write(Path(__file__).resolve().parent.parent / "demo"))
