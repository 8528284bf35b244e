"""Nodes as XML text."""

from __future__ import annotations

import base64
from collections.abc import Callable

from avelt.core.errors import FormatError
from avelt.core.handoff.escaping import escaped
from avelt.core.handoff.nodes import Node
from avelt.core.model.values import Asset
from avelt.core.words import tr

_XHTML = "http://www.w3.org/1999/xhtml"
_TYPES = {"png": "image/png", "jpg": "image/jpeg", "jpeg": "image/jpeg", "gif": "image/gif", "webp": "image/webp"}
Address = Callable[[str], str]


def xml(node: Node, address: Address, depth: int = 0, loose: bool = False) -> str:
    """A node and all in it, indented; ``loose``: not indented, as parts that are put together elsewhere."""
    pad = "" if loose else " " * depth
    attrs = dict(node.attrs)
    if node.html:
        attrs = {"xmlns": _XHTML, **attrs}
    if node.name:
        attrs = {"id": node.name, "class": node.name, **attrs}
    if node.style:
        attrs["style"] = "; ".join(f"{prop}: {text}" for prop, text in node.style.items())
    if "href" in attrs and attrs["href"].startswith("asset:"):
        attrs["href"] = address(attrs["href"].removeprefix("asset:"))
    words = "".join(f' {key}="{escaped(value)}"' for key, value in attrs.items())
    if not node.children and not node.text:
        # HTML has no elements that close themselves.
        return f"{pad}<{node.tag}{words}></{node.tag}>" if node.html else f"{pad}<{node.tag}{words}/>"
    if not node.children:
        return f"{pad}<{node.tag}{words}>{escaped(node.text)}</{node.tag}>"
    if node.tag == "text":  # space between its parts would be seen
        inner = "".join(xml(child, address) for child in node.children)
        return f"{pad}<{node.tag}{words}>{inner}</{node.tag}>"
    inner = "\n".join(xml(child, address, depth + 1, loose) for child in node.children)
    return f"{pad}<{node.tag}{words}>\n{inner}\n{pad}</{node.tag}>"


class Pictures:
    """The pictures of a project on their way into a delivery."""

    def __init__(self, assets: tuple[Asset, ...]) -> None:
        self._assets = {asset.id: asset for asset in assets}
        self.files: dict[str, bytes] = {}

    def inside(self, ident: str) -> str:
        """A picture's address that is the picture itself."""
        asset = self.asset(ident)
        kind = _TYPES.get(asset.ext, "application/octet-stream")
        return f"data:{kind};base64,{base64.b64encode(asset.data).decode()}"

    def beside(self, ident: str) -> str:
        """A picture's address as a file beside."""
        asset = self.asset(ident)
        name = f"pictures/{asset.id[:16]}.{asset.ext}"
        self.files[name] = asset.data
        return name

    def asset(self, ident: str) -> Asset:
        """The picture itself; ``FormatError`` when the project has none of that id."""
        try:
            return self._assets[ident]
        except KeyError:
            raise FormatError(tr("The picture {ident!r} is not in the project.", ident=ident)) from None
