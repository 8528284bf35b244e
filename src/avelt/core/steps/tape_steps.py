"""Steps that keep tapes in the project."""

from __future__ import annotations

import msgspec

from avelt.core.edits import tapes
from avelt.core.errors import FormatError
from avelt.core.model.tape_sound import tape_is_sound
from avelt.core.model.tapes import Tape
from avelt.core.model.values import Project
from avelt.core.steps.said import Said, Site

_KEYS = ("name", "start", "events", "until")


def do_tape(project: Project, said: Said, site: Site) -> Project:
    """A tape that is kept in the project; one of the same name gives way to it."""
    try:
        tape = msgspec.convert({key: said[key] for key in _KEYS if key in said}, Tape)
    except msgspec.ValidationError as error:
        raise FormatError(f"This is no tape: {error}.") from None
    tape_is_sound(tape)
    if any(known.name == tape.name for known in project.tapes):
        return tapes.put_tape(project, tape.name, tape)
    return tapes.keep_tape(project, tape)[0]
