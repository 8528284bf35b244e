"""Shadows as CSS writes them."""

from __future__ import annotations

from avelt.core.blending import colour
from avelt.core.errors import FormatError
from avelt.core.formats.svg_values import length
from avelt.core.model.values import Shadow
from avelt.core.words import tr


def css_shadow(text: str, size: float = 16.0) -> Shadow:
    """``x y blur colour`` in any of CSS's orders as a shadow; ``FormatError`` for anything else.

    >>> css_shadow("0 4px 6px #00000080").blur
    6.0
    """
    lengths: list[float] = []
    tone, inner = "", False
    import tinycss2

    for token in tinycss2.parse_component_value_list(text):
        word = tinycss2.serialize([token]).strip()
        if token.type in ("whitespace", "comment"):
            continue
        if token.type in ("dimension", "number"):
            lengths.append(length(word, 0.0, size))
        elif word == "inset":
            inner = True
        else:
            tone += word
    if not 2 <= len(lengths) <= 3:
        raise FormatError(tr("“{words}” is not a shadow: it needs x, y and a blur", words=text[:40]))
    blur = lengths[2] if len(lengths) > 2 else 0.0
    return Shadow(colour.to_text(colour.parse(tone or "black")), lengths[0], lengths[1], max(0.0, blur), inner)
