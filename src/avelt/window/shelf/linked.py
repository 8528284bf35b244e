"""Linked presets in the window: taking what changed on the shelf, and what can be done with each use."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QMenu

from avelt.core.errors import AveltError
from avelt.core.presets import team
from avelt.core.presets.links import cut_loose, refreshed, reset, uses
from avelt.core.presets.shelf import built_in
from avelt.core.presets.where_used import used
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace


def take_changed(workspace: Workspace) -> None:
    """Presets that the project links to were changed on the shelf: all their uses change, as one entry that is said."""
    if not workspace.whole.presets:
        return
    try:
        shared = team.published(workspace.shelf)
    except AveltError:
        shared = ()
    presets = (*shared, *workspace.shelf.read().presets, *built_in())
    first = {preset.name: preset for preset in reversed(presets)}  # of one name: the team's, then mine
    if not refreshed(workspace.whole, first.values())[1]:
        return
    names = workspace.make_of_all(tr("take changed presets"), lambda project: refreshed(project, first.values()))
    if names:
        workspace.said.emit(tr("Changed on the shelf, and here: {names}.", names=", ".join(names)))


def add_uses(menu: QMenu, workspace: Workspace, name: str) -> None:
    """The linked uses of a preset: those in this project with what on each is its own, back to the preset, cut loose;
    and the other files that use it."""
    for use in uses(workspace.whole, name):
        own = tr("own {own}", own=", ".join(use.own)) if use.own else tr("as the preset")
        inner = menu.addMenu(f"{use.where}: {own}")
        back = inner.addAction(tr("As the preset again"), partial(_back, workspace, use.link.id))
        back.setEnabled(bool(use.own))
        inner.addAction(tr("Cut loose"), partial(_loose, workspace, use.link.id))
    for file, count in used().get(name, {}).items():
        if workspace.path is None or Path(file) != workspace.path.absolute():
            menu.addAction(tr("In {file}: {n} uses", "In {file}: {n} use", count, file=Path(file).name)).setEnabled(
                False
            )


def _back(workspace: Workspace, link: str) -> None:
    workspace.make_of_all(tr("take own changes back"), lambda project: (reset(project, link), True))


def _loose(workspace: Workspace, link: str) -> None:
    workspace.make_of_all(tr("cut loose"), lambda project: (cut_loose(project, [link]), True))
