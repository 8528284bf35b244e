"""What a step stands beside, and reading numbers of it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from avelt.core.formats.svg_text import TextMeasure, rough_width
from avelt.core.record import Record
from avelt.core.steps.properties import numbers

Said = dict[str, Any]


class Site(Record, frozen=True):
    """What a step stands beside: the folder that its files are in, and how wide words are."""

    folder: Path
    measure: TextMeasure = rough_width


def ms_of(said: Said, *names: str) -> float | None:
    """The first of some numbers that is said."""
    found = next((name for name in names if name in said), "")
    return numbers(said[found], 1, 1, found)[0] if found else None
