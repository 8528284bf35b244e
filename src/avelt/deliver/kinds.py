"""Every kind of delivery, declared once: the command line, the station, documents and tests are made from this table.

To add one: a row, and a function that writes into a sink and gives a report.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from avelt.core.errors import FormatError
from avelt.core.handoff import spec, tokens, web
from avelt.core.handoff.delivery import Delivery, Report, Wanted
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.lottie import lottie
from avelt.core.handoff.nodes import slug
from avelt.core.handoff.page import page
from avelt.core.handoff.spec_html import spec_page
from avelt.core.handoff.steps_out import steps_delivery
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.core.words import tr
from avelt.deliver import films
from avelt.deliver.films import Progress
from avelt.deliver.sinks import MemorySink, Sink
from avelt.deliver.spec_pdf import spec_pdf
from avelt.deliver.subjects import Subject, every_subject, less_of


class Asked(Record, frozen=True):
    """What a delivery is made of."""

    project: Project
    subject: Subject
    wanted: Wanted
    letters: Letters


Make = Callable[[Asked, Sink, Progress], Report]


class Kind(Record, frozen=True):
    """One kind. ``ending``: of the one file that it is; empty: it is a folder. ``group``: whom it is for.

    ``plays``: a browser plays it at moments. ``looks``: it is made of pictures, which take time.
    """

    key: str
    title: str
    says: str
    group: str
    ending: str
    make: Make
    plays: bool = False
    looks: bool = False


def _program(asked: Asked, kind: str) -> Program:
    if asked.subject.program is None:
        raise FormatError(
            tr("A {what} cannot be delivered as {kind}.", what=asked.subject.what, kind=kind),
            hint=tr("Take a moving picture, or the page (html)."),
        )
    return asked.subject.program


def _put(delivery: Delivery, sink: Sink) -> Report:
    for name, data in delivery.files.items():
        with sink.open(name) as stream:
            stream.write(data)
    return delivery.report


def _web(kind: str, make: Callable[[Program, Project, Letters, Wanted], Delivery]) -> Make:
    def made(asked: Asked, sink: Sink, progress: Progress) -> Report:
        progress(0, 1)
        return _put(make(_program(asked, kind), asked.project, asked.letters, asked.wanted), sink)

    return made


def _both(kind: str, make: Callable[[Program, Project, Letters, Wanted, Program | None], Delivery]) -> Make:
    """What brings its variant for people who ask for less motion."""

    def made(asked: Asked, sink: Sink, progress: Progress) -> Report:
        progress(0, 1)
        program, wanted = _program(asked, kind), asked.wanted
        less = None if wanted.calm else less_of(asked.project, asked.subject)
        return _put(make(program, asked.project, asked.letters, wanted, less), sink)

    return made


def _page(asked: Asked, sink: Sink, progress: Progress) -> Report:
    progress(0, 1)
    return _put(page(None, asked.project, asked.letters, asked.wanted), sink)


def _picture_loop(kind: str) -> Make:
    def made(asked: Asked, sink: Sink, progress: Progress) -> Report:
        with sink.open(f"{slug(asked.wanted.name, 'motion')}.{'png' if kind == 'apng' else kind}") as stream:
            return films.picture_loop(kind, asked.subject.show, asked.project, asked.wanted, stream, progress)

    return made


def _film(kind: str) -> Make:
    def made(asked: Asked, sink: Sink, progress: Progress) -> Report:
        with sink.open(f"{slug(asked.wanted.name, 'motion')}.{kind}") as stream:
            return films.film(kind, asked.subject.show, asked.project, asked.wanted, stream, progress)

    return made


def _stills(asked: Asked, sink: Sink, progress: Progress) -> Report:
    return films.stills(asked.subject.show, asked.project, asked.wanted, sink, progress)


def _sprite(asked: Asked, sink: Sink, progress: Progress) -> Report:
    return films.sprite(asked.subject.show, asked.project, asked.wanted, sink, progress)


def _sheets(asked: Asked) -> list[spec.SpecSheet]:
    subject = asked.subject
    subjects: Sequence[Subject] = every_subject(asked.project) if subject.key == "all" else [subject]
    made = [
        spec.spec_of(one.name, one.program, asked.project, one.transition, one.says)
        for one in subjects
        if one.program is not None
    ]
    if not made:
        raise FormatError(tr("A {what} has no spec sheet.", what=subject.what))
    return made


def _spec(asked: Asked, sink: Sink, progress: Progress) -> Report:
    progress(0, 2)
    sheets = _sheets(asked)
    with sink.open("spec.html") as stream:
        stream.write(spec_page(sheets, asked.wanted.name))
    progress(1, 2)
    with sink.open("spec.pdf") as stream:
        stream.write(spec_pdf(sheets, asked.wanted.name))
    return Report()


def _tokens(asked: Asked, sink: Sink, progress: Progress) -> Report:
    progress(0, 1)
    subject = asked.subject
    subjects: Sequence[Subject] = every_subject(asked.project) if subject.key == "all" else [subject]
    motions = [(one.name, one.program) for one in subjects if one.program is not None]
    return _put(tokens.tokens(motions, asked.project), sink)


def _steps(asked: Asked, sink: Sink, progress: Progress) -> Report:
    progress(0, 1)
    return _put(steps_delivery(asked.project, asked.wanted), sink)


KINDS: tuple[Kind, ...] = (
    Kind("html", tr("One clickable page"), tr("the whole project, html"), tr("For browsers"), ".html", _page),
    Kind(
        "css",
        tr("Styles"),
        tr("a page, a style sheet, pictures"),
        tr("For browsers"),
        "",
        _both("css", web.css_folder),
        True,
    ),
    Kind("svg", tr("Moving drawing"), "svg", tr("For browsers"), ".svg", _both("svg", web.moving_svg), True),
    Kind(
        "waapi",
        tr("Script keyframes"),
        tr("json, svg"),
        tr("For browsers"),
        "",
        _web("waapi", web.web_animations),
        True,
    ),
    Kind("lottie", tr("Vector animation"), "json", tr("For apps"), ".json", _web("lottie", lottie)),
    Kind("mp4", tr("Film"), "mp4", tr("To look at"), ".mp4", _film("mp4"), looks=True),
    Kind("webm", tr("Film with a clear ground"), "webm", tr("To look at"), ".webm", _film("webm"), looks=True),
    Kind("gif", tr("Picture loop"), "gif", tr("To look at"), ".gif", _picture_loop("gif"), looks=True),
    Kind(
        "webp", tr("Picture loop, every colour"), "webp", tr("To look at"), ".webp", _picture_loop("webp"), looks=True
    ),
    Kind(
        "apng",
        tr("Picture loop, every pixel"),
        tr("png that moves"),
        tr("To look at"),
        ".png",
        _picture_loop("apng"),
        looks=True,
    ),
    Kind("png", tr("Stills"), tr("a png each"), tr("To look at"), "", _stills, looks=True),
    Kind("sprite", tr("One sheet of pictures"), tr("png, json"), tr("To build from"), "", _sprite, looks=True),
    Kind("spec", tr("Spec sheet"), tr("pdf, html"), tr("To build from"), "", _spec),
    Kind("tokens", tr("Design tokens"), "json", tr("To build from"), ".json", _tokens),
    Kind("steps", tr("Steps"), tr("the whole project, json"), tr("To build from"), ".json", _steps),
)
#: Kinds of which one says everything that a project has.
WHOLE = frozenset(("html", "spec", "tokens", "steps"))
#: Kinds that are of the whole project whatever is chosen.
ALWAYS_WHOLE = frozenset(("html", "steps"))
BY_KEY = {kind.key: kind for kind in KINDS}


def delivery_of(kind: Kind, asked: Asked, progress: Progress = lambda done, whole: True) -> Delivery:
    """A delivery in memory."""
    sink = MemorySink()
    report = kind.make(asked, sink, progress)
    main = next((name for name in ("index.html", "motion.json", "spec.html") if name in sink.files), "")
    return Delivery(sink.files, main or next(iter(sink.files), ""), report)
