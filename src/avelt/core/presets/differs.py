"""What differs between two versions of a preset, in words."""

from __future__ import annotations

from avelt.core.curves.text import own
from avelt.core.presets.tokens import curve_of, span_of
from avelt.core.presets.values import Preset
from avelt.core.words import tr

_WORDS = (
    ("tags", tr("Its tags are others.")),
    ("note", tr("Its note is another.")),
    ("when", tr("Its use is another.")),
    ("not_when", tr("Its use is another.")),
)
#: What is compared as a whole, and how it is called.
_PARTS = (
    ("cues", "cues"),
    ("absent", tr("where it comes from or goes to")),
    ("recorded", tr("its layers and their motion")),
    ("loop", tr("the loop")),
    ("stagger", tr("the stagger")),
    ("motion_path", tr("the motion path")),
    ("part", tr("the part")),
    ("size", tr("the layer that it was recorded on")),
)


def differences(one: Preset, other: Preset) -> tuple[str, ...]:
    """Sentences about what is another in ``other``; none when both are the same."""
    found: list[str] = []
    if one.name != other.name:
        found.append(tr("It is called {other}, not {value}.", other=other.name, value=one.name))
    if one.kind != other.kind:
        found.append(tr("It is of the kind “{kind}”, not “{kind2}”.", kind=tr(other.kind), kind2=tr(one.kind)))
    if one.duration != other.duration:
        found.append(
            tr("It lasts {duration:g} ms, not {duration2:g} ms.", duration=other.duration, duration2=one.duration)
        )
    curves = own(curve_of(one)), own(curve_of(other))
    if curves[0] != curves[1]:
        found.append(tr("Its curve is {short}, not {short2}.", short=_short(curves[1]), short2=_short(curves[0])))
    begins = span_of(one)[0], span_of(other)[0]
    if begins[0] != begins[1] and one.kind == other.kind:
        found.append(tr("It begins at {begins:g} ms, not at {begins2:g} ms.", begins=begins[1], begins2=begins[0]))
    for name, says in _WORDS:
        if getattr(one, name) != getattr(other, name) and says not in found:
            found.append(says)
    rest = [words for name, words in _PARTS if getattr(one, name) != getattr(other, name)]
    if rest and len(found) < 2:
        found.append(tr("Something else in {rest}.", rest=", ".join(rest)))
    return tuple(found)


def _short(text: str) -> str:
    return text if len(text) <= 40 else f"{text[:37]}…"
