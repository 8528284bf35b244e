"""Every command of the Frames station, declared once: menus, shortcuts, the context menu and Find come from here."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.edits.arrange import ALIGNMENTS
from avelt.core.edits.outlines import COMBINATIONS, How
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.frames import layer_commands, part_commands
from avelt.window.frames.frame_commands import FrameCommands


class Action(Record, frozen=True):
    """``menu`` is where it stands: Layer, Arrange, Shape, Part or Frame; ``gap``: a line before it."""

    id: str
    words: str
    menu: str
    do: Callable[[FrameCommands], object]
    keys: str = ""
    gap: bool = False


_ALIGN_WORDS = {
    "left": tr("Align left edges"),
    "centre": tr("Align centres"),
    "right": tr("Align right edges"),
    "top": tr("Align top edges"),
    "middle": tr("Align middles"),
    "bottom": tr("Align bottom edges"),
}


def _aligner(how: str) -> Callable[[FrameCommands], object]:
    return lambda commands: layer_commands.align_chosen(commands.workspace, how)


def _combiner(how: How) -> Callable[[FrameCommands], object]:
    return lambda commands: layer_commands.combine_chosen(commands.workspace, how)


ACTIONS: tuple[Action, ...] = (
    Action("cut", tr("Cut"), tr("Layer"), lambda s: s.copy(cut=True), "Ctrl+X"),
    Action("copy", tr("Copy"), tr("Layer"), lambda s: s.copy(), "Ctrl+C"),
    Action("paste", tr("Paste"), tr("Layer"), lambda s: s.paste(), "Ctrl+V"),
    Action("paste_frame", tr("Paste as a new frame"), tr("Layer"), lambda s: s.paste(as_frame=True), "Ctrl+Shift+V"),
    Action("duplicate", tr("Duplicate"), tr("Layer"), lambda s: layer_commands.duplicate_chosen(s.workspace), "Ctrl+D"),
    Action("repeat", tr("Copies in rows and columns…"), tr("Layer"), lambda s: s.ask_copies()),
    Action("carry", tr("Carry to other frames…"), tr("Layer"), lambda s: s.ask_carry(), "Ctrl+Shift+E"),
    Action(
        "relatives",
        tr("Choose the same in all frames"),
        tr("Layer"),
        lambda s: layer_commands.choose_relatives(s.workspace),
        "Ctrl+R",
        True,
    ),
    Action("entrance", tr("Entrance in Timing"), tr("Layer"), lambda s: s.make_entrance()),
    Action("rename", tr("Rename"), tr("Layer"), lambda s: s.rename_wanted.emit(), "F2"),
    Action(
        "hide", tr("Hide or show"), tr("Layer"), lambda s: layer_commands.flip_flag(s.workspace, "hidden"), "Ctrl+H"
    ),
    Action(
        "lock", tr("Lock or unlock"), tr("Layer"), lambda s: layer_commands.flip_flag(s.workspace, "locked"), "Ctrl+L"
    ),
    Action(
        "stays_put", tr("Stays put when scrolled, or not"), tr("Layer"), lambda s: layer_commands.flip_put(s.workspace)
    ),
    Action("group", tr("Group"), tr("Arrange"), lambda s: layer_commands.group(s.workspace), "Ctrl+G"),
    Action(
        "ungroup", tr("Ungroup"), tr("Arrange"), lambda s: layer_commands.ungroup_chosen(s.workspace), "Ctrl+Shift+G"
    ),
    Action("mask", tr("Use topmost as mask"), tr("Arrange"), lambda s: layer_commands.mask(s.workspace), "Ctrl+M"),
    Action(
        "unmask", tr("Release mask"), tr("Arrange"), lambda s: layer_commands.release_mask(s.workspace), "Ctrl+Shift+M"
    ),
    Action("clip", tr("Clip the group, or not"), tr("Arrange"), lambda s: layer_commands.flip_clip(s.workspace)),
    Action(
        "up",
        tr("Bring forward"),
        tr("Arrange"),
        lambda s: layer_commands.shift_order(s.workspace, "up"),
        "Ctrl+Up",
        True,
    ),
    Action(
        "down",
        tr("Send backward"),
        tr("Arrange"),
        lambda s: layer_commands.shift_order(s.workspace, "down"),
        "Ctrl+Down",
    ),
    Action(
        "top",
        tr("Bring to front"),
        tr("Arrange"),
        lambda s: layer_commands.shift_order(s.workspace, "top"),
        "Ctrl+Shift+Up",
    ),
    Action(
        "bottom",
        tr("Send to back"),
        tr("Arrange"),
        lambda s: layer_commands.shift_order(s.workspace, "bottom"),
        "Ctrl+Shift+Down",
    ),
    *(
        Action(f"align_{how}", _ALIGN_WORDS[how], tr("Arrange"), _aligner(how), "", how in ("left", "top"))
        for how in ALIGNMENTS
    ),
    Action(
        "spread_x",
        tr("Distribute horizontally"),
        tr("Arrange"),
        lambda s: layer_commands.spread(s.workspace, 0),
        "",
        True,
    ),
    Action("spread_y", tr("Distribute vertically"), tr("Arrange"), lambda s: layer_commands.spread(s.workspace, 1)),
    Action("nodes", tr("Edit nodes"), tr("Shape"), lambda s: s.state.edit_nodes(not s.state.node_mode), "Ctrl+Return"),
    *(
        Action(f"combine_{how}", words, tr("Shape"), _combiner(how), "", how == "union")
        for how, words in COMBINATIONS.items()
    ),
    Action("to_path", tr("Convert to path"), tr("Shape"), lambda s: layer_commands.make_paths(s.workspace), "", True),
    Action(
        "flatten", tr("Flatten the group to a path"), tr("Shape"), lambda s: layer_commands.flatten_chosen(s.workspace)
    ),
    Action(
        "part_make", tr("Make a part of the chosen"), tr("Part"), lambda s: part_commands.make(s.workspace), "Ctrl+P"
    ),
    Action("part_use", tr("Use a part…"), tr("Part"), lambda s: s.ask_use()),
    Action("part_open", tr("Open the part"), tr("Part"), lambda s: part_commands.open_chosen(s.workspace), "", True),
    Action("part_settings", tr("Pose, size, clock, inputs and words…"), tr("Part"), lambda s: s.ask_part()),
    Action("part_other", tr("Use another part here…"), tr("Part"), lambda s: s.ask_other_part()),
    Action("part_dissolve", tr("Dissolve the part"), tr("Part"), lambda s: part_commands.dissolve(s.workspace)),
    Action("new_frame", tr("New empty frame"), tr("Frame"), lambda s: s.add_frame()),
    Action("frame_name", tr("Rename frame…"), tr("Frame"), lambda s: s.rename_chosen_frame()),
    Action("frame_settings", tr("Size, scrolling, background…"), tr("Frame"), lambda s: s.ask_frame()),
    Action("frame_clips", tr("Cut off what lies outside, or not"), tr("Frame"), lambda s: s.flip_frame_clip()),
    Action("whole", tr("Show all that the frame holds, or what is seen"), tr("Frame"), lambda s: s.flip_whole()),
    Action("look_again", tr("Update from file…"), tr("Frame"), lambda s: s.compare_wanted.emit(), "F5", True),
    Action("report", tr("Import report"), tr("Frame"), lambda s: s.show_report()),
    Action("grid_size", tr("Grid and guides…"), tr("Frame"), lambda s: s.ask_grid()),
    Action("fit_all", tr("Fit the height"), tr("Frame"), lambda s: s.state.viewport.fit(), "Ctrl+0", True),
    Action("actual", tr("Show at 100 %"), tr("Frame"), lambda s: s.state.viewport.set_scale(1.0), "Ctrl+9"),
    Action("fit_chosen", tr("Show the chosen as large as it fits"), tr("Frame"), lambda s: s.fit_chosen(), "Ctrl+8"),
)
MENUS = (tr("Layer"), tr("Arrange"), tr("Shape"), tr("Part"), tr("Frame"))
BY_ID = {action.id: action for action in ACTIONS}
#: What the context menu of a layer shows, in its order; an empty id is a line.
CONTEXT = (
    "cut",
    "copy",
    "paste",
    "duplicate",
    "",
    "group",
    "ungroup",
    "mask",
    "unmask",
    "",
    "part_make",
    "part_open",
    "part_settings",
    "part_dissolve",
    "",
    "up",
    "down",
    "hide",
    "lock",
    "rename",
    "",
    "carry",
    "relatives",
    "entrance",
    "",
    "nodes",
    "to_path",
    "flatten",
)
