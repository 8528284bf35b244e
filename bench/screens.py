"""Screens as designers draw them, made random from a seed: lists, details, forms, grids, settings, plans, charts."""

from __future__ import annotations

import random
from collections.abc import Callable

from avelt.core.geometry.bezier import oval_outline
from avelt.core.model.values import Box, Frame, Group, Layer, Oval, Path, Run, Solid, Stroke, Subpath, Text

_PLACES = (
    "Outer Holm",
    "Grey Stack",
    "Sandray",
    "Long Skerry",
    "Kelp Bay",
    "North Voe",
    "Tern Point",
    "Mill Sound",
    "Hesta",
    "Brae Head",
    "Whal Ness",
    "Otter Wick",
    "Scarf Rock",
    "Lamb Holm",
    "Seal Geo",
    "Inner Sound",
)
_PALETTES = (
    ("#143640", "#2f6f94", "#d98f2e", "#5a8f5c", "#e8eff0"),
    ("#22302f", "#0e7c74", "#c9681c", "#8e2f5c", "#f6f3eb"),
    ("#1d2440", "#4a5fc1", "#e06c75", "#63b3a0", "#f1f2f8"),
    ("#30241a", "#9a6b3c", "#c0392b", "#6b7f2e", "#fbf6ee"),
)


class Maker:
    """Draws layers with fresh ids; every layer is its own origin."""

    def __init__(self, rng: random.Random) -> None:
        self.rng = rng
        self.count = 0
        self.ink, self.main, self.accent, self.other, self.ground = rng.choice(_PALETTES)

    def add(
        self, name: str, body: object, x: float, y: float, w: float, h: float, color: str = "", **own: object
    ) -> Layer:
        """A layer of any kind."""
        self.count += 1
        ident = f"S{self.count}"
        fills = (Solid(color),) if color else ()
        return Layer(ident, ident, name, body, x, y, w, h, fills=fills, **own)  # type: ignore[arg-type]

    def box(self, name: str, x: float, y: float, w: float, h: float, color: str, radius: float = 0.0) -> Layer:
        """A box with even corners."""
        return self.add(name, Box((radius,) * 4), x, y, w, h, color)

    def oval(self, name: str, x: float, y: float, d: float, color: str) -> Layer:
        """A circle."""
        return self.add(name, Oval(), x, y, d, d, color)

    def text(self, name: str, words: str, x: float, y: float, size: float, color: str = "", weight: int = 400) -> Layer:
        """One line."""
        body = Text((Run(words),), size=size, weight=weight)
        return self.add(name, body, x, y, len(words) * size * 0.52, size * 1.2, color or self.ink)

    def line(self, name: str, x: float, y: float, w: float, color: str) -> Layer:
        """A straight stroke."""
        body = Path((Subpath((0, 0, w / 3, 0, w * 2 / 3, 0, w, 0)),))
        return self.add(name, body, x, y, w, 0.0, stroke=Stroke(Solid(color), 1.0))

    def icon(self, name: str, x: float, y: float, size: float, color: str) -> Layer:
        """A little group of outlines."""
        ring = oval_outline(size, size)
        parts = [self.add("ring", Path((Subpath(tuple(ring.ravel().tolist()), True),)), 0, 0, size, size, "")]
        for k in range(self.rng.randint(1, 3)):
            parts.append(
                self.box(
                    f"bar {k + 1}", size * 0.2, size * (0.2 + 0.22 * k), size * self.rng.uniform(0.3, 0.6), 2, color
                )
            )
        return self.group(name, x, y, parts, size, size)

    def group(self, name: str, x: float, y: float, layers: list[Layer], w: float = 0.0, h: float = 0.0) -> Layer:
        """A group around its layers."""
        w = w or max((layer.x + layer.w for layer in layers), default=1.0)
        h = h or max((layer.y + layer.h for layer in layers), default=1.0)
        return self.add(name, Group(tuple(layers)), x, y, w, h)

    def place(self) -> str:
        """A made-up place."""
        return self.rng.choice(_PLACES)

    def clock(self) -> str:
        """A time of day."""
        return f"{self.rng.randint(5, 22):02d}:{self.rng.choice((0, 5, 10, 15, 20, 25, 30, 40, 45, 50)):02d}"

    def header(self, title: str) -> Layer:
        """A bar with a title and an icon."""
        return self.group(
            "Header",
            0,
            0,
            [
                self.box("Header ground", 0, 0, 360, 64, self.ground),
                self.text("Title", title, 20, 20, 24, weight=700),
                self.icon("Menu", 320, 20, 22, self.ink),
            ],
        )

    def tabs(self, words: tuple[str, ...]) -> Layer:
        """A bar of tabs at the bottom."""
        made = [self.box("Tab ground", 0, 0, 360, 56, "#ffffff")]
        step = 360 / len(words)
        for k, word in enumerate(words):
            made.append(
                self.group(
                    f"Tab {word}",
                    k * step,
                    6,
                    [
                        self.icon(f"{word} icon", step / 2 - 11, 0, 22, self.main if k == 0 else self.ink),
                        self.text(f"{word} label", word, step / 2 - 18, 26, 11),
                    ],
                    step,
                    44,
                )
            )
        return self.group("Tab bar", 0, 584, made)


