"""In which language the window speaks: the person's choice or the desktop's, where a translation of it is there.

A translation is a file ``avelt_<code>.qm``, made by Qt's tools from what ``tr`` marks (``docs/translating.md``), in
the program or in ``languages`` below the XDG data folder. Without one the texts are the English ones in the code.
This runs before anything else of the window is loaded: tables of texts are made when their modules are.
"""

from __future__ import annotations

import logging
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from avelt.core.words import translate_with

if TYPE_CHECKING:
    from PySide6.QtCore import QCoreApplication

_log = logging.getLogger("avelt")
_OWN = Path(__file__).parents[2] / "languages"
_spoken: list[str] = []
SOURCE = "en"
SYSTEM = "system"


class _Chosen(msgspec.Struct):
    language: str = SYSTEM


def own_folder() -> Path:
    """Where this person's settings are, and what windows remember of how they were left."""
    from platformdirs import user_config_path

    return Path(user_config_path("avelt", appauthor=False))


def settings_file(folder: Path | None = None) -> Path:
    """The settings of this person, or of those that keep theirs in ``folder``."""
    return (own_folder() if folder is None else folder) / "settings.json"


def languages(folders: tuple[Path, ...] | None = None) -> dict[str, Path]:
    """The translations that are there by their code (``de``, ``pt_BR``); of two of one language a person's own."""
    found: dict[str, Path] = {}
    for folder in _folders() if folders is None else folders:
        for file in sorted(folder.glob("avelt_*.qm")):
            found[file.stem.removeprefix("avelt_")] = file
    return found


def _folders() -> tuple[Path, ...]:
    from platformdirs import user_data_path

    return _OWN, Path(user_data_path("avelt", appauthor=False)) / "languages"


def name_of(code: str) -> str:
    """A language's name in itself, for choosing."""
    from PySide6.QtCore import QLocale

    return QLocale(code).nativeLanguageName() or code


def fitting(code: str, there: dict[str, Path], desktop: list[str]) -> str:
    """Of the translations that are there the wanted one: of the code itself, or of the first language of the desktop.

    :param code: what the person chose, ``"system"`` for the desktop's.
    :param desktop: codes as Qt lists them, the most wanted first, such as ``de-AT``, ``de``, ``en``.
    """
    for wanted in desktop if code == SYSTEM else [code]:
        plain = wanted.replace("-", "_")
        for known in (plain, plain.split("_")[0]):
            if known in there:
                return known
            if known == SOURCE:
                return ""
    return ""


def speak(settings: Path, folders: tuple[Path, ...] | None = None) -> str:
    """Load the language that is chosen; gives its code, "" for the texts as they stand in the code."""
    there = languages(folders)
    if not there:
        return ""
    from PySide6.QtCore import QLocale, QTranslator

    code = fitting(_chosen(settings), there, QLocale.system().uiLanguages())
    if not code:
        return ""
    translator = QTranslator()
    if not translator.load(str(there[code])):
        _log.warning("the translation %s could not be read", there[code])
        return ""
    translate_with(lambda text, one, n: translator.translate("", text, one, n) or text)
    _spoken.append(code)
    return code


def spoken() -> str:
    """What the window speaks; empty for the texts as they stand in the code."""
    return _spoken[-1] if _spoken else ""


def speak_qt(app: QCoreApplication, code: str) -> bool:
    """Qt's own words (buttons of dialogs, files) in a language too; gives whether Qt has it."""
    from PySide6.QtCore import QLibraryInfo, QTranslator

    translator = QTranslator(app)
    folder = QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    return translator.load(f"qtbase_{code}", folder) and app.installTranslator(translator)


def _chosen(settings: Path) -> str:
    try:
        return msgspec.json.decode(settings.read_bytes(), type=_Chosen).language
    except (OSError, msgspec.DecodeError, UnicodeDecodeError):
        return SYSTEM  # the settings themselves say what is wrong with them
