"""Values as CSS and SVG write them: each function takes rows (k, m) of numbers and gives k texts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from avelt.core.arrays import Floats, np
from avelt.core.blending import conversions, spaces
from avelt.core.curves.text import number

_STRAIGHT = 1e-4  # px that a handle may lie beside the line between its ends


def px(*digits_after: int) -> Callable[[Floats], list[str]]:
    """Lengths, parted by spaces."""
    digits = digits_after[0] if digits_after else 3

    def texts(values: Floats) -> list[str]:
        return [" ".join(f"{number(v, digits)}px" for v in row) for row in values.tolist()]

    return texts


def plain(values: Floats) -> list[str]:
    """Numbers, parted by spaces."""
    return [" ".join(number(v, 4) for v in row) for row in values.tolist()]


def degrees(values: Floats) -> list[str]:
    """Angles."""
    return [f"{number(row[0], 3)}deg" for row in values.tolist()]


def called(*names: str) -> Callable[[Floats], list[str]]:
    """A list of functions, each with one number: ``rotate:deg`` or ``scale:``; two numbers for ``scale2:``."""

    def one(values: list[float]) -> str:
        made, at = [], 0
        for entry in names:
            name, unit = entry.split(":")
            count = 2 if name.endswith("2") else 1
            inner = ", ".join(f"{number(v, 4)}{unit}" for v in values[at : at + count])
            made.append(f"{name.removesuffix('2')}({inner})")
            at += count
        return " ".join(made)

    return lambda values: [one(row) for row in values.tolist()]


def matrices(values: Floats) -> list[str]:
    """2D transforms."""
    return [f"matrix({', '.join(number(v, 5) for v in row)})" for row in values.tolist()]


def rgb_text(rgba: Sequence[float]) -> str:
    """One colour of four numbers 0..1 in eight bits, as short as it can be said."""
    r, g, b = (round(255 * min(1.0, max(0.0, v))) for v in rgba[:3])
    alpha = min(1.0, max(0.0, rgba[3]))
    if alpha >= 1.0:
        return f"#{r:02x}{g:02x}{b:02x}"
    return f"rgb({r} {g} {b} / {number(alpha, 4)})"


def oklab_texts(values: Floats) -> list[str]:
    """Colours (k, 4) in premultiplied OKLab. One that always stands is said in sRGB, where nothing blends it."""
    if len(values) == 1:
        return [rgb_text(conversions.one_from_premultiplied_oklab(values[0].tolist()))]
    made = []
    for light, a, b, alpha in values.tolist():
        share = alpha if alpha > 0.0 else 1.0
        inner = " ".join(number(v / share, 5) for v in (light, a, b))
        made.append(f"oklab({inner}{f' / {number(alpha, 4)}' if alpha < 1.0 else ''})")
    return made


def srgb_texts(values: Floats) -> list[str]:
    """Colours (k, 4) in premultiplied sRGB: written so that a browser blends them there."""
    share = np.where(values[:, 3:] > 0.0, values[:, 3:], 1.0)
    inside = np.clip(values[:, :3] / share, 0.0, 1.0)
    return [
        f"rgb({', '.join(number(255 * v, 2) for v in rgb)}{f', {number(alpha, 4)}' if alpha < 1.0 else ''})"
        if len(values) > 1
        else rgb_text([*rgb, alpha])
        for rgb, alpha in zip(inside.tolist(), values[:, 3].tolist(), strict=True)
    ]


def as_they_are(rows: Floats) -> Floats:
    """Numbers that are said as they stand."""
    return rows


def colour_signal(space: int) -> tuple[Callable[[Floats], Floats], Callable[[Floats], list[str]]]:
    """How colour vectors (k, 4) of a space (its place in ``SPACES``) become values and texts."""
    name = spaces.SPACES[space]
    if name == "oklab":
        return as_they_are, oklab_texts
    if name == "srgb":
        return as_they_are, srgb_texts
    return (lambda rows: spaces.vectors(spaces.colours(rows, name), "oklab")), oklab_texts


def stop_signal(space: int) -> tuple[Callable[[Floats], Floats], Callable[[Floats], list[str]]]:
    """The same for a stop of a gradient: in sRGB, as a browser blends neighbours in the space they are written in."""
    name = spaces.SPACES[space]
    if name == "srgb":
        return as_they_are, srgb_texts
    return (lambda rows: spaces.vectors(spaces.colours(rows, name), "srgb")), srgb_texts


def path_texts(lengths: Sequence[int], closed: Sequence[bool]) -> Callable[[Floats], list[str]]:
    """Outlines (k, 2 * points) as path data of one structure: a piece that is straight in all rows is a line."""

    def texts(values: Floats) -> list[str]:
        made: list[list[str]] = [[] for _ in range(len(values))]
        first = 0
        for length, shut in zip(lengths, closed, strict=True):
            points = values[:, 2 * first : 2 * (first + length)].reshape(len(values), length, 2)
            _subpath(points, shut, made)
            first += length
        return ["".join(parts) for parts in made]

    return texts


def _subpath(points: Floats, shut: bool, made: list[list[str]]) -> None:
    lines = _lines(points)
    for k, row in enumerate(points.round(3).tolist()):
        parts = made[k]
        parts.append(f"M{_pair(row[0])}")
        for n, line in enumerate(lines):
            if line:
                parts.append(f"L{_pair(row[3 * n + 3])}")
            else:
                parts.append("C" + " ".join(_pair(p) for p in row[3 * n + 1 : 3 * n + 4]))
        if shut:
            parts.append("Z")


def _lines(points: Floats) -> list[bool]:
    """Which cubics are straight, evenly, in every row (k, points, 2)."""
    if points.shape[1] < 4:
        return []
    a, b, c, d = points[:, :-1:3], points[:, 1::3], points[:, 2::3], points[:, 3::3]
    off = np.maximum(np.abs(b - (2 * a + d) / 3), np.abs(c - (a + 2 * d) / 3))
    even = off.max((0, 2)) < _STRAIGHT
    # Handles that lie in their ends draw a line too.
    tight = np.maximum(np.abs(b - a), np.abs(c - d)).max((0, 2)) < _STRAIGHT
    return [bool(v) for v in even | tight]


def _pair(point: Sequence[float]) -> str:
    return f"{number(point[0], 2)} {number(point[1], 2)}"
