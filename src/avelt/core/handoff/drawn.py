"""A program as a drawing for browsers: one element a layer, named after it, with what each of its properties does.

It mirrors ``timing.items``, which says what is painted at one moment; here the same is said for all moments at once.
"""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour
from avelt.core.handoff import effects, order
from avelt.core.handoff.contents import leaf
from avelt.core.handoff.courses import FINE, Signal, Stage
from avelt.core.handoff.css_text import plain, px, rgb_text
from avelt.core.handoff.draft import Draft, Here
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.loop_rounds import common_period
from avelt.core.handoff.nodes import Drawn, Moved, Node
from avelt.core.handoff.pieces import form_of
from avelt.core.handoff.placing import is_tilted, place, tilt
from avelt.core.model.kinds import group_of
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Box, Group, Layer, Oval, Pattern, Picture, Use
from avelt.core.timing.items import scale_inside
from avelt.core.timing.program import Program, UseSlot
from avelt.core.timing.resting import tile_scene
from avelt.core.timing.slots import SlotContents
from avelt.core.words import tr

_CLEAR = 1.0 / 1024.0
Cut = Callable[[Node], None]


def drawn(
    program: Program, letters: Letters, prefix: str = "", background: str | None = None, words: str = "outlines"
) -> Drawn:
    """The whole program. ``background`` stands in for the frame's own: a CSS colour, or ``none``. ``words``: as
    outlines, or as text."""
    draft = Draft(letters, prefix, words)
    maker = Maker(Here(draft, Stage(program)))
    layers = maker.children(-1)
    ground, root, most = maker.frame(background)
    stages = [maker.here.stage, *maker.inner_stages]
    for here in (maker.here, *maker.inner):
        here.close()
    duration = maker.here.stage.last
    endless = [track.loop for stage in stages for track in stage.loops if not track.loop.rounds and not track.fades]
    period = common_period(endless)[0] if endless else 0.0
    return Drawn(
        tuple(layers),
        tuple(draft.defs),
        ground,
        tuple(root),
        program.left.w,
        program.left.h,
        most,
        duration,
        period,
        program.left.isolates or program.right.isolates,
        tuple(draft.fitted),
        tuple(draft.left_out),
        {key: "".join(sorted(found)) for key, found in sorted(draft.set.items())},
    )


