"""When things move: the cascade of property cue over layer cue over transition."""

from __future__ import annotations

from dataclasses import dataclass

from avelt.core.curves.named import plain
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.find import by_identity
from avelt.core.model.values import Cue, CueKey, Project, Transition

DEFAULT_LENGTH = 300.0


@dataclass(frozen=True)
class Timed:
    """One cue worked out: ms, the curve as it is named and as it is, and what of it is its own."""

    start: float
    end: float
    curve: Curve
    plain: PlainCurve
    own_time: bool
    own_curve: bool
    shortest: bool = False

    @property
    def length(self) -> float:
        """How long it moves, ms."""
        return self.end - self.start


def length_of(transition: Transition) -> float:
    """The length in ms: its own, or the end of the last cue, or 300 when there is neither."""
    if transition.length is not None:
        return transition.length
    ends = [cue.end for cue in transition.cues if cue.end is not None]
    return max(ends) if ends else DEFAULT_LENGTH


def _by_key(transition: Transition) -> dict[CueKey, Cue]:
    return {cue.key: cue for cue in transition.cues}


#: The transition's cues by what they hang on.
cue_index = by_identity(_by_key)


def timed(project: Project, transition: Transition, from_id: str | None, to_id: str | None, prop: str) -> Timed:
    """The cue of one property of one pair (``prop`` empty: of the layer as a whole)."""
    cues = cue_index(transition)
    layer_cue = cues.get((from_id, to_id, ""))
    own = cues.get((from_id, to_id, prop))
    start, end, curve, shortest = 0.0, length_of(transition), transition.curve, False
    for cue in (layer_cue, own):
        if cue is not None:
            start = cue.start if cue.start is not None else start
            end = cue.end if cue.end is not None else end
            curve = cue.curve if cue.curve is not None else curve
            shortest = cue.shortest if cue.shortest is not None else shortest
    return Timed(
        start, max(start, end), curve, plain(project, curve),
        own is not None and (own.start is not None or own.end is not None),
        own is not None and own.curve is not None,
        shortest,
    )  # fmt: skip


def end_of(transition: Transition) -> float:
    """When the last thing stops: the length, or a cue that goes on beyond it."""
    ends = [cue.end for cue in transition.cues if cue.end is not None]
    return max([length_of(transition), *ends])
