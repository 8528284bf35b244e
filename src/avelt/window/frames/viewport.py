"""Where the frames stand on the board: one scale, side by side, zoomed and panned."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QObject, QPoint, QPointF, QRectF, QSizeF, Signal
from PySide6.QtGui import QTransform

from avelt.core.model.find import by_identity
from avelt.core.model.values import Frame
from avelt.window.common.workspace import Workspace
from avelt.window.frames.overlay import RULER

HEAD, FOOT, GAP = 24.0, 22.0, 24.0
MORE = 30.0  # px: the length of a handle at a frame's edge
_LEAST, _MOST = 0.25, 64.0  # zoom on top of fitting the height


def _as_whole(frame: Frame) -> Frame:
    return replace(frame, w=max(frame.w, frame.content[0]), h=max(frame.h, frame.content[1]))


_whole = by_identity(_as_whole)


class Viewport(QObject):
    """The lay-out. ``zoom`` 1 fits the tallest frame's height; ``size`` is the board's, px."""

    moved = Signal()

    def __init__(self, workspace: Workspace, parent: QObject) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.size = QSizeF(640.0, 480.0)
        self.rulers = False
        self.whole = True  # whether the chosen frame is shown with all that it holds
        self.zoom = 1.0
        self.pan = QPointF(0.0, 0.0)

    def _corner(self) -> QPointF:
        inset = RULER if self.rulers else 0.0
        return QPointF(2.0 + inset, HEAD + inset)

    def fit_scale(self) -> float:
        """Widget px a frame px when the tallest frame fits."""
        tallest = max((frame.h for frame in self.workspace.project.frames), default=640.0)
        corner = self._corner()
        return max(0.02, (self.size.height() - corner.y() - FOOT - 6) / tallest)

    def to_widget(self, frame: Frame, rect: QRectF) -> QTransform:
        """From a frame's px to the widget's."""
        scale = rect.width() / self.page(frame).w
        return QTransform(scale, 0, 0, scale, rect.left(), rect.top())

    def spot(self, frame: Frame, rect: QRectF, point: QPointF) -> QPointF:
        """A point of the widget in a frame's px."""
        scale = rect.width() / self.page(frame).w
        return QPointF((point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale)

    def scale(self) -> float:
        """Widget px a frame px."""
        return self.fit_scale() * self.zoom

    def places(self) -> list[tuple[Frame, QRectF]]:
        """Every frame and where it stands."""
        scale, corner = self.scale(), self._corner()
        x, found = corner.x() - self.pan.x(), []
        for frame in self.workspace.project.frames:
            page = self.page(frame)
            found.append((frame, QRectF(x, corner.y() - self.pan.y(), page.w * scale, page.h * scale)))
            x += page.w * scale + GAP
        return found

    def page(self, frame: Frame) -> Frame:
        """A frame as it is shown: the chosen one with all that it holds (where that is wanted), others as the screen
        does."""
        chosen = self.workspace.frame
        return _whole(frame) if self.whole and frame.scroll and chosen is not None and chosen.id == frame.id else frame

    def more(self, frame: Frame) -> dict[str, QRectF]:
        """The handles that make a frame longer (``down``) or wider (``right``) than what is seen of it."""
        rect = self.rect_of(frame)
        down = QRectF(rect.center().x() - MORE / 2, rect.bottom() + 2, MORE, 6)
        right = QRectF(rect.right() + 2, rect.center().y() - MORE / 2, 6, MORE)
        return {"down": down, "right": right}

    def rect_of(self, frame: Frame) -> QRectF:
        """Where a frame stands; an empty rectangle when it is not there."""
        return next((rect for other, rect in self.places() if other.id == frame.id), QRectF())

    def under(self, point: QPointF) -> tuple[Frame, QRectF] | None:
        """The frame at a point, its name and foot included."""
        return next(((f, r) for f, r in self.places() if r.adjusted(0, -HEAD, 0, FOOT).contains(point)), None)

    def _extent(self) -> QPointF:
        scale, corner = self.scale(), self._corner()
        frames = self.workspace.project.frames
        pages = [self.page(frame) for frame in frames]
        wide = sum(page.w * scale + GAP for page in pages) - GAP + corner.x() + 2
        tall = max((page.h for page in pages), default=0.0) * scale + corner.y() + FOOT + 6
        return QPointF(wide, tall)

    def _keep(self) -> None:
        extent = self._extent()
        self.pan.setX(min(max(0.0, extent.x() - self.size.width()), max(0.0, self.pan.x())))
        self.pan.setY(min(max(0.0, extent.y() - self.size.height()), max(0.0, self.pan.y())))
        self.moved.emit()

    def pan_by(self, travel: QPointF) -> None:
        """Move what is shown."""
        self.pan += travel
        self._keep()

    def wheel(self, delta: QPoint, across: bool) -> None:
        """Along what does not fit: down when the frames are taller than the board, else sideways."""
        tall = self._extent().y() > self.size.height() + 1
        if delta.x() or across or not tall:
            self.pan_by(QPointF(-(delta.x() or delta.y()) / 2, 0.0))
        else:
            self.pan_by(QPointF(0.0, -delta.y() / 2))

    def zoom_at(self, factor: float, point: QPointF) -> None:
        """Larger or smaller, what lies at a point stays there."""
        places = self.places()
        if not places:
            return
        # The gaps between frames do not grow: what stays is a spot of the nearest frame.
        frame, rect = min(places, key=lambda place: abs(place[1].center().x() - point.x()))
        before = self.scale()
        spot = (point - rect.topLeft()) / before
        self.zoom = min(_MOST, max(_LEAST, self.zoom * factor))
        self.pan += self.rect_of(frame).topLeft() + spot * self.scale() - point
        self._keep()

    def restore(self, zoom: float, x: float, y: float) -> None:
        """As it was left: the zoom, and how far it is moved, px."""
        self.zoom = min(_MOST, max(_LEAST, zoom))
        self.pan = QPointF(x, y)
        self._keep()

    def set_scale(self, scale: float) -> None:
        """One px of a frame as so many of the widget."""
        middle = QPointF(self.size.width() / 2, self.size.height() / 2)
        self.zoom_at(scale / self.scale(), middle)

    def fit(self) -> None:
        """All of the height, from the first frame on."""
        self.zoom, self.pan = 1.0, QPointF(0.0, 0.0)
        self._keep()

    def fit_to(self, frame: Frame, box: tuple[float, float, float, float]) -> None:
        """A box (x, y, w, h) of a frame as large as it can be shown."""
        room = (self.size.width() * 0.8, self.size.height() * 0.8)
        scale = min(room[0] / max(box[2], 1.0), room[1] / max(box[3], 1.0), 32.0)
        self.zoom = min(_MOST, max(_LEAST, scale / self.fit_scale()))
        rect = self.rect_of(frame)
        scale = self.scale()
        centre = QPointF(rect.left() + (box[0] + box[2] / 2) * scale, rect.top() + (box[1] + box[3] / 2) * scale)
        self.pan += centre - QPointF(self.size.width() / 2, self.size.height() / 2)
        self._keep()

    def reveal(self, frame: Frame | None) -> None:
        """Bring a frame into sight."""
        if frame is None:
            return
        rect = self.rect_of(frame)
        if not (rect.right() > 40 and rect.left() < self.size.width() - 40):
            self.pan.setX(max(0.0, self.pan.x() + rect.left() - 20))
            self._keep()
