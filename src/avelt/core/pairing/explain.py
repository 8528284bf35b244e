"""Pairs and non-pairs in sentences."""

from __future__ import annotations

import math

from rapidfuzz.distance import Levenshtein

from avelt.core.arrays import np
from avelt.core.model.values import Layer, Text
from avelt.core.pairing import evidence
from avelt.core.pairing.engine import Pair, Pairing
from avelt.core.record import Record
from avelt.core.words import listed, tr

LETTERS_APART = 2  # names that differ by so many letters are near misses


class Reason(Record, frozen=True):
    """One kind of evidence: what was compared, how well it fits (0..1), and a sentence."""

    what: str
    score: float
    says: str


def reasons(pairing: Pairing, from_id: str, to_id: str) -> tuple[Reason, ...]:
    """All evidence for these two layers, whether they are a pair or not."""
    a, b = pairing.left, pairing.right
    i, j = a.flat.index[from_id], b.flat.index[to_id]
    pair = pairing.by_left.get(from_id)
    if pair is not None and pair.to_id == to_id:
        marks = np.array(pair.scores)
    else:
        marks = evidence.scores(a, b, np.array([i]), np.array([j]), *pairing.partners)[0]
    first, second = a.flat.layers[i], b.flat.layers[j]
    same = first.origin == second.origin
    found = [
        Reason(
            tr("same origin"), float(same), tr("copied from each other") if same else tr("not copied from each other")
        )
    ]
    says = _sentences(pairing, i, j, first, second)
    found += [
        Reason(kind, round(float(mark), 3), says[kind])
        for kind, mark in zip(evidence.KINDS, marks, strict=True)
        if not math.isnan(mark)
    ]
    return tuple(found)


def _sentences(pairing: Pairing, i: int, j: int, first: Layer, second: Layer) -> dict[str, str]:
    a, b = pairing.left, pairing.right
    moved, grown = _moved(pairing, i, j)
    if abs(grown - 1) < 0.02:
        size = tr("same size")
    else:
        size = tr("grew {grown:.1f}×", grown=grown) if grown > 1 else tr("shrank to {grown:.2f}×", grown=grown)
    shared = a.inner[i] & b.inner[j]
    return {
        "name": _name_says(pairing, i, j, first, second),
        "name path": tr("in groups of the same names") if a.paths[i] == b.paths[j] else tr("in groups of other names"),
        "kind": tr("{kind} and {kind2}", kind=tr(first.kind), kind2=tr(second.kind)),
        "text": _text_says(first, second),
        "look": _look_says(first, second),
        "inside": tr(
            "{count} of {min} names and words inside are shared",
            count=len(shared),
            min=min(len(a.inner[i]), len(b.inner[j])),
        ),
        "made of": tr("the same kinds inside") if (a.make[i] == b.make[j]).all() else tr("other kinds inside"),
        "place in the tree": tr(
            "{ordinal} / {ordinal2} among its siblings",
            ordinal=_ordinal(a.flat.path[i][-1]),
            ordinal2=_ordinal(b.flat.path[j][-1]),
        ),
        "shape and spot": tr("moved {moved:.0f} px, {size}", moved=moved, size=size)
        if moved >= 0.5
        else tr("same spot, {size}", size=size),
    }


def _name_says(pairing: Pairing, i: int, j: int, first: Layer, second: Layer) -> str:
    """Equal names, with how often they are there and when the kinds differ; near misses are told from other names."""
    a, b = pairing.left, pairing.right
    if a.names[i] != b.names[j]:
        apart = int(Levenshtein.distance(a.names[i], b.names[j]))
        near = tr(", {n} letters apart", ", {n} letter apart", apart) if apart <= LETTERS_APART else ""
        return f"“{first.name}” / “{second.name}”{near}"
    says = tr("both are named “{first}”", first=first.name)
    counts = a.names.count(a.names[i]), b.names.count(b.names[j])
    if max(counts) > 1:
        says += tr(", which is there {counts} / {counts2} times", counts=counts[0], counts2=counts[1])
    return (
        says
        if first.kind == second.kind
        else tr("{says}, but are {kind} and {kind2}", says=says, kind=tr(first.kind), kind2=tr(second.kind))
    )


def _text_says(first: Layer, second: Layer) -> str:
    if not isinstance(first.body, Text) or not isinstance(second.body, Text):
        return ""
    one, two = " ".join(first.body.words.split()), " ".join(second.body.words.split())
    return (
        tr("both read “{value}”", value=_short(one))
        if one.casefold() == two.casefold()
        else f"“{_short(one)}” / “{_short(two)}”"
    )


