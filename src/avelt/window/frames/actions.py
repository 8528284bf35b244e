"""Every command of the Frames station, declared once: menus, shortcuts, the context menu and Find come from here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from avelt.core.edits.arrange import ALIGNMENTS
from avelt.core.edits.outlines import COMBINATIONS, How
from avelt.window.frames import deeds

if TYPE_CHECKING:
    from avelt.window.frames.station import FramesStation


@dataclass(frozen=True)
class Action:
    """``menu`` is where it stands: Layer, Arrange, Shape or Frame; ``gap``: a line before it."""

    id: str
    words: str
    menu: str
    do: Callable[[FramesStation], object]
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


def _aligner(how: str) -> Callable[[FramesStation], object]:
    return lambda station: deeds.align_chosen(station.desk, how)


def _combiner(how: How) -> Callable[[FramesStation], object]:
    return lambda station: deeds.combine_chosen(station.desk, how)


ACTIONS: tuple[Action, ...] = (
    Action("cut", "Cut", "Layer", lambda s: s.copy(cut=True), "Ctrl+X"),
    Action("copy", "Copy", "Layer", lambda s: s.copy(), "Ctrl+C"),
    Action("paste", "Paste", "Layer", lambda s: s.paste(), "Ctrl+V"),
    Action("paste_frame", "Paste as a new frame", "Layer", lambda s: s.paste(as_frame=True), "Ctrl+Shift+V"),
    Action("duplicate", "Duplicate", "Layer", lambda s: deeds.duplicate_chosen(s.desk), "Ctrl+E"),
    Action("repeat", "Repeat in a grid…", "Layer", lambda s: s.ask_repeat()),
    Action("carry", "Carry to other frames…", "Layer", lambda s: s.ask_carry(), "Ctrl+Shift+E"),
    Action(
        "relatives", "Choose the same in all frames", "Layer", lambda s: deeds.choose_relatives(s.desk), "Ctrl+R", True
    ),
    Action("rename", "Rename", "Layer", lambda s: s.tree.rename_chosen(), "F2"),
    Action("hide", "Hide or show", "Layer", lambda s: deeds.flip_flag(s.desk, "hidden"), "Ctrl+H"),
    Action("lock", "Lock or unlock", "Layer", lambda s: deeds.flip_flag(s.desk, "locked"), "Ctrl+L"),
    Action("group", "Group", "Arrange", lambda s: deeds.group(s.desk), "Ctrl+G"),
    Action("ungroup", "Ungroup", "Arrange", lambda s: deeds.ungroup_chosen(s.desk), "Ctrl+Shift+G"),
    Action("mask", "Mask with the topmost", "Arrange", lambda s: deeds.mask(s.desk), "Ctrl+M"),
    Action("unmask", "Let the mask go", "Arrange", lambda s: deeds.release_mask(s.desk), "Ctrl+Shift+M"),
    Action("clip", "Clip the group, or not", "Arrange", lambda s: deeds.flip_clip(s.desk)),
    Action("up", "Raise", "Arrange", lambda s: deeds.shift_order(s.desk, "up"), "Ctrl+Up", True),
    Action("down", "Lower", "Arrange", lambda s: deeds.shift_order(s.desk, "down"), "Ctrl+Down"),
    Action("top", "Raise to the top", "Arrange", lambda s: deeds.shift_order(s.desk, "top"), "Ctrl+Shift+Up"),
    Action(
        "bottom", "Lower to the bottom", "Arrange", lambda s: deeds.shift_order(s.desk, "bottom"), "Ctrl+Shift+Down"
    ),
    *(
        Action(f"align_{how}", _ALIGN_WORDS[how], "Arrange", _aligner(how), "", how in ("left", "top"))
        for how in ALIGNMENTS
    ),
    Action("spread_x", "Spread evenly across", "Arrange", lambda s: deeds.spread(s.desk, 0), "", True),
    Action("spread_y", "Spread evenly down", "Arrange", lambda s: deeds.spread(s.desk, 1)),
    Action("nodes", "Edit nodes", "Shape", lambda s: s.board.edit_nodes(not s.board.node_mode), "Ctrl+Return"),
    *(
        Action(f"combine_{how}", words, "Shape", _combiner(how), "", how == "union")
        for how, words in COMBINATIONS.items()
    ),
    Action("to_path", "Make a path of it", "Shape", lambda s: deeds.make_paths(s.desk), "", True),
    Action("flatten", "Flatten the group to a path", "Shape", lambda s: deeds.flatten_chosen(s.desk)),
    Action("new_frame", "New empty frame", "Frame", lambda s: s.add_frame()),
    Action("frame_name", "Rename frame…", "Frame", lambda s: s.rename_chosen_frame()),
    Action("frame_settings", "Size, background, perspective…", "Frame", lambda s: s.ask_frame()),
    Action("frame_clips", "Cut off what lies outside, or not", "Frame", lambda s: s.flip_frame_clip()),
    Action("look_again", "Look at its file again", "Frame", lambda s: s.look_again(), "F5", True),
    Action("report", "Import report", "Frame", lambda s: s.show_report()),
    Action("grid_size", "Grid and guides…", "Frame", lambda s: s.ask_grid()),
    Action("fit_all", "Fit the height", "Frame", lambda s: s.board.pages.fit(), "Ctrl+0", True),
    Action("actual", "Show at 100 %", "Frame", lambda s: s.board.pages.set_scale(1.0), "Ctrl+9"),
    Action("fit_chosen", "Show the chosen as large as it fits", "Frame", lambda s: s.fit_chosen(), "Ctrl+8"),
)
MENUS = ("Layer", "Arrange", "Shape", "Frame")
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
    "up",
    "down",
    "hide",
    "lock",
    "rename",
    "",
    "carry",
    "relatives",
    "",
    "nodes",
    "to_path",
    "flatten",
)
