"""The pictures of the shelf's cards: made bit by bit beside what else there is, and kept on the disk by content."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, QRectF, QSize, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QPainter

from avelt import __version__
from avelt.core.cache import Cache
from avelt.core.errors import AveltError
from avelt.core.formats.disk import write_atomically
from avelt.core.presets.picture import Picture, picture_of
from avelt.core.presets.values import Preset, to_json
from avelt.paint.effects import FORMAT
from avelt.paint.moving import png_bytes
from avelt.paint.painter import ScenePainter
from avelt.paint.preset_picture import still_of

AT_ONCE = 1  # pictures that are made while the cards are drawn; the others fill in
_IN_MEMORY, _ON_DISK = 400, 4_000


def default_folder() -> Path:
    """Where pictures are kept: under the XDG cache folder, to be removed at any time."""
    from platformdirs import user_cache_path

    return Path(user_cache_path("avelt", appauthor=False)) / "preset-pictures"


class CardPictures(QObject):
    """Stills by preset and size in pixels, and the programs of those that move. ``made`` says that one came."""

    made = Signal()

    def __init__(self, parent: QObject, folder: Callable[[], Path] = default_folder) -> None:
        super().__init__(parent)
        self._folder = folder
        self._moving: Cache[Picture] = Cache(_IN_MEMORY)
        self._stills: Cache[QImage] = Cache(_IN_MEMORY)
        self._queue: dict[tuple[int, int, int], Preset] = {}
        self._painter = ScenePainter()
        self._made_now, self._wrote = 0, False
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.timeout.connect(self._next)

    def moving(self, preset: Preset) -> Picture:
        """The moving picture, made now when it is not known."""
        return self._moving.get((preset,), None, lambda: picture_of(preset))

    def at(self, preset: Preset, ms: float, size: QSize) -> QImage:
        """The moving picture at a moment, as large as a card has room."""
        picture = self.moving(preset)
        return _fitted(picture, size, lambda scale: self._painter.render(picture.program.from_start(ms), scale))

    def still(self, preset: Preset, size: QSize) -> QImage | None:
        """The still when it is known, in memory or on the disk; else ``None``, and it will be ``made``."""
        if self._stills.has((preset,), size.toTuple()):
            return self._stills.get((preset,), size.toTuple(), QImage)
        if self._made_now < AT_ONCE:
            self._made_now += 1
            self._turn.start(0)
            return self._known(preset, size)
        self._queue[id(preset), size.width(), size.height()] = preset
        self._turn.start(0)
        return None

    def waiting(self) -> int:
        """How many are still to be made."""
        return len(self._queue)

    def forget_queue(self) -> None:
        """Nothing of what waits is seen any more."""
        self._queue.clear()

    def _next(self) -> None:
        self._made_now = 0
        if not self._queue:
            if self._wrote:
                self._wrote = False
                tidy(self._folder())
            return
        key = next(iter(self._queue))
        preset = self._queue.pop(key)
        self._known(preset, QSize(key[1], key[2]))
        self.made.emit()
        self._turn.start(0)

    def _known(self, preset: Preset, size: QSize) -> QImage:
        return self._stills.get((preset,), size.toTuple(), lambda: self._of_disk(preset, size))

    def _of_disk(self, preset: Preset, size: QSize) -> QImage:
        """The still as it was kept; made and kept when it was not. Its name on the shelf is not part of the picture."""
        plain = to_json(replace(preset, name="", tags=(), note="", when="", not_when="", quieter=""))
        content = sha256(plain + f"{__version__} {size.width()} {size.height()}".encode()).hexdigest()
        file = self._folder() / f"{content}.png"
        kept = QImage(str(file)) if file.is_file() else QImage()
        if kept.size() == size:
            return kept.convertToFormat(FORMAT)
        picture = self.moving(preset)
        made = _fitted(picture, size, lambda scale: still_of(preset, picture, self._painter, scale))
        with suppress(OSError, AveltError):  # a cache that cannot be written is none
            file.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(file, png_bytes(made))
            self._wrote = True
        return made


def _fitted(picture: Picture, size: QSize, paint: Callable[[float], QImage]) -> QImage:
    """A picture in the middle of a card's room, on its own ground; ``paint`` makes it at a scale."""
    scene = picture.program.at(0.0)
    w, h = scene.size
    scale = min(size.width() / w, size.height() / h)
    made = QImage(size, FORMAT)
    made.fill(QColor.fromRgbF(*scene.background.tolist()))
    image = paint(scale)
    place = QRectF(0, 0, w * scale, h * scale)
    place.moveCenter(QRectF(made.rect()).center())
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(place, image, QRectF(image.rect()))
    painter.end()
    return made


def tidy(folder: Path, most: int = _ON_DISK) -> None:
    """Let the pictures go that were made longest ago, when there are too many."""
    with suppress(OSError):
        files = list(folder.glob("*.png"))
        if len(files) > most:
            for file in sorted(files, key=lambda file: file.stat().st_mtime)[: len(files) - most]:
                file.unlink(missing_ok=True)
