"""Where deliveries go: into memory, or onto the disk, whole or not at all."""

from __future__ import annotations

import contextlib
import io
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from typing import BinaryIO, Protocol

from avelt.core.errors import FileError
from avelt.core.formats.disk import unfinished_folder
from avelt.core.words import tr


class Sink(Protocol):
    """Takes files by their names."""

    def open(self, name: str) -> contextlib.AbstractContextManager[BinaryIO]:
        """A file to write into; it can be gone back in."""


class MemorySink:
    """Keeps all files."""

    def __init__(self) -> None:
        self.files: dict[str, bytes] = {}

    @contextmanager
    def open(self, name: str) -> Iterator[BinaryIO]:
        """A file to write into."""
        stream = io.BytesIO()
        yield stream
        self.files[name] = stream.getvalue()


class Below:
    """Another sink, with every name changed on the way."""

    def __init__(self, sink: Sink, named: Callable[[str], str]) -> None:
        self._sink, self._named = sink, named

    def open(self, name: str) -> contextlib.AbstractContextManager[BinaryIO]:
        """A file to write into."""
        return self._sink.open(self._named(name))


class DiskSink:
    """Writes beside the place wanted, and puts all in its place at the end: used as a context, and nothing half made
    is left when it is left by an error.

    ``target`` is a folder, or with ``single`` the one file that is delivered. Files of a folder that are not delivered
    again stay as they are.
    """

    def __init__(self, target: Path, single: bool) -> None:
        self._target, self._single = target, single
        self._folder: Path | None = None
        self._stack = contextlib.ExitStack()
        self.names: list[str] = []

    def __enter__(self) -> DiskSink:
        parent = self._target.parent if self._single else self._target
        try:
            if not self._single:
                self._target.mkdir(parents=True, exist_ok=True)
            elif self._target.is_dir():
                raise FileError(tr("This is a folder, and a file is to be written."), str(self._target))
            self._folder = self._stack.enter_context(unfinished_folder(parent))
        except OSError as error:
            raise FileError(
                tr("It cannot be written here: {strerror}.", strerror=error.strerror or error), str(self._target)
            ) from None
        return self

    @contextmanager
    def open(self, name: str) -> Iterator[BinaryIO]:
        """A file to write into."""
        if self._folder is None:
            raise ValueError("the sink is not open")
        if PurePosixPath(name).is_absolute() or ".." in PurePosixPath(name).parts:
            raise ValueError(tr("{name!r} is no name in a folder", name=name))
        path = self._folder / name
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with path.open("w+b") as stream:
                yield stream
                stream.flush()
                os.fsync(stream.fileno())
        except OSError as error:
            raise FileError(
                tr("It cannot be written: {strerror}.", strerror=error.strerror or error), str(self._target)
            ) from None
        self.names.append(name)

    def __exit__(self, kind: object, *_: object) -> None:
        folder = self._folder
        if folder is None:
            return
        try:
            if kind is None:
                for name in self.names:
                    goal = self._target if self._single else self._target / name
                    goal.parent.mkdir(parents=True, exist_ok=True)
                    os.replace(folder / name, goal)
        except OSError as error:
            raise FileError(
                tr("It cannot be written: {strerror}.", strerror=error.strerror or error), str(self._target)
            ) from None
        finally:
            self._stack.close()
