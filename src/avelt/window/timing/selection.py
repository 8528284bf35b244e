"""What is chosen in Timing, as a value."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.motion import CueKey
from avelt.core.record import Record


class Selection(Record, frozen=True):
    """Cues, the one that is shown in full last; keyframes of one cue; a point of the chosen layer's motion path.

    ``keyframes_of`` is the cue that the chosen keyframes belong to: mostly the one shown in full, but those on the
    path in the Now view are of the layer's position, whichever row of it is chosen.
    """

    cues: tuple[CueKey, ...] = ()
    keyframes: tuple[int, ...] = ()
    keyframes_of: CueKey | None = None
    point: int = -1

    @property
    def key(self) -> CueKey | None:
        """The cue that is shown in full."""
        return self.cues[-1] if self.cues else None

    @property
    def also(self) -> frozenset[CueKey]:
        """The other chosen cues."""
        return frozenset(self.cues[:-1])

    @property
    def keyframe(self) -> int:
        """The chosen keyframe of the cue that is shown in full; -1 for none."""
        return self.keyframes[-1] if self.keyframes and self.keyframes_of == self.key else -1

    def toggled(self, key: CueKey) -> Selection:
        """One cue more, or one less; one always stays."""
        rest = tuple(entry for entry in self.cues if entry != key)
        return Selection(rest if key in self.cues and rest else (*rest, key))

    def keyframes_at(self, cue: CueKey | None) -> tuple[int, ...]:
        """The chosen keyframes of a cue."""
        return self.keyframes if cue is not None and cue == self.keyframes_of else ()

    def with_keyframes(self, cue: CueKey | None, places: tuple[int, ...]) -> Selection:
        """The same cues, with other keyframes chosen."""
        return replace(self, keyframes=places, keyframes_of=cue if places else None, point=-1)

    def with_point(self, point: int) -> Selection:
        """The same cues, with a point of the motion path chosen."""
        return replace(self, point=point)
