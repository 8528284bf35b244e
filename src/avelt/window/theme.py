"""Colours, type and the style sheet: paper and ink, light and dark."""

from __future__ import annotations

from msgspec.structs import fields
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPalette, QPen, QPixmap
from PySide6.QtWidgets import QApplication

from avelt.core.record import Record
from avelt.paint.fonts import HOUSE_FAMILY, load_window_font


class Palette(Record, frozen=True):
    """One colour a role; see docs/architecture.md for what the four accents mean."""

    desk: str
    bar: str
    sheet: str
    line: str
    faint: str
    ink: str
    quiet: str
    leaves: str
    leaves_text: str
    arrives: str
    arrives_text: str
    now: str
    loop: str
    loop_text: str
    loop_light: str
    chosen: str
    trouble: str
    differs: str
    ribbon_from: str
    ribbon_to: str
    hatch: str


LIGHT = Palette(
    desk="#EFEBE2",
    bar="#F6F3EB",
    sheet="#FFFEFB",
    line="#D9D2C3",
    faint="#ECE6D8",
    ink="#22302F",
    quiet="#5E6A67",
    leaves="#C9681C",
    leaves_text="#A84F0C",
    arrives="#0E7C74",
    arrives_text="#0B6B64",
    now="#8E2F5C",
    loop="#6B7F2E",
    loop_text="#5A6A22",
    loop_light="#A9B97A",
    chosen="#F3ECDD",
    trouble="#B0261E",
    differs="#DDEBE8",
    ribbon_from="#E8BA8C",
    ribbon_to="#8FC7C0",
    hatch="#CFC6B2",
)
DARK = Palette(
    desk="#171C1C",
    bar="#1D2323",
    sheet="#222929",
    line="#364040",
    faint="#2A3232",
    ink="#EDE8DC",
    quiet="#9DA8A4",
    leaves="#E58A43",
    leaves_text="#E58A43",
    arrives="#3DB3A9",
    arrives_text="#3DB3A9",
    now="#DB79A8",
    loop="#A5BC5B",
    loop_text="#A5BC5B",
    loop_light="#66753B",
    chosen="#2E3533",
    trouble="#F0776D",
    differs="#233B39",
    ribbon_from="#8A5A34",
    ribbon_to="#2C746E",
    hatch="#4A5450",
)


class Theme(QObject):
    """The palette in use, as ready colours. One object is made at the start and handed to whoever paints."""

    changed = Signal()

    def __init__(self, dark: bool = False) -> None:
        super().__init__()
        self.dark = dark

    @property
    def palette(self) -> Palette:
        """The colours as text."""
        return DARK if self.dark else LIGHT

    def __getattr__(self, role: str) -> QColor:
        if role.startswith("_") or role not in _ROLES:
            raise AttributeError(role)
        return QColor(getattr(self.palette, role))

    def use(self, app: QApplication, dark: bool) -> None:
        """Take over a palette in the whole application."""
        self.dark = dark
        load_window_font()
        app.setFont(font(12.5))
        app.setPalette(_qt_palette(self.palette))
        app.setStyleSheet(style_sheet(self.palette))
        self.changed.emit()

    def hatch(self) -> QBrush:
        """The diagonal hatch that means waiting."""
        tile = QPixmap(8, 8)
        tile.fill(Qt.GlobalColor.transparent)
        painter = QPainter(tile)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.hatch_line, 1.6))
        for shift in (-8, 0, 8):
            painter.drawLine(shift, 8, shift + 8, 0)
        painter.end()
        return QBrush(tile)

    @property
    def hatch_line(self) -> QColor:
        """The colour of the hatch's lines."""
        return QColor(self.palette.hatch)


_ROLES = frozenset(field.name for field in fields(Palette)) - {"hatch"}


def font(size: float, weight: int = 400, tabular: bool = True) -> QFont:
    """The house font at a px size, with figures of one width."""
    made = QFont([HOUSE_FAMILY, "Sans Serif"])
    made.setPixelSize(round(size))
    if size != round(size):
        made.setPointSizeF(size * 72.0 / 96.0)
    made.setWeight(QFont.Weight(weight))
    if tabular:
        made.setFeature(QFont.Tag("tnum"), 1)
    return made


