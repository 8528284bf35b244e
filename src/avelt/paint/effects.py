"""Effects on pixels: blur, shadows, and blend modes that Qt lacks. All pictures are premultiplied ARGB32."""

from __future__ import annotations

from PySide6.QtGui import QImage, QPainter

from avelt.core.arrays import Floats, np

FORMAT = QImage.Format.Format_ARGB32_Premultiplied
_SEEN = 0.1  # px; a blur below this standard deviation cannot be seen
_Mode = QPainter.CompositionMode

#: Blend modes that Qt paints itself.
QT_MODES = {
    "normal": _Mode.CompositionMode_SourceOver,
    "multiply": _Mode.CompositionMode_Multiply,
    "screen": _Mode.CompositionMode_Screen,
    "overlay": _Mode.CompositionMode_Overlay,
    "darken": _Mode.CompositionMode_Darken,
    "lighten": _Mode.CompositionMode_Lighten,
    "color-dodge": _Mode.CompositionMode_ColorDodge,
    "color-burn": _Mode.CompositionMode_ColorBurn,
    "hard-light": _Mode.CompositionMode_HardLight,
    "soft-light": _Mode.CompositionMode_SoftLight,
    "difference": _Mode.CompositionMode_Difference,
    "exclusion": _Mode.CompositionMode_Exclusion,
    "plus-lighter": _Mode.CompositionMode_Plus,
}


def pixels(image: QImage) -> np.ndarray:
    """The picture's bytes (h, w, 4) as blue, green, red, alpha; copied, as a view would outlive its picture."""
    view = np.asarray(image.constBits()).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return view[:, : image.width()].copy()


def from_pixels(values: np.ndarray) -> QImage:
    """A picture from bytes (h, w, 4), copied."""
    rows = np.ascontiguousarray(values)
    return QImage(rows.data, rows.shape[1], rows.shape[0], rows.shape[1] * 4, FORMAT).copy()


def blurred(image: QImage, deviation: float) -> QImage:
    """The picture blurred by a Gaussian of a standard deviation in its pixels; transparent beyond its edges."""
    if deviation < _SEEN or image.isNull():
        return image
    soft = _soft(pixels(image), deviation).copy()
    # Each channel is rounded by itself; premultiplied colours above their alpha would overflow when painted.
    np.minimum(soft[..., :3], soft[..., 3:], out=soft[..., :3])
    return from_pixels(soft)


def _soft(values: np.ndarray, deviation: float) -> np.ndarray:
    from PIL import Image, ImageFilter  # a window opens faster when nothing in it is blurred

    if values.ndim == 3:
        picture = Image.frombytes("RGBA", (values.shape[1], values.shape[0]), np.ascontiguousarray(values).tobytes())
    else:
        picture = Image.frombytes("L", (values.shape[1], values.shape[0]), np.ascontiguousarray(values).tobytes())
    return np.asarray(picture.filter(ImageFilter.GaussianBlur(deviation)))


def alpha_of(image: QImage) -> np.ndarray:
    """The alpha (h, w) of a picture, copied."""
    return pixels(image)[..., 3]


def shade(alpha: np.ndarray, colour: Floats, deviation: float) -> QImage:
    """The shadow that an alpha (h, w) casts: blurred, in one colour."""
    return _coloured(_soft(alpha, deviation) if deviation >= _SEEN else alpha, colour)


def inner_shade(alpha: np.ndarray, moved: np.ndarray, colour: Floats, deviation: float) -> QImage:
    """The shadow inside a shape's edge: what ``moved``, the shifted shape, leaves free, blurred, kept inside."""
    free = 255 - moved
    soft = _soft(free, deviation) if deviation >= _SEEN else free
    return _coloured((soft.astype(np.uint16) * alpha // 255).astype(np.uint8), colour)


def _coloured(alpha: np.ndarray, colour: Floats) -> QImage:
    r, g, b, a = (float(v) for v in colour)
    share = alpha.astype(np.float32) * np.float32(a)
    made = np.empty((*alpha.shape, 4), np.uint8)
    for k, part in enumerate((b, g, r, 1.0)):
        made[..., k] = np.rint(share * np.float32(part))
    return from_pixels(made)


def _light(c: np.ndarray) -> np.ndarray:
    return np.asarray(0.3 * c[..., 0:1] + 0.59 * c[..., 1:2] + 0.11 * c[..., 2:3])


def _clip(c: np.ndarray) -> np.ndarray:
    light, low, high = _light(c), c.min(-1, keepdims=True), c.max(-1, keepdims=True)
    c = np.where(low < 0, light + (c - light) * light / np.maximum(light - low, 1e-9), c)
    return np.where(high > 1, light + (c - light) * (1 - light) / np.maximum(high - light, 1e-9), c)


def _with_light(c: np.ndarray, light: np.ndarray) -> np.ndarray:
    return _clip(c + (light - _light(c)))


def _with_saturation(c: np.ndarray, of: np.ndarray) -> np.ndarray:
    wanted = of.max(-1, keepdims=True) - of.min(-1, keepdims=True)
    low, span = c.min(-1, keepdims=True), c.max(-1, keepdims=True) - c.min(-1, keepdims=True)
    return np.where(span > 0, (c - low) * wanted / np.maximum(span, 1e-9), 0.0)


def mixed(source: QImage, beneath: QImage, mode: str) -> QImage:
    """The source over what lies beneath it (pictures of one size) in a mode that works on all channels together.

    Formulas: Compositing and Blending Level 1, sections 10.2 (non-separable modes) and 9 (compositing).
    """
    s = pixels(source).astype(np.float64) / 255.0
    b = pixels(beneath).astype(np.float64) / 255.0
    sa, ba = s[..., 3:], b[..., 3:]
    cs = s[..., 2::-1] / np.maximum(sa, 1e-9)
    cb = b[..., 2::-1] / np.maximum(ba, 1e-9)
    if mode == "hue":
        blend = _with_light(_with_saturation(cs, cb), _light(cb))
    elif mode == "saturation":
        blend = _with_light(_with_saturation(cb, cs), _light(cb))
    elif mode == "color":
        blend = _with_light(cs, _light(cb))
    else:
        blend = _with_light(cb, _light(cs))
    out = s[..., 2::-1] * (1 - ba) + b[..., 2::-1] * (1 - sa) + sa * ba * np.clip(blend, 0.0, 1.0)
    made = np.empty(s.shape, np.uint8)
    made[..., 2::-1] = np.rint(np.clip(out, 0.0, 1.0) * 255.0)
    made[..., 3] = np.rint((sa + ba - sa * ba)[..., 0] * 255.0)
    return from_pixels(made)
