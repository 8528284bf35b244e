"""A Firefox without a window, spoken to over its Marionette protocol (length-prefixed JSON) on a port of loopback.

Nothing reaches the network: pages are files, and a proxy that refuses stands in front of all else.
"""

from __future__ import annotations

import base64
import contextlib
import json
import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

from avelt.browser.headless import BrowserError
from avelt.core.stopping import removed_on_stop

PROGRAMS = ("firefox-esr", "firefox")
VARIABLE = "AVELT_FIREFOX"
_PATIENCE = 60.0  # s for the start, and for one answer
_LONGEST = 256 << 20  # bytes of one answer
_SETTINGS: dict[str, object] = {
    "marionette.port": 0,
    "browser.shell.checkDefaultBrowser": False,
    "browser.startup.homepage_override.mstone": "ignore",
    "datareporting.policy.dataSubmissionEnabled": False,
    "app.update.enabled": False,
    "app.normandy.enabled": False,
    "network.captive-portal-service.enabled": False,
    "network.connectivity-service.enabled": False,
    "network.proxy.type": 1,
    "network.proxy.http": "127.0.0.1",
    "network.proxy.http_port": 9,
    "network.proxy.ssl": "127.0.0.1",
    "network.proxy.ssl_port": 9,
    "network.proxy.no_proxies_on": "",
    "network.proxy.allow_hijacking_localhost": True,
    "gfx.color_management.mode": 0,
    "toolkit.cosmeticAnimations.enabled": False,
    "ui.prefersReducedMotion": 0,
    "security.fileuri.strict_origin_policy": False,
}
#: The window may be as small as a frame, and shows the page only.
_BARE = """for (const e of [document.documentElement, document.body,
    ...document.querySelectorAll("#browser,#appcontent,#tabbrowser-tabbox,#tabbrowser-tabpanels")])
  for (const side of ["min-width", "min-height"]) e?.style.setProperty(side, "0", "important");
document.getElementById("navigator-toolbox").style.display = "none";"""
_SCALE = 'Services.prefs.setStringPref("layout.css.devPixelsPerPx", arguments[0])'
_RUN = """const done = arguments[arguments.length - 1];
(async () => await (window.wrappedJSObject || window).eval(arguments[0]))().then(
  value => done([true, value === undefined ? null : value]), error => done([false, String(error)]));"""


def find_firefox() -> str:
    """The program to start; ``BrowserError`` with what to install when there is none."""
    wanted = os.environ.get(VARIABLE)
    for name in (wanted,) if wanted else PROGRAMS:
        if found := shutil.which(name or ""):
            return found
    raise BrowserError(
        f"{wanted!r} is not a program." if wanted else "There is no Firefox on this machine.",
        hint="Install it with: apt-get install firefox-esr",
    )


