"""The cue sheet's rows: a pure view of a project and a route. No widget here."""

from __future__ import annotations

from collections.abc import Iterable

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.blending import colour
from avelt.core.curves import easing
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import layer_index
from avelt.core.model.motion import CueKey, PairKey
from avelt.core.model.properties import COLUMN, KEYED, PROPERTIES, PROPERTY_OF_COLUMN, SCALARS
from avelt.core.model.values import Layer, Project, Route, Solid
from avelt.core.record import Record
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.content import CHOICES
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, plan_of, timed
from avelt.core.words import tr


class Row(Record, frozen=True):
    """One line of the sheet. ``prop`` is empty for a layer; ``role`` is both, leaves or enters."""

    ends: PairKey
    prop: str
    role: str
    left_name: str
    right_name: str
    left_value: str
    right_value: str
    timed: Timed
    depth: int = 0
    opens: bool = False
    open: bool = False
    own: bool = False  # has some cue of its own
    top: float = 0.0  # where it stands in its frame, px from the top
    changes: bool = True

    @property
    def key(self) -> CueKey:
        """The row's cue."""
        return CueKey(*self.ends, self.prop)


_moving: list[tuple[Program, dict[int, tuple[str, ...]]]] = []  # the newest, for edits that change only times


def moving_properties(program: Program) -> dict[int, tuple[str, ...]]:
    """What moves in each slot, in the order of the table of properties."""
    for before, known in _moving:
        if program.stands_like(before) and np.array_equal(program.touched, before.touched):
            return known
    made = _moving_properties(program)
    _moving[:] = [(program, made)]
    return made


