"""Writes the JSON Schemas of all file formats, made from the types, into docs/formats."""

from __future__ import annotations

import inspect
import json
from pathlib import Path
from typing import Any

from avelt.core.formats import project_file
from avelt.core.presets import values
from avelt.core.running import tape
from avelt.core.steps import read

FOLDER = Path(__file__).resolve().parents[3] / "docs" / "formats"


def files() -> dict[Path, str]:
    """Every schema file and its text."""
    made = {
        "project.schema.json": project_file.schema(),
        "preset.schema.json": values.schema(),
        "steps.schema.json": read.schema(),
        "tape.schema.json": tape.schema(),
    }
    return {FOLDER / name: json.dumps(_plain(schema), indent=1, sort_keys=True) + "\n" for name, schema in made.items()}


def _plain(schema: Any) -> Any:
    """With descriptions as they are read: some versions of msgspec leave the space in front of docstrings' lines."""
    if isinstance(schema, list):
        return [_plain(part) for part in schema]
    if not isinstance(schema, dict):
        return schema
    return {
        key: inspect.cleandoc(part) if key == "description" and isinstance(part, str) else _plain(part)
        for key, part in schema.items()
    }


def main() -> None:
    """Write them."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for path, text in files().items():
        path.write_text(text)


if __name__ == "__main__":
    main()
