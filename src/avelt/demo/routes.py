"""The demo's routes: on which trigger one goes where, and how it moves."""

from __future__ import annotations

import msgspec

from avelt.core.edits.cues import change_cues
from avelt.core.edits.entrances import make_entrance, set_when
from avelt.core.edits.inputs import add_input
from avelt.core.edits.keyframes import put_keyframe
from avelt.core.edits.routes import (
    add_route,
    decide,
    edit_transition,
    inherit_cue,
    set_absent,
    set_all_absent,
    set_condition,
    set_cue,
    set_duration,
    set_on_arrival,
    settle,
)
from avelt.core.edits.ties_and_staggers import make_stagger, set_stagger, tie
from avelt.core.edits.wiring import BackCurve, mirrored
from avelt.core.model.curves import Line, Named
from avelt.core.model.find import entrance_id, find_frame, find_layer, frame_by_id, route_by_id, walk
from avelt.core.model.motion import FADED, CueKey, MotionPath, Stagger
from avelt.core.model.triggers import (
    Action,
    Crosses,
    DoubleTap,
    Drag,
    GoBack,
    Hold,
    HoverIn,
    Key,
    Loading,
    PutAway,
    SetInput,
    ShowOver,
    Tap,
    Timer,
    Trigger,
)
from avelt.core.model.values import Away, Project, Transition
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import scrim_id, sheet_id
from avelt.core.timing.schedule import duration_of


def wire(project: Project) -> Project:
    """All routes of the demo, on a project that has its frames."""
    project, boarded = add_input(project, "boarded", "yes/no")
    project, _ = add_input(project, "minutes-late", "number", 20.0)
    project, told = add_input(project, "told", "yes/no")
    project = _card(project)
    project = _tabs(project)
    project = _notice(project, told)
    return _pass(project, boarded)


def _id(project: Project, frame: str, layer: str) -> str:
    return find_layer(find_frame(project, frame), layer).id


def _route(
    project: Project,
    leaves: str,
    arrives: str,
    trigger: Trigger,
    length: float,
    curve: str,
    action: Action | None = None,
) -> tuple[Project, str]:
    ends = find_frame(project, leaves).id, find_frame(project, arrives).id
    return add_route(project, *ends, trigger, Transition(length, Named(curve)), action)


def _cue(
    project: Project, route_id: str, ends: tuple[str | None, str | None], prop: str = "", **own: object
) -> Project:
    """A cue of a pair, named by its layers in the frames left and arrived at."""
    route = route_by_id(project, route_id)
    left = find_layer(frame_by_id(project, route.leaves), ends[0]).id if ends[0] else None
    right = find_layer(frame_by_id(project, route.arrives), ends[1]).id if ends[1] else None
    return set_cue(project, route_id, CueKey(left, right, prop), **own)  # type: ignore[arg-type]


def _leaving(project: Project, route_id: str, rows: tuple[tuple[str, float, float], ...]) -> Project:
    for name, start, end in rows:
        project = _cue(project, route_id, (name, None), start=start, end=end, curve=Named("leave"))
    return project


def _entering(project: Project, route_id: str, rows: tuple[tuple[str, float, float], ...]) -> Project:
    for name, start, end in rows:
        project = _cue(project, route_id, (None, name), start=start, end=end, curve=Named("arrive"))
    return project


def _staged(project: Project, route_id: str, gone: float, come: float) -> Project:
    """Out, over, in: what leaves is gone at ``gone`` ms, what enters comes from ``come`` ms on."""
    route = route_by_id(project, route_id)
    pairing, length = pairing_of(project, route), duration_of(route.transition, project)
    for flat, alone, leaves in ((pairing.left.flat, pairing.leaves, True), (pairing.right.flat, pairing.enters, False)):
        single = set(alone)
        for ident in alone:
            up = int(flat.parent[flat.index[ident]])
            if up >= 0 and flat.layers[up].id in single:
                continue  # it goes with its group
            key = CueKey(ident, None, "") if leaves else CueKey(None, ident, "")
            start, end, curve = (0.0, gone, "leave") if leaves else (come, length, "arrive")
            project = set_cue(project, route_id, key, start=start, end=end, curve=Named(curve))
    return project


def _goes(project: Project, route_id: str, layer_id: str, pose: Away) -> Project:
    """How a layer leaves; what goes piece by piece has no cue of its own."""
    project = set_absent(project, route_id, layer_id, pose)
    return project if pose != Away() else inherit_cue(project, route_id, CueKey(layer_id, None, ""))


