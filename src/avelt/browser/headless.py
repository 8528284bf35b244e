"""A Chromium without a window, spoken to over two pipes in the Chrome DevTools Protocol.

Nothing of it opens a port or the network: pages are files, and what they ask for elsewhere is refused.
"""

from __future__ import annotations

import base64
import contextlib
import fcntl
import json
import os
import select
import shutil
import signal
import tempfile
import time
from pathlib import Path
from typing import Any

from avelt.core.errors import AveltError
from avelt.core.stopping import removed_on_stop

#: Where a browser may be, most wanted first; the variable of the environment comes before all.
PROGRAMS = ("chromium", "chromium-browser", "chromium-headless-shell")
VARIABLE = "AVELT_BROWSER"
_FLAGS = (
    "--headless=new",
    "--remote-debugging-pipe",
    "--no-first-run",
    "--no-default-browser-check",
    "--disable-gpu",
    "--disable-quic",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-extensions",
    "--hide-scrollbars",
    "--mute-audio",
    "--force-color-profile=srgb",
    "--disable-lcd-text",
    "--font-render-hinting=none",
    "--host-resolver-rules=MAP * ~NOTFOUND",
    "--allow-file-access-from-files",
)
_PATIENCE = 30.0  # s for one answer
_CHUNK = 1 << 16


class BrowserError(AveltError):
    """The browser is not there, does not start, or does not answer."""


def find_browser() -> str:
    """The program to start; ``BrowserError`` with what to install when there is none."""
    wanted = os.environ.get(VARIABLE)
    for name in (wanted,) if wanted else PROGRAMS:
        found = shutil.which(name or "")
        if found:
            return found
    raise BrowserError(
        f"{wanted!r} is not a program." if wanted else "There is no Chromium on this machine.",
        hint="Install it with: apt-get install chromium",
    )


def has_browser() -> bool:
    """Whether deliveries can be looked at in a browser here."""
    try:
        find_browser()
    except BrowserError:
        return False
    return True


class Browser:
    """One running browser with one page. Use it as a context; leaving it ends the program and its folder."""

    def __init__(self, program: str | None = None) -> None:
        self._program = program or find_browser()
        self._number = 0
        self._stop = contextlib.ExitStack()
        self._waiting = bytearray()
        self._pid = 0
        self._session = ""
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def __enter__(self) -> Browser:
        self._folder = tempfile.TemporaryDirectory(prefix="avelt-browser-", ignore_cleanup_errors=True)
        self._stop.enter_context(removed_on_stop(self.close))
        try:
            self._start(Path(self._folder.name))
            target = self.ask("Target.createTarget", url="about:blank")["targetId"]
            self._session = self.ask("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
            self.ask("Page.enable")
        except BaseException:
            self.close()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _start(self, folder: Path) -> None:
        theirs_in, self._out = (_high(fd) for fd in os.pipe())
        self._in, theirs_out = (_high(fd) for fd in os.pipe())
        flags = [*_FLAGS, f"--user-data-dir={folder / 'data'}"]
        if os.geteuid() == 0:
            flags.append("--no-sandbox")
        quiet = _high(os.open(os.devnull, os.O_RDWR))
        env = {**os.environ, "HOME": str(folder), "XDG_CONFIG_HOME": str(folder), "XDG_CACHE_HOME": str(folder)}
        try:
            self._pid = os.posix_spawn(
                self._program,
                [self._program, *flags],
                env,
                file_actions=[
                    (os.POSIX_SPAWN_DUP2, theirs_in, 3),
                    (os.POSIX_SPAWN_DUP2, theirs_out, 4),
                    *((os.POSIX_SPAWN_DUP2, quiet, fd) for fd in (0, 1, 2)),
                ],
                setpgroup=0,
            )
        except OSError as error:
            raise BrowserError(f"{self._program} does not start: {error.strerror}.") from None
        finally:
            for fd in (theirs_in, theirs_out, quiet):
                os.close(fd)

    def close(self) -> None:
        """End the program; nothing of it is left."""
        self._stop.close()
        if self._pid:
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.killpg(self._pid, signal.SIGKILL)
            with contextlib.suppress(ChildProcessError):
                os.waitpid(self._pid, 0)
            self._pid = 0
            for fd in (self._in, self._out):
                os.close(fd)
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None

    # Talking

    def ask(self, method: str, **values: object) -> dict[str, Any]:
        """One command and its answer; what goes wrong is a ``BrowserError``."""
        self._number += 1
        message: dict[str, Any] = {"id": self._number, "method": method, "params": values}
        if self._session:
            message["sessionId"] = self._session
        try:
            rest = memoryview(json.dumps(message).encode() + b"\0")
            while rest:
                rest = rest[os.write(self._out, rest) :]
        except OSError:
            raise BrowserError("The browser ended by itself.") from None
        end = time.monotonic() + _PATIENCE
        while True:
            answer = self._message(end)
            if answer.get("id") == self._number:
                if "error" in answer:
                    raise BrowserError(f"The browser refuses {method}: {answer['error'].get('message', '')}.")
                result: dict[str, Any] = answer.get("result", {})
                return result

    def _message(self, end: float) -> dict[str, Any]:
        while True:
            cut = self._waiting.find(b"\0")
            if cut >= 0:
                text = bytes(self._waiting[:cut])
                del self._waiting[: cut + 1]
                made: dict[str, Any] = json.loads(text)
                return made
            ready, _, _ = select.select([self._in], [], [], max(0.0, end - time.monotonic()))
            if not ready:
                raise BrowserError(f"The browser does not answer for {_PATIENCE:g} seconds.")
            data = os.read(self._in, _CHUNK)
            if not data:
                raise BrowserError("The browser ended by itself.")
            self._waiting += data

    # The page

    def open(self, path: Path, w: float, h: float, scale: float = 1.0, fragment: str = "") -> None:
        """Show a file in a window of w x h px, ``scale`` pixels to a px, and wait until it is there."""
        self.ask(
            "Emulation.setDeviceMetricsOverride",
            width=max(1, round(w)),
            height=max(1, round(h)),
            deviceScaleFactor=scale,
            mobile=False,
        )
        answer = self.ask("Page.navigate", url=path.resolve().as_uri() + fragment)
        if answer.get("errorText"):
            raise BrowserError(f"The browser cannot open {path.name}: {answer['errorText']}.")
        self.run("new Promise(done => document.readyState === 'complete' ? done(0) : addEventListener('load', done))")

    def run(self, script: str) -> Any:
        """What an expression (or the promise it gives) is worth."""
        answer = self.ask("Runtime.evaluate", expression=script, awaitPromise=True, returnByValue=True)
        if "exceptionDetails" in answer:
            details = answer["exceptionDetails"]
            words = details.get("exception", {}).get("description", details.get("text", ""))
            raise BrowserError(f"A script fails in the browser: {str(words).splitlines()[0]}")
        return answer.get("result", {}).get("value")

    def picture(self, transparent: bool = False) -> bytes:
        """What is in the window, as PNG."""
        if transparent:
            self.ask("Emulation.setDefaultBackgroundColorOverride", color={"r": 0, "g": 0, "b": 0, "a": 0})
        return base64.b64decode(self.ask("Page.captureScreenshot", format="png")["data"])


def _high(fd: int) -> int:
    """The same pipe under a number that the program's own 0 to 4 do not meet, closed in every program started."""
    made = fcntl.fcntl(fd, fcntl.F_DUPFD_CLOEXEC, 10)
    os.close(fd)
    return made
