"""What is wrong with parts and layers that conditions hide; and everything that is wrong, stage by stage."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.checks.phases import expression_troubles, unset_inputs
from avelt.core.checks.routes import in_words, troubles
from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import walk
from avelt.core.model.parts import as_stage, used_by, uses_in
from avelt.core.model.values import Project, Use


def gone_parts(project: Project, stage: Project) -> Iterator[Trouble]:
    """Uses of parts that are not there any more."""
    known = {part.id for part in project.parts}
    for frame in stage.frames:
        for layer in uses_in(frame):
            if isinstance(layer.body, Use) and layer.body.part not in known:
                says = f"The part of {layer.name} is not there any more."
                yield Trouble("part gone", says, (), (frame.id,), "choose another")


def unused_parts(project: Project) -> Iterator[Trouble]:
    """Parts that nothing uses."""
    for part in project.parts:
        if not used_by(project, part.id):
            yield Trouble("part unused", f"Nothing uses the part {part.name}.")


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


def everything(project: Project) -> list[tuple[str, Trouble, str]]:
    """All that is wrong: the stage that it is in (a part's name; empty: the project), the trouble, and a line."""
    found: list[tuple[str, Trouble, str]] = []
    stages = [("", project)] + [(part.name, as_stage(project, part)) for part in project.parts]
    ids = {part.name: part.id for part in project.parts}
    for name, stage in stages:
        own = [*troubles(stage), *gone_parts(project, stage), *layer_expressions(stage)]
        own += unset_inputs(project, ids[name]) if name else unused_parts(project)
        found += [(name, t, f"{name}: {in_words(stage, t)}" if name else in_words(stage, t)) for t in own]
    return found
