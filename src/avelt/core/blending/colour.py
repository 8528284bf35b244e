"""Colours: CSS text to numbers and back.

Numbers are red, green, blue, alpha, non-premultiplied, sRGB; 0..1 but for colours outside sRGB.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from functools import lru_cache
from typing import Any

from avelt.core.errors import FormatError
from avelt.core.words import tr

_LONGEST = 400  # letters of a colour that somebody wrote
_HEX = frozenset("0123456789abcdefABCDEF")
_WRITTEN = re.compile(r"rgb\((\d{1,3}) (\d{1,3}) (\d{1,3}) / ([01]|0?\.\d{1,3})\)")  # as ``to_text`` writes it


def _hex(text: str) -> tuple[float, float, float, float] | None:
    """The hexadecimal notation (CSS Color 4, section 5.2), which nearly all colours have; ``None`` for others."""
    digits = text[1:]
    if text[:1] != "#" or len(digits) not in (3, 4, 6, 8) or not set(digits) <= _HEX:
        return None
    if len(digits) < 6:
        digits = "".join(2 * digit for digit in digits)
    r, g, b, a = (int(digits[k : k + 2] or "ff", 16) / 255 for k in (0, 2, 4, 6))
    return r, g, b, a


@lru_cache(maxsize=4096)
def parse(text: str) -> tuple[float, float, float, float]:
    """CSS Color 4 text to (r, g, b, alpha) in sRGB; ``FormatError`` for what is no colour.

    >>> parse("#ff8000")[:3]
    (1.0, 0.5019607843137255, 0.0)
    """
    short = _hex(text)
    if short is not None:
        return short
    if len(text) > _LONGEST:
        raise FormatError(tr("{words!r} is not a colour.", words=text[:60]))
    written = _WRITTEN.fullmatch(text)
    if written is not None and max(map(int, written.groups()[:3])) <= 255:
        r, g, b = (int(digits) / 255 for digits in written.groups()[:3])
        return r, g, b, float(written[4])
    from tinycss2 import color4

    from avelt.core.blending.conversions import TO_SRGB

    try:
        colour: Any = color4.parse_color(text)
    except (ValueError, TypeError, RecursionError, OverflowError):
        colour = None
    if colour is None or isinstance(colour, str):
        raise FormatError(tr("{words!r} is not a colour.", words=text[:60]))
    parts = [0.0 if value is None else float(value) for value in colour.coordinates]
    if colour.space in ("srgb", "hsl", "hwb"):
        rgb = [0.0 if v is None else float(v) for v in colour.to("srgb").coordinates]
    elif colour.space in TO_SRGB:
        rgb = TO_SRGB[colour.space](parts).tolist()
    else:
        raise FormatError(
            tr("{words!r}: the colour space {space} is not known here.", words=text[:60], space=colour.space)
        )
    alpha = 0.0 if colour.alpha is None else float(colour.alpha)
    values = (rgb[0], rgb[1], rgb[2], min(1.0, max(0.0, alpha)))
    if not all(math.isfinite(v) for v in values):
        raise FormatError(tr("{words!r} is not a colour.", words=text[:60]))
    return values


def to_text(rgba: Iterable[float]) -> str:
    """The shortest usual CSS text: ``#rrggbb``, or ``rgb(r g b / a)`` when it lets light through.

    Rounded to 8 bits a channel (alpha to three digits), clipped to sRGB.
    """
    *rgb, a = (min(1.0, max(0.0, float(value))) for value in rgba)
    r, g, b = (round(value * 255) for value in rgb)
    if a >= 1.0:
        return f"#{r:02x}{g:02x}{b:02x}"
    alpha = f"{a:.3f}".rstrip("0").rstrip(".")
    return f"rgb({r} {g} {b} / {alpha})"
