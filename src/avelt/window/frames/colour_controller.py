"""The colours panel at work: which paint of which layers it edits, and what it makes of a choice."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtWidgets import QWidget

from avelt.core.edits.layers import edit_layer
from avelt.core.edits.paints import as_kind, with_stop
from avelt.core.edits.shapes import add_swatch, remove_swatch, used_colours
from avelt.core.model.values import Conic, Layer, Linear, Paint, Project, Radial, Solid, Stroke
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace

if TYPE_CHECKING:
    from avelt.window.frames.colours import ColourPanel

replace = msgspec.structs.replace
_KIND: dict[type, str] = {Solid: "solid", Linear: "linear", Radial: "radial", Conic: "conic"}


class ColourController(QObject):
    """Opens the panel on a fill or stroke (or on one colour of its gradient) and carries out what is chosen."""

    pick_wanted = Signal()

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self._over = parent
        self._panel: ColourPanel | None = None
        self.which = ""
        self.stop = 0

    @property
    def panel(self) -> ColourPanel:
        """The panel, made when it is first wanted."""
        if self._panel is None:
            from avelt.window.frames.colours import ColourPanel

            self._panel = panel = ColourPanel(self.workspace.theme, self._over)
            panel.changed.connect(self._changed)
            panel.settled.connect(self.workspace.end_gesture)
            panel.cancelled.connect(self.workspace.cancel_gesture)
            panel.kind_wanted.connect(self._kind)
            panel.pick_wanted.connect(self.pick_wanted)
            panel.swatch_kept.connect(lambda text: self._swatch(add_swatch, text, "keep"))
            panel.swatch_dropped.connect(lambda text: self._swatch(remove_swatch, text, "drop"))
        return self._panel

    def open(self, which: str, point: QPoint) -> None:
        """The chosen layer's fill or stroke; the panel stands above a point of the screen."""
        self.which, self.stop = which, 0
        self._show_at(point)

    def open_stop(self, stop: int, point: QPoint) -> None:
        """One colour of the gradient whose line is shown."""
        self.stop = stop
        self._show_at(point)

    def _show_at(self, point: QPoint) -> None:
        parent = self.panel.parentWidget()
        self.follow(force=True)
        self.panel.adjustSize()
        if parent is not None:
            place = parent.mapFromGlobal(point)
            x = min(max(8, place.x()), parent.width() - self.panel.width() - 8)
            y = min(max(8, place.y() - self.panel.height() - 4), parent.height() - self.panel.height() - 8)
            self.panel.move(x, y)
        self.panel.show()
        self.panel.raise_()
        self.panel.hex.setFocus()
        self.panel.hex.selectAll()

    def close_panel(self) -> None:
        """Put the panel away."""
        self.workspace.end_gesture()
        if self._panel is not None:
            self._panel.hide()

    @property
    def paint(self) -> Paint | None:
        """The paint that is edited."""
        layer = self.workspace.layer
        return _paint_of(layer, self.which) if layer is not None else None

    def follow(self, force: bool = False) -> None:
        """Show what is edited now; the panel goes when nothing is chosen."""
        if not (force or (self._panel is not None and self._panel.isVisible())):
            return
        layer = self.workspace.layer
        if layer is None or not self.which:
            self.panel.hide()
            return
        paint = self.paint
        kind = _KIND.get(type(paint), "none")
        text = "#000000"
        heading = f"{self.which.capitalize()} of {layer.name}"
        if isinstance(paint, Solid):
            text = paint.color
        elif isinstance(paint, Linear | Radial | Conic):
            self.stop = min(self.stop, len(paint.stops) - 1)
            text = paint.stops[self.stop].color
            heading = tr(
                "Colour {stop} of {count}, {which} of {layer}",
                stop=self.stop + 1,
                count=len(paint.stops),
                which=self.which,
                layer=layer.name,
            )
        project = self.workspace.project
        self.panel.show_colour(heading, kind, text, project.swatches, used_colours(project, 24))

    def _edit(self, change: Callable[[Layer], Layer], settle: bool) -> None:
        """All chosen layers changed alike, as a gesture that goes on until it settles."""
        spots = self.workspace.chosen
        layer = self.workspace.layer
        if layer is None:
            return

        def edit(project: Project) -> Project:
            for frame_id, layer_id in spots:
                project = edit_layer(project, frame_id, layer_id, change)
            return project

        words = (
            f"{self.which} of {layer.name}"
            if len(spots) == 1
            else tr("{which} of {count} layers", which=self.which, count=len(spots))
        )
        self.workspace.gesture(words, edit)
        if settle:
            self.workspace.end_gesture()

    def _changed(self, text: str) -> None:
        stop, which = self.stop, self.which

        def change(layer: Layer) -> Layer:
            paint = _paint_of(layer, which)
            if isinstance(paint, Linear | Radial | Conic) and stop < len(paint.stops):
                return _with_paint(layer, which, with_stop(paint, stop, tone=text))
            return _with_paint(layer, which, Solid(text))

        self._edit(change, False)

    def _kind(self, kind: str) -> None:
        which = self.which
        self._edit(lambda x: _with_paint(x, which, as_kind(_paint_of(x, which), kind, x.w, x.h)), True)
        self.stop = 0
        self.follow()

    def picked(self, text: str) -> None:
        """A colour was taken from a frame."""
        self.panel.show()
        self.panel.take(text)

    def _swatch(self, edit: Callable[[Project, str], Project], text: str, verb: str) -> None:
        self.workspace.do(tr("{verb} a swatch", verb=verb), lambda p: edit(p, text))
        self.follow()


def _paint_of(layer: Layer, which: str) -> Paint | None:
    if which == "fill":
        return layer.fills[-1] if layer.fills else None
    return layer.stroke.paint if layer.stroke is not None else None


def _with_paint(layer: Layer, which: str, paint: Paint | None) -> Layer:
    if which == "fill":
        return replace(layer, fills=(*layer.fills[:-1], paint) if paint is not None else layer.fills[:-1])
    if paint is None:
        return replace(layer, stroke=None)
    return replace(layer, stroke=replace(layer.stroke or Stroke(paint), paint=paint))
