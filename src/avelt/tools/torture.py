"""Kills, full disks and damaged files, by chance from a seed (``python -m avelt.tools.torture --rounds 100``).

What must hold: after a kill at any moment of saving the file is one of the two that were being saved, whole; a disk
that is full leaves the old file; what a killed window kept aside is offered; a damaged file is refused in a sentence or
is a sound project. A few rounds of it are run by the tests.
"""

from __future__ import annotations

import argparse
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace

from avelt.core.errors import AveltError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import open_project, pack, save_project, unpack
from avelt.core.model.values import Project
from avelt.core.presets.shelf import built_in
from avelt.core.presets.team_state import Offline, Status, TeamShelf
from avelt.core.presets.values import Preset
from avelt.core.presets.values import from_json as preset_of
from avelt.core.presets.values import to_json as preset_file
from avelt.core.running.tape import read_tape
from avelt.demo.shipped import shipped_demo

_TAPE = b'{"format": 1, "events": [{"at": 1, "do": "press", "x": 3, "y": 4}], "until": 90}'
_SAVER = """
import sys
from pathlib import Path
from avelt.core.formats.project_file import open_project, save_project
from avelt.tools.torture import other_than
path, one = Path(sys.argv[1]), open_project(Path(sys.argv[1]))
two = other_than(one)
print("ready", flush=True)
while True:
    save_project(two, path)
    save_project(one, path)
"""
_KEEPER = """
import sys
from itertools import count
from pathlib import Path
from msgspec.structs import replace
from avelt.core.formats.project_file import open_project
from avelt.tools.torture import other_than
from avelt.window.shell import recovery
path, log = Path(sys.argv[1]), Path(sys.argv[2]) / "log"
project = other_than(open_project(path))
recovery._LONGEST, recovery._SHORTEST = 0, 2_000  # a record is written anew every few lines
kept = recovery.Recovery(Path(sys.argv[2]))
for number in count(1):
    frames = (replace(project.frames[0], name=str(number)), *project.frames[1:])
    kept.keep(replace(project, frames=frames), path)
    with log.open("a") as stream:
        stream.write(f"{number}\\n")
    if number == 1:
        print("ready", flush=True)
"""


_SHARER = """
import os, sys
from pathlib import Path
from avelt.core.presets.shelf import Shelf
from avelt.core.presets.team import joined
from avelt.tools.torture import SHARED, shared_preset
folder, number, log = Path(sys.argv[1]), int(sys.argv[2]), os.open(sys.argv[3], os.O_WRONLY | os.O_APPEND | os.O_CREAT)
print("ready", flush=True)
while True:
    for who in SHARED:
        number += 1
        team = joined(Shelf(folder / who / "presets"))
        team.publish([shared_preset(number)])
        os.write(log, f"{number} ".encode())
        status = team.sync(lambda words: None)
        for clash in status.conflicts:
            team.settle(clash.name, ("mine", "theirs", "both")[number % 3])
        team.close()
"""
SHARED = ("ann", "ben")
_OFTEN = 0.7


class Broken(Exception):
    """Something that must hold does not."""


def other_than(project: Project) -> Project:
    """A project that differs from another in something that is seen."""
    return replace(project, name=f"{project.name} again", frames=project.frames[::-1])


def _killed(script: str, args: list[str], wait: float) -> None:
    """Run a script, and kill it so many seconds after it began its work."""
    process = subprocess.Popen([sys.executable, "-c", script, *args], stdout=subprocess.PIPE, text=True)
    if process.stdout is None or process.stdout.readline().strip() != "ready":
        process.kill()
        raise Broken("The program did not begin.")
    time.sleep(wait)
    process.send_signal(signal.SIGKILL)
    process.wait()
    process.stdout.close()


def killed_while_saving(folder: Path, chance: random.Random) -> None:
    """A kill -9 at any moment of saving leaves one of the two files, whole, and nothing that blocks the next save."""
    path, one = folder / "killed.avelt", shipped_demo()
    save_project(one, path)
    _killed(_SAVER, [str(path)], chance.uniform(0.0, 0.25))
    found = open_project(path)
    if found not in (one, other_than(one)):
        raise Broken("After a kill the file is neither of the two.")
    save_project(one, path)


def killed_while_keeping(folder: Path, chance: random.Random) -> None:
    """What a killed window kept aside is there at the next start."""
    from avelt.window.shell.recovery import Recovery

    path, aside = folder / "kept.avelt", folder / f"state {chance.random()}"
    one = shipped_demo()
    save_project(one, path)
    _killed(_KEEPER, [str(path), str(aside)], chance.uniform(0.0, 0.2))
    kept = Recovery(aside).kept()
    said = (aside / "log").read_text().rpartition("\n")[0].rpartition("\n")[2]
    names = [entry.project.frames[0].name for entry in kept]
    if names not in ([said], [str(int(said) + 1)]):
        raise Broken(f"After a kill {said} was kept aside, and {names} is there.")
    (found,), wanted = kept, other_than(one)
    first = replace(found.project.frames[0], name=wanted.frames[0].name)
    if replace(found.project, frames=(first, *found.project.frames[1:])) != wanted or found.path != path:
        raise Broken("What was kept aside is not what was there before a kill.")


