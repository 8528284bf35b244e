"""The moving picture of a preset as a file, and its still strip."""

from __future__ import annotations

import io

from PySide6.QtGui import QImage

from avelt.core.presets.picture import Picture
from avelt.paint.moving import moments, to_pillow
from avelt.paint.painter import ScenePainter

_RATE = 25.0  # pictures a second
_REST_MS = 500.0  # that it stands at the end before it begins anew
_WIDE = 336.0  # px


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
