"""In which ways two projects differ, in a few words: for somebody who has to choose between them."""

from __future__ import annotations

from typing import Any

from avelt.core.model.find import route_title
from avelt.core.model.values import Project
from avelt.core.words import tr

MOST = 8


FIELDS = (
    *("name", "curves", "inputs", "assets", "swatches", "grid", "first"),
    *("parts", "tracks", "tapes", "presets", "links"),
)


def differences(mine: Project, theirs: Project) -> list[str]:
    """What the other project has otherwise, a line each; at most a few, then how many more."""
    found: list[str] = []
    for what, ours, other in (
        ("frame", {f.id: f for f in mine.frames}, {f.id: f for f in theirs.frames}),
        ("route", {r.id: r for r in mine.routes}, {r.id: r for r in theirs.routes}),
    ):
        found += _between(what, ours, other, lambda ident: _title(mine, theirs, ident))
    for field in FIELDS:
        if getattr(mine, field) != getattr(theirs, field):
            found.append(
                tr("{field} differ", field=field) if field.endswith("s") else tr("the {field} differs", field=field)
            )
    more = len(found) - MOST
    return [*found[:MOST], tr("and {more} more", more=more)] if more > 0 else found


def _between(what: str, ours: dict[str, Any], other: dict[str, Any], title: Any) -> list[str]:
    made = []
    for ident in dict.fromkeys((*ours, *other)):
        if ident not in other:
            made.append(tr("{what} {ident} is only here", what=what, ident=title(ident)))
        elif ident not in ours:
            made.append(tr("{what} {ident} is only there", what=what, ident=title(ident)))
        elif ours[ident] != other[ident]:
            made.append(tr("{what} {ident} differs", what=what, ident=title(ident)))
    return made


def _title(mine: Project, theirs: Project, ident: str) -> str:
    for project in (mine, theirs):
        for frame in project.frames:
            if frame.id == ident:
                return f"“{frame.name}”"
        for route in project.routes:
            if route.id == ident:
                return f"“{route_title(project, route)}”"
    return ident
