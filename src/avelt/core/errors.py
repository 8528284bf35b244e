"""Every error that Avelt raises on purpose.

One sentence for the person, the place it speaks of, and a hint when there is one. Whatever reads
something from outside lets nothing else out.
"""

from __future__ import annotations

MOST_LETTERS = 300  # of what is said about one error, whatever it quotes
_MOST_PLACE = 180


def shortened(text: str, most: int) -> str:
    """At most so many letters: the middle gives way to an ellipsis.

    >>> shortened("abcdefghij", 7)
    'abc…hij'
    """
    if len(text) <= most:
        return text
    end = (most - 1) // 2
    return f"{text[: most - 1 - end]}…{text[len(text) - end :]}"


class AveltError(Exception):
    """Something that the person can be told in one sentence.

    ``place`` names where in the input it is (a file, a line and element, a path in a document).
    """

    def __init__(self, sentence: str, place: str = "", hint: str = "") -> None:
        self.sentence = shortened(sentence, MOST_LETTERS)
        self.place = shortened(place, _MOST_PLACE)
        self.hint = shortened(hint, MOST_LETTERS)
        super().__init__(self.sentence)

    def __str__(self) -> str:
        text = f"{self.place}: {self.sentence}" if self.place else self.sentence
        return shortened(f"{text} {self.hint}" if self.hint else text, MOST_LETTERS)

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
