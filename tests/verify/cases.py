"""Transitions that ask one thing each of whoever delivers motion: name -> project with one route R from A to B."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from avelt.core.model.curves import Handles, Hold, Line, Spring, Steps
from avelt.core.model.layers import (
    Conic,
    Group,
    Linear,
    Path,
    Pattern,
    Radial,
    Run,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Subpath,
    Text,
    Use,
)
from avelt.core.model.motion import Absent, Away, Cue, Keyframe, MotionPath, Pose, Settled
from avelt.core.model.parts import Part
from avelt.core.model.values import Box, Frame, Layer, Loop, Project, RoundKey, Transition
from tests.support import box, group, oval, project_of

_STAR = (10.0, 40.0, 10, 40, 40, 10, 40, 10, 40, 10, 70, 40, 70, 40, 70, 40, 20, 60, 10, 40)
_WAVE = (0.0, 20.0, 20, -10, 40, 50, 60, 20, 80, -10, 100, 50, 120, 20)
_HILL = (0.0, 40.0, 20, 0, 40, 0, 60, 40, 80, 80, 100, 80, 120, 40)
_TWO = (Stop(0.0, "#f4b04c"), Stop(1.0, "#1d5c63"))
_THREE = (Stop(0.0, "#fff1cf"), Stop(0.3, "#d8482e"), Stop(1.0, "#14323f"))


def words(ident: str, said: str, x: float, y: float, w: float, size: float, **own: Any) -> Layer:
    """A text with all its settings."""
    own.setdefault("family", "Hanken Grotesk")
    body = Text((Run(said),), size=size, **own)
    return Layer(ident, own.get("origin", said), said, body, x, y, w, size * 1.2, fills=(Solid("#17323a"),))


def path(ident: str, points: tuple[float, ...], closed: bool = True, **own: Any) -> Layer:
    """A free outline."""
    own.setdefault("origin", "path")
    own.setdefault("fills", (Solid("#1f7a6b"),) if closed else ())
    return Layer(ident, own.pop("origin"), "Path", Path((Subpath(points, closed),)), w=120, h=80, **own)


def pair(left: Layer, right: Layer, transition: Transition | None = None, **frame: Any) -> Project:
    """One layer on both frames, of one origin."""
    return both((left,), (replace(right, origin=left.origin),), transition, **frame)


def both(
    left: tuple[Layer, ...], right: tuple[Layer, ...], transition: Transition | None = None, **frame: Any
) -> Project:
    """Layers on both frames, with settings of the frames."""
    project = project_of(left, right, transition or Transition(400.0, Handles(0.3, 0.0, 0.2, 1.0)))
    return replace(project, frames=tuple(replace(f, background="#f6f2e8", **frame) for f in project.frames))


def cue(prop: str, **own: Any) -> Cue:
    """A cue of the one pair a > b."""
    return Cue("a", "b", prop, **own)


def _turned() -> Project:
    return pair(
        box("a", 20, 20, 60, 40, rotation=-30, body=Box((8, 8, 8, 8))),
        box(
            "b",
            110,
            120,
            70,
            50,
            "#c8553d",
            rotation=405,
            scale_x=1.3,
            scale_y=0.7,
            pivot=(0.1, 0.9),
            body=Box((20, 20, 20, 20)),
        ),
    )


def _skewed() -> Project:
    return pair(
        box("a", 30, 30, 60, 40, skew=25, rotation=10), box("b", 90, 110, 80, 60, skew=-20, rotation=70, scale_x=0.8)
    )


def _own_cues() -> Project:
    cues = (
        cue("position", start=60, end=400, curve=Spring(0.5)),
        cue("size", start=0, end=240, curve=Handles(0.1, 0.9, 0.3, 1)),
        cue("corner", start=100, end=300, curve=Line()),
        cue("opacity", start=40, end=380, curve=Steps(4, "end")),
        cue("fill", start=120, end=360, curve=Line()),
    )
    return pair(
        box("a", 10, 10, 60, 40, opacity=0.3, body=Box((4, 4, 4, 4))),
        box("b", 90, 100, 100, 80, "#e7b10a", body=Box((30, 6, 18, 0))),
        Transition(400.0, Line(), cues),
    )


def _keyed() -> Project:
    cues = (
        cue("position", keyframes=(Keyframe(0.3, (90, 10), Handles(0.6, 0, 0.4, 1)), Keyframe(0.7, (20, 120)))),
        cue("rotation", keyframes=(Keyframe(0.5, (-80,)),)),
        cue("fill", keyframes=(Keyframe(0.4, (0.9, 0.2, 0.1, 1.0)),)),
    )
    return pair(box("a", 10, 10, 50, 40), box("b", 130, 140, 50, 40, "#2b4c7e"), Transition(500.0, Line(), cues))


def _on_path() -> Project:
    way = MotionPath(((0.3, -60, 40), (0.7, 60, 60)), rotates=True)
    cues = (cue("position", motion_path=way, curve=Handles(0.4, 0, 0.1, 1)), cue("size", start=0, end=150))
    return pair(box("a", 20, 20, 30, 20), box("b", 140, 140, 50, 30, "#c8553d"), Transition(450.0, Line(), cues))


def _gradients() -> Project:
    a = box("a", 10, 10, 80, 80)
    left = replace(a, fills=(Linear(_TWO, (0.7, 0.7, -0.7, 0.7, 0.1, 0.0)),))
    right = replace(a, id="b", x=80, y=90, w=110, h=90, fills=(Linear(_THREE, (0.0, 1.0, -1.0, 0.0, 0.5, 0.0)),))
    radial = replace(oval("c", 110, 10, 80, 60), fills=(Radial(_THREE, focus=(0.3, -0.2)),))
    again = replace(radial, id="d", x=10, y=120, fills=(Radial(_TWO, (0.4, 0.1, -0.1, 0.6, 0.4, 0.5)),))
    return both((left, radial), (right, again))


def _far_apart() -> Project:
    """Stops as far apart as they can be, which show in which space neighbours are blended."""
    a = replace(box("a", 10, 10, 80, 80), fills=(Linear((Stop(0, "#ff0000"), Stop(1, "#0000ff"))),))
    right = replace(a, id="b", x=90, y=90, fills=(Linear((Stop(0, "#00ff00"), Stop(1, "#ffff00"))),))
    still = replace(a, id="c", x=110)
    return both((a, still), (right, replace(still, id="d")))


def _conic() -> Project:
    a = replace(oval("a", 20, 20, 90, 90), fills=(Conic(_THREE),))
    return pair(a, replace(a, id="b", x=80, y=70, w=110, h=80))


def _paints() -> Project:
    a = box("a", 20, 20, 90, 60, body=Box((12, 12, 12, 12)))
    left = replace(a, fills=(Solid("#335c67"), Linear((Stop(0, "#ffffff80"), Stop(1, "#ffffff00")))))
    right = replace(a, id="b", x=70, y=100, fills=(Radial(_TWO),))
    return pair(left, right)


def _spaces() -> Project:
    return pair(
        box("a", 20, 20, 100, 100, "#ff0000"),
        box("b", 60, 60, 100, 100, "#0000ff80"),
        Transition(400.0, Line(), (cue("fill", space="srgb-linear"),)),
    )


def _hues() -> Project:
    return pair(
        box("a", 20, 20, 100, 100, "#d8482e"),
        box("b", 60, 60, 100, 100, "#1f7a6b"),
        Transition(400.0, Line(), (cue("fill", space="oklch"),)),
    )


def _plain_srgb() -> Project:
    return pair(
        box("a", 20, 20, 100, 100, "#d8482e"),
        box("b", 60, 60, 100, 100, "#1f7a6b"),
        Transition(400.0, Line(), (cue("fill", space="srgb"),)),
    )


def _strokes() -> Project:
    line = Stroke(Solid("#14323f"), 3.0, "round", "round", dashes=(10.0, 6.0))
    a = path("a", _WAVE, False, x=20, y=20, stroke=line)
    return pair(
        a, replace(a, id="b", x=60, y=120, stroke=replace(line, width=8.0, dashes=(18.0, 12.0), dash_offset=40.0))
    )


def _trims() -> Project:
    line = Stroke(Solid("#c8553d"), 6.0, "round", "round", trim_start=0.0, trim_end=0.0)
    a = path("a", _WAVE, False, x=20, y=20, stroke=line)
    ring = replace(
        oval("c", 110, 100, 60, 60), fills=(), stroke=Stroke(Solid("#14323f"), 5.0, trim_end=0.25, trim_offset=0.0)
    )
    end = replace(ring, id="d", stroke=Stroke(Solid("#14323f"), 5.0, trim_end=0.6, trim_offset=0.8))
    return both((a, ring), (replace(a, id="b", y=60, stroke=replace(line, trim_end=0.8)), end))


def _reshapes() -> Project:
    cues = (cue("size", start=0, end=200), cue("shape", start=100, end=400))
    return pair(path("a", _STAR, x=10, y=10), oval("b", 90, 80, 90, 100, "#e7b10a"), Transition(400.0, Line(), cues))


def _outlines() -> Project:
    return pair(path("a", _WAVE, x=10, y=20), path("b", _HILL, x=60, y=90))


def _shadows() -> Project:
    a = box("a", 30, 30, 70, 50, shadows=(Shadow("#14323f80", 0, 4, 6),), body=Box((10, 10, 10, 10)))
    return pair(a, replace(a, id="b", x=90, y=100, shadows=(Shadow("#14323f40", 6, 16, 14),)))


def _many_shadows() -> Project:
    shades = (Shadow("#14323f80", 0, 4, 6), Shadow("#c8553d80", -8, 0, 3), Shadow("#00000099", 0, 3, 4, True))
    a = box("a", 30, 30, 70, 50, "#fff7e6", shadows=shades, body=Box((10, 10, 10, 10)))
    return pair(a, replace(a, id="b", x=90, y=100))


def _blurs() -> Project:
    return pair(oval("a", 20, 20, 60, 60, blur=0.0), oval("b", 100, 100, 80, 60, blur=9.0))


def _behind_glass() -> Project:
    stripes = tuple(box(f"s{k}", 20 * k, 0, 10, 200, "#1d5c63") for k in range(10))
    glass = replace(box("a", 20, 40, 90, 60, "#ffffff40", body=Box((16, 16, 16, 16))), back_blur=2.0)
    return both((*stripes, glass), (*stripes, replace(glass, id="b", x=80, y=90, back_blur=9.0)))


def _blends() -> Project:
    under = box("u", 0, 60, 200, 80, "#e7b10a")
    a = oval("a", 10, 30, 90, 90, "#c8553d", blend="multiply")
    c = oval("c", 60, 90, 90, 90, "#2b4c7e", blend="screen")
    return both((under, a, c), (under, replace(a, id="b", x=90), replace(c, id="d", x=10, blend="luminosity")))


def _tilts() -> Project:
    lines = (box("i", 0, 0, 90, 60, "#1f7a6b"), oval("j", 20, 10, 40, 40, "#fff1cf"))
    a = group("a", 30, 30, lines, rotation_y=0.0)
    return pair(a, replace(a, id="b", x=70, y=90, rotation_x=35.0, rotation_y=-50.0, rotation=15.0), perspective=400.0)


def _depth() -> Project:
    project = pair(box("a", 40, 40, 90, 90, rotation_y=40), box("b", 60, 70, 90, 90, rotation_y=-60, rotation_x=30))
    near = replace(project.frames[1], perspective=260.0)
    return replace(project, frames=(project.frames[0], near))


def _masks() -> Project:
    hole = oval("m", 10, 0, 60, 60, "#000000")
    inside = (hole, box("p", 0, 0, 90, 30, "#c8553d"), box("q", 0, 30, 90, 40, "#2b4c7e"))
    a = group("a", 20, 20, inside)
    a = replace(a, body=Group(inside, mask="m"))
    moved = (replace(hole, id="m2", x=40, w=45), *(replace(x, id=f"{x.id}2") for x in inside[1:]))
    b = replace(a, id="b", x=80, y=100, body=Group(moved, mask="m2"))
    return both((a,), (b,))


def _light_masks() -> Project:
    project = _masks()
    frames = []
    for frame in project.frames:
        layer = frame.layers[0]
        inside = list(layer.body.children)
        inside[0] = replace(inside[0], fills=(Linear((Stop(0, "#ffffff"), Stop(1, "#202020"))),))
        frames.append(
            replace(
                frame, layers=(replace(layer, body=replace(layer.body, children=tuple(inside), mask_by="luminance")),)
            )
        )
    return replace(project, frames=tuple(frames))


def _clips() -> Project:
    inside = (oval("i", -20, -20, 80, 80, "#c8553d"), box("j", 50, 40, 80, 50, "#2b4c7e"))
    a = replace(group("a", 20, 20, inside, clips=True), w=80, h=60)
    moved = tuple(replace(x, id=f"{x.id}2", x=x.x + 15) for x in inside)
    return pair(a, replace(a, id="b", x=70, y=90, w=110, h=90, rotation=20, body=Group(moved, clips=True)))


def _cuts() -> Project:
    a = box("a", 20, 20, 70, 60, "#1f7a6b")
    c = box("c", 100, 110, 80, 70, "#c8553d")
    absents = (Absent("a", Away(cut=(0, 0, 1, 0))), Absent("c", Away(cut=(0, 0.7, 0, 0), opacity=0.4)))
    return both((a,), (c,), Transition(400.0, Handles(0.3, 0, 0.2, 1), absents=absents, decisions=()))


def _hidden_behind() -> Project:
    card = box("k", 50, 50, 100, 100, "#fff7e6", shadows=(Shadow("#00000060", 0, 4, 8),))
    c = box("c", 60, 10, 80, 60, "#c8553d")
    absents = (Absent("c", Away(shift_y=60, behind="k2")),)
    return both((card,), (replace(card, id="k2"), c), Transition(400.0, Line(), absents=absents))


def _order() -> Project:
    a, c = box("a", 30, 30, 90, 90, "#c8553d"), box("c", 70, 70, 90, 90, "#2b4c7e")
    e = oval("e", 60, 20, 70, 120, "#e7b10a")
    right = (replace(c, id="c2", x=60), replace(e, id="e2"), replace(a, id="a2", x=50))
    settled = (Settled("a", "a2", order_at=0.3),)
    return both((a, c, e), right, Transition(400.0, Line(), settled=settled))


def _rolls() -> Project:
    return pair(
        words("a", "7.50", 20, 20, 120, 40, align="right"),
        replace(words("b", "12.80", 40, 110, 140, 40, align="right"), fills=(Solid("#c8553d"),)),
    )


def _other_words() -> Project:
    return pair(words("a", "Outer Holm", 20, 20, 140, 24), words("b", "Grey Stack", 30, 120, 150, 30))


def _swaps() -> Project:
    return pair(
        words("a", "Outer Holm", 20, 20, 140, 24),
        words("b", "Sandray", 30, 120, 150, 24, weight=700),
        Transition(400.0, Line(), settled=(Settled("a", "b", content="swap", swap_at=0.7),)),
    )


def _type() -> Project:
    return pair(
        words("a", "Sandray", 20, 20, 150, 18, align="center"),
        words("b", "Sandray", 20, 110, 170, 40, align="center", letter_spacing=2.0, weight=600),
    )


def _frame_grows() -> Project:
    project = pair(box("a", 20, 20, 60, 60), box("b", 100, 100, 60, 60))
    return replace(project, frames=(project.frames[0], replace(project.frames[1], background="#1d5c63")))


def _pattern() -> Project:
    tile = Pattern((box("t", 0, 0, 6, 6, "#c8553d"), oval("u", 6, 6, 6, 6, "#2b4c7e")), 12, 12, (0.1, 0, 0, 0.2, 0, 0))
    a = replace(box("a", 20, 20, 120, 60), fills=(tile,))
    return pair(a, replace(a, id="b", x=50, y=100, rotation=25))


def _parts() -> Project:
    pose = Frame(
        "P1",
        "rest",
        60,
        60,
        "#ffffff00",
        layers=(box("w", 10, 10, 40, 40, "#c8553d"),),
        loops=(Loop("L", "L", "w", "spin", Pose(rotation=180.0), 300.0, "one way", curve=Line()),),
    )
    use = Layer("a", "use", "Spinner", Use("P"), 20, 20, 60, 60)
    project = pair(use, replace(use, id="b", x=90, y=80, w=90, h=90, body=Use("P", speed=2.0)))
    return replace(project, parts=(Part("P", "Spinner", 60, 60, (pose,)),))


def _loops() -> Project:
    project = both(
        (box("a", 20, 20, 50, 50), oval("c", 120, 20, 40, 40)),
        (box("b", 100, 110, 50, 50, origin="a"), oval("d", 120, 20, 40, 40, origin="c")),
    )
    left, right = project.frames
    bob = Loop("L1", "bob", "a", "bob", Pose(shift_y=12.0, rotation=15.0), 500.0)
    ping = Loop(
        "L2",
        "ping",
        "d",
        "ping",
        Pose(scale_x=1.6, scale_y=1.6, opacity=0.0),
        400.0,
        "one way",
        200.0,
        "before each round",
    )
    keyed = Loop(
        "L3",
        "keyed",
        "b",
        "keyed",
        Pose(shift_x=20.0),
        600.0,
        keyframes=(RoundKey(0.25, 1.0, Line()), RoundKey(0.6, -0.5), RoundKey(1.0, 0.0)),
        rounds=2,
    )
    return replace(
        project,
        frames=(replace(left, loops=(bob,)), replace(right, loops=(replace(bob, id="L4", layer="b"), ping, keyed))),
    )


def _waiting_loops() -> Project:
    """Loops that stay where they arrived while they wait, but not before their first round; that wait longer than they
    move, begin somewhere else than at rest, are cut off at what can be, or are over before they are seen."""
    waits = Loop("", "", "", "", Pose(shift_x=50.0, rotation=30.0), 120.0, "one way", 90.0, "before each round")
    waits = replace(waits, at_rest="hold")
    first = (RoundKey(0.0, 0.5), RoundKey(0.35, 0.5, Line()), RoundKey(0.8, 1.0))
    beyond = (RoundKey(0.35, 1.2, Line()), RoundKey(0.6, 1.2), RoundKey(0.8, -0.3))
    loops = (
        waits,
        replace(waits, rounds=1, offset=Pose(shift_y=-30.0)),
        replace(waits, curve=Steps(4), offset=Pose(rotation=400.0, scale_x=1.4)),
        replace(waits, curve=Line(), keyframes=first, at_rest="jump"),
        replace(waits, keyframes=(RoundKey(0.0, -0.3), RoundKey(0.6, 1.0, Line())), offset=Pose(opacity=0.3)),
        Loop("", "", "", "", Pose(rotation=90.0, scale_y=1.4), 130.0, wait=140.0),
        replace(waits, wait=0.0, rounds=1, start_offset=-60.0, keyframes=beyond, offset=Pose(opacity=0.5)),
        replace(waits, rounds=1, start_offset=333.0, keyframes=(RoundKey(0.6, 1.2),), offset=Pose(opacity=0.3)),
    )
    layers = tuple(box(f"w{k}", 10 + 48 * (k % 4), 40 + 90 * (k // 4), 30, 22) for k in range(len(loops)))
    named = (replace(e, id=f"L{k}", origin=f"l{k}", layer=f"w{k}", name=f"l{k}") for k, e in enumerate(loops))
    project = both((), layers)
    left, right = project.frames
    return replace(project, frames=(left, replace(right, loops=tuple(named))))


def _held() -> Project:
    cues = (cue("position", curve=Hold(0.6)), cue("rotation", muted=True))
    return pair(box("a", 20, 20, 60, 60), box("b", 110, 100, 60, 60, rotation=40), Transition(300.0, Line(), cues))


def _regrouped() -> Project:
    inside = (box("i", 10, 10, 40, 40, "#c8553d"),)
    a = group("a", 20, 20, (*inside, box("j", 0, 0, 80, 80, "#e7b10a40")), rotation=15.0, opacity=0.8)
    b = group("b", 90, 90, (box("j2", 0, 0, 80, 80, "#e7b10a40", origin="j"),), origin="a")
    return both((a,), (b, box("i2", 120, 20, 60, 50, "#c8553d", origin="i")))


def _names() -> Project:
    """Layer names with markup, quotes, ends of comments and scripts of every kind."""
    names = ('<script>alert("1")</script>', "*/ } body { display: none }", "Überfahrt & mehr", "渡し船", "", "'\\\"")
    left = tuple(
        box(f"a{k}", 10 + 28 * k, 20, 24, 24, name=name or "x", origin=f"o{k}") for k, name in enumerate(names)
    )
    right = tuple(replace(layer, id=f"b{k}", y=140) for k, layer in enumerate(left))
    return both(left, right)


CASES: dict[str, Callable[[], Project]] = {
    name.removeprefix("_"): made
    for name, made in list(globals().items())
    if name.startswith("_") and callable(made) and getattr(made, "__module__", "") == __name__
}
