"""Makes the pictures in docs/screenshots from the real window and the demo: ``python -m avelt.tools.shots``."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QThreadPool
from PySide6.QtWidgets import QApplication

from avelt.browser.headless import has_browser
from avelt.core.edits.frames import remove_layer, rename_frame
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import set_duration
from avelt.core.edits.shapes import add_swatch
from avelt.core.model.curves import Named
from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.parts import find_part
from avelt.core.presets.shelf import Shelf
from avelt.deliver.kinds import KINDS
from avelt.window.routes.cells import of_column, of_row
from avelt.window.shell.main_window import MainWindow
from avelt.window.start import application, make_window
from avelt.window.timing.row_paint import ROW

if TYPE_CHECKING:
    from avelt.window.frames.station import FramesStation
    from avelt.window.handoff.station import HandoffStation
    from avelt.window.loops.station import LoopsStation
    from avelt.window.pairs.station import PairsStation
    from avelt.window.rehearse.station import RehearseStation
    from avelt.window.routes.station import RoutesStation
    from avelt.window.timing.station import TimingStation

FOLDER = Path(__file__).resolve().parents[3] / "docs" / "screenshots"


def frames(window: MainWindow) -> None:
    """The Grey Stack card chosen, with its relatives and values."""
    sailings = find_frame(window.workspace.project, "Sailings")
    window.go("frames")
    window.workspace.choose(sailings.id, find_layer(sailings, "Grey Stack card").id)


def colours(window: MainWindow) -> None:
    """A gradient on the frame, with its line and the colours."""
    detail = find_frame(window.workspace.project, "Sailing detail")
    paper = find_layer(detail, "Button paper")
    window.go("frames")
    window.workspace.choose(detail.id, paper.id)
    words = "linear-gradient(80deg, #0b6b64, #3db3a9 45%, #e8ba8c)"
    window.workspace.do("shot", lambda p: set_value(p, detail.id, paper.id, "fill", words))
    for tone in ("#0b6b64", "#c9681c", "#16323a"):
        window.workspace.do("shot", partial(add_swatch, text=tone))
    station = cast("FramesStation", window.stations["frames"])
    station.board.viewport.fit_to(detail, (0.0, 430.0, 590.0, 215.0))
    row = next(k for k, entry in enumerate(station.values.rows) if entry.name == "fill")
    item = station.values.table.item(row, 2)
    if item is not None:
        station.values.open_colours(item)
    station.colours.panel.move(station.width() - station.colours.panel.width() - 24, 104)


def _back(window: MainWindow) -> None:
    """As it was before a picture changed the demo."""
    station = cast("FramesStation", window.stations["frames"])
    station.colours.close_panel()
    station.board.viewport.fit()
    while window.workspace.session.undo_label == "shot":
        window.do("undo")


def routes(window: MainWindow) -> None:
    """The matrix, the first route half way in its card."""
    _back(window)
    window.go("routes")
    _hold(window, 192.0)


def together(window: MainWindow) -> None:
    """All routes between the tabs and the way to the pass, to be changed together."""
    station = cast("RoutesStation", window.stations["routes"])
    table = station.matrix.table
    station.matrix.choose([*of_row(table, 0), *of_column(table, 0)])
    _hold(window, 150.0)


def pairs(window: MainWindow) -> None:
    """The pair that wants to be looked at."""
    window.workspace.choose_route(find_route(window.workspace.project, "Sailings > Sailing detail").id)
    window.go("pairs")


def ghost(window: MainWindow) -> None:
    """A layer that enters, with its ghost on the frame that does not have it."""
    station = cast("PairsStation", window.stations["pairs"])
    detail = find_frame(window.workspace.project, "Sailing detail")
    station.choose("to", find_layer(detail, "Deck note").id)


def timing(window: MainWindow) -> None:
    """The moment 192 ms, one layer opened."""
    window.go("timing")
    station = cast("TimingStation", window.stations["timing"])
    row = next(r for r in station.sheet.body.rows if r.left_name == "Grey Stack card")
    station.pick(row.key)
    if not row.open:
        station.toggle(row.ends)
    place = next(r for r in station.sheet.body.rows if r.prop == "position")
    station.pick(place.key)
    _hold(window, 192.0)


def motion_path(window: MainWindow) -> None:
    """A way that is bent, moments before and after, where layers come from; nothing of it is kept."""
    station = cast("TimingStation", window.stations["timing"])
    station.toggle(station.sheet.body.rows[[r.open for r in station.sheet.body.rows].index(True)].ends)
    row = next(r for r in station.sheet.body.rows if r.right_name == "Board button")
    station.pick(row.key)
    card = next(r for r in station.sheet.body.rows if r.right_name == "Hero card")
    station.pick(card.key)
    _hold(window, 190.0)
    station.now.layer_dragged.emit(90.0, 30.0)
    station.now.dropped.emit()
    station.clock.seek(240.0)
    station.panel.skins.setChecked(True)
    station.panel.clips.setChecked(False)
    station.sheet.scroller.verticalScrollBar().setValue(5 * ROW)


def tryouts(window: MainWindow) -> None:
    """Three versions in step; kept as long as the picture takes."""
    station = cast("TimingStation", window.stations["timing"])
    window.do("undo")
    station.panel.skins.setChecked(False)
    station.panel.clips.setChecked(True)
    station.try_out()
    station.tryouts.add()
    quick, slow = station.tryouts.panel.columns[1:]
    quick.length.committed.emit(320.0)
    slow.wishes.curved.emit(slow.view.ident if slow.view else "", Named("buoy"))
    slow.length.committed.emit(640.0)
    _hold(window, 140.0)


def entrance(window: MainWindow) -> None:
    """The pass, loaded, shows its code wave by wave."""
    station = cast("TimingStation", window.stations["timing"])
    station.try_out()
    for _ in range(5):
        window.do("undo")
    station.entrances.show(find_frame(window.workspace.project, "Boarding pass").id)
    _hold(window, 210.0)


def loops(window: MainWindow) -> None:
    """The seal of the demo: limbs, a tail that changes shape, a head that looks round, a blink that holds."""
    cast("TimingStation", window.stations["timing"]).entrances.show("")
    seal = find_part(window.workspace.whole, "Harbour seal")
    window.workspace.open_part(seal.id)
    window.go("loops")
    head = next(loop for loop in window.workspace.project.frames[0].loops if loop.name == "looks round")
    cast("LoopsStation", window.stations["loops"]).choose(head.id)
    _hold(window, 3600.0)


def order(window: MainWindow) -> None:
    """The running order of the tide pull, while it is drawn."""
    window.workspace.close_part(0)
    window.workspace.open_part(find_part(window.workspace.whole, "Tide pull").id)
    station = cast("LoopsStation", window.stations["loops"])
    window.go("loops")
    station.clock.stop()
    station.play_of.set_input("held", True)
    station.play_of.set_input("pull", 0.6)
    draw = window.workspace.project.tracks[0].phases[1]
    station.orders.choose(draw.id)
    station.clock.ms += 300.0
    station.clock.ticked.emit(station.clock.ms)


def follows(window: MainWindow) -> None:
    """The header of the long list, driven by hand over the scrolling."""
    window.workspace.close_part(0)
    window.go("loops")
    window.workspace.choose(find_frame(window.workspace.project, "All sailings").id)
    station = cast("LoopsStation", window.stations["loops"])
    station.show_view(2)
    station.clock.stop()
    station.travel.drive(96.0)
    station.clock.seek(station.clock.ms + 45.0)


def rehearse(window: MainWindow) -> None:
    """A tape of the demo: the list is scrolled, a star under the pointer is pressed."""
    window.workspace.close_part(0)
    window.go("rehearse")
    station = cast("RehearseStation", window.stations["rehearse"])
    station.clock.stop()
    station.open_tape(window.workspace.project.tapes[-1].name)
    station.clock.stop()
    station.top.finger.setChecked(True)
    for _ in range(48):
        station.clock.advance(100.0)
    station.clock.seek(1_735.0)


def handoff(window: MainWindow) -> None:
    """The kinds with their sizes, and the styles beside the design."""
    frame = window.workspace.project.frames[0]
    window.workspace.choose(frame.id, find_layer(frame, "Header").id)
    window.go("handoff")
    station = cast("HandoffStation", window.stations["handoff"])
    station.moment.setValue(80)
    end = time.monotonic() + 40.0
    while time.monotonic() < end:
        QThreadPool.globalInstance().waitForDone(50)
        QApplication.processEvents()
        seen = station.pictures.images[1] is not None and "css" in station.verdicts
        if len(station.made) == len(KINDS) and (seen or not has_browser()):
            break


def shelf(window: MainWindow) -> None:
    """Three presets, kept from the demo's own motion."""
    window.go("timing")
    station = cast("TimingStation", window.stations["timing"])
    for name, layer in (("Photo opens", "Hero card"), ("Tide in", "Board button"), ("Slip under", "Sandray card")):
        row = next(r for r in station.sheet.body.rows if not r.prop and layer in (r.left_name, r.right_name))
        station.pick(row.key)
        window.keep_preset(name)
    window.shelf.choose("Photo opens")
    window.shelf.clock.stop()
    window.shelf.clock.seek(210.0)
    _hold(window, 192.0)


