"""The curves that a new project begins with, and looking a curve up."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.model.curves import (
    Curve,
    Drawn,
    Drops,
    Handles,
    Hold,
    Line,
    Named,
    PlainCurve,
    Points,
    Ring,
    Spring,
    Steps,
)
from avelt.core.model.motion import Transition
from avelt.core.model.phases import ShowBlend, ShowMotion
from avelt.core.model.values import NamedCurve, Project
from avelt.core.words import tr

STARTERS = (
    NamedCurve(
        "settle",
        "Settle",
        Handles(0.2, 0.0, 0.1, 1.0),
        "stays",
        tr("Things that stay and move: a quick start, a long soft end."),
    ),
    NamedCurve(
        "steady",
        "Steady",
        Line(),
        "mechanical",
        tr("No easing at all: for what follows a finger or turns without end."),
    ),
    NamedCurve(
        "arrive",
        "Arrive",
        Handles(0.05, 0.7, 0.2, 1.0),
        "arrives",
        tr("What enters: fast into view, then it slows into its place."),
    ),
    NamedCurve(
        "leave",
        "Leave",
        Handles(0.5, 0.0, 0.9, 0.4),
        "leaves",
        tr("What goes away: it picks up speed and does not look back."),
    ),
    NamedCurve(
        "swell",
        "Swell",
        Handles(0.37, 0.0, 0.63, 1.0),
        "stays",
        tr("Even at both ends, as water: for loops there and back."),
    ),
    NamedCurve(
        "buoy", "Buoy", Spring(0.35), "playful", tr("Comes up, overshoots a little and bobs: notices and badges.")
    ),
    NamedCurve(
        "glide", "Glide", Handles(0.3, 0.0, 0.2, 1.0), "stays", tr("A calm way across the screen, for large things.")
    ),
    NamedCurve(
        "stroll",
        "Stroll",
        Handles(0.45, 0.05, 0.55, 0.95),
        "stays",
        tr("Hardly eased: long ways that should not draw the eye."),
    ),
    NamedCurve(
        "sweep",
        "Sweep",
        Handles(0.75, 0.0, 0.15, 1.0),
        "stays",
        tr("Slow, very fast, slow: for one strong move on its own."),
    ),
    NamedCurve(
        "touch-down",
        "Touch down",
        Handles(0.0, 0.55, 0.1, 1.0),
        "arrives",
        tr("Lands softly after a quick approach: sheets and cards from an edge."),
    ),
    NamedCurve(
        "surface",
        "Surface",
        Handles(0.15, 0.85, 0.35, 1.0),
        "arrives",
        tr("Rises into view at once and rests: texts, one after the other."),
    ),
    NamedCurve("harbour", "Harbour", Spring(0.0), "arrives", tr("A spring without overshoot: it comes in and stands.")),
    NamedCurve(
        "drift-in",
        "Drift in",
        Handles(0.1, 0.3, 0.25, 1.0),
        "arrives",
        tr("A slower arrival, for backgrounds and large pictures."),
    ),
    NamedCurve(
        "cast-off",
        "Cast off",
        Handles(0.35, 0.0, 0.8, 0.25),
        "leaves",
        tr("A slow start, then quickly gone: cards thrown aside."),
    ),
    NamedCurve(
        "sink", "Sink", Handles(0.6, 0.0, 0.85, 0.6), "leaves", tr("Goes down heavily: sheets that are put away.")
    ),
    NamedCurve(
        "slip-away",
        "Slip away",
        Handles(0.3, 0.0, 1.0, 0.7),
        "leaves",
        tr("Leaves evenly, hardly noticed: labels and icons."),
    ),
    NamedCurve(
        "wind-up",
        "Wind up",
        Handles(0.4, -0.35, 0.75, 0.5),
        "leaves",
        tr("Draws back before it goes: a goodbye that is meant to be seen."),
    ),
    NamedCurve(
        "hop",
        "Hop",
        Handles(0.2, 1.5, 0.45, 1.0),
        "playful",
        tr("One clear overshoot, for something small that answers a tap."),
    ),
    NamedCurve("bob", "Bob", Spring(0.55), "playful", tr("Bobs several times: a thing that floats.")),
    NamedCurve("cork", "Cork", Spring(0.2, 4.0), "playful", tr("Let go with speed: the end of a drag or a throw.")),
    NamedCurve(
        "pebble", "Pebble", Drops(3, 0.28), "playful", tr("Falls and bounces, less each time: things with weight.")
    ),
    NamedCurve(
        "bell", "Bell", Ring(3.0, 4.5), "playful", tr("Swings about its end and dies away: a bell, a sign in the wind.")
    ),
    NamedCurve(
        "two-steps",
        "Two steps",
        Drawn(),
        "playful",
        tr("Half the way, a short rest, the other half: to show that there are two."),
    ),
    NamedCurve(
        "ratchet", "Ratchet", Steps(6, "end"), "mechanical", tr("Six jumps: counters, clock hands, old displays.")
    ),
    NamedCurve("click", "Click", Hold(0.5), "mechanical", tr("Nothing, and half way all at once: swaps and switches.")),
    NamedCurve(
        "gear",
        "Gear",
        Points(((0.0, 0.0), (0.1, 0.0), (0.9, 1.0), (1.0, 1.0))),
        "mechanical",
        tr("Even speed between two short rests: machines."),
    ),
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


def used_by(project: Project, curve_id: str) -> int:
    """How many transitions, cues, keys, staggers, loops and rules of running orders use a named curve."""
    frames = [*project.frames, *(pose for part in project.parts for pose in part.poses)]
    routes = [*project.routes, *(route for part in project.parts for route in part.routes)]
    found = sum(loop.curve == Named(curve_id) for frame in frames for loop in frame.loops)
    transitions = [route.transition for route in routes]
    transitions += [entry.transition for route in routes for entry in route.tryouts]
    stages = [project.tracks, *(part.tracks for part in project.parts)]
    phases = [phase for tracks in stages for track in tracks for phase in track.phases]
    found += sum(rule.curve == Named(curve_id) for phase in phases for rule in phase.then)
    transitions += [p.shows.transition for p in phases if isinstance(p.shows, ShowMotion | ShowBlend)]
    transitions += [frame.entrance.transition for frame in frames if frame.entrance is not None]
    return found + sum(curve == Named(curve_id) for motion in transitions for curve in _curves_in(motion))


def _curves_in(motion: Transition) -> Iterator[Curve | None]:
    yield from (motion.curve, motion.leave_curve, motion.enter_curve)
    for cue in motion.cues:
        yield cue.curve
        yield from (key.curve for key in cue.keyframes)
    yield from (entry.curve for entry in motion.staggers)


KIND_TITLES: dict[type, str] = {
    Line: tr("Line"),
    Handles: tr("Two handles"),
    Points: tr("Points"),
    Steps: tr("Steps"),
    Drawn: tr("Drawn"),
    Spring: tr("Spring"),
    Drops: tr("Drops"),
    Ring: tr("Ring"),
    Hold: tr("Hold"),
}
