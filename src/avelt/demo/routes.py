"""The demo's routes: on which trigger one goes where, and how it moves."""

from __future__ import annotations

import msgspec

from avelt.core.edits.cues import change_cues
from avelt.core.edits.entrances import make_entrance, set_when
from avelt.core.edits.inputs import add_input
from avelt.core.edits.routes import (
    add_route,
    edit_transition,
    set_absent,
    set_all_absent,
    set_condition,
    set_cue,
    set_on_arrival,
)
from avelt.core.edits.ties_and_staggers import make_stagger, set_stagger, tie
from avelt.core.edits.wiring import BackCurve, mirrored
from avelt.core.model.curves import Curve, Handles, Line, Named, Spring
from avelt.core.model.find import entrance_id, find_frame, find_layer, frame_by_id, route_by_id
from avelt.core.model.motion import CueKey, MotionPath, Stagger
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
from avelt.core.timing.over import scrim_id, sheet_id


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


def _card(project: Project) -> Project:
    """The card grows into the detail, and shrinks back into its place."""
    tap = Tap(_id(project, "Sailings", "Grey Stack card"))
    project, out = _route(project, "Sailings", "Sailing detail", tap, 480.0, "settle")
    settle: tuple[tuple[str, str, str, float | None, float | None, Curve | None], ...] = (
        ("Grey Stack card", "Hero card", "position", 40.0, None, Spring(0.22)),
        ("Grey Stack time", "Time", "", 60.0, 440.0, None),
        ("Grey Stack name", "Island", "", 80.0, 460.0, None),
        ("Grey Stack time", "Time", "type", 60.0, 320.0, Handles(0.3, 0.0, 0.1, 1.0)),
    )
    for left, right, prop, start, end, curve in settle:
        own = {"start": start, "end": end, "curve": curve}
        project = _cue(project, out, (left, right), prop, **{k: v for k, v in own.items() if v is not None})
    project = _leaving(
        project,
        out,
        (
            ("Header", 0.0, 170.0),
            ("Outer Holm card", 0.0, 210.0),
            ("Sandray card", 30.0, 250.0),
            ("Tab bar", 0.0, 220.0),
        ),
    )
    for name, pose in (
        ("Outer Holm card", Away(shift_y=-40.0, opacity=0.0)),
        ("Sandray card", Away(shift_y=40.0, opacity=0.0)),
        ("Tab bar", Away(edge="bottom")),
    ):
        project = set_absent(project, out, _id(project, "Sailings", name), pose)
    late = (
        ("Boat", 220.0),
        ("Swell", 280.0),
        ("Facts", 200.0),
        ("Back", 180.0),
        ("Deck note", 200.0),
        ("Route line", 240.0),
        ("Board button", 280.0),
    )
    project = _entering(project, out, tuple((name, start, 480.0) for name, start in late))
    rise = Away(shift_y=36.0, opacity=0.0)
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
        project = set_absent(project, out, _id(project, "Sailing detail", name), pose)
    return _card_back(_card_hangs(project, out))


def _card_hangs(project: Project, out: str) -> Project:
    """The list leaves card by card, the button follows the route line, and the boat comes over a wave."""
    names = ("Outer Holm card", "Sandray card")
    cards = [CueKey(_id(project, "Sailings", name), None, "") for name in names]
    project, _ = make_stagger(project, out, cards, Stagger("", (), "top to bottom", ms=30.0))
    line = CueKey(None, _id(project, "Sailing detail", "Route line"), "")
    button = CueKey(None, _id(project, "Sailing detail", "Board button"), "")
    project = tie(project, out, button, line, "start", "start")
    wave = MotionPath(((0.33, 0.0, -6.0), (0.66, 0.0, -6.0)), rotates=True)
    boat = CueKey(None, _id(project, "Sailing detail", "Boat"), "position")
    return change_cues(project, out, [boat], motion_path=wave)


def _card_back(project: Project) -> Project:
    """Leaving the detail: what is its own goes at once, the list comes as the card lands."""
    tap = Tap(_id(project, "Sailing detail", "Back"))
    project, back = _route(project, "Sailing detail", "Sailings", tap, 360.0, "settle", GoBack())
    gone = ("Water", "Back", "Facts", "Deck note", "Route line", "Board button")
    project = _leaving(project, back, tuple((name, 0.0, 130.0) for name in gone))
    return _entering(
        project,
        back,
        (
            ("Header", 120.0, 360.0),
            ("Outer Holm card", 130.0, 360.0),
            ("Sandray card", 160.0, 360.0),
            ("Tab bar", 140.0, 360.0),
        ),
    )


