"""Screens changed as designers change them, with the truth of what became what."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, field

import msgspec

from avelt.core.model.values import Box, Frame, Group, Layer, Path, Run, Solid, Subpath, Text

replace = msgspec.structs.replace
_SYNONYMS = {
    "card": "tile",
    "title": "heading",
    "picture": "image",
    "time": "clock",
    "island": "position",
    "header": "top",
    "list": "rows",
    "label": "caption",
    "ground": "bg",
    "button": "action",
    "icon": "sign",
    "tab": "item",
    "field": "entry",
    "value": "amount",
    "row": "line",
    "bar": "strip",
    "number": "figure",
    "hero": "banner",
    "note": "remark",
    "seat": "position",
    "boat": "ship",
}
_SYLLABLES = ("ka", "lo", "mi", "ren", "tas", "vu", "pel", "dor", "shi", "nam", "ter", "oll", "igg", "sta", "fen")
_KIND_NAMES = {"box": "Rectangle", "oval": "Oval", "path": "Path", "text": "Text", "picture": "Image", "group": "Group"}


@dataclass
class Node:
    """A layer that can be changed; ``source`` is the id of the layer that it was, or empty for a new one."""

    layer: Layer
    source: str
    children: list[Node] = field(default_factory=list)


def nodes_of(layers: tuple[Layer, ...], known: bool = True) -> list[Node]:
    """A tree of layers as nodes."""
    return [Node(layer, layer.id if known else "", nodes_of(layer.children, known)) for layer in layers]


def walk(nodes: list[Node]) -> list[Node]:
    """Every node, parents first."""
    return [inner for node in nodes for inner in (node, *walk(node.children))]


def built(frame: Frame, nodes: list[Node], rng: random.Random) -> tuple[Frame, dict[str, str]]:
    """The frame of the nodes with ids of its own, and what became what (old id -> new id)."""
    truth: dict[str, str] = {}
    count = 0

    def make(node: Node) -> Layer:
        nonlocal count
        count += 1
        ident = f"N{count}x{rng.randrange(10**6)}"
        if node.source:
            truth[node.source] = ident
        body = node.layer.body
        if isinstance(body, Group):
            body = replace(body, children=tuple(make(child) for child in node.children), mask="")
        return replace(node.layer, id=ident, origin=ident, body=body)

    layers = tuple(make(node) for node in nodes)
    return replace(frame, id="N", name="Changed", layers=layers, loops=(), source=None), truth


# One change each; they work on the nodes in place and may give another frame.

Step = Callable[[Frame, list[Node], random.Random, list[Layer]], Frame]


def redraw(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Nothing but new ids."""
    return frame


