"""Pictures of frames: kept as long as a frame stays the same, and made bit by bit where there are many.

A picture of a large frame takes a while. So that a station can be used at once, only so many layers are painted while
it is drawn; the rest is made afterwards, one frame at a time, and until then stands in what is known of the frame.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage

from avelt.core.blending import colour
from avelt.core.cache import Cache
from avelt.core.model.find import layer_index
from avelt.core.model.parts import uses_in
from avelt.core.model.values import Frame, Part

Seen = tuple[Frame, tuple[Part, ...] | None]
SMALL = 300  # layers: a frame of no more is painted at once, however many there are
AT_ONCE = 1500  # layers that are painted while something is drawn
_BETWEEN = 12  # ms between two of the pictures that fill in, for what else there is to do
_KEPT_PICTURES, _KEPT_PIXELS = 200, 40e6
_FINER = 6.0  # how much larger a picture may be that is made smaller instead of being painted anew


class Pictures(QObject):
    """Pictures by frame and scale (pixels a px of the frame); ``paint`` makes one. ``parts`` are those of the project:
    the picture of a frame that uses some is another one when they are."""

    made = Signal()

    def __init__(
        self,
        paint: Callable[[Frame, float], QImage],
        parent: QObject | None = None,
        parts: Callable[[], tuple[Part, ...]] = tuple,
    ) -> None:
        super().__init__(parent)
        self._paint, self._parts = paint, parts
        self._kept: Cache[QImage] = Cache(_KEPT_PICTURES, lambda image: image.width() * image.height(), _KEPT_PIXELS)
        self._newest: dict[str, tuple[Seen, float, QImage]] = {}
        self._taken: dict[str, Seen] = {}  # those of which the newest was made before, and none since
        self._queue: dict[tuple[str, float], Frame] = {}
        self._painted = 0
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._next)

    def picture(self, frame: Frame, scale: float) -> QImage:
        """The picture, made now when it is not kept."""
        return self._kept.get(self.made_from(frame), round(scale, 4), lambda: self._make(frame, scale))

    def soon(self, frame: Frame, scale: float) -> QImage:
        """The picture when it is kept or quickly made; else one that stands in for it, and ``made`` says when it is."""
        if self._kept.has(self.made_from(frame), round(scale, 4)):
            return self.picture(frame, scale)
        known = self._newest.get(frame.id)
        count = len(layer_index(frame))
        if known is not None and self.was_taken(frame):
            self._queue[frame.id, round(scale, 4)] = frame
            self._turn.start(_BETWEEN)
            return known[2]
        if count <= SMALL or self._painted + count <= AT_ONCE or self._smaller(known, frame, scale):
            return self.picture(frame, scale)
        self._queue[frame.id, round(scale, 4)] = frame
        self._turn.start(_BETWEEN)
        return known[2] if known is not None else _ground(frame)

    def take(self, frame: Frame, scale: float, image: QImage) -> None:
        """A picture that was made before: it need not be made again, and stands in for those of other scales."""
        seen = self._taken[frame.id] = self.made_from(frame)
        self._kept.get(seen, round(scale, 4), lambda: image)
        self._newest[frame.id] = (seen, scale, image)

    def was_taken(self, frame: Frame) -> bool:
        """Whether all that is known of a frame was made before."""
        return self._is_of(self._taken.get(frame.id), frame)

    def made_from(self, frame: Frame) -> Seen:
        """What a picture of a frame is made from."""
        return (frame, self._parts()) if uses_in(frame) else (frame, None)

    def _is_of(self, seen: Seen | None, frame: Frame) -> bool:
        """Whether that is a frame as it is now."""
        return seen is not None and all(one is other for one, other in zip(seen, self.made_from(frame), strict=True))

    def newest(self, frames: Iterable[Frame]) -> list[tuple[str, float, QImage]]:
        """The last picture made of each of these very frames: its id, scale and picture."""
        known = ((frame, self._newest.get(frame.id)) for frame in frames)
        return [
            (frame.id, entry[1], entry[2])
            for frame, entry in known
            if entry is not None and self._is_of(entry[0], frame)
        ]

    def waiting(self) -> int:
        """How many pictures are still to be made."""
        return len(self._queue)

    def _smaller(self, known: tuple[Seen, float, QImage] | None, frame: Frame, scale: float) -> bool:
        return known is not None and self._is_of(known[0], frame) and scale <= known[1] <= scale * _FINER

    def _make(self, frame: Frame, scale: float) -> QImage:
        known = self._newest.get(frame.id)
        count = len(layer_index(frame))
        if known is not None and count > SMALL and self._smaller(known, frame, scale):
            size = max(1, round(frame.w * scale)), max(1, round(frame.h * scale))
            ratio, mode = Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
            return known[2].scaled(*size, ratio, mode)
        self._painted += count
        self._turn.start(_BETWEEN)
        self._taken.pop(frame.id, None)
        image = self._paint(frame, scale)
        self._newest[frame.id] = (self.made_from(frame), scale, image)
        return image

    def _next(self) -> None:
        """One picture of those that wait; the others after what else there is to do."""
        self._painted = 0
        if not self._queue:
            return
        key = next(iter(self._queue))
        frame = self._queue.pop(key)
        self.picture(frame, key[1])
        self.made.emit()
        self._turn.start(_BETWEEN)


def _ground(frame: Frame) -> QImage:
    image = QImage(1, 1, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(QColor.fromRgbF(*colour.parse(frame.background)))
    return image