def _list(m: Maker) -> list[Layer]:
    rows = []
    for k in range(m.rng.randint(4, 8)):
        where = m.place()
        rows.append(
            m.group(
                f"{where} card",
                16,
                10 + k * 78,
                [
                    m.box("Card ground", 0, 0, 328, 70, "#ffffff", 12),
                    m.box("Picture", 8, 8, 54, 54, m.rng.choice((m.main, m.accent, m.other)), 8),
                    m.text("Time", m.clock(), 76, 12, 18, weight=600),
                    m.text("Island", where, 76, 36, 13),
                    m.text("Price", f"€ {m.rng.randint(4, 60)}", 280, 24, 15, m.main),
                ],
            )
        )
    return [
        m.header(m.rng.choice(("Sailings", "Today", "Ferries"))),
        m.group("List", 0, 70, rows),
        m.tabs(("Home", "Map", "Tickets")),
    ]


def _detail(m: Maker) -> list[Layer]:
    facts = []
    for k, word in enumerate(("Deck", "Gate", "Seat", "Class")[: m.rng.randint(2, 4)]):
        facts.append(
            m.group(
                f"{word} fact",
                k * 84,
                0,
                [
                    m.text("Label", word, 0, 0, 11),
                    m.text("Value", f"{m.rng.choice('ABC')}{m.rng.randint(1, 30)}", 0, 16, 20, weight=600),
                ],
            )
        )
    return [
        m.box("Hero", 0, 0, 360, 260, m.accent),
        m.oval("Sun", 250, 40, 60, "#ffd27a"),
        m.text("Time", m.clock(), 20, 280, 34, weight=700),
        m.text("Island", m.place(), 20, 322, 18),
        m.group("Facts", 20, 366, facts),
        m.line("Divider", 20, 430, 320, m.main),
        m.text("Note", f"Calm sea, {m.rng.randint(20, 90)} minutes", 20, 446, 14),
        m.icon("Back", 16, 16, 28, "#ffffff"),
        m.group(
            "Board button",
            20,
            560,
            [
                m.box("Button ground", 0, 0, 320, 52, m.ink, 26),
                m.text("Button label", "Board this sailing", 90, 16, 16, "#ffffff"),
            ],
        ),
    ]


def _form(m: Maker) -> list[Layer]:
    made = [m.header("Your details")]
    for k, word in enumerate(("Name", "Street", "Town", "Telephone", "Mail")[: m.rng.randint(3, 5)]):
        made.append(
            m.group(
                f"{word} field",
                20,
                90 + k * 76,
                [
                    m.text("Label", word, 0, 0, 12),
                    m.box("Field", 0, 20, 320, 44, "#ffffff", 8),
                    m.text("Hint", f"Your {word.lower()}", 12, 32, 14, m.other),
                ],
            )
        )
    made += [m.oval("Check", 20, 500, 20, m.main), m.text("Terms", "I know the rules on board", 50, 502, 13)]
    made.append(
        m.group(
            "Send",
            20,
            560,
            [m.box("Send ground", 0, 0, 320, 50, m.main, 25), m.text("Send label", "Send", 140, 15, 16, "#ffffff")],
        )
    )
    return made


def _grid(m: Maker) -> list[Layer]:
    seats = []
    for row in range(m.rng.randint(5, 9)):
        for column in range(4):
            color = m.rng.choice((m.ground, m.ground, m.ground, m.main))
            seats.append(
                m.box(
                    f"Seat {row + 1}{'ABCD'[column]}",
                    70 + column * 56 + (20 if column > 1 else 0),
                    row * 46,
                    36,
                    36,
                    color,
                    8,
                )
            )
    legend = [
        m.box("Free swatch", 0, 0, 14, 14, m.ground, 4),
        m.text("Free", "Free", 22, 0, 12),
        m.box("Taken swatch", 80, 0, 14, 14, m.main, 4),
        m.text("Taken", "Taken", 102, 0, 12),
    ]
    return [
        m.header("Deck C"),
        m.group("Seats", 0, 90, seats),
        m.group("Legend", 90, 540, legend),
        m.tabs(("Deck A", "Deck B", "Deck C", "Deck D")),
    ]


