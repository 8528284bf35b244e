"""Every text that a person reads passes here once, so that it can be read in another language.

``tr`` marks a text for Qt's ``pyside6-lupdate`` and looks it up when it runs. What is marked is English and is
what is shown while nobody has said otherwise: the command line, the tests and a window without a translation.
Names that people give and names that stand in files are data and are never translated.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

#: (the text, what tells it from one that reads the same, how many it speaks of or -1): what is shown instead.
Translation = Callable[[str, str, int], str]

_translation: Translation | None = None


def translate_with(translation: Translation | None) -> None:
    """Texts are looked up there from now on. Tables that are made when a module is read keep what they have."""
    global _translation
    _translation = translation


def tr(text: str, one: str = "", n: int | None = None, /, **values: object) -> str:
    """``text`` in the language of the person, with the values put in at their names.

    Where the wording goes by a number: ``tr("{n} layers", "{n} layer", count)``, with the wording for 1 second.
    Without values nothing is put in, and braces mean themselves.

    :raises KeyError: a name in the text has no value.
    """
    if _translation is not None:
        said = _translation(text, one, -1 if n is None else n)
        if said == text and n == 1:
            said = one
    else:
        said = one if n == 1 else text
    if n is not None:
        return said.format(n=n, **values)
    return said.format(**values) if values else said


def listed(words: Sequence[str]) -> str:
    """Words as one.

    >>> listed(["hue", "size", "place"])
    'hue, size and place'
    """
    *first, last = words or [""]
    return tr("{first} and {last}", first=", ".join(first), last=last) if first else last


def mark(text: str) -> str:
    """A word that stands in files and code as it is, and is shown by ``tr(word)``: marked here, for translators."""
    return text


#: Words of the model that people see and choose.
SHOWN = (
    *(mark("tap"), mark("double tap"), mark("press and hold"), mark("hold"), mark("release"), mark("hover in")),
    *(mark("hover out"), mark("drag"), mark("scroll"), mark("pointer"), mark("key"), mark("timer"), mark("loading")),
    *(mark("input crosses"), mark("crosses"), mark("signal"), mark("motion ends"), mark("ends")),
    *(mark("go there"), mark("go back"), mark("show over"), mark("replace what is shown over"), mark("put away")),
    *(mark("set input"), mark("send signal")),
    *(mark("starts"), mark("is ready"), mark("rising"), mark("falling"), mark("either way")),
    *(mark("right"), mark("left"), mark("down"), mark("up"), mark("path"), mark("both")),
    *(mark("up right"), mark("up left"), mark("down right"), mark("down left")),
    *(mark("top left"), mark("top"), mark("top right"), mark("middle"), mark("bottom left"), mark("bottom")),
    *(mark("bottom right"), mark("by hand")),
    *(mark("nearer"), mark("speed"), mark("back"), mark("stay")),
    *(mark("number"), mark("yes/no"), mark("text")),
    *(mark("continue"), mark("restart"), mark("on arrival"), mark("after loading")),
    *(mark("layer motion"), mark("enter"), mark("leave"), mark("shared"), mark("transition"), mark("loop")),
    *(mark("there and back"), mark("one way"), mark("press"), mark("move"), mark("input"), mark("loaded")),
    *(mark("box"), mark("oval"), mark("picture"), mark("group"), mark("use"), mark("masks")),
    *(mark("solid"), mark("linear"), mark("radial"), mark("conic"), mark("pattern")),
    *(mark("route"), mark("follow"), mark("phase"), mark("motion")),
    *(mark("position"), mark("size"), mark("rotation"), mark("fill"), mark("stroke"), mark("opacity")),
    *(mark("shadow"), mark("blur"), mark("order"), mark("type size"), mark("weight"), mark("letter spacing")),
    *(mark("words"), mark("corners"), mark("shape"), mark("content")),
    *(mark("on a press outside"),),
    *(mark("name"), mark("name path"), mark("kind"), mark("look"), mark("inside"), mark("made of")),
    *(mark("place in the tree"), mark("shape and spot")),
    *(mark("mine"), mark("team"), mark("built in"), mark("enters"), mark("leaves"), mark("arrives")),
    *(mark("{px:.0f} px down"), mark("{px:.0f} px up"), mark("{px:.0f} px right"), mark("{px:.0f} px left")),
    *(mark("goes back"), mark("entrance"), mark("hover"), mark("let go"), mark("closes"), mark("stopped")),
    *(mark("not played"),),
    *(mark("once"), mark("before each round")),
    *(mark("stagger"), mark("curve"), mark("motion path"), mark("part")),
)
