"""All checks, each declared once: stable codes, how bad it is, where it belongs, what it looks for.

The list of the window, its badges, ``avelt check`` and the docs are made from ``CHECKS``. To add one: a row here, and
a function among the rules of a subject that yields ``Trouble`` with its code; how it is mended by itself is in
``edits/mending.py``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Literal

from avelt.core.checks import delivering, keeping, loops, motion, pairs, parts, phases, routes, seen
from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import by_identity
from avelt.core.model.parts import as_stage
from avelt.core.model.values import Muted, Project
from avelt.core.record import Record
from avelt.core.words import tr

Severity = Literal["error", "warning", "note"]


class Check(Record, frozen=True):
    """A row. ``error``: it does not play as it was made; ``warning``: most likely not meant; ``note``: worth a look."""

    code: str
    station: str
    severity: Severity
    looks_for: str


CHECKS: tuple[Check, ...] = (
    # Wiring
    Check("layer gone", "routes", "error", tr("a trigger on a layer that is not there any more")),
    Check("path gone", "routes", "error", tr("a drag along a path that is not there any more")),
    Check("input gone", "routes", "error", tr("a trigger, an action or a follow without its input")),
    Check("motion gone", "routes", "error", tr("a route that waits for the end of a motion that is not there")),
    Check("condition", "routes", "error", tr("a condition that cannot be read or names what is not there")),
    Check("same trigger", "routes", "error", tr("two routes for one touch: only the first can run")),
    Check("unreachable", "routes", "warning", tr("a frame that no route leads to")),
    Check("dead end", "routes", "warning", tr("a frame that is arrived at and cannot be left")),
    Check("not over", "routes", "warning", tr("putting away what is never shown over anything")),
    Check("no way there", "routes", "warning", tr("going back to where nobody came from")),
    Check("circle", "routes", "error", tr("inputs and signals that set each other off without end")),
    Check("timer early", "routes", "warning", tr("a timer that goes off before a loop or an entrance ends")),
    Check("delay in vain", "routes", "note", tr("a delay of what does not go by the clock")),
    Check("out of reach", "routes", "warning", tr("what begins beyond what a frame can be scrolled")),
    # Pairs
    Check("near name", "pairs", "warning", tr("layers without partners whose names are a letter apart")),
    Check("only cuts", "pairs", "warning", tr("a pair that jumps from one look to the other, and why")),
    Check("flips", "pairs", "note", tr("a pair of which something has nothing between its ends: fonts, blend modes")),
    # Motion
    Check("cue idle", "timing", "note", tr("a cue of what does not change or is not there")),
    Check("dead wait", "timing", "warning", tr("time at the beginning in which nothing moves")),
    Check("dead rest", "timing", "warning", tr("time after the last motion in which one waits")),
    Check("out of sight", "timing", "note", tr("motion that nobody sees")),
    Check("too long", "timing", "warning", tr("a transition that one has to wait for")),
    Check("too many", "timing", "warning", tr("more motions at once than anybody can follow")),
    Check("flashes", "timing", "error", tr("more than three flashes in a second (WCAG 2.3.1)")),
    Check("unreadable", "timing", "warning", tr("words that cannot be read on the way")),
    # Loops, parts, running orders
    Check("seam open", "loops", "warning", tr("a loop that jumps where its round ends")),
    Check("loop idle", "loops", "note", tr("a loop that moves nothing")),
    Check("goes nowhere", "loops", "note", tr("a layer that follows a value and does not move")),
    Check("phase unreached", "loops", "warning", tr("a phase that no rule leads to")),
    Check("phase stuck", "loops", "warning", tr("a phase whose time is over, and nothing comes then")),
    Check("rule in vain", "loops", "warning", tr("two rules of which one can never matter")),
    Check("expression", "loops", "error", tr("a condition or an expression that cannot be worked out")),
    Check("event", "loops", "error", tr("a rule that waits for what cannot happen there, or is gone")),
    Check("phase jumps", "loops", "warning", tr("a motion that ends where the next phase does not begin")),
    Check("two tracks", "loops", "warning", tr("layers that two tracks move")),
    Check("input unset", "loops", "warning", tr("an input that phases read and nothing sets")),
    Check("part gone", "frames", "error", tr("a use of a part that is not there any more")),
    Check("part unused", "frames", "note", tr("a part that nothing uses")),
    # Presets, tapes, hand-off
    Check("link gone", "timing", "warning", tr("a link to a preset that the project does not carry")),
    Check("no quieter", "timing", "note", tr("a linked preset that names no quieter variant")),
    Check("tape", "rehearse", "warning", tr("a tape that begins with what is gone")),
    Check("rounds apart", "handoff", "note", tr("loops of one frame that never begin a round together")),
    Check("hover only", "handoff", "note", tr("a frame that only a hovering pointer leads to")),
    Check("picture heavy", "handoff", "note", tr("a picture with far more pixels than are shown")),
)
BY_CODE = {check.code: check for check in CHECKS}

#: Rules that look at a stage (the project, or a part), and those that look at the project only.
OF_STAGES: tuple[Callable[[Project], Iterator[Trouble]], ...] = (
    *routes.RULES,
    parts.layer_expressions,
    *loops.RULES,
    *pairs.RULES,
    *motion.RULES,
    *seen.RULES,
    *delivering.OF_STAGES,
    keeping.links,
)
OF_PROJECT: tuple[Callable[[Project], Iterator[Trouble]], ...] = (
    parts.unused_parts,
    *delivering.OF_PROJECT,
    *keeping.RULES,
)
GoOn = Callable[[int, int], bool]


class Finding(Record, frozen=True):
    """A trouble with the check that found it, the part that it is in (its id; empty: the project), the line that says
    it with its place, and why it is muted (empty: it is not)."""

    check: Check
    trouble: Trouble
    part: str
    part_name: str
    line: str
    reason: str = ""

    @property
    def about(self) -> tuple[str, ...]:
        """What it is about, with the part."""
        return (self.part, *self.trouble.about) if self.part else self.trouble.about


def findings(project: Project, go_on: GoOn = lambda done, whole: True) -> tuple[Finding, ...]:
    """All that the checks find, the muted ones too. ``go_on`` hears how far it is, and may stop it (what is found until
    then is given)."""
    stages = [("", project)] + [(part.id, as_stage(project, part)) for part in project.parts]
    works: list[tuple[str, Project, Callable[[], Iterator[Trouble]]]] = []
    for ident, stage in stages:
        for rule in OF_STAGES:
            works.append((ident, stage, _bound(rule, stage)))
        works.append((ident, stage, lambda s=stage: parts.gone_parts(project, s)))  # type: ignore[misc]
        if ident:
            works.append((ident, stage, lambda i=ident: phases.unset_inputs(project, i)))  # type: ignore[misc]
    works += [("", project, _bound(rule, project)) for rule in OF_PROJECT]
    muted = {(entry.code, entry.about): entry.reason for entry in project.muted}
    names = {part.id: part.name for part in project.parts}
    found: list[Finding] = []
    for k, (ident, stage, run) in enumerate(works):
        if not go_on(k, len(works)):
            break
        for trouble in run():
            line = routes.in_words(stage, trouble)
            line = f"{names[ident]}: {line}" if ident else line
            made = Finding(BY_CODE[trouble.code], trouble, ident, names.get(ident, ""), line)
            reason = muted.get((trouble.code, made.about), "")
            found.append(Finding(made.check, trouble, ident, made.part_name, line, reason) if reason else made)
    return tuple(found)


def _bound(rule: Callable[[Project], Iterator[Trouble]], stage: Project) -> Callable[[], Iterator[Trouble]]:
    return lambda: rule(stage)


#: The same, remembered by the project's identity.
all_findings = by_identity(findings, 8)


def mute(project: Project, finding: Finding, reason: str) -> Project:
    """The finding is meant so, and why; an empty reason takes that back."""
    from msgspec.structs import replace

    key = (finding.check.code, finding.about)
    kept = tuple(entry for entry in project.muted if (entry.code, entry.about) != key)
    words = reason.strip()
    return replace(project, muted=(*kept, Muted(*key, words)) if words else kept)