def shared_preset(number: int) -> Preset:
    """A preset that two people change all the time; its length is its number."""
    return replace(built_in()[0], name="Tide", duration=float(number))


def _synced(team: TeamShelf, there: Path) -> Status:
    """Bring a shelf and its team together; what the killed program left locked there is an old lock by then."""
    try:
        return team.sync(lambda words: None)
    except Offline:
        locks = list(there.rglob("*.lock"))
        if not locks:
            raise
        for lock in locks:
            os.utime(lock, (0, 0))
        return team.sync(lambda words: None)


def killed_while_sharing(folder: Path, chance: random.Random) -> None:
    """A kill at any moment of publishing, syncing and settling: what was published is in the history, and the shelf
    goes on."""
    from dulwich.repo import Repo

    from avelt.core.presets.shelf import Shelf
    from avelt.core.presets.team import join, joined

    there, log = folder / "team.git", folder / "log"
    there.mkdir()
    versioned = chance.random() < _OFTEN  # else a plain folder, which has no history
    if versioned:
        Repo.init_bare(str(there), default_branch=b"main").close()
    shelves = [Shelf(folder / who / "presets") for who in SHARED]
    for shelf in shelves:
        join(shelf, str(there)).close()
    last = 0
    for _ in range(3):
        _killed(_SHARER, [str(folder), str(last), str(log)], chance.uniform(0.0, 0.3))
        said = [int(word) for word in log.read_text().split()] if log.is_file() else []
        last = max([last, *said]) + 1  # one more: it may have been published and not been said
        for _ in range(4):  # until both have all
            for shelf in shelves:
                team = joined(shelf)
                for clash in _synced(team, there).conflicts:
                    team.settle(clash.name, "both")
                team.close()
        published, seen = set(said), set[int]()
        for shelf in shelves:
            team = joined(shelf)
            if team.status().conflicts or team.read().troubles:
                raise Broken("After a kill the shelf does not come to rest.")
            for name in {preset.name for preset in team.read().presets} if versioned else ():
                versions = team.history(name)
                seen |= {round(team.version(name, version.version).duration) for version in versions}
            team.close()
        if versioned and published - seen:
            raise Broken(f"Versions are lost: {sorted(published - seen)}.")


def full_disk(folder: Path, chance: random.Random) -> None:
    """A disk that takes only some of the bytes: a sentence, and the old file as it was."""
    path, one = folder / "full.avelt", shipped_demo()
    save_project(one, path)
    before = path.read_bytes()
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    old = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (chance.randrange(1, len(before) - 1), hard))
    try:
        save_project(other_than(one), path)
    except AveltError:
        pass
    else:
        raise Broken("A full disk was not noticed.")
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
        signal.signal(signal.SIGXFSZ, old)
    if path.read_bytes() != before:
        raise Broken("A full disk damaged the file.")
    if any(entry.name.endswith(".avelt-part") for entry in folder.iterdir()):
        raise Broken("A full disk left a half-written file.")


def damaged(folder: Path, chance: random.Random) -> None:
    """Bytes changed, cut out, doubled: a sentence, or a project that is sound."""
    for data, read in _FILES:
        made = _damage(data(), chance)
        try:
            found = read(made)
        except AveltError:
            continue
        if isinstance(found, Project):
            check(found)


def _damage(data: bytes, chance: random.Random) -> bytes:
    made = bytearray(data)
    for _ in range(chance.randrange(1, 6)):
        place = chance.randrange(len(made)) if made else 0
        what = chance.randrange(4)
        if what == 0 and made:
            made[place] = chance.randrange(256)
        elif what == 1:
            del made[place : place + chance.randrange(1, 400)]
        elif what == 2:
            made[place:place] = made[place : place + chance.randrange(1, 400)]
        else:
            made[place:place] = chance.randbytes(chance.randrange(1, 40))
    return bytes(made)


_FILES: tuple[tuple[Callable[[], bytes], Callable[[bytes], object]], ...] = (
    (lambda: pack(shipped_demo()), lambda data: unpack(data, "damaged")),
    (lambda: preset_file(built_in()[3]), lambda data: preset_of(data, "damaged")),
    (lambda: _TAPE, lambda data: read_tape(data, "damaged")),
)
TRIALS: tuple[Callable[[Path, random.Random], None], ...] = (
    killed_while_saving,
    killed_while_keeping,
    killed_while_sharing,
    full_disk,
    damaged,
)


def torture(rounds: int, seed: int, told: Callable[[str], object] = print) -> None:
    """Every trial so many times; ``Broken`` with the round when something does not hold."""
    for number in range(rounds):
        chance = random.Random(f"{seed} {number}")
        for trial in TRIALS:
            with tempfile.TemporaryDirectory() as folder:
                try:
                    trial(Path(folder), chance)
                except Broken as error:
                    raise Broken(f"round {number} of seed {seed}, {trial.__name__}: {error}") from None
        told(f"round {number + 1} of {rounds} holds")


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--rounds", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    torture(options.rounds, options.seed)
