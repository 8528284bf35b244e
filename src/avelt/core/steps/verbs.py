"""The verbs of steps: one table of names, fields and edits, from which reader, schema and docs are made."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.steps import frame_steps, motion_steps, naming_steps, part_steps, phase_steps, tape_steps, whole_steps
from avelt.core.steps.properties import PROPERTIES
from avelt.core.steps.said import Said, Site

Kind = Literal["text", "number", "numbers", "flag", "names", "pose", "trigger", "then", "any", "value"]


class Field(Record, frozen=True):
    """One key of a verb."""

    name: str
    kind: Kind
    needed: bool = False
    says: str = ""


class Verb(Record, frozen=True):
    """One thing that a step can do."""

    name: str
    says: str
    fields: tuple[Field, ...]
    run: Callable[[Project, Said, Site], Project]


_OF_LAYER = tuple(Field(name, "any") for name in PROPERTIES)
_IN, _LAYER, _ROUTE = Field("in", "text", True), Field("layer", "text", True), Field("route", "text", True)
_TIME = (Field("duration", "number"), Field("length", "number"))

VERBS: tuple[Verb, ...] = (
    Verb(
        "frame",
        "A new frame, empty or a copy of another",
        (Field("name", "text", True), Field("copy", "text"), Field("size", "numbers"), Field("background", "text")),
        frame_steps.do_frame,
    ),
    Verb(
        "import",
        "A drawing or picture beside the steps",
        (Field("asset", "text", True), Field("name", "text")),
        frame_steps.do_import,
    ),
    Verb(
        "set",
        "Properties of a layer, or of a frame",
        (
            _IN,
            Field("layer", "text"),
            *_OF_LAYER,
            Field("background", "text"),
            Field("perspective", "number"),
            Field("clips", "flag"),
            Field("first", "flag"),
            Field("content", "numbers"),
            Field("scroll", "any"),
            Field("stays_put", "flag"),
        ),
        frame_steps.do_set,
    ),
    Verb(
        "draw",
        "A new layer: box, oval, text or path",
        (_IN, Field("kind", "text", True), Field("inside", "text"), *_OF_LAYER),
        frame_steps.do_draw,
    ),
    Verb(
        "group",
        "Layers become a group",
        (_IN, Field("layers", "names", True), Field("name", "text")),
        frame_steps.do_group,
    ),
    Verb(
        "route",
        "A route, or changes of one",
        (
            Field("from", "text", True),
            Field("to", "text", True),
            Field("trigger", "trigger"),
            Field("then", "then"),
            Field("wait", "number"),
            Field("delay", "number"),
            *_TIME,
            Field("curve", "text"),
            Field("only_if", "text"),
            Field("scroll", "text"),
            Field("add", "flag"),
        ),
        motion_steps.do_route,
    ),
    Verb(
        "cue",
        "When and how a layer, or a property, moves",
        (
            _ROUTE,
            _LAYER,
            Field("property", "text"),
            Field("start", "number"),
            Field("end", "number"),
            Field("curve", "text"),
            Field("shortest", "flag"),
            Field("muted", "flag"),
            Field("space", "text"),
        ),
        motion_steps.do_cue,
    ),
    Verb(
        "keyframe",
        "A value that is passed at a moment",
        (
            _ROUTE,
            _LAYER,
            Field("property", "text", True),
            Field("at", "number", True),
            Field("value", "any", True),
            Field("curve", "text"),
        ),
        motion_steps.do_keyframe,
    ),
    Verb(
        "motion path",
        "The path that a layer takes",
        (_ROUTE, _LAYER, Field("d", "text"), Field("rotate", "flag")),
        motion_steps.do_path,
    ),
    Verb(
        "stagger",
        "Starts spread by a rule",
        (
            _ROUTE,
            Field("layers", "names", True),
            Field("step", "number"),
            Field("total", "number"),
            Field("order", "text"),
            Field("reversed", "flag"),
            Field("curve", "text"),
            Field("seed", "number"),
        ),
        motion_steps.do_stagger,
    ),
    Verb(
        "tie",
        "An end of a cue hung on another",
        (_ROUTE, _LAYER, Field("to", "text", True), Field("at", "text"), Field("to_at", "text"), Field("by", "number")),
        motion_steps.do_tie,
    ),
    Verb(
        "pair",
        "Two layers are one thing",
        (_ROUTE, _LAYER, Field("with", "text"), Field("content", "text")),
        motion_steps.do_pair,
    ),
    Verb("apart", "Two layers are kept apart", (_ROUTE, _LAYER, Field("with", "text")), motion_steps.do_apart),
    Verb(
        "leave",
        "How a layer goes, or all that leave",
        (_ROUTE, Field("layer", "text"), Field("pose", "pose", True)),
        motion_steps.do_leave,
    ),
    Verb(
        "enter",
        "How a layer comes, or all that enter",
        (_ROUTE, Field("layer", "text"), Field("pose", "pose", True)),
        motion_steps.do_enter,
    ),
    Verb(
        "entrance",
        "Layers that come after the arrival",
        (
            _IN,
            Field("layers", "names", True),
            Field("pose", "pose"),
            Field("when", "text"),
            *_TIME,
            Field("curve", "text"),
        ),
        motion_steps.do_entrance,
    ),
    Verb(
        "loop",
        "Motion of a layer that repeats",
        (
            _IN,
            _LAYER,
            Field("name", "text"),
            Field("pose", "pose"),
            *_TIME,
            Field("both_ways", "flag"),
            Field("wait", "number"),
            Field("wait_when", "text"),
            Field("rounds", "number"),
            Field("phase", "number"),
            Field("at_rest", "text"),
            Field("curve", "text"),
            Field("d", "text"),
            Field("rotate", "flag"),
            Field("keyframes", "any"),
            Field("muted", "flag"),
            Field("until", "text"),
            Field("jitter", "number"),
            Field("seed", "number"),
        ),
        frame_steps.do_loop,
    ),
    Verb(
        "follow",
        "A layer that follows a drag, the scrolling, the pointer or an input",
        (
            _IN,
            _LAYER,
            Field("name", "text"),
            Field("value", "any"),
            Field("from", "number"),
            Field("to", "number"),
            Field("pose", "pose"),
            Field("lag", "number"),
            Field("curve", "text"),
            Field("muted", "flag"),
        ),
        frame_steps.do_follow,
    ),
    Verb(
        "copy loop",
        "The same loop on other layers, each some ms later",
        (_IN, Field("loop", "text", True), Field("layers", "names", True), Field("step", "number")),
        frame_steps.do_copy_loop,
    ),
    Verb(
        "input",
        "An input or a signal",
        (Field("name", "text", True), Field("kind", "text"), Field("start", "value")),
        frame_steps.do_input,
    ),
    Verb(
        "part",
        "Layers become a part, or an empty part",
        (
            Field("in", "text"),
            Field("layers", "names"),
            Field("name", "text"),
            Field("size", "numbers"),
            Field("pose", "text"),
        ),
        part_steps.do_part,
    ),
    Verb(
        "pose",
        "A new pose of a part",
        (Field("part", "text", True), Field("name", "text", True), Field("copy", "text"), Field("size", "numbers")),
        part_steps.do_pose,
    ),
    Verb(
        "use",
        "A use of a part on a frame",
        (
            _IN,
            Field("part", "text"),
            Field("layer", "text"),
            Field("pose", "text"),
            Field("inputs", "pose"),
            Field("clock", "pose"),
            Field("if", "text"),
            Field("fit", "text"),
            Field("changes", "pose"),
            *_OF_LAYER,
        ),
        part_steps.do_use,
    ),
    Verb(
        "phase",
        "A phase of a running order: what it shows, how long it lasts, what comes then",
        (
            Field("name", "text", True),
            Field("track", "text"),
            Field("shows", "any"),
            Field("lasts", "any"),
            Field("then", "any"),
            Field("entering", "any"),
            Field("leaving", "any"),
            Field("layers", "names"),
        ),
        phase_steps.do_phase,
    ),
    Verb(
        "tape",
        "A tape that is kept in the project",
        (
            Field("name", "text", True),
            Field("start", "pose"),
            Field("events", "any", True),
            Field("until", "number", True),
        ),
        tape_steps.do_tape,
    ),
    Verb(
        "project",
        "The project's name, grid and swatches; new ids begin at next_id; bare: without the usual curves",
        (
            Field("name", "text"),
            Field("grid", "number"),
            Field("swatches", "names"),
            Field("next_id", "number"),
            Field("bare", "flag"),
        ),
        whole_steps.do_project,
    ),
    Verb(
        "add",
        "A whole frame, route, part, picture or other entry, spelled as in a project file",
        (Field("to", "text", True), Field("value", "any", True)),
        whole_steps.do_add,
    ),
    Verb("dissolve", "A use becomes layers again", (_IN, _LAYER), part_steps.do_dissolve),
    Verb(
        "remove",
        "Without a route, layer, loop, follow, tape, frame, input, phase, side track or part",
        (Field("in", "text"), *(Field(name, "text") for name in naming_steps.THINGS)),
        naming_steps.do_remove,
    ),
    Verb(
        "rename",
        "Another name for a layer, loop, follow, tape, frame, input, phase, side track or part",
        (Field("in", "text"), *(Field(name, "text") for name in naming_steps.NAMED), Field("name", "text", True)),
        naming_steps.do_rename,
    ),
)
BY_NAME = {verb.name: verb for verb in VERBS}
