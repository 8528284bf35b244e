"""The browser engines that deliveries are looked at in: declared once, by name."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from pathlib import Path
from typing import Any, Protocol

from avelt.browser.firefox import Firefox, find_firefox
from avelt.browser.headless import Browser, BrowserError, find_browser
from avelt.core.record import Record


class Shown(Protocol):
    """A running browser with one page."""

    def open(self, path: Path, w: float, h: float, scale: float = 1.0, fragment: str = "") -> None:
        """Show a file in a window of w x h px and wait until it is there."""

    def run(self, script: str) -> Any:
        """The value of an expression, or of the promise that it gives."""

    def picture(self, transparent: bool = False) -> bytes:
        """The window's content as PNG."""

    def close(self) -> None:
        """End the program."""


class Engine(Record, frozen=True):
    """One engine: how its program is found (``BrowserError`` where there is none) and started."""

    find: Callable[[], str]
    start: Callable[[], AbstractContextManager[Shown]]


ENGINES: dict[str, Engine] = {"chromium": Engine(find_browser, Browser), "firefox": Engine(find_firefox, Firefox)}


def has_engine(name: str) -> bool:
    """Whether an engine is on this machine."""
    try:
        ENGINES[name].find()
    except BrowserError:
        return False
    return True


@contextmanager
def opened(browser: Shown | None = None, engine: str = "chromium") -> Iterator[Shown]:
    """The browser given, or one of its own for this while."""
    if browser is not None:
        yield browser
        return
    with ENGINES[engine].start() as made:
        yield made
