"""What a preset is put on, and what comes of it."""

from __future__ import annotations

from avelt.core.errors import EditError
from avelt.core.model.motion import PairKey
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.words import tr


class Where(Record, frozen=True):
    """What a preset is put on: pairs of a route, whole routes, or layers of a frame. ``at`` is where a part's use
    stands, px."""

    routes: tuple[str, ...] = ()
    pairs: tuple[PairKey, ...] = ()
    frame: str = ""
    layers: tuple[str, ...] = ()
    at: tuple[float, float] = (0.0, 0.0)


class Done(Record, frozen=True):
    """What came of it: the project, and a sentence about what did not fit (empty: all did)."""

    project: Project
    says: str = ""


def first_route(where: Where) -> str:
    """The route whose pairs are meant; ``EditError`` when none is."""
    if not where.routes:
        raise EditError(tr("Choose a route first."))
    return where.routes[0]
