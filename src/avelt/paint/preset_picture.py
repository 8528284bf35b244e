"""The moving picture of a preset as a file, and its still strip."""

from __future__ import annotations

import io

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from avelt.core.presets.picture import Picture
from avelt.core.presets.values import Preset
from avelt.paint.moving import moments, to_pillow
from avelt.paint.painter import ScenePainter

_RATE = 25.0  # pictures a second
_REST_MS = 500.0  # that it stands at the end before it begins anew
_WIDE = 336.0  # px
_GHOSTS = 5
#: The shares of its length at which something is shown that stays where it is.
_MOMENTS = {"enter": (0.04, 0.2, 1.0), "leave": (0.0, 0.6, 0.9), "loop": (0.0, 0.2, 0.4)}
_STANDS_AT = 0.42  # the share at which what changes a whole frame is shown while it stands


def webp_of(picture: Picture) -> bytes:
    """A moving WebP of it, lossless; it plays for ever."""
    times = moments(picture.duration, _RATE)
    images = [to_pillow(image) for image in stills(picture, times)]
    lasts = [round(1000.0 / _RATE)] * len(images)
    lasts[-1] += round(_REST_MS)
    out = io.BytesIO()
    images[0].save(
        out, "WEBP", save_all=True, append_images=images[1:], duration=lasts, loop=0, lossless=True, method=4
    )
    return out.getvalue()


def stills(picture: Picture, times: list[float], wide: float = _WIDE) -> list[QImage]:
    """Pictures of some moments, all ``wide`` px wide."""
    painter = ScenePainter()
    scale = wide / max(1.0, picture.program.at(0.0).size[0])
    return [painter.render(picture.program.from_start(ms), scale) for ms in times]


def still_of(preset: Preset, picture: Picture, painter: ScenePainter, scale: float) -> QImage:
    """One still that shows the way: steps over each other, the latest strongest; three moments beside each other of
    what stays where it is; or one moment, where a whole frame changes."""
    render, program = painter.render, picture.program
    if preset.recorded is not None or preset.part is not None:
        return render(program.from_start(picture.duration * _STANDS_AT), scale)
    made = render(program.at(0.0), scale)
    made.fill(QColor.fromRgbF(*program.at(0.0).background.tolist()))
    onto = QPainter(made)
    shares = _MOMENTS.get(preset.kind)
    if shares is not None and not (preset.absent is not None and preset.absent.edge):
        third = made.width() / len(shares)
        for k, share in enumerate(shares):
            image = render(program.from_start(picture.duration * share), scale, background=False)
            onto.drawImage(QPointF(k * third, 0.0), image, QRectF(third, 0.0, third, made.height()))
    else:
        for k in range(_GHOSTS):
            moment = picture.duration * (k + 0.5) / _GHOSTS
            strong = (_GHOSTS - 1 - k if preset.kind == "leave" else k) / (_GHOSTS - 1)
            onto.setOpacity(0.25 + 0.75 * strong)
            onto.drawImage(0, 0, render(program.from_start(moment), scale, background=False))
    onto.end()
    return made