def _look_says(first: Layer, second: Layer) -> str:
    if isinstance(first.body, Text) and isinstance(second.body, Text) and first.body.size != second.body.size:
        return tr("type size {size:g} to {size2:g}", size=first.body.size, size2=second.body.size)
    if first.fills == second.fills and first.stroke == second.stroke:
        return tr("same paint")
    return tr("other paint")


def _short(text: str, most: int = 28) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _ordinal(place: int) -> str:
    words = ("first", "second", "third", "fourth", "fifth")
    return words[place] if place < len(words) else tr("number {place}", place=place + 1)


#: A kind of evidence that speaks against a couple, as said of the other layer; {} is filled by ``_against``.
_AGAINST = {
    "name": tr("has another name"),
    "name path": tr("lies in groups of other names"),
    "kind": tr("is a {kind}"),
    "text": tr("has other words"),
    "look": tr("looks otherwise"),
    "inside": tr("holds other things"),
    "made of": tr("is made of other kinds"),
    "place in the tree": tr("lies in another group"),
    "shape and spot": "{spot}",
}
_SPEAKS_AGAINST = 0.5
_FAR = 0.75  # of the score for shape and spot: below it the distance is told


def why_alone(pairing: Pairing, layer_id: str, side: str) -> str:
    """Why a layer has no partner, with the nearest other layer and what speaks against it."""
    own, other = (pairing.left, pairing.right) if side == "from" else (pairing.right, pairing.left)
    near = pairing.candidates(layer_id, "from" if side == "from" else "to", 1)
    if not near:
        kind = own.flat.layers[own.flat.index[layer_id]].kind
        return tr("No partner: the other frame has no {kind} left that it could be.", kind=kind)
    there = near[0].layer
    name = _called(other.flat.layers[other.flat.index[there]])
    pair_ids = (layer_id, there) if side == "from" else (there, layer_id)
    against = _against(pairing, *pair_ids, side)
    engaged = there in (pairing.from_of if side == "from" else pairing.to_of)
    if engaged:
        tail = tr("; besides, it {against}", against=against) if against else ""
        return tr(
            "No partner: the nearest, {name}, is paired with a layer that fits it better{tail}.", name=name, tail=tail
        )
    if not against:
        return tr("No partner: the nearest, {name}, fits only {score:.2f}.", name=name, score=near[0].score)
    return tr("No partner: the nearest, {name}, {against}.", name=name, against=against)


def _against(pairing: Pairing, from_id: str, to_id: str, side: str) -> str:
    """What speaks most against a couple, in at most three phrases about the layer of the other side."""
    a, b = pairing.left, pairing.right
    i, j = a.flat.index[from_id], b.flat.index[to_id]
    found = [r for r in reasons(pairing, from_id, to_id) if r.what in _AGAINST]
    weak = [r for r in found if r.score < (_FAR if r.what == "shape and spot" else _SPEAKS_AGAINST)]
    weak.sort(key=lambda r: (r.score - 1) * evidence.WEIGHTS[r.what])
    moved, grown = _moved(pairing, i, j)
    far = tr("is {moved:.0f} px away", moved=moved) if moved >= 1 else tr("has another size")
    if grown >= 1.5 or grown <= 1 / 1.5:
        factor = grown if side == "from" else 1 / grown
        large, small = tr("{factor:.1f}× as large", factor=factor), tr("{factor:.1f}× smaller", factor=1 / factor)
        far = listed([far, large if factor > 1 else small])
    kind = (b.flat.layers[j] if side == "from" else a.flat.layers[i]).kind
    phrases = [_AGAINST[r.what].format(kind=kind, spot=far) for r in weak[:3]]
    return listed(phrases)


def _moved(pairing: Pairing, i: int, j: int) -> tuple[float, float]:
    """How far two layers' middles are apart, px, and how much larger the second one is (a length)."""
    box_a, box_b = pairing.left.flat.bounds[i], pairing.right.flat.bounds[j]
    moved = math.dist(box_a[:2] + box_a[2:] / 2, box_b[:2] + box_b[2:] / 2)
    area_a, area_b = float(box_a[2] * box_a[3]), float(box_b[2] * box_b[3])
    return moved, math.sqrt(area_b / area_a) if area_a > 0 and area_b > 0 else 1.0


def _called(layer: Layer) -> str:
    """A layer's name, or its kind when it has none."""
    return f"“{layer.name}”" if layer.name.strip() else tr("a {kind} without a name", kind=tr(layer.kind))


def pair_of(pairing: Pairing, layer_id: str) -> Pair | None:
    """The pair that the layer is in, on either side."""
    return next((p for p in pairing.pairs if layer_id in (p.from_id, p.to_id)), None)