def _comes(project: Project, route_id: str, layer_id: str, pose: Away) -> Project:
    """How a layer enters; what comes piece by piece has no cue of its own."""
    project = set_absent(project, route_id, layer_id, pose)
    return project if pose != Away() else inherit_cue(project, route_id, CueKey(None, layer_id, ""))


def _together(
    project: Project, route_id: str, outermost: str, start: float, end: float, prop: str = "", curve: str = "settle"
) -> Project:
    """A shared layer of the frame left, and all that is shared in it, at one time."""
    route = route_by_id(project, route_id)
    pairing = pairing_of(project, route)
    group = find_layer(frame_by_id(project, route.leaves), outermost)
    for layer in walk((group,)):
        partner = pairing.to_of.get(layer.id)
        if partner is not None:
            key = CueKey(layer.id, partner, prop if layer is group else "")
            project = set_cue(project, route_id, key, start=start, end=end, curve=Named(curve))
    return project


def _passes(
    project: Project, route_id: str, ends: tuple[str, str], prop: str, at: float, value: tuple[float, ...], curve: str
) -> Project:
    """A shared layer passes a value at a moment of its cue, reached by a curve of its own."""
    route = route_by_id(project, route_id)
    left = find_layer(frame_by_id(project, route.leaves), ends[0]).id
    right = find_layer(frame_by_id(project, route.arrives), ends[1]).id
    return put_keyframe(project, route_id, CueKey(left, right, prop), at, value, Named(curve))


def _card(project: Project) -> Project:
    """The list clears, the time and the name step down out of the way, the picture grows into the whole top with them
    right under it, and then the boat sails in and the rest rises."""
    tap = Tap(_id(project, "Sailings", "Grey Stack card"))
    project, out = _route(project, "Sailings", "Sailing detail", tap, 480.0, "settle")
    project = _staged(project, out, 110.0, 280.0)
    project = _together(project, out, "Grey Stack card", 130.0, 480.0)
    for left, right, value in (
        ("Grey Stack time", "Time", (108.0, 384.0)),
        ("Grey Stack name", "Island", (109.0, 421.0)),
    ):
        project = _cue(project, out, (left, right), start=130.0, end=480.0)
        project = _cue(project, out, (left, right), "position", start=60.0, end=480.0)
        project = _passes(project, out, (left, right), "position", 70.0 / 420.0, value, "settle")
    project = _leaving(
        project,
        out,
        (
            ("Grey Stack paper", 40.0, 140.0),
            ("Grey Stack facts", 0.0, 60.0),
            ("Grey Stack arrow", 0.0, 60.0),
            ("Header", 0.0, 110.0),
            ("Outer Holm card", 0.0, 70.0),
            ("Sandray card", 0.0, 70.0),
            ("Tab bar", 0.0, 150.0),
        ),
    )
    for name, pose in (
        ("Sailing list", Away()),
        ("Outer Holm card", Away(shift_y=-24.0, opacity=0.0)),
        ("Sandray card", Away(shift_y=24.0, opacity=0.0)),
        ("Tab bar", Away(edge="bottom")),
    ):
        project = _goes(project, out, _id(project, "Sailings", name), pose)
    late = (("Boat", 310.0), ("Swell", 330.0), ("Deck note", 240.0), ("Route line", 280.0), ("Board button", 280.0))
    project = _entering(project, out, tuple((name, start, 480.0) for name, start in late))
    rise = Away(shift_y=24.0, opacity=0.0)
    for name, pose in (
        ("Boat", Away(shift_x=-50.0, rotation=-8.0, opacity=0.0)),
        ("Swell", Away(shift_y=30.0, opacity=0.0)),
        # The water comes piece by piece, not as one.
        ("Water", Away()),
        ("Deck note", rise),
        ("Route line", rise),
        ("Board button", Away(edge="bottom")),
        ("Way done", Away(cut=(0.0, 1.0, 0.0, 0.0))),
    ):
        project = _comes(project, out, _id(project, "Sailing detail", name), pose)
    return _card_back(_card_hangs(project, out), out)


def _card_hangs(project: Project, out: str) -> Project:
    """The list leaves card by card, the lower one first, the button follows the route line, and the boat comes over a
    wave."""
    names = ("Outer Holm card", "Sandray card")
    cards = [CueKey(_id(project, "Sailings", name), None, "") for name in names]
    project, _ = make_stagger(project, out, cards, Stagger("", (), "top to bottom", reversed=True, ms=20.0))
    line = CueKey(None, _id(project, "Sailing detail", "Route line"), "")
    button = CueKey(None, _id(project, "Sailing detail", "Board button"), "")
    project = tie(project, out, button, line, "start", "start")
    wave = MotionPath(((0.33, 0.0, -6.0), (0.66, 0.0, -6.0)), rotates=True)
    boat = CueKey(None, _id(project, "Sailing detail", "Boat"), "position")
    return change_cues(project, out, [boat], motion_path=wave)


