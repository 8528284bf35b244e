"""Staggers: by how many ms each of several cues is put off."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.curves import easing
from avelt.core.curves.named import plain
from avelt.core.geometry.flatten import flatten
from avelt.core.model.motion import CueKey, Stagger, Transition
from avelt.core.model.values import Frame, Project
from avelt.core.timing.over import ends, entrance_ends

#: Orders that look at where layers are.
SPATIAL = ("paint", "left to right", "top to bottom", "distance")


def frames_of(project: Project, transition: Transition) -> tuple[Frame, Frame] | None:
    """The two frames that a transition of the project lies between; ``None`` when it is none of its own."""
    for route in project.routes:
        if route.transition is transition or any(entry.transition is transition for entry in route.tryouts):
            return ends(project, route)
    for frame in project.frames:
        if frame.entrance is not None and frame.entrance.transition is transition:
            return entrance_ends(frame)
    return None


def offsets(entry: Stagger, frames: tuple[Frame, Frame] | None) -> dict[CueKey, float]:
    """Cue -> ms by which it is put off. The first one in the order is never put off.

    In turn, cues stand at even shares; by distance at the share of the farthest one. The curve bends the shares.
    """
    count = len(entry.cues)
    whole = entry.ms if entry.spread == "total" else entry.ms * max(0, count - 1)
    shares = _shares(entry, frames)
    if entry.reversed:
        shares = 1.0 - shares
    # A curve may leave 0..1; a cue never starts before the first.
    bent = np.maximum(0.0, easing.at(plain(None, entry.curve), shares)) * whole
    return {key: float(by) for key, by in zip(entry.cues, bent, strict=True)}


def _shares(entry: Stagger, frames: tuple[Frame, Frame] | None) -> np.ndarray:
    """Where each cue stands between first (0) and last (1)."""
    count = len(entry.cues)
    if count < 2:
        return np.zeros(count)
    turn = np.arange(count) / (count - 1)
    if entry.order == "random":
        from numpy.random import default_rng

        return np.asarray(turn[np.argsort(default_rng(entry.seed).permutation(count))])
    if entry.order == "sheet" or frames is None:
        return turn
    middles, order = _places(entry, frames)
    if entry.order == "distance":
        far = np.hypot(*(middles - np.array(entry.point)).T)
        near, most = float(far.min()), float(far.max())
        return (far - near) / (most - near) if most - near > 1e-9 else np.zeros(count)
    by = {"paint": order, "left to right": middles[:, 0], "top to bottom": middles[:, 1]}[entry.order]
    # Layers at one place start together: half a px apart is one place.
    levels = np.unique(np.round(by * 2) / 2)
    place = np.searchsorted(levels, np.round(by * 2) / 2)
    return place / (len(levels) - 1) if len(levels) > 1 else np.zeros(count)


def _places(entry: Stagger, frames: tuple[Frame, Frame]) -> tuple[np.ndarray, np.ndarray]:
    """Middles (cues, 2) in the frame and places in the paint order, of the layer left or else the one arrived at."""
    flats = (flatten(frames[0]), flatten(frames[1]))
    middles, order = np.zeros((len(entry.cues), 2)), np.zeros(len(entry.cues))
    for k, (from_id, to_id, _) in enumerate(entry.cues):
        for flat, ident in zip(flats, (from_id, to_id), strict=True):
            index = flat.index.get(ident or "")
            if index is not None:
                x, y, w, h = flat.bounds[index]
                middles[k] = (x + w / 2, y + h / 2)
                order[k] = index
                break
    return middles, order
