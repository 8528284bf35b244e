"""Completion for bash, zsh and fish, from the command line's own table."""

from __future__ import annotations

from avelt.desktop.table import Line


def _flat(table: Line) -> list[tuple[str, Line]]:
    """Every command that takes options, by its words: ``preset list`` and so on."""
    found: list[tuple[str, Line]] = []
    for command in table.below:
        if command.below:
            found += [(f"{command.name} {inner.name}", inner) for inner in command.below]
        else:
            found.append((command.name, command))
    return found


def _names(command: Line) -> str:
    return " ".join(name for option in command.options for name in option.names if name.startswith("--"))


def bash(table: Line) -> bytes:
    """For bash (programmable completion, ``complete -F``)."""
    groups = {command.name: command for command in table.below if command.below}
    first = " ".join(command.name for command in table.below)
    lines = [
        "# Completion of avelt for bash. Made by avelt from its own table of commands.",
        "_avelt() {",
        '    local now="${COMP_WORDS[COMP_CWORD]}" before="${COMP_WORDS[COMP_CWORD-1]}" line="${COMP_WORDS[1]}"',
        '    case "$line" in',
        *(f'        {name}) line="$line ${{COMP_WORDS[2]}}" ;;' for name in groups),
        "    esac",
        '    if [ "$COMP_CWORD" -eq 1 ]; then',
        f'        COMPREPLY=($(compgen -f -W "{first} --demo --version" -- "$now")); return',
        "    fi",
        '    if [ "$COMP_CWORD" -eq 2 ]; then',
        '        case "${COMP_WORDS[1]}" in',
        *(f"            {name}) {_words(' '.join(i.name for i in group.below))} ;;" for name, group in groups.items()),
        "        esac",
        "    fi",
        '    case "$line:$before" in',
    ]
    for words, command in _flat(table):
        for option in command.options:
            if option.choices and option.names:
                keys = "|".join(f'"{words}:{name}"' for name in option.names)
                lines.append(f"        {keys}) {_words(' '.join(option.choices))} ;;")
    lines += ["    esac", '    case "$now" in -*) case "$line" in']
    lines += [f'        "{words}") {_words(_names(command))} ;;' for words, command in _flat(table)]
    lines += [
        "    esac ;; esac",
        '    COMPREPLY=($(compgen -f -- "$now"))',
        "}",
        "complete -o filenames -F _avelt avelt",
    ]
    return ("\n".join(lines) + "\n").encode()


def _words(words: str) -> str:
    """Bash that offers some words."""
    return f'COMPREPLY=($(compgen -W "{words}" -- "$now")); return'


def zsh(table: Line) -> bytes:
    """For zsh (``compsys``)."""
    lines = [
        "#compdef avelt",
        "# Completion of avelt for zsh. Made by avelt from its own table of commands.",
        "_avelt() {",
        "    local -a commands",
        "    if (( CURRENT == 2 )); then",
        "        commands=(",
        *(f"            {_quoted(c.name + ':' + c.says)}" for c in table.below),
        "        )",
        "        _describe command commands; _files; return",
        "    fi",
        '    local line="$words[2]"',
        '    case "$line" in',
    ]
    for command in table.below:
        if command.below:
            inner = " ".join(_quoted(f"{i.name}:{i.says}") for i in command.below)
            lines += [
                f"        {command.name})",
                f"            if (( CURRENT == 3 )); then commands=({inner}); _describe command commands; return; fi",
                '            line="$line $words[3]" ;;',
            ]
    lines += ["    esac", '    case "$line" in']
    for words, command in _flat(table):
        lines.append(f'        "{words}") _arguments \\')
        for option in command.options:
            for name in option.names:
                if name.startswith("--"):
                    after = f":{option.value}:({' '.join(option.choices)})" if option.choices else ":value:_files"
                    lines.append(
                        f"            {_quoted(f'{name}[{_bare(option.says)}]' + (after if option.value else ''))} \\"
                    )
        lines.append("            '*:file:_files' ;;")
    lines += ["    esac", "}", '_avelt "$@"']
    return ("\n".join(lines) + "\n").encode()


def fish(table: Line) -> bytes:
    """For fish."""
    lines = ["# Completion of avelt for fish. Made by avelt from its own table of commands."]
    names = " ".join(command.name for command in table.below)
    none = f"not __fish_seen_subcommand_from {names}"
    for command in table.below:
        lines.append(f"complete -c avelt -n {_quoted(none)} -a {command.name} -d {_quoted(command.says)}")
        if command.below:
            inner_names = " ".join(inner.name for inner in command.below)
            here = f"__fish_seen_subcommand_from {command.name}; and not __fish_seen_subcommand_from {inner_names}"
            for inner in command.below:
                lines.append(f"complete -c avelt -f -n {_quoted(here)} -a {inner.name} -d {_quoted(inner.says)}")
    for words, command in _flat(table):
        seen = "; and ".join(f"__fish_seen_subcommand_from {word}" for word in words.split())
        for option in command.options:
            long = next((name[2:] for name in option.names if name.startswith("--")), "")
            if long and long != "help":
                takes = (
                    f" -x -a {_quoted(' '.join(option.choices))}" if option.choices else " -r" if option.value else ""
                )
                lines.append(f"complete -c avelt -n {_quoted(seen)} -l {long}{takes} -d {_quoted(option.says)}")
    return ("\n".join(lines) + "\n").encode()


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "'\\''") + "'"


def _bare(text: str) -> str:
    return text.replace("[", "(").replace("]", ")").replace(":", ",")
