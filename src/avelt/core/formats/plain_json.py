"""JSON from outside whose shape is looked at by hand."""

from __future__ import annotations

from typing import Any

import msgspec

from avelt.core.errors import FormatError
from avelt.core.words import tr


def plain_json(data: bytes, most: int, what: str, place: str) -> Any:
    """What JSON of at most so many bytes says; ``FormatError`` with the place, saying that it is no ``what``.

    >>> plain_json(b'{"a": [1]}', 100, "list of steps", "x.json")
    {'a': [1]}
    """
    if len(data) > most:
        raise FormatError(tr("The file is larger than {most} MB.", most=most // 2**20), place)
    try:
        return msgspec.json.decode(data)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("This is no {what}: {rstrip}.", what=what, rstrip=str(error).rstrip(".")), place) from None
