"""Moving pictures and stills of a show, written as they are painted: no more room is taken the longer it is."""

from __future__ import annotations

import io
import json
import math
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any, BinaryIO

from PySide6.QtGui import QColor, QImage, QPainter

from avelt.core.arrays import np
from avelt.core.blending import colour
from avelt.core.errors import FormatError, Stopped
from avelt.core.handoff.delivery import Report, Wanted
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.deliver.containers import ApngWriter, GifWriter, Pixels, WebpWriter, Writer
from avelt.deliver.shows import Cut, Show, check_size, cut_of
from avelt.deliver.sinks import Sink
from avelt.paint.painter import ScenePainter

#: Called with (pictures done, pictures in all); False stops the work.
Progress = Callable[[int, int], bool]
_LARGEST_SHEET = 16_384  # px of one side of a sheet of all pictures


class Shot(ScenePainter):
    """Paints pictures of one size on one ground."""

    def __init__(self, project: Project, show: Show, wanted: Wanted) -> None:
        super().__init__(project.assets)
        self._size = (max(1, round(show.w * wanted.scale)), max(1, round(show.h * wanted.scale)))
        self._wanted = wanted

    def picture(self, show: Show, ms: float) -> QImage:
        """The picture at a moment; what is smaller than the first picture stands at its top left."""
        ground = self._wanted.background
        made = self.render(show.scene_at(ms), self._wanted.scale, background=ground is None)
        if ground not in (None, "none"):
            made = _on(made, QColor.fromRgbF(*colour.parse(ground)))
        if (made.width(), made.height()) != self._size:
            made = made.copy(0, 0, *self._size)
        return made


def _on(image: QImage, ground: QColor) -> QImage:
    made = QImage(image.size(), image.format())
    made.fill(ground)
    painter = QPainter(made)
    painter.drawImage(0, 0, image)
    painter.end()
    return made


def is_clear(show: Show, wanted: Wanted) -> bool:
    """Whether what is delivered has no ground: none is wanted, or the frame that it begins with has a clear one."""
    if wanted.background is not None:
        return wanted.background == "none"
    return float(show.scene_at(0.0).background[3]) < 1.0


