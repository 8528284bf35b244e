"""The picture of a file as file managers show it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QImage

from avelt.core.errors import FormatError
from avelt.core.formats.project_file import open_project, read_preview
from avelt.core.presets.files import read_file
from avelt.core.presets.picture import picture_of
from avelt.core.timing.compile import compile_still
from avelt.paint.painter import ScenePainter
from avelt.paint.preset_picture import still_of


def thumbnail_of(path: Path, size: int) -> QImage:
    """A project's preview (or its first frame), or the strip of a preset or of a pack's first one; ``AveltError`` when
    the file has none. Neither side is longer than ``size`` px."""
    if path.suffix == ".avelt":
        image = QImage.fromData(QByteArray(read_preview(path)))
        if image.isNull():
            project = open_project(path)
            if not project.frames:
                raise FormatError("The project has no frame.", str(path))
            first = project.frames[0]
            scale = min(1.0, size / max(first.w, first.h))
            image = ScenePainter(project.assets).render(compile_still(first, project).at(0.0), scale)
    else:
        presets, troubles = read_file(path)
        if not presets:
            raise FormatError(troubles[0].says if troubles else "There is no preset in it.", str(path))
        picture = picture_of(presets[0])
        w, h = picture.program.at(0.0).size
        image = still_of(presets[0], picture, ScenePainter(), size / max(1.0, w, h))
    if max(image.width(), image.height()) > size:
        keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        image = image.scaled(size, size, keep, smooth)
    return image
