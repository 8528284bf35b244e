"""The cascade of SVG: presentation attributes, style sheets, ``style`` attributes, inheritance."""

from __future__ import annotations

import re
from collections.abc import Callable

import tinycss2

from avelt.core.formats.report import Notes
from avelt.core.formats.xml_tree import Node
from avelt.core.record import Record

INHERITED = frozenset(
    (
        "clip-rule",
        "color",
        "cursor",
        "direction",
        "dominant-baseline",
        "fill",
        "fill-opacity",
        "fill-rule",
        "font-family",
        "font-size",
        "font-style",
        "font-weight",
        "letter-spacing",
        "paint-order",
        "stroke",
        "stroke-dasharray",
        "stroke-dashoffset",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-opacity",
        "stroke-width",
        "text-anchor",
        "text-transform",
        "visibility",
        "white-space",
        "word-spacing",
        "writing-mode",
        "font",
        "line-height",
        "marker-start",
        "marker-mid",
        "marker-end",
        "-context-fill",
        "-context-stroke",
    )
)
#: What places and shapes an element: an attribute of its own where it is one, read there.
_GEOMETRY = frozenset(("x", "y", "width", "height", "cx", "cy", "r", "rx", "ry", "d"))
OWN = (
    frozenset(
        (
            "alignment-baseline",
            "background",
            "baseline-shift",
            "clip-path",
            "display",
            "filter",
            "isolation",
            "mask",
            "mask-type",
            "mix-blend-mode",
            "opacity",
            "overflow",
            "stop-color",
            "stop-opacity",
            "text-decoration",
            "transform",
            "vector-effect",
            "transform-origin",
            "transform-box",
            "marker",
            "flood-color",
            "flood-opacity",
            "color-interpolation-filters",
        )
    )
    | _GEOMETRY
)
_AS_ATTRIBUTE = (INHERITED | OWN) - {"font", "background", "transform", "marker"} - _GEOMETRY
Style = dict[str, str]
_SIMPLE = re.compile(
    r"([\w-]+|\*)|\.([\w-]+)|#([\w-]+)|:(root|first-child|last-child)|\[\s*([\w:-]+)\s*(?:=\s*[\"']?([^\]\"']*)[\"']?\s*)?\]"
)


class _Compound(Record, frozen=True):
    tag: str
    classes: frozenset[str]
    ident: str
    attrs: tuple[tuple[str, str | None], ...]
    child_only: bool  # stands right behind ">"
    where: tuple[str, ...] = ()  # root, first-child, last-child

    def fits(self, node: Node) -> bool:
        if self.tag not in ("*", "", node.tag) or (self.ident and node.attrs.get("id") != self.ident):
            return False
        if self.classes and not self.classes <= set(node.attrs.get("class", "").split()):
            return False
        if not all(_PLACES[place](node) for place in self.where):
            return False
        return all(k in node.attrs and (v is None or node.attrs[k] == v) for k, v in self.attrs)


def _at_end(node: Node, first: bool) -> bool:
    siblings = list(node.parent.children()) if node.parent is not None else [node]
    return siblings[0 if first else -1] is node


_PLACES: dict[str, Callable[[Node], bool]] = {
    "root": lambda node: node.parent is None,
    "first-child": lambda node: _at_end(node, True),
    "last-child": lambda node: _at_end(node, False),
}


class _Rule(Record, frozen=True):
    parts: tuple[_Compound, ...]
    weight: tuple[int, int, int]
    order: int
    declarations: tuple[tuple[str, str, bool], ...]

    def fits(self, node: Node) -> bool:
        return _fits(self.parts, node)


def _fits(parts: tuple[_Compound, ...], node: Node | None) -> bool:
    if node is None or not parts[-1].fits(node):
        return False
    if len(parts) == 1:
        return True
    above = node.parent
    if parts[-1].child_only:
        return _fits(parts[:-1], above)
    while above is not None:
        if _fits(parts[:-1], above):
            return True
        above = above.parent
    return False


