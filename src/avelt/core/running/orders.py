"""The running orders of a stage made ready to be played: programs of phases, how long they last, when rounds end.

Times are ms since a phase began.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

from msgspec.structs import replace

from avelt.core.errors import NotFound
from avelt.core.model.find import walk
from avelt.core.model.phases import MAIN, ForMs, Once, Phase, Rounds, ShowBlend, ShowLoops, ShowMotion, Track, poses_of
from avelt.core.model.values import Frame, Loop, Project
from avelt.core.running.splitting import split
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.loops import round_duration
from avelt.core.timing.program import Program
from avelt.core.words import tr

_WHOLE = 1e-9  # of a round: so near to its end it is over


class Orders:
    """Tracks of a stage, the main one first. ``main`` is the one that drives it, if there is one."""

    def __init__(self, project: Project) -> None:
        kept = [track for track in project.tracks if track.phases]
        self.main = next((track for track in kept if track.name == MAIN), None)
        self.sides = tuple(track for track in kept if track is not self.main)
        self.tracks = ((self.main,) if self.main else ()) + self.sides
        parted = split(project, self.sides)
        self._frames: dict[str, dict[str, Mapping[str, Frame]]] = {"": {"": parted.main}}
        self._frames |= {track: dict(places) for track, places in parted.sides.items()}
        #: The stage whose frames have layers that stand in for side tracks.
        self.project = replace(project, frames=tuple(parted.main[frame.id] for frame in project.frames))
        layers = [layer for frame in project.frames for layer in walk(frame.layers)]
        self.origins = {layer.id: layer.origin for layer in layers}
        self.names = {layer.id: layer.name for layer in layers}
        self._by_id = {(track.id, phase.id): phase for track in self.tracks for phase in track.phases}
        self._programs: dict[tuple[str, str, str], Program] = {}
        self._poses = {frame.id: frame for frame in project.frames}

    def track(self, ident: str) -> Track:
        """The track of an id."""
        return next(track for track in self.tracks if track.id == ident)

    def phase(self, track: str, ident: str) -> Phase:
        """A phase by its ids; ``NotFound`` when there is none."""
        found = self._by_id.get((track, ident))
        if found is None:
            raise NotFound(tr("There is no phase {ident!r}.", ident=ident))
        return found

    def has(self, track: str, ident: str) -> bool:
        """Whether there is such a phase."""
        return (track, ident) in self._by_id

    def first(self, track: Track, pose: str = "") -> Phase:
        """What a track begins with: the first phase that begins with a pose, or the first of all."""
        showing = (phase for phase in track.phases if pose and poses_of(phase.shows)[0] == pose)
        return next(showing, track.phases[0])

    def places(self, track: str) -> tuple[str, ...]:
        """The places that a track has in its stage: one for the main order."""
        return tuple(self._frames[self._key(track)])

    def _key(self, track: str) -> str:
        return "" if self.main is not None and track == self.main.id else track

    def frame(self, track: str, pose: str, place: str = "") -> Frame:
        """What of a pose is a track's; the first pose where it is gone."""
        there = self._frames[self._key(track)][place]
        return there[pose] if pose in there else next(iter(there.values()))

    def poses(self, phase: Phase) -> tuple[Frame, ...]:
        """The whole poses that a phase shows."""
        return tuple(self._poses[ident] for ident in poses_of(phase.shows) if ident in self._poses)

    def ends(self, track: str, phase: Phase, place: str = "") -> tuple[Frame, Frame]:
        """Where a phase begins and ends."""
        shown = poses_of(phase.shows)
        return self.frame(track, shown[0], place), self.frame(track, shown[-1], place)

    def program(self, track: str, phase: Phase, place: str = "") -> Program:
        """A phase as a program."""
        key = (track, phase.id, place)
        found = self._programs.get(key)
        if found is None:
            left, right = self.ends(track, phase, place)
            if isinstance(phase.shows, ShowMotion | ShowBlend):
                found = compile_frames(self.project, left, right, phase.shows.transition)
            else:
                found = compile_still(left, self.project)
            self._programs[key] = found
        return found

    def loops(self, track: str, phase: Phase) -> tuple[Loop, ...]:
        """The loops at work in a phase."""
        if not isinstance(phase.shows, ShowLoops):
            return ()
        pose = phase.shows.pose
        return tuple(loop for place in self.places(track) for loop in self.frame(track, pose, place).loops)

    def length(self, track: str, phase: Phase) -> float:
        """How long the motion of a phase is once."""
        programs = (self.program(track, phase, place) for place in self.places(track))
        return max((program.last for program in programs), default=0.0)

    def round_of(self, track: str, phase: Phase) -> tuple[float, float, float]:
        """When the first round of a phase begins, how long one is (0: there are none), and when the last is over."""
        if isinstance(phase.shows, ShowMotion):
            one = self.length(track, phase)
            return 0.0, one, one * (phase.lasts.count if isinstance(phase.lasts, Rounds) else 1)
        longest = max(self.loops(track, phase), key=round_duration, default=None)
        if longest is None:
            return 0.0, 0.0, 0.0
        lead = longest.wait if longest.wait_when == "once" else 0.0
        one = round_duration(longest)
        return lead, one, lead + one * longest.rounds if longest.rounds else math.inf

    def end(self, track: str, phase: Phase) -> float:
        """When its rules are read; never for what lasts until one of them holds."""
        lead, one, _ = self.round_of(track, phase)
        if isinstance(phase.lasts, ForMs):
            return phase.lasts.ms
        if isinstance(phase.lasts, Rounds):
            return lead + one * phase.lasts.count
        return lead + one if isinstance(phase.lasts, Once) else math.inf

    def next_round(self, track: str, phase: Phase, ms: float) -> float:
        """When the round that runs at a time is over; the time itself when none does."""
        lead, one, over = self.round_of(track, phase)
        if one <= 0.0 or ms >= over - _WHOLE * one:
            return ms
        return lead + one * (max(0.0, math.floor((ms - lead) / one + _WHOLE)) + 1.0)
