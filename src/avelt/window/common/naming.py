"""Fields are named by the words that stand before them, as people who see them do."""

from __future__ import annotations

from PySide6.QtWidgets import QBoxLayout, QComboBox, QGridLayout, QLabel, QLayout, QLineEdit, QWidget


def name_fields(root: QWidget) -> None:
    """Give every field below a widget that has no name the words of the label before it in its row."""
    fields = [*root.findChildren(QLineEdit), *root.findChildren(QComboBox)]
    holders = {field.parentWidget() for field in fields if not field.accessibleName()}
    for holder in holders:
        layout = holder.layout() if holder is not None else None
        if layout is not None:
            _name_in(layout)


def _name_in(layout: QLayout) -> None:
    before: QLabel | None = None
    row = -1
    for k in range(layout.count()):
        item = layout.itemAt(k)
        if item is None:
            continue
        inner, widget = item.layout(), item.widget()
        if isinstance(layout, QGridLayout):
            place = layout.getItemPosition(k)
            now = int(place[0])  # type: ignore[index]
            before, row = (before, now) if now == row else (None, now)
        if inner is not None:
            _name_in(inner)
            before = None
        elif isinstance(widget, QLabel):
            before = widget
        elif isinstance(widget, QLineEdit | QComboBox):
            if before is not None and before.text() and not widget.accessibleName():
                widget.setAccessibleName(before.text())
            before = before if isinstance(layout, QGridLayout) and not isinstance(layout, QBoxLayout) else None