def on_paper(picture: Pixels) -> Pixels:
    """A picture (h, w, 4) on white, without its alpha (h, w, 3)."""
    alpha = picture[..., 3:].astype(np.uint16)
    return np.asarray((picture[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255).astype(np.uint8)


def rgba(image: QImage) -> Pixels:
    """A picture's bytes (h, w, 4): red, green, blue, alpha, not multiplied."""
    plain = image.convertToFormat(QImage.Format.Format_RGBA8888)
    rows = np.asarray(plain.constBits()).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : plain.width() * 4].reshape(plain.height(), plain.width(), 4).copy()


def pictures(show: Show, cut: Cut, project: Project, wanted: Wanted, progress: Progress) -> Iterator[Pixels]:
    """Every picture in turn; ``Stopped`` when ``progress`` says so."""
    shot = Shot(project, show, wanted)
    for k, ms in enumerate(cut.times):
        if not progress(k, len(cut.times)):
            raise Stopped(tr("Stopped. Nothing was written."))
        yield rgba(shot.picture(show, ms))


# One file


def picture_loop(
    kind: str, show: Show, project: Project, wanted: Wanted, stream: BinaryIO, progress: Progress
) -> Report:
    """A GIF, APNG or WebP."""
    w, h = check_size(show, wanted, {"gif": 50.0, "apng": 120.0, "webp": 120.0}[kind])
    cut = cut_of(show, wanted)
    writer: Writer
    if kind == "gif":
        writer = GifWriter(stream, w, h, wanted.again, is_clear(show, wanted))
    elif kind == "apng":
        writer = ApngWriter(stream, w, h, wanted.again, len(cut.times))
    else:
        writer = WebpWriter(stream, w, h, wanted.again, wanted.quality)
    for picture, stays in zip(pictures(show, cut, project, wanted, progress), cut.stays, strict=True):
        writer.add(picture, stays)
    writer.close()
    return _said(show, cut, wanted, (tr("256 colours in each picture."),) if kind == "gif" else ())


def film(kind: str, show: Show, project: Project, wanted: Wanted, stream: BinaryIO, progress: Progress) -> Report:
    """An MP4 (H.264) or WebM (VP9, with alpha where there is no ground)."""
    import av  # a window opens faster without it
    from av.video.stream import VideoStream

    w, h = check_size(show, wanted, 120.0)
    cut = cut_of(show, wanted)
    clear = kind == "webm" and is_clear(show, wanted)
    rate = Fraction(
        len(cut.times) * 1000 / (cut.length - wanted.rest if show.length else cut.length)
    ).limit_denominator(10_000)
    codec, options = (
        ("libx264", {"crf": "12", "preset": "medium"})
        if kind == "mp4"
        else ("libvpx-vp9", {"crf": "16", "b": "0", "deadline": "good", "cpu-used": "4", "auto-alt-ref": "0"})
    )
    with av.open(stream, "w", format=kind, options={"fflags": "+bitexact"}) as container:
        track = container.add_stream(codec, rate=rate, options=options)
        if not isinstance(track, VideoStream):
            raise TypeError(f"{codec} makes no pictures")
        track.width, track.height = w + w % 2, h + h % 2
        track.pix_fmt = "yuva420p" if clear else "yuv420p"
        context = track.codec_context
        context.color_primaries = context.color_trc = context.colorspace = 1  # BT.709
        context.color_range = 1  # as television has it
        number = 0
        for k, picture in enumerate(pictures(show, cut, project, wanted, progress)):
            last = k + 1 == len(cut.times)
            for _ in range(1 + (round(wanted.rest * float(rate) / 1000.0) if last and show.length else 0)):
                for packet in track.encode(_frame(av, picture, clear, number, wanted.background is None)):
                    container.mux(packet)
                number += 1
        for packet in track.encode():
            container.mux(packet)
    notes: tuple[str, ...] = (tr("Colours are kept at half the size (4:2:0)."),)
    if kind == "mp4" and wanted.background == "none":
        notes = (*notes, tr("MP4 knows no transparency: the ground is black."))
    return _said(show, cut, wanted, notes)


def _frame(av: Any, picture: Pixels, clear: bool, number: int, paper: bool = False) -> Any:
    """A picture as the encoder takes it; ``paper``: white beneath what is clear."""
    h, w = picture.shape[:2]
    if h % 2 or w % 2:
        picture = np.pad(picture, ((0, h % 2), (0, w % 2), (0, 0)), "edge")
    plain = picture if clear else np.ascontiguousarray(on_paper(picture) if paper else picture[..., :3])
    frame = av.VideoFrame.from_ndarray(plain, "rgba" if clear else "rgb24")
    made = frame.reformat(
        format="yuva420p" if clear else "yuv420p",
        dst_colorspace="ITU709",
        src_color_range="JPEG",
        dst_color_range="MPEG",
        interpolation="LANCZOS",
    )
    made.pts = number
    return made


# Many files


def png(picture: Pixels) -> bytes:
    """A picture as PNG."""
    from PIL import Image

    buffer = io.BytesIO()
    Image.frombytes("RGBA", picture.shape[1::-1], picture.tobytes()).save(buffer, "PNG")
    return buffer.getvalue()


def stills(show: Show, project: Project, wanted: Wanted, sink: Sink, progress: Progress) -> Report:
    """Every picture as a numbered PNG."""
    check_size(show, wanted, 1000.0)
    cut = cut_of(show, wanted)
    for k, picture in enumerate(pictures(show, cut, project, wanted, progress)):
        with sink.open(f"{k:04d}.png") as stream:
            stream.write(png(picture))
    return _said(show, cut, wanted)


def sprite(show: Show, project: Project, wanted: Wanted, sink: Sink, progress: Progress) -> Report:
    """All pictures on one sheet, and where each lies on it and when it is."""
    w, h = check_size(show, wanted, 1000.0)
    cut = cut_of(show, wanted)
    across = max(1, min(len(cut.times), round(math.sqrt(len(cut.times) * h / w)), _LARGEST_SHEET // w))
    down = math.ceil(len(cut.times) / across)
    if down * h > _LARGEST_SHEET or across * w > _LARGEST_SHEET:
        raise FormatError(
            tr(
                "A sheet of {count} pictures of {w} x {h} would be larger than {largest_sheet} px.",
                count=len(cut.times),
                w=w,
                h=h,
                largest_sheet=_LARGEST_SHEET,
            ),
            hint=tr("Take fewer pictures a second, or a smaller size."),
        )
    sheet = np.zeros((down * h, across * w, 4), np.uint8)
    frames = []
    for k, picture in enumerate(pictures(show, cut, project, wanted, progress)):
        x, y = k % across * w, k // across * h
        sheet[y : y + h, x : x + w] = picture
        frames.append({"x": x, "y": y, "at": round(cut.times[k], 3)})
    with sink.open("sprite.png") as stream:
        stream.write(png(sheet))
    document = {"width": w, "height": h, "fps": wanted.fps, "frames": frames}
    with sink.open("sprite.json") as stream:
        stream.write((json.dumps(document, indent=1) + "\n").encode())
    return _said(show, cut, wanted)


def _said(show: Show, cut: Cut, wanted: Wanted, notes: tuple[str, ...] = ()) -> Report:
    made = [tr("{count} pictures, {length:g} ms.", count=len(cut.times), length=cut.length), *notes]
    if show.length <= 0.0 < show.period:
        rate = len(cut.times) * 1000.0 / cut.length
        if abs(rate - wanted.fps) > 1e-6:
            made.append(
                tr(
                    "{rate:.3f} pictures a second instead of {fps:g}, so that the last leads into the first.",
                    rate=rate,
                    fps=wanted.fps,
                )
            )
    return Report(notes=tuple(made))
