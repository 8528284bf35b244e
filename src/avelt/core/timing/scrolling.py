"""Frames that scroll: how far they can, which of their layers go with it, and the frame as it looks scrolled."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.cache import Cache
from avelt.core.model.find import by_identity, walk
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Frame, Layer

Offset = tuple[float, float]
AT_TOP: Offset = (0.0, 0.0)
#: The clocks of a program that hold how far it is scrolled, px across and down.
ACROSS, DOWN = "\0across", "\0down"
_SHEET = ":sheet"


def most_scrolled(frame: Frame) -> Offset:
    """How far a frame can be scrolled, px across and down.

    >>> most_scrolled(Frame("F", "List", 360, 640, content=(360, 1200), scroll="down"))
    (0.0, 560.0)
    """
    across = max(0.0, frame.content[0] - frame.w) if frame.scroll in ("right", "both") else 0.0
    down = max(0.0, frame.content[1] - frame.h) if frame.scroll in ("down", "both") else 0.0
    return across, down


def within(frame: Frame, offset: Offset) -> Offset:
    """A place that the frame can be scrolled to, the nearest one."""
    most = most_scrolled(frame)
    return min(most[0], max(0.0, offset[0])), min(most[1], max(0.0, offset[1]))


def _layers_that_go(frame: Frame) -> frozenset[str]:
    if not frame.scroll:
        return frozenset()
    layers = frame.layers
    if layers and layers[-1].id.endswith(_SHEET):  # a frame that is shown over another: what lies in it
        layers = tuple(layer for layer in layers[-1].children if not layer.id.endswith(":ground"))
    return frozenset(layer.id for layer in layers if not layer.stays_put)


#: The layers that move as a frame is scrolled; all that lies in them goes with them.
layers_that_go = by_identity(_layers_that_go)


def _all_that_goes(frame: Frame) -> frozenset[str]:
    own = layers_that_go(frame)
    return frozenset(inner.id for layer in walk(frame.layers) if layer.id in own for inner in walk((layer,)))


#: The same with all that lies in them.
all_that_goes = by_identity(_all_that_goes)

_scrolled: Cache[Frame] = Cache(32)


def scrolled(frame: Frame, offset: Offset) -> Frame:
    """The frame as it is seen when it is scrolled so far: its layers are elsewhere. The same value for the same."""
    if offset == AT_TOP or not layers_that_go(frame):
        return frame
    dx, dy = offset

    def shifted(layer: Layer) -> Layer:
        return replace(layer, x=layer.x - dx, y=layer.y - dy)

    return _scrolled.get((frame,), offset, lambda: change_layers(frame, dict.fromkeys(layers_that_go(frame), shifted)))
