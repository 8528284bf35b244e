"""Scenes into pixels with QPainter."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from contextlib import contextmanager

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QImage, QPainter, QPainterPath, QTransform

from avelt.core.arrays import np
from avelt.core.cache import Cache
from avelt.core.model.values import Asset, Pattern
from avelt.core.timing.compile import at_rest
from avelt.core.timing.painted import Brush, Item, Shade
from avelt.core.timing.program import Scene
from avelt.core.timing.resting import Drawing, Going, Resting, drawing_of, looks_the_same, tile_scene
from avelt.paint.brushes import as_brush, colour, qbrush
from avelt.paint.effects import FORMAT, QT_MODES, alpha_of, blurred, inner_shade, mixed, shade
from avelt.paint.fonts import ensure_gui, set_text
from avelt.paint.kept import Kept, Run, cut_to_ink
from avelt.paint.leaves import LeafPainter
from avelt.paint.outlines import (
    about,
    as_path,
    as_transform,
    beneath,
    draw_stroke,
    left_over,
    outline_path,
    own_transform,
    reach,
    scale_of,
    shift_of,
    soft,
)
from avelt.paint.pictures import Pictures, draw_picture
from avelt.paint.rolling import Placed, set_rolling
from avelt.paint.shades import bare, only_casts, scaled_by, shade_key, sheet_key, what_is_drawn, without_middle
from avelt.paint.sheets import HINTS, Canvas, Mode, Sheet, keep_inside, pixels_of, put, sheet_over
from avelt.paint.together import Together

_MOST_EDGE = 2000.0  # px around the device that may still cast something into it
_SETTLED, _LATEST = 4, 60  # pictures in which it stands alike, after which it is settled, and kept there in any case
_LARGEST_TILE = 2048  # px of the device that one side of a pattern's tile is painted with at most


class ScenePainter:
    """Paints scenes. What stands still in a program is painted once and kept, also while it fades."""

    def __init__(self, assets: tuple[Asset, ...] = (), live: bool = False) -> None:
        """``live``: what it paints is seen at once. What is being scrolled stands on whole pixels as long."""
        ensure_gui()
        self._live = live
        self._pictures = Pictures(assets)
        self._kept = Kept()
        self._tiles: Cache[QImage] = Cache(64)
        self._leaves = LeafPainter()
        self._exact = True
        self._scale = 1.0  # pixels to a px of the frame
        self._scrolled: tuple[object, tuple[float, ...], int] = (None, (), 0)  # what was painted last, and how often
        self._goes = Going.RESTS
        self._rested: tuple[float, ...] = ()  # how far that was when it stood last
        self._last: tuple[Scene, Hashable, QImage] | None = None  # a picture, and what it is of
        self._complete = True  # whether all that may be kept of the last picture is kept
        self._astir = 0  # how many hold what is painted now: groups on their way, and what is kept together

    @property
    def filled(self) -> float:
        """How many times over what it keeps was filled, of shadows or of what stands still."""
        return self._kept.filled

    @property
    def settles(self) -> bool:
        """Whether the last picture is not where it stands yet, as it may still be scrolled; more are wanted then."""
        return self._goes == Going.ALONG

    def render(self, scene: Scene, scale: float = 1.0, background: bool = True, pieces: bool = False) -> QImage:
        """The scene as a picture, ``scale`` pixels to a px. ``pieces``: large frames are painted in kept pieces.

        The last picture is kept: where nothing moves it is asked for again and again.
        """
        scene = at_rest(scene)
        area = QRect(QPoint(), _pixels_across(scene, scale))
        going = self._goes = self._going(scene, QTransform.fromScale(scale, scale), area)
        key = scale, background, pieces, going
        last = self._last
        if last is None or not self._complete or last[1] != key or not looks_the_same(last[0], scene):
            last = self._last = scene, key, self._rendered(scene, scale, background, pieces, going)
        return QImage(last[2])  # one's own as soon as somebody paints on it

    def painting_ahead(self, scene: Scene, scale: float) -> Iterator[None]:
        """Paint a scene that may be wanted, a part at each step, and keep what it needs: nobody waits for all of it."""
        drawing = drawing_of(scene)
        image = QImage(_pixels_across(scene, scale), FORMAT)
        image.fill(Qt.GlobalColor.transparent)
        yield
        for part in drawing.apart():
            painter = QPainter(image)
            painter.setRenderHints(HINTS)
            with self._kept.ahead():
                self._paint_all(Canvas(painter, image.rect(), image), part, QTransform.fromScale(scale, scale))
            painter.end()
            yield

    def _rendered(self, scene: Scene, scale: float, background: bool, pieces: bool, going: Going) -> QImage:
        image = QImage(_pixels_across(scene, scale), FORMAT)
        image.fill(colour(scene.background) if background else Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHints(HINTS)
        canvas, base = Canvas(painter, image.rect(), image), QTransform.fromScale(scale, scale)
        self._complete = self._paint(canvas, scene, base, going, pieces)
        painter.end()
        return image

    def paint(self, painter: QPainter, scene: Scene, base: QTransform, area: QRect) -> None:
        """The scene's layers onto a painter; ``base`` takes the frame to the device, ``area`` bounds it.

        The background is the caller's. Where layers mix with it, it is painted here once more.
        """
        going = self._goes = self._going(scene, base, area)
        if not scene.program.mixes:
            self._paint(Canvas(painter, area), scene, base, going)
            return
        sheet = sheet_over(area)
        if not scene.isolates:
            sheet.painter.fillRect(base.mapRect(QRectF(0, 0, *scene.size)), colour(scene.background))
        self._paint(sheet, scene, base, going)
        sheet.painter.end()
        painter.setTransform(QTransform())
        painter.drawImage(area.topLeft(), sheet.image)

    def _paint(self, canvas: Canvas, scene: Scene, base: QTransform, going: Going, pieces: bool = False) -> bool:
        """Gives whether all is kept of it that may be."""
        drawing = drawing_of(scene, pieces, going, self._rested)
        program = drawing.scene.program
        if program.mixes and drawing.scene.isolates and canvas.image is not None:
            sheet = sheet_over(canvas.area)
            complete = self._paint_all(sheet, drawing, base, going)
            put(canvas, sheet)
            return complete
        return self._paint_all(canvas, drawing, base, going)

    def _going(self, scene: Scene, base: QTransform, area: QRect) -> Going:
        """By how many pictures show it scrolled as far as it is, one after the other. What is seen at once stands on
        whole pixels until all of it is kept where it is: some of that is painted beside each picture."""
        contents, offset, times = self._scrolled
        same = contents is scene.program.contents and offset == scene.offset
        self._scrolled = (scene.program.contents, scene.offset, times + 1 if same else 1)
        if contents is not scene.program.contents:
            self._rested = ()
        if self._scrolled[2] <= _SETTLED and scene.scrolled:
            return Going.ALONG if self._live else Going.MOVES
        if self._live and scene.scrolled and self._rested != scene.offset and self._scrolled[2] <= _LATEST:
            parts = drawing_of(scene, going=Going.RESTS).parts
            self._exact, self._astir, self._scale = False, 0, base.m11()
            there = Together(self._kept, self._make_run, self.draw, base, area, scene.offset, along=False)
            if not there.prepare(part for part in parts if isinstance(part, Resting)):
                return Going.ALONG
        self._rested = scene.offset
        return Going.RESTS

    def _paint_all(self, canvas: Canvas, drawing: Drawing, base: QTransform, going: Going = Going.RESTS) -> bool:
        self._exact, self._astir, self._scale = drawing.exact, 0, base.m11()
        self._kept.next_picture()
        scene = drawing.scene
        along = going == Going.ALONG
        together = Together(self._kept, self._make_run, self.draw, base, canvas.area, scene.offset, along)
        for part in drawing.parts:
            if isinstance(part, Resting):
                together.paint(canvas, part)
                continue
            above = beneath(part.above, base)
            for item in part.items:
                self.draw(canvas, item, own_transform(item) * above)
        return together.complete

    def _make_run(self, standing: list[tuple[Item, QTransform]], area: QRect) -> Run:
        inked = QRectF()
        for item, matrix in standing:
            inked = inked.united(reach(item, matrix))
        area = inked.toAlignedRect().intersected(area)
        if area.isEmpty():
            return Run(QImage(), 0, 0)
        sheet = sheet_over(area)
        with self._together():
            for item, matrix in standing:
                self.draw(sheet, item, matrix)
        sheet.painter.end()
        return cut_to_ink(sheet)

    # One item

    def draw(self, canvas: Canvas, item: Item, matrix: QTransform) -> None:
        """One item and what lies in it; ``matrix`` takes its px to the device's."""
        if item.plain:
            canvas.painter.setOpacity(item.opacity)
            canvas.painter.setTransform(matrix)
            self._outline(canvas.painter, item)
            return
        if item.leaves and _upright(matrix):  # nothing is done with all of it together
            self._leaves.draw_in(canvas.painter, item, matrix)
            return
        if not self._exact and only_casts(item) and matrix.isAffine():
            self._over_its_shades(canvas, item, matrix)
            return
        effects = (
            item.blur > 0.0 or bool(item.shades) or item.back_blur > 0.0 or item.blend != "normal" or bool(item.cut)
        )
        layered = (
            effects
            or item.mask is not None
            or item.isolates
            or (item.opacity < 1.0 and (bool(item.children) or (bool(item.fills) and item.pen is not None)))
        )
        clip = item.clips and bool(item.children or item.leaves)
        if not layered and (not clip or _upright(matrix)):
            painter = canvas.painter
            painter.setOpacity(item.opacity)
            if clip:
                painter.save()
                painter.setTransform(matrix)
                painter.setClipRect(QRectF(0, 0, item.w, item.h), Qt.ClipOperation.IntersectClip)
            self._content(canvas, item, matrix)
            if clip:
                painter.restore()
            return
        sheet = self._sheet_of(canvas, item, matrix)
        if sheet is None or sheet.image is None:
            return
        if item.back_blur > 0.0 and canvas.image is not None:
            self._blur_beneath(canvas, item, matrix, sheet)
        self._compose(canvas, sheet, item)

    def _over_its_shades(self, canvas: Canvas, item: Item, matrix: QTransform) -> None:
        if not reach(item, matrix).intersects(QRectF(canvas.area)):
            return
        canvas.painter.setOpacity(1.0)
        canvas.painter.setTransform(QTransform())
        for k in reversed(range(len(item.shades))):
            self._kept_shade(canvas.painter, item, matrix, k, scale_of(matrix))
        self._content(canvas, item, matrix)

    def _sheet_of(self, canvas: Canvas, item: Item, matrix: QTransform) -> Sheet | None:
        """The item on a sheet of its own, clipped, masked, blurred and with its shadows; ``None`` when out of sight."""
        stands = item.stays and not self._astir and not self._exact
        held = what_is_drawn(item) if stands else None
        if held is None:
            return self._painted_sheet(item, matrix, canvas.area)

        def make() -> Sheet | None:
            with self._together():
                return self._painted_sheet(item, matrix, canvas.area)

        return self._kept.sheets.get(item.layer.origin, held, sheet_key(item, matrix, canvas.area.getRect()), make)

    @contextmanager
    def _together(self) -> Iterator[None]:
        """What is painted is kept all together, none of it by itself."""
        self._astir += 1
        yield
        self._astir -= 1

    def _painted_sheet(self, item: Item, matrix: QTransform, seen: QRect) -> Sheet | None:
        size = scale_of(matrix)
        wide = max(
            [
                3.0 * soft(item.blur, size),
                *(3.0 * soft(s.blur, size) + (abs(s.x) + abs(s.y)) * size for s in item.shades),
            ]
        )
        edge = 2 + int(np.ceil(min(wide, _MOST_EDGE)))
        # What lies just outside of the canvas still blurs into it.
        area = reach(item, matrix).toAlignedRect().adjusted(-2, -2, 2, 2)
        area = area.intersected(seen.adjusted(-edge, -edge, edge, edge))
        if not area.intersects(seen):
            return None
        sheet = sheet_over(area)
        self._content(sheet, item, matrix)
        if item.clips and (item.children or item.leaves):
            shape = QPainterPath()
            shape.addRect(QRectF(0, 0, item.w, item.h))
            keep_inside(sheet, matrix.map(shape))
        if item.cut:
            keep_inside(sheet, matrix.map(left_over(item, size)))
        if item.mask is not None:
            mask = self._mask(item.mask, own_transform(item.mask) * matrix, item.mask_by, area)
            sheet.painter.setTransform(QTransform())
            sheet.painter.setOpacity(1.0)
            sheet.painter.setCompositionMode(Mode.CompositionMode_DestinationIn)
            sheet.painter.drawImage(area.topLeft(), mask)
        sheet.painter.end()
        if item.shades:
            sheet = self._with_shades(sheet, item, matrix, size)
        if item.blur > 0.0:
            sheet.image = blurred(sheet.image, soft(item.blur, size))
        return sheet

    def _with_shades(self, sheet: Sheet, item: Item, matrix: QTransform, size: float) -> Sheet:
        whole = sheet_over(sheet.area)
        alpha = alpha_of(sheet.image) if any(s.inner for s in item.shades) else None
        for k in reversed(range(len(item.shades))):
            if not item.shades[k].inner:
                self._outer_shade(whole.painter, sheet, item, matrix, k, size)
        whole.painter.drawImage(sheet.area.topLeft(), sheet.image)
        for entry in item.shades:
            if entry.inner and alpha is not None:
                moved = sheet_over(sheet.area)
                dx, dy = shift_of(matrix, entry.x, entry.y)
                moved.painter.drawImage(QPointF(sheet.area.x() + dx, sheet.area.y() + dy), sheet.image)
                moved.painter.end()
                made = inner_shade(alpha, alpha_of(moved.image), entry.colour, soft(entry.blur, size))
                whole.painter.drawImage(sheet.area.topLeft(), made)
        whole.painter.end()
        return whole

    def _outer_shade(
        self, painter: QPainter, sheet: Sheet, item: Item, matrix: QTransform, k: int, size: float
    ) -> None:
        """The item's shadow of a number, under it. One that only moves is blurred once and kept."""
        if not self._exact and not (item.children or item.mask is not None or item.cut) and matrix.isAffine():
            self._kept_shade(painter, item, matrix, k, size)
            return
        entry = item.shades[k]
        dx, dy = shift_of(matrix, entry.x, entry.y)
        made = shade(alpha_of(sheet.image), entry.colour, soft(entry.blur, size))
        painter.drawImage(QPointF(sheet.area.x() + dx, sheet.area.y() + dy), made)

    def _kept_shade(self, painter: QPainter, item: Item, matrix: QTransform, k: int, size: float) -> None:
        entry = item.shades[k]
        dx, dy = shift_of(matrix, entry.x, entry.y)
        factor = scaled_by(matrix, self._scale, soft(entry.blur, size))
        there = matrix if factor == 1.0 else QTransform.fromScale(size / factor, size / factor)
        key = shade_key(item, there, entry)
        run = self._kept.shades.get(
            (item.layer.origin, k), (item.text,), key, lambda: self._shadow(item, there, entry, size / factor)
        )
        left, top = matrix.dx() + run.left * factor + dx, matrix.dy() + run.top * factor + dy
        if factor == 1.0:
            painter.drawImage(QPointF(left, top), run.image)
        else:
            painter.drawImage(QRectF(left, top, run.image.width() * factor, run.image.height() * factor), run.image)

    def _shadow(self, item: Item, matrix: QTransform, entry: Shade, size: float) -> Run:
        """An item's shadow alone, where the item would stand at 0, 0."""
        there = QTransform(matrix.m11(), matrix.m12(), matrix.m21(), matrix.m22(), 0.0, 0.0)
        deviation = soft(entry.blur, size)
        small = without_middle(item, there, deviation)
        shape = small.item
        edge = 2 + int(np.ceil(3.0 * deviation))
        plain = sheet_over(reach(bare(shape), there).toAlignedRect().adjusted(-edge, -edge, edge, edge))
        self._content(plain, shape, there)
        plain.painter.end()
        made = shade(alpha_of(plain.image), entry.colour, deviation)
        left, top = plain.area.x(), plain.area.y()
        return Run(small.with_middle(made, left, top), left, top)

    def _blur_beneath(self, canvas: Canvas, item: Item, matrix: QTransform, sheet: Sheet) -> None:
        """What lies beneath the item, blurred, inside the item's shape."""
        pixels = pixels_of(canvas)
        deviation = soft(item.back_blur, scale_of(matrix))
        edge = int(np.ceil(3.0 * deviation))
        area = sheet.area.intersected(canvas.area)
        wide = area.adjusted(-edge, -edge, edge, edge).intersected(canvas.area)
        beneath = blurred(pixels.copy(wide.translated(-canvas.area.topLeft())), deviation)
        held = sheet_over(area)
        held.painter.drawImage(wide.topLeft(), beneath)
        if item.outline is not None:
            keep_inside(held, matrix.map(as_path(item.outline, item.rule)))
        else:
            held.painter.setCompositionMode(Mode.CompositionMode_DestinationIn)
            held.painter.drawImage(sheet.area.topLeft(), sheet.image)
        held.painter.end()
        canvas.painter.setTransform(QTransform())
        canvas.painter.setOpacity(item.opacity)
        canvas.painter.drawImage(area.topLeft(), held.image)
        canvas.painter.setOpacity(1.0)

    def _compose(self, canvas: Canvas, sheet: Sheet, item: Item) -> None:
        """The item's sheet onto the canvas, by its opacity and blend mode."""
        painter = canvas.painter
        painter.setTransform(QTransform())
        if item.blend in QT_MODES or canvas.image is None:
            painter.setOpacity(item.opacity)
            painter.setCompositionMode(QT_MODES.get(item.blend, QT_MODES["normal"]))
            painter.drawImage(sheet.area.topLeft(), sheet.image)
        else:
            area = sheet.area.intersected(canvas.area)
            source = sheet_over(area)
            source.painter.setOpacity(item.opacity)
            source.painter.drawImage(sheet.area.topLeft(), sheet.image)
            source.painter.end()
            beneath = canvas.image.copy(area.translated(-canvas.area.topLeft()))
            painter.setOpacity(1.0)
            painter.setCompositionMode(Mode.CompositionMode_Source)
            painter.drawImage(area.topLeft(), mixed(source.image, beneath, item.blend))
        painter.setCompositionMode(Mode.CompositionMode_SourceOver)
        painter.setOpacity(1.0)

    def _mask(self, item: Item, matrix: QTransform, by: str, area: QRect) -> QImage:
        sheet = sheet_over(area)
        self.draw(sheet, item, matrix)
        sheet.painter.end()
        if by == "luminance":
            image = sheet.image
            pixels = np.asarray(image.bits()).reshape(image.height(), image.bytesPerLine() // 4, 4)
            # Premultiplied BGRA: the weighted sum is luminance times alpha already (SVG 1.1, masking).
            light = pixels[..., 2] * 0.2125 + pixels[..., 1] * 0.7154 + pixels[..., 0] * 0.0721
            pixels[...] = np.round(light)[..., None].astype(np.uint8)
        return sheet.image

    def _content(self, canvas: Canvas, item: Item, matrix: QTransform) -> None:
        painter = canvas.painter
        if item.leaves:
            self._leaves.draw(painter, item.leaves, matrix)
            return
        if item.children:
            self._astir += not item.stays
            for child in item.children:
                self.draw(canvas, child, as_transform(child.matrix) * matrix)
            self._astir -= not item.stays
            return
        painter.setTransform(matrix)
        if item.outline is not None:
            self._outline(painter, item)
        elif item.text is not None:
            if matrix.mapRect(about(item)).intersects(QRectF(canvas.area)):
                self._text(painter, item)
        elif item.picture is not None:
            draw_picture(painter, self._pictures.of(item.picture), item)

    def _outline(self, painter: QPainter, item: Item) -> None:
        if item.outline is None:
            return
        kind = item.form
        if kind in ("box", "oval") and (item.w <= 0.0 or item.h <= 0.0):
            return
        if kind == "box" and max(item.radii) <= 0.0 and item.pen is None:
            for brush in item.fills:
                self._fill(painter, None, brush, item)
            return
        self._filled(painter, outline_path(item), item.fills, item)

    def _filled(self, painter: QPainter, path: QPainterPath, brushes: list[Brush], item: Item) -> None:
        """An outline's fills and stroke, in their order."""
        pen = item.pen
        if pen is not None and pen.under:
            draw_stroke(painter, path, item, self._brush(painter, pen.brush, item))
        for brush in brushes:
            self._fill(painter, path, brush, item)
        if pen is not None and not pen.under:
            draw_stroke(painter, path, item, self._brush(painter, pen.brush, item))

    def _fill(self, painter: QPainter, path: QPainterPath | None, brush: Brush, item: Item) -> None:
        made = self._brush(painter, brush, item)
        before = painter.opacity() if brush.pattern is not None else -1.0
        if brush.pattern is not None:
            painter.setOpacity(before * float(brush.colours[0, 3]))
        if path is None:
            painter.fillRect(QRectF(0.0, 0.0, item.w, item.h), made)
        else:
            painter.fillPath(path, made)
        if before >= 0.0:
            painter.setOpacity(before)

    def _brush(self, painter: QPainter, brush: Brush, item: Item) -> QBrush:
        if brush.pattern is None:
            return qbrush(brush, item.w, item.h)
        a, b, c, d, e, f = brush.matrix
        w, h = item.w or 1.0, item.h or 1.0
        over = QTransform(a * w, b * h, c * w, d * h, e * w, f * h)
        image, fine = self._tile_image(brush.pattern, scale_of(over * painter.transform()))
        made = QBrush(image)
        made.setTransform(QTransform.fromScale(1.0 / fine[0], 1.0 / fine[1]) * over)
        return made

    def _tile_image(self, pattern: Pattern, scale: float) -> tuple[QImage, tuple[float, float]]:
        """A pattern's tile as a picture, and its pixels to a px of the tile along x and y."""
        most = _LARGEST_TILE / max(pattern.w, pattern.h, 1e-6)
        scale = min(most, max(scale, 1.0 / max(min(pattern.w, pattern.h), 1e-6)))
        image = self._tiles.get((pattern,), round(scale, 3), lambda: self._painted_tile(pattern, scale))
        return image, (image.width() / pattern.w, image.height() / pattern.h)

    def _painted_tile(self, pattern: Pattern, scale: float) -> QImage:
        return ScenePainter(self._pictures.assets).render(tile_scene(pattern), scale)

    def _text(self, painter: QPainter, item: Item) -> None:
        if item.text is None:
            return
        for place in self._rolling(item):
            painter.save()
            painter.setClipRect(place.window, Qt.ClipOperation.IntersectClip)
            painter.setOpacity(painter.opacity() * place.seen)
            self._filled(painter, place.path, item.fills, item)
            painter.restore()
        for run in (
            () if item.rolling else set_text(item.text, item.type_size, item.letter_spacing, item.line_height, item.w)
        ):
            brushes = item.fills if run.fill is None else [as_brush(run.fill)]
            self._filled(painter, run.path, brushes, item)

    def _rolling(self, item: Item) -> list[Placed]:
        if item.text is None or not item.rolling:
            return []
        return set_rolling(item.text, item.rolling, item.type_size, item.letter_spacing, item.line_height, item.w)


def _pixels_across(scene: Scene, scale: float) -> QSize:
    """How large a scene's picture is, at so many pixels to a px."""
    return QSize(max(1, round(scene.size[0] * scale)), max(1, round(scene.size[1] * scale)))


def _upright(matrix: QTransform) -> bool:
    """Whether boxes stay boxes with their sides along the device's."""
    return matrix.isAffine() and abs(matrix.m12()) < 1e-9 and abs(matrix.m21()) < 1e-9
