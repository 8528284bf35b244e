"""A drawing's motion as a style sheet: rules, keyframes, and the same under every way to start it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from avelt.core.curves.text import css, number
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.escaping import css_comment
from avelt.core.handoff.nodes import Drawn, Key, Moved, Names, Node, Run
from avelt.core.model.curves import PlainCurve

_PERCENT = 4  # digits after the point: a thousandth of a ms in a second
_ENDS = [0.0, 1.0]
_STEP = 10.0**-_PERCENT
#: What an animation is called after, by the property that it moves.
_WORDS = {
    "translate": "position",
    "transform-origin": "pivot",
    "transform": "turn",
    "d": "shape",
    "rx": "corner",
    "filter": "soft",
    "visibility": "there",
    "stroke-dasharray": "dashes",
    "stroke-dashoffset": "dash",
    "mix-blend-mode": "blend",
    "backdrop-filter": "behind",
}


def name_all(drawn: Drawn, root: str) -> None:
    """Give every element that moves a name of its own."""
    names = Names()
    for node in drawn.walk():
        if node.name:
            names.of(node.name)
        if "id" in node.attrs:
            names.of(node.attrs["id"])

    def give(node: Node, owner: str) -> None:
        if node.moved and not node.name and "id" not in node.attrs:
            node.name = names.of(f"{owner}-{node.tag.lower()}")
        for child in node.children:
            give(child, node.name or node.attrs.get("id", "") or owner)

    for node in (*drawn.defs, *drawn.layers):
        give(node, root)


class Sheet:
    """A style sheet in the making. ``beside``: the class of the drawing that this one stands in for, right after it;
    ``inside``: that of the element that it lies in, together with the other."""

    def __init__(self, drawn: Drawn, root: str, wanted: Wanted, beside: str = "", inside: str = "") -> None:
        self.drawn, self.root, self.wanted, self.beside, self.inside = drawn, root, wanted, beside, inside
        self._names = Names(wanted.prefix)
        self._keyframes: dict[str, str] = {}
        self._curves: dict[str, str] = {}
        self._lengths: dict[str, str] = {}
        #: (layer, selector, animation texts) in the order of the drawing.
        self.rules: list[tuple[str, str, list[str]]] = []
        if drawn.root_moved:
            self._rule("", "", root, drawn.root_moved)
        for node in drawn.walk():
            if node.moved:
                name = node.name or node.attrs["id"]
                self._rule(node.layer, f" #{name}", name, node.moved)

    def _rule(self, layer: str, selector: str, name: str, moved: Iterable[Moved]) -> None:
        made = [self._animation(name, entry.prop, k, run) for entry in moved for k, run in enumerate(entry.runs)]
        self.rules.append((layer, selector, made))

    def _animation(self, owner: str, prop: str, number_of: int, run: Run) -> str:
        curve, body = self._body(prop, run.keys)
        called = self._keyframes.get(body)
        if called is None:
            words = _WORDS.get(prop, prop)
            called = self._names.of(f"{owner}-{words}{'-loop' if math.isinf(run.iterations) else ''}")
            self._keyframes[body] = called
        parts = [called, self._length(run.duration), self._curve(curve), f"{number(run.delay, 3)}ms"]
        if run.iterations != 1.0:
            parts.append("infinite" if math.isinf(run.iterations) else number(run.iterations))
        parts.append("forwards" if number_of else "both")
        return " ".join(parts)

    def _length(self, ms: float) -> str:
        text = f"{number(ms, 3)}ms"
        return f"var({self._lengths.setdefault(text, f'--length-{len(self._lengths) + 1}')})"

    def _curve(self, curve: PlainCurve) -> str:
        text = css(curve)
        if text == "linear":
            return text
        return f"var({self._curves.setdefault(text, f'--curve-{len(self._curves) + 1}')})"

    def _body(self, prop: str, keys: tuple[Key, ...]) -> tuple[PlainCurve, str]:
        """The curve that holds for the whole run, and its keyframes as text."""
        main = keys[0].curve
        if len(keys) == 2 and keys[0].at == 0.0 and keys[1].at == 1.0:  # as nearly all are
            return main, f"  from {{ {prop}: {keys[0].text} }}\n  to {{ {prop}: {keys[1].text} }}"
        shares = percents([key.at for key in keys], [key.text for key in keys])
        lines = []
        for k, (share, key) in enumerate(zip(shares, keys, strict=True)):
            if share is None:
                continue
            own = ""
            if key.curve != main and k + 1 < len(keys):
                own = f"; animation-timing-function: {css(key.curve)}"
            place = "from" if share == 0.0 else "to" if share == 100.0 else f"{number(share, _PERCENT)}%"
            lines.append(f"  {place} {{ {prop}: {key.text}{own} }}")
        return main, "\n".join(lines)

    # Text

    def properties(self) -> Iterator[str]:
        """The custom properties for lengths and curves."""
        for text, name in (*self._lengths.items(), *self._curves.items()):
            yield f"  {name}: {text};"

    def text(self) -> str:
        """The whole sheet."""
        start, after = self.wanted.start, self.wanted.after
        root = f".{self.root}"
        parts = [f"{root} {{\n" + "\n".join(self.properties()) + "\n}"] if self._lengths else []
        waits = start in ("class", "hover", "click")
        held = waits and after == "freeze"
        when = {"class": ".play", "hover": ":hover", "click": ":focus-within"}.get(start, "")
        # One class on the first drawing starts whichever of the two is seen.
        started = f".{self.beside}.play + {root}" if self.beside and start == "class" else root + when
        if self.inside and waits:
            started = f".{self.inside}{when} {root}"
        begin = root if held or not waits else started
        for layer, selector, animations in self.rules:
            note = f"/* {css_comment(layer)} */\n" if layer else ""
            lines = ",\n             ".join(animations)
            held_text = "\n  animation-play-state: paused;" if held else ""
            parts.append(f"{note}{begin}{selector} {{\n  animation: {lines};{held_text}\n}}")
        if held and self.rules:
            chosen = ", ".join(f"{started}{selector}" for _, selector, _ in self.rules)
            parts.append(f"{chosen} {{ animation-play-state: running }}")
        if start == "click" and not self.inside:
            parts.append(f"{root} {{ cursor: pointer; outline: none }}")
        if start == "view" and self.rules:
            parts.append(self._in_view(root))
        parts += [f"@keyframes {name} {{\n{body}\n}}" for body, name in self._keyframes.items()]
        return "\n".join(parts) + "\n"

    def _in_view(self, root: str) -> str:
        chosen = ", ".join(f"{root}{selector}" for _, selector, _ in self.rules)
        trigger = "" if self.inside else f"{root} {{ timeline-trigger: --seen view() }}\n"
        return (
            f"@supports (animation-trigger: --seen play) {{\n{trigger}{chosen} {{ animation-trigger: --seen play }}\n}}"
        )


def percents(shares: list[float], texts: list[str]) -> list[float | None]:
    """Places of keyframes in percent; of several at one place two are left, a hair apart; ``None`` is left out."""
    if shares == _ENDS:
        return [0.0, 100.0]
    made: list[float | None] = []
    for k, share in enumerate(shares):
        place = round(share * 100.0, _PERCENT)
        last = next((n for n in range(len(made) - 1, -1, -1) if made[n] is not None), -1)
        if last >= 0 and place <= (made[last] or 0.0):
            before = next((n for n in range(last - 1, -1, -1) if made[n] is not None), -1)
            if texts[last] == texts[k] and k + 1 < len(shares):
                made.append(None)
                continue
            nearer = round((made[last] or 0.0) - _STEP, _PERCENT)
            if before >= 0 and nearer <= (made[before] or 0.0):
                made[last] = None  # of three at one place the middle one is never seen
            elif nearer >= 0.0:
                made[last] = nearer
                place = round(nearer + _STEP, _PERCENT)
            else:
                place = _STEP
        made.append(place)
    return made
