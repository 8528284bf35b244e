"""Makes the catalogue that comes with Avelt: each preset is motion on a small stage, taken as anybody would take it.

``python -m avelt.tools.catalogue`` writes it anew. A new preset is a row in one of
the tables, and what it says of itself is in ``words.toml`` beside the files.
"""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from avelt.core.curves.named import STARTERS
from avelt.core.edits.cues import change_cues
from avelt.core.edits.layers import set_value
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import edit_transition, set_absent, set_cue
from avelt.core.edits.ties_and_staggers import make_stagger, set_offset, tie
from avelt.core.model.curves import Curve, Line, Named, Ring, Spring, Steps
from avelt.core.model.motion import CueKey, MotionPath, PairKey, Stagger, Transition
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Away, Box, Frame, Layer, Oval, Pose, Project, RoundKey, Route, Run, Solid, Text
from avelt.core.presets import record
from avelt.core.presets.capture import capture
from avelt.core.presets.shelf import catalogue_folder, file_name
from avelt.core.presets.values import Preset, to_json

WORDS = catalogue_folder() / "words.toml"
_W, _H = 240.0, 120.0
_CARD, _PAIR = PairKey("card", "large"), PairKey("card", "moved")


Made = Iterator[Preset]


def catalogue() -> list[Preset]:
    """All of it."""
    words = tomllib.loads(WORDS.read_text())
    makers = (_enters, _leaves, _screens, _crossings, _shared, _feedback, _waiting, _staggers)
    return [*(_told(preset, **words[preset.name]) for make in makers for preset in make()), *_curves()]


def _told(
    preset: Preset, when: str, not_when: str, tags: tuple[str, ...] | list[str] = (), quieter: str = ""
) -> Preset:
    tags = tuple(tags) if quieter else (*tags, "quiet")
    return replace(preset, tags=tags, when=when, not_when=not_when, quieter=quieter)


def _layer(ident: str, name: str, x: float, y: float, w: float, h: float, **own: Any) -> Layer:
    own.setdefault("body", Box((6, 6, 6, 6)))
    return Layer(ident, ident, name, x=x, y=y, w=w, h=h, fills=(Solid("#9fb4b2"),), **own)


def _stage(left: tuple[Layer, ...], right: tuple[Layer, ...], duration: float, curve: Curve) -> Project:
    frames = (Frame("A", "A", _W, _H, layers=left), Frame("B", "B", _W, _H, layers=right))
    route = Route("R", "A", "B", Tap(), Transition(duration, curve))
    return Project("Stage", frames=frames, routes=(route,), curves=STARTERS, first="A", next_id=1)


_WAYS = (
    # what it says, its way, ms, curve
    ("Fade in", Away(opacity=0.0), 180, Line()),
    ("Surface", Away(shift_y=14.0, opacity=0.0), 260, Named("surface")),
    ("Steps ashore", Away(shift_x=26.0, opacity=0.0), 280, Named("arrive")),
    ("From the quay", Away(edge="left"), 340, Named("touch-down")),
    ("Lowered in", Away(edge="top"), 320, Named("touch-down")),
    ("Rising tide", Away(edge="bottom"), 380, Named("touch-down")),
    ("Unfurled", Away(cut=(0.0, 1.0, 0.0, 0.0)), 420, Named("sweep")),
    ("Hatch opens", Away(scale_y=0.0, side="top"), 240, Named("arrive")),
    ("Out of the fog", Away(opacity=0.0, blur=14.0), 480, Named("drift-in")),
    ("Bobs up", Away(scale_x=0.4, scale_y=0.4, opacity=0.0), 520, Named("buoy")),
    ("Swings in", Away(rotation=-14.0, opacity=0.0), 600, Ring(2.0, 5.0)),
    ("Draws near", Away(scale_x=0.86, scale_y=0.86, opacity=0.0), 300, Named("arrive")),
)

_GOING = (
    ("Fade out", Away(opacity=0.0), 140, Line()),
    ("Sinks away", Away(shift_y=12.0, opacity=0.0), 200, Named("slip-away")),
    ("Casts off left", Away(edge="left"), 260, Named("cast-off")),
    ("Casts off right", Away(edge="right"), 260, Named("cast-off")),
    ("Drops below", Away(edge="bottom"), 260, Named("sink")),
    ("Lifts off", Away(edge="top"), 220, Named("leave")),
    ("Furled", Away(cut=(0.0, 1.0, 0.0, 0.0)), 260, Named("leave")),
    ("Hatch closes", Away(scale_y=0.0, side="top"), 160, Named("leave")),
    ("Into the fog", Away(opacity=0.0, blur=14.0), 300, Named("leave")),
    ("Draws back", Away(scale_x=0.5, scale_y=0.5, opacity=0.0), 180, Named("wind-up")),
)


