"""What moves with a value instead of by the clock, inside one frame: a layer that follows a drag, the scrolling, the
pointer or an input between how it stands and a second pose of it."""

from __future__ import annotations

from typing import Literal

from avelt.core.model.curves import Curve, Line
from avelt.core.model.motion import Pose
from avelt.core.model.second import LayerChanges
from avelt.core.model.triggers import Along, LetGo
from avelt.core.model.value import Value


class ByDrag(Value, frozen=True, tag_field="by", tag="drag"):
    """The travel of a drag of a layer, px along an axis; along a path layer the px of its length."""

    layer: str = ""
    along: Along = "down"
    path: str = ""
    let_go: LetGo = "nearer"


class ByScroll(Value, frozen=True, tag_field="by", tag="scroll"):
    """How far the frame is scrolled, px."""

    axis: Literal["down", "right"] = "down"


class ByPointer(Value, frozen=True, tag_field="by", tag="pointer"):
    """Where the pointer is over a layer (or the frame): a share of its width or height, 0..1."""

    layer: str = ""
    axis: Literal["right", "down"] = "right"


class ByInput(Value, frozen=True, tag_field="by", tag="input"):
    """The value of an input; yes is 1, no is 0."""

    input: str = ""


Source = ByDrag | ByScroll | ByPointer | ByInput


class Follow(Value, frozen=True):
    """One layer that follows a value: at ``start`` it stands as it is, at ``end`` in its second pose.

    The second pose is the layer moved by ``offset``, with what ``changes`` says. ``p = clamp((v - start) / (end -
    start))`` is eased by ``curve``; with a ``lag`` of tau ms ``q' = (p - q) / tau``. ``origin`` is what a copied
    frame's follow shares with its source.
    """

    id: str
    origin: str
    layer: str
    name: str
    by: Source = ByScroll()
    start: float = 0.0
    end: float = 160.0
    lag: float = 0.0
    offset: Pose = Pose()
    curve: Curve = Line()
    changes: LayerChanges = LayerChanges()
    muted: bool = False
