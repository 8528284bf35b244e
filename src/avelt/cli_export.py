"""``avelt export`` and ``avelt verify``: deliveries, and whether they are what was designed."""

from __future__ import annotations

import argparse
import json
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace

from avelt.cli_common import Arguments, write_frames
from avelt.core.blending import colour
from avelt.core.errors import AveltError, FileError, FormatError
from avelt.core.formats.project_file import open_project
from avelt.core.handoff.delivery import AFTERS, STARTS, Delivery, Report, Wanted, report_json
from avelt.core.handoff.nodes import slug
from avelt.core.model.values import Project

if TYPE_CHECKING:
    from avelt.deliver.kinds import Asked, Kind
    from avelt.verify.compare import Verdict

_FOR_BROWSERS = ("html", "css", "svg", "waapi", "lottie")
KEYS = (*_FOR_BROWSERS, "mp4", "webm", "gif", "webp", "apng", "png", "sprite", "spec", "tokens", "steps")
PROJECT_ENDING = ".avelt"
_PLAYED = ("css", "svg", "waapi")
#: The engines of ``browser.engines``, which loads more than a command line needs at first.
BROWSERS = ("chromium", "firefox")
_LOSSLESS = ("apng", "webp", "png")


def _subject_arguments(parser: argparse.ArgumentParser, every: bool) -> None:
    what = parser.add_mutually_exclusive_group()
    what.add_argument("--route", metavar="ROUTE", help='an id, or "From name > To name"')
    what.add_argument("--frame", metavar="NAME", help="its entrance and loops")
    what.add_argument("--part", metavar="NAME", help="its running order, or its loops")
    what.add_argument("--tape", metavar="TAPE", help="a tape kept in the project")
    if every:
        what.add_argument("--all", action="store_true", help="everything that moves")


def _look_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--start", choices=tuple(STARTS), default="load")
    parser.add_argument("--after", choices=tuple(AFTERS), default="freeze")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--fps", "--rate", dest="fps", type=float, default=25.0, help="pictures a second")
    parser.add_argument("--rest", type=float, default=0.0, metavar="MS", help="how long the last picture stays")
    parser.add_argument("--rounds", type=int, default=1, metavar="N", help="of what loops")
    parser.add_argument("--quality", type=int, default=0, metavar="1..100", help="webp with loss")
    parser.add_argument("--background", metavar="COLOUR", help="a CSS colour, or none")
    parser.add_argument("--words", choices=("outlines", "text"), default="", help="text as outlines, or with its font")
    parser.add_argument("--prefix", default="", help="put in front of every name")
    parser.add_argument("--quieter", action="store_true", help="the variant for people who ask for less motion")
    parser.add_argument("--once", action="store_true", help="moving pictures do not begin again")


def build_export(parser: argparse.ArgumentParser) -> None:
    """The arguments of ``avelt export``."""
    parser.add_argument("file", type=Path)
    parser.add_argument("--as", dest="kind", choices=sorted(KEYS), required=True)
    _subject_arguments(parser, True)
    parser.add_argument("-o", "--out", type=Path, required=True)
    _look_arguments(parser)
    parser.add_argument("--report", action="store_true", help="the report as JSON on standard output")
    parser.set_defaults(run=_export)


def build_verify(parser: argparse.ArgumentParser) -> None:
    """The arguments of ``avelt verify``."""
    parser.add_argument("file", type=Path)
    parser.add_argument(
        "--as", dest="kind", choices=("html", *_PLAYED, *_LOSSLESS, "gif", "sprite", "mp4", "webm"), default="css"
    )
    _subject_arguments(parser, False)
    _look_arguments(parser)
    parser.add_argument("--moments", type=int, default=25, metavar="N")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--browser", choices=(*BROWSERS, "all"), default="chromium", help="the engine that plays it")
    parser.add_argument("--of", type=Path, metavar="PATH", help="a delivery written earlier, instead of one made now")
    parser.add_argument("-o", "--out", type=Path, metavar="DIR", help="pictures of the worst moment")
    parser.set_defaults(run=_verify)


def wanted_of(args: Arguments, name: str) -> Wanted:
    """The settings that were given; ``FormatError`` for what cannot be."""
    if args.background not in (None, "none"):
        colour.parse(args.background)
    if not 0 <= args.quality <= 100:
        raise FormatError("The quality must be 1 to 100.")
    prefix = f"{slug(args.prefix)}-" if args.prefix else ""
    return Wanted(
        name=name,
        prefix=prefix,
        start=args.start,
        after=args.after,
        background=args.background,
        words=args.words,
        fps=args.fps,
        scale=args.scale,
        rest=args.rest,
        rounds=args.rounds,
        quality=args.quality,
        again=not args.once,
        calm=args.quieter,
    )