def _qt_palette(p: Palette) -> QPalette:
    made = QPalette()
    role = QPalette.ColorRole
    for key, text in (
        (role.Window, p.desk),
        (role.WindowText, p.ink),
        (role.Base, p.sheet),
        (role.AlternateBase, p.bar),
        (role.Text, p.ink),
        (role.Button, p.sheet),
        (role.ButtonText, p.ink),
        (role.Highlight, p.ink),
        (role.HighlightedText, p.sheet),
        (role.ToolTipBase, p.sheet),
        (role.ToolTipText, p.ink),
        (role.PlaceholderText, p.quiet),
        (role.Link, p.arrives_text),
    ):
        made.setColor(key, QColor(text))
    for key in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, key, QColor(p.line))
    return made


def style_sheet(p: Palette) -> str:
    """The style of all standard controls."""
    return _surfaces(p) + _controls(p) + _views(p)


def _surfaces(p: Palette) -> str:
    return f"""
    QWidget {{ color: {p.ink}; }}
    QMainWindow, QDialog {{ background: {p.desk}; }}
    QToolTip {{ background: {p.sheet}; color: {p.ink}; border: 1px solid {p.line}; padding: 4px 6px; }}
    QLabel {{ background: transparent; }}
    QLabel[role="quiet"] {{ color: {p.quiet}; }}
    QLabel[role="caption"] {{ color: {p.quiet}; font-size: 11px; }}
    QLabel[role="heading"] {{ font-size: 13px; font-weight: 700; }}
    QLabel[role="big"], QLineEdit[role="big"] {{ font-size: 26px; font-weight: 700; }}
    QLineEdit[role="big"] {{ background: transparent; border-color: transparent; padding: 0; }}
    QLineEdit[role="big"]:hover {{ border-color: {p.line}; }}
    QLineEdit[role="big"]:focus {{ border-color: {p.now}; background: {p.sheet}; }}
    QLabel[role="leaves"] {{ color: {p.leaves_text}; font-weight: 600; }}
    QLabel[role="arrives"] {{ color: {p.arrives_text}; font-weight: 600; }}
    QLabel[role="trouble"] {{ color: {p.trouble}; }}
    QFrame[role="panel"] {{ background: {p.sheet}; border: 1px solid {p.line}; border-radius: 10px; }}
    QFrame[role="topbar"] {{ background: {p.sheet}; border: 0; border-bottom: 1px solid {p.line}; }}
    QFrame[role="bar"] {{ background: {p.bar}; border: 0; border-bottom: 1px solid {p.line}; }}
    """