def _enters() -> Made:
    card = _layer("card", "Card", 70, 30, 100, 60)
    for name, pose, ms, curve in _WAYS:
        project = set_absent(_stage((), (card,), float(ms), curve), "R", "card", pose)
        yield capture(project, "R", PairKey(None, "card"), name)


def _leaves() -> Made:
    card = _layer("card", "Card", 70, 30, 100, 60)
    for name, pose, ms, curve in _GOING:
        project = set_absent(_stage((card,), (), float(ms), curve), "R", "card", pose)
        yield capture(project, "R", PairKey("card", None), name)


_FADED = Away(opacity=0.0)
_SCREENS = (
    # what it says, how the old goes, how the new comes, ms, base curve, leaving and entering curve
    ("Cross-fade", _FADED, _FADED, 220, Line(), None, None),
    ("Next berth", Away(edge="left"), Away(edge="right"), 380, Named("glide"), None, None),
    ("Berth before", Away(edge="right"), Away(edge="left"), 380, Named("glide"), None, None),
    ("Lower deck", Away(edge="top"), Away(edge="bottom"), 420, Named("glide"), None, None),
    ("Upper deck", Away(edge="bottom"), Away(edge="top"), 420, Named("glide"), None, None),
    (
        "Down the hatch",
        Away(scale_x=1.12, scale_y=1.12, opacity=0.0),
        Away(scale_x=0.9, scale_y=0.9, opacity=0.0),
        340,
        Named("settle"),
        Named("leave"),
        Named("arrive"),
    ),
    (
        "Up on deck",
        Away(scale_x=0.9, scale_y=0.9, opacity=0.0),
        Away(scale_x=1.12, scale_y=1.12, opacity=0.0),
        340,
        Named("settle"),
        Named("leave"),
        Named("arrive"),
    ),
    (
        "Through the fog",
        Away(opacity=0.0, blur=18.0),
        Away(opacity=0.0, blur=18.0),
        640,
        Named("stroll"),
        Named("leave"),
        Named("arrive"),
    ),
    ("Sheet over", _FADED, Away(edge="bottom"), 420, Named("touch-down"), Line(), None),
    ("Tide goes out", Away(edge="bottom"), _FADED, 320, Named("sink"), None, Line()),
    (
        "Hand over",
        Away(opacity=0.0, shift_y=-8.0),
        Away(opacity=0.0, shift_y=10.0),
        420,
        Named("settle"),
        Named("slip-away"),
        Named("surface"),
    ),
)


def _screens() -> Made:
    left = (_layer("l1", "Old bar", 14, 12, 90, 14), _layer("l2", "Old card", 14, 36, 212, 68))
    right = (
        _layer("r1", "New title", 14, 14, 130, 22, body=Oval()),
        _layer("r2", "New left", 14, 48, 100, 58, body=Oval()),
        _layer("r3", "New right", 126, 48, 100, 58, body=Oval()),
    )
    for name, goes, comes, ms, base, out, into in _SCREENS:
        project = _stage(left, right, float(ms), base)
        project = edit_transition(
            project,
            "R",
            lambda old, o=out, i=into, g=goes, c=comes: replace(old, leave_curve=o, enter_curve=i, leave=g, enter=c),  # type: ignore[misc]
        )
        yield record.capture_transition(project, "R", name)


def _crossings() -> Made:
    """Motion of one layer that is on both screens."""
    small, large = _layer("card", "Card", 14, 70, 60, 36), _layer("moved", "Card", 120, 14, 106, 80)

    def stage(ms: float, curve: Curve) -> Project:
        project = _stage((small,), (large,), ms, curve)
        return set_cue(project, "R", CueKey(*_PAIR, ""), start=0.0, end=ms, curve=curve)

    def taken(project: Project, name: str) -> Preset:
        return capture(project, "R", _PAIR, name)

    yield taken(stage(240.0, Named("settle")), "Straight across")
    yield taken(stage(460.0, Named("glide")), "Calm crossing")
    yield taken(stage(560.0, Spring(0.3)), "Bumps the quay")
    arc = MotionPath(((0.25, 0.0, -46.0), (0.7, 0.0, -40.0)))
    yield taken(
        change_cues(stage(480.0, Named("glide")), "R", [CueKey(*_PAIR, "position")], motion_path=arc), "In an arc"
    )
    first = set_cue(stage(520.0, Named("settle")), "R", CueKey(*_PAIR, "position"), start=0.0, end=300.0)
    yield taken(set_cue(first, "R", CueKey(*_PAIR, "size"), start=180.0, end=520.0), "Goes, then grows")
    turned = set_value(stage(620.0, Named("sweep")), "B", "moved", "rotation", 360.0)
    yield taken(turned, "Turns once")


