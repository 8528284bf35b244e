"""Documents of older formats, step by step as today's: plain dicts in, plain dicts out.

A step renames what was renamed and leaves all else as it is, wrong values too: reading the result says what is wrong
and where. A key that the old format did not know but the new one does is refused here, or two values would become one.

What changed:

- 2: routes have fifteen triggers, seven actions, delays, conditions; ways to leave and enter. Only added.
- 3: keyframes, motion paths, ties, staggers, tryouts, entrances. Only added.
- 4: keys are the words of the trade (``rotation`` for ``turn`` and so on), and ``format`` is always written: files of
  1 to 3 never said which they were, so all of them are read as format 1.
- 5: running orders, conditions of layers, feeds by expressions. Only added.
- 6: frames that scroll, layers that stay put or follow a value, lag of follows, kept tapes. Only added.
- 7: linked presets. Only added.
- 8: findings of checks that are muted. Only added.
- 9: links of parts, and what a use of a linked preset leaves out. Only added.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from avelt.core.errors import FormatError
from avelt.core.words import tr

Document = dict[str, Any]

_PROPERTIES = {"place": "position", "turn": "rotation", "tilt": "rotation_xy"}
_OFFSET = {"turn": "rotation"}
_LAYER = {"turn": "rotation", "turn_x": "rotation_x", "turn_y": "rotation_y"}
_TEXT = {"tracking": "letter_spacing"}
_LOOP = {"pose": "offset", "length": "duration", "way": "direction", "phase": "start_offset"}
_CUE = {"keys": "keyframes", "way": "motion_path"}
_STAGGER = {"backwards": "reversed"}
_TRANSITION = {"length": "duration"}
_ROUTE = {"wait": "delay", "parts": "on_arrival"}
_ON_ARRIVAL = {"go on": "continue", "start over": "restart"}


def migrated(document: Document, version: int) -> Document:
    """A project's document of format ``version`` (1 to 8) as one of format 9."""
    for step in _STEPS[version - 1 :]:
        document = step(document)
    return document


def migrated_preset(document: Document, version: int) -> Document:
    """A preset's document of format ``version`` (1 to 3) as one of format 4: the same words as in projects; what moves
    one layer is called a layer motion."""
    if version > 1:
        return _layer_motion(document)
    made = _renamed(document, {"length": "duration"}, "")
    _each(made, "cues", lambda cue, at: {**cue, **_prop(cue)})
    for name in ("absent", "absent_px"):
        _one(made, name, lambda pose, at: _renamed(pose, _OFFSET, at))
    return _layer_motion(made)


def _layer_motion(document: Document) -> Document:
    kind = document.get("kind")
    return {**document, "kind": "layer motion" if kind == "cue set" else kind, "format": 4}


def _only_added(document: Document) -> Document:
    return document


def _trade_words(document: Document) -> Document:
    """Format 3 to 4."""
    made = {**document, "format": 4}
    _each(made, "frames", _frame)
    _each(made, "routes", _route)
    return made


def _of_five(document: Document) -> Document:
    """Format 4 to 5."""
    return {**document, "format": 5}


def _of_six(document: Document) -> Document:
    """Format 5 to 6."""
    return {**document, "format": 6}


def _of_seven(document: Document) -> Document:
    """Format 6 to 7."""
    return {**document, "format": 7}


def _of_eight(document: Document) -> Document:
    """Format 7 to 8."""
    return {**document, "format": 8}


def _of_nine(document: Document) -> Document:
    """Format 8 to 9."""
    return {**document, "format": 9}


_STEPS: tuple[Callable[[Document], Document], ...] = (
    _only_added,
    _only_added,
    _trade_words,
    _of_five,
    _of_six,
    _of_seven,
    _of_eight,
    _of_nine,
)


def _renamed(value: Document, names: Mapping[str, str], place: str) -> Document:
    """The dict with its keys renamed, in their order."""
    for old, new in names.items():
        if new in value and new != old:
            raise FormatError(tr("This format has no field {new!r}.", new=new), f"{place}.{new}".lstrip("."))
    return {names.get(key, key): inner for key, inner in value.items()}


def _each(owner: Document, name: str, change: Callable[[Document, str], Document], place: str = "") -> None:
    """Change every dict of a list in place of the owner's own."""
    rows = owner.get(name)
    if isinstance(rows, list):
        at = f"{place}.{name}".lstrip(".")
        owner[name] = [change(row, f"{at}[{k}]") if isinstance(row, dict) else row for k, row in enumerate(rows)]


