"""The curves that a new project begins with, and looking a curve up."""

from __future__ import annotations

from avelt.core.model.values import Curve, Handles, Line, Named, NamedCurve, PlainCurve, Points, Project, Spring, Steps

STARTERS = (
    NamedCurve("settle", "Settle", Handles(0.2, 0.0, 0.1, 1.0)),
    NamedCurve("steady", "Steady", Line()),
    NamedCurve("arrive", "Arrive", Handles(0.05, 0.7, 0.2, 1.0)),
    NamedCurve("leave", "Leave", Handles(0.5, 0.0, 0.9, 0.4)),
    NamedCurve("swell", "Swell", Handles(0.37, 0.0, 0.63, 1.0)),
    NamedCurve("buoy", "Buoy", Spring(0.35)),
)
_FALLBACK = {curve.id: curve.curve for curve in STARTERS}


def plain(project: Project | None, curve: Curve) -> PlainCurve:
    """The curve itself, looked up when it is a use of a named one."""
    if not isinstance(curve, Named):
        return curve
    if project is not None:
        for entry in project.curves:
            if entry.id == curve.id:
                return entry.curve
    return _FALLBACK.get(curve.id, Line())


def title(project: Project, curve: Curve) -> str:
    """What to call a curve: its name, or its kind."""
    if isinstance(curve, Named):
        return next((entry.name for entry in project.curves if entry.id == curve.id), curve.id)
    return KIND_TITLES[type(curve)]


KIND_TITLES: dict[type, str] = {
    Line: "Line",
    Handles: "Two handles",
    Points: "Points",
    Steps: "Steps",
    Spring: "Spring",
}