def _shared() -> Made:
    """Several layers that belong together, by role."""
    left = (
        _layer("card", "Card", 20, 64, 70, 44),
        _layer("title", "Title", 28, 72, 40, 10, body=Text((Run("Title"),))),
    )
    right = (
        _layer("large", "Card", 20, 10, 200, 70),
        _layer("words", "Title", 32, 20, 70, 14, body=Text((Run("Title"),))),
        _layer("more", "Details", 20, 88, 200, 22),
    )
    title, details = PairKey("title", "words"), PairKey(None, "more")

    def stage(ms: float) -> Project:
        project = _stage(left, right, ms, Named("settle"))
        return set_cue(project, "R", CueKey(*_CARD, ""), start=0.0, end=ms * 0.7, curve=Named("glide"))

    pairs = (_CARD, title, details)
    quiet = set_cue(stage(240.0), "R", CueKey(*_CARD, ""), end=240.0)
    yield record.capture_shared(quiet, "R", pairs, "Becomes, quietly")
    opened = set_cue(stage(560.0), "R", CueKey(*details, ""), start=320.0, end=560.0, curve=Named("surface"))
    opened = set_absent(opened, "R", "more", Away(opacity=0.0, shift_y=14.0))
    opened = tie(opened, "R", CueKey(*details, ""), CueKey(*_CARD, ""), "start", "end")
    opened = set_offset(opened, "R", CueKey(*details, ""), "start", -60.0)
    yield record.capture_shared(opened, "R", pairs, "Card opens")
    led = set_cue(stage(520.0), "R", CueKey(*title, ""), start=0.0, end=300.0, curve=Named("arrive"))
    led = set_cue(led, "R", CueKey(*_CARD, ""), start=80.0, end=480.0)
    yield record.capture_shared(led, "R", pairs, "Title leads")


_THERE, _WAY = "there and back", "one way"


def _keys(*pairs: tuple[float, float]) -> tuple[RoundKey, ...]:
    return tuple(RoundKey(at, far) for at, far in pairs)


_ANSWERS = (
    ("Blinks once", Pose(opacity=0.45), {"duration": 360.0, "rounds": 1, "direction": _THERE}),
    ("Nudged", Pose(shift_x=10.0), {"duration": 420.0, "rounds": 2, "direction": _THERE}),
    (
        "Shakes its head",
        Pose(shift_x=8.0),
        {
            "duration": 440.0,
            "rounds": 1,
            "direction": _WAY,
            "keyframes": _keys((0.0, 0.0), (0.15, -1.0), (0.38, 1.0), (0.62, -0.7), (0.82, 0.4), (1.0, 0.0)),
        },
    ),
    (
        "Nods",
        Pose(shift_y=6.0),
        {
            "duration": 380.0,
            "rounds": 1,
            "direction": _WAY,
            "keyframes": _keys((0.0, 0.0), (0.3, 1.0), (0.6, -0.35), (1.0, 0.0)),
        },
    ),
    ("Pressed in", Pose(scale_x=0.94, scale_y=0.94), {"duration": 180.0, "rounds": 1, "direction": _THERE}),
    (
        "Hops",
        Pose(shift_y=-12.0),
        {
            "duration": 420.0,
            "rounds": 1,
            "direction": _WAY,
            "keyframes": _keys((0.0, 0.0), (0.4, 1.0), (0.7, 0.0), (0.85, 0.25), (1.0, 0.0)),
        },
    ),
    (
        "Rings",
        Pose(rotation=16.0),
        {
            "duration": 720.0,
            "rounds": 1,
            "direction": _WAY,
            "keyframes": _keys((0.0, 0.0), (0.15, 1.0), (0.35, -0.8), (0.55, 0.5), (0.75, -0.25), (1.0, 0.0)),
        },
    ),
    ("Swells once", Pose(scale_x=1.08, scale_y=1.08), {"duration": 640.0, "rounds": 1, "direction": _THERE}),
)

