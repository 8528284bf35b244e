"""The ready ways to leave and to enter, declared once: menus, words and tests are made from this table.

A way names only what it is about; taken alone it is put on a layer that else stays as it is, mixed it is put on what is
set already. To add one: a row.
"""

from __future__ import annotations

import msgspec

from avelt.core.model.values import FADED, Away
from avelt.core.record import Record
from avelt.core.words import tr

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
    LeaveEnter("fade", tr("fades"), tr("fades in"), FADED),
    LeaveEnter("edge left", tr("to the left edge"), tr("from the left edge"), Away(edge="left")),
    LeaveEnter("edge right", tr("to the right edge"), tr("from the right edge"), Away(edge="right")),
    LeaveEnter("edge top", tr("to the top edge"), tr("from the top edge"), Away(edge="top")),
    LeaveEnter("edge bottom", tr("to the bottom edge"), tr("from the bottom edge"), Away(edge="bottom")),
    LeaveEnter("drift up", tr("drifts up and fades"), tr("drifts down into place"), Away(shift_y=-_DRIFT, opacity=0.0)),
    LeaveEnter("drift down", tr("drifts down and fades"), tr("rises into place"), Away(shift_y=_DRIFT, opacity=0.0)),
    LeaveEnter("shrink", tr("shrinks to its pivot"), tr("grows from its pivot"), Away(scale_x=0.0, scale_y=0.0)),
    LeaveEnter(
        "shrink left", tr("shrinks to its left side"), tr("grows from its left side"), Away(scale_x=0.0, side="left")
    ),
    LeaveEnter(
        "shrink right",
        tr("shrinks to its right side"),
        tr("grows from its right side"),
        Away(scale_x=0.0, side="right"),
    ),
    LeaveEnter("shrink top", tr("shrinks to its top"), tr("grows from its top"), Away(scale_y=0.0, side="top")),
    LeaveEnter(
        "shrink bottom", tr("shrinks to its bottom"), tr("grows from its bottom"), Away(scale_y=0.0, side="bottom")
    ),
    LeaveEnter(
        "cut left", tr("is cut off from the left"), tr("is uncovered from the right"), Away(cut=(0.0, 0.0, 0.0, 1.0))
    ),
    LeaveEnter(
        "cut right", tr("is cut off from the right"), tr("is uncovered from the left"), Away(cut=(0.0, 1.0, 0.0, 0.0))
    ),
    LeaveEnter(
        "cut top", tr("is cut off from the top"), tr("is uncovered from the bottom"), Away(cut=(1.0, 0.0, 0.0, 0.0))
    ),
    LeaveEnter(
        "cut bottom", tr("is cut off from the bottom"), tr("is uncovered from the top"), Away(cut=(0.0, 0.0, 1.0, 0.0))
    ),
    LeaveEnter(
        "fall back", tr("falls back and fades"), tr("comes forward"), Away(scale_x=0.86, scale_y=0.86, opacity=0.0)
    ),
    LeaveEnter("blur", tr("blurs away"), tr("comes into focus"), Away(blur=12.0, opacity=0.0)),
    LeaveEnter("stay", tr("stays until the end"), tr("is there at once"), _PLAIN),
)
BY_KEY = {way.key: way for way in WAYS}


def leave_enter_of(pose: Away) -> LeaveEnter | None:
    """The ready way that a pose is, whatever it is behind; ``None`` for one of its own."""
    bare = replace(pose, behind="")
    return next((way for way in WAYS if way.pose == bare), None)


def words_of(pose: Away, leaves: bool) -> str:
    """A pose in words."""
    way = leave_enter_of(pose)
    words = (way.leaves if leaves else way.enters) if way is not None else tr("own")
    return tr("{words}, behind", words=words) if pose.behind else words


_SHORT = {
    "fade": (tr("fades"), tr("fades in")),
    "edge": (tr("{side} edge"), tr("{side} edge")),
    "drift": (tr("drifts"), tr("drifts in")),
    "shrink": (tr("shrinks"), tr("grows")),
    "cut": (tr("cut off"), tr("uncovered")),
    "fall": (tr("falls back"), tr("comes up")),
    "blur": (tr("blurs"), tr("sharpens")),
    "stay": (tr("stays"), tr("at once")),
}


def short_words(pose: Away, leaves: bool) -> str:
    """A pose in a word or two, for narrow places."""
    way = leave_enter_of(pose)
    if way is None:
        return tr("own")
    kind, _, side = way.key.partition(" ")
    return _SHORT[kind][0 if leaves else 1].format(side=tr(side) if side else "")


def mixed(pose: Away, way: LeaveEnter) -> Away:
    """A pose with a way put on it: only what the way is about changes."""
    own = {name: getattr(way.pose, name) for name in Away.__struct_fields__ if name != "behind"}
    about = {name: value for name, value in own.items() if value != getattr(_PLAIN, name)}
    return replace(pose, **about) if about else replace(_PLAIN, behind=pose.behind)


def taken(pose: Away, way: LeaveEnter) -> Away:
    """A way taken alone; what the layer is behind stays."""
    return replace(way.pose, behind=pose.behind)
