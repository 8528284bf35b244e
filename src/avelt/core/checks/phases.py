"""What is wrong with the running orders of a stage: phases that nobody reaches or leaves, rules that never matter,
inputs that nobody sets, motions that jump at their end, layers that two tracks want."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import pairwise, product

from msgspec.structs import replace

from avelt.core.checks.trouble import Trouble
from avelt.core.errors import FormatError
from avelt.core.model.expressions import (
    Comparison,
    Condition,
    Expression,
    InputName,
    divides_by_zero,
    holds,
    names_in,
    names_read,
    parse,
    parse_value,
    walk,
)
from avelt.core.model.find import layer_index
from avelt.core.model.find import walk as walk_layers
from avelt.core.model.parts import as_stage, part_by_id, uses_in
from avelt.core.model.phases import MAIN, Phase, Rule, ShowBlend, ShowMotion, Track, Until, poses_of
from avelt.core.model.triggers import IN_PHASES, InputValue, SetInput, hot_area, trigger_row
from avelt.core.model.values import Frame, Group, Project, Use
from avelt.core.running.splitting import moved_by
from avelt.core.words import tr

_MOST = 4_096  # combinations of inputs that are tried for two rules


def _named(track: Track, phase: Phase) -> str:
    return phase.name if track.name == MAIN else f"{track.name}, {phase.name}"


def shown(project: Project) -> set[str]:
    """The poses that running orders show."""
    return {pose for track in project.tracks for phase in track.phases for pose in poses_of(phase.shows)}


def unreached(project: Project) -> Iterator[Trouble]:
    """Phases that no rule leads to from the first one."""
    for track in project.tracks:
        if not track.phases:
            continue
        by_id = {phase.id: phase for phase in track.phases}
        reached, wanted = {track.phases[0].id}, [track.phases[0]]
        while wanted:
            for rule in wanted.pop().then:
                if rule.to not in reached and rule.to in by_id:
                    reached.add(rule.to)
                    wanted.append(by_id[rule.to])
        for phase in track.phases:
            if phase.id not in reached:
                yield Trouble(
                    "phase unreached",
                    tr("{track}: no rule leads here.", track=_named(track, phase)),
                    phases=(phase.id,),
                )


def stuck(project: Project) -> Iterator[Trouble]:
    """Phases whose time is over, and nothing comes then."""
    for track in project.tracks:
        for phase in track.phases:
            if not isinstance(phase.lasts, Until) and not phase.then:
                says = tr("{track} has an end, and nothing says what comes then.", track=_named(track, phase))
                yield Trouble("phase stuck", says, phases=(phase.id,))


def rules_without_use(project: Project) -> Iterator[Trouble]:
    """Rules that never matter, because an earlier one is always there first."""
    kinds = {entry.name: entry.kind for entry in project.inputs}
    for track in project.tracks:
        for phase in track.phases:
            for place, later in enumerate(phase.then):
                for number, sooner in enumerate(phase.then[:place]):
                    if _comes_first(phase, sooner, later) and _implies(later.only_if, sooner.only_if, kinds):
                        yield Trouble(
                            "rule in vain",
                            tr(
                                "{track}: rule {place} never matters, rule {number} comes first.",
                                track=_named(track, phase),
                                place=place + 1,
                                number=number + 1,
                            ),
                            phases=(phase.id,),
                        )
                        break


def _comes_first(phase: Phase, sooner: Rule, later: Rule) -> bool:
    """Whether a rule, when it holds, leaves nothing to a later one that holds at the same time."""
    if sooner.on is None:
        return not sooner.finish_round and (later.on is None or isinstance(phase.lasts, Until))
    return sooner.on == later.on


def _implies(text: str, other: str, kinds: Mapping[str, str]) -> bool:
    """Whether a condition can only hold while another does: tried with every value that could matter to either."""
    try:
        one, two = parse(text), parse(other)
    except FormatError:
        return False
    names = sorted({*names_in(one), *names_in(two)})
    marks = [part for condition in (one, two) for part in walk(condition)]
    numbers = sorted({float(part) for part in marks if isinstance(part, float)} | {0.0, 1.0})
    between = [(a + b) / 2 for a, b in pairwise(numbers)]
    texts = [*sorted({part for part in marks if isinstance(part, str)}), "\0"]
    values: dict[str, list[InputValue]] = {
        "number": [numbers[0] - 1.0, *numbers, *between, numbers[-1] + 1.0],
        "yes/no": [False, True],
        "text": list(texts),
    }
    rows = [values.get(kinds.get(name, ""), [False]) for name in names]
    count = 1
    for row in rows:
        count *= len(row)
    if count > _MOST:
        return text.strip() == other.strip()
    worlds = (dict(zip(names, row, strict=True)) for row in product(*rows))
    return all(holds(two, world) for world in worlds if holds(one, world))


def _expressions(phase: Phase) -> Iterator[tuple[str, bool]]:
    """What a phase reads: the text, and whether it is a condition."""
    if isinstance(phase.shows, ShowBlend):
        yield phase.shows.by, False
    for rule in phase.then:
        if rule.only_if:
            yield rule.only_if, True


def expressions(project: Project) -> Iterator[Trouble]:
    """Expressions that cannot be read, that name what is not there, compare words with numbers or divide by 0."""
    kinds = {entry.name: entry.kind for entry in project.inputs}
    starts = {entry.name: entry.start for entry in project.inputs}
    for track in project.tracks:
        for phase in track.phases:
            for text, is_condition in _expressions(phase):
                for says in expression_troubles(text, is_condition, kinds, starts):
                    yield Trouble("expression", f"{_named(track, phase)}: {says}", phases=(phase.id,))


def expression_troubles(
    text: str, is_condition: bool, kinds: Mapping[str, str], starts: Mapping[str, InputValue]
) -> Iterator[str]:
    """What is wrong with one expression, in sentences. ``kinds`` and ``starts`` are those of the inputs by name."""
    try:
        read: Expression = parse(text) if is_condition else parse_value(text)
    except FormatError as error:
        yield tr("“{words}” cannot be read: {error}", words=text, error=error)
        return
    for name in names_in(read):
        if kinds.get(name, "signal") == "signal":
            what = tr("is a signal, which has no value") if name in kinds else tr("is no input")
            yield tr("it reads “{name}”, which {what}.", name=name, what=what)
    if divides_by_zero(read, starts):
        yield tr("“{words}” divides by 0 at the start: that counts as 0.", words=text)
    for part in walk(read):
        if isinstance(part, Comparison):
            one, two = _kind(part.left, kinds), _kind(part.right, kinds)
            if one and two and one != two:
                yield tr(
                    "“{words}” compares a {value} with a {two}: they are never equal and have no order.",
                    words=text,
                    value=one,
                    two=two,
                )


def _kind(part: Expression, kinds: Mapping[str, str]) -> str:
    if isinstance(part, InputName):
        return kinds.get(part.name, "") if kinds.get(part.name) != "signal" else ""
    if isinstance(part, bool | Condition):
        return "yes/no"
    return "text" if isinstance(part, str) else "number"


def unplayed_events(project: Project) -> Iterator[Trouble]:
    """Events that the player does not know yet, or on what is gone."""
    layers = {ident for frame in project.frames for ident in layer_index(frame)}
    inputs = {entry.id for entry in project.inputs}
    for track in project.tracks:
        for phase in track.phases:
            for rule in phase.then:
                if rule.on is not None and not isinstance(rule.on, IN_PHASES):
                    says = tr(
                        "{track}: a rule cannot wait for “{on}”.",
                        track=_named(track, phase),
                        on=tr(trigger_row(rule.on).word),
                    )
                    yield Trouble("event", says, phases=(phase.id,))
                elif rule.on is not None and ((gone := hot_area(rule.on)) and gone not in layers):
                    yield Trouble(
                        "event",
                        tr("{track}: what it waits for is gone.", track=_named(track, phase)),
                        phases=(phase.id,),
                    )
            reads = [getattr(rule.on, "input", "") for rule in phase.then]
            writes = [deed.input for deed in (*phase.entering, *phase.leaving)]
            if any(ident and ident not in inputs for ident in (*reads, *writes)):
                yield Trouble(
                    "event", tr("{track}: its input is gone.", track=_named(track, phase)), phases=(phase.id,)
                )


def jumps(project: Project) -> Iterator[Trouble]:
    """Motions that end where the phase after them does not begin."""
    poses = {frame.id: frame for frame in project.frames}
    for track in project.tracks:
        by_id = {phase.id: phase for phase in track.phases}
        for phase in track.phases:
            for rule in phase.then:
                after = by_id.get(rule.to)
                if not isinstance(phase.shows, ShowMotion) or after is None or rule.duration or rule.on is not None:
                    continue
                end, begin = poses.get(phase.shows.arrives), poses.get(poses_of(after.shows)[0])
                if end is not None and begin is not None and not _look_alike(end, begin):
                    yield Trouble(
                        "phase jumps",
                        tr(
                            "{track} ends at {end}, {after} begins at {begin}: it jumps.",
                            track=_named(track, phase),
                            end=end.name,
                            after=after.name,
                            begin=begin.name,
                        ),
                        phases=(phase.id, after.id),
                    )


def _look_alike(one: Frame, other: Frame) -> bool:
    """Whether two poses show the same."""
    if one is other:
        return True

    def seen(frame: Frame) -> list[object]:
        plain = []
        for layer in walk_layers(frame.layers):
            body = replace(layer.body, children=(), mask="") if isinstance(layer.body, Group) else layer.body
            plain.append(replace(layer, id="", body=body))
        return [frame.w, frame.h, frame.background, plain]

    return seen(one) == seen(other)


def two_tracks(project: Project) -> Iterator[Trouble]:
    """Layers that two tracks move."""
    names = {layer.origin: layer.name for frame in project.frames for layer in walk_layers(frame.layers)}
    moved = [(track, moved_by(project, track)) for track in project.tracks if track.phases]
    for place, (track, mine) in enumerate(moved):
        for other, theirs in moved[:place]:
            shared = [name for origin, name in names.items() if origin in mine and origin in theirs]
            if shared:
                more = shared[0]
                if len(shared) > 1:
                    more = tr("{name} and {count} more", name=shared[0], count=len(shared) - 1)
                who = track if other.name == MAIN else other
                says = tr(
                    "{other} and {track} both move {more}: {who} does.",
                    other=other.name,
                    track=track.name,
                    more=more,
                    who=who.name,
                )
                yield Trouble("two tracks", says, phases=(track.phases[0].id,))


def unset_inputs(project: Project, part_id: str) -> Iterator[Trouble]:
    """Inputs of a part that its phases read, and that no use feeds and nothing sets."""
    part = part_by_id(project, part_id)
    frames = [*project.frames, *(pose for other in project.parts for pose in other.poses)]
    uses = [layer.body for frame in frames for layer in uses_in(frame)]
    mine = [use for use in uses if isinstance(use, Use) and use.part == part_id]
    if not mine:
        return
    fed = {feed.input for use in mine for feed in use.feeds}
    deeds = [deed for track in part.tracks for p in track.phases for deed in (*p.entering, *p.leaving)]
    done = (*deeds, *(route.action for route in part.routes))
    set_here = {deed.input for deed in done if isinstance(deed, SetInput)}
    stage = as_stage(project, part)
    for entry in part.inputs:
        if entry.kind == "signal" or entry.id in fed | set_here:
            continue
        readers = [_named(t, p) for t in stage.tracks for p in t.phases if entry.name in _read(p)]
        if readers:
            yield Trouble(
                "input unset",
                tr(
                    "{readers} reads {entry}, which nothing sets and no use feeds.",
                    readers=readers[0],
                    entry=entry.name,
                ),
            )


def _read(phase: Phase) -> set[str]:
    """The inputs that a phase reads."""
    return {name for text, _ in _expressions(phase) for name in names_read(text)}


RULES = (unreached, stuck, rules_without_use, expressions, unplayed_events, jumps, two_tracks)