_RESTLESS = (
    ("Beacon", Pose(opacity=0.35), {"duration": 2400.0, "direction": _THERE}),
    ("At anchor", Pose(shift_y=7.0), {"duration": 2800.0, "direction": _THERE}),
    ("Rolls", Pose(rotation=5.0), {"duration": 3600.0, "direction": _THERE, "start_offset": 900.0}),
    ("Breathes", Pose(scale_x=1.07, scale_y=1.07), {"duration": 3000.0, "direction": _THERE}),
    ("Lighthouse", Pose(rotation=360.0), {"duration": 2000.0, "direction": _WAY, "curve": Line()}),
    ("Clockwork", Pose(rotation=360.0), {"duration": 2400.0, "direction": _WAY, "curve": Steps(12, "end")}),
    (
        "Waiting drop",
        Pose(shift_y=-9.0),
        {"duration": 1200.0, "direction": _WAY, "keyframes": _keys((0.0, 0.0), (0.22, 1.0), (0.44, 0.0), (1.0, 0.0))},
    ),
    (
        "Buoy light",
        Pose(opacity=0.1),
        {
            "duration": 2600.0,
            "direction": _WAY,
            "keyframes": _keys((0.0, 0.0), (0.1, 1.0), (0.2, 0.0), (0.3, 1.0), (0.4, 0.0), (1.0, 0.0)),
        },
    ),
    ("Drifts", Pose(shift_x=22.0), {"duration": 14_000.0, "direction": _THERE}),
    (
        "Round the rock",
        Pose(),
        {
            "duration": 3200.0,
            "direction": _WAY,
            "curve": Line(),
            "path": (
                (0.0, -9.0),
                (9.0, -16.0),
                (18.0, -16.0),
                (27.0, -16.0),
                (36.0, -9.0),
                (36.0, 0.0),
                (36.0, 9.0),
                (27.0, 16.0),
                (18.0, 16.0),
                (9.0, 16.0),
                (0.0, 9.0),
                (0.0, 0.0),
            ),
        },
    ),
)


def _looped(table: tuple[Any, ...]) -> Made:
    layer = _layer("card", "Mark", 60, 30, 60, 60)
    for name, pose, own in table:
        project, ident = add_loop(_stage((layer,), (), 300.0, Line()), "A", "card", pose)
        swell = {"curve": Named("swell"), "name": name}
        project = edit_loop(project, "A", ident, lambda old, own=swell | own: replace(old, **own))  # type: ignore[misc]
        yield record.capture_loop(project, "A", ident, name)


def _feedback() -> Made:
    return _looped(_ANSWERS)


def _waiting() -> Made:
    return _looped(_RESTLESS)


_RULES = (
    ("All together", Stagger("", (), "sheet", False, 0.0)),
    ("Row by row", Stagger("", (), "top to bottom", False, 40.0)),
    ("From the left", Stagger("", (), "left to right", False, 35.0)),
    ("Last one first", Stagger("", (), "top to bottom", True, 28.0)),
    ("Rings in water", Stagger("", (), "distance", False, 220.0, "total", Named("settle"), (120.0, 60.0))),
    ("Flock", Stagger("", (), "random", False, 260.0, "total", Named("steady"), (0.0, 0.0), 7)),
    ("However many", Stagger("", (), "top to bottom", False, 240.0, "total", Named("surface"))),
)


def _staggers() -> Made:
    left = tuple(_layer(f"a{k}", f"Row {k}", 14, 10.0 + 26 * k, 60, 20) for k in range(4))
    right = tuple(_layer(f"b{k}", f"Row {k}", 166, 10.0 + 26 * k, 60, 20) for k in range(4))
    for name, rule in _RULES:
        keys = [CueKey(f"a{k}", f"b{k}", "") for k in range(4)]
        project, ident = make_stagger(_stage(left, right, 420.0, Named("settle")), "R", keys, rule)
        yield record.capture_stagger(project, "R", ident, name)


_QUIET = "Settle (curve)"
_NOT_FOR = {
    "arrives": "What leaves: it would hesitate before it goes.",
    "leaves": "What arrives: it would stop abruptly.",
    "stays": "What a finger holds: it would lag behind.",
    "playful": "Serious messages, and what is seen many times a day.",
    "mechanical": "What people move by hand.",
    "": "",
}


def _curves() -> Made:
    for curve in STARTERS:
        made = record.capture_curve(Project("Stage", curves=STARTERS), curve.curve, f"{curve.name} (curve)")
        tags = (curve.feel,) if curve.feel else ()
        yield _told(made, curve.note, _NOT_FOR[curve.feel], tags, _QUIET if curve.feel == "playful" else "")


def main() -> None:
    """Write it anew: files of presets that are no more go."""
    folder = catalogue_folder()
    folder.mkdir(parents=True, exist_ok=True)
    presets = catalogue()
    wanted = {file_name(preset.name): to_json(preset) for preset in presets}
    for path in _files(folder):
        if path.name not in wanted:
            path.unlink()
    for name, data in wanted.items():
        (folder / name).write_bytes(data)
    print(f"{len(wanted)} presets")


def _files(folder: Path) -> list[Path]:
    return list(folder.glob("*.avelt-preset"))


if __name__ == "__main__":
    main()
