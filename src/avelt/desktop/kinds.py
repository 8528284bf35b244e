"""The kinds of files that are Avelt's, declared once: MIME type, ending, what they are, and how one begins."""

from __future__ import annotations

from avelt.core.record import Record

APP_ID = "org.avelt.Avelt"


class FileKind(Record, frozen=True):
    """``within``: the type that it is a special one of. ``magic``: (offset, text) pairs that all stand in it."""

    mime: str
    ending: str
    says: str
    within: str
    magic: tuple[tuple[int, str], ...] = ()


KINDS: tuple[FileKind, ...] = (
    FileKind(
        "application/x-avelt",
        ".avelt",
        "Avelt project",
        "application/zip",
        ((0, "PK\\003\\004"), (30, "mimetypeapplication/x-avelt")),
    ),
    FileKind("application/x-avelt-preset", ".avelt-preset", "Avelt preset", "application/json"),
    FileKind("application/x-avelt-pack", ".avelt-pack", "Pack of Avelt presets", "application/zip"),
    FileKind("application/x-avelt-tape", ".avelt-tape", "Avelt tape", "application/json"),
)
#: Those that have a picture.
WITH_PICTURE = tuple(kind for kind in KINDS if kind.ending != ".avelt-tape")
