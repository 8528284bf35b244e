"""What an edit of cues must leave whole, and what it did beside what was asked for, in words."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar

from avelt.core.errors import EditError
from avelt.core.model.find import layer_index, route_by_id
from avelt.core.model.motion import CueKey, Tie
from avelt.core.model.properties import BY_KEY
from avelt.core.model.values import Project
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import Plan, plan_of
from avelt.core.words import tr

P = ParamSpec("P")
Made = TypeVar("Made", Project, tuple[Project, str])
_NOTHING = 1e-6  # ms


def cue_name(project: Project, route_id: str, key: CueKey) -> str:
    """A cue in words: its layer's name, and its property."""
    frame = ends(project, route_by_id(project, route_id))[0 if key.from_id else 1]
    layer = layer_index(frame).get(key.from_id or key.to_id or "")
    name = layer.name if layer is not None else "cue"
    return f"{name} · {BY_KEY[key.prop].label}" if key.prop else name


def plan(project: Project, route_id: str) -> Plan:
    """The times of a route's cues."""
    return plan_of(project, route_by_id(project, route_id).transition)


def lengths_kept(edit: Callable[Concatenate[Project, str, P], Made]) -> Callable[Concatenate[Project, str, P], Made]:
    """The same edit, which raises ``EditError`` with the names when ties would leave a cue less time than it has."""

    @wraps(edit)
    def checked(project: Project, route_id: str, /, *args: P.args, **more: P.kwargs) -> Made:
        made = edit(project, route_id, *args, **more)
        refuse_crushed(project, made[0] if isinstance(made, tuple) else made, route_id)
        return made

    return checked


def refuse_crushed(before: Project, after: Project, route_id: str) -> None:
    """Raise ``EditError`` when a cue that is tied at both ends has no time left, and had some before; or when one that
    is tied at its end would have to begin before 0."""
    if after is before:
        return
    old, new = plan(before, route_id), plan(after, route_id)
    for (key, at), tie in new.ties.items():
        if at == "end" and (key, "start") not in new.ties:
            _refuse_too_early(after, route_id, new, old, tie)
        other = new.ties.get((key, "end"))
        if at != "start" or other is None:
            continue
        start, end = new.of(key)
        was = old.of(key)
        if end - start <= _NOTHING < was[1] - was[0]:
            own, first, last = (cue_name(after, route_id, k) for k in (key, tie.to, other.to))
            raise EditError(
                tr(
                    "{own} would have no time left between {first} and {last}, which it is tied to.",
                    own=own,
                    first=first,
                    last=last,
                )
            )


def _refuse_too_early(project: Project, route_id: str, new: Plan, old: Plan, tie: Tie) -> None:
    start, end = new.base(tie.cue)
    now, was = new.of(tie.cue), old.of(tie.cue)
    if now[1] - now[0] < min(end - start, was[1] - was[0]) - _NOTHING:
        own, to = (cue_name(project, route_id, key) for key in (tie.cue, tie.to))
        raise EditError(
            tr("{own} lasts {ms:g} ms and would begin before 0: it is tied to {to}.", own=own, ms=end - start, to=to)
        )


def beside(before: Project, after: Project, route_id: str) -> str:
    """What an edit of ties and staggers undid of others, as a sentence; empty for nothing."""
    old, new = (route_by_id(project, route_id).transition for project in (before, after))

    def name(key: CueKey) -> str:
        return cue_name(after, route_id, key)

    # An offset that changed leaves the tie; what is tied to something else at that end lost the older one.
    left = {(tie.cue, tie.at, tie.to) for tie in new.ties}
    said = [
        tr("{cue} is no longer tied to {to}", cue=name(tie.cue), to=name(tie.to))
        for tie in old.ties
        if (tie.cue, tie.at, tie.to) not in left
    ]
    staggers = {entry.id: set(entry.cues) for entry in new.staggers}
    for entry in old.staggers:
        gone = [key for key in entry.cues if key not in staggers.get(entry.id, ())]
        words = ", ".join(map(name, gone[:3])) + (tr(" and {count} more", count=len(gone) - 3) if len(gone) > 3 else "")
        if gone and entry.id not in staggers:
            said.append(tr("the stagger of {words} is gone", words=words))
        elif gone:
            said.append(tr("{words} left their stagger", "{words} left its stagger", len(gone), words=words))
    text = "; ".join(said)
    return text[:1].upper() + text[1:] + "." if text else ""
