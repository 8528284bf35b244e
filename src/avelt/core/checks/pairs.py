"""What is wrong with pairs: names that are nearly one, contents that only cut."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from rapidfuzz.distance import DamerauLevenshtein

from avelt.core.checks.compiled import goes, transitions
from avelt.core.checks.trouble import Trouble
from avelt.core.model.values import Layer, Picture, Project, Text
from avelt.core.pairing.engine import Pairing
from avelt.core.pairing.explain import LETTERS_APART
from avelt.core.pairing.facts import normal_name
from avelt.core.timing.compile import pairing_of
from avelt.core.words import tr

_SHORTEST = 4  # letters that a word has to have: below, near words are other words
_LONG = 8  # letters from which two of them may be others


def near_names(project: Project) -> Iterator[Trouble]:
    """Layers of one kind without partners whose names are a letter or two apart: most likely one was mistyped."""
    for route in project.routes:
        if not goes(route):
            continue
        pairing = pairing_of(project, route)
        decided = {(d.from_id, d.to_id) for d in route.transition.decisions}
        left, right = _astray(pairing, "from"), _astray(pairing, "to")
        for one, alone in left:
            for other, other_alone in right:
                if not (alone or other_alone) or one.kind != other.kind or (one.id, other.id) in decided:
                    continue
                if _nearly(one.name, other.name):
                    says = tr(
                        "“{value}” is not paired with “{other}”, though their names are nearly one.",
                        value=one.name,
                        other=other.name,
                    )
                    yield Trouble("near name", says, (route.id,), layers=(one.id, other.id))


def _astray(pairing: Pairing, side: Literal["from", "to"]) -> list[tuple[Layer, bool]]:
    """Layers of a side that have no partner (True), or one of another name."""
    here, there = (pairing.left, pairing.right) if side == "from" else (pairing.right, pairing.left)
    partners = pairing.to_of if side == "from" else pairing.from_of
    found: list[tuple[Layer, bool]] = []
    for layer in here.flat.layers:
        partner = partners.get(layer.id)
        if partner is None:
            found.append((layer, True))
        elif normal_name(there.flat.layers[there.flat.index[partner]].name) != normal_name(layer.name):
            found.append((layer, False))
    return found


def _nearly(one: str, other: str) -> bool:
    """Whether two names differ by a letter or two, and not by a number."""
    a, b = normal_name(one), normal_name(other)
    if a == b or _without_digits(a) == _without_digits(b):
        return False
    words = a.split(), b.split()
    if len(words[0]) == len(words[1]):
        return all(x == y or _mistyped(x, y) for x, y in zip(*words, strict=True))
    return _mistyped("".join(words[0]), "".join(words[1]))  # a space too many


def _mistyped(one: str, other: str) -> bool:
    """Whether two words differ by what a hand mistypes: a letter, in long words two."""
    length = min(len(one), len(other))
    most = LETTERS_APART if length >= _LONG else 1
    return length >= _SHORTEST and DamerauLevenshtein.distance(one, other, score_cutoff=most) <= most


def _without_digits(name: str) -> str:
    return " ".join("".join(letter for letter in name if not letter.isdigit()).split())


def only_cuts(project: Project) -> Iterator[Trouble]:
    """Pairs that jump from one look to the other though time for a motion is there, and why."""
    for route, program in transitions(project):
        chosen = {(s.from_id, s.to_id) for s in route.transition.settled if s.swap_at is not None}
        for part in program.contents:
            if part.both is None or program.duration <= 0.0 or tuple(layer.id for layer in part.both) in chosen:
                continue
            left, right = part.both
            layers = (left.id, right.id)
            if part.change == "swap":
                says = tr(
                    "{right} only cuts half way: {left}, and it was set to swap.",
                    right=right.name,
                    left=_why(left, right),
                )
                yield Trouble("only cuts", says, (route.id,), layers=layers)
            elif why := _flips(left, right):
                yield Trouble(
                    "flips", tr("{right} flips half way: {why}.", right=right.name, why=why), (route.id,), layers=layers
                )


def _flips(left: Layer, right: Layer) -> str:
    """What of two layers has nothing between its ends; empty when all of it has."""
    if left.blend != right.blend:
        return tr("it blends as {blend} here and as {blend2} there", blend=left.blend, blend2=right.blend)
    one, other = left.body, right.body
    if isinstance(one, Text) and isinstance(other, Text) and one.words == other.words:
        if one.family != other.family:
            return tr("its font is {family} here and {family2} there", family=one.family, family2=other.family)
        if one.italic != other.italic:
            return tr("it is upright on one side only")
    return ""


def _why(left: Layer, right: Layer) -> str:
    if left.kind != right.kind:
        return tr("it is a {kind} here and a {kind2} there", kind=tr(left.kind), kind2=tr(right.kind))
    if isinstance(left.body, Text):
        return tr("its words are others")
    if isinstance(left.body, Picture):
        return tr("its picture is another")
    return tr("its outlines are not alike")


RULES = (near_names, only_cuts)
