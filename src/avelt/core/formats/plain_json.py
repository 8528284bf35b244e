"""JSON from outside whose shape is looked at by hand."""

from __future__ import annotations

from typing import Any

import msgspec

from avelt.core.errors import FormatError


def plain_json(data: bytes, most: int, what: str, place: str) -> Any:
    """What JSON of at most so many bytes says; ``FormatError`` with the place, saying that it is no ``what``.

    >>> plain_json(b'{"a": [1]}', 100, "list of steps", "x.json")
    {'a': [1]}
    """
    if len(data) > most:
        raise FormatError(f"The file is larger than {most // 2**20} MB.", place)
    try:
        return msgspec.json.decode(data)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(f"This is no {what}: {str(error).rstrip('.')}.", place) from None