def _export(args: Arguments) -> None:
    from avelt.deliver.kinds import ALWAYS_WHOLE, BY_KEY, WHOLE, Asked
    from avelt.deliver.sinks import Below, DiskSink
    from avelt.deliver.subjects import as_wanted, every_subject, file_names, find_subject, subjects_for
    from avelt.paint.letters import QtLetters

    project = as_wanted(open_project(args.file), wanted_of(args, ""))
    if args.out.is_file() and args.out.suffix.lower() == PROJECT_ENDING:
        raise FileError("This is a project, and is not overwritten by a delivery.", str(args.out))
    kind = BY_KEY[args.kind]
    named = any(v is not None for v in (args.route, args.frame, args.part, args.tape))
    if args.kind == "png" and not named and not args.all:
        for path in write_frames(project, args.out, args.scale):
            print(path)
        return
    letters = QtLetters()
    if kind.key in ALWAYS_WHOLE or (args.all and kind.key in WHOLE):
        subject = replace(find_subject(project), key="all", name=project.name)
        asked = Asked(project, subject, wanted_of(args, project.name), letters)
        _said(args, kind, [(_write(kind, asked, args.out), args.out)])
        return
    if not args.all:
        subject = find_subject(project, args.route, args.frame, args.part, args.tape)
        asked = Asked(project, subject, wanted_of(args, subject.name), letters)
        _said(args, kind, [(_write(kind, asked, args.out), args.out)])
        return
    subjects = subjects_for(every_subject(project), kind.key, kind.looks)
    reports: list[tuple[str, list[str], Report]] = []
    with DiskSink(args.out, single=False) as sink:
        for subject, name in zip(subjects, file_names(subjects), strict=True):
            asked = Asked(project, subject, wanted_of(args, subject.name), letters)
            first = len(sink.names)
            try:
                report = kind.make(asked, Below(sink, _below(name, kind.ending)), lambda done, whole: True)
            except AveltError as error:
                raise error.at(subject.name) from None
            reports.append((name, sink.names[first:], report))
    done = []
    for name, names, report in reports:
        sizes = {entry: _Size((args.out / entry).stat().st_size) for entry in names}
        done.append((Delivery(sizes, names[0], report), args.out / f"{name}{kind.ending}"))  # type: ignore[arg-type]
    _said(args, kind, done)


def _below(name: str, ending: str) -> Callable[[str], str]:
    """One file is named after its subject; several lie in a folder of that name."""
    return (lambda _: f"{name}{ending}") if ending else (lambda inner: f"{name}/{inner}")


def _write(kind: Kind, asked: Asked, out: Path) -> Delivery:
    from avelt.deliver.sinks import DiskSink

    with DiskSink(out, bool(kind.ending)) as sink:
        report = kind.make(asked, sink, lambda done, whole: True)
    names = [out.name] if kind.ending else sink.names
    files = {name: _Size((out if kind.ending else out / name).stat().st_size) for name in names}
    return Delivery(files, names[0] if names else "", report)  # type: ignore[arg-type]


class _Size:
    """Stands in for the bytes of a file that is on the disk already."""

    def __init__(self, size: int) -> None:
        self._size = size

    def __len__(self) -> int:
        return self._size


def _said(args: Arguments, kind: Kind, done: list[tuple[Delivery, Path]]) -> None:
    if args.report:
        documents = [report_json(kind.key, delivery) for delivery, _ in done]
        print(json.dumps(documents[0] if len(documents) == 1 else documents, ensure_ascii=False))
        return
    for delivery, out in done:
        print(f"{out}: {delivery.size} bytes in {len(delivery.files)} file{'s' if len(delivery.files) != 1 else ''}")
        for line in report_lines(delivery.report):
            print(f"  {line}")


def report_lines(report: Report) -> list[str]:
    """A report to read."""
    made = [
        f"{e.layer + ': ' if e.layer else ''}{e.what} is fitted, {e.error:.4f} {e.unit} off at most"
        for e in report.fitted
    ]
    made += [f"{e.layer}: {e.what}: {e.why}" for e in report.left_out]
    return [*made, *report.notes]


