"""How many elements an SVG comes to when every ``use`` is written out, without writing one out.

Ten levels of ten uses are ten thousand million elements in twenty lines: they are counted before anything is read.
"""

from __future__ import annotations

from collections.abc import Mapping

from avelt.core.formats.svg_paint import href
from avelt.core.formats.xml_tree import Node


def written_out(root: Node, ids: Mapping[str, Node], skipped: frozenset[str]) -> int:
    """The number of elements below ``root`` with all uses written out. ``ids``: elements by their id; ``skipped``: tags
    of elements that are not drawn where they stand. A use that leads back into itself counts as nothing."""
    known: dict[Node, int] = {}
    open_: set[Node] = set()

    def below(node: Node) -> int:
        return sum(one(child) for child in node.children() if child.tag not in skipped)

    def one(node: Node) -> int:
        if node in open_:
            return 0
        found = known.get(node)
        if found is None:
            open_.add(node)
            target = ids.get(href(node).lstrip("#")) if node.tag == "use" else None
            inside = one(target) if target is not None else 0
            known[node] = found = 1 + inside + below(node)
            open_.discard(node)
        return found

    return below(root)
