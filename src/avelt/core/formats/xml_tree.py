"""XML into a small tree that knows its lines. Nothing outside the text is ever read."""

from __future__ import annotations

import io
from collections.abc import Iterator
from typing import Any
from xml.sax import SAXException, SAXParseException
from xml.sax.handler import ContentHandler
from xml.sax.xmlreader import InputSource

import msgspec
from defusedxml import DefusedXmlException
from defusedxml.common import EntitiesForbidden
from defusedxml.expatreader import DefusedExpatParser

from avelt.core.errors import FormatError
from avelt.core.record import Mutable
from avelt.core.words import tr

MAX_DEPTH = 400
MAX_ELEMENTS = 200_000
MAX_ATTRIBUTE = 4 * 2**20  # characters of one attribute, but for pictures that lie in it
MAX_ENTITIES, MAX_ENTITY = 100, 500
SVG_SPACE = "http://www.w3.org/2000/svg"


class Node(Mutable, eq=False):
    """An element. ``content`` holds its text and child elements in order."""

    tag: str
    attrs: dict[str, str]
    line: int
    parent: Node | None
    content: list[Node | str] = msgspec.field(default_factory=list)
    place: int = 0

    def children(self) -> Iterator[Node]:
        """Child elements."""
        return (child for child in self.content if isinstance(child, Node))

    def all(self) -> Iterator[Node]:
        """This element and everything in it, in document order."""
        stack: list[Node] = [self]
        while stack:
            node = stack.pop()
            yield node
            stack.extend(reversed(list(node.children())))

    def text(self) -> str:
        """Its own text, without that of its elements."""
        return "".join(part for part in self.content if isinstance(part, str))

    @property
    def says(self) -> str:
        """How to name it in a report."""
        ident = self.attrs.get("id", "")
        return f"{self.tag}#{ident}" if ident else self.tag


class _Parser(DefusedExpatParser):  # type: ignore[misc]
    """Reads short entities that hold plain text (old drawing programs write them); follows nothing outside."""

    entities = 0

    def defused_entity_decl(
        self,
        name: str,
        is_parameter_entity: bool,
        value: str | None,
        base: object,
        sysid: object,
        pubid: object,
        notation_name: object,
    ) -> None:
        self.entities += 1
        plain = value is not None and len(value) <= MAX_ENTITY and not set(value) & set("&%<")
        if not plain or self.entities > MAX_ENTITIES:
            raise EntitiesForbidden(name, value, base, sysid, pubid, notation_name)

    def defused_external_entity_ref_handler(self, *_: object) -> int:
        return 1  # as if it were empty: nothing outside the text is ever read


class _Builder(ContentHandler):
    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name
        self.root: Node | None = None
        self.stack: list[Node] = []
        self.count = 0
        self.spaces: list[dict[str, str]] = [{"": SVG_SPACE, "svg": SVG_SPACE}]
        self.locator: Any = None

    def setDocumentLocator(self, locator: Any) -> None:
        self.locator = locator

    def startElement(self, tag: str, attrs: Any) -> None:
        line = self.locator.getLineNumber() if self.locator else 0
        self.count += 1
        if len(self.stack) >= MAX_DEPTH:
            raise FormatError(
                tr("Elements lie more than {max_depth} deep in each other.", max_depth=MAX_DEPTH),
                tr("{value}, line {line}, {tag}", value=self.name, line=line, tag=tag),
            )
        if self.count > MAX_ELEMENTS:
            raise FormatError(
                tr("There are more than {max_elements} elements.", max_elements=MAX_ELEMENTS),
                tr("{value}, line {line}", value=self.name, line=line),
            )
        values = {key: attrs[key] for key in attrs.getNames()}
        for key, value in values.items():
            if len(value) > MAX_ATTRIBUTE and not value.startswith("data:"):
                raise FormatError(
                    tr(
                        "The attribute {key} is longer than {max_attribute} MB.",
                        key=key,
                        max_attribute=MAX_ATTRIBUTE // 2**20,
                    ),
                    tr("{value}, line {line}, {tag}", value=self.name, line=line, tag=tag),
                )
        spaces = self.spaces[-1]
        if any(key == "xmlns" or key.startswith("xmlns:") for key in values):
            spaces = {**spaces, **{key[6:]: value for key, value in values.items() if key.startswith("xmlns:")}}
            if "xmlns" in values:
                spaces[""] = values["xmlns"]
        self.spaces.append(spaces)
        prefix, _, local = tag.rpartition(":")
        name = local if spaces.get(prefix) == SVG_SPACE else f"{prefix or spaces.get('', '')}:{local}"
        parent = self.stack[-1] if self.stack else None
        node = Node(name, values, line, parent)
        if parent is None:
            self.root = node
        else:
            parent.content.append(node)
        self.stack.append(node)

    def endElement(self, tag: str) -> None:
        self.stack.pop()
        self.spaces.pop()

    def characters(self, content: str) -> None:
        if self.stack:
            own = self.stack[-1].content
            if own and isinstance(own[-1], str):
                own[-1] += content
            else:
                own.append(content)


def parse(data: bytes, name: str) -> Node:
    """The document's root element; ``FormatError`` with the line for what is no good XML."""
    if not data.strip():
        raise FormatError(tr("The file is empty."), name)
    builder = _Builder(name)
    try:
        # At one go: in pieces, expat begins a long attribute anew with each of them.
        parser = _Parser(bufsize=len(data) + 1)
        parser.setContentHandler(builder)
        source = InputSource()
        source.setByteStream(io.BytesIO(data))
        parser.parse(source)
    except DefusedXmlException:
        raise FormatError(tr("The XML declares entities that are not plain text, which are not read."), name) from None
    except SAXParseException as error:
        raise FormatError(
            tr("This is not well-formed XML: {getmessage}.", getmessage=error.getMessage()),
            tr("{name}, line {getlinenumber}", name=name, getlinenumber=error.getLineNumber()),
        ) from None
    except (SAXException, ValueError, LookupError, UnicodeError) as error:
        raise FormatError(tr("This cannot be read as XML ({name__}).", name__=type(error).__name__), name) from None
    if builder.root is None:
        raise FormatError(tr("There is no element in the file."), name)
    return builder.root