def _tabs(project: Project) -> Project:
    """The tabs, both ways: the list moves aside as the ship comes."""
    tap = Tap(_id(project, "Sailings", "Tab Deck"))
    project, out = _route(project, "Sailings", "Seat deck", tap, 240.0, "settle")
    project = set_absent(project, out, _id(project, "Sailings", "Sailing list"), Away(shift_x=-60.0, opacity=0.0))
    project = set_absent(project, out, _id(project, "Seat deck", "Ship plan"), Away(shift_x=60.0, opacity=0.0))
    there = Tap(_id(project, "Seat deck", "Tab Sailings"))
    project, back = _route(project, "Seat deck", "Sailings", there, 240.0, "settle", GoBack())
    return _mirrored(project, back, out, "same")


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
    """The way back runs the way there backwards. Nothing is paired here: the demo opens faster without."""
    motion = mirrored(project, route_by_id(project, out), how)
    return edit_transition(project, back, lambda old: motion)


def _pass(project: Project, boarded: str) -> Project:
    """The pass comes from below, follows a drag back, and knows when one is on board."""
    tap = Tap(_id(project, "Sailing detail", "Board button"))
    project, out = _route(project, "Sailing detail", "Boarding pass", tap, 620.0, "settle")
    project = set_all_absent(project, out, "enter", Away(shift_y=40.0, opacity=0.0))
    project = set_absent(project, out, _id(project, "Boarding pass", "Pass"), Away(edge="bottom"))
    project = _entering(project, out, (("Pass header", 180.0, 520.0), ("Gate", 300.0, 620.0), ("Grip", 240.0, 620.0)))
    gone = ("Water", "Back", "Deck note", "Route line", "Board button")
    project = _leaving(project, out, tuple((name, 20.0 * k, 180.0 + 20.0 * k) for k, name in enumerate(gone)))
    drag = Drag(_id(project, "Boarding pass", "Pass"), "down", travel=320.0)
    project, back = _route(project, "Boarding pass", "Sailing detail", drag, 620.0, "steady", GoBack())
    project = _mirrored(project, back, out, "mirrored")
    deck_note = Hold(_id(project, "Sailing detail", "Deck note"), 450.0)
    project, seats = _route(project, "Sailing detail", "Seat deck", deck_note, 320.0, "settle")
    project = set_absent(
        project, seats, _id(project, "Seat deck", "Ship plan"), Away(scale_x=0.3, scale_y=0.3, opacity=0.0)
    )
    project, _ = _route(project, "Seat deck", "Sailing detail", Key("Escape"), 260.0, "leave", GoBack())
    seat = DoubleTap(_id(project, "Seat deck", "Seat 12C"))
    project, taken = _route(project, "Seat deck", "Boarding pass", seat, 520.0, "settle")
    project = set_absent(project, taken, _id(project, "Boarding pass", "Pass"), Away(edge="bottom"))
    project = set_on_arrival(project, taken, "restart")
    hover = HoverIn(_id(project, "Boarding pass", "Gate"))
    project, _ = _route(project, "Boarding pass", "Boarding pass", hover, 0.0, "steady", SetInput(boarded, True))
    project, home = _route(project, "Boarding pass", "Sailings", Crosses(boarded, True), 700.0, "settle")
    project = set_all_absent(project, home, "leave", Away(edge="bottom"))
    return _code_comes(project)


def _code_comes(project: Project) -> Project:
    """The pass shows its code only when it has loaded: wave by wave, from the top."""
    frame = find_frame(project, "Boarding pass")
    waves = [find_layer(frame, f"Code wave {k}").id for k in range(1, 6)]
    project = set_when(make_entrance(project, frame.id, waves), frame.id, "after loading")
    ident = entrance_id(frame.id)
    (rule,) = route_by_id(project, ident).transition.staggers
    return set_stagger(project, ident, msgspec.structs.replace(rule, ms=50.0))