def _one(owner: Document, name: str, change: Callable[[Document, str], Document], place: str = "") -> None:
    """The same for a single dict."""
    if isinstance(owner.get(name), dict):
        owner[name] = change(owner[name], f"{place}.{name}".lstrip("."))


def _prop(cue: Document) -> Document:
    """The property of a cue by its new name."""
    prop = cue.get("prop")
    return {"prop": _PROPERTIES.get(prop, prop)} if isinstance(prop, str) else {}


def _frame(frame: Document, place: str) -> Document:
    made = dict(frame)
    _each(made, "layers", _layer, place)
    _each(made, "loops", _loop, place)
    _one(made, "source", _source, place)
    _one(made, "entrance", _with_transition, place)
    return made


def _source(source: Document, place: str) -> Document:
    made = dict(source)
    _each(made, "base", _layer, place)
    return made


def _layer(layer: Document, place: str) -> Document:
    made = _renamed(layer, _LAYER, place)
    _one(made, "body", _body, place)
    _each(made, "fills", _paint, place)
    _one(made, "stroke", _stroke, place)
    return made


def _body(body: Document, place: str) -> Document:
    made = _renamed(body, _TEXT, place) if body.get("kind") == "text" else dict(body)
    _each(made, "children", _layer, place)
    _each(made, "runs", _run, place)
    return made


def _run(run: Document, place: str) -> Document:
    made = dict(run)
    _one(made, "fill", _paint, place)
    return made


def _stroke(stroke: Document, place: str) -> Document:
    made = dict(stroke)
    _one(made, "paint", _paint, place)
    return made


def _paint(paint: Document, place: str) -> Document:
    made = dict(paint)
    _each(made, "layers", _layer, place)  # those of a pattern's tile
    return made


def _loop(loop: Document, place: str) -> Document:
    made = _renamed(loop, _LOOP, place)
    _one(made, "offset", lambda pose, at: _renamed(pose, _OFFSET, at), place)
    return made


def _route(route: Document, place: str) -> Document:
    made = _renamed(route, _ROUTE, place)
    if "on_arrival" in made:
        made["on_arrival"] = _ON_ARRIVAL.get(made["on_arrival"], made["on_arrival"])
    _one(made, "trigger", _trigger, place)
    _one(made, "action", _action, place)
    _each(made, "tryouts", _with_transition, place)
    return _with_transition(made, place)


def _trigger(trigger: Document, place: str) -> Document:
    return _renamed(trigger, {"wait": "after"}, place) if trigger.get("trigger") == "timer" else trigger


def _action(action: Document, place: str) -> Document:
    return {**action, "does": "replace over"} if action.get("does") == "swap over" else action


def _with_transition(owner: Document, place: str) -> Document:
    """What has a transition: a route, an entrance, a tryout."""
    made = dict(owner)
    _one(made, "transition", _transition, place)
    return made


def _transition(transition: Document, place: str) -> Document:
    made = _renamed(transition, _TRANSITION, place)
    _each(made, "cues", _cue, place)
    _each(made, "absents", _absent, place)
    for name in ("leave", "enter"):
        _one(made, name, lambda pose, at: _renamed(pose, _OFFSET, at), place)
    _each(made, "ties", _tie, place)
    _each(made, "staggers", _stagger, place)
    return made


def _cue(cue: Document, place: str) -> Document:
    made = {**_renamed(cue, _CUE, place), **_prop(cue)}
    _one(made, "motion_path", lambda path, at: _renamed(path, {"turns": "rotates"}, at), place)
    return made


def _absent(absent: Document, place: str) -> Document:
    made = dict(absent)
    _one(made, "pose", lambda pose, at: _renamed(pose, _OFFSET, at), place)
    return made


def _tie(tie: Document, place: str) -> Document:
    return {**tie, **{name: _cue_key(tie[name]) for name in ("cue", "to") if name in tie}}


def _stagger(stagger: Document, place: str) -> Document:
    made = _renamed(stagger, _STAGGER, place)
    if made.get("order") == "chance":
        made["order"] = "random"
    if isinstance(made.get("cues"), list):
        made["cues"] = [_cue_key(key) for key in made["cues"]]
    return made


def _cue_key(key: Any) -> Any:
    """(from, to, property) with the property's new name."""
    if isinstance(key, list) and len(key) == 3 and isinstance(key[2], str):
        return [*key[:2], _PROPERTIES.get(key[2], key[2])]
    return key
