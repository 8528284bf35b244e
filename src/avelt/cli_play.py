"""``avelt play``: tapes played on a project, sampled and logged."""

from __future__ import annotations

import argparse
import json
import math
from pathlib import Path
from typing import Any

from avelt.cli_common import Arguments, make_folder, write_png
from avelt.core.errors import AveltError, FormatError
from avelt.core.formats.disk import read_bytes
from avelt.core.formats.project_file import open_project
from avelt.core.model.find import frame_by_id
from avelt.core.model.tapes import MOST_BYTES, MOST_MS, Tape
from avelt.core.model.values import Project
from avelt.core.running.player import LogEntry, Player
from avelt.core.running.tape import played, read_tape
from avelt.core.timing.sampling import records_of

MOST_SAMPLES = 100_000
_MOST_STEPS = 10_000_000


def build_play(parser: argparse.ArgumentParser) -> None:
    """The arguments of ``avelt play``."""
    parser.add_argument("file", type=Path)
    parser.add_argument("tapes", type=Path, nargs="+", metavar="TAPE", help="a file, or a tape kept in the project")
    when = parser.add_mutually_exclusive_group()
    when.add_argument("--at", metavar="MS[,MS...]", help="sample at these moments")
    when.add_argument("--every", type=float, metavar="MS", help="sample every so many ms")
    parser.add_argument("--step", type=float, metavar="MS", help="the clock goes in such steps; the result is the same")
    parser.add_argument("--frames", type=Path, metavar="DIR", help="a PNG a sample, named by its ms")
    parser.add_argument("--scale", type=float, default=1.0)
    parser.add_argument("--json", action="store_true")
    parser.set_defaults(run=_play)


def _play(args: Arguments) -> None:
    if not 0.01 <= args.scale <= 16:
        raise FormatError("The scale must be 0.01 to 16.")
    if args.step is not None and not (math.isfinite(args.step) and args.step > 0):
        raise FormatError("--step is a number of ms above 0.")
    project = open_project(args.file)
    tapes = [_tape(project, path) for path in args.tapes]
    documents = []
    for path, tape in zip(args.tapes, tapes, strict=True):
        folder = None if args.frames is None else args.frames / path.stem if len(tapes) > 1 else args.frames
        try:
            documents.append(_played(project, tape, args, folder))
        except AveltError as error:
            raise error.at(str(path)) from None
    if args.json:
        plain: Any = documents[0] if len(documents) == 1 else documents
        print(json.dumps(plain, ensure_ascii=False, allow_nan=False))
        return
    for path, document in zip(args.tapes, documents, strict=True):
        print(f"{path}: {len(document['samples'])} samples")
        for says in document.get("missed", ()):
            print(f"  missed: {says}")
        for entry in document["log"]:
            print(f"  {entry['at']:g} ms  {entry['what']}: {entry['says']}")


def _tape(project: Project, path: Path) -> Tape:
    """A tape by its file, or one that the project keeps by its name."""
    kept = next((tape for tape in project.tapes if tape.name == str(path)), None)
    if kept is not None and not path.exists():
        return kept
    return read_tape(read_bytes(path, MOST_BYTES), str(path))


def _moments(args: Arguments, tape: Tape) -> list[float]:
    if args.at is not None:
        try:
            found = sorted({float(part) for part in args.at.split(",")})
        except ValueError:
            raise FormatError(f"--at takes numbers parted by commas, not {args.at!r}.") from None
    elif args.every is not None:
        if not (math.isfinite(args.every) and args.every > 0):
            raise FormatError("--every is a number of ms above 0.")
        count = int(tape.until // args.every) + 1
        if count > MOST_SAMPLES:
            raise FormatError(f"At most {MOST_SAMPLES:,} samples can be taken.")
        found = [k * args.every for k in range(count)]
    else:
        found = [tape.until]
    if any(not (math.isfinite(ms) and 0.0 <= ms <= MOST_MS) for ms in found):
        raise FormatError("A moment is 0 to a day, in ms.")
    return found


def _played(project: Project, tape: Tape, args: Arguments, folder: Path | None) -> dict[str, Any]:
    step = args.step or 0.0
    if step and tape.until / step > _MOST_STEPS:
        raise FormatError(f"At most {_MOST_STEPS:,} steps of the clock can be taken.")
    samples: list[dict[str, Any]] = []
    player: Player | None = None
    picture = _painter(project, folder, args.scale) if folder is not None else None
    missed: list[str] | None = [] if tape in project.tapes else None
    for ms, player in played(project, tape, _moments(args, tape), step, missed):
        samples.append(_sample(ms, player))
        if picture is not None:
            picture(ms, player)
    log = [] if player is None else player.log
    document: dict[str, Any] = {"log": [_entry(entry) for entry in log], "samples": samples}
    return document | {"missed": missed} if missed else document


def _entry(entry: LogEntry) -> dict[str, Any]:
    """A line of the log; what frame or phase it is about only where it is about one."""
    made = {"at": entry.at, "what": entry.what, "says": entry.says, "stage": entry.stage}
    return made | {key: value for key in ("frame", "phase", "track") if (value := getattr(entry, key))}


def _painter(project: Project, folder: Path, scale: float) -> Any:
    from avelt.paint.painter import ScenePainter

    make_folder(folder)
    painter = ScenePainter(project.assets)
    return lambda ms, player: write_png(painter.render(player.scene(), scale), folder / f"{round(ms):06d}.png")


def _sample(ms: float, player: Player) -> dict[str, Any]:
    """What is on screen at a moment. ``frame`` is the one that is arrived at."""
    scene = player.scene()
    layers = records_of(scene)
    for record in layers:
        record.setdefault("path", [record["name"]])
    running = [
        {"name": entry.loop.name, "stage": entry.inside, "round": entry.stage.round, "share": entry.share}
        for entry in player.running()
    ]
    beneath = [frame_by_id(player.project, frame.id).name for frame, _ in player.world.actor.beneath]
    made: dict[str, Any] = {
        "at": ms,
        "frame": player.frame.name,
        "inputs": {entry.name: player.inputs[entry.name] for entry in player.project.inputs if entry.kind != "signal"},
        "phases": player.phases(),
        "running": running,
        "layers": layers,
    }
    if beneath:
        made["frame"], made["over"] = beneath[0], [*beneath[1:], player.frame.name]
    return made
