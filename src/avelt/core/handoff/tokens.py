"""A project's motion as Design Tokens (Design Tokens Format Module 2025.10): what it lasts, its curves, and when each
layer of a transition moves. What a token can say only nearly is exact in its ``$extensions``."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from avelt.core.curves.handles_of import nearest_handles
from avelt.core.curves.named import title
from avelt.core.curves.text import css
from avelt.core.handoff.delivery import Delivery, Report, as_json
from avelt.core.handoff.nodes import Fitted, Names, slug
from avelt.core.model.curves import PlainCurve
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.timeline import timeline_of
from avelt.core.words import tr

_OURS = "avelt.curve"
_NAME = "motion.tokens.json"
Token = dict[str, Any]


def tokens(motions: Sequence[tuple[str, Program]], project: Project) -> Delivery:
    """Tokens of the motions (with what each is called)."""
    fitted: list[Fitted] = []
    curves: dict[PlainCurve, str] = {}
    names, groups, top = Names(), dict[str, Any](), dict[str, Any]()

    def curve_token(curve: PlainCurve) -> str:
        if curve not in curves:
            handles, error = nearest_handles(curve)
            known = next((entry.name for entry in project.curves if entry.curve == curve), title(project, curve))
            name = names.of(known, "curve")
            token: Token = {"$type": "cubicBezier", "$value": handles}
            if error:
                token["$extensions"] = {_OURS: css(curve)}
                fitted.append(Fitted("", tr("{name} as cubicBezier", name=name), error, "share"))
            groups[name] = token
            curves[curve] = name
        return f"{{curve.{curves[curve]}}}"

    called = Names()
    for name, program in motions:
        own: dict[str, Any] = {"$type": "transition"}
        lasting = Names()
        for element in timeline_of(program).elements:
            for entry in element.animations:
                if entry.duration <= 0.0:
                    continue
                key = lasting.of(f"{slug(element.name)}-{slug(entry.prop)}")
                own[key] = {
                    "$value": {
                        "duration": _ms(entry.duration),
                        "delay": _ms(entry.delay),
                        "timingFunction": curve_token(entry.keyframes[-1].curve),
                    }
                }
        top[called.of(name, "motion")] = own
    lengths = {
        key: {"$type": "duration", "$value": _ms(program.last)} for key, (_, program) in zip(top, motions, strict=True)
    }
    document = {"duration": lengths, "curve": groups, "transition": top}
    return Delivery({_NAME: as_json(document)}, _NAME, Report(tuple(fitted)))


def _ms(value: float) -> Token:
    return {"value": round(value, 3), "unit": "ms"}
