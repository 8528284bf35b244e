"""A preset to be edited: its motion on stand-ins, as a project of its own, and the preset that comes of it again."""

from __future__ import annotations

from contextlib import suppress

from msgspec.structs import replace

from avelt.core.errors import AveltError, EditError
from avelt.core.model.motion import PairKey
from avelt.core.model.values import Project
from avelt.core.presets import record
from avelt.core.presets.capture import capture
from avelt.core.presets.picture import stage_of
from avelt.core.presets.pieces import ALWAYS, pieces, without
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.values import Preset, as_project
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.schedule import timed
from avelt.core.words import tr

_KEPT = ("tags", "when", "not_when", "quieter", "note")


def stand_in(preset: Preset) -> Project:
    """A project of nothing but the preset's motion: two frames with a route, a frame with a loop, or a part."""
    if preset.recorded is not None or preset.loop is not None or preset.part is not None:
        made = as_project(preset)
    else:
        made, pairs = stage_of(preset)
        with suppress(AveltError):  # what cannot be put even here is edited from rest
            made = put_preset(made, preset, Where(routes=(made.routes[0].id,), pairs=pairs)).project
    return replace(made, name=preset.name, next_id=max(made.next_id, 1000))


def station_of(preset: Preset) -> str:
    """Where it is edited."""
    return "loops" if preset.loop is not None else "frames" if preset.part is not None else "timing"


def edited(preset: Preset, project: Project) -> Preset:
    """The preset again, of what became of its stand-in; ``EditError`` when the motion is gone."""
    made = _taken(preset, project)
    made = replace(made, **{name: getattr(preset, name) for name in _KEPT})
    carried = {piece.key for piece in pieces(made)}
    # What a stand-in always has is left out again; a property that was left out and moves there now is carried.
    made = without(made, [key for key in preset.left_out if key in carried and key in ALWAYS])
    still = [key for key in preset.left_out if key not in carried and key not in made.left_out]
    return replace(made, left_out=(*made.left_out, *still))


def _taken(preset: Preset, project: Project) -> Preset:
    name = preset.name
    if preset.part is not None:
        if not project.parts:
            raise EditError(tr("The part is gone."))
        return record.capture_part(project, project.parts[-1].id, name)
    if preset.loop is not None:
        home = next((frame for frame in project.frames if frame.loops), None)
        if home is None:
            raise EditError(tr("The loop is gone."))
        return record.capture_loop(project, home.id, home.loops[0].id, name)
    if not project.routes:
        raise EditError(tr("The route is gone."))
    route = project.routes[0]
    pairing = pairing_of(project, route)
    pairs = [PairKey(pair.from_id, pair.to_id) for pair in pairing.pairs]
    alone = [PairKey(ident, None) for ident in pairing.leaves] + [PairKey(None, ident) for ident in pairing.enters]
    first = next(iter([*pairs, *alone]), None)
    if first is None:
        raise EditError(tr("The layer is gone."))
    if preset.kind == "transition":
        return record.capture_transition(project, route.id, name)
    if preset.kind == "shared":
        return record.capture_shared(project, route.id, [*pairs, *alone], name)
    if preset.kind == "stagger":
        if not route.transition.staggers:
            raise EditError(tr("The stagger is gone."))
        return record.capture_stagger(project, route.id, route.transition.staggers[0].id, name)
    if preset.kind == "curve":
        return record.capture_curve(project, timed(project, route.transition, *first, "").plain, name)
    if preset.kind == "motion path":
        return record.capture_path(project, route.id, first, name)
    return capture(project, route.id, first, name)
