"""Colours in the spaces of CSS: between sRGB, linear light, OKLab and CIE Lab.

Arrays are (..., 3): red, green, blue of sRGB, non-premultiplied, 0..1 but for colours outside it. Matrices and transfer
functions are those of CSS Color Level 4, sample code and section 10; OKLab is Ottosson's as given there.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cache

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.record import Record

GREY = 4e-6  # chroma below this has no hue (CSS Color 4, powerless hue, OKLCH)


class _Matrices(Record, frozen=True):
    rgb_to_xyz: Floats
    p3_to_xyz: Floats
    d50_to_d65: Floats
    linear_to_lms: Floats
    lms_to_lab: Floats
    d65_to_d50: Floats
    lms_to_linear: Floats
    lab_to_lms: Floats
    xyz_to_rgb: Floats
    lms_to_linear_rows: list[list[float]]
    lab_to_lms_rows: list[list[float]]
    white: Floats


@cache
def _matrices() -> _Matrices:
    """Made when a colour is first converted: many modules stand on this one and never do."""
    rgb_to_xyz = np.array(
        [
            [506752 / 1228815, 87881 / 245763, 12673 / 70218],
            [87098 / 409605, 175762 / 245763, 12673 / 175545],
            [7918 / 409605, 87881 / 737289, 1001167 / 1053270],
        ]
    )
    p3_to_xyz = np.array(
        [
            [608311 / 1250200, 189793 / 714400, 198249 / 1000160],
            [35783 / 156275, 247089 / 357200, 198249 / 2500400],
            [0.0, 32229 / 714400, 5220557 / 5000800],
        ]
    )
    d50_to_d65 = np.array(
        [
            [0.955473421488075, -0.02309845494876471, 0.06325924320057072],
            [-0.0283697093338637, 1.0099953980813041, 0.021041441191917323],
            [0.012314014864481998, -0.020507649298898964, 1.330365926242124],
        ]
    )
    linear_to_lms = np.array(
        [
            [0.4122214694707629, 0.5363325372617349, 0.0514459932675022],
            [0.2119034958178252, 0.6806995506452344, 0.1073969535369405],
            [0.0883024591900564, 0.2817188391361215, 0.6299787016738222],
        ]
    )
    lms_to_lab = np.array(
        [
            [0.2104542683093140, 0.7936177747023054, -0.0040720430116193],
            [1.9779985324311684, -2.4285922420485799, 0.4505937096174110],
            [0.0259040424655478, 0.7827717124575296, -0.8086757549230774],
        ]
    )
    lms_to_linear, lab_to_lms = np.linalg.inv(linear_to_lms), np.linalg.inv(lms_to_lab)
    return _Matrices(
        rgb_to_xyz,
        p3_to_xyz,
        d50_to_d65,
        linear_to_lms,
        lms_to_lab,
        np.linalg.inv(d50_to_d65),
        lms_to_linear,
        lab_to_lms,
        np.linalg.inv(rgb_to_xyz),
        lms_to_linear.tolist(),
        lab_to_lms.tolist(),
        np.array([0.3457 / 0.3585, 1.0, (1.0 - 0.3457 - 0.3585) / 0.3585]),  # D50
    )


def to_linear(rgb: Floats) -> Floats:
    """sRGB to linear light, mirrored below zero."""
    size = np.abs(rgb)
    return np.asarray(np.where(size <= 0.04045, rgb / 12.92, np.sign(rgb) * ((size + 0.055) / 1.055) ** 2.4))


def from_linear(linear: Floats) -> Floats:
    """Linear light to sRGB, mirrored below zero."""
    size = np.abs(linear)
    curved = np.sign(linear) * (1.055 * np.maximum(size, 1e-12) ** (1 / 2.4) - 0.055)
    return np.asarray(np.where(size <= 0.0031308, linear * 12.92, curved))


def to_oklab(rgb: Floats) -> Floats:
    """sRGB (..., 3) to OKLab (..., 3)."""
    return np.asarray(np.cbrt(to_linear(rgb) @ _matrices().linear_to_lms.T) @ _matrices().lms_to_lab.T)


def from_oklab(lab: Floats) -> Floats:
    """OKLab (..., 3) to sRGB (..., 3), not clipped."""
    return from_linear(np.asarray((lab @ _matrices().lab_to_lms.T) ** 3 @ _matrices().lms_to_linear.T))


def premultiplied_oklab(rgba: ArrayLike) -> Floats:
    """(..., 4) sRGB and alpha to OKLab times alpha, and alpha: what is blended linearly."""
    c = np.asarray(rgba, float)
    return np.concatenate([to_oklab(c[..., :3]) * c[..., 3:], c[..., 3:]], -1)


def from_premultiplied_oklab(lab: Floats) -> Floats:
    """Back to sRGB and alpha, clipped to sRGB; wholly transparent is transparent black."""
    alpha = lab[..., 3:]
    safe = np.where(alpha > 0, alpha, 1.0)
    rgb = np.where(alpha > 0, from_oklab(lab[..., :3] / safe), 0.0)
    # Rounded far below what 16 bits can tell, so that the same colour is the same number in any batch.
    return np.asarray(np.clip(np.round(np.concatenate([rgb, alpha], -1), 12), 0.0, 1.0))


def one_from_premultiplied_oklab(lab: Sequence[float]) -> list[float]:
    """The same for one colour (4,), in plain numbers: an array of one takes ten times as long."""
    alpha = lab[3]
    if alpha <= 0.0:
        return [0.0, 0.0, 0.0, min(1.0, max(0.0, round(alpha, 12)))]
    light, a, b = (value / alpha for value in lab[:3])
    lms = [(row[0] * light + row[1] * a + row[2] * b) ** 3 for row in _matrices().lab_to_lms_rows]
    made = []
    for row in _matrices().lms_to_linear_rows:
        value = row[0] * lms[0] + row[1] * lms[1] + row[2] * lms[2]
        size = abs(value)
        said = value * 12.92 if size <= 0.0031308 else math.copysign(1.055 * size ** (1 / 2.4) - 0.055, value)
        made.append(min(1.0, max(0.0, round(said, 12))))
    return [*made, min(1.0, max(0.0, round(alpha, 12)))]


_KAPPA, _EPSILON = 24389 / 27, 216 / 24389


def from_lab(lab: Floats) -> Floats:
    """CIE Lab (D50) (..., 3) to sRGB, not clipped: CSS Color 4, sample code Lab_to_XYZ."""
    light = lab[..., 0]
    fy = (light + 16) / 116
    fx, fz = lab[..., 1] / 500 + fy, fy - lab[..., 2] / 200
    x = np.where(fx**3 > _EPSILON, fx**3, (116 * fx - 16) / _KAPPA)
    y = np.where(light > _KAPPA * _EPSILON, fy**3, light / _KAPPA)
    z = np.where(fz**3 > _EPSILON, fz**3, (116 * fz - 16) / _KAPPA)
    return from_linear(
        np.asarray(np.stack([x, y, z], -1) * _matrices().white @ _matrices().d50_to_d65.T @ _matrices().xyz_to_rgb.T)
    )


def to_lab(rgb: Floats) -> Floats:
    """sRGB (..., 3) to CIE Lab (D50): CSS Color 4, sample code XYZ_to_Lab."""
    xyz = to_linear(rgb) @ _matrices().rgb_to_xyz.T @ _matrices().d65_to_d50.T / _matrices().white
    f = np.where(xyz > _EPSILON, np.cbrt(xyz), (_KAPPA * xyz + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def _of_lab(c: list[float]) -> Floats:
    return from_lab(np.array(c, float))


def _of_xyz(xyz: Floats) -> Floats:
    return from_linear(_matrices().xyz_to_rgb @ xyz)


def _polar(c: list[float]) -> list[float]:
    hue = math.radians(c[2])
    return [c[0], c[1] * math.cos(hue), c[1] * math.sin(hue)]


TO_SRGB: dict[str, Callable[[list[float]], Floats]] = {
    "srgb-linear": lambda c: from_linear(np.array(c)),
    "oklab": lambda c: from_oklab(np.array(c)),
    "oklch": lambda c: from_oklab(np.array(_polar(c))),
    "lab": _of_lab,
    "lch": lambda c: _of_lab(_polar(c)),
    "display-p3": lambda c: _of_xyz(_matrices().p3_to_xyz @ to_linear(np.array(c))),
    "xyz": lambda c: _of_xyz(np.array(c)),
    "xyz-d65": lambda c: _of_xyz(np.array(c)),
    "xyz-d50": lambda c: _of_xyz(_matrices().d50_to_d65 @ np.array(c)),
}
