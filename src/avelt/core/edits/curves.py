"""Edits of named curves: names, keeping, giving up; and making a use of one a cue's own."""

from __future__ import annotations

import msgspec

from avelt.core.curves.named import plain, used_by
from avelt.core.edits.frames import free_name
from avelt.core.edits.routes import name_curve, set_cue
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, Named
from avelt.core.model.values import CueKey, NamedCurve, Project
from avelt.core.words import tr

replace = msgspec.structs.replace


def curve_by_id(project: Project, curve_id: str) -> NamedCurve:
    """The named curve of this id; ``EditError`` when it is gone."""
    for entry in project.curves:
        if entry.id == curve_id:
            return entry
    raise EditError(tr("The curve is not there any more."))


def rename_curve(project: Project, curve_id: str, name: str) -> Project:
    """Another name; no two named curves share one."""
    entry, name = curve_by_id(project, curve_id), name.strip()
    if not name or name == entry.name:
        return project
    if name in [other.name for other in project.curves]:
        raise EditError(tr("There is a curve “{name}” already.", name=name))
    made = replace(entry, name=name)
    return replace(project, curves=tuple(made if e.id == curve_id else e for e in project.curves))


def remove_curve(project: Project, curve_id: str) -> Project:
    """Without a named curve that nothing uses."""
    entry, count = curve_by_id(project, curve_id), used_by(project, curve_id)
    if count:
        raise EditError(
            tr(
                "“{entry}” is used {n} times: give those another one first.",
                "“{entry}” is used {n} time: give those another one first.",
                count,
                entry=entry.name,
            )
        )
    return replace(project, curves=tuple(e for e in project.curves if e.id != curve_id))


def keep_curve(project: Project, route_id: str, key: CueKey, curve: Curve, name: str) -> tuple[Project, str]:
    """A cue's curve as a named one that the cue then uses; gives its id."""
    wanted = free_name([entry.name for entry in project.curves], name.strip() or "Curve")
    project, ident = name_curve(project, wanted, plain(project, curve))
    return set_cue(project, route_id, key, curve=Named(ident)), ident


def make_own(project: Project, route_id: str, key: CueKey, curve: Curve) -> Project:
    """A use of a named curve made the cue's own: later edits of the name leave it alone."""
    return set_cue(project, route_id, key, curve=plain(project, curve))
