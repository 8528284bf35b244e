"""What can be done with parts in Frames, each as one entry of undo."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QDialog, QWidget

from avelt.core.edits import parts
from avelt.core.model.find import layer_index, walk
from avelt.core.model.kinds import part_of
from avelt.core.model.parts import part_by_id
from avelt.core.model.values import Part, Project, Use
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.frames.layer_commands import put_together

if TYPE_CHECKING:
    from avelt.window.frames.part_dialogs import PartSettings


Ask = Callable[[QDialog], bool]


def make(workspace: Workspace) -> None:
    """The chosen layers become a part; its use is chosen."""

    def edit(project: Project, frame_id: str, ids: list[str]) -> tuple[Project, str]:
        project, _, use = parts.make_part(project, frame_id, ids)
        return project, use

    put_together(workspace, tr("Choose the layers that shall become a part."), tr("make a part"), edit)


def chosen(workspace: Workspace) -> Part | None:
    """The part that the chosen layer uses."""
    layer = workspace.layer
    if layer is None or not isinstance(layer.body, Use):
        workspace.said.emit(tr("Choose the use of a part first."))
        return None
    part = next((part for part in workspace.project.parts if part.id == part_of(layer)), None)
    if part is None:
        workspace.said.emit(tr("The part of {layer} is not there any more.", layer=layer.name))
    return part


def open_chosen(workspace: Workspace) -> None:
    """Go into the part of the chosen use."""
    part = chosen(workspace)
    if part is not None:
        workspace.open_part(part.id)


def dissolve(workspace: Workspace) -> None:
    """The layers of the chosen use's part in its place, chosen."""
    frame, layer = workspace.frame, workspace.layer
    if chosen(workspace) is None or frame is None or layer is None:
        return
    if not workspace.do(tr("dissolve {layer}", layer=layer.name), lambda p: parts.dissolve(p, frame.id, layer.id)):
        return
    known, now = layer_index(frame), workspace.frame
    if now is not None:
        fresh = [entry for entry in walk(now.layers) if entry.id not in known]
        inner = {child.id for entry in fresh for child in entry.children}
        workspace.choose_several([(frame.id, entry.id) for entry in fresh if entry.id not in inner])


def ask_use(workspace: Workspace, window: QWidget, ask: Ask) -> None:
    """One of the project's parts on the chosen frame."""
    frame, known = workspace.frame, workspace.project.parts
    if frame is None:
        return
    if not known:
        workspace.said.emit(tr("There is no part yet: choose layers and make one."))
        return
    from avelt.window.frames.part_dialogs import UseDialog

    dialog = UseDialog(window, known)
    if not ask(dialog):
        return
    part = dialog.wanted()
    x, y = round((frame.w - part.w) / 2), round((frame.h - part.h) / 2)
    made = workspace.make(tr("use {part}", part=part.name), lambda p: parts.add_use(p, frame.id, part.id, x, y))
    if made is not None:
        workspace.choose(frame.id, made)


def ask_other(workspace: Workspace, window: QWidget, ask: Ask) -> None:
    """Another part in the place of the chosen use; its feeds stay where inputs have the same names."""
    frame, layer = workspace.frame, workspace.layer
    if frame is None or layer is None or not isinstance(layer.body, Use):
        workspace.said.emit(tr("Choose the use of a part first."))
        return
    others = [part for part in workspace.project.parts if part.id != layer.body.part]
    if not others:
        workspace.said.emit(tr("There is no other part yet."))
        return
    from avelt.window.frames.part_dialogs import UseDialog

    dialog = UseDialog(window, others)
    if ask(dialog):
        part = dialog.wanted()
        workspace.do(
            tr("{layer} uses {part}", layer=layer.name, part=part.name),
            lambda p: parts.use_other(p, frame.id, layer.id, part.id),
        )


def ask_settings(workspace: Workspace, window: QWidget, ask: Ask) -> None:
    """The part's name, and what the chosen use says of it."""
    frame, layer, part = workspace.frame, workspace.layer, chosen(workspace)
    if part is None or frame is None or layer is None or not isinstance(layer.body, Use):
        return
    from avelt.window.frames.part_dialogs import PartDialog

    dialog = PartDialog(window, workspace.project, part, layer.body)
    if ask(dialog):
        wanted = dialog.wanted()
        workspace.do(
            tr("settings of {layer}", layer=layer.name), lambda p: with_settings(p, frame.id, layer.id, wanted)
        )


def with_settings(project: Project, frame_id: str, layer_id: str, wanted: PartSettings) -> Project:
    """A project with what the dialog of a use gave."""
    part = part_by_id(project, wanted.use.part)
    if wanted.name != part.name:
        project = parts.rename_part(project, part.id, wanted.name)
    project = parts.edit_use(project, frame_id, layer_id, lambda _: wanted.use)
    for input_id, by in wanted.feeds:
        project = parts.feed(project, frame_id, layer_id, input_id, by)
    return project
