"""What the board is about to do: tool, nodes, pen and switches as data, with signals. It knows no widget.

The board paints it, the mouse changes it, and the station's strips show it: none of them needs the others for that.
"""

from __future__ import annotations

from PySide6.QtCore import QObject, QPoint, QPointF, Signal

from avelt.core.model.values import Layer, Path
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.frames.handles import Handle, Shown, handles
from avelt.window.frames.tools import Pen, put
from avelt.window.frames.viewport import Viewport


class BoardState(QObject):
    """The state. ``changed`` asks for a new picture; the others tell of a choice or carry a wish to the station."""

    changed = Signal()
    tool_changed = Signal(str)
    nodes_changed = Signal(bool)
    hinted = Signal(str)
    frame_named = Signal(str)  # a frame's name was double-clicked
    text_wanted = Signal(str, float, float)  # frame, and where its first line stands
    stop_wanted = Signal(int, QPoint)  # a gradient's colour was double-clicked
    colour_picked = Signal(str)

    def __init__(self, workspace: Workspace, viewport: Viewport, parent: QObject) -> None:
        super().__init__(parent)
        self.workspace, self.viewport = workspace, viewport
        self.tool = "choose"
        self.snap, self.grid = True, False
        self.pivot = False  # whether the chosen layer's pivot is shown, to be moved
        self.paint_row = ""  # "fill" or "stroke": the gradient whose line is shown
        self.node_mode = False
        self.node: tuple[int, int] | None = None
        self.pen: Pen | None = None
        self.pointer = QPointF()
        workspace.changed.connect(lambda change: self._after_change() if change.touched.fields else None)
        workspace.chose.connect(self._after_choice)

    def use(self, tool: str) -> None:
        """Take another tool."""
        if tool != self.tool:
            self.finish_pen()
            self.tool = tool
            self.edit_nodes(False)
            self.tool_changed.emit(tool)
            self.changed.emit()

    def edit_nodes(self, on: bool) -> None:
        """Show the chosen path's nodes, or put them away."""
        layer = self.workspace.layer
        on = on and layer is not None and isinstance(layer.body, Path) and not layer.locked
        if on != self.node_mode:
            self.node_mode, self.node = on, None
            self.nodes_changed.emit(on)
        self.changed.emit()

    def show_paint(self, row: str) -> None:
        """The row of the value table whose gradient's line is shown."""
        self.paint_row = row
        self.changed.emit()

    def switch(self, name: str, on: bool) -> None:
        """One of the switches: snap, grid or rulers."""
        setattr(self.viewport if name == "rulers" else self, name, on)
        self.changed.emit()

    def _after_change(self) -> None:
        layer = self.workspace.layer
        if self.node_mode and (layer is None or not isinstance(layer.body, Path)):
            self.edit_nodes(False)
        self.changed.emit()

    def _after_choice(self) -> None:
        if self.node_mode:
            self.edit_nodes(False)
        self.paint_row = ""
        self.viewport.reveal(self.workspace.frame)
        self.changed.emit()

    def handles(self) -> list[Handle]:
        """What can be grabbed now, in px of the chosen frame."""
        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None or layer is None or len(self.workspace.chosen) > 1 or self.tool not in ("choose", "pick"):
            return []
        which = self.paint_row if self.paint_row in ("fill", "stroke") else ""
        scale = self.viewport.scale()
        return handles(Shown(frame, layer, scale, which, self.node_mode, self.node, self.pivot))  # type: ignore[arg-type]

    def finish_pen(self, closed: bool = False) -> None:
        """The path that the pen has drawn becomes a layer."""
        pen, self.pen = self.pen, None
        layer = pen.layer(closed) if pen is not None else None
        if pen is not None and layer is not None:
            self.put(pen.frame_id, layer)
        self.changed.emit()

    def put(self, frame_id: str, layer: Layer) -> None:
        """A drawn layer onto a frame, chosen, with the choosing tool at hand."""
        made = self.workspace.make(tr("draw a {lower}", lower=layer.name.lower()), put(frame_id, layer))
        if made is not None:
            self.use("choose")
            self.workspace.choose(frame_id, made)