class Sheet:
    """All style sheets of a document."""

    def __init__(self, root: Node, notes: Notes) -> None:
        self.rules: list[_Rule] = []
        self._by_hint: dict[str, list[_Rule]] = {}
        for node in root.all():
            if node.tag == "style" and node.attrs.get("type", "text/css") in ("text/css", ""):
                self._read(node, notes)
        for rule in self.rules:
            last = rule.parts[-1]
            hint = f"#{last.ident}" if last.ident else (f".{min(last.classes)}" if last.classes else last.tag or "*")
            self._by_hint.setdefault(hint, []).append(rule)

    def _read(self, node: Node, notes: Notes) -> None:
        for rule in tinycss2.parse_stylesheet(node.text(), skip_comments=True, skip_whitespace=True):
            if rule.type == "at-rule":
                if rule.lower_at_keyword not in ("charset", "namespace", "font-face"):
                    notes.add("left out", f"the style rule @{rule.lower_at_keyword}", node.says, node.line)
                continue
            if rule.type != "qualified-rule":
                notes.add("unreadable", "a style rule cannot be read", node.says, node.line)
                continue
            declarations = tuple(_declarations(rule.content))
            for selector in tinycss2.serialize(rule.prelude).split(","):
                parts = _selector(selector)
                if parts is None:
                    notes.add("left out", f"the style selector “{selector.strip()[:60]}”", node.says, node.line)
                    continue
                weight = (
                    sum(bool(p.ident) for p in parts),
                    sum(len(p.classes) + len(p.attrs) + len(p.where) for p in parts),
                    sum(p.tag not in ("", "*") for p in parts),
                )
                self.rules.append(_Rule(parts, weight, len(self.rules), declarations))

    def declared(self, node: Node) -> Style:
        """Everything that is set on the element itself, by rising weight."""
        out = {key: value for key, value in node.attrs.items() if key in _AS_ATTRIBUTE}
        hints = ["*", node.tag, *(f".{c}" for c in node.attrs.get("class", "").split())]
        if "id" in node.attrs:
            hints.append(f"#{node.attrs['id']}")
        fitting = [rule for hint in hints for rule in self._by_hint.get(hint, ()) if rule.fits(node)]
        fitting.sort(key=lambda rule: (rule.weight, rule.order))
        own = (
            list(_declarations(tinycss2.parse_component_value_list(node.attrs["style"])))
            if "style" in node.attrs
            else []
        )
        layers = [rule.declarations for rule in fitting] + [tuple(own)]
        for important in (False, True):
            for declarations in layers:
                out.update({k: v for k, v, strong in declarations if strong == important})
        return out


def _declarations(content: list[object]) -> list[tuple[str, str, bool]]:
    found = []
    for entry in tinycss2.parse_blocks_contents(content, skip_comments=True, skip_whitespace=True):
        if entry.type == "declaration":
            found.append((entry.lower_name, tinycss2.serialize(entry.value).strip(), entry.important))
    return found


def _selector(text: str) -> tuple[_Compound, ...] | None:
    spaced = re.sub(r"\s*>\s*", " > ", text.strip())
    parts: list[_Compound] = []
    child = False
    for word in spaced.split():
        if word == ">":
            child = True
            continue
        tag, ident, classes, attrs, where, place = "", "", set(), [], [], 0
        while place < len(word):
            found = _SIMPLE.match(word, place)
            if found is None or (found.group(1) and place):
                return None
            tag = found.group(1) or tag
            if found.group(2):
                classes.add(found.group(2))
            ident = found.group(3) or ident
            if found.group(4):
                where.append(found.group(4))
            if found.group(5):
                attrs.append((found.group(5), found.group(6)))
            place = found.end()
        parts.append(_Compound(tag, frozenset(classes), ident, tuple(attrs), child, tuple(where)))
        child = False
    return tuple(parts) or None


def computed(parent: Style, declared: Style) -> Style:
    """An element's style: what is inherited, then its own, with ``inherit`` and the font shorthand resolved."""
    out = {key: value for key, value in parent.items() if key in INHERITED or key.startswith("--")}
    out.update({key: value for key, value in declared.items() if key.startswith("--")})
    for key, value in declared.items():
        if "var(" in value:
            value = _with_variables(value, out)
        if value == "inherit":
            if key in parent:
                out[key] = parent[key]
        elif value in ("initial", "unset", "revert"):
            if value == "initial" or key not in INHERITED:
                out.pop(key, None)
        elif key == "font":
            out.update(_font(value))
        elif key == "marker":
            out.update(dict.fromkeys(("marker-start", "marker-mid", "marker-end"), value))
        else:
            out[key] = value
    if declared.get("color", "").lower() == "currentcolor":
        out["color"] = parent.get("color", "black")
    return out


_VARIABLE = re.compile(r"var\(\s*(--[\w-]+)\s*(?:,((?:[^()]|\([^()]*\))*))?\)")


def _with_variables(value: str, known: Style) -> str:
    """The value with custom properties put in, or what stands in for those that are not set."""
    for _ in range(8):
        if "var(" not in value:
            break
        value = _VARIABLE.sub(lambda found: known.get(found.group(1), found.group(2) or "").strip(), value)
    return value


def _font(value: str) -> Style:
    found = re.match(r"(.*?)([\d.]+(?:px|pt|em|rem|%))(?:\s*/\s*\S+)?\s+(.+)$", value)
    if not found:
        return {}
    words = found.group(1).split()
    weight = next((w for w in words if w.isdigit() or w in ("bold", "bolder", "lighter")), "normal")
    style = next((w for w in words if w in ("italic", "oblique")), "normal")
    return {"font-size": found.group(2), "font-family": found.group(3), "font-weight": weight, "font-style": style}
