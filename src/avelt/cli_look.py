"""The commands that look at a project's wiring: which layers are one thing and why, and what is wrong."""

from __future__ import annotations

import argparse
from typing import Any

from avelt.cli_common import Arguments, build_route_command, print_result
from avelt.core.formats.project_file import open_project
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_route
from avelt.core.model.values import Frame
from avelt.core.pairing.explain import reasons, why_alone
from avelt.core.timing.changes import what_changes
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends


def build_pair(parser: argparse.ArgumentParser) -> None:
    """``avelt pair FILE ROUTE [--json]``."""
    build_route_command(parser)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_pair)


def _pair(args: Arguments) -> None:
    project = open_project(args.file)
    route = find_route(project, args.route)
    pairing = pairing_of(project, route)
    left, right = ends(project, route)
    pairs: list[dict[str, Any]] = [
        {
            "from": layer_plain(left, pair.from_id),
            "to": layer_plain(right, pair.to_id),
            "confidence": round(pair.confidence, 4),
            "by": pair.by,
            "evidence": [
                {"what": r.what, "score": r.score, "says": r.says} for r in reasons(pairing, pair.from_id, pair.to_id)
            ],
            "changes": list(what_changes(pairing, pair.from_id, pair.to_id)),
        }
        for pair in pairing.pairs
    ]
    leaves = [{**layer_plain(left, ident), "why": why_alone(pairing, ident, "from")} for ident in pairing.leaves]
    enters = [{**layer_plain(right, ident), "why": why_alone(pairing, ident, "to")} for ident in pairing.enters]
    lines = [f"{p['from']['name']} = {p['to']['name']}  {p['confidence']:.2f} by {p['by']}" for p in pairs]
    for word, layers in (("leaves", leaves), ("enters", enters)):
        lines += [f"{layer['name']}  {word}. {layer['why']}" for layer in layers]
    print_result(args, {"route": route.id, "pairs": pairs, "leaves": leaves, "enters": enters}, lines)


def layer_plain(frame: Frame, ident: str) -> dict[str, Any]:
    """A layer in the words of ``--json``."""
    flat = flatten(frame)
    i = flat.index[ident]
    layer = flat.layers[i]
    return {
        "id": layer.id,
        "name": layer.name,
        "kind": layer.kind,
        "path": list(flat.path[i]),
        "box": [float(v) for v in flat.bounds[i]],
    }