class Maker:
    """One program of a drawing: the frame itself, or what stands in a slot of another."""

    def __init__(self, here: Here) -> None:
        self.here, self.program = here, here.program
        self.uses = {use.slot: use for use in self.program.uses}
        self.inner: list[Here] = []
        self.inner_stages: list[Stage] = []

    # The frame

    def frame(self, background: str | None) -> tuple[Node, list[Moved], tuple[float, float]]:
        """What lies beneath all, what the frame itself does, and how large it becomes."""
        here, program = self.here, self.program
        ground = Node("rect", name=here.draft.names.of("background"))
        first = program.colours_end + program.frame.loose
        sizes = here.stage.looks[:, first : first + 2].max(0)
        root = Node("svg")
        for node in (ground, root):
            for k, prop in enumerate(("width", "height")):
                here.put(node, Signal(prop, -1, (), (first + k,), lambda _, more: more, px()))
        if background is None:
            here.put(ground, here.colour("fill", program.frame.colour))
            if not any(moved.prop == "fill" for moved in ground.moved):
                ground.style["fill"] = rgb_text(colour.parse(program.left.background))
        elif background == "none":
            ground.style["fill"] = "none"
        else:
            ground.style["fill"] = rgb_text(colour.parse(background))
        return ground, root.moved, (float(sizes[0]), float(sizes[1]))

    # Layers

    def children(self, parent: int, without: frozenset[int] = frozenset()) -> list[Node]:
        """The nodes of what lies in a slot (-1: the frame), in paint order."""
        made = []
        for entry in order.placed(self.program, parent):
            if entry.slot in without or not self._ever_seen(entry.slot):
                continue
            node = self.node(entry.slot)
            self.here.shown(node, list(entry.spans))
            made.append(node)
        return made

    def _ever_seen(self, s: int) -> bool:
        return self.here.stage.most(s, "opacity") > _CLEAR

    def node(self, s: int) -> Node:
        """The node of a slot, all of it."""
        here, part = self.here, self.program.contents[s]
        name = part.layer.name
        wrapper = Node("g", name=here.draft.names.of(name), layer=name)
        place(here, s, wrapper)
        effects.opacity(here, s, wrapper)
        effects.mix(here, wrapper, part)
        tilted = is_tilted(here, s)
        base = Node("g") if tilted else wrapper
        inside = effects.soften(here, s, base, part)
        content, cuts = self._content(s, part)
        if cuts and ("filter" in inside.style or "filter" in inside.attrs):
            inside.children.append(Node("g"))
            inside = inside.children[-1]
        for apply in cuts:
            apply(inside)
            if apply is not cuts[-1]:
                inside.children.append(Node("g"))
                inside = inside.children[-1]
        if here.stage.ever(s, "back_blur", 0.0):
            content = [effects.back_blur(here, s, self._shape(s, part)), *content]
        _fill(inside, content)
        if tilted:
            wrapper.children.append(tilt(here, s, [base]))
        return wrapper

    def _shape(self, s: int, part: SlotContents) -> Signal | None:
        piece = form_of(self.here, s, part.layer, part, as_path=True)
        return piece.outline if piece is not None else None

    def _content(self, s: int, part: SlotContents) -> tuple[list[Node], list[Cut]]:
        """What lies in a slot, and what cuts it off, outermost first."""
        here = self.here
        cuts: list[Cut] = []
        sides = [side for side in (part.left, part.right) if side is not None]
        if effects.is_cut(here, s):
            plain_form = all(
                isinstance(side.body, Box | Oval | Picture) and side.stroke is None and not part.stroke
                for side in sides
            )
            cuts.append(lambda node: effects.cut(here, s, node, plain_form))
        if isinstance(part.layer.body, Group):
            masks = self._masks(s, sides)
            if masks:
                by = (group_of(sides[-1]) or Group()).mask_by
                content = [self.node(t) for t in masks]
                cuts.append(lambda node: effects.mask_with(here, s, node, content, by))
            if any(isinstance(side.body, Group) and side.body.clips for side in sides):
                cuts.append(lambda node: effects.clip_to_box(here, s, node))
            if any(isinstance(side.body, Group) and side.body.isolates for side in sides):
                cuts.insert(0, effects.isolate)
            return self.children(s, frozenset(masks)), cuts
        both = part.both
        if part.change in ("swap", "cross-fade") and both is not None:
            made = []
            for k, layer in enumerate(both):
                node = Node("g")
                here.put(node, _mixed(s, k == 1), "1")
                _fill(node, self._one(s, part, layer, ~s if k else s))
                made.append(node)
            return made, cuts
        return self._one(s, part, part.layer, s), cuts

    def _one(self, s: int, part: SlotContents, layer: Layer, where: int) -> list[Node]:
        """One content of a slot."""
        if isinstance(layer.body, Use):
            use = self.uses.get(where, self.uses.get(s))
            return self._use(s, use, layer) if use is not None else []
        return leaf(self.here, s, part, layer, self._tile)

    def _masks(self, s: int, sides: list[Layer]) -> list[int]:
        """The children that are masks of a group."""
        wanted = {body.mask for side in sides if isinstance(body := side.body, Group) and body.mask}
        if not wanted:
            return []
        if len(sides) == 2 and any(isinstance(side.body, Group) and not side.body.mask for side in sides):
            self.here.draft.lacks(
                self.here.name_of(s), tr("its mask"), tr("it masks all the way, and not for one half only")
            )
        found = []
        for entry in order.placed(self.program, s):
            content = self.program.contents[entry.slot]
            if any(side is not None and side.id in wanted for side in (content.left, content.right)):
                found.append(entry.slot)
        return list(dict.fromkeys(found))

    def _use(self, s: int, use: UseSlot, layer: Layer) -> list[Node]:
        """What stands in a slot, scaled to its box, with its own clock."""
        outer = self.here.stage
        stage = Stage(use.program, use.speed * outer.speed, use.offset + use.speed * outer.offset)
        inner = Here(self.here.draft, stage)
        maker = Maker(inner)
        self.inner.append(inner)
        self.inner_stages.append(stage)
        scene = use.rest
        node = Node("g")
        w, h = scene.size

        def of(row: Floats, _: Floats) -> Floats:
            return np.array([scale_inside(scene, r[COLUMN["w"]], r[COLUMN["h"]], layer) for r in row])

        if not (isinstance(layer.body, Use) and layer.body.fit == "keep"):
            reach = max(w, h, 1.0)
            self.here.put(node, Signal("scale", s, ("w", "h"), (), of, plain, reach), "1 1")
        content = maker.children(-1)
        ground, _, _ = maker.frame(None)
        if scene.background[3] > _CLEAR:
            content.insert(0, ground)
        self.inner += maker.inner
        self.inner_stages += maker.inner_stages
        node.children = content
        if scene.program.left.clips and scene.program.right.clips:
            holder = Node("g", children=[node])
            effects.clip_to_box(self.here, s, holder)
            return [holder]
        return [node]

    def _tile(self, pattern: Pattern) -> list[Node]:
        """The layers of a pattern's tile."""
        program = tile_scene(pattern).program
        maker = Maker(Here(self.here.draft, Stage(program)))
        made = maker.children(-1)
        for node in made:
            node.name = ""
        return made


def _mixed(s: int, comes: bool) -> Signal:
    at = COLUMN["mix"]

    def of(row: Floats, _: Floats) -> Floats:
        share = row[:, [at]].clip(0.0, 1.0)
        return share if comes else 1.0 - share

    return Signal("opacity", s, ("mix",), (), of, plain, FINE)


def _fill(node: Node, content: list[Node]) -> None:
    """Put content into a node; a single plain element becomes the node itself."""
    if len(content) == 1 and not node.children:
        only = content[0]
        clash = (only.style.keys() & node.style.keys()) | (only.attrs.keys() & node.attrs.keys())
        moved = {entry.prop for entry in only.moved} & {entry.prop for entry in node.moved}
        turned = {"translate", "rotate", "scale", "transform", "opacity", "filter", "visibility"}
        if not only.name and node.tag == "g" and only.tag not in ("foreignObject",) and not clash and not moved:
            apart = turned & only.style.keys() and turned & node.style.keys()
            if not apart and "clip-path" not in node.attrs and "mask" not in node.attrs:
                node.tag, node.children, node.text = only.tag, only.children, only.text
                only.became = node
                node.attrs |= only.attrs
                node.style |= only.style
                node.moved += only.moved
                return
    node.children += content
