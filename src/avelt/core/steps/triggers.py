"""Triggers and what happens then, as steps spell them."""

from __future__ import annotations

from typing import Any

from avelt.core.errors import FormatError
from avelt.core.model.follows import ByDrag, ByInput, ByPointer, ByScroll, Source
from avelt.core.model.triggers import (
    MOST_LAG,
    Action,
    Along,
    Crosses,
    DoubleTap,
    Drag,
    Ends,
    Go,
    GoBack,
    Hold,
    HoverIn,
    HoverOut,
    Key,
    Loading,
    Pointer,
    PutAway,
    Release,
    ReplaceOver,
    Scroll,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Tap,
    Timer,
    Trigger,
)
from avelt.core.model.values import Frame, Project
from avelt.core.steps.names import input_of, layer_of, loop_of, nearest
from avelt.core.steps.properties import numbers

_ON = {"tap": Tap, "double tap": DoubleTap, "release": Release, "hover in": HoverIn, "hover out": HoverOut}
#: The first key of each trigger, with the others that it takes.
TRIGGERS: dict[str, tuple[str, ...]] = {
    "tap": (),
    "double tap": ("within",),
    "hold": ("after",),
    "release": (),
    "hover in": (),
    "hover out": (),
    "key": (),
    "timer": (),
    "loading": (),
    "crosses": ("value", "way"),
    "signal": (),
    "ends": (),
    "drag": ("along", "travel", "let_go_at", "let_go", "lag"),
    "scroll": ("start", "end", "lag"),
    "pointer": ("axis", "start", "end", "lag"),
}
_AXES: tuple[Along, ...] = ("right", "left", "down", "up")
LET_GO = ("nearer", "speed", "back", "stay")
ACTIONS = ("go", "back", "put away", "replace over", "show over", "set", "send")


def trigger_of(project: Project, frame: Frame, said: object) -> Trigger:
    """A trigger: an object whose first key is its kind, such as ``{"tap": "Card"}``."""
    if not isinstance(said, dict):
        raise FormatError('A trigger is an object such as {"tap": "Card"}.')
    kind = next((key for key in said if key in TRIGGERS), "")
    if not kind:
        wanted = next(iter(said), "")
        raise FormatError(f"There is no trigger {wanted!r}.", hint=nearest(str(wanted), TRIGGERS))
    for key in said:
        if key != kind and key not in TRIGGERS[kind]:
            raise FormatError(f"The trigger {kind!r} has no {key!r}.", hint=nearest(key, TRIGGERS[kind]))
    return _made(project, frame, kind, said)


def _made(project: Project, frame: Frame, kind: str, said: dict[str, Any]) -> Trigger:
    def number(key: str, usual: float) -> float:
        return numbers(said[key], 1, 1, key)[0] if key in said else usual

    def layer(name: object) -> str:
        return layer_of(frame, str(name)).id if name else ""

    about = said[kind]
    if kind in _ON and kind != "double tap":
        made: Trigger = _ON[kind](layer(about))
        return made
    if kind == "double tap":
        return DoubleTap(layer(about), number("within", 300.0))
    if kind == "hold":
        return Hold(layer(about), number("after", 500.0))
    if kind == "key":
        return Key(str(about))
    if kind == "timer":
        return Timer(number("timer", 0.0))
    if kind == "loading":
        return Loading(_choice(about, ("starts", "is ready"), "loading"))  # type: ignore[arg-type]
    if kind == "crosses":
        way = _choice(said.get("way", "rising"), ("rising", "falling", "either way"), "way")
        value = said.get("value", True)
        return Crosses(
            input_of(project, str(about), False).id,
            float(value) if isinstance(value, int) and not isinstance(value, bool) else value,
            way,  # type: ignore[arg-type]
        )
    if kind == "signal":
        return Signal(input_of(project, str(about), True).id)
    if kind == "ends":
        return Ends(_motion(project, frame, str(about)))
    if kind == "drag":
        along, path = along_of(frame, said)
        how = _choice(said.get("let_go", "nearer"), LET_GO, "let_go")
        travel, lets_go = number("travel", 240.0), number("let_go_at", 0.5)
        return Drag(layer(about), along, path, travel, lets_go, how, lag_of(said))  # type: ignore[arg-type]
    if kind == "scroll":
        axis_name = _choice(about, ("down", "right"), "scroll")
        return Scroll(axis_name, number("start", 0.0), number("end", 160.0), lag_of(said))  # type: ignore[arg-type]
    axis_name = _choice(said.get("axis", "right"), ("right", "down"), "axis")
    marks = number("start", 0.0), number("end", 1.0)
    return Pointer(layer(about), axis_name, *marks, lag_of(said))  # type: ignore[arg-type]


