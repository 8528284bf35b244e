"""Choosing one of the project's named curves."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QComboBox

from avelt.core.curves.named import title
from avelt.core.model.curves import Curve, Named
from avelt.core.model.values import Project
from avelt.core.words import tr


def show_named(pick: QComboBox, project: Project, curve: Curve) -> None:
    """Fill a choice with the named curves (data: their ids); one that has no name stands last, as own."""
    names = [(entry.name, entry.id) for entry in project.curves]
    if names != [(pick.itemText(k), pick.itemData(k)) for k in range(pick.count())]:
        pick.clear()
        for entry in project.curves:
            pick.addItem(entry.name, entry.id)
            pick.setItemData(pick.count() - 1, entry.note, Qt.ItemDataRole.ToolTipRole)
    if isinstance(curve, Named):
        pick.setCurrentIndex(pick.findData(curve.id))
        return
    pick.addItem(tr("Own: {project}", project=title(project, curve)), None)
    pick.setCurrentIndex(pick.count() - 1)
