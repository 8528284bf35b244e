"""Pairs and non-pairs in sentences."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from avelt.core.model.values import Layer, Text
from avelt.core.pairing import evidence
from avelt.core.pairing.engine import Pair, Pairing


@dataclass(frozen=True)
class Reason:
    """One kind of evidence: what was compared, how well it fits (0..1), and a sentence."""

    what: str
    score: float
    says: str


def reasons(pairing: Pairing, from_id: str, to_id: str) -> tuple[Reason, ...]:
    """All evidence for these two layers, whether they are a pair or not."""
    a, b = pairing.left, pairing.right
    i, j = a.flat.index[from_id], b.flat.index[to_id]
    partner, taken = np.full(a.count, -1), np.full(b.count, -1)
    for left_id, right_id in pairing.to_of.items():
        p, q = a.flat.index[left_id], b.flat.index[right_id]
        partner[p], taken[q] = q, p
    marks = evidence.scores(a, b, np.array([i]), np.array([j]), partner, taken)[0]
    first, second = a.flat.layers[i], b.flat.layers[j]
    same = first.origin == second.origin
    found = [Reason("same origin", float(same), "copied from each other" if same else "not copied from each other")]
    says = _sentences(pairing, i, j, first, second)
    found += [
        Reason(kind, round(float(mark), 3), says[kind])
        for kind, mark in zip(evidence.KINDS, marks, strict=True)
        if not math.isnan(mark)
    ]
    return tuple(found)


def _sentences(pairing: Pairing, i: int, j: int, first: Layer, second: Layer) -> dict[str, str]:
    a, b = pairing.left, pairing.right
    box_a, box_b = a.flat.bounds[i], b.flat.bounds[j]
    moved = math.dist(box_a[:2] + box_a[2:] / 2, box_b[:2] + box_b[2:] / 2)
    area_a, area_b = float(box_a[2] * box_a[3]), float(box_b[2] * box_b[3])
    grown = math.sqrt(area_b / area_a) if area_a > 0 and area_b > 0 else 1.0
    if abs(grown - 1) < 0.02:
        size = "same size"
    else:
        size = f"grew {grown:.1f}×" if grown > 1 else f"shrank to {grown:.2f}×"
    shared = a.inner[i] & b.inner[j]
    return {
        "name": "both are named “" + first.name + "”"
        if a.names[i] == b.names[j]
        else f"“{first.name}” / “{second.name}”",
        "name path": "in groups of the same names" if a.paths[i] == b.paths[j] else "in groups of other names",
        "kind": f"{first.kind} and {second.kind}",
        "text": _text_says(first, second),
        "look": _look_says(first, second),
        "inside": f"{len(shared)} of {min(len(a.inner[i]), len(b.inner[j]))} names and words inside are shared",
        "place in the tree": f"{_ordinal(a.flat.path[i][-1])} / {_ordinal(b.flat.path[j][-1])} among its siblings",
        "shape and spot": f"moved {moved:.0f} px, {size}" if moved >= 0.5 else f"same spot, {size}",
    }


def _text_says(first: Layer, second: Layer) -> str:
    if not isinstance(first.body, Text) or not isinstance(second.body, Text):
        return ""
    one, two = " ".join(first.body.words.split()), " ".join(second.body.words.split())
    return f"both read “{_short(one)}”" if one.casefold() == two.casefold() else f"“{_short(one)}” / “{_short(two)}”"


def _look_says(first: Layer, second: Layer) -> str:
    if isinstance(first.body, Text) and isinstance(second.body, Text) and first.body.size != second.body.size:
        return f"type size {first.body.size:g} to {second.body.size:g}"
    if first.fills == second.fills and first.stroke == second.stroke:
        return "same paint"
    return "other paint"


def _short(text: str, most: int = 28) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _ordinal(place: int) -> str:
    words = ("first", "second", "third", "fourth", "fifth")
    return words[place] if place < len(words) else f"number {place + 1}"


def why_alone(pairing: Pairing, layer_id: str, side: str) -> str:
    """Why a layer has no partner, with the nearest other layer."""
    own, other = (pairing.left, pairing.right) if side == "from" else (pairing.right, pairing.left)
    near = pairing.candidates(layer_id, "from" if side == "from" else "to", 1)
    if not near:
        kind = own.flat.layers[own.flat.index[layer_id]].kind
        return f"No partner: the other frame has no {kind} left that it could be."
    there = near[0].layer
    name = other.flat.layers[other.flat.index[there]].name
    pair_ids = (layer_id, there) if side == "from" else (there, layer_id)
    weak = [r for r in reasons(pairing, *pair_ids) if r.what != "same origin" and r.score < 0.5]
    weak.sort(key=lambda r: (r.score - 1) * evidence.WEIGHTS[r.what])
    against = ", ".join(f"{r.what}: {r.says}" for r in weak[:2])
    engaged = there in (pairing.from_of if side == "from" else pairing.to_of)
    tail = f" ({against})" if against else ""
    if engaged:
        return f"No partner: the nearest, “{name}”, is paired with a layer that fits it better{tail}."
    return f"No partner: the nearest, “{name}”, fits only {near[0].score:.2f}{tail}."


def pair_of(pairing: Pairing, layer_id: str) -> Pair | None:
    """The pair that the layer is in, on either side."""
    return next((p for p in pairing.pairs if layer_id in (p.from_id, p.to_id)), None)
