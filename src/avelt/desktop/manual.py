"""The manual page (man(7) macros), from the command line's own table."""

from __future__ import annotations

from avelt.desktop.table import Line, Option

_EXAMPLES = (
    ("Open the demo", "avelt --demo"),
    ("Make a project of screens", "avelt import ferry.avelt Sailings.svg Detail.svg"),
    ("Look for what is wrong", "avelt check ferry.avelt"),
    ("Write a transition for the web", 'avelt export ferry.avelt --as css --route "Sailings > Detail" -o motion'),
)

#: What options are for that mean the same everywhere.
_USUAL = {
    "--json": "One JSON document on standard output, and nothing else there",
    "--out": "Where it is written",
    "--at": "Moments in ms, or shares of a curve",
    "--scale": "Pixels to a px",
    "--start": "What starts it",
    "--after": "What it does when what started it is over",
    "--route": "A route: an id, or its frames",
    "--measure": "Overshoot, settling and speed, too",
}


def man_page(table: Line, version: str) -> bytes:
    """``avelt.1``."""
    lines = [
        f'.TH AVELT 1 "" "Avelt {version}" "User Commands"',
        ".SH NAME",
        "avelt \\- choreograph how one screen of a prototype turns into the next",
        ".SH SYNOPSIS",
        ".B avelt",
        "[\\fIFILE\\fR ...] [\\fB\\-\\-demo\\fR]",
        ".br",
        ".B avelt",
        "\\fICOMMAND\\fR ...",
        ".SH DESCRIPTION",
        "Without a command the window is opened, on project files, presets, packs or the demo.",
        "Commands work without a display. Errors are one line on standard error, with exit code 2.",
        ".SH COMMANDS",
    ]
    for command in table.below:
        lines += _command(command, command.name)
    lines.append(".SH EXAMPLES")
    for says, text in _EXAMPLES:
        lines += [".TP", _plain(says), f"\\fB{_plain(text)}\\fR"]
    lines += [
        ".SH FILES",
        "Presets are kept below \\fI$XDG_DATA_HOME/avelt\\fR, settings below \\fI$XDG_CONFIG_HOME/avelt\\fR,",
        "logs, versions and what was not saved below \\fI$XDG_STATE_HOME/avelt\\fR.",
        ".SH EXIT STATUS",
        "0 when all is well, 1 when something was found (\\fBcheck\\fR, \\fBverify\\fR), 2 when it cannot be done,",
        "3 when a team's shelf has something to settle.",
    ]
    return ("\n".join(lines) + "\n").encode()


def _command(command: Line, name: str) -> list[str]:
    if command.below:
        made = [f".SS {_plain(name)}", _plain(_sentence(command.says))]
        for inner in command.below:
            made += _command(inner, f"{name} {inner.name}")
        return made
    alone = " ".join(f"\\fI{_plain(o.value)}\\fR" for o in command.options if not o.names and o.value)
    made = [f".SS {_plain(name)}", f".B avelt {_plain(name)}", alone, ".br", _plain(_sentence(command.says))]
    for option in command.options:
        if option.names and "--help" not in option.names:
            made += [".TP", _named(option), _plain(_sentence(option.says or _USUAL.get(option.names[-1], "")))]
    return made


def _named(option: Option) -> str:
    names = ", ".join(f"\\fB{_plain(name)}\\fR" for name in option.names)
    return f"{names} \\fI{_plain(option.value)}\\fR" if option.value else names


def _sentence(text: str) -> str:
    words = text.strip().rstrip(".")
    return f"{words[0].upper()}{words[1:]}." if words else ""


def _plain(text: str) -> str:
    """Text without what roff would take for a request."""
    made = text.replace("\\", "\\e").replace("-", "\\-").replace("%%", "%")
    return f"\\&{made}" if made[:1] in (".", "'") else made
