"""Whether single values read from outside can be used: numbers, sizes, ids, colours."""

from __future__ import annotations

import math

from avelt.core.blending import colour
from avelt.core.errors import FormatError
from avelt.core.model.limits import MAX_COORDINATE
from avelt.core.words import tr


def number_is_sound(value: float, place: str, most: float = MAX_COORDINATE, least: float | None = None) -> None:
    """Raise ``FormatError`` unless the number is finite and inside its limits."""
    if abs(value) > most or not math.isfinite(value) or (least is not None and value < least):
        said = f"{value:g}" if abs(value) < 1e300 else tr("A number of more than 300 digits")
        raise FormatError(tr("{value} is not a number that can be used here.", value=said), place)


def size_is_sound(w: float, h: float, place: str) -> None:
    """Raise ``FormatError`` unless a frame can be so wide and high."""
    number_is_sound(w, f"{place}.w", 100_000, 1e-3)
    number_is_sound(h, f"{place}.h", 100_000, 1e-3)


def unique(ids: list[str], place: str) -> None:
    """Raise ``FormatError`` when an id is empty or there twice."""
    seen: set[str] = set()
    for k, ident in enumerate(ids):
        if not ident or ident in seen:
            raise FormatError(
                tr("The id {ident!r} is there twice.", ident=ident) if ident else tr("An id is empty."),
                f"{place}[{k}].id",
            )
        seen.add(ident)


def colour_is_sound(text: str, place: str) -> None:
    """Raise ``FormatError`` unless a text is a colour."""
    try:
        colour.parse(text)
    except FormatError as error:
        raise FormatError(error.sentence, place) from None
