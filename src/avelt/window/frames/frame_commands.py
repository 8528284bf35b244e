"""What Frames asks for and makes: frames, texts, pictures, dialogs, the clipboard. Handed the workspace and the board's
state; the commands of single layers are in ``layer_commands``."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QObject, QPointF, Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QInputDialog, QLineEdit, QWidget

from avelt.core.edits.arrange import boxes_in_frame, set_guides
from avelt.core.edits.follows import set_content
from avelt.core.edits.frames import next_state, remove_frame, rename_frame, set_first
from avelt.core.edits.layers import fit_text
from avelt.core.edits.shapes import (
    add_layer,
    add_picture,
    new_frame,
    new_text,
    set_background,
    set_frame_clips,
    set_frame_size,
    set_perspective,
)
from avelt.core.edits.structure import remove_layers
from avelt.core.errors import AveltError
from avelt.core.geometry.bezier import union
from avelt.core.model.find import entrance_id, frame_by_id
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.paint.fonts import measure_text
from avelt.window.common.workspace import Workspace
from avelt.window.controls.forms import ask
from avelt.window.frames import clipboard, layer_commands, part_commands
from avelt.window.frames.board_state import BoardState


def accepted(dialog: QDialog) -> bool:
    """Show a dialog until it is answered; whether it was accepted."""
    return dialog.exec() == QDialog.DialogCode.Accepted


class FrameCommands(QObject):
    """The commands. Signals carry what others do: renaming in the tree, files to import, comparing with a file."""

    rename_wanted = Signal()
    dropped = Signal(list)  # paths
    report_wanted = Signal()
    compare_wanted = Signal()

    def __init__(self, workspace: Workspace, state: BoardState, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace, self.state, self._window = workspace, state, parent
        self.ask = accepted

    def ask_text(self, frame_id: str, x: float, y: float) -> None:
        """Words for a new text."""
        words, ok = QInputDialog.getMultiLineText(self._window, tr("New text"), tr("Words"))
        self.state.use("choose")
        if ok and words.strip():
            self.put_text(frame_id, x, y, words.strip())

    def put_text(self, frame_id: str, x: float, y: float, words: str) -> None:
        """A text on a frame."""
        layer = new_text(round(x), round(y), words, 0.0)
        layer = fit_text(layer, measure_text)
        made = self.workspace.make(tr("put a text"), lambda p: add_layer(p, frame_id, layer))
        if made is not None:
            self.workspace.choose(frame_id, made)

    def ask_picture(self) -> None:
        """A picture file for the chosen frame."""
        path, _ = QFileDialog.getOpenFileName(
            self._window, tr("Put a picture"), str(Path.home()), tr("Pictures (*.png *.jpg *.jpeg *.webp *.gif)")
        )
        if path:
            self.put_picture(Path(path))

    def put_picture(self, path: Path) -> None:
        """A picture file on the chosen frame."""
        from avelt.core.formats.disk import read_bytes
        from avelt.core.formats.pictures_in import read_picture
        from avelt.core.model.limits import MAX_PICTURE_BYTES

        frame = self.workspace.frame
        if frame is None:
            return

        def change(project: Project) -> tuple[Project, str]:
            asset = read_picture(read_bytes(path, MAX_PICTURE_BYTES), str(path))
            return add_picture(project, frame.id, asset, path.stem, 0.0, 0.0)

        made = self.workspace.make(tr("put {path}", path=path.name), change)
        if made is not None:
            self.workspace.choose(frame.id, made)

    def make_next(self) -> None:
        """The next state of the chosen frame."""
        frame = self.workspace.frame
        if frame is None:
            return

        def edit(project: Project) -> tuple[Project, str]:
            made = next_state(project, frame.id)
            return made, made.frames[made.frames.index(frame) + 1].id

        made = self.workspace.make(tr("next state of {frame}", frame=frame.name), edit)
        if made is not None:
            self.workspace.choose(made)

    def add_frame(self) -> None:
        """An empty frame of the chosen one's size."""
        frame = self.workspace.frame
        w, h = (frame.w, frame.h) if frame is not None else (360.0, 640.0)
        made = self.workspace.make(tr("add a frame"), lambda p: new_frame(p, "Frame", w, h))
        if made is not None:
            self.workspace.choose(made)

    def set_first(self) -> None:
        """Rehearse begins with the chosen frame."""
        frame = self.workspace.frame
        if frame is not None:
            self.workspace.do(tr("start with {frame}", frame=frame.name), lambda p: set_first(p, frame.id))

    def rename(self, frame_id: str) -> None:
        """Ask for another name of a frame."""
        frame = frame_by_id(self.workspace.project, frame_id)
        name, ok = QInputDialog.getText(
            self._window, tr("Rename frame"), tr("Name"), QLineEdit.EchoMode.Normal, frame.name
        )
        if ok:
            self.workspace.do(tr("rename {frame}", frame=frame.name), lambda p: rename_frame(p, frame_id, name))

    def rename_chosen_frame(self) -> None:
        """Ask for another name of the chosen frame."""
        if self.workspace.frame is not None:
            self.rename(self.workspace.frame.id)

    def remove(self) -> None:
        """Remove the chosen layers, or the chosen frame when no layer is chosen."""
        frame = self.workspace.frame
        if frame is None:
            return
        if self.workspace.chosen:
            layer_commands.remove(self.workspace)
        else:
            count = sum(frame.id in (r.leaves, r.arrives) for r in self.workspace.project.routes)
            words = tr(
                "{frame} has {n} routes, which would go with it.",
                "{frame} has {n} route, which would go with it.",
                count,
                frame=frame.name,
            )
            if not count or ask(self._window, tr("Remove frame"), words, tr("Remove it")):
                self.workspace.do(tr("remove frame {frame}", frame=frame.name), lambda p: remove_frame(p, frame.id))

    def flip_frame_clip(self) -> None:
        """Whether the chosen frame cuts off what lies outside."""
        frame = self.workspace.frame
        if frame is not None:
            words = tr("do not clip {name}", name=frame.name) if frame.clips else tr("clip {name}", name=frame.name)
            self.workspace.do(words, lambda p: set_frame_clips(p, frame.id, not frame.clips))

    def flip_whole(self) -> None:
        """Frames that scroll with all that they hold, or as the screen shows them."""
        viewport = self.state.viewport
        viewport.whole = not viewport.whole
        viewport.pan_by(QPointF())

    def fit_chosen(self) -> None:
        """The chosen layers, or the frame, as large as the board can show them."""
        frame = self.workspace.frame
        if frame is not None:
            ids = self.workspace.chosen_here
            box = union(boxes_in_frame(frame, ids)) if ids else (0.0, 0.0, frame.w, frame.h)
            self.state.viewport.fit_to(frame, box)

    def make_entrance(self) -> None:
        """The chosen layers come after the frame was arrived at, or is shown first; Timing shows how."""
        from avelt.core.edits.entrances import set_layers

        frame, chosen = self.workspace.frame, self.workspace.chosen_here
        if frame is None or not chosen:
            self.workspace.said.emit(tr("Choose the layers that shall come after the frame is arrived at."))
            return
        known = frame.entrance.layers if frame.entrance is not None else ()
        if self.workspace.do("entrance", lambda p: set_layers(p, frame.id, (*known, *chosen))):
            self.workspace.motion_wanted.emit(entrance_id(frame.id))

    def ask_copies(self) -> None:
        """Rows and columns of the chosen layer."""
        from avelt.window.frames.dialogs import CopiesDialog

        layer = self.workspace.layer
        if layer is not None:
            dialog = CopiesDialog(self._window, layer.name)
            if self.ask(dialog):
                layer_commands.copies_of_chosen(self.workspace, *dialog.values())

    def ask_carry(self) -> None:
        """Which frames the chosen layers go to."""
        from avelt.window.frames.dialogs import CarryDialog

        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None or layer is None:
            self.workspace.said.emit(tr("Choose a layer first."))
            return
        others = [other for other in self.workspace.project.frames if other.id != frame.id]
        dialog = CarryDialog(self._window, layer_commands.words_for(self.workspace, "").strip(), others)
        if self.ask(dialog):
            layer_commands.carry_to(self.workspace, dialog.wanted())

    def ask_use(self) -> None:
        """A part for the chosen frame."""
        part_commands.ask_use(self.workspace, self._window, self.ask)

    def ask_part(self) -> None:
        """What the chosen use says of its part."""
        part_commands.ask_settings(self.workspace, self._window, self.ask)

    def ask_other_part(self) -> None:
        """Another part in the place of the chosen use."""
        part_commands.ask_other(self.workspace, self._window, self.ask)

    def ask_frame(self) -> None:
        """The chosen frame's settings."""
        from avelt.window.frames.dialogs import FrameDialog

        frame = self.workspace.frame
        if frame is None:
            return
        dialog = FrameDialog(self._window, frame)
        if not self.ask(dialog):
            return
        wanted = dialog.values()

        def change(project: Project) -> Project:
            project = set_frame_size(project, frame.id, wanted.w, wanted.h)
            project = set_background(project, frame.id, wanted.background)
            project = set_perspective(project, frame.id, wanted.perspective)
            project = set_content(project, frame.id, wanted.content_w, wanted.content_h, wanted.scroll)
            return set_frame_clips(project, frame.id, wanted.clips)

        self.workspace.do(tr("settings of {frame}", frame=frame.name), change)

    def ask_grid(self) -> None:
        """The grid's step, and the chosen frame's guides as numbers."""
        import msgspec

        from avelt.window.frames.dialogs import GridDialog

        frame = self.workspace.frame
        dialog = GridDialog(self._window, self.workspace.project.grid, frame)
        if not self.ask(dialog):
            return

        def change(project: Project) -> Project:
            project = msgspec.structs.replace(project, grid=dialog.grid.value)
            for axis in ("x", "y"):
                if frame is not None:
                    project = set_guides(project, frame.id, axis, dialog.places(axis))
            return project

        self.workspace.do(tr("set grid and guides"), change)

    def copy(self, cut: bool = False) -> None:
        """The chosen layers to the clipboard."""
        clip = layer_commands.clip_of(self.workspace)
        if clip is None:
            self.workspace.said.emit(tr("Choose a layer to copy."))
            return
        clipboard.put(clip)
        if cut:
            layer_commands.on_each_frame(self.workspace, "cut", remove_layers)

    def paste(self, as_frame: bool = False) -> None:
        """What is on the clipboard: layers, SVG or a picture onto the chosen frame, or as a new frame; files."""
        try:
            found = clipboard.take(measure_text)
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return
        if found is None:
            self.workspace.said.emit(tr("There is nothing on the clipboard that can be pasted here."))
        elif found.paths:
            self.dropped.emit(found.paths)
        elif as_frame or self.workspace.frame is None:
            frame = clipboard.as_frame(found)

            def edit(project: Project) -> tuple[Project, str]:
                made = clipboard.add(project, frame)
                return made, made.frames[-1].id

            made = self.workspace.make(tr("paste a frame"), edit)
            if made is not None:
                self.workspace.choose(made)
        else:
            layer_commands.paste(self.workspace, clipboard.as_clip(found))

    def show_report(self) -> None:
        """What the imports of the frames left out."""
        self.report_wanted.emit()
