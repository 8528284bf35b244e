"""Reading a list of steps and applying it, all or none."""

from __future__ import annotations

from typing import Any

from avelt.core.errors import AveltError, FormatError
from avelt.core.formats.plain_json import plain_json
from avelt.core.model.values import Project
from avelt.core.steps.names import nearest
from avelt.core.steps.part_steps import OF_PARTS, in_place
from avelt.core.steps.said import Site
from avelt.core.steps.verbs import BY_NAME, VERBS, Field
from avelt.core.steps.whole_steps import whole

MOST_STEPS = 100_000
MOST_BYTES = 256 * 2**20  # pictures may be in it
_OPEN = {"any": None, "value": None, "then": None, "trigger": dict, "pose": dict, "text": str, "flag": bool}


def steps_of(data: bytes, place: str) -> list[dict[str, Any]]:
    """The steps in a file's bytes; ``FormatError`` with the place of what is wrong."""
    found = plain_json(data, MOST_BYTES, "list of steps", place)
    if isinstance(found, dict) and "steps" in found:
        found = found["steps"]
    if not isinstance(found, list) or any(not isinstance(step, dict) for step in found):
        raise FormatError("Steps are a list of objects.", place)
    if len(found) > MOST_STEPS:
        raise FormatError(f"At most {MOST_STEPS:,} steps can be taken at once.", place)
    return found


def applied(project: Project, steps: list[dict[str, Any]], site: Site, place: str = "") -> Project:
    """The project after all steps; an ``AveltError`` with the number of the step (from 1) when one cannot be taken."""
    for number, step in enumerate(steps, 1):
        try:
            project = _taken(project, step, site)
        except AveltError as error:
            raise error.at(f"{place}, step {number}" if place else f"step {number}") from None
        except RecursionError:
            where = f"{place}, step {number}" if place else f"step {number}"
            raise FormatError("A value lies too deep in brackets to be read.", where) from None
    if any(step.get("do") == "add" for step in steps):
        try:
            whole(project)
        except FormatError as error:
            raise error.at(place or "the steps") from None
    return project


def _taken(project: Project, step: dict[str, Any], site: Site) -> Project:
    name = step.get("do")
    verb = BY_NAME.get(name) if isinstance(name, str) else None
    if verb is None:
        if name is None:
            raise FormatError("“do” is missing.")
        raise FormatError(f"There is no verb {name!r}.", hint=nearest(str(name), BY_NAME))
    fields = {field.name: field for field in verb.fields}
    for key, value in step.items():
        if key == "do" or (key == "part" and verb.name not in OF_PARTS):
            continue
        if key not in fields:
            raise FormatError(f"{verb.name!r} has no {key!r}.", hint=nearest(key, fields))
        _check(fields[key], value)
    for field in verb.fields:
        if field.needed and field.name not in step:
            raise FormatError(f"{verb.name!r} needs {field.name!r}.")
    return in_place(project, step, lambda stage, said: verb.run(stage, said, site), verb.name)


def _check(field: Field, value: object) -> None:
    """Raise ``FormatError`` unless a value is of its field's kind."""
    wanted = _OPEN.get(field.kind)
    if wanted is not None:
        fits = isinstance(value, wanted)
    elif field.kind == "number":
        fits = isinstance(value, int | float) and not isinstance(value, bool)
    elif field.kind == "numbers":
        fits = isinstance(value, list)
    elif field.kind == "names":
        fits = isinstance(value, list) and bool(value) and all(isinstance(entry, str) for entry in value)
    else:
        fits = True
    if not fits:
        raise FormatError(f"{field.name!r} is {_SAYS[field.kind]}.")


_SAYS = {
    "text": "text",
    "flag": "true or false",
    "number": "a number",
    "numbers": "a list of numbers",
    "names": "a list of names",
    "pose": 'an object of properties, such as {"opacity": 0}',
    "trigger": 'an object such as {"tap": "Card"}',
}
_JSON = {
    "text": {"type": "string"},
    "flag": {"type": "boolean"},
    "number": {"type": "number"},
    "numbers": {"type": "array", "items": {"type": "number"}},
    "names": {"type": "array", "items": {"type": "string"}, "minItems": 1},
    "pose": {"type": "object"},
    "trigger": {"type": "object"},
}


def schema() -> dict[str, Any]:
    """The JSON Schema of a file of steps, made from the table of verbs."""
    one_of = [
        {
            "type": "object",
            "description": verb.says,
            "properties": {
                "do": {"const": verb.name},
                "part": {"type": "string"},
                **{field.name: _JSON.get(field.kind, {}) for field in verb.fields},
            },
            "required": ["do", *(field.name for field in verb.fields if field.needed)],
            "additionalProperties": False,
        }
        for verb in VERBS
    ]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Steps",
        "type": "array",
        "maxItems": MOST_STEPS,
        "items": {"oneOf": one_of},
    }