def dark(window: MainWindow) -> None:
    """Timing in the dark theme."""
    if window.shelf.isVisible():
        window.shelf.close_shelf()
    timing(window)
    window.said.clear()  # what was said about the shelf would be there or not, as quick as the machine is
    window.do("dark")


def part(window: MainWindow) -> None:
    """The uppermost card of Sailings as a part that is open, with a second pose."""
    window.do("dark")
    window.go("frames")
    station = cast("FramesStation", window.stations["frames"])
    sailings = find_frame(window.workspace.project, "Sailings")
    window.workspace.choose(sailings.id, find_layer(sailings, "Outer Holm card").id)
    station.do("part_make")
    station.do("part_open")
    window.do("next_state")
    pose = window.workspace.project.frames[1]
    card = find_layer(pose, "Outer Holm card")
    window.workspace.do("shot", lambda p: set_value(p, pose.id, card.children[-1].id, "hidden", True))
    window.workspace.do("shot", lambda p: rename_frame(p, pose.id, "sold out"))
    window.workspace.do("shot", lambda p: set_value(p, pose.id, card.id, "opacity", 0.6))
    window.workspace.choose(pose.id, card.id)
    window.said.clear()


def checks(window: MainWindow) -> None:
    """What the checks find when a transition takes too long and a layer that a trigger needs is gone."""
    window.workspace.close_part(0)
    detail = find_route(window.workspace.project, "Sailing detail > Boarding pass")
    gate = find_frame(window.workspace.project, "Boarding pass")
    window.workspace.do("shot", lambda p: set_duration(p, detail.id, 1_900.0))
    window.workspace.do("shot", lambda p: remove_layer(p, gate.id, find_layer(gate, "Gate").id))
    window.workspace.choose_route(detail.id)
    window.go("routes")
    _hold(window, 400.0)
    window.do("checks")
    QThreadPool.globalInstance().waitForDone()
    for _ in range(3):
        QApplication.processEvents()
    panel = window.checking.panel
    place = next(k for k, entry in enumerate(panel.shown) if entry.check.code == "too long")
    panel.list.setCurrentIndex(panel.list.model().index(place, 0))
    window.said.clear()


def _hold(window: MainWindow, ms: float) -> None:
    clock = window.clock()
    if clock is None:
        return
    clock.stop()
    clock.seek(ms)


SHOTS: tuple[Callable[[MainWindow], None], ...] = (
    frames,
    colours,
    routes,
    together,
    pairs,
    ghost,
    timing,
    motion_path,
    tryouts,
    entrance,
    loops,
    order,
    follows,
    rehearse,
    handoff,
    shelf,
    dark,
    part,
    checks,
)


def main(folder: Path = FOLDER) -> None:
    """Make all of them."""
    app = application()
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as kept:
        window = make_window(None, True, False, Shelf(Path(kept)))
        window.resize(1280, 800)
        window.show()
        for shot in SHOTS:
            shot(window)
            for _ in range(4):
                app.processEvents()
            window.grab().save(str(folder / f"{shot.__name__}.png"))
        window.workspace.session.saved()
        app.removeEventFilter(window)
        window.close()
        window.deleteLater()
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)


if __name__ == "__main__":
    main(Path(sys.argv[1])) if len(sys.argv) > 1 else main()