def _moving_properties(program: Program) -> dict[int, tuple[str, ...]]:
    found: dict[int, set[str]] = {}
    width = len(SCALARS)
    for place in program.touched[program.touched < program.dense].tolist():
        found.setdefault(place // width, set()).add(PROPERTY_OF_COLUMN[place % width])
    colours = {int(p - program.dense) // 4 for p in program.touched if program.dense <= p < program.colours_end}
    loose = {int(p - program.colours_end) for p in program.touched if p >= program.colours_end}
    for s, part in enumerate(program.contents):
        for paints, key in ((part.fills, "fill"), (part.stroke, "stroke")):
            for paint in paints:
                touched = colours & set(range(paint.colour, paint.colour + paint.count))
                if paint.loose >= 0:
                    touched = touched or loose & set(range(paint.loose, paint.loose + paint.count + 9))
                if touched:
                    found.setdefault(s, set()).add(key)
        if part.dashes is not None and loose & set(range(part.dashes[0], sum(part.dashes))):
            found.setdefault(s, set()).add("stroke")
        for shadow in part.shadows:
            if shadow.colour in colours or loose & set(range(shadow.loose, shadow.loose + 3)):
                found.setdefault(s, set()).add("shadow")
        if part.outline is not None and not part.change:
            first = part.outline.loose
            if loose & set(range(first, first + sum(part.outline.lengths) * 2)) and _reshapes(part.left, part.right):
                found.setdefault(s, set()).add("shape")
    order = [prop.key for prop in PROPERTIES]
    return {s: tuple(sorted(props, key=order.index)) for s, props in found.items()}


def _reshapes(left: Layer | None, right: Layer | None) -> bool:
    """Whether an outline changes more than its box does."""
    if left is None or right is None:
        return False
    a = [v for sub in left.body.subpaths for v in sub.points]  # type: ignore[union-attr]
    b = [v for sub in right.body.subpaths for v in sub.points]  # type: ignore[union-attr]
    if len(a) != len(b):
        return True
    for k, (first, second) in enumerate(zip(a, b, strict=True)):
        one, two = (left.w, right.w) if k % 2 == 0 else (left.h, right.h)
        if abs(first / (one or 1.0) - second / (two or 1.0)) > 2e-3:
            return True
    return False


class Wanted(Record, frozen=True):
    """Which rows are shown, and in which order: words in a name, a kind of row, and what they are sorted by."""

    words: str = ""
    show: str = "all"
    sort: str = "order"

    @property
    def deep(self) -> bool:
        """Whether layers in folded groups are looked at too."""
        return bool(self.words.strip()) or self.show not in ("all", "everything") or self.sort != "order"

    @property
    def everything(self) -> bool:
        """Whether what does not change is listed too."""
        return self.show == "everything"


#: What can be shown and sorted by, with the words for it.
SHOWN = (
    ("all", tr("all that changes")),
    ("own", tr("own cues")),
    ("both", tr("pairs")),
    ("leaves", tr("what leaves")),
    ("enters", tr("what enters")),
    ("everything", tr("everything")),
)
SORTED = (("order", tr("by layers")), ("start", tr("by start")), ("position", tr("top to bottom")))


def arranged(rows: tuple[Row, ...], wanted: Wanted, by_hand: tuple[PairKey, ...] = ()) -> tuple[Row, ...]:
    """The rows that are wanted, each layer with its properties behind it; sorted ones without their depth.

    ``by_hand`` are layers in an order of their own, in which they stand where the first of them would.
    """
    blocks: list[list[Row]] = []
    for entry in rows:
        if not entry.prop:
            blocks.append([])
        if blocks:
            blocks[-1].append(entry)
    words = wanted.words.strip().casefold()
    kept = [
        block
        for block in blocks
        if (not words or any(words in name.casefold() for name in (block[0].left_name, block[0].right_name)))
        and (wanted.show in ("all", "everything", block[0].role) or (wanted.show == "own" and block[0].own))
    ]
    if wanted.sort == "start":
        kept.sort(key=lambda block: block[0].timed.start)
    elif wanted.sort == "position":
        kept.sort(key=lambda block: block[0].top)
    elif by_hand:
        place = {ends: k for k, ends in enumerate(by_hand)}
        mine = [k for k, block in enumerate(kept) if block[0].ends in place]
        ordered = sorted((kept[k] for k in mine), key=lambda block: place[block[0].ends])
        for k, block in zip(mine, ordered, strict=True):
            kept[k] = block
    if not wanted.deep:
        return tuple(entry for block in kept for entry in block)
    return tuple(replace(entry, depth=1 if entry.prop else 0) for block in kept for entry in block)


def sheet_rows(
    project: Project,
    route: Route,
    program: Program,
    opened: frozenset[PairKey],
    deep: bool = False,
    everything: bool = False,
) -> tuple[Row, ...]:
    """The rows of all layers that change, with the properties of the opened ones.

    What lies in a group is listed when the group is opened or it has a cue of its own; ``deep``: always. A group that
    does not change itself, with something in it that does, is listed quietly and opened; ``opened`` closes it.
    ``everything``: also what does not change, so that it can be given keys.
    """
    pairing = pairing_of(project, route)
    a, b = pairing.left.flat, pairing.right.flat
    moving = moving_properties(program)
    plan = plan_of(project, route.transition)
    own_cue = {key.pair for key in (*plan.cues, *plan.hung)}
    ends_of = [program.ends_of(s) for s in range(len(program.contents))]
    rows: list[Row] = []
    depth: dict[int, int] = {-1: -1}
    unfolds = {-1}
    quiet = holding(program, moving) - set(moving)
    for s in _by_tree(program):
        slot = program.merged.slots[s]
        props = moving.get(s, ())
        up = slot.parent
        is_open = (ends_of[s] in opened) != (s in quiet)
        if not (props or everything or s in quiet) or not (up in unfolds or deep or ends_of[s] in own_cue):
            continue
        if is_open:
            unfolds.add(s)
        depth[s] = depth.get(up, -1) + 1
        left = a.layers[slot.left] if slot.left >= 0 else None
        right = b.layers[slot.right] if slot.right >= 0 else None
        ends = ends_of[s]
        role = "enters" if left is None else "leaves" if right is None else "both"
        when = timed(project, route.transition, *ends, "")
        names = (left.name if left else tr("enters"), right.name if right else tr("leaves"))
        top = float(a.bounds[slot.left][1] if left is not None else b.bounds[slot.right][1])
        own = ends in own_cue
        rows.append(Row(ends, "", role, *names, "", "", when, depth[s], True, is_open, own, top, bool(props)))
        if is_open and (props or everything):
            for prop in _listed(program.contents[s].layer, props) if everything else props:
                of_prop = timed(project, route.transition, *ends, prop)
                values = (value_text(program, s, prop, 0), value_text(program, s, prop, 1))
                label = next(p.label for p in PROPERTIES if p.key == prop)
                rows.append(Row(ends, prop, role, label, "", *values, of_prop, depth[s] + 1, changes=prop in props))
    return tuple(rows)


def holding(program: Program, slots: Iterable[int]) -> set[int]:
    """The slots that some of ``slots`` lie in."""
    found: set[int] = set()
    for slot in slots:
        up = int(program.parent[slot])
        while up >= 0 and up not in found:
            found.add(up)
            up = int(program.parent[up])
    return found


def lineage(program: Program, slot: int) -> tuple[int, ...]:
    """A slot and what it lies in, the outermost first; what changes its group lies in the one that it leaves."""
    found = [slot]
    while True:
        now = program.merged.slots[found[-1]]
        up = now.parent
        if now.lifted:
            side, row = (0, now.left) if now.left >= 0 else (1, now.right)
            flat = flatten((program.left, program.right)[side])
            over = int(flat.parent[row])
            ident = flat.layers[over].id if over >= 0 else ""
            up = next((s for s in range(len(program.contents)) if program.ends_of(s)[side] == ident), -1)
        if up < 0 or up in found:
            return tuple(reversed(found))
        found.append(up)


def _listed(layer: Layer, props: tuple[str, ...]) -> tuple[str, ...]:
    """All properties that a layer of this kind can have keys of, with those that change."""
    return tuple(
        prop.key
        for prop in PROPERTIES
        if prop.key in props
        or (
            prop.key in KEYED
            and prop.key != "cut"
            and (not prop.kinds or layer.kind in prop.kinds)
            and (prop.key != "fill" or bool(layer.fills))
            and (prop.key not in ("stroke", "trim") or layer.stroke)
        )
    )


def _by_tree(program: Program) -> list[int]:
    """Slots with what lies in each right behind it."""
    inside: dict[int, list[int]] = {}
    for s, slot in enumerate(program.merged.slots):
        inside.setdefault(slot.parent, []).append(s)
    order: list[int] = []
    stack = list(reversed(inside.get(-1, [])))
    while stack:
        s = stack.pop()
        order.append(s)
        stack += reversed(inside.get(s, []))
    return order


def value_text(program: Program, s: int, prop: str, side: int) -> str:
    """A property's value where it leaves (side 0) or arrives (1), as it is read in the sheet."""
    vector = program.start if side == 0 else program.end
    row = vector[: program.dense].reshape(-1, len(SCALARS))[s]
    part = program.contents[s]

    def n(name: str) -> float:
        return float(row[COLUMN[name]])

    if prop == "position":
        return f"{_short(n('x'))}, {_short(n('y'))}"
    if prop == "size":
        return f"{_short(n('w'))}×{_short(n('h'))}"
    if prop == "rotation":
        return f"{_short(n('rotation'))}°"
    if prop == "scale":
        x, y = _short(n("scale_x") * 100), _short(n("scale_y") * 100)
        return f"{x} %" if x == y else f"{x}, {y} %"
    if prop == "skew":
        return f"{_short(n('skew'))}°"
    if prop == "rotation_xy":
        return f"{_short(n('rotation_x'))}°, {_short(n('rotation_y'))}°"
    if prop == "trim":
        return tr("{short} to {short2} %", short=_short(n("trim_start") * 100), short2=_short(n("trim_end") * 100))
    if prop == "blur":
        return (
            _short(n("blur"))
            if n("blur") or not n("back_blur")
            else tr("beneath {short}", short=_short(n("back_blur")))
        )
    if prop == "corner":
        radii = [_short(n(f"radius_{k}")) for k in range(1, 5)]
        return radii[0] if len(set(radii)) == 1 else ", ".join(radii)
    if prop == "opacity":
        return f"{_short(n('opacity') * 100)} %"
    if prop == "type":
        return _short(n("type_size"))
    layer = part.left if side == 0 else part.right
    if prop == "fill":
        fill = layer.fills[-1] if layer is not None and layer.fills else None
        return colour.to_text(colour.parse(fill.color)) if isinstance(fill, Solid) else "gradient" if fill else "none"
    if prop == "shadow":
        count = len(layer.shadows) if layer is not None else 0
        return tr("{n} shadows", "{n} shadow", count) if count else "none"
    if prop == "stroke":
        stroke = layer.stroke if layer is not None else None
        lines = " ".join(_short(dash) for dash in stroke.dashes) if stroke is not None else ""
        return _short(n("stroke_width")) + (f", {lines}" if lines else "")
    if prop == "cut":
        return f"{_short(max(n('cut_top'), n('cut_right'), n('cut_bottom'), n('cut_left')) * 100)} %"
    return CHOICES[part.change].words if part.change else "shape"


def _short(value: float) -> str:
    text = f"{value:.1f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def says(project: Project, route: Route, key: CueKey) -> str:
    """The quiet line about a cue: how far it is after 40 % of its time."""
    when = timed(project, route.transition, *key)
    share = float(easing.at(when.plain, np.array(0.4)))
    frame = ends(project, route)[0 if key.from_id else 1]
    layer = layer_index(frame).get(key.from_id or key.to_id or "")
    return tr(
        "{also} is {share:.0f} % there after 40 % of its time",
        also=layer.name if layer else tr("It"),
        share=share * 100,
    )
