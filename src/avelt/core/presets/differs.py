"""What differs between two versions of a preset, in words."""

from __future__ import annotations

from avelt.core.curves.text import own
from avelt.core.presets.tokens import curve_of, span_of
from avelt.core.presets.values import Preset

_WORDS = (
    ("tags", "Its tags are others."),
    ("note", "Its note is another."),
    ("when", "Its use is another."),
    ("not_when", "Its use is another."),
)
#: What is compared as a whole, and how it is called.
_PARTS = (
    ("cues", "cues"),
    ("absent", "where it comes from or goes to"),
    ("recorded", "its layers and their motion"),
    ("loop", "the loop"),
    ("stagger", "the stagger"),
    ("motion_path", "the motion path"),
    ("part", "the part"),
    ("size", "the layer that it was recorded on"),
)


def differences(one: Preset, other: Preset) -> tuple[str, ...]:
    """Sentences about what is another in ``other``; none when both are the same."""
    found: list[str] = []
    if one.name != other.name:
        found.append(f"It is called {other.name}, not {one.name}.")
    if one.kind != other.kind:
        found.append(f"It is of the kind “{other.kind}”, not “{one.kind}”.")
    if one.duration != other.duration:
        found.append(f"It lasts {other.duration:g} ms, not {one.duration:g} ms.")
    curves = own(curve_of(one)), own(curve_of(other))
    if curves[0] != curves[1]:
        found.append(f"Its curve is {_short(curves[1])}, not {_short(curves[0])}.")
    begins = span_of(one)[0], span_of(other)[0]
    if begins[0] != begins[1] and one.kind == other.kind:
        found.append(f"It begins at {begins[1]:g} ms, not at {begins[0]:g} ms.")
    for name, says in _WORDS:
        if getattr(one, name) != getattr(other, name) and says not in found:
            found.append(says)
    rest = [words for name, words in _PARTS if getattr(one, name) != getattr(other, name)]
    if rest and len(found) < 2:
        found.append(f"Something else in {', '.join(rest)}.")
    return tuple(found)


def _short(text: str) -> str:
    return text if len(text) <= 40 else f"{text[:37]}…"