def restyle(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Other colours, corners and sizes of type for about half."""

    def tint() -> str:
        return "#" + "".join(f"{rng.randrange(256):02x}" for _ in range(3))

    theme: dict[str, str] = {}
    for node in walk(nodes):
        layer = node.layer
        if layer.fills and isinstance(layer.fills[-1], Solid) and rng.random() < 0.6:
            old = layer.fills[-1].color
            node.layer = layer = replace(layer, fills=(Solid(theme.setdefault(old, tint())),))
        if isinstance(layer.body, Box) and rng.random() < 0.4:
            node.layer = replace(layer, body=Box((float(rng.choice((0, 4, 8, 16, 24))),) * 4))
        elif isinstance(layer.body, Text) and rng.random() < 0.4:
            factor = rng.uniform(0.8, 1.4)
            body = replace(layer.body, size=layer.body.size * factor, weight=rng.choice((400, 600, 700)))
            node.layer = replace(layer, body=body, w=layer.w * factor, h=layer.h * factor)
    return frame


def move(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Sections shifted and some things resized."""
    for node in nodes:
        shift_x, shift_y = rng.gauss(0, 40), rng.gauss(0, 90)
        node.layer = replace(node.layer, x=node.layer.x + shift_x, y=node.layer.y + shift_y)
    for node in walk(nodes):
        layer = node.layer
        if not node.children and rng.random() < 0.4:
            w, h = layer.w * rng.uniform(0.7, 1.5), layer.h * rng.uniform(0.7, 1.5)
            if isinstance(layer.body, Text | Path):
                w, h = layer.w, layer.h
            node.layer = replace(layer, x=layer.x + rng.gauss(0, 12), y=layer.y + rng.gauss(0, 12), w=w, h=h)
    return frame


def regroup(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Neighbours grouped, groups dissolved, and layers carried to another group."""

    def dissolve(level: list[Node]) -> None:
        for node in list(level):
            dissolve(node.children)
            if node.children and rng.random() < 0.2:
                place = level.index(node)
                for child in node.children:
                    child.layer = replace(child.layer, x=child.layer.x + node.layer.x, y=child.layer.y + node.layer.y)
                level[place : place + 1] = node.children

    def wrap(level: list[Node]) -> None:
        for node in level:
            wrap(node.children)
        if len(level) >= 3 and rng.random() < 0.35:
            first = rng.randrange(len(level) - 1)
            last = min(len(level), first + rng.randint(2, 3))
            inner = level[first:last]
            x, y = min(n.layer.x for n in inner), min(n.layer.y for n in inner)
            for n in inner:
                n.layer = replace(n.layer, x=n.layer.x - x, y=n.layer.y - y)
            w, h = max(n.layer.x + n.layer.w for n in inner), max(n.layer.y + n.layer.h for n in inner)
            made = Layer("", "", rng.choice(("Wrapper", "Stack", "Block", "Group")), Group(), x, y, w, h)
            level[first:last] = [Node(made, "", inner)]

    dissolve(nodes)
    wrap(nodes)
    groups = [node for node in walk(nodes) if node.children]
    for node in groups:
        for child in list(node.children):
            if len(node.children) > 2 and rng.random() < 0.05:
                node.children.remove(child)
                child.layer = replace(child.layer, x=child.layer.x + node.layer.x, y=child.layer.y + node.layer.y)
                nodes.append(child)
    return frame


def reorder(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Rows change places (with their spot), and others only their paint order."""

    def shuffle(level: list[Node]) -> None:
        for node in level:
            shuffle(node.children)
        if len(level) < 3 or rng.random() < 0.5:
            return
        i, j = rng.sample(range(len(level)), 2)
        a, b = level[i].layer, level[j].layer
        alike = level[i].children and level[j].children and abs(a.w - b.w) < 2 and abs(a.h - b.h) < 2
        if alike:
            level[i].layer, level[j].layer = replace(a, x=b.x, y=b.y), replace(b, x=a.x, y=a.y)
        level[i], level[j] = level[j], level[i]

    shuffle(nodes)
    return frame


def add(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """About a fifth more layers, taken from other screens."""
    homes = [nodes, *(node.children for node in walk(nodes) if node.children)]
    wanted = max(2, len(walk(nodes)) // 5)
    while wanted > 0 and spare:
        (made,) = nodes_of((rng.choice(spare),), False)
        home = rng.choice(homes)
        home.insert(rng.randint(0, len(home)), made)
        made.layer = replace(made.layer, x=rng.uniform(0, 200), y=rng.uniform(0, 400 if home is nodes else 60))
        wanted -= len(walk([made]))
    return frame


def remove(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """About a sixth fewer; what stands below a removed row moves up."""

    def prune(level: list[Node]) -> None:
        for node in list(level):
            if len(level) > 1 and rng.random() < 0.12:
                place = level.index(node)
                level.remove(node)
                if node.children:
                    for below in level[place:]:
                        if below.children and abs(below.layer.w - node.layer.w) < 2:
                            below.layer = replace(below.layer, y=below.layer.y - node.layer.h)
            else:
                prune(node.children)

    prune(nodes)
    return frame


def translate(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """All words in another language; numbers stay."""
    known: dict[str, str] = {}

    def other(word: str) -> str:
        if any(letter.isdigit() for letter in word) or not any(letter.isalpha() for letter in word):
            return word
        if word not in known:
            made = "".join(rng.choice(_SYLLABLES) for _ in range(max(1, round(len(word) / 2.6))))
            known[word] = made.capitalize() if word[0].isupper() else made
        return known[word]

    for node in walk(nodes):
        if isinstance(node.layer.body, Text):
            words = " ".join(other(word) for word in node.layer.body.words.split(" "))
            factor = max(1, len(words)) / max(1, len(node.layer.body.words))
            body = replace(node.layer.body, runs=(Run(words),))
            node.layer = replace(node.layer, body=body, w=node.layer.w * factor)
    return frame


def scale(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Another size of screen: everything larger, and what stands low stays low."""
    w, h = rng.choice(((414, 896), (320, 568), (768, 1024), (720, 1280), (640, 360)))
    factor = min(w / frame.w, h / frame.h) if w < h else w / frame.w * 0.6
    extra_x, extra_y = w - frame.w * factor, h - frame.h * factor
    for node in walk(nodes):
        layer = node.layer
        body = layer.body
        if isinstance(body, Text):
            body = replace(body, size=body.size * factor)
        elif isinstance(body, Path):
            body = replace(
                body, subpaths=tuple(Subpath(tuple(v * factor for v in s.points), s.closed) for s in body.subpaths)
            )
        node.layer = replace(
            layer, body=body, x=layer.x * factor, y=layer.y * factor, w=layer.w * factor, h=layer.h * factor
        )
    for node in nodes:
        middle = (node.layer.y + node.layer.h / 2) / factor / frame.h
        low = extra_y * (0.0 if middle < 0.35 else 1.0 if middle > 0.75 else 0.5)
        node.layer = replace(node.layer, x=node.layer.x + extra_x / 2, y=node.layer.y + low)
    return replace(frame, w=float(w), h=float(h))


def grow(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """A row or a card grows into a page of its own: its ground and picture fill it, its words stand larger elsewhere,
    most of what was beside it is gone, and the page has things that the card had not."""
    cards = [
        (node, above)
        for above, inside in [(nodes, nodes), *((n.children, n.children) for n in walk(nodes))]
        for node in inside
        if 3 <= sum(not n.children for n in walk([node])) <= 14
        and node.children
        and node.layer.w * node.layer.h < 0.5 * frame.w * frame.h
    ]
    if not cards:
        return everything(frame, nodes, rng, spare)
    card = rng.choice(cards)[0]
    others = [node for node in nodes if card not in walk([node])]
    kept = [node for node in others if rng.random() < 0.3]
    grown = walk(card.children)
    leaves = [node for node in grown if not node.children]
    largest = max(leaves, key=lambda node: node.layer.w * node.layer.h)
    y = frame.h * rng.uniform(0.45, 0.6)
    for node in grown:
        layer = node.layer
        if node is largest:
            node.layer = replace(layer, x=0.0, y=0.0, w=frame.w, h=frame.h if rng.random() < 0.5 else frame.h * 0.42)
        elif isinstance(layer.body, Text):
            factor = rng.uniform(1.0, 2.0)
            body = replace(layer.body, size=layer.body.size * factor)
            x = rng.choice((20.0, 20.0, frame.w * 0.6))
            node.layer = replace(layer, body=body, x=x, y=y, w=layer.w * factor, h=layer.h * factor)
            y += layer.h * factor + rng.uniform(4, 20)
        elif not node.children:
            factor = rng.uniform(0.8, 2.2)
            shown = replace(layer, x=rng.uniform(10, frame.w * 0.7), y=rng.uniform(20, frame.h * 0.9))
            node.layer = replace(shown, w=layer.w * factor, h=layer.h * factor)
        else:
            node.layer = replace(layer, x=0.0, y=0.0, w=frame.w, h=frame.h)
    new = [
        Node(replace(layer, x=rng.uniform(0, frame.w * 0.6), y=rng.uniform(0, frame.h * 0.9)), "") for layer in spare
    ]
    page = [*card.children, *new[: rng.randint(2, 5)]] if rng.random() < 0.5 else [card, *new[: rng.randint(2, 5)]]
    if card in page:
        card.layer = replace(card.layer, x=0.0, y=0.0, w=frame.w, h=frame.h)
    nodes[:] = [*kept, *page]
    return frame


def values(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """The same screen at another time: numbers, places and names in it are others."""
    for node in walk(nodes):
        body = node.layer.body
        if isinstance(body, Text) and rng.random() < 0.6:
            words = "".join(str(rng.randrange(10)) if c.isdigit() else c for c in body.words)
            if words == body.words and rng.random() < 0.5:
                words = " ".join("".join(rng.choice(_SYLLABLES) for _ in range(2)).capitalize() for _ in range(2))
            node.layer = replace(node.layer, body=replace(body, runs=(Run(words),)))
    return frame


def theme(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Dark for light: every colour the other way round, with another tint."""
    tint = [rng.uniform(0.7, 1.0) for _ in range(3)]

    def turned(color: str) -> str:
        if not color.startswith("#") or len(color) != 7:
            return color
        parts = [int(color[k : k + 2], 16) for k in (1, 3, 5)]
        return "#" + "".join(f"{int((255 - part) * by):02x}" for part, by in zip(parts, tint, strict=True))

    for node in walk(nodes):
        fills = tuple(Solid(turned(f.color)) if isinstance(f, Solid) else f for f in node.layer.fills)
        node.layer = replace(node.layer, fills=fills)
    return frame


def everything(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """A new version of the screen: three of the other changes."""
    for step in rng.sample((restyle, move, regroup, reorder, add, remove, translate, scale), 3):
        frame = step(frame, nodes, rng, spare)
    return frame


def at_once(frame: Frame, nodes: list[Node], rng: random.Random, spare: list[Layer]) -> Frame:
    """Values and theme, and one of the other changes."""
    for step in (values, theme, rng.choice((move, regroup, reorder, add, remove, translate, scale))):
        frame = step(frame, nodes, rng, spare)
    return frame


CHANGES: dict[str, Step] = {
    "redraw": redraw,
    "restyle": restyle,
    "move": move,
    "regroup": regroup,
    "reorder": reorder,
    "add": add,
    "remove": remove,
    "translate": translate,
    "scale": scale,
    "several": everything,
    "grows into a page": grow,
    "values change": values,
    "theme changes": theme,
    "several with values and theme": at_once,
}


# Names


def keep_names(frame: Frame, rng: random.Random) -> Frame:
    """As they are."""
    return frame


def _each(layers: tuple[Layer, ...], name: Callable[[Layer], str]) -> tuple[Layer, ...]:
    made = []
    for layer in layers:
        body = layer.body
        if isinstance(body, Group):
            body = replace(body, children=_each(body.children, name))
        made.append(replace(layer, name=name(layer), body=body))
    return tuple(made)


def rename_half(frame: Frame, rng: random.Random) -> Frame:
    """Half of the names: another word, a letter off, a number, other separators, or none of its own."""

    def name(layer: Layer) -> str:
        old = layer.name
        if rng.random() < 0.5 or not old:
            return old
        how = rng.randrange(6)
        if how == 0:
            return " ".join(_SYNONYMS.get(word.casefold(), word) for word in old.split(" "))
        if how == 1 and len(old) > 3:
            k = rng.randrange(1, len(old) - 1)
            return old[:k] + old[k + 1 :]
        if how == 2:
            return f"{_KIND_NAMES[layer.kind]} {rng.randint(1, 300)}"
        if how == 3:
            return old.replace(" ", rng.choice(("-", "_", "/"))).lower()
        if how == 4:
            return f"{old} copy {rng.randint(1, 9)}"
        return "".join(rng.choice(_SYLLABLES) for _ in range(3)).capitalize()

    return replace(frame, layers=_each(frame.layers, name))


def no_names(frame: Frame, rng: random.Random) -> Frame:
    """Nothing named by hand: kinds with running numbers, one name for all, or none."""
    how, count = rng.randrange(3), rng.randint(0, 200)

    def name(layer: Layer) -> str:
        nonlocal count
        count += 1
        return (f"{_KIND_NAMES[layer.kind]} {count}", "Group 12", "")[how]

    return replace(frame, layers=_each(frame.layers, name))
