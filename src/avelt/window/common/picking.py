"""What a click takes, the same in every station: the group first, with Ctrl or a double click one deeper."""

from __future__ import annotations

from collections.abc import Callable, Container, Sequence
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtGui import QMouseEvent

from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame, Layer

T = TypeVar("T")
_WIDE, _HIGH = 0.85, 0.4  # shares of the frame: a group as large as that is a container, not a thing


def taken(chain: Sequence[T], chosen: Container[T], deeper: bool, first: int = 0) -> T:
    """Which of the things that lie in each other, from the outermost (``chain``), a click takes.

    What of them is chosen already, else the first; ``deeper``: the one inside that.
    """
    known = [k for k, entry in enumerate(chain) if entry in chosen]
    k = known[-1] if known else first
    return chain[min(k + deeper, len(chain) - 1)]


def hit(
    frame: Frame,
    x: float,
    y: float,
    chosen: Sequence[str],
    deeper: bool = False,
    counts: Callable[[str], bool] | None = None,
) -> Layer | None:
    """The layer that a click takes at a point of the frame (px): always of what lies on top there. Locked layers let
    the click through. ``counts`` says which are of interest; where none is, all are."""
    inner = layer_at(frame, x, y, unlocked=True)
    if inner is None:
        return None
    flat = flatten(frame)
    chain, i = [inner], int(flat.parent[flat.index[inner.id]])
    while i >= 0:
        chain.insert(0, flat.layers[i])
        i = int(flat.parent[i])
    chain = [layer for layer in chain if counts is not None and counts(layer.id)] or chain
    first = next((k for k, layer in enumerate(chain) if not _holds_all(frame, layer)), len(chain) - 1)
    ident = taken([layer.id for layer in chain], chosen, deeper, first)
    return next(layer for layer in chain if layer.id == ident)


def _holds_all(frame: Frame, layer: Layer) -> bool:
    flat = flatten(frame)
    w, h = (float(v) for v in flat.bounds[flat.index[layer.id]][2:])
    return bool(layer.children) and w >= frame.w * _WIDE and h >= frame.h * _HIGH


def is_deeper(event: QMouseEvent) -> bool:
    """Whether a press goes one deeper."""
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
