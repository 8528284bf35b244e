"""The kinds of layer, declared once: what each can do. Rooms keep a table of their own, by the type of the body.

To add a kind: a struct and its place in ``values.Body``, a row here, and a row in each table that a test names
(``tests/core/test_kinds.py``): the outline, what is painted, the check of files, the snapshot.
"""

from __future__ import annotations

from avelt.core.model.values import Body, Box, Group, Layer, Oval, Path, Picture, Text, Use
from avelt.core.record import Record


class Kind(Record, frozen=True):
    """One row.

    ``holds``: other layers lie in it. ``shape``: it is an outline that can be reshaped into another. ``painted``: its
    fills and its stroke are its own. ``makes_path``: it can be made a path.
    """

    word: str
    body: type[Body]
    holds: bool = False
    shape: bool = False
    painted: bool = True
    makes_path: bool = False


KINDS = (
    Kind("box", Box, shape=True, makes_path=True),
    Kind("oval", Oval, shape=True, makes_path=True),
    Kind("path", Path, shape=True),
    Kind("text", Text, makes_path=True),
    Kind("picture", Picture, painted=False),
    Kind("group", Group, holds=True, painted=False),
    Kind("use", Use, painted=False),
)
_BY_BODY: dict[type, Kind] = {kind.body: kind for kind in KINDS}


def kind_of(layer: Layer) -> Kind:
    """The row of a layer's kind."""
    return _BY_BODY[type(layer.body)]


def group_of(layer: Layer) -> Group | None:
    """What a group says of its layers; ``None`` for all other kinds."""
    return layer.body if isinstance(layer.body, Group) else None


def mask_of(layer: Layer) -> str:
    """The id of the layer that masks the others of a group; empty for none and for all other kinds."""
    return layer.body.mask if isinstance(layer.body, Group) else ""


def words_of(layer: Layer) -> str:
    """The words of a text; empty for all other kinds."""
    return layer.body.words if isinstance(layer.body, Text) else ""


def part_of(layer: Layer) -> str:
    """The id of the part that a use is of; empty for all other kinds."""
    return layer.body.part if isinstance(layer.body, Use) else ""


def asset_of(layer: Layer) -> str:
    """The id of a picture's asset; empty for all other kinds."""
    return layer.body.asset if isinstance(layer.body, Picture) else ""
