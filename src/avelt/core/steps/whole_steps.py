"""Steps that bring whole things as a project file spells them: what a delivery as steps is made of."""

from __future__ import annotations

from typing import Any, get_args, get_type_hints

import msgspec

from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.pictures_in import read_picture
from avelt.core.model.values import LISTS, Project
from avelt.core.steps.names import nearest
from avelt.core.steps.said import Said, Site

#: What is in each list of a project.
_TYPES: dict[str, Any] = {name: get_args(hint)[0] for name, hint in get_type_hints(Project).items() if name in LISTS}


def do_project(project: Project, said: Said, site: Site) -> Project:
    """What a project has but once."""
    try:
        found = msgspec.convert({key: said[key] for key in ("name", "grid", "swatches") if key in said}, _Once)
    except msgspec.ValidationError as error:
        raise FormatError(f"This cannot be: {error}.") from None
    if said.get("bare") and not project.frames:
        project = msgspec.structs.replace(project, curves=())
    next_id = max(project.next_id, int(said.get("next_id", 1)))
    return msgspec.structs.replace(
        project,
        name=found.name or project.name,
        grid=found.grid or project.grid,
        swatches=project.swatches + tuple(s for s in found.swatches if s not in project.swatches),
        next_id=next_id,
    )


class _Once(msgspec.Struct, frozen=True):
    name: str = ""
    grid: float = 0.0
    swatches: tuple[str, ...] = ()


def do_add(project: Project, said: Said, site: Site) -> Project:
    """One more entry of a list of the project, spelled as in its file."""
    where = said["to"]
    if where not in LISTS:
        raise FormatError(f"A project has no {where!r}.", hint=nearest(str(where), LISTS))
    try:
        made = msgspec.convert(said["value"], _TYPES[where])
    except msgspec.ValidationError as error:
        raise FormatError(f"This cannot be read as one of the {where}: {error}.") from None
    if where == "assets":
        picture = read_picture(made.data, "the picture")
        if picture.id != made.id:
            raise FormatError("The picture is damaged.")
        if any(asset.id == made.id for asset in project.assets):
            return project
        made = picture
    ident = getattr(made, "id", None)
    known = getattr(project, where)
    if ident is not None and any(getattr(entry, "id", None) == ident for entry in known):
        raise EditError(f"There is one of the {where} with the id {ident!r} already.")
    return msgspec.structs.replace(project, **{where: (*known, made)})


def whole(project: Project) -> None:
    """Raise ``FormatError`` when what was added does not hold together."""
    check(project)
