"""Running orders in words, as the table of Loops and the checks say them."""

from __future__ import annotations

from avelt.core.curves.named import title
from avelt.core.model.find import layer_index
from avelt.core.model.phases import (
    Deed,
    ForMs,
    Once,
    Phase,
    Rounds,
    Rule,
    ShowBlend,
    ShowLoops,
    ShowMotion,
    ShowPose,
    Until,
)
from avelt.core.model.triggers import Crosses, SetInput, Signal, Timer, hot_area, trigger_row
from avelt.core.model.values import Project
from avelt.core.model.wording import value_words
from avelt.core.words import tr

MOST_LOOPS = 3  # that are named in one line


def pose_name(project: Project, pose: str) -> str:
    """The name of a pose; what is gone is a question mark."""
    return next((frame.name for frame in project.frames if frame.id == pose), "?")


def shows_words(project: Project, phase: Phase) -> str:
    """What a phase shows: ``pose Flat``, ``Flat ⇄ Drawn, follows pull``, ``loops of Drawn: rock, sway``."""
    shows = phase.shows
    if isinstance(shows, ShowPose):
        return tr("pose {project}", project=pose_name(project, shows.pose))
    if isinstance(shows, ShowLoops):
        loops = next((frame.loops for frame in project.frames if frame.id == shows.pose), ())
        names = [loop.name for loop in loops[:MOST_LOOPS]] + (["…"] if len(loops) > MOST_LOOPS else [])
        return tr("loops of {project}", project=pose_name(project, shows.pose)) + (
            ": " + ", ".join(names) if names else ""
        )
    left, right = pose_name(project, shows.leaves), pose_name(project, shows.arrives)
    if isinstance(shows, ShowBlend):
        lag = tr(", lag {lag:g} ms", lag=shows.lag) if shows.lag else ""
        return tr("{left} ⇄ {right}, follows {by}{lag}", left=left, right=right, by=shows.by, lag=lag)
    transition = shows.transition
    time = f", {transition.duration:g} ms" if transition.duration is not None else ""
    return tr(
        "{left} to {right}{time}, {project}",
        left=left,
        right=right,
        time=time,
        project=title(project, transition.curve),
    )


def lasts_words(phase: Phase) -> str:
    """How long a phase lasts."""
    lasts = phase.lasts
    if isinstance(lasts, ForMs):
        return f"{lasts.ms:g} ms"
    if isinstance(lasts, Rounds):
        return tr("{n} rounds", "{n} round", lasts.count)
    if isinstance(lasts, Once):
        return tr("once") if isinstance(phase.shows, ShowMotion) else tr("one round")
    return tr("until") if phase.then else tr("for ever")


def event_words(project: Project, rule: Rule) -> str:
    """What a rule waits for."""
    on = rule.on
    if on is None:
        return ""
    inputs = {entry.id: entry.name for entry in project.inputs}
    if isinstance(on, Signal):
        return tr("{input} is sent", input=inputs.get(on.input, "?"))
    if isinstance(on, Timer):
        return tr("after {after:g} ms", after=on.after)
    if isinstance(on, Crosses):
        return tr("{input} crosses {value}", input=inputs.get(on.input, "?"), value=value_words(on.value))
    layers = {ident: layer.name for frame in project.frames for ident, layer in layer_index(frame).items()}
    touched = hot_area(on)
    word = tr(trigger_row(on).word)
    return tr("{word} on {layer}", word=word, layer=layers.get(touched, "?")) if touched else word


def rule_words(project: Project, phases: dict[str, str], rule: Rule) -> str:
    """One rule: ``pull >= 0.7 and held → haul``; ``phases`` are the names by id."""
    event, condition = event_words(project, rule), rule.only_if.strip()
    when = (
        tr("{event} while {condition}", event=event, condition=condition) if event and condition else event or condition
    )
    end = tr(", finish the round") if rule.finish_round else ""
    over = tr(" in {duration:g} ms", duration=rule.duration) if rule.duration else ""
    return f"{when}{end} → {phases.get(rule.to, '?')}{over}".removeprefix(", ").strip()


def deed_words(project: Project, deed: Deed) -> str:
    """What is set or sent."""
    name = next((entry.name for entry in project.inputs if entry.id == deed.input), "?")
    return (
        tr("{name} becomes {value}", name=name, value=value_words(deed.value))
        if isinstance(deed, SetInput)
        else tr("send {name}", name=name)
    )


def phase_words(project: Project, phases: dict[str, str], phase: Phase) -> str:
    """A phase as a sentence: what it shows, how long, what comes then."""
    rules = "; ".join(rule_words(project, phases, rule) for rule in phase.then)
    lasts = "" if isinstance(phase.lasts, Until) else f" ({lasts_words(phase)})"
    return f"{phase.name}: {shows_words(project, phase)}{lasts}" + (tr(". Then {rules}", rules=rules) if rules else "")
