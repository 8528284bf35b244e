"""What pairing looks at: each frame's layers as arrays and normalised words."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from avelt.core.blending import colour
from avelt.core.blending.paints import mean_colour
from avelt.core.geometry.affine import Floats
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.model.find import by_identity
from avelt.core.model.values import KIND_WORDS, Frame, Group, Layer, Picture, Text

KIND_CODE = {kind: code for code, kind in enumerate(KIND_WORDS)}
GROUP = KIND_CODE[Group]
_GENERIC = re.compile(
    r"(box|oval|path|text|picture|group|rect(angle)?|ellipse|circle|line|poly(gon|line)|image|layer|shape|vector"
    r"|frame|g|svg|use|star|mask|clip|union|bitmap)?[\s_.#-]*\d*"
)
_COPY = re.compile(r"[\s_-]*(copy|duplicate)([\s_-]*\d+)?$")
_PARTS = re.compile(r"[\s_./-]+")


def normal_name(name: str) -> str:
    """A name without case, "copy" tails, and differences of word separators.

    >>> normal_name("Grey_Stack-Card copy 2")
    'grey stack card'
    """
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name)
    return _PARTS.sub(" ", _COPY.sub("", spaced.casefold().strip())).strip()


def is_generic(normal: str, words: str) -> bool:
    """A name that says nothing of its own: a kind with a number, or the words of the text itself."""
    return bool(_GENERIC.fullmatch(normal)) or (bool(words) and normal in (words, f"text '{words}'"))


@dataclass(frozen=True)
class Facts:
    """One frame's layers: n rows.

    ``spot`` (n, 4) centre x, y, width, height over the frame's size; ``look`` (n, 5) mean fill as
    premultiplied OKLab with alpha, and stroke width; ``order`` (n,) place among siblings, 0..1.
    """

    flat: Flat
    names: tuple[str, ...]
    named: np.ndarray
    paths: tuple[str, ...]
    words: tuple[str, ...]
    kind: np.ndarray
    spot: Floats
    look: Floats
    order: Floats
    assets: tuple[str, ...]
    inner: tuple[frozenset[str], ...]

    @property
    def count(self) -> int:
        """How many layers."""
        return len(self.names)


def _look(layer: Layer) -> list[float]:
    paint = layer.fills[-1] if layer.fills else None
    rgba = mean_colour(paint) if paint is not None else np.zeros(4)
    width = layer.stroke.width if layer.stroke else 0.0
    return [*rgba.tolist(), width]


def _gather(frame: Frame) -> Facts:
    flat = flatten(frame)
    n = len(flat.layers)
    names = tuple(normal_name(layer.name) for layer in flat.layers)
    words = tuple(
        " ".join(layer.body.words.casefold().split()) if isinstance(layer.body, Text) else "" for layer in flat.layers
    )
    named = np.array([not is_generic(name, text) for name, text in zip(names, words, strict=True)], bool)
    paths: list[str] = []
    inner: list[set[str]] = [set() for _ in range(n)]
    siblings: dict[int, int] = {}
    for i in range(n):
        up = int(flat.parent[i])
        paths.append(f"{paths[up]}/{names[up]}" if up >= 0 else "")
        siblings[up] = siblings.get(up, 0) + 1
    for i in range(n - 1, -1, -1):
        up = int(flat.parent[i])
        if up >= 0:
            inner[up] |= inner[i]
            if named[i]:
                inner[up].add(names[i])
            if words[i]:
                inner[up].add("'" + words[i])
    order = np.array([flat.path[i][-1] / max(1, siblings[int(flat.parent[i])] - 1) for i in range(n)], float)
    look = np.array([_look(layer) for layer in flat.layers], float).reshape(n, 5)
    look[:, :4] = colour.premultiplied_oklab(look[:, :4])
    box = flat.bounds.reshape(n, 4)
    scale = np.array([max(frame.w, 1e-9), max(frame.h, 1e-9)] * 2)
    spot = np.concatenate([box[:, :2] + box[:, 2:] / 2, box[:, 2:]], 1) / scale
    return Facts(
        flat, names, named, tuple(paths), words,
        np.array([KIND_CODE[type(layer.body)] for layer in flat.layers], dtype=np.intp),
        spot, look, order,
        tuple(layer.body.asset if isinstance(layer.body, Picture) else "" for layer in flat.layers),
        tuple(frozenset(s) for s in inner),
    )  # fmt: skip


#: The facts of a frame, remembered by its identity.
gather = by_identity(_gather)
