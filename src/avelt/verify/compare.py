"""A delivery beside the design: both as pictures at the same moments, and how far they are apart."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path

from PIL import Image
from PySide6.QtGui import QImage

from avelt.core.arrays import np
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.core.timing.tracks import BlendTrack
from avelt.paint.effects import pixels

#: More than this of 255 in some channel is a pixel that is off.
OFF = 24
MEAN_TARGET, OFF_TARGET = 0.6, 0.005
_AFTER = 2500.0  # ms of the loops that go on after the arrival that are looked at


class Moment(Record, frozen=True):
    """One moment compared: the mean difference (0..255) and the share of pixels that are off."""

    at: float
    mean: float
    off: float


class Verdict(Record, frozen=True):
    """All moments compared."""

    moments: tuple[Moment, ...]

    @property
    def mean(self) -> float:
        """The mean difference over all moments, 0..255."""
        return float(np.mean([m.mean for m in self.moments])) if self.moments else 0.0

    @property
    def off(self) -> float:
        """The mean share of pixels that are off."""
        return float(np.mean([m.off for m in self.moments])) if self.moments else 0.0

    @property
    def worst(self) -> Moment:
        """The moment that is farthest off."""
        return max(self.moments, key=lambda m: (m.mean, m.off), default=Moment(0.0, 0.0, 0.0))

    @property
    def holds(self) -> bool:
        """Whether it is as near as it must be."""
        return self.mean < MEAN_TARGET and self.off < OFF_TARGET


def difference(designed: np.ndarray, delivered: np.ndarray, at: float) -> Moment:
    """Two pictures (h, w, 3) in bytes compared; where one is larger, only what both have."""
    h, w = (min(a, b) for a, b in zip(designed.shape[:2], delivered.shape[:2], strict=True))
    apart = np.abs(designed[:h, :w].astype(np.int16) - delivered[:h, :w].astype(np.int16))
    if not apart.size:
        return Moment(at, 0.0, 0.0)
    return Moment(at, float(apart.mean()), float((apart.max(-1) > OFF).mean()))


def apart_picture(designed: np.ndarray, delivered: np.ndarray) -> np.ndarray:
    """Where two pictures differ, as a picture (h, w, 3): dark where they are the same."""
    h, w = (min(a, b) for a, b in zip(designed.shape[:2], delivered.shape[:2], strict=True))
    apart = np.abs(designed[:h, :w].astype(np.int16) - delivered[:h, :w].astype(np.int16)).max(-1)
    ground, mark = np.array([35.0, 48.0, 47.0]), np.array([255.0, 92.0, 92.0])
    share = np.clip(apart / 96.0, 0.0, 1.0)[..., None]
    return np.asarray((ground * (1 - share) + mark * share).astype(np.uint8))


def on_white(image: QImage) -> np.ndarray:
    """A painted picture on white (h, w, 3), as a page shows it."""
    values = pixels(image).astype(np.uint16)
    alpha = values[..., 3:]
    return np.asarray((values[..., 2::-1] + 255 - alpha).clip(0, 255).astype(np.uint8))


def from_png(data: bytes) -> np.ndarray:
    """A PNG's pixels (h, w, 3)."""
    with Image.open(io.BytesIO(data)) as image:
        return np.asarray(image.convert("RGB"))


def moments_of(program: Program, count: int) -> list[float]:
    """Moments to look at: evenly from the start to the end, and on while loops go on; none where something flips."""
    flips = _flips(program)
    last = 0.0 if program.clocks.stands else program.last
    made = np.linspace(0.0, last, max(2, count)).tolist() if last > 0.0 else []
    if any(not track.fades for track in program.loops) or not made:
        made += np.linspace(last, last + _AFTER, max(2, count // 3) + 1)[1:].tolist()
    return [_beside(ms, flips) for ms in made]


def _flips(program: Program) -> np.ndarray:
    found = [np.array([m for m, _ in program.orders]), np.array([program.duration / 2])]
    for track in program.tracks:
        if isinstance(track, BlendTrack):
            jumps = track.ends - track.begins < 1e-6
            found.append(track.ends[jumps])
    return np.unique(np.concatenate(found))


def _beside(ms: float, flips: np.ndarray) -> float:
    return ms + 1.5 if len(flips) and ms > 0.0 and np.abs(flips - ms).min() < 0.5 else ms


def written(files: Mapping[str, bytes], folder: Path) -> None:
    """Files in a folder of our own."""
    for name, data in files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
