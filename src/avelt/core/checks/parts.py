"""What is wrong with parts and layers that conditions hide."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.checks.phases import expression_troubles
from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import walk
from avelt.core.model.parts import used_by, uses_in
from avelt.core.model.values import Project, Use
from avelt.core.words import tr


def gone_parts(project: Project, stage: Project) -> Iterator[Trouble]:
    """Uses of parts that are not there any more."""
    known = {part.id for part in project.parts}
    for frame in stage.frames:
        for layer in uses_in(frame):
            if isinstance(layer.body, Use) and layer.body.part not in known:
                says = tr("The part of {layer} is not there any more.", layer=layer.name)
                yield Trouble("part gone", says, (), (frame.id,), tr("choose another"))


def unused_parts(project: Project) -> Iterator[Trouble]:
    """Parts that nothing uses."""
    for part in project.parts:
        if not used_by(project, part.id):
            yield Trouble("part unused", tr("Nothing uses the part {part}.", part=part.name), others=(part.id,))


def layer_expressions(stage: Project) -> Iterator[Trouble]:
    """What hides layers and feeds parts, where that cannot be worked out."""
    kinds = {entry.name: entry.kind for entry in stage.inputs}
    starts = {entry.name: entry.start for entry in stage.inputs}
    for frame in stage.frames:
        for loop in frame.loops:
            for says in expression_troubles(loop.until, True, kinds, starts) if loop.until else ():
                yield Trouble("expression", f"{loop.name}: {says}", (), (frame.id,))
        for layer in walk(frame.layers):
            texts = [(layer.only_if, True)]
            if isinstance(layer.body, Use):
                texts += [(feed.expression, False) for feed in layer.body.feeds]
            for text, is_condition in texts:
                for says in expression_troubles(text, is_condition, kinds, starts) if text else ():
                    yield Trouble("expression", f"{layer.name}: {says}", (), (frame.id,))
