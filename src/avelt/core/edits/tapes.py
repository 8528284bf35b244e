"""Edits of the tapes that are kept in a project."""

from __future__ import annotations

import msgspec

from avelt.core.edits.frames import free_name
from avelt.core.errors import EditError, NotFound
from avelt.core.model.tapes import MOST_TAPES, Tape
from avelt.core.model.values import Project
from avelt.core.words import tr

replace = msgspec.structs.replace


def keep_tape(project: Project, tape: Tape) -> tuple[Project, str]:
    """The project with a tape more; gives the name that it has there."""
    if len(project.tapes) >= MOST_TAPES:
        raise EditError(tr("A project keeps at most {most_tapes} tapes.", most_tapes=MOST_TAPES))
    name = free_name([known.name for known in project.tapes], tape.name.strip() or "Tape")
    return replace(project, tapes=(*project.tapes, replace(tape, name=name))), name


def tape_named(project: Project, name: str) -> Tape:
    """The kept tape of a name; ``NotFound`` when there is none."""
    for tape in project.tapes:
        if tape.name == name:
            return tape
    raise NotFound(tr("There is no tape {name!r}.", name=name))


def put_tape(project: Project, name: str, tape: Tape) -> Project:
    """Another tape in the place of the one of a name."""
    old = tape_named(project, name)
    tape = replace(tape, name=name)
    return project if tape == old else replace(project, tapes=tuple(tape if t is old else t for t in project.tapes))


def rename_tape(project: Project, name: str, new: str) -> Project:
    """Another name for a tape; ``EditError`` for none, or one that another has."""
    old, new = tape_named(project, name), new.strip()
    if not new:
        raise EditError(tr("A tape needs a name."))
    if any(tape.name == new for tape in project.tapes if tape is not old):
        raise EditError(tr("There is a tape {new!r} already.", new=new))
    return replace(project, tapes=tuple(replace(t, name=new) if t is old else t for t in project.tapes))


def remove_tape(project: Project, name: str) -> Project:
    """Without the tape."""
    old = tape_named(project, name)
    return replace(project, tapes=tuple(tape for tape in project.tapes if tape is not old))
