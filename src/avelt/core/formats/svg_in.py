"""SVG into a frame of layers.

Every element becomes a layer where Avelt has one for it; what it has not is named in the report. Plain
moves and even scales are worked into the numbers, so that a card drawn at 20, 278 stands at 20, 278; turns
and the rest stay as the layer's own turn, skew and scale.
"""

from __future__ import annotations

import hashlib
from collections import Counter

import msgspec

from avelt.core.errors import AveltError, FormatError
from avelt.core.formats import xml_tree
from avelt.core.formats.checked import layers_are_sound
from avelt.core.formats.report import Notes, Report, report_of
from avelt.core.formats.sound import size_is_sound
from avelt.core.formats.svg_reader import Reader
from avelt.core.formats.svg_text import TextMeasure, rough_width
from avelt.core.model.find import walk
from avelt.core.model.limits import MAX_SVG_BYTES
from avelt.core.model.values import Asset, Frame, Group, Layer, Note, Source
from avelt.core.record import Record
from avelt.core.words import tr

_MOST_NAMES = 8


class Imported(Record, frozen=True):
    """A frame with the assets it uses. Ids are the import's own until it joins a project."""

    frame: Frame
    assets: tuple[Asset, ...]

    @property
    def report(self) -> Report:
        """What the import did, as the frame remembers it."""
        return report_of(self.frame)


def read_svg(data: bytes, name: str, measure: TextMeasure = rough_width, path: str = "") -> Imported:
    """An SVG file's bytes as a frame called ``name``; ``AveltError`` when it is no SVG that can be read."""
    if len(data) > MAX_SVG_BYTES:
        raise FormatError(
            tr("The file is larger than {max_svg_bytes} MB.", max_svg_bytes=MAX_SVG_BYTES // 2**20), path or name
        )
    root = xml_tree.parse(data, path or name)
    if root.tag != "svg":
        raise FormatError(
            tr("The outermost element is <{tag}>, not <svg>.", tag=root.tag),
            tr("{path}, line {line}", path=path or name, line=root.line),
        )
    reader = Reader(root, measure)
    try:
        frame = reader.frame(name)
    except AveltError as error:
        raise error.at(path or name) from None
    except RecursionError:
        raise FormatError(tr("Elements lie too deep in each other."), path or name) from None
    layers = _usable(frame.layers, set(reader.assets), reader.notes)
    frame = msgspec.structs.replace(frame, layers=layers)
    try:
        size_is_sound(frame.w, frame.h, "svg")
    except FormatError as error:
        raise error.at(path or name) from None
    notes = (*reader.notes.found, *_doubled(frame))
    source = Source(
        path or name, hashlib.sha256(data).hexdigest(), "", frame.layers, notes, (frame.w, frame.h), frame.background
    )
    frame = Frame(
        "", name, frame.w, frame.h, frame.background, True, frame.layers, source=source, isolates=frame.isolates
    )
    return Imported(frame, tuple(reader.assets.values()))


def _usable(layers: tuple[Layer, ...], assets: set[str], notes: Notes) -> tuple[Layer, ...]:
    """Without layers whose numbers no project could be saved and opened with; what goes is noted."""
    try:
        layers_are_sound(layers, "", assets)
        return layers
    except FormatError:
        pass
    kept: list[Layer] = []
    for layer in layers:
        made = layer
        if isinstance(layer.body, Group):
            body = msgspec.structs.replace(layer.body, children=_usable(layer.body.children, assets, notes))
            if body.mask not in {child.id for child in body.children}:
                body = msgspec.structs.replace(body, mask="")
            made = msgspec.structs.replace(layer, body=body)
        try:
            layers_are_sound((made,), "", assets)
        except FormatError as error:
            notes.add("left out", f"“{layer.name}”: {error.sentence}", layer.kind, 0)
        else:
            kept.append(made)
    return tuple(kept)


def _doubled(frame: Frame) -> tuple[Note, ...]:
    """A note on names that several layers side by side or apart share."""
    counts = Counter(layer.name for layer in walk(frame.layers))
    twice = [f"“{name}” ({n})" for name, n in counts.most_common() if n > 1]
    if not twice:
        return ()
    more = f" and {len(twice) - _MOST_NAMES} more" if len(twice) > _MOST_NAMES else ""
    return (Note("named twice", f"several layers are called {', '.join(twice[:_MOST_NAMES])}{more}"),)
