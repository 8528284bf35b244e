"""Motion of one route put on others: all of it, or only its pair decisions, its ways to leave and enter, or one cue.

A layer of the source stands for the target's layer of the same origin, or the one that pairing finds. Each gives how
much of it found a place, and how much not.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

import msgspec

from avelt.core.edits.keyframes import keys_for
from avelt.core.edits.routes import decide, edit_route, set_absent, with_cue
from avelt.core.errors import EditError
from avelt.core.model.find import layer_index, route_by_id
from avelt.core.model.motion import Away, Cue, CueKey, Stagger, Tie, Transition
from avelt.core.model.values import Frame, Project, Route
from avelt.core.pairing.engine import Pairing
from avelt.core.timing.compile import compile_route, paired, pairing_of
from avelt.core.timing.over import ends
from avelt.core.words import tr

replace = msgspec.structs.replace
_PLAIN = Transition()
Put = tuple[Project, int, int]


class Relation:
    """What a source route's layers are on a target: of the frame left, of the one arrived at, and its pairs."""

    def __init__(self, project: Project, source: Route, target: Route) -> None:
        self.left, self.right = _translation(project, source, target)
        self.pairing = pairing_of(project, target)

    def cue(self, cue: Cue) -> Cue | None:
        """A cue as one of the target, where its layers are one pair there, too."""
        return _moved(cue, self.left, self.right, self.pairing)


def _each(
    project: Project, source_id: str, target_ids: Iterable[str], put: Callable[[Project, Route, Relation], Put]
) -> Put:
    source = route_by_id(project, source_id)
    placed = missed = 0
    for target_id in target_ids:
        if target_id != source_id:
            target = route_by_id(project, target_id)
            project, more, less = put(project, target, Relation(project, source, target))
            placed, missed = placed + more, missed + less
    return project, placed, missed


def copy_decisions(project: Project, source_id: str, target_ids: Iterable[str]) -> Put:
    """What was decided by hand about pairs, on others too; what was decided there stays where it is not the same."""
    decisions = route_by_id(project, source_id).transition.decisions

    def put(project: Project, target: Route, relation: Relation) -> Put:
        placed = 0
        for entry in decisions:
            first, second = relation.left.get(entry.from_id), relation.right.get(entry.to_id)
            if first is None or second is None:
                continue
            try:
                project = decide(project, target.id, first, second, entry.together)
            except EditError:
                continue
            placed += 1
        return project, placed, len(decisions) - placed

    return _each(project, source_id, target_ids, put)


def copy_ways(project: Project, source_id: str, target_ids: Iterable[str]) -> Put:
    """How layers leave and enter, all of them and single ones, on others too."""
    source = route_by_id(project, source_id)
    motion, mine = source.transition, layer_index(ends(project, source)[0])

    def put(project: Project, target: Route, relation: Relation) -> Put:
        left, right = relation.left, relation.right
        new = replace(
            target.transition, leave=_behind(motion.leave, left, right), enter=_behind(motion.enter, left, right)
        )
        project = edit_route(project, target.id, lambda r: replace(r, transition=new))
        placed = 0
        for entry in motion.absents:
            leaves = entry.layer in mine
            ident = (left if leaves else right).get(entry.layer, "")
            if ident in (relation.pairing.leaves if leaves else relation.pairing.enters):
                project = set_absent(project, target.id, ident, _behind(entry.pose, left, right))
                placed += 1
        return project, placed, len(motion.absents) - placed

    return _each(project, source_id, target_ids, put)


def copy_cue(project: Project, source_id: str, key: CueKey, target_ids: Iterable[str]) -> Put:
    """One cue, with its keyframes between the ends that it has there; all other cues stay."""
    source = route_by_id(project, source_id)
    cue = next((entry for entry in source.transition.cues if entry.key == key), None)
    if cue is None:
        raise EditError(tr("The source has no such cue of its own."))

    def put(project: Project, target: Route, relation: Relation) -> Put:
        moved = relation.cue(cue)
        if moved is None:
            return project, 0, 1
        made = _with_keys(project, source, target, cue, moved)
        new = with_cue(target.transition, made)
        return edit_route(project, target.id, lambda r: replace(r, transition=new)), 1, 0

    return _each(project, source_id, target_ids, put)


