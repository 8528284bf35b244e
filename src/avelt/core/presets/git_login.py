"""Talking to a repository as git on this machine would: with its helpers for names and passwords, and its ssh.

Nothing that is asked of them is kept or logged; nobody is asked in a terminal, which may not be there.
"""

from __future__ import annotations

import os
import subprocess
from collections.abc import Callable
from shutil import which
from typing import NamedTuple, TypeVar
from urllib.parse import urlsplit

from dulwich.client import GitClient, HTTPUnauthorized, get_credentials_from_store, get_transport_and_path
from dulwich.config import Config, ConfigFile, StackedConfig
from urllib3.util.retry import Retry

from avelt.core.presets.team_state import Offline
from avelt.core.words import tr

T = TypeVar("T")
_PATIENCE = 120.0  # seconds that a helper may take: it may show a window of its own
SILENCE = 10.0  # seconds that a server may say nothing
_SSH = "ssh -o BatchMode=yes -o ConnectTimeout=10 -o ServerAliveInterval=5 -o ServerAliveCountMax=2"


class Login(NamedTuple):
    """A name and a password, for as long as something is sent or fetched."""

    username: str
    password: str


def talk(where: str, use: Callable[[GitClient, str], T]) -> T:
    """What ``use`` gives with a client for an address and the path there. Where a name and a password are asked for it
    is done again with those that git has; ``Offline`` when it has none, or they are refused."""
    login: Login | None = None
    config = _patient(StackedConfig.default())
    while True:
        name, password = login or (None, None)
        client, path = get_transport_and_path(
            where, config=config, quiet=True, username=name, password=password, ssh_command=_ssh(config)
        )
        pool = getattr(client, "pool_manager", None)
        if pool is not None:  # a server that is silent once is not asked again
            pool.connection_pool_kw["retries"] = Retry(total=5, connect=0, read=0)
        try:
            return use(client, path)
        except HTTPUnauthorized:
            if login is not None:
                raise Offline(
                    tr("The team's shelf refuses the name and password that git has for it."), where
                ) from None
            login = _login(where)
            if login is None:
                words = tr("The team's shelf asks for a name and a password, and git on this machine has none for it.")
                raise Offline(words, where) from None
        finally:
            client.close()
            if pool is not None:  # dulwich leaves connections open for later
                pool.clear()


def _patient(config: StackedConfig) -> StackedConfig:
    """The configuration of git with an end to waiting for a server, before all else that says one."""
    own = ConfigFile()
    own.set((b"http",), b"timeout", str(SILENCE).encode())
    return StackedConfig([own, *config.backends])


def _ssh(config: Config) -> str | None:
    """The ssh that git would run; its own without questions."""
    try:
        config.get((b"core",), b"sshCommand")
    except KeyError:
        return os.environ.get("GIT_SSH_COMMAND") or _SSH
    return os.environ.get("GIT_SSH_COMMAND") or None


def _login(where: str) -> Login | None:
    """The name and password for an address of git's helpers; without git those of its store."""
    address = urlsplit(where)
    if which("git"):
        return _filled(where)
    settings = os.environ.get("XDG_CONFIG_HOME") or os.path.expanduser("~/.config")
    files = [os.path.expanduser("~/.git-credentials"), os.path.join(settings, "git", "credentials")]
    host = address.hostname or ""
    for user, password in get_credentials_from_store(address.scheme, host, address.username, files):
        return Login(user, password)
    return None


def _filled(where: str) -> Login | None:
    """What ``git credential fill`` says (gitcredentials(7))."""
    quiet = {**os.environ, "GIT_TERMINAL_PROMPT": "0"}
    try:
        said = subprocess.run(
            ["git", "credential", "fill"],
            input=f"url={where}\n\n",
            capture_output=True,
            text=True,
            timeout=_PATIENCE,
            check=False,
            env=quiet,
        )
    except (OSError, subprocess.TimeoutExpired, UnicodeDecodeError):
        return None
    found = dict(line.split("=", 1) for line in said.stdout.splitlines() if "=" in line)
    if said.returncode or not found.get("password"):
        return None
    return Login(found.get("username", ""), found["password"])
