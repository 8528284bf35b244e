"""Colours as the vectors in which they are blended: linear ways between them, in each of the five spaces.

A vector is (..., 4) with alpha last. The three others are multiplied by alpha, but for the hue of OKLCH (CSS Color 4,
section 12.3), which is kept in radians.
"""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.blending import conversions
from avelt.core.blending.conversions import GREY
from avelt.core.model.motion import Space

SPACES: tuple[Space, ...] = ("oklab", "oklch", "lab", "srgb", "srgb-linear")


def _polar(rgb: Floats) -> Floats:
    lab = conversions.to_oklab(rgb)
    return np.stack([lab[..., 0], np.hypot(lab[..., 1], lab[..., 2]), np.arctan2(lab[..., 2], lab[..., 1])], -1)


def _flat(lch: Floats) -> Floats:
    chroma, hue = lch[..., 1], lch[..., 2]
    return conversions.from_oklab(np.stack([lch[..., 0], chroma * np.cos(hue), chroma * np.sin(hue)], -1))


def _same(values: Floats) -> Floats:
    return values


INTO: dict[Space, Callable[[Floats], Floats]] = {
    "oklab": conversions.to_oklab,
    "oklch": _polar,
    "lab": conversions.to_lab,
    "srgb": _same,
    "srgb-linear": conversions.to_linear,
}
OUT: dict[Space, Callable[[Floats], Floats]] = {
    "oklab": conversions.from_oklab,
    "oklch": _flat,
    "lab": conversions.from_lab,
    "srgb": _same,
    "srgb-linear": conversions.from_linear,
}


def vectors(rgba: ArrayLike, space: Space) -> Floats:
    """sRGB and alpha (..., 4) as vectors of a space."""
    c = np.asarray(rgba, float)
    inside, alpha = INTO[space](c[..., :3]), c[..., 3:]
    made = inside * alpha
    if space == "oklch":
        made[..., 2] = inside[..., 2]
    return np.concatenate([made, alpha], -1)


def colours(vector: Floats, space: Space) -> Floats:
    """Vectors (..., 4) as sRGB and alpha, clipped to sRGB; wholly transparent is transparent black."""
    if space == "oklab":
        return conversions.from_premultiplied_oklab(vector)
    alpha = vector[..., 3:]
    inside = vector[..., :3] / np.where(alpha > 0, alpha, 1.0)
    if space == "oklch":
        inside[..., 2] = vector[..., 2]
    rgb = np.where(alpha > 0, OUT[space](inside), 0.0)
    return np.asarray(np.clip(np.round(np.concatenate([rgb, alpha], -1), 12), 0.0, 1.0))


def between(first: ArrayLike, second: ArrayLike, space: Space) -> tuple[Floats, Floats]:
    """Two stacks of colours (..., 4) as vectors whose straight line is the way that CSS Color 4 asks for.

    In OKLCH hues go the shorter way round, and a grey takes over the other's hue.
    """
    a, b = vectors(first, space), vectors(second, space)
    if space == "oklch":
        grey_a, grey_b = (np.abs(v[..., 1]) < GREY * np.maximum(v[..., 3], 1e-9) for v in (a, b))
        hue_a, hue_b = np.where(grey_a, b[..., 2], a[..., 2]), np.where(grey_b, a[..., 2], b[..., 2])
        a[..., 2] = hue_a
        b[..., 2] = hue_a + (hue_b - hue_a + np.pi) % (2 * np.pi) - np.pi
    return a, b


def blend(first: ArrayLike, second: ArrayLike, t: ArrayLike, space: Space = "oklab") -> Floats:
    """Colours (..., 4) between two at t (...,), with premultiplied alpha as CSS Color 4, section 12. Not clipped."""
    a, b = between(first, second, space)
    share = np.asarray(t, float)[..., None]
    mixed = a * (1 - share) + b * share
    alpha = mixed[..., 3:]
    inside = mixed[..., :3] / np.where(alpha != 0, alpha, 1.0)
    if space == "oklch":
        inside = np.concatenate([inside[..., :2], mixed[..., 2:3]], -1)
    return np.concatenate([np.where(alpha != 0, OUT[space](inside), 0.0), alpha], -1)
