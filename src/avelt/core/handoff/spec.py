"""A spec sheet as data: what of a motion somebody needs who has to build it. Every number is that of ``sample``."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from avelt.core.curves.measure import measure
from avelt.core.curves.named import plain, title
from avelt.core.curves.text import css, number
from avelt.core.model.curves import Line, Named, PlainCurve
from avelt.core.model.values import Project, Transition
from avelt.core.record import Record
from avelt.core.timing.loops import round_duration
from avelt.core.timing.program import Program
from avelt.core.timing.sampling import sample
from avelt.core.timing.timeline import Animation, timeline_of

_JUST = 1e-6  # ms


class SpecRow(Record, frozen=True):
    """What one property of a layer does: when (ms), by which curve (its number on the sheet), and between what."""

    layer: str
    prop: str
    delay: float
    duration: float
    curve: int
    first: str
    last: str
    note: str = ""


class SpecCurve(Record, frozen=True):
    """A curve of the sheet: what it is called, as CSS, and what it feels like."""

    name: str
    curve: PlainCurve
    css: str
    feels: str


class SpecLoop(Record, frozen=True):
    """What repeats: one round (ms), how often, and in words."""

    layer: str
    name: str
    duration: float
    says: str


class SpecSheet(Record, frozen=True):
    """The whole sheet of one motion."""

    name: str
    duration: float
    size: tuple[float, float]
    facts: tuple[tuple[str, str], ...]
    rows: tuple[SpecRow, ...]
    curves: tuple[SpecCurve, ...]
    loops: tuple[SpecLoop, ...]


def spec_of(
    name: str, program: Program, project: Project, transition: Transition | None, trigger: str = ""
) -> SpecSheet:
    """The sheet of a program; ``trigger`` says in words what starts it."""
    known: dict[PlainCurve, int] = {}
    timeline = timeline_of(program)
    # What comes or goes is said as it is a hair inside of the motion: at the very ends it is not there.
    before = {tuple(r["pair"]): r for ms in (_JUST, 0.0) for r in sample(program, ms)}
    after = {tuple(r["pair"]): r for ms in (program.last - _JUST, program.last) for r in sample(program, ms)}
    rows: list[SpecRow] = []
    loops: list[SpecLoop] = []
    for element in timeline.elements:
        pair = tuple(program.ends_of(element.slot))
        one, other = before.get(pair), after.get(pair)
        found: dict[tuple[str, float, float], SpecRow] = {}
        for animation in element.animations:
            row = _row(element.name, animation, one, other, known)
            if row is not None:
                found.setdefault((row.prop, row.delay, row.duration), row)
        rows += sorted(found.values(), key=lambda row: (row.delay, row.prop))
    for track in program.loops:
        loop = track.loop
        often = "endless" if not loop.rounds else f"{loop.rounds} rounds"
        wait = f", waits {number(loop.wait, 1)} ms {loop.wait_when}" if loop.wait else ""
        says = f"{loop.direction}, {often}{wait}, {title(project, loop.curve)}"
        loops.append(SpecLoop(program.contents[track.slot].layer.name, loop.name, round_duration(loop), says))
    curves = tuple(_curve(project, transition, curve) for curve in known)
    facts = [("Lasts", f"{number(program.last, 1)} ms"), ("Frame", f"{program.left.w:g} × {program.left.h:g} px")]
    if trigger:
        facts.insert(0, ("Starts on", trigger))
    if not program.clocks.stands:
        facts.append(("From, to", f"{program.left.name}, {program.right.name}"))
    facts.append(("Layers that move", str(len({row.layer for row in rows}))))
    return SpecSheet(
        name, program.last, (program.left.w, program.left.h), tuple(facts), tuple(rows), curves, tuple(loops)
    )


def _row(
    layer: str,
    animation: Animation,
    one: dict[str, Any] | None,
    other: dict[str, Any] | None,
    known: dict[PlainCurve, int],
) -> SpecRow | None:
    prop = animation.prop.split(" ")[0]
    say = _SAYS.get(prop)
    first = say(one) if say and one else "" if one else "absent"
    last = say(other) if say and other else "" if other else "absent"
    curve = animation.keyframes[-1].curve
    note = ""
    if len(animation.keyframes) > 2:
        exact = animation.error == 0.0
        note = f"over {len(animation.keyframes) - 2} keyframes" if exact else "along a path, or by several cues"
    if first == last and first and not note:
        return None
    if prop == "shape" and not last:
        first, last = "its outline", "its outline there"
    place = known.setdefault(curve, len(known))
    return SpecRow(layer, animation.prop, animation.delay, animation.duration, place, first, last, note)


def _curve(project: Project, transition: Transition | None, curve: PlainCurve) -> SpecCurve:
    wanted = [entry for entry in (transition.curve,) if transition] if transition else []
    name = next(
        (
            title(project, entry)
            for entry in (*wanted, *(Named(c.id) for c in project.curves))
            if plain(project, entry) == curve
        ),
        title(project, curve),
    )
    felt = measure(curve)
    if isinstance(curve, Line):
        return SpecCurve(name, curve, css(curve), "even speed")
    feels = f"half way after {number(felt.half * 100, 1)} % of the time, 90 % after {number(felt.ninety * 100, 1)} %"
    if felt.overshoot > 0.005:
        feels += f", {number(felt.overshoot * 100, 1)} % too far on the way"
    return SpecCurve(name, curve, css(curve), feels)


def _px(value: float) -> str:
    return number(value, 2)


def _pair(*keys: str) -> Callable[[dict[str, Any]], str]:
    return lambda record: ", ".join(_px(record[key]) for key in keys) + " px"


def _radii(record: dict[str, Any]) -> str:
    radii = [_px(v) for v in record.get("radii", ())]
    return f"{radii[0] if len(set(radii)) == 1 else ' '.join(radii)} px" if radii else ""


def _shadows(record: dict[str, Any]) -> str:
    return "; ".join(
        f"{'inset ' if s['inner'] else ''}{_px(s['x'])} {_px(s['y'])} {_px(s['blur'])} px {s['color']}"
        for s in record.get("shadows", ())
    )


#: How the values of a property are said, by the records of ``sample``.
_SAYS: dict[str, Callable[[dict[str, Any]], str]] = {
    "position": _pair("x", "y"),
    "size": lambda r: f"{_px(r['w'])} × {_px(r['h'])} px",
    "rotation": lambda r: f"{_px(r['turn'])}°",
    "rotation_xy": lambda r: f"{_px(r.get('turn_x', 0.0))}°, {_px(r.get('turn_y', 0.0))}°",
    "scale": lambda r: " × ".join(number(v, 3) for v in r["scale"]),
    "skew": lambda r: f"{_px(r['skew'])}°",
    "corner": _radii,
    "opacity": lambda r: f"{number(r['opacity'] * 100, 1)} %",
    "fill": lambda r: r.get("fill") or ", ".join(r.get("gradient", ())),
    "stroke": lambda r: f"{r.get('stroke', '')} {_px(r.get('stroke_width', 0.0))} px",
    "trim": lambda r: " to ".join(f"{number(v * 100, 1)} %" for v in r.get("trim", (0, 1))[:2]),
    "shadow": _shadows,
    "blur": lambda r: f"{_px(r.get('blur', 0.0))} px",
    "cut": lambda r: " ".join(f"{number(v * 100, 1)} %" for v in r.get("cut", (0, 0, 0, 0))),
    "type": lambda r: f"{_px(r.get('type_size', 0.0))} px",
    "shape": lambda r: f"{number(r.get('mix', 0.0) * 100, 1)} % of the new form" if "mix" in r else "",
}
