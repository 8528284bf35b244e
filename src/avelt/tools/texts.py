"""Texts for translators, with Qt's own tools: what ``tr`` marks becomes a ``.ts`` file, what is translated a ``.qm``.

``python -m avelt.tools.texts de`` writes or renews ``avelt_de.ts`` here, to be translated in Qt's Linguist or by hand;
``python -m avelt.tools.texts de --release`` makes ``avelt_de.qm`` of it for the folder of languages.
"""

from __future__ import annotations

import argparse
import re
import shutil
import subprocess
import sys
from pathlib import Path

from avelt.core.errors import AveltError, FileError

_SOURCES = Path(__file__).resolve().parent.parent
_OPTIONS = ("-locations", "none", "-no-obsolete", "-tr-function-alias", "QT_TR_NOOP+=mark")
_FIELD = re.compile(r"\{[^{}]*\}|<[^<>]*>|&\w+;|\\[nt]|\t.*$|\n")
_ACCENTS = str.maketrans("aeiouyAEIOUYcnsz", "áéíóúýÁÉÍÓÚÝçñšž")
OPENS, CLOSES = "⟦", "⟧"


def _tool(name: str) -> str:
    """One of Qt's tools, which PySide brings."""
    found = shutil.which(name, path=str(Path(sys.executable).parent)) or shutil.which(name)
    if found is None:
        raise FileError("This tool of Qt is not here: it comes with PySide6.", name)
    return found


def _run(*words: str) -> None:
    done = subprocess.run(words, capture_output=True, text=True)
    if done.returncode:
        raise FileError(f"{Path(words[0]).name} failed: {(done.stderr or done.stdout).strip()[-300:]}")


def gather(ts: Path, sources: Path = _SOURCES) -> None:
    """Write or renew a file of all texts; what is translated in it stays."""
    files = sorted(str(file) for file in sources.rglob("*.py"))
    _run(_tool("pyside6-lupdate"), *files, *_OPTIONS, "-ts", str(ts))


def release(ts: Path, qm: Path) -> None:
    """What is translated, as the file that the window loads."""
    _run(_tool("pyside6-lrelease"), str(ts), "-qm", str(qm))


def pseudo(text: str) -> str:
    """A text as a language that nobody speaks: longer, accented, in brackets; values and marks in it stay.

    >>> pseudo("Rename {name}…")
    '⟦Réñámé {name}… ~~⟧'
    """
    made, at = [], 0
    for field in _FIELD.finditer(text):
        made += [text[at : field.start()].translate(_ACCENTS), field.group()]
        at = field.end()
    made.append(text[at:].translate(_ACCENTS))
    said = "".join(made)
    keys = said.find("\t")
    body, rest = (said, "") if keys < 0 else (said[:keys], said[keys:])
    more = "~" * (len(body) * 3 // 10 - 2)  # the brackets make it longer already
    return f"{OPENS}{body}{' ' if more else ''}{more}{CLOSES}{rest}"


def main(argv: list[str] | None = None) -> int:
    """Run it; gives the exit code."""
    parser = argparse.ArgumentParser("texts", description="Texts for translators.")
    parser.add_argument("language", help="its code, such as de or pt_BR")
    parser.add_argument("--release", action="store_true", help="make the .qm of the .ts")
    parser.add_argument("--out", type=Path, default=Path(), help="the folder")
    options = parser.parse_args(argv)
    ts = options.out / f"avelt_{options.language}.ts"
    try:
        if options.release:
            release(ts, ts.with_suffix(".qm"))
            print(ts.with_suffix(".qm"))
        else:
            gather(ts)
            print(ts)
    except AveltError as error:
        print(f"avelt.tools.texts: {error}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
