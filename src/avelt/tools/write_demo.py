"""Writes the demo project and one of every export into a folder; needs no display."""

from __future__ import annotations

from pathlib import Path

from avelt.core.errors import FileError
from avelt.core.formats.disk import write_atomically
from avelt.core.formats.project_file import save_project
from avelt.core.handoff.delivery import Wanted
from avelt.core.model.find import find_layer, find_route, frame_by_id
from avelt.core.model.motion import PairKey
from avelt.core.presets.capture import capture
from avelt.core.presets.values import ENDING, to_json
from avelt.core.timing.compile import compile_route, compile_still, pairing_of
from avelt.deliver.kinds import BY_KEY
from avelt.deliver.writing import Order, write_all
from avelt.demo.build import build_demo
from avelt.paint.fonts import measure_text
from avelt.paint.letters import QtLetters
from avelt.paint.moving import png_bytes
from avelt.paint.painter import ScenePainter
from avelt.tools.demo_shelf import PACK, write_pack, write_repository


def write_demo(folder: Path) -> list[Path]:
    """The files that were written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"The folder cannot be made: {error.strerror}.", str(folder)) from None
    project = build_demo(measure_text)
    painter = ScenePainter(project.assets)
    written: list[Path] = []

    def write(name: str, data: bytes) -> None:
        write_atomically(folder / name, data)
        written.append(folder / name)

    preview = png_bytes(painter.render(compile_still(project.frames[0], project).at(0.0), 0.5))
    path = folder / "Skerry Line.avelt"
    save_project(project, path, preview)
    written.append(path)
    for frame in project.frames:
        write(f"{frame.name}.png", png_bytes(painter.render(compile_still(frame, project).at(0.0), 2.0)))
    route = find_route(project, "Sailings > Sailing detail")
    program = compile_route(project, route)
    write("Sailings to Sailing detail at 192 ms.png", png_bytes(painter.render(program.from_start(192.0), 2.0)))
    order = Order(project, f"route:{route.id}", tuple(BY_KEY), Wanted(), folder)
    written += [folder / name for name in write_all(order, QtLetters(), lambda done, whole: True).names]
    card = find_layer(frame_by_id(project, route.leaves), "Grey Stack photo").id
    preset = capture(project, route.id, PairKey(card, pairing_of(project, route).to_of.get(card)), "Card opens")
    write(f"card-opens{ENDING}", to_json(preset))
    write(PACK, write_pack(project))
    written.append(write_repository(project, folder))
    return written
