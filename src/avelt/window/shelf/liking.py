"""What this person likes and used last on the shelf, remembered; and the choices by which the shelf is narrowed."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Sequence

from avelt.core.presets import where_used
from avelt.core.presets.moves import WORDS, moves
from avelt.core.presets.values import Preset
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.common.remembered import Remembered

_MOST = 200
SHORT, LONG = 250.0, 500.0  # ms


class Liking:
    """Names of favourites, and of presets in the order in which they were put on last."""

    def __init__(self, memory: Callable[[], Remembered], here: Callable[[], Collection[str]] = tuple) -> None:
        self._memory = memory
        self.here = here  # the names of those that the open project links to

    def _names(self, key: str) -> list[str]:
        try:
            found = json.loads(self._memory().text(key, "[]"))
        except ValueError:
            return []
        return [name for name in found if isinstance(name, str)] if isinstance(found, list) else []

    def favourites(self) -> list[str]:
        """The favourites."""
        return self._names("favourite presets")

    def used(self) -> list[str]:
        """Those that were put on, the last one first."""
        return self._names("presets used")

    def toggle(self, name: str) -> bool:
        """Make one a favourite, or none any more; whether it is one now."""
        now = self.favourites()
        on = name not in now
        made = [*now, name] if on else [other for other in now if other != name]
        self._memory().keep("favourite presets", json.dumps(made[-_MOST:]))
        return on

    def use(self, name: str) -> None:
        """One was put on."""
        made = [name, *(other for other in self.used() if other != name)][:_MOST]
        self._memory().keep("presets used", json.dumps(made))


class Only(Record, frozen=True):
    """One way to narrow the shelf: its words, and what is left of some presets, in their order."""

    words: str
    keep: Callable[[Sequence[Preset], Liking], list[Preset]]


def _where(holds: Callable[[Preset], bool]) -> Callable[[Sequence[Preset], Liking], list[Preset]]:
    return lambda presets, liking: [preset for preset in presets if holds(preset)]


def _favourites(presets: Sequence[Preset], liking: Liking) -> list[Preset]:
    wanted = set(liking.favourites())
    return [preset for preset in presets if preset.name in wanted]


def _used(presets: Sequence[Preset], liking: Liking) -> list[Preset]:
    order = {name: k for k, name in enumerate(liking.used())}
    return sorted((preset for preset in presets if preset.name in order), key=lambda preset: order[preset.name])


def _here(presets: Sequence[Preset], liking: Liking) -> list[Preset]:
    wanted = set(liking.here())
    return [preset for preset in presets if preset.name in wanted]


def _anywhere(presets: Sequence[Preset], liking: Liking) -> list[Preset]:
    wanted = {*where_used.used(), *liking.here()}
    return [preset for preset in presets if preset.name in wanted]


def _moves(word: str) -> Callable[[Preset], bool]:
    return lambda preset: word in moves(preset)


ONLY: tuple[Only, ...] = (
    Only(tr("all of them"), lambda presets, liking: list(presets)),
    Only(tr("favourites"), _favourites),
    Only(tr("used lately"), _used),
    Only(tr("linked in this file"), _here),
    Only(tr("linked in any file"), _anywhere),
    Only(tr("up to {short:g} ms", short=SHORT), _where(lambda preset: 0.0 < preset.duration <= SHORT)),
    Only(
        tr("{short:g} to {long:g} ms", short=SHORT, long=LONG), _where(lambda preset: SHORT < preset.duration <= LONG)
    ),
    Only(tr("above {long:g} ms", long=LONG), _where(lambda preset: preset.duration > LONG)),
    *(Only(tr("moves {word}", word=word), _where(_moves(word))) for word in WORDS),
)