def _verify(args: Arguments) -> int:
    """The exit code: 1 where a delivery is not what was designed, in one of the engines asked for."""
    from avelt.browser.engines import ENGINES
    from avelt.deliver.subjects import as_wanted
    from avelt.verify.judging import delivery_at

    if not 1 <= args.moments <= 1000:
        raise FormatError("There may be 1 to 1,000 moments.")
    project = as_wanted(open_project(args.file), wanted_of(args, ""))
    delivery = delivery_at(args.kind, args.of) if args.of is not None else None
    engines = tuple(ENGINES) if args.browser == "all" else (args.browser,)
    if args.kind not in ("html", *_PLAYED):
        engines = ("",)  # pictures need no browser
    looked = [(_verify_page if args.kind == "html" else _verify_moments)(project, args, e, delivery) for e in engines]
    if args.json:
        documents = [document for document, _ in looked]
        print(json.dumps(documents[0] if len(documents) == 1 else documents, ensure_ascii=False))
    return max(code for _, code in looked)


Looked = tuple[dict[str, Any], int]


def _verify_moments(project: Project, args: Arguments, engine: str, delivery: Delivery | None) -> Looked:
    from avelt.deliver.subjects import find_subject
    from avelt.verify.judging import judged

    subject = find_subject(project, args.route, args.frame, args.part, args.tape)
    out = _folder_of(args, engine)
    wanted = wanted_of(args, subject.name)
    verdict, report = judged(
        project, subject, args.kind, wanted, args.moments, out, engine=engine or "chromium", delivery=delivery
    )
    document = {"kind": args.kind, "subject": subject.name} | ({"browser": engine} if engine else {})
    return _judged(args, document | _numbers(verdict), subject.name, verdict, report)


def _folder_of(args: Arguments, engine: str) -> Path | None:
    """Where pictures of an engine go: a folder of its own where there are several."""
    out: Path | None = args.out
    return out / engine if out is not None and args.browser == "all" and engine else out


def _verify_page(project: Project, args: Arguments, engine: str, delivery: Delivery | None) -> Looked:
    """The page against the core by a tape: a file, or one that the project keeps (the first, where none is named)."""
    from avelt.core.formats.disk import read_bytes
    from avelt.core.model.tapes import MOST_BYTES, Tape
    from avelt.core.running.tape import read_tape
    from avelt.verify.judging import judged_page

    kept = {tape.name: tape for tape in project.tapes}
    if args.tape is None:
        tape = next(iter(kept.values()), Tape(name="nothing is done", until=2000.0))
    else:
        tape = kept.get(args.tape) or read_tape(read_bytes(Path(args.tape), MOST_BYTES), args.tape)
    out = _folder_of(args, engine)
    replay, report = judged_page(project, tape, args.moments, out, engine=engine, delivery=delivery)
    parts = replay.parts_at
    document: dict[str, Any] = {"kind": "html", "subject": tape.name, "browser": engine}
    document["log"] = "the same" if parts < 0 else parts
    if parts >= 0:
        sides = (("designed", replay.designed), ("delivered", replay.delivered))
        document |= {name: list(log[parts]) if parts < len(log) else None for name, log in sides}
    document, code = _judged(args, document | _numbers(replay.verdict), tape.name, replay.verdict, report)
    return document, code if parts < 0 else 1


def _numbers(verdict: Verdict) -> dict[str, Any]:
    """A verdict as other programs read it."""
    return {
        "moments": [{"at": round(m.at, 3), "mean": round(m.mean, 4), "off": round(m.off, 6)} for m in verdict.moments],
        "mean": round(verdict.mean, 4),
        "off": round(verdict.off, 6),
        "worst": {"at": round(verdict.worst.at, 3), "mean": round(verdict.worst.mean, 4)},
        "holds": verdict.holds,
    }


def _judged(args: Arguments, document: dict[str, Any], name: str, verdict: Verdict, report: Report) -> Looked:
    if not args.json:
        if "log" in document:
            same = document["log"] == "the same"
            says = "The logs are the same." if same else f"The logs part at line {document['log'] + 1}."
            print(says)
        where = f" in {document['browser']}" if "browser" in document else ""
        print(f"{name} as {args.kind}{where}, at {len(verdict.moments)} moments")
        print(f"  mean difference {verdict.mean:.3f} of 255, pixels that are off {verdict.off * 100:.3f} %")
        print(f"  worst at {verdict.worst.at:g} ms: {verdict.worst.mean:.3f}")
        for line in report_lines(report):
            print(f"  {line}")
    document = document | {"report": report_json(args.kind, Delivery({}, "", report))}
    return document, 0 if verdict.holds else 1
