"""The command line as data, read from its parsers: what manual and completion are made from."""

from __future__ import annotations

import argparse

from avelt.core.record import Record


class Option(Record, frozen=True):
    """One option or argument. ``names`` are empty for an argument that stands alone; ``value``: what it takes."""

    names: tuple[str, ...]
    value: str
    says: str
    choices: tuple[str, ...] = ()
    needed: bool = False


class Line(Record, frozen=True):
    """One command with its options, and the commands below it."""

    name: str
    says: str
    options: tuple[Option, ...]
    below: tuple[Line, ...] = ()


def line_of(parser: argparse.ArgumentParser, name: str, says: str = "") -> Line:
    """A parser as data."""
    options: list[Option] = []
    below: list[Line] = []
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            words = {choice.dest: choice.help or "" for choice in action._choices_actions}
            below += [line_of(inner, key, words.get(key, "")) for key, inner in action.choices.items()]
        elif action.help != argparse.SUPPRESS:
            options.append(_option(action))
    return Line(name, says or parser.description or "", tuple(options), tuple(below))


def _option(action: argparse.Action) -> Option:
    takes = action.nargs != 0
    metavar = action.metavar if isinstance(action.metavar, str) else action.dest.upper() if takes else ""
    choices = tuple(str(choice) for choice in action.choices or ())
    value = "|".join(choices) if choices and len(choices) <= 6 else metavar
    many = "..." if action.nargs in ("+", "*") else ""
    needed = action.required if action.option_strings else action.nargs not in ("?", "*")
    return Option(tuple(action.option_strings), f"{value}{many}" if takes else "", action.help or "", choices, needed)
