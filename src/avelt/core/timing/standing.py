"""Which slots of a program stand still, and how much of them does: what can be kept while the rest moves."""

from __future__ import annotations

from typing import Protocol

from avelt.core.arrays import Floats, np
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Group, Use
from avelt.core.record import lazy
from avelt.core.timing.clocks import Clocks
from avelt.core.timing.followers import is_follow
from avelt.core.timing.merge import Merged
from avelt.core.timing.slots import FrameSlot, SlotContents, owners
from avelt.core.timing.tracks import LoopTrack, ScrollTrack

_OPACITY = COLUMN["opacity"]
_ROTATION_X, _ROTATION_Y = COLUMN["rotation_x"], COLUMN["rotation_y"]


class Moves(Protocol):
    """What of a program says what stands: see there."""

    contents: tuple[SlotContents, ...]
    conditions: tuple[tuple[int, str], ...]
    merged: Merged
    frame: FrameSlot
    parent: np.ndarray
    start: Floats
    dense: int
    colours_end: int
    loops: tuple[LoopTrack, ...]
    scrolls: tuple[ScrollTrack, ...]
    clocks: Clocks

    @property
    def changed_before(self) -> np.ndarray:
        """How many numbers before each place change."""

    def changing(self, first: np.ndarray, count: np.ndarray) -> np.ndarray:
        """Whether any number of stretches changes."""

    def changes(self, first: int, count: int) -> bool:
        """Whether any number of a stretch changes."""


class Standing:
    """All of it, worked out from a program as it is asked for: arrays (slots,) of truth values."""

    def __init__(self, program: Moves) -> None:
        self._program = program
        self._owned = owners(program.contents, program.dense, program.colours_end)

    @lazy
    def of_items(self) -> list[tuple[bool, bool, bool]]:
        """What an item says of its slot: ``still``, ``stays`` and ``whole``."""
        stays = self.stays.copy()
        if self._program.clocks.stands:  # somebody scrolls it, or moves what it follows, picture by picture
            stays[list(self.goes)] = False
            stays[list(self._follows)] = False
        return list(zip(self.still.tolist(), stays.tolist(), self.whole.tolist(), strict=True))

    @lazy
    def of_layers(self) -> list[tuple[bool, bool]]:
        """Whether a layer is as it was drawn, and whether all of it but its opacity is, in a frame at its top."""
        only_fades = self.stays & ~self._lifted
        only_fades[list(self._follows)] = False
        return list(zip(self.as_drawn.tolist(), only_fades.tolist(), strict=True))

    @lazy
    def still(self) -> np.ndarray:
        """Nothing of it changes by itself (its parents may)."""
        still = self.unmoved.copy()
        still[self._owned.alone] = False
        return still

    @lazy
    def unmoved(self) -> np.ndarray:
        """Nothing of it changes while the transition runs, but for what is scrolled; it may come or go."""
        return self._unmoved(fades=False)

    @lazy
    def fixed(self) -> list[bool]:
        """It is a layer, and the very same item as long as the transition runs, in a frame at its top."""
        fixed = self.unmoved.copy()
        fixed[[s for s, _ in self._program.conditions]] = False
        fixed[[s for s, part in enumerate(self._program.contents) if isinstance(part.layer.body, Group | Use)]] = False
        made: list[bool] = fixed.tolist()
        return made

    @lazy
    def stays(self) -> np.ndarray:
        """Nothing of it changes by itself but how clear it is."""
        return self._unmoved(fades=True)

    @lazy
    def as_drawn(self) -> np.ndarray:
        """It looks, and stands in its group, at any moment as its layer was drawn, but for what is scrolled."""
        return np.asarray(self.unmoved & ~self._lifted)

    @lazy
    def whole(self) -> np.ndarray:
        """It is as it was drawn with all that lies in it, so that its layer says what is seen: no part plays in it, no
        condition hides some of it, nothing depends on where the eye is or on the layer of the other side."""
        program = self._program
        whole = self.as_drawn & ~self._turned
        whole[list(self.goes)] = False
        whole[[s for s, _ in program.conditions]] = False
        whole[[s for s, part in enumerate(program.contents) if not _says_all(part)]] = False
        for s in range(len(whole) - 1, -1, -1):
            up = int(program.parent[s])
            if up >= 0 and not whole[s]:
                whole[up] = False
        return np.asarray(whole, bool)

    @lazy
    def goes(self) -> frozenset[int]:
        """The slots that go as the frame is scrolled."""
        written = [scroll.written for scroll in self._program.scrolls]
        return frozenset((np.concatenate(written) // len(SCALARS)).tolist() if written else ())

    @lazy
    def _follows(self) -> frozenset[int]:
        """The slots that follow a value."""
        return frozenset(loop.slot for loop in self._program.loops if is_follow(loop.loop))

    @lazy
    def _lifted(self) -> np.ndarray:
        """It moves in the frame's space, out of its group."""
        return np.array([slot.lifted for slot in self._program.merged.slots], bool)

    @property
    def _turned(self) -> np.ndarray:
        """It is turned out of the plane at first: how it looks depends on how near the eye is."""
        rows = self._program.start[: self._program.dense].reshape(-1, len(SCALARS))
        return np.asarray((rows[:, (_ROTATION_X, _ROTATION_Y)] != 0.0).any(1))

    def _unmoved(self, fades: bool) -> np.ndarray:
        """``fades``: opacity does not count, nor what follows a value and goes when that does."""
        program = self._program
        n, width = len(program.contents), len(SCALARS)
        moves = program.changed_before
        rows = np.diff(moves[: program.dense + 1 : width]) if n else np.zeros(0, np.intp)
        if fades:
            at = np.arange(n) * width + _OPACITY
            rows = rows - (moves[at + 1] - moves[at])
        unmoved = rows == 0
        owned = self._owned
        unmoved[owned.slots[program.changing(owned.first, owned.count)]] = False
        unmoved[owned.blend] = False
        if program.changes(program.colours_end + program.frame.loose + 2, 1):  # the eye comes nearer
            unmoved &= ~self._turned
        for loop in program.loops:
            if not (fades and is_follow(loop.loop)):
                unmoved[loop.slot] = False
        return np.asarray(unmoved, bool)


def _says_all(part: SlotContents) -> bool:
    """Whether a layer of the slot says what lies in it: of two groups one that clips does so for both."""
    clips = {side.body.clips for side in (part.left, part.right) if side is not None and isinstance(side.body, Group)}
    return len(clips) < 2 and not isinstance(part.layer.body, Use)
