"""Every command of the Frames station, declared once: menus, shortcuts, the context menu and Find come from here."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.edits.arrange import ALIGNMENTS
from avelt.core.edits.outlines import COMBINATIONS, How
from avelt.core.record import Record
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
    "left": "Align left edges",
    "centre": "Align centres",
    "right": "Align right edges",
    "top": "Align top edges",
    "middle": "Align middles",
    "bottom": "Align bottom edges",
}


def _aligner(how: str) -> Callable[[FrameCommands], object]:
    return lambda commands: layer_commands.align_chosen(commands.workspace, how)


def _combiner(how: How) -> Callable[[FrameCommands], object]:
    return lambda commands: layer_commands.combine_chosen(commands.workspace, how)


ACTIONS: tuple[Action, ...] = (
    Action("cut", "Cut", "Layer", lambda s: s.copy(cut=True), "Ctrl+X"),
    Action("copy", "Copy", "Layer", lambda s: s.copy(), "Ctrl+C"),
    Action("paste", "Paste", "Layer", lambda s: s.paste(), "Ctrl+V"),
    Action("paste_frame", "Paste as a new frame", "Layer", lambda s: s.paste(as_frame=True), "Ctrl+Shift+V"),
    Action("duplicate", "Duplicate", "Layer", lambda s: layer_commands.duplicate_chosen(s.workspace), "Ctrl+D"),
    Action("repeat", "Copies in rows and columns…", "Layer", lambda s: s.ask_copies()),
    Action("carry", "Carry to other frames…", "Layer", lambda s: s.ask_carry(), "Ctrl+Shift+E"),
    Action(
        "relatives",
        "Choose the same in all frames",
        "Layer",
        lambda s: layer_commands.choose_relatives(s.workspace),
        "Ctrl+R",
        True,
    ),
    Action("entrance", "Entrance in Timing", "Layer", lambda s: s.make_entrance()),
    Action("rename", "Rename", "Layer", lambda s: s.rename_wanted.emit(), "F2"),
    Action("hide", "Hide or show", "Layer", lambda s: layer_commands.flip_flag(s.workspace, "hidden"), "Ctrl+H"),
    Action("lock", "Lock or unlock", "Layer", lambda s: layer_commands.flip_flag(s.workspace, "locked"), "Ctrl+L"),
    Action("stays_put", "Stays put when scrolled, or not", "Layer", lambda s: layer_commands.flip_put(s.workspace)),
    Action("group", "Group", "Arrange", lambda s: layer_commands.group(s.workspace), "Ctrl+G"),
    Action("ungroup", "Ungroup", "Arrange", lambda s: layer_commands.ungroup_chosen(s.workspace), "Ctrl+Shift+G"),
    Action("mask", "Use topmost as mask", "Arrange", lambda s: layer_commands.mask(s.workspace), "Ctrl+M"),
    Action("unmask", "Release mask", "Arrange", lambda s: layer_commands.release_mask(s.workspace), "Ctrl+Shift+M"),
    Action("clip", "Clip the group, or not", "Arrange", lambda s: layer_commands.flip_clip(s.workspace)),
    Action("up", "Bring forward", "Arrange", lambda s: layer_commands.shift_order(s.workspace, "up"), "Ctrl+Up", True),
    Action("down", "Send backward", "Arrange", lambda s: layer_commands.shift_order(s.workspace, "down"), "Ctrl+Down"),
    Action(
        "top", "Bring to front", "Arrange", lambda s: layer_commands.shift_order(s.workspace, "top"), "Ctrl+Shift+Up"
    ),
    Action(
        "bottom",
        "Send to back",
        "Arrange",
        lambda s: layer_commands.shift_order(s.workspace, "bottom"),
        "Ctrl+Shift+Down",
    ),
    *(
        Action(f"align_{how}", _ALIGN_WORDS[how], "Arrange", _aligner(how), "", how in ("left", "top"))
        for how in ALIGNMENTS
    ),
    Action("spread_x", "Distribute horizontally", "Arrange", lambda s: layer_commands.spread(s.workspace, 0), "", True),
    Action("spread_y", "Distribute vertically", "Arrange", lambda s: layer_commands.spread(s.workspace, 1)),
    Action("nodes", "Edit nodes", "Shape", lambda s: s.state.edit_nodes(not s.state.node_mode), "Ctrl+Return"),
    *(
        Action(f"combine_{how}", words, "Shape", _combiner(how), "", how == "union")
        for how, words in COMBINATIONS.items()
    ),
    Action("to_path", "Convert to path", "Shape", lambda s: layer_commands.make_paths(s.workspace), "", True),
    Action("flatten", "Flatten the group to a path", "Shape", lambda s: layer_commands.flatten_chosen(s.workspace)),
    Action("part_make", "Make a part of the chosen", "Part", lambda s: part_commands.make(s.workspace), "Ctrl+P"),
    Action("part_use", "Use a part…", "Part", lambda s: s.ask_use()),
    Action("part_open", "Open the part", "Part", lambda s: part_commands.open_chosen(s.workspace), "", True),
    Action("part_settings", "Pose, size, clock, inputs and words…", "Part", lambda s: s.ask_part()),
    Action("part_other", "Use another part here…", "Part", lambda s: s.ask_other_part()),
    Action("part_dissolve", "Dissolve the part", "Part", lambda s: part_commands.dissolve(s.workspace)),
    Action("new_frame", "New empty frame", "Frame", lambda s: s.add_frame()),
    Action("frame_name", "Rename frame…", "Frame", lambda s: s.rename_chosen_frame()),
    Action("frame_settings", "Size, scrolling, background…", "Frame", lambda s: s.ask_frame()),
    Action("frame_clips", "Cut off what lies outside, or not", "Frame", lambda s: s.flip_frame_clip()),
    Action("whole", "Show all that the frame holds, or what is seen", "Frame", lambda s: s.flip_whole()),
    Action("look_again", "Update from file…", "Frame", lambda s: s.compare_wanted.emit(), "F5", True),
    Action("report", "Import report", "Frame", lambda s: s.show_report()),
    Action("grid_size", "Grid and guides…", "Frame", lambda s: s.ask_grid()),
    Action("fit_all", "Fit the height", "Frame", lambda s: s.state.viewport.fit(), "Ctrl+0", True),
    Action("actual", "Show at 100 %", "Frame", lambda s: s.state.viewport.set_scale(1.0), "Ctrl+9"),
    Action("fit_chosen", "Show the chosen as large as it fits", "Frame", lambda s: s.fit_chosen(), "Ctrl+8"),
)
MENUS = ("Layer", "Arrange", "Shape", "Part", "Frame")
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
