"""The demo project as it is shipped: written once by ``tools/demo_file.py``, so that opening it reads no SVG."""

from __future__ import annotations

from pathlib import Path

from avelt.core.formats.project_file import unpack
from avelt.core.model.values import Project

NAME = "Skerry Line.avelt"


def where() -> Path:
    """The file that the demo is shipped in."""
    return Path(__file__).parent / NAME


def shipped_demo() -> Project:
    """The demo."""
    return unpack(where().read_bytes(), NAME, ours=True)
