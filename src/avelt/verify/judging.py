"""A delivery made and looked at: the whole of ``avelt verify``, and what the station shows."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path

import msgspec
from PIL import Image, ImageSequence

from avelt.browser.engines import Shown
from avelt.core.arrays import np
from avelt.core.errors import FormatError
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.handoff.delivery import Delivery, Report, Wanted
from avelt.core.model.tapes import Tape
from avelt.core.model.values import Project
from avelt.core.timing.compile import compile_still
from avelt.core.words import tr
from avelt.deliver.films import Shot, on_paper, png, rgba
from avelt.deliver.kinds import BY_KEY, Asked, delivery_of
from avelt.deliver.shows import Show, cut_of
from avelt.deliver.subjects import Subject
from avelt.paint.letters import QtLetters
from avelt.paint.painter import ScenePainter
from avelt.verify.compare import Moment, Verdict, apart_picture, difference, moments_of, on_white
from avelt.verify.pages import Replay, replayed
from avelt.verify.playing import compared, playing

_MOST_BYTES, _MOST_FILES = 1 << 30, 10_000  # of a delivery that is read
_SCALE = 2.0  # pixels to a px at which browsers are compared


def judged(
    project: Project,
    subject: Subject,
    kind: str,
    wanted: Wanted,
    moments: int,
    out: Path | None = None,
    browser: Shown | None = None,
    engine: str = "chromium",
    delivery: Delivery | None = None,
) -> tuple[Verdict, Report]:
    """How near a delivery is to its design; pictures of the worst moment into a folder where one is said.

    ``delivery``: one that was written earlier, looked at instead of one made now. ``engine``: a key of ``ENGINES``.
    """
    if BY_KEY[kind].plays:
        # Played at once: what starts it otherwise is not what is looked at.
        wanted = Wanted(name=wanted.name, prefix=wanted.prefix, background=wanted.background, words=wanted.words)
    if delivery is None:
        delivery = delivery_of(BY_KEY[kind], Asked(project, subject, wanted, QtLetters()))
    if not BY_KEY[kind].plays:
        return _pictures(project, subject, kind, wanted, delivery, out), delivery.report
    program = subject.program
    if program is None:
        raise FormatError(f"A {subject.what} is not compared as {kind}.")
    painter = ScenePainter(project.assets)
    verdict = compared(kind, delivery, program, painter, moments_of(program, moments), _SCALE, browser, engine)
    if out is not None:
        at = verdict.worst.at
        with playing(kind, delivery, (program.left.w, program.left.h), _SCALE, browser, engine) as player:
            _three(out, kind, on_white(painter.render(program.from_start(at), _SCALE)), player.at(at), at)
    return verdict, delivery.report


def judged_page(
    project: Project,
    tape: Tape,
    count: int,
    out: Path | None = None,
    browser: Shown | None = None,
    engine: str = "chromium",
    delivery: Delivery | None = None,
) -> tuple[Replay, Report]:
    """The page by a tape against the core: logs, and pictures at so many moments. Words are outlines in both."""
    wanted = Wanted(name=project.name, words="outlines")
    subject = Subject(
        "all",
        project.name,
        "project",
        "",
        None,
        Show(0.0, 0.0, 0.0, 0.0, lambda ms: compile_still(project.frames[0], project).at(0.0)),
    )
    if delivery is None:
        delivery = delivery_of(BY_KEY["html"], Asked(project, subject, wanted, QtLetters()))
    moments = [tape.until * (k + 0.5) / count for k in range(count)]
    keep: list[tuple[np.ndarray, np.ndarray, float]] | None = [] if out is not None else None
    replay = replayed(delivery, project, tape, moments, browser, keep, engine=engine)
    if out is not None and keep:
        worst = max(keep, key=lambda entry: difference(*entry).mean)
        _three(out, "html", *worst)
    return replay, delivery.report


def delivery_at(kind: str, path: Path) -> Delivery:
    """A delivery that was written earlier: one file, or all files of a folder; ``FormatError`` for what is none."""
    row = BY_KEY[kind]
    if not path.exists():
        raise FormatError(tr("There is nothing here."), str(path))
    if path.is_dir() == bool(row.ending):
        wants = tr("one file") if row.ending else tr("a folder")
        raise FormatError(tr("A delivery as {kind} is {wants}.", kind=kind, wants=wants), str(path))
    if row.ending:
        return Delivery({path.name: read_bytes(path, _MOST_BYTES)}, path.name, Report())
    found = [entry for entry in sorted(path.rglob("*")) if entry.is_file()]
    if len(found) > _MOST_FILES:
        raise FormatError(tr("There are more than {most} files in the folder.", most=_MOST_FILES), str(path))
    files = {entry.relative_to(path).as_posix(): read_bytes(entry, _MOST_BYTES) for entry in found}
    return Delivery(files, next(iter(files), ""), Report())


def _pictures(
    project: Project, subject: Subject, kind: str, wanted: Wanted, delivery: Delivery, out: Path | None
) -> Verdict:
    """The pictures of a file against those that are painted."""
    shot, cut = Shot(project, subject.show, wanted), cut_of(subject.show, wanted)
    found: list[Moment] = []
    worst: tuple[float, np.ndarray, np.ndarray, float] | None = None
    for ms, theirs in zip(cut.times, decoded(kind, delivery), strict=True):
        ours = on_paper(rgba(shot.picture(subject.show, ms)))
        theirs = theirs[: len(ours), : ours.shape[1]]  # films are padded to even sizes
        moment = difference(ours, on_paper(theirs), ms)
        found.append(moment)
        if worst is None or moment.mean > worst[0]:
            worst = (moment.mean, ours, on_paper(theirs), ms)
    if out is not None and worst is not None:
        _three(out, kind, worst[1], worst[2], worst[3])
    return Verdict(tuple(found))


def decoded(kind: str, delivery: Delivery) -> Iterator[np.ndarray]:
    """The pictures (h, w, 4) that are in a delivery."""
    if kind == "png":
        for name in sorted(delivery.files):
            with Image.open(io.BytesIO(delivery.files[name])) as image:
                yield np.asarray(image.convert("RGBA"))
        return
    if kind in ("mp4", "webm"):
        yield from _of_film(next(iter(delivery.files.values())))
        return
    if kind == "sprite":
        yield from _of_sheet(delivery)
        return
    with Image.open(io.BytesIO(next(iter(delivery.files.values())))) as image:
        for frame in ImageSequence.Iterator(image):
            yield np.asarray(frame.convert("RGBA"))


def _of_film(data: bytes) -> Iterator[np.ndarray]:
    import av

    with av.open(io.BytesIO(data), "r") as film:
        for frame in film.decode(video=0):
            plain = np.asarray(frame.to_ndarray(format="rgb24", src_colorspace="ITU709"))
            yield np.dstack([plain, np.full(plain.shape[:2], 255, np.uint8)])


def _of_sheet(delivery: Delivery) -> Iterator[np.ndarray]:
    document = msgspec.json.decode(delivery.files["sprite.json"])
    w, h = document["width"], document["height"]
    with Image.open(io.BytesIO(delivery.files["sprite.png"])) as sheet:
        for spot in document["frames"]:
            yield np.asarray(sheet.crop((spot["x"], spot["y"], spot["x"] + w, spot["y"] + h)).convert("RGBA"))


def _three(folder: Path, kind: str, designed: np.ndarray, delivered: np.ndarray, at: float) -> None:
    """As designed, as delivered and the difference, beside each other."""
    folder.mkdir(parents=True, exist_ok=True)
    low = min(len(designed), len(delivered))
    parts = [p[:low] for p in (designed, delivered, apart_picture(designed, delivered))]
    whole = np.concatenate(parts, 1)
    full = np.concatenate([whole, np.full((*whole.shape[:2], 1), 255, np.uint8)], -1)
    write_atomically(folder / f"{kind} at {at:.0f} ms.png", png(full))
