"""A project to begin with."""

from __future__ import annotations

from avelt.core.curves.named import STARTERS
from avelt.core.model.values import Project


def new_project(name: str) -> Project:
    """An empty project with the starting curves."""
    return Project(name, curves=STARTERS)