def _with_keys(project: Project, source: Route, target: Route, cue: Cue, moved: Cue) -> Cue:
    """The keyframes of a cue that was moved to another route, between its ends there."""
    if not cue.keyframes:
        return moved
    programs = compile_route(project, source), compile_route(project, target)
    return replace(moved, keyframes=keys_for(cue.keyframes, cue.key, *programs, moved.key))


def copy_motion(
    project: Project, source_id: str, target_ids: Iterable[str], cast: Mapping[str, str] | None = None
) -> tuple[Project, int, int]:
    """One route's whole motion on others, pair by pair, in the place of what they had; a cue is copied where both its
    ends are found and are one pair there too. ``cast``: layers that play the part of a source's layer by hand."""
    source = route_by_id(project, source_id)
    placed = missed = 0
    for target_id in target_ids:
        if target_id == source_id:
            continue
        target = route_by_id(project, target_id)
        left, right = (
            found if not cast else found | {a: b for a, b in cast.items() if a in layer_index(frame)}
            for found, frame in zip(_translation(project, source, target), ends(project, source), strict=True)
        )
        pairing = pairing_of(project, target)
        cues: list[Cue] = []
        for cue in source.transition.cues:
            moved = _moved(cue, left, right, pairing)
            cues += [_with_keys(project, source, target, cue, moved)] if moved is not None else []
            placed, missed = placed + (moved is not None), missed + (moved is None)
        ties, staggers = _hung(source.transition, left, right, pairing)
        absents = []
        mine = layer_index(ends(project, source)[0])
        for entry in source.transition.absents:
            ident = (left if entry.layer in mine else right).get(entry.layer, "")
            alone = ident in pairing.leaves if entry.layer in mine else ident in pairing.enters
            absents += [replace(entry, layer=ident, pose=_behind(entry.pose, left, right))] if alone else []
            placed, missed = placed + alone, missed + (not alone)
        motion = replace(
            target.transition,
            duration=source.transition.duration,
            curve=source.transition.curve,
            cues=tuple(cues),
            leave_curve=source.transition.leave_curve,
            enter_curve=source.transition.enter_curve,
            ties=ties,
            staggers=staggers,
            absents=tuple(absents),
            leave=_behind(source.transition.leave, left, right),
            enter=_behind(source.transition.enter, left, right),
        )
        project = edit_route(project, target_id, lambda r, motion=motion: replace(r, transition=motion))  # type: ignore[misc]
    return project, placed, missed


def _translation(project: Project, source: Route, target: Route) -> tuple[dict[str, str], dict[str, str]]:
    a, b = ends(project, source), ends(project, target)
    return _relatives(a[0], b[0]), _relatives(a[1], b[1])


def _relatives(one: Frame, other: Frame) -> dict[str, str]:
    if one is other:
        return {ident: ident for ident in layer_index(one)}
    return dict(paired(one, other, _PLAIN).to_of)


def _hung(
    motion: Transition, left: Mapping[str, str], right: Mapping[str, str], pairing: Pairing
) -> tuple[tuple[Tie, ...], tuple[Stagger, ...]]:
    """Ties and staggers between cues that find a place."""

    def there(key: CueKey) -> CueKey | None:
        cue = _moved(Cue(*key), left, right, pairing)
        return cue.key if cue is not None else None

    ties = []
    for tie in motion.ties:
        own, other = there(tie.cue), there(tie.to)
        ties += [replace(tie, cue=own, to=other)] if own is not None and other is not None else []
    moved = [(e, tuple(key for key in map(there, e.cues) if key is not None)) for e in motion.staggers]
    return tuple(ties), tuple(replace(e, cues=keys) for e, keys in moved if len(keys) > 1)


def _moved(cue: Cue, left: Mapping[str, str], right: Mapping[str, str], pairing: Pairing) -> Cue | None:
    first = left.get(cue.from_id) if cue.from_id is not None else None
    second = right.get(cue.to_id) if cue.to_id is not None else None
    if (cue.from_id is not None and first is None) or (cue.to_id is not None and second is None):
        return None
    if first is not None and second is not None:
        fits = pairing.to_of.get(first) == second
    elif first is not None:
        fits = first in pairing.leaves
    else:
        fits = second in pairing.enters
    return replace(cue, from_id=first, to_id=second) if fits else None


def _behind(pose: Away, left: Mapping[str, str], right: Mapping[str, str]) -> Away:
    if not pose.behind:
        return pose
    return replace(pose, behind=left.get(pose.behind) or right.get(pose.behind) or "")