def _card_back(project: Project, out: str) -> Project:
    """The same way back: the picture shrinks over the words, they step up beside it, and the list is there again."""
    tap = Tap(_id(project, "Sailing detail", "Back"))
    project, back = _route(project, "Sailing detail", "Sailings", tap, 360.0, "settle", GoBack())
    return set_duration(_mirrored(project, back, out, "mirrored"), back, 360.0)


def _tabs(project: Project) -> Project:
    """The tabs, both ways: the list moves aside, the head line turns over, and the ship comes."""
    tap = Tap(_id(project, "Sailings", "Tab Deck"))
    project, out = _route(project, "Sailings", "Seat deck", tap, 240.0, "settle")
    project = _staged(project, out, 100.0, 100.0)
    project = set_absent(project, out, _id(project, "Sailings", "Sailing list"), Away(shift_x=-40.0, opacity=0.0))
    project = set_absent(project, out, _id(project, "Seat deck", "Ship plan"), Away(shift_x=40.0, opacity=0.0))
    for name in ("Title", "Subtitle"):
        ends = _id(project, "Sailings", name), _id(project, "Seat deck", name)
        project = settle(project, out, ends, content="swap", swap_at=0.4)
        project = _cue(project, out, (name, name), "opacity", start=0.0, end=240.0)
        for at, curve in ((0.4, "leave"), (0.45, "steady")):
            project = _passes(project, out, (name, name), "opacity", at, (0.0,), curve)
    there = Tap(_id(project, "Seat deck", "Tab Sailings"))
    project, back = _route(project, "Seat deck", "Sailings", there, 240.0, "settle", GoBack())
    return _mirrored(project, back, out, "mirrored")


def _notice(project: Project, told: str) -> Project:
    """The notice comes by itself over the list, once, when the ship is late, and goes on a tap or a drag down."""
    project, shows = _route(project, "Sailings", "Delay notice", Timer(2400.0), 420.0, "arrive", ShowOver("bottom"))
    project = set_condition(project, shows, "minutes-late >= 15 and not told")
    notice = find_frame(project, "Delay notice").id
    project = set_absent(project, shows, sheet_id(notice), Away(edge="bottom"))
    project = set_absent(
        project, shows, _id(project, "Delay notice", "Notice mark"), Away(scale_x=0.4, scale_y=0.4, opacity=0.0)
    )
    mark = CueKey(None, _id(project, "Delay notice", "Notice mark"), "")
    project = set_cue(project, shows, mark, start=160.0, curve=Named("buoy"))
    project = set_cue(project, shows, CueKey(None, scrim_id(notice), ""), end=240.0, curve=Line())
    project, _ = _route(
        project, "Delay notice", "Delay notice", Loading("is ready"), 0.0, "steady", SetInput(told, True)
    )
    project, closes = _route(
        project, "Delay notice", "Sailings", Tap(_id(project, "Delay notice", "Fine button")), 180.0, "leave", PutAway()
    )
    project = set_absent(project, closes, sheet_id(notice), Away(edge="bottom"))
    drag = Drag(_id(project, "Delay notice", "Notice paper"), "down", travel=200.0)
    project, dragged = _route(project, "Delay notice", "Sailings", drag, 180.0, "steady", PutAway())
    return set_absent(project, dragged, sheet_id(notice), Away(edge="bottom"))


def _mirrored(project: Project, back: str, out: str, how: BackCurve) -> Project:
    """The way back runs the way there backwards."""
    motion = mirrored(project, route_by_id(project, out), how)
    return edit_transition(project, back, lambda old: motion)


def _pass(project: Project, boarded: str) -> Project:
    """The pass comes from below, follows a drag back, and knows when one is on board."""
    project = _seats(_to_pass(project))
    hover = HoverIn(_id(project, "Boarding pass", "Gate"))
    project, _ = _route(project, "Boarding pass", "Boarding pass", hover, 0.0, "steady", SetInput(boarded, True))
    return _code_comes(_home(project, boarded))


