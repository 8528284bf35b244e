"""Every error that Avelt raises on purpose.

One sentence for the person, the place it speaks of, and a hint when there is one. Whatever reads
something from outside lets nothing else out.
"""

from __future__ import annotations


class AveltError(Exception):
    """Something that the person can be told in one sentence.

    ``place`` names where in the input it is (a file, a line and element, a path in a document).
    """

    def __init__(self, sentence: str, place: str = "", hint: str = "") -> None:
        self.sentence = sentence
        self.place = place
        self.hint = hint
        super().__init__(sentence)

    def __str__(self) -> str:
        text = f"{self.place}: {self.sentence}" if self.place else self.sentence
        return f"{text} {self.hint}" if self.hint else text

    def at(self, place: str) -> AveltError:
        """The same error with the place put in front of what is known already."""
        return type(self)(self.sentence, f"{place}, {self.place}" if self.place else place, self.hint)


class FileError(AveltError):
    """A file cannot be read or written."""


class FormatError(AveltError):
    """A file or text is not what it should be."""


class EditError(AveltError):
    """An edit that cannot be done to this project."""


class NotFound(AveltError):
    """A name or id that is not there."""


class Stopped(AveltError):
    """Long work that the person stopped."""

    def __init__(self, sentence: str = "Stopped.", place: str = "", hint: str = "") -> None:
        super().__init__(sentence, place, hint)