def _controls(p: Palette) -> str:
    return f"""
    QPushButton, QToolButton {{
        background: {p.sheet}; border: 1px solid {p.line}; border-radius: 6px; padding: 4px 11px; min-height: 19px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {p.quiet}; }}
    QPushButton:focus, QToolButton:focus {{ border-color: {p.now}; }}
    QPushButton:pressed, QToolButton:pressed {{ background: {p.chosen}; }}
    QPushButton:checked, QPushButton[role="strong"] {{
        background: {p.ink}; color: {p.sheet}; border-color: {p.ink}; }}
    QPushButton[role="strong"]:focus, QPushButton:checked:focus {{ border-color: {p.now}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {p.quiet}; background: {p.bar}; border-color: {p.faint}; }}
    QPushButton[role="quiet"] {{ background: transparent; border-color: transparent; color: {p.quiet}; }}
    QPushButton[role="quiet"]:hover {{ color: {p.ink}; border-color: {p.line}; }}
    QPushButton[role="quiet"]:focus {{ border-color: {p.now}; }}
    QPushButton[role="status"] {{
        background: transparent; border: 1px solid transparent; padding: 0 14px; color: {p.quiet}; font-size: 12px;
        min-height: 0; border-radius: 0; }}
    QPushButton[role="status"]:hover {{ color: {p.ink}; }}
    QPushButton[role="status"]:focus {{ border-color: {p.now}; }}
    QToolButton[role="flat"] {{
        background: transparent; border: 1px solid transparent; padding: 3px 7px; color: {p.quiet}; }}
    QToolButton[role="flat"]:hover {{ color: {p.ink}; border-color: {p.line}; }}
    QToolButton[role="flat"]:focus {{ border-color: {p.now}; }}
    QToolButton[role="station"] {{
        background: transparent; border: 1px solid transparent; border-radius: 13px; padding: 3px 10px;
        color: {p.ink}; }}
    QToolButton[role="station"]:hover {{ background: {p.faint}; }}
    QToolButton[role="station"]:focus {{ border-color: {p.now}; }}
    QToolButton[role="station"]:checked {{ background: {p.ink}; color: {p.sheet}; }}
    QPushButton[room="narrow"] {{ padding: 4px 8px; }}
    QPushButton[room="tight"] {{ padding: 4px 5px; }}
    QPushButton[room="low"] {{ padding: 2px 10px; }}
    QPushButton[room="none"] {{ padding: 0; }}
    QPushButton[room="line"] {{ text-align: left; }}
    QToolButton[room="tight"] {{ padding: 4px 2px; }}
    QToolButton::menu-indicator {{ image: none; width: 0; }}
    QPushButton::menu-indicator {{ image: none; width: 0; }}
    QLineEdit, QComboBox, QSpinBox {{
        background: {p.sheet}; border: 1px solid {p.line}; border-radius: 6px; padding: 3px 8px; min-height: 19px;
        selection-background-color: {p.ink}; selection-color: {p.sheet}; }}
    QLineEdit:focus, QComboBox:focus {{ border-color: {p.now}; }}
    QLineEdit:disabled, QComboBox:disabled {{ color: {p.quiet}; background: {p.bar}; }}
    QComboBox::drop-down {{ border: 0; width: 18px; }}
    QComboBox QAbstractItemView {{
        background: {p.sheet}; border: 1px solid {p.line}; outline: 0; selection-background-color: {p.chosen};
        selection-color: {p.ink}; }}
    QCheckBox {{ spacing: 7px; }}
    QCheckBox::indicator {{
        width: 13px; height: 13px; border: 1px solid {p.quiet}; border-radius: 3px; background: {p.sheet}; }}
    QCheckBox::indicator:checked {{ background: {p.ink}; border-color: {p.ink}; }}
    QCheckBox:focus {{ color: {p.now}; }}
    QMenu {{ background: {p.sheet}; border: 1px solid {p.line}; padding: 5px; }}
    QMenu::item {{ padding: 5px 26px 5px 14px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {p.chosen}; }}
    QMenu::item:disabled {{ color: {p.quiet}; }}
    QMenu::separator {{ height: 1px; background: {p.faint}; margin: 4px 8px; }}
    """


def _views(p: Palette) -> str:
    return f"""
    QTreeView, QListView, QTableView, QPlainTextEdit {{
        background: transparent; border: 0; outline: 0; selection-background-color: {p.chosen};
        selection-color: {p.ink}; gridline-color: {p.faint}; }}
    QTreeView::item, QListView::item {{ padding: 4px 2px; border: 0; }}
    QTreeView::item:selected, QListView::item:selected {{ background: {p.chosen}; color: {p.ink}; }}
    QTreeView::branch {{ background: transparent; }}
    QTreeView::branch:selected {{ background: {p.chosen}; }}
    QHeaderView::section {{
        background: {p.bar}; border: 0; border-bottom: 1px solid {p.line}; padding: 5px 8px; color: {p.quiet}; }}
    QTableView::item {{ padding: 3px 8px; border: 0; }}
    QTableView::item:selected {{ background: {p.chosen}; }}
    QScrollArea {{ background: transparent; border: 0; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 2px; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 2px; }}
    QScrollBar::handle {{ background: {p.line}; border-radius: 3px; min-height: 24px; min-width: 24px; }}
    QScrollBar::handle:hover {{ background: {p.quiet}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QAbstractScrollArea::corner {{ background: transparent; border: none; }}
    QProgressBar {{ background: {p.faint}; border: 0; border-radius: 4px; height: 8px; text-align: center; }}
    QProgressBar::chunk {{ background: {p.arrives}; border-radius: 4px; }}
    """