def _to_pass(project: Project) -> Project:
    """What belongs to the sailing clears; the paper of the pass slides under the picture and the words, which settle
    on it; then the ground is dark and the rest comes."""
    tap = Tap(_id(project, "Sailing detail", "Board button"))
    project, out = _route(project, "Sailing detail", "Boarding pass", tap, 620.0, "settle")
    apart = _id(project, "Sailing detail", "Water line"), _id(project, "Boarding pass", "Tear line")
    project = decide(project, out, *apart, together=False)
    project = _staged(project, out, 130.0, 380.0)
    project = _goes(project, out, _id(project, "Sailing detail", "Hero card"), Away())
    project = set_absent(project, out, _id(project, "Boarding pass", "Pass"), Away(edge="bottom"))
    project = _entering(project, out, (("Pass", 110.0, 430.0),))
    project = _together(project, out, "Grey Stack photo", 130.0, 480.0)
    for left, right in (("Time", "Time"), ("Island", "Island"), ("Deck words", "Deck words")):
        project = _cue(project, out, (left, right), start=130.0, end=480.0)
    project = _cue(project, out, ("Backdrop", "Backdrop"), start=180.0, end=560.0)
    drag = Drag(_id(project, "Boarding pass", "Pass"), "down", travel=320.0, lag=60.0)
    project, back = _route(project, "Boarding pass", "Sailing detail", drag, 620.0, "steady", GoBack())
    return _mirrored(project, back, out, "mirrored")


def _seats(project: Project) -> Project:
    """The deck opens out of its note, and closes again; a seat that is taken brings the pass."""
    deck_note = Hold(_id(project, "Sailing detail", "Deck note"), 450.0)
    project, seats = _route(project, "Sailing detail", "Seat deck", deck_note, 400.0, "settle")
    project = _staged(project, seats, 150.0, 150.0)
    project = set_absent(project, seats, _id(project, "Seat deck", "Tab bar"), Away(edge="bottom"))
    plan = Away(scale_x=0.5, scale_y=0.5, opacity=0.0)
    project = set_absent(project, seats, _id(project, "Seat deck", "Ship plan"), plan)
    project, back = _route(project, "Seat deck", "Sailing detail", Key("Escape"), 400.0, "settle", GoBack())
    project = set_duration(_mirrored(project, back, seats, "mirrored"), back, 300.0)
    seat = DoubleTap(_id(project, "Seat deck", "Seat 12C"))
    project, taken = _route(project, "Seat deck", "Boarding pass", seat, 520.0, "settle")
    project = _staged(project, taken, 150.0, 280.0)
    project = set_absent(project, taken, _id(project, "Seat deck", "Tab bar"), Away(edge="bottom"))
    project = set_absent(
        project, taken, _id(project, "Seat deck", "Ship plan"), Away(scale_x=0.94, scale_y=0.94, opacity=0.0)
    )
    project = set_absent(project, taken, _id(project, "Boarding pass", "Pass"), Away(edge="bottom"))
    project = _entering(project, taken, (("Pass", 120.0, 480.0),))
    project = _cue(project, taken, ("Backdrop", "Backdrop"), start=0.0, end=360.0)
    return set_on_arrival(project, taken, "restart")


def _home(project: Project, boarded: str) -> Project:
    """On board: the pass sinks, the picture shrinks, the words step aside, and it takes its place in the list."""
    project, home = _route(project, "Boarding pass", "Sailings", Crosses(boarded, True), 700.0, "settle")
    project = _staged(project, home, 300.0, 540.0)
    project = set_all_absent(project, home, "leave", Away(edge="bottom"))
    for name in ("Grip", "Pass header", "Gate"):
        project = set_absent(project, home, _id(project, "Boarding pass", name), FADED)
        project = _leaving(project, home, ((name, 0.0, 120.0),))
    project = _together(project, home, "Grey Stack photo", 60.0, 330.0)
    project = _cue(project, home, ("Grey Stack photo", "Grey Stack photo"), "position", start=310.0, end=570.0)
    for left, right in (("Time", "Grey Stack time"), ("Island", "Grey Stack name")):
        project = _cue(project, home, (left, right), start=120.0, end=420.0)
    return _cue(project, home, ("Backdrop", "Backdrop"), start=0.0, end=300.0)


def _code_comes(project: Project) -> Project:
    """The pass shows its code only when it has loaded: wave by wave, from the top."""
    frame = find_frame(project, "Boarding pass")
    waves = [find_layer(frame, f"Code wave {k}").id for k in range(1, 6)]
    project = set_when(make_entrance(project, frame.id, waves), frame.id, "after loading")
    ident = entrance_id(frame.id)
    (rule,) = route_by_id(project, ident).transition.staggers
    return set_stagger(project, ident, msgspec.structs.replace(rule, ms=50.0))