def along_of(frame: Frame, said: dict[str, Any]) -> tuple[Along, str]:
    """What a drag goes along: an axis, or a path layer by its name."""
    along = said.get("along", "down")
    axis: Along | None = next((word for word in _AXES if word == along), None)
    if axis is not None:
        return axis, ""
    return "path", layer_of(frame, str(along)).id


def lag_of(said: dict[str, Any]) -> float:
    """A lag in ms."""
    lag = numbers(said["lag"], 1, 1, "lag")[0] if "lag" in said else 0.0
    if not 0.0 <= lag <= MOST_LAG:
        raise FormatError(f"A lag is 0 to {MOST_LAG:g} ms, not {lag:g}.")
    return lag


def source_of(project: Project, frame: Frame, said: object) -> Source:
    """What a layer follows: an object such as ``{"scroll": "down"}``, ``{"drag": "Card", "along": "up"}``."""
    known = {"scroll": (), "drag": ("along", "let_go"), "pointer": ("axis",), "input": ()}
    if not isinstance(said, dict) or not (kind := next((key for key in said if key in known), "")):
        wanted = next(iter(said), "") if isinstance(said, dict) else said
        raise FormatError('What is followed is an object such as {"scroll": "down"}.', hint=nearest(str(wanted), known))
    for key in said:
        if key != kind and key not in known[kind]:
            raise FormatError(f"“{kind}” has no {key!r}.", hint=nearest(key, known[kind]))
    about = said[kind]
    if kind == "input":
        return ByInput(input_of(project, str(about), False).id)
    if kind == "scroll":
        return ByScroll(_choice(about, ("down", "right"), "scroll"))  # type: ignore[arg-type]
    layer = layer_of(frame, str(about)).id if about else ""
    if kind == "pointer":
        return ByPointer(layer, _choice(said.get("axis", "right"), ("right", "down"), "axis"))  # type: ignore[arg-type]
    return ByDrag(layer, *along_of(frame, said), _choice(said.get("let_go", "nearer"), LET_GO, "let_go"))  # type: ignore[arg-type]


def _motion(project: Project, frame: Frame, wanted: str) -> str:
    """A route that arrives at the frame, or one of its loops."""
    from avelt.core.errors import NotFound
    from avelt.core.model.find import find_route

    if ">" in wanted:
        return find_route(project, wanted).id
    try:
        return loop_of(frame, wanted).id
    except NotFound:
        return find_route(project, wanted).id


def _choice(value: object, known: tuple[str, ...], what: str) -> str:
    found = next((word for word in known if word == value), None)  # the word itself: files leave defaults out by that
    if found is None:
        raise FormatError(f"{what} is one of {', '.join(known)}, not {value!r}.", hint=nearest(str(value), known))
    return found


def action_of(project: Project, said: object) -> Action:
    """What happens: a word, or an object such as ``{"set": "boarded", "value": true}``."""
    words: dict[str, Action] = {"go": Go(), "back": GoBack(), "put away": PutAway(), "replace over": ReplaceOver()}
    if isinstance(said, str):
        if said == "show over":
            return ShowOver()
        if said in words:
            return words[said]
        raise FormatError(f"Nothing is called {said!r} that could happen.", hint=nearest(said, ACTIONS))
    if not isinstance(said, dict) or not said:
        raise FormatError('What happens then is a word such as "go", or an object.')
    kind = next((key for key in said if key in ("show over", "set", "send")), "")
    if kind == "show over":
        own = said[kind] if isinstance(said[kind], dict) else {}
        known = ("at", "x", "y", "scrim", "outside_closes")
        for key in own:
            if key not in known:
                raise FormatError(f"“show over” has no {key!r}.", hint=nearest(key, known))
        return ShowOver(**own)
    if kind == "set":
        entry = input_of(project, str(said["set"]), False)
        value = said.get("value", True)
        if isinstance(value, int) and not isinstance(value, bool):
            value = float(value)
        return SetInput(entry.id, value)
    if kind == "send":
        return SendSignal(input_of(project, str(said["send"]), True).id)
    wanted = next(iter(said))
    raise FormatError(f"Nothing is called {wanted!r} that could happen.", hint=nearest(str(wanted), ACTIONS))