def _settings(m: Maker) -> list[Layer]:
    made = [m.header("Settings")]
    for k, word in enumerate(
        ("Sounds", "News by mail", "Dark at night", "Large type", "Offline map", "Language")[: m.rng.randint(4, 6)]
    ):
        on = m.rng.random() < 0.5
        made.append(
            m.group(
                f"{word} row",
                0,
                80 + k * 60,
                [
                    m.box("Row ground", 0, 0, 360, 58, "#ffffff"),
                    m.text("Row label", word, 20, 20, 15),
                    m.group(
                        "Switch",
                        290,
                        16,
                        [
                            m.box("Track", 0, 0, 48, 26, m.main if on else m.ground, 13),
                            m.oval("Knob", 24 if on else 2, 2, 22, "#ffffff"),
                        ],
                    ),
                ],
            )
        )
    return [*made, m.text("Version", f"Version {m.rng.randint(1, 9)}.{m.rng.randint(0, 9)}", 20, 600, 11, m.other)]


def _chart(m: Maker) -> list[Layer]:
    bars = [
        m.box(f"{day} bar", 10 + k * 46, 200 - (h := m.rng.randint(20, 190)), 30, h, m.main, 4)
        for k, day in enumerate(("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"))
    ]
    labels = [
        m.text(f"{day} label", day, 14 + k * 46, 206, 11)
        for k, day in enumerate(("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"))
    ]
    lines = [m.line(f"Grid line {k + 1}", 0, k * 50, 330, m.ground) for k in range(4)]
    cards = [
        m.group(
            f"{word} card",
            k * 112,
            0,
            [
                m.box("Card ground", 0, 0, 104, 84, m.ground, 10),
                m.text("Number", str(m.rng.randint(10, 990)), 12, 14, 24, weight=700),
                m.text("Caption", word, 12, 52, 12),
            ],
        )
        for k, word in enumerate(("Crossings", "Guests", "Delays"))
    ]
    return [
        m.header("This week"),
        m.group("Chart", 16, 90, [*lines, *bars, *labels]),
        m.group("Numbers", 16, 360, cards),
        m.tabs(("Home", "Week", "Crew")),
    ]


def _plan(m: Maker) -> list[Layer]:
    made: list[Layer] = [m.box("Sea", 0, 0, 360, 640, m.main)]
    for _ in range(m.rng.randint(4, 7)):
        d = m.rng.uniform(30, 90)
        x, y = m.rng.uniform(10, 250), m.rng.uniform(60, 500)
        name = m.place()
        made.append(
            m.group(
                f"{name}",
                x,
                y,
                [
                    m.oval("Shore", 0, 0, d, "#f0e2c4"),
                    m.oval("Land", 4, 4, d - 8, m.other),
                    m.text("Place name", name, d + 4, d / 2 - 8, 12, "#ffffff"),
                ],
            )
        )
    made += [
        m.oval("Ship", m.rng.uniform(20, 300), m.rng.uniform(100, 500), 16, m.accent),
        m.icon("North", 310, 20, 30, "#ffffff"),
    ]
    made.append(
        m.group(
            "Legend card",
            16,
            540,
            [
                m.box("Legend ground", 0, 0, 328, 80, "#ffffff", 14),
                m.text("Legend title", "Where we are", 16, 14, 16, weight=600),
                m.text("Legend text", f"Next stop {m.place()}", 16, 42, 13),
            ],
        )
    )
    return made


def _profile(m: Maker) -> list[Layer]:
    badges = [
        m.group(
            f"Badge {k + 1}",
            k * 80,
            0,
            [
                m.oval("Badge ground", 0, 0, 60, m.rng.choice((m.main, m.accent, m.other))),
                m.text("Badge number", str(m.rng.randint(1, 99)), 18, 20, 16, "#ffffff"),
            ],
        )
        for k in range(4)
    ]
    rows = [
        m.group(
            f"Trip {k + 1}",
            0,
            k * 54,
            [
                m.line("Rule", 0, 0, 320, m.ground),
                m.text("Trip place", m.place(), 0, 14, 15),
                m.text("Trip day", f"{m.rng.randint(1, 28)} May", 250, 16, 13, m.other),
            ],
        )
        for k in range(m.rng.randint(3, 5))
    ]
    return [
        m.box("Cover", 0, 0, 360, 150, m.main),
        m.oval("Portrait", 130, 100, 100, m.accent),
        m.text("Person", "A guest", 140, 210, 22, weight=700),
        m.text("Since", f"On board since {m.rng.randint(1990, 2024)}", 110, 240, 13),
        m.group("Badges", 24, 280, badges),
        m.group("Trips", 20, 360, rows),
    ]


KINDS: tuple[Callable[[Maker], list[Layer]], ...] = (_list, _detail, _form, _grid, _settings, _chart, _plan, _profile)


def screen(seed: int) -> Frame:
    """One screen; the kind follows the seed, so that all kinds come equally often."""
    rng = random.Random(seed)
    maker = Maker(rng)
    layers = KINDS[seed % len(KINDS)](maker)
    return Frame(f"F{seed}", f"Screen {seed}", 360, 640, maker.ground, layers=tuple(layers))
