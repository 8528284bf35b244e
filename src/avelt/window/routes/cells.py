"""The matrix as data: what its cells and heads say, which of them are shown, and who is chosen. No widget here."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

from rapidfuzz import fuzz

from avelt.core.checks.routes import of_route, troubles
from avelt.core.curves.named import plain
from avelt.core.model.curves import PlainCurve
from avelt.core.model.triggers import Timer, trigger_row
from avelt.core.model.values import Frame, Project, Route
from avelt.core.model.wording import short_action, trigger_words
from avelt.core.record import Record
from avelt.core.timing.schedule import duration_of
from avelt.core.words import tr

_NEAR_NAME = 75  # of 100: how much of what is searched must be in a name
Couple = tuple[str, str]


class RouteCell(Record, frozen=True):
    """What a cell says about one route. ``wait`` is all that passes before it moves, ms."""

    route_id: str
    trigger: str
    on: str
    length: float
    wait: float
    curve: PlainCurve
    does: str
    follows: bool
    condition: str
    trouble: tuple[str, ...]


def cell_of(project: Project, route: Route) -> RouteCell:
    """One route in the words and numbers of its cell."""
    trigger, on = trigger_words(project, route)
    wait = route.delay + (route.trigger.after if isinstance(route.trigger, Timer) else 0.0)
    return RouteCell(
        route.id,
        trigger,
        on,
        duration_of(route.transition, project),
        wait,
        plain(project, route.transition.curve),
        short_action(route.action),
        trigger_row(route.trigger).follows,
        route.only_if,
        tuple(trouble.says for trouble in of_route(project, route.id)),
    )


class Filter(Record, frozen=True):
    """What is shown: frames whose name has the words in it, routes of one kind of trigger, or with trouble."""

    words: str = ""
    trigger: str = ""
    trouble: bool = False

    @property
    def shows_all(self) -> bool:
        """Whether nothing is left out."""
        return self == Filter()


class Table(Record, frozen=True):
    """Rows and columns of frames, and the routes of every couple in the project's order."""

    frames: tuple[Frame, ...]
    cells: dict[Couple, tuple[RouteCell, ...]]
    notes: dict[str, str]  # what is wrong with a frame, by its id

    def at(self, row: int, column: int) -> tuple[RouteCell, ...]:
        """The routes of a cell."""
        return self.cells.get((self.frames[row].id, self.frames[column].id), ())

    def ids(self) -> list[str]:
        """All routes that are shown, row by row."""
        n = len(self.frames)
        return [cell.route_id for row in range(n) for column in range(n) for cell in self.at(row, column)]

    def place_of(self, route_id: str) -> tuple[int, int] | None:
        """The cell of a route."""
        where = {frame.id: k for k, frame in enumerate(self.frames)}
        for (left, right), routes in self.cells.items():
            if any(cell.route_id == route_id for cell in routes):
                return where[left], where[right]
        return None


ALL = Filter()


def table_of(project: Project, wanted: Filter = ALL) -> Table:
    """The matrix of a project."""
    frames = tuple(frame for frame in project.frames if _named(frame.name, wanted.words))
    shown = {frame.id for frame in frames}
    found: dict[Couple, list[RouteCell]] = {}
    for route in project.routes:
        if route.leaves not in shown or route.arrives not in shown:
            continue
        if wanted.trigger and trigger_row(route.trigger).word != wanted.trigger:
            continue
        cell = cell_of(project, route)
        if wanted.trouble and not cell.trouble:
            continue
        found.setdefault((route.leaves, route.arrives), []).append(cell)
    return Table(frames, {couple: tuple(cells) for couple, cells in found.items()}, notes_of(project))


def notes_of(project: Project) -> dict[str, str]:
    """What is wrong with frames, in two words each."""
    words = {"unreachable": tr("no way here"), "dead end": tr("no way out")}
    return {
        frame: words[trouble.code] for trouble in troubles(project) if trouble.code in words for frame in trouble.frames
    }


def _named(name: str, words: str) -> bool:
    words = words.strip().casefold()
    return not words or words in name.casefold() or fuzz.partial_ratio(words, name.casefold()) >= _NEAR_NAME


def of_row(table: Table, row: int) -> list[str]:
    """The routes that leave a frame."""
    return [cell.route_id for column in range(len(table.frames)) for cell in table.at(row, column)]


def of_column(table: Table, column: int) -> list[str]:
    """The routes that arrive at a frame."""
    return [cell.route_id for row in range(len(table.frames)) for cell in table.at(row, column)]


def of_trigger(table: Table, word: str) -> list[str]:
    """The routes on one kind of trigger."""
    return [cell.route_id for cells in table.cells.values() for cell in cells if cell.trigger == word]


def between(table: Table, one: tuple[int, int], other: tuple[int, int]) -> list[str]:
    """The routes of the cells from one corner to the other."""
    rows, columns = sorted((one[0], other[0])), sorted((one[1], other[1]))
    return [
        cell.route_id
        for row in range(rows[0], rows[1] + 1)
        for column in range(columns[0], columns[1] + 1)
        for cell in table.at(row, column)
    ]


def changed_choice(chosen: Sequence[str], picked: Iterable[str], more: bool) -> list[str]:
    """The chosen routes after some were picked; ``more``: put to the others, or taken out when all are in."""
    picked = list(picked)
    if not more:
        return picked
    if picked and all(ident in chosen for ident in picked):
        return [ident for ident in chosen if ident not in picked]
    return [*chosen, *(ident for ident in picked if ident not in chosen)]


def shared(values: Iterable[object]) -> object:
    """The one value that all have, or ``None``."""
    found = list(values)
    return found[0] if found and all(value == found[0] for value in found) else None


def read_change(text: str) -> Callable[[float], float]:
    """What a typed change does to a length: ``240``, ``240 ms``, ``+50``, ``-20``, ``1.2x``, ``120%``.

    ``ValueError`` when it is none of these.
    """
    plain_text = text.strip().lower().replace(",", ".").replace("×", "x")
    if plain_text.endswith("x") or plain_text.startswith("x"):
        factor = float(plain_text.strip("x ").strip())
        return lambda length: length * factor
    if plain_text.endswith("%"):
        share = float(plain_text[:-1]) / 100
        return lambda length: length * share
    unit = next(unit for unit in ("ms", "s", "") if plain_text.endswith(unit))
    body = plain_text[: len(plain_text) - len(unit)].strip()
    value = float(body) * (1000.0 if unit == "s" else 1.0)
    return (lambda length: length + value) if body[:1] in "+-" else (lambda length: value)
