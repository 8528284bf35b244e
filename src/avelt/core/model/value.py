"""What every value of the model is: frozen, short in files, and strict about what it does not know."""

from __future__ import annotations

import msgspec


class Value(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The base of all values. A field that a file has and the value has not is refused with its place, never dropped.

    Defaults are left out of files: changing one is a change of the format, and needs a step in ``formats/migrate.py``.
    """
