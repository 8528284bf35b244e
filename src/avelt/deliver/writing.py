"""Several deliveries at once onto the disk: all of them or none."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from msgspec.structs import replace

from avelt.core.errors import AveltError
from avelt.core.handoff.delivery import Report, Wanted
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.nodes import Names
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.deliver.films import Progress
from avelt.deliver.kinds import ALWAYS_WHOLE, BY_KEY, WHOLE, Asked
from avelt.deliver.sinks import Below, DiskSink
from avelt.deliver.subjects import ALL, Subject, as_wanted, every_subject, subject_of, subjects_for

_STEPS = 1000  # of progress that one delivery is worth


class Order(Record, frozen=True):
    """What shall be written where: kinds by their keys, of a subject by its key (or of all)."""

    project: Project
    subject: str
    kinds: tuple[str, ...]
    wanted: Wanted
    folder: Path


class Written(Record, frozen=True):
    """What was written: names below the folder, bytes, and what there is to know of it."""

    names: tuple[str, ...]
    size: int
    report: Report


def write_all(order: Order, letters: Letters, progress: Progress) -> Written:
    """Write them; what goes wrong with one is told with its name, and nothing is left of the others."""
    order = replace(order, project=as_wanted(order.project, order.wanted))
    works = list(_works(order))
    report = Report()
    with DiskSink(order.folder, single=False) as sink:
        for k, (kind, subject, name) in enumerate(works):
            made = BY_KEY[kind]
            asked = Asked(order.project, subject, replace(order.wanted, name=subject.name), letters)
            inner = Below(sink, _named(name, made.key, made.ending))
            try:
                report = report.and_also(made.make(asked, inner, _part(progress, k, len(works))))
            except AveltError as error:
                raise error.at(made.title) from None
    size = sum((order.folder / name).stat().st_size for name in sink.names)
    return Written(tuple(sink.names), size, report)


def _works(order: Order) -> Sequence[tuple[str, Subject, str]]:
    names = Names()
    if order.subject != ALL:
        subject = subject_of(order.project, order.subject)
        name = names.of(subject.name, subject.what)
        project = names.of(order.project.name, "project")
        return [(kind, subject, project if kind in ALWAYS_WHOLE else name) for kind in order.kinds]
    subjects = every_subject(order.project)
    called = [names.of(subject.name, subject.what) for subject in subjects]
    whole = names.of(order.project.name, "project")
    found = []
    first = replace(subjects[0], key=ALL, name=order.project.name) if subjects else None
    for kind in order.kinds:
        if kind in WHOLE and first is not None:
            found.append((kind, first, whole))
            continue
        fit = {one.key for one in subjects_for(list(subjects), kind, BY_KEY[kind].looks)}
        found += [(kind, one, name) for one, name in zip(subjects, called, strict=True) if one.key in fit]
    return found


def _named(name: str, kind: str, ending: str) -> Callable[[str], str]:
    """One file is called after its subject; several lie in a folder that is called after it and their kind."""
    if ending:
        return lambda _: f"{name}{f'.{kind}' if ending == '.json' else ''}{ending}"
    return lambda inner: f"{name}-{kind}/{inner}"


def _part(progress: Progress, k: int, whole: int) -> Progress:
    def told(done: int, of: int) -> bool:
        return progress(k * _STEPS + int(done / max(1, of) * _STEPS), whole * _STEPS)

    return told
