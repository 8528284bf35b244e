"""The demo project as it is shipped: written once by ``tools/demo_file.py``, so that opening it reads no SVG."""

from __future__ import annotations

from importlib.resources import files

from avelt.core.formats.project_file import unpack
from avelt.core.model.values import Project

NAME = "Skerry Line.avelt"


def shipped_demo() -> Project:
    """The demo."""
    return unpack(files("avelt.demo").joinpath(NAME).read_bytes(), NAME)
