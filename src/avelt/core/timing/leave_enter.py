"""The ready ways to leave and to enter, declared once: menus, words and tests are made from this table.

A way names only what it is about; taken alone it is put on a layer that else stays as it is, mixed it is put on what is
set already. To add one: a row.
"""

from __future__ import annotations

import msgspec

from avelt.core.model.values import FADED, Away
from avelt.core.record import Record

replace = msgspec.structs.replace
_DRIFT = 28.0  # px
_PLAIN = Away()


class LeaveEnter(Record, frozen=True):
    """``leaves`` and ``enters`` say it of either side; ``pose`` is where the layer is absent."""

    key: str
    leaves: str
    enters: str
    pose: Away


WAYS = (
    LeaveEnter("fade", "fades", "fades in", FADED),
    LeaveEnter("edge left", "to the left edge", "from the left edge", Away(edge="left")),
    LeaveEnter("edge right", "to the right edge", "from the right edge", Away(edge="right")),
    LeaveEnter("edge top", "to the top edge", "from the top edge", Away(edge="top")),
    LeaveEnter("edge bottom", "to the bottom edge", "from the bottom edge", Away(edge="bottom")),
    LeaveEnter("drift up", "drifts up and fades", "drifts down into place", Away(shift_y=-_DRIFT, opacity=0.0)),
    LeaveEnter("drift down", "drifts down and fades", "rises into place", Away(shift_y=_DRIFT, opacity=0.0)),
    LeaveEnter("shrink", "shrinks to its pivot", "grows from its pivot", Away(scale_x=0.0, scale_y=0.0)),
    LeaveEnter("shrink left", "shrinks to its left side", "grows from its left side", Away(scale_x=0.0, side="left")),
    LeaveEnter(
        "shrink right", "shrinks to its right side", "grows from its right side", Away(scale_x=0.0, side="right")
    ),
    LeaveEnter("shrink top", "shrinks to its top", "grows from its top", Away(scale_y=0.0, side="top")),
    LeaveEnter("shrink bottom", "shrinks to its bottom", "grows from its bottom", Away(scale_y=0.0, side="bottom")),
    LeaveEnter("cut left", "is cut off from the left", "is uncovered from the right", Away(cut=(0.0, 0.0, 0.0, 1.0))),
    LeaveEnter("cut right", "is cut off from the right", "is uncovered from the left", Away(cut=(0.0, 1.0, 0.0, 0.0))),
    LeaveEnter("cut top", "is cut off from the top", "is uncovered from the bottom", Away(cut=(1.0, 0.0, 0.0, 0.0))),
    LeaveEnter("cut bottom", "is cut off from the bottom", "is uncovered from the top", Away(cut=(0.0, 0.0, 1.0, 0.0))),
    LeaveEnter("fall back", "falls back and fades", "comes forward", Away(scale_x=0.86, scale_y=0.86, opacity=0.0)),
    LeaveEnter("blur", "blurs away", "comes into focus", Away(blur=12.0, opacity=0.0)),
    LeaveEnter("stay", "stays until the end", "is there at once", _PLAIN),
)
BY_KEY = {way.key: way for way in WAYS}


def leave_enter_of(pose: Away) -> LeaveEnter | None:
    """The ready way that a pose is, whatever it is behind; ``None`` for one of its own."""
    bare = replace(pose, behind="")
    return next((way for way in WAYS if way.pose == bare), None)


def words_of(pose: Away, leaves: bool) -> str:
    """A pose in words."""
    way = leave_enter_of(pose)
    words = (way.leaves if leaves else way.enters) if way is not None else "own"
    return f"{words}, behind" if pose.behind else words


_SHORT = {
    "fade": ("fades", "fades in"),
    "edge": ("{} edge", "{} edge"),
    "drift": ("drifts", "drifts in"),
    "shrink": ("shrinks", "grows"),
    "cut": ("cut off", "uncovered"),
    "fall": ("falls back", "comes up"),
    "blur": ("blurs", "sharpens"),
    "stay": ("stays", "at once"),
}


def short_words(pose: Away, leaves: bool) -> str:
    """A pose in a word or two, for narrow places."""
    way = leave_enter_of(pose)
    if way is None:
        return "own"
    kind, _, side = way.key.partition(" ")
    return _SHORT[kind][0 if leaves else 1].format(side)


def mixed(pose: Away, way: LeaveEnter) -> Away:
    """A pose with a way put on it: only what the way is about changes."""
    own = {name: getattr(way.pose, name) for name in Away.__struct_fields__ if name != "behind"}
    about = {name: value for name, value in own.items() if value != getattr(_PLAIN, name)}
    return replace(pose, **about) if about else replace(_PLAIN, behind=pose.behind)


def taken(pose: Away, way: LeaveEnter) -> Away:
    """A way taken alone; what the layer is behind stays."""
    return replace(way.pose, behind=pose.behind)