class Firefox:
    """One running Firefox with one page. Use it as a context; leaving it ends the program and its folder."""

    def __init__(self, program: str | None = None) -> None:
        self._program = program or find_firefox()
        self._process: subprocess.Popen[bytes] | None = None
        self._socket: socket.socket | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._waiting = b""
        self._number = 0
        self._stop = contextlib.ExitStack()
        self._scale = 0.0

    def __enter__(self) -> Firefox:
        self._folder = tempfile.TemporaryDirectory(prefix="avelt-browser-", ignore_cleanup_errors=True)
        self._stop.enter_context(removed_on_stop(self.close))
        try:
            self._start(Path(self._folder.name))
        except BaseException:
            self.close()
            raise
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _start(self, folder: Path) -> None:
        lines = (f"user_pref({json.dumps(key)}, {json.dumps(value)});\n" for key, value in _SETTINGS.items())
        (folder / "user.js").write_text("".join(lines), encoding="utf-8")
        flags = ["--headless", "--marionette", "-remote-allow-system-access", "--no-remote"]
        quiet = subprocess.DEVNULL
        try:
            self._process = subprocess.Popen(
                [self._program, *flags, "--profile", str(folder), "about:blank"],
                stdin=quiet,
                stdout=quiet,
                stderr=quiet,
                env={**os.environ, "HOME": str(folder), "MOZ_CRASHREPORTER_DISABLE": "1"},
                start_new_session=True,
            )
        except OSError as error:
            raise BrowserError(f"{self._program} does not start: {error.strerror}.") from None
        self._socket = socket.create_connection(("127.0.0.1", self._port(folder)), timeout=_PATIENCE)
        self._message()
        limits = {"script": int(_PATIENCE * 1000), "pageLoad": int(_PATIENCE * 1000)}
        self.ask("WebDriver:NewSession", capabilities={"alwaysMatch": {"timeouts": limits}})
        self._chrome(_BARE)

    def _port(self, folder: Path) -> int:
        """The port that the browser chose, as it writes it into its folder."""
        file, end = folder / "MarionetteActivePort", time.monotonic() + _PATIENCE
        while time.monotonic() < end:
            if self._process is None or self._process.poll() is not None:
                raise BrowserError("The browser ended by itself.")
            with contextlib.suppress(OSError, ValueError):
                return int(file.read_text())
            time.sleep(0.02)
        raise BrowserError(f"The browser does not answer for {_PATIENCE:g} seconds.")

    def close(self) -> None:
        """End the program; nothing of it is left."""
        self._stop.close()
        if self._socket is not None:
            self._socket.close()
            self._socket = None
        if self._process is not None:
            with contextlib.suppress(ProcessLookupError, PermissionError):
                os.killpg(self._process.pid, signal.SIGKILL)
            self._process.wait()
            self._process = None
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None

    # Talking

    def ask(self, name: str, **values: object) -> Any:
        """One command and its answer; what goes wrong is a ``BrowserError``."""
        if self._socket is None:
            raise BrowserError("The browser ended by itself.")
        self._number += 1
        text = json.dumps([0, self._number, name, values]).encode()
        try:
            self._socket.sendall(b"%d:%s" % (len(text), text))
            _, _, error, result = self._message()
        except TimeoutError:
            raise BrowserError(f"The browser does not answer for {_PATIENCE:g} seconds.") from None
        except OSError:
            raise BrowserError("The browser ended by itself.") from None
        if error:
            raise BrowserError(f"The browser refuses {name}: {str(error.get('message', '')).splitlines()[0]}")
        return result

    def _message(self) -> Any:
        assert self._socket is not None
        while True:
            head, colon, rest = self._waiting.partition(b":")
            if colon:
                length = int(head)
                if length > _LONGEST:
                    raise BrowserError("The browser answers more than can be read.")
                if len(rest) >= length:
                    self._waiting = rest[length:]
                    return json.loads(rest[:length])
            data = self._socket.recv(1 << 20)
            if not data:
                raise BrowserError("The browser ended by itself.")
            self._waiting += data

    def _chrome(self, script: str, *values: object) -> None:
        """Run a script in the browser's own window."""
        self.ask("Marionette:SetContext", value="chrome")
        try:
            self.ask("WebDriver:ExecuteScript", script=script, args=list(values))
        finally:
            self.ask("Marionette:SetContext", value="content")

    # The page

    def open(self, path: Path, w: float, h: float, scale: float = 1.0, fragment: str = "") -> None:
        """Show a file in a window of w x h px, ``scale`` pixels to a px, and wait until it is there."""
        if scale != self._scale:
            self._chrome(_SCALE, f"{scale:g}")
            self._scale = scale
        self.ask("WebDriver:SetWindowRect", width=max(1, round(w)), height=max(1, round(h)))
        self.ask("WebDriver:Navigate", url="about:blank")  # only the fragment may differ from the page shown
        self.ask("WebDriver:Navigate", url=path.resolve().as_uri() + fragment)

    def run(self, script: str) -> Any:
        """What an expression (or the promise it gives) is worth."""
        answer = self.ask("WebDriver:ExecuteAsyncScript", script=_RUN, args=[script])["value"]
        if not answer[0]:
            raise BrowserError(f"A script fails in the browser: {answer[1].splitlines()[0]}")
        return answer[1]

    def picture(self, transparent: bool = False) -> bytes:
        """What is in the window, as PNG; the ground under it is always white."""
        return base64.b64decode(self.ask("WebDriver:TakeScreenshot", full=False)["value"])
