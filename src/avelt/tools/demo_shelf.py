"""What the demo brings to try the shelf with: a pack of its motion, and a team's repository that needs no network."""

from __future__ import annotations

import shutil
import tempfile
from contextlib import closing
from pathlib import Path

from dulwich.repo import Repo
from msgspec.structs import replace

from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.motion import PairKey
from avelt.core.model.values import Project
from avelt.core.presets import packs, record
from avelt.core.presets.capture import capture
from avelt.core.presets.git_shelf import REPOSITORY
from avelt.core.presets.shelf import Shelf
from avelt.core.presets.team import join
from avelt.core.presets.values import Preset
from avelt.core.timing.compile import pairing_of

PACK, SHARED = f"Skerry moves{packs.PACK_ENDING}", "Skerry shelf.git"
_NOTES = "The motion of the Skerry Line demo: how its cards open, its boat arrives, its lamps and rings wait for you."


def moves(project: Project) -> list[Preset]:
    """The demo's own motion as presets, each with when to use it."""
    route = find_route(project, "Sailings > Sailing detail")
    right = find_frame(project, "Sailing detail")
    pairing = pairing_of(project, route)

    def pair(name: str) -> PairKey:
        ident = find_layer(right, name).id
        return PairKey(pairing.from_of.get(ident), ident)

    boat = next(loop for loop in right.loops if loop.name == "boat rock")
    blink = next(loop for loop in right.loops if loop.name == "seat blink")
    ring = next(loop for loop in find_frame(project, "Boarding pass").loops)
    made = (
        (capture(project, route.id, pair("Hero card"), "Card opens"), "A card becomes the screen that it stands for."),
        (capture(project, route.id, pair("Boat"), "Sails in"), "One thing arrives after all the rest stands."),
        (capture(project, route.id, pair("Board button"), "Comes from below"), "The next step, offered last."),
        (record.capture_transition(project, route.id, "From list to sailing"), "A list, and one of it in full."),
        (record.capture_loop(project, right.id, boat.id, "Boat at rest"), "Something that waits on water."),
        (record.capture_loop(project, right.id, blink.id, "Seat is free"), "A small mark that may be noticed."),
        (
            record.capture_loop(project, find_frame(project, "Boarding pass").id, ring.id, "Gate calls"),
            "A ring round what is wanted now.",
        ),
    )
    return [replace(preset, when=when, tags=("skerry",), quieter="Fade in") for preset, when in made]


def write_pack(project: Project) -> bytes:
    """The pack's bytes."""
    return packs.pack(moves(project), author="Skerry Line", licence="CC0-1.0", notes=_NOTES)


def _signed_by(repo: Repo) -> None:
    """Its commits are the ferry company's, not those of whoever runs the demo."""
    config = repo.get_config()
    config.set((b"user",), b"name", b"Skerry Line")
    config.set((b"user",), b"email", b"motion@skerry.example")
    config.write_to_path()
    repo.close()


def write_repository(project: Project, folder: Path) -> Path:
    """A bare repository with some presets, one of them in two versions; one that stands there is made anew."""
    place = folder / SHARED
    shutil.rmtree(place, ignore_errors=True)
    place.mkdir(parents=True)
    Repo.init_bare(str(place)).close()
    presets = moves(project)[:4]
    first = replace(presets[1], duration=presets[1].duration * 1.5, note="As it was first: slower.")
    with (
        tempfile.TemporaryDirectory() as name,
        closing(join(Shelf(Path(name) / "presets"), str(place), "Skerry shelf")) as shelf,
    ):
        _signed_by(Repo(str(Path(name) / "team" / REPOSITORY)))
        for preset in (presets[0], first, *presets[1:]):
            shelf.publish([preset])
        shelf.sync(lambda words: None)
    return place
