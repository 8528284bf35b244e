"""Linked presets: put on once, all uses change with the preset; what was changed on a use by hand stays its own."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from functools import partial
from typing import Any, cast

import msgspec

from avelt.core.edits.frames import put_frame
from avelt.core.edits.parts import in_stage
from avelt.core.edits.routes import edit_transition
from avelt.core.errors import AveltError, EditError, NotFound
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.model.links import Carried, Link
from avelt.core.model.motion import PairKey, Transition
from avelt.core.model.parts import as_stage, linked_names
from avelt.core.model.values import Loop, Project
from avelt.core.presets.adjusted import Direction, How
from avelt.core.presets.places import Done, Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.values import Preset, from_json, to_json
from avelt.core.record import Record
from avelt.core.words import tr

replace = msgspec.structs.replace
_NEAR = 1e-6  # below it two numbers are the same: times are worked out from shares
_LOOP_OWN = ("id", "origin", "layer", "name", "muted")  # of a loop's use, never of its preset
#: Of a transition, what is compared piece by piece: by what its pieces are told apart.
_PIECES: dict[str, Callable[[Any], Any]] = {"cues": lambda cue: cue.key, "absents": lambda entry: entry.layer}


class Use(Record, frozen=True):
    """A use of a linked preset: its link, where it is in words, and what on it is its own."""

    link: Link
    where: str
    own: tuple[str, ...]


def put_linked(project: Project, preset: Preset, where: Where, how: How | None = None) -> Done:
    """Put a preset on, and remember that it is linked. A link that was on the same place gives way.

    Inside a part (``parts.in_stage``) the whole project has to have taken the preset before (``take_changed``).
    """
    how = how or How()
    if preset.kind == "part":
        raise EditError(tr("A part is one for all its uses anyway: it needs no link."))
    project, _ = take_changed(project, preset)
    before = {loop.id for frame in project.frames for loop in frame.loops}
    done = put_preset(project, preset, where, how)
    project = done.project
    places: list[tuple[str, tuple[PairKey, ...], str, str]] = []
    if preset.kind == "loop":
        places = [("", (), f.id, loop.id) for f in project.frames for loop in f.loops if loop.id not in before]
    elif preset.kind in ("transition", "shared", "stagger") or not where.pairs:
        places = [(route, tuple(where.pairs), "", "") for route in where.routes]
    else:
        # One link a pair, so that one can be cut loose without the others; each with its own start.
        places = [(where.routes[0], (pair,), "", "") for pair in where.pairs]
    taken = {(route, pairs) for route, pairs, _, _ in places if route}
    links = [link for link in project.links if (link.route, link.pairs) not in taken or not link.route]
    next_id = project.next_id
    for k, (route, pairs, frame, loop) in enumerate(places):
        several = len(places) > 1 and preset.kind not in ("transition", "shared", "stagger")
        start = how.start
        if several and how.step:
            start = (start or 0.0) + how.step * k
        links.append(
            Link(
                f"K{next_id}",
                preset.name,
                route,
                pairs,
                frame,
                loop,
                how.follow,
                how.stretch,
                how.strength,
                how.direction,
                start,
                0.0 if several else how.step,
                how.left_out,
            )
        )
        next_id += 1
    carried = (*(c for c in project.presets if c.name != preset.name), Carried(preset.name, to_json(preset).decode()))
    return Done(_tidy(replace(project, links=tuple(links), presets=carried, next_id=next_id)), done.says)


def carried(project: Project, name: str) -> Preset | None:
    """A preset that the project carries; ``None`` when it does not, or what it carries cannot be read."""
    for entry in project.presets:
        if entry.name == name:
            try:
                return from_json(entry.document.encode(), name)
            except AveltError:
                return None
    return None


def uses(project: Project, name: str = "") -> list[Use]:
    """The uses of a preset (of all of them) in a project and its parts, and what on each was changed by hand."""
    found = []
    for part, stage in _stages(project):
        for link in stage.links:
            if name and link.preset != name:
                continue
            preset, words = carried(project, link.preset), _words(stage, link)
            if preset is not None and words:
                found.append(Use(link, f"{stage.name}: {words}" if part else words, _own(stage, link, preset)))
    return found


def reset(project: Project, link_id: str) -> Project:
    """A use as its preset says, without what was changed on it."""
    part, link = _link(project, link_id)
    preset = carried(project, link.preset)
    if preset is None:
        raise NotFound(tr("The project does not carry {preset!r}.", preset=link.preset))
    return _in(project, part, lambda stage: _put_again(stage, link, preset))


def cut_loose(project: Project, link_ids: Iterable[str]) -> Project:
    """Uses that stay as they are and do not follow their preset any more."""
    gone = set(link_ids)

    def less(stage: Project) -> Project:
        return replace(stage, links=tuple(link for link in stage.links if link.id not in gone))

    for part, stage in _stages(project):
        if any(link.id in gone for link in stage.links):
            project = _in(project, part, less)
    return _tidy(project)


def take_changed(project: Project, preset: Preset) -> tuple[Project, int]:
    """A preset that was improved, on all its uses; what was changed on a use by hand stays. Gives how many uses there
    are of it, 0 when it is carried as it is or not at all."""
    old = carried(project, preset.name)
    if old is None or old == preset:
        return project, 0
    count = 0
    for part, stage in _stages(project):
        for link in stage.links:
            if link.preset != preset.name or not _words(stage, link):
                continue
            try:
                project = _in(project, part, partial(_taken, link, old, preset))
            except AveltError:
                continue  # it does not fit there any more: the use stays as it is
            count += 1
    document = to_json(preset).decode()
    entries = tuple(replace(c, document=document) if c.name == preset.name else c for c in project.presets)
    return replace(project, presets=entries), count


def refreshed(project: Project, shelf: Iterable[Preset]) -> tuple[Project, tuple[str, ...]]:
    """The project with all presets that it links to as they are on the shelf, and the names of those that changed."""
    names: list[str] = []
    wanted = {entry.name for entry in project.presets}
    for preset in shelf:
        if preset.name in wanted and carried(project, preset.name) not in (None, preset):
            project, _ = take_changed(project, preset)
            names.append(preset.name)
    return project, tuple(names)


def _taken(link: Link, old: Preset, new: Preset, stage: Project) -> Project:
    """One use, which followed a preset as it was, as the preset says now."""
    base, other = _put_again(stage, link, old), _put_again(stage, link, new)
    return _with(stage, link, _merged(_of(base, link), _of(other, link), _of(stage, link)))


def _stages(project: Project) -> list[tuple[str, Project]]:
    """The project, and its parts each as one with its id."""
    return [("", project), *((part.id, as_stage(project, part)) for part in project.parts if part.links)]


def _in(project: Project, part: str, edit: Callable[[Project], Project]) -> Project:
    return in_stage(project, part, edit) if part else edit(project)


def _link(project: Project, link_id: str) -> tuple[str, Link]:
    """A link, and the part that it is in."""
    for part, stage in _stages(project):
        for link in stage.links:
            if link.id == link_id:
                return part, link
    raise NotFound(tr("There is no link {link_id!r}.", link_id=link_id))


def _tidy(project: Project) -> Project:
    """Without presets that nothing links to, and links whose place is gone."""
    links = tuple(link for link in project.links if _words(project, link))
    wanted = linked_names(replace(project, links=links))
    return replace(project, links=links, presets=tuple(c for c in project.presets if c.name in wanted))


def _words(project: Project, link: Link) -> str:
    """Where a link is, in words; empty when that is gone."""
    try:
        if link.route:
            route = route_by_id(project, link.route)
            names = [frame_by_id(project, ident).name for ident in (route.leaves, route.arrives)]
            return " → ".join(dict.fromkeys(names))
        frame = frame_by_id(project, link.frame)
        loop = next(loop for loop in frame.loops if loop.id == link.loop)
    except (AveltError, StopIteration):
        return ""
    return f"{loop.name} in {frame.name}"


def _how(link: Link) -> How:
    direction = cast("Direction", link.direction)
    return How(link.follow, link.stretch, link.strength, direction, link.start, link.step, link.left_out)


def _put_again(project: Project, link: Link, preset: Preset) -> Project:
    """The preset once more where the link is."""
    if link.route:
        return put_preset(project, preset, Where((link.route,), link.pairs), _how(link)).project
    loop = next(loop for loop in frame_by_id(project, link.frame).loops if loop.id == link.loop)
    made = put_preset(project, preset, Where(frame=link.frame, layers=(loop.layer,)), _how(link)).project
    fresh = frame_by_id(made, link.frame).loops[-1]
    return _with(project, link, replace(fresh, **{name: getattr(loop, name) for name in _LOOP_OWN}))


def _of(project: Project, link: Link) -> Transition | Loop:
    """What the link is about."""
    if link.route:
        return route_by_id(project, link.route).transition
    return next(loop for loop in frame_by_id(project, link.frame).loops if loop.id == link.loop)


def _with(project: Project, link: Link, value: Transition | Loop) -> Project:
    if isinstance(value, Transition):
        return edit_transition(project, link.route, lambda _: value)
    frame = frame_by_id(project, link.frame)
    loops = tuple(value if loop.id == link.loop else loop for loop in frame.loops)
    return put_frame(project, replace(frame, loops=loops))


def _merged(base: Any, new: Any, now: Any) -> Any:
    """What is as the preset said goes on as it says now; what was changed by hand stays."""
    fields = {}
    for name in now.__struct_fields__:
        parts = tuple(getattr(value, name) for value in (base, new, now))
        if name in _PIECES and isinstance(now, Transition):
            fields[name] = _merged_pieces(*(_by(_PIECES[name], part) for part in parts))
        else:
            fields[name] = parts[1] if _same(parts[0], parts[2]) else parts[2]
    return replace(now, **fields)


def _merged_pieces(base: Mapping[Any, Any], new: Mapping[Any, Any], now: Mapping[Any, Any]) -> tuple[Any, ...]:
    found = []
    for key in dict.fromkeys((*now, *new)):
        piece = new.get(key) if _same(base.get(key), now.get(key)) else now.get(key)
        if piece is not None:
            found.append(piece)
    return tuple(found)


def _by(key: Callable[[Any], Any], pieces: Iterable[Any]) -> dict[Any, Any]:
    return {key(piece): piece for piece in pieces}


def _own(project: Project, link: Link, preset: Preset) -> tuple[str, ...]:
    """What of a use is not as its preset says, in words."""
    try:
        base, now = _of(_put_again(project, link, preset), link), _of(project, link)
    except AveltError:
        return ()
    words: list[str] = []
    for name in now.__struct_fields__:
        before, after = getattr(base, name), getattr(now, name)
        if _same(before, after):
            continue
        if name == "cues" and isinstance(now, Transition):
            one, other = _by(_PIECES[name], before), _by(_PIECES[name], after)
            changed = [key for key in dict.fromkeys((*one, *other)) if not _same(one.get(key), other.get(key))]
            words += dict.fromkeys(key.prop or "times and curve" for key in changed)
        else:
            words.append(_FIELDS.get(name, name.replace("_", " ")))
    return tuple(dict.fromkeys(words))


_FIELDS = {
    "absents": tr("ways to come and go"),
    "curve": "curve",
    "offset": tr("second pose"),
    "changes": tr("second pose"),
}


def _same(one: Any, other: Any) -> bool:
    """Whether two values of the model are the same, numbers nearly; ids of staggers do not count."""
    if isinstance(one, float | int) and isinstance(other, float | int):
        return math.isclose(one, other, rel_tol=_NEAR, abs_tol=_NEAR)
    if type(one) is not type(other):
        return False
    if isinstance(one, tuple):
        return len(one) == len(other) and all(map(_same, one, other))
    if isinstance(one, msgspec.Struct):
        names = [name for name in one.__struct_fields__ if not (name == "id" and hasattr(one, "spread"))]
        return all(_same(getattr(one, name), getattr(other, name)) for name in names)
    return bool(one == other)
