"""Outlines as cubic Beziers.

A subpath is an array (1 + 3 n, 2): the start, then two handles and an end for each of n cubics.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from avelt.core.arrays import Floats, np

#: Handle length of a cubic that follows a quarter circle of radius 1 most closely in radius.
KAPPA = 4.0 / 3.0 * (math.sqrt(2.0) - 1.0)


def bounds(points: Floats) -> tuple[float, float, float, float]:
    """Tight upright bounds (x, y, w, h) of one subpath, extremes of every cubic included."""
    return bounds_of([points])


def bounds_of(subpaths: list[Floats]) -> tuple[float, float, float, float]:
    """Tight upright bounds (x, y, w, h) of several subpaths together, all cubics in one go; zero for none."""
    if not subpaths:
        return 0.0, 0.0, 0.0, 0.0
    corners = np.concatenate([points[::3] for points in subpaths])
    low, high = corners.min(0), corners.max(0)
    bent = [points for points in subpaths if len(points) >= 4]
    if bent:
        p0, p1, p2, p3 = (np.concatenate([points[k : len(points) - 3 + k : 3] for points in bent]) for k in range(4))
        a, b, c = -p0 + 3 * p1 - 3 * p2 + p3, 2 * (p0 - 2 * p1 + p2), p1 - p0
        inner = b * b - 4 * a * c
        root = np.sqrt(np.maximum(inner, 0.0))
        with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
            # The stable form of both roots of a t^2 + b t + c.
            q = -0.5 * (b + np.where(b >= 0, root, -root))
            roots = np.stack([q / a, c / q])
        roots = np.where(np.isfinite(roots) & (inner >= 0), roots, 0.0).clip(0.0, 1.0)
        s = 1.0 - roots
        at = s**3 * p0 + 3 * s * s * roots * p1 + 3 * s * roots * roots * p2 + roots**3 * p3
        low = np.minimum(low, at.min((0, 1)))
        high = np.maximum(high, at.max((0, 1)))
    return float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1])


def union(boxes: list[tuple[float, float, float, float]]) -> tuple[float, float, float, float]:
    """The box around boxes; all zero for none."""
    if not boxes:
        return 0.0, 0.0, 0.0, 0.0
    x, y = min(b[0] for b in boxes), min(b[1] for b in boxes)
    return x, y, max(b[0] + b[2] for b in boxes) - x, max(b[1] + b[3] for b in boxes) - y


def line_to(start: tuple[float, float], end: tuple[float, float]) -> list[tuple[float, float]]:
    """A straight cubic from start to end, without the start."""
    (x0, y0), (x1, y1) = start, end
    return [(x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3), (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), (x1, y1)]


def arc_to(
    start: tuple[float, float], rx: float, ry: float, turn: float, large: bool, sweep: bool, end: tuple[float, float]
) -> list[tuple[float, float]]:
    """An elliptical arc as cubics, without the start.

    End point to centre form, with radii that are too small made larger: SVG 2, appendix "Elliptical arc
    implementation notes". At most a quarter turn a cubic (error below 3e-4 of the radius).
    """
    (x0, y0), (x1, y1) = start, end
    if (x0, y0) == (x1, y1):
        return []
    rx, ry = abs(rx), abs(ry)
    if rx == 0.0 or ry == 0.0:
        return line_to(start, end)
    phi = math.radians(turn % 360.0)
    cos, sin = math.cos(phi), math.sin(phi)
    half_x, half_y = (x0 - x1) / 2, (y0 - y1) / 2
    u, v = (cos * half_x + sin * half_y) / rx, (-sin * half_x + cos * half_y) / ry
    size = u * u + v * v
    if size > 1.0:
        grow = math.sqrt(size)
        rx, ry, u, v, size = rx * grow, ry * grow, u / grow, v / grow, 1.0
    factor = math.sqrt(max(0.0, (1.0 - size) / size)) if size else 0.0
    if large == sweep:
        factor = -factor
    cu, cv = factor * v, -factor * u  # the centre on the unit circle's plane
    first = math.atan2(v - cv, u - cu)
    last = math.atan2(-v - cv, -u - cu)
    span = last - first
    if sweep and span < 0:
        span += 2 * math.pi
    elif not sweep and span > 0:
        span -= 2 * math.pi
    centre_x = cos * cu * rx - sin * cv * ry + (x0 + x1) / 2
    centre_y = sin * cu * rx + cos * cv * ry + (y0 + y1) / 2
    count = max(1, math.ceil(abs(span) / (math.pi / 2) - 1e-9))
    step = span / count
    k = 4.0 / 3.0 * math.tan(step / 4.0)

    def put(px: float, py: float) -> tuple[float, float]:
        return centre_x + cos * px * rx - sin * py * ry, centre_y + sin * px * rx + cos * py * ry

    out: list[tuple[float, float]] = []
    for i in range(count):
        t0, t1 = first + i * step, first + (i + 1) * step
        c0, s0, c1, s1 = math.cos(t0), math.sin(t0), math.cos(t1), math.sin(t1)
        out += [put(c0 - k * s0, s0 + k * c0), put(c1 + k * s1, s1 - k * c1), put(c1, s1)]
    out[-1] = end
    return out


def fit_radii(radii: Sequence[float], w: float, h: float) -> tuple[float, ...]:
    """Radii (4,) that fit their box: all made smaller by one factor (CSS Backgrounds 3, corner overlap)."""
    tl, tr, br, bl = (max(0.0, float(r)) for r in radii)
    w, h = max(0.0, w), max(0.0, h)
    pairs = ((tl + tr, w), (tr + br, h), (br + bl, w), (bl + tl, h))
    factor = min((side / pair for pair, side in pairs if pair > side), default=1.0)
    return (tl, tr, br, bl) if factor == 1.0 else (tl * factor, tr * factor, br * factor, bl * factor)


def box_outline(w: float, h: float, radii: Sequence[float]) -> Floats:
    """A rounded rectangle, clockwise from the end of its top left corner; always eight cubics."""
    tl, tr, br, bl = fit_radii(radii, w, h)
    k = 1.0 - KAPPA
    points: list[tuple[float, float]] = [(tl, 0.0)]
    for end, corner in (
        ((w - tr, 0.0), ((w - tr * k, 0.0), (w, tr * k), (w, tr))),
        ((w, h - br), ((w, h - br * k), (w - br * k, h), (w - br, h))),
        ((bl, h), ((bl * k, h), (0.0, h - bl * k), (0.0, h - bl))),
        ((0.0, tl), ((0.0, tl * k), (tl * k, 0.0), (tl, 0.0))),
    ):
        points += line_to(points[-1], end)
        points += corner
    return np.array(points)


def box_outlines(w: Floats, h: Floats, radii: Floats) -> Floats:
    """Many rounded rectangles at once: w, h (n,) and radii (n, 4) to points (n, 25, 2), as ``box_outline`` has them."""
    w, h, r = np.maximum(w, 0.0), np.maximum(h, 0.0), np.maximum(radii, 0.0)
    sides = np.stack([w, h, w, h], -1)
    both = r + r[:, [1, 2, 3, 0]]
    factor = np.where(both > sides, sides / np.where(both > sides, both, 1.0), 1.0).min(-1)
    tl, tr, br, bl = (r * factor[:, None]).T
    k, none = 1.0 - KAPPA, np.zeros_like(w)
    made = [(tl, none)]
    for end, corner in (
        ((w - tr, none), ((w - tr * k, none), (w, tr * k), (w, tr))),
        ((w, h - br), ((w, h - br * k), (w - br * k, h), (w - br, h))),
        ((bl, h), ((bl * k, h), (none, h - bl * k), (none, h - bl))),
        ((none, tl), ((none, tl * k), (tl * k, none), (tl, none))),
    ):
        (x0, y0), (x1, y1) = made[-1], end
        made += [(x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3), (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), end]
        made += corner
    points = np.empty((len(w), len(made), 2))
    for n, (x, y) in enumerate(made):
        points[:, n, 0], points[:, n, 1] = x, y
    return points


def oval_outline(w: float, h: float) -> Floats:
    """The ellipse in a box, clockwise from its top; four cubics."""
    rx, ry = w / 2, h / 2
    kx, ky = rx * KAPPA, ry * KAPPA
    return np.array(
        [
            (rx, 0),
            (rx + kx, 0),
            (w, ry - ky),
            (w, ry),
            (w, ry + ky),
            (rx + kx, h),
            (rx, h),
            (rx - kx, h),
            (0, ry + ky),
            (0, ry),
            (0, ry - ky),
            (rx - kx, 0),
            (rx, 0),
        ]
    )
