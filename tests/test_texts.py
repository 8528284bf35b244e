"""Texts can be read in other languages: all pass ``tr``, Qt's tools find them, and the window fits longer words."""

from __future__ import annotations

import ast
import json
import os
import re
import string
import subprocess
import sys
import tempfile
import unittest
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from pathlib import Path
from typing import get_args
from unittest import mock

from PySide6.QtCore import QCoreApplication, QTranslator

from avelt.core.model.triggers import ACTIONS, TRIGGERS
from avelt.core.presets.adjusted import DIRECTIONS
from avelt.core.presets.values import KINDS
from avelt.core.running.world import What
from avelt.core.words import SHOWN, tr, translate_with
from avelt.tools.texts import gather, main, pseudo, release
from avelt.window.common.language import fitting, languages, speak, speak_qt, spoken
from avelt.window.common.settings import setting_rows
from avelt.window.start import application

ROOT = Path(__file__).resolve().parent.parent
SOURCES = ROOT / "src" / "avelt"
#: Calls that show a person what they are given.
SHOW = {"setText", "setToolTip", "setWindowTitle", "setPlaceholderText", "setAccessibleName", "label", "button", "Tick"}
SHOW |= {"addAction", "setHeaderLabels", "drawText", "EditError", "FormatError", "Trouble", "Choice", "Action", "do"}


def parsed(folder: Path) -> Iterator[tuple[Path, ast.Module]]:
    for path in sorted(folder.rglob("*.py")):
        yield path, ast.parse(path.read_text(encoding="utf-8"))


def called(node: ast.AST) -> str:
    func = node.func if isinstance(node, ast.Call) else None
    return func.attr if isinstance(func, ast.Attribute) else func.id if isinstance(func, ast.Name) else ""


def fields_of(text: str) -> set[str]:
    """The names of the values in a text; ``ValueError`` when its braces do not match."""
    return {name.split(".")[0].split("[")[0] for _, name, _, _ in string.Formatter().parse(text) if name is not None}


class Texts(unittest.TestCase):
    def tearDown(self) -> None:
        translate_with(None)

    def test_values_stand_where_the_text_says(self) -> None:
        self.assertEqual(tr("Plain {braces}"), "Plain {braces}")
        self.assertEqual(tr("{name} is {share:.0%} there", name="Card", share=0.4), "Card is 40% there")
        for count, said in ((0, "0 layers"), (1, "1 layer"), (2, "2 layers")):
            self.assertEqual(tr("{n} layers", "{n} layer", count), said)
        self.assertEqual(tr("{n} of {name}", "One of {name}", 1, name="A"), "One of A")

    def test_what_is_translated_is_shown_and_the_rest_as_it_stands(self) -> None:
        known = {"Rename {name}": "{name} umbenennen", "{n} layers": "{n} Ebenen"}
        translate_with(lambda text, one, n: known.get(text, text))
        self.assertEqual(tr("Rename {name}", name="Boot"), "Boot umbenennen")
        self.assertEqual(tr("{n} layers", "{n} layer", 3), "3 Ebenen")
        self.assertEqual(tr("{n} cues", "{n} cue", 1), "1 cue")

    def test_every_text_gets_the_values_that_it_names(self) -> None:
        for path, tree in parsed(SOURCES):
            for node in ast.walk(tree):
                if not isinstance(node, ast.Call) or called(node) != "tr" or not isinstance(node.func, ast.Name):
                    continue
                texts = [str(arg.value) for arg in node.args[:2] if isinstance(arg, ast.Constant)]
                given = {word.arg for word in node.keywords} | ({"n"} if len(node.args) > 2 else set())
                if not given or not texts:
                    continue
                where = f"{path.relative_to(ROOT)}:{node.lineno}: {texts[0]}"
                self.assertEqual(fields_of(texts[0]) | {"n"}, given | {"n"}, where)
                if len(texts) > 1:
                    self.assertLessEqual(fields_of(texts[1]), given, where)

    def test_what_people_are_shown_passes_tr(self) -> None:
        missed = []
        for path, tree in parsed(SOURCES / "window"):
            for node in ast.walk(tree):
                if not isinstance(node, ast.Call) or called(node) not in SHOW:
                    continue
                for arg in node.args:
                    for text in self.plain_texts(arg):
                        missed.append(f"{path.relative_to(SOURCES)}:{node.lineno}: {called(node)}: {text}")
        self.assertEqual(missed, [])

    def plain_texts(self, arg: ast.expr) -> Iterator[str]:
        """Sentences that stand in an argument by themselves: words with a space between, outside of other calls."""
        if isinstance(arg, ast.Constant) and isinstance(arg.value, str) and re.search(r"[a-z]{2} [a-z]{2}", arg.value):
            yield arg.value
        if isinstance(arg, ast.JoinedStr):
            words = "".join(str(getattr(part, "value", "")) for part in arg.values if isinstance(part, ast.Constant))
            if re.search(r"[a-z]{3}", words) and "_" not in words and not re.search(r"[<>;=]|\.[a-z]{3}\b", words):
                yield words
        if isinstance(arg, ast.IfExp):
            yield from self.plain_texts(arg.body)
            yield from self.plain_texts(arg.orelse)

    def test_words_of_files_that_are_shown_are_marked(self) -> None:
        shown = {row.word for row in (*TRIGGERS, *ACTIONS)} | set(KINDS) | set(DIRECTIONS)
        shown |= {choice for row in (*TRIGGERS, *ACTIONS) for field in row.fields for choice in field.choices}
        shown |= {word for kind in get_args(What) for word in (get_args(kind) or (kind,))}
        self.assertEqual(shown - set(SHOWN) - {""}, set())

    def test_a_language_that_nobody_speaks_keeps_values_marks_and_keys(self) -> None:
        for text in ("{n} of <b>{name:.2f}</b>", "Remove\tDel", "a\nb", "Open…"):
            said = pseudo(text)
            self.assertEqual(re.findall(r"\{.*?\}|<.*?>|\t.*", said), re.findall(r"\{.*?\}|<.*?>|\t.*", text))
            self.assertGreater(len(said), len(text))


class Tools(unittest.TestCase):
    """Qt's own tools, as they come with PySide."""

    def setUp(self) -> None:
        self.kept = tempfile.TemporaryDirectory()
        self.folder = Path(self.kept.name)

    def tearDown(self) -> None:
        translate_with(None)
        self.kept.cleanup()

    def messages(self, ts: Path) -> dict[str, ET.Element]:
        return {message.findtext("source") or "": message for message in ET.parse(ts).iter("message")}

    def test_every_text_is_found(self) -> None:
        wanted = set()
        for _, tree in parsed(SOURCES):
            for node in ast.walk(tree):
                if isinstance(node, ast.Call) and called(node) in ("tr", "mark") and isinstance(node.func, ast.Name):
                    wanted |= {node.args[0].value} if isinstance(node.args[0], ast.Constant) else set()
        gather(self.folder / "avelt_de.ts")
        found = self.messages(self.folder / "avelt_de.ts")
        self.assertEqual(wanted - set(found), set())
        self.assertGreater(len(wanted), 2000)
        self.assertEqual(found["{n} routes"].get("numerus"), "yes")

    def test_what_is_translated_is_read_by_the_window_with_every_plural(self) -> None:
        (self.folder / "code").mkdir()
        (self.folder / "code" / "some.py").write_text('tr("Undo {label}", label=x)\ntr("{n} routes", "{n} route", 2)\n')
        ts, qm = self.folder / "avelt_pl.ts", self.folder / "avelt_pl.qm"
        gather(ts, self.folder / "code")
        text = ts.read_text(encoding="utf-8")
        forms = ("{n} droga", "{n} drogi", "{n} dróg")
        for form in forms:
            text = text.replace("<numerusform></numerusform>", f"<numerusform>{form}</numerusform>", 1)
        text = text.replace(
            '<translation type="unfinished"></translation>', "<translation>Cofnij {label}</translation>"
        )
        ts.write_text(text.replace(' type="unfinished"', ""), encoding="utf-8")
        gather(ts, self.folder / "code")  # what is translated stays when texts are gathered again
        release(ts, qm)
        (self.folder / "settings.json").write_text('{"language": "pl"}')
        self.assertEqual(speak(self.folder / "settings.json", (self.folder,)), "pl")
        self.assertEqual(tr("Undo {label}", label="x"), "Cofnij x")
        self.assertEqual([tr("{n} routes", "{n} route", n) for n in (1, 2, 5)], ["1 droga", "2 drogi", "5 dróg"])
        self.assertEqual(tr("Not in it"), "Not in it")
        self.assertEqual(spoken(), "pl")

    def test_which_language_is_spoken(self) -> None:
        there = {"de": Path("a"), "pt_BR": Path("b")}
        self.assertEqual(fitting("de", there, ["fr"]), "de")
        self.assertEqual(fitting("system", there, ["fr-FR", "de-AT", "de"]), "de")
        self.assertEqual(fitting("system", there, ["en-GB", "de"]), "")
        self.assertEqual(fitting("system", there, ["pt-BR"]), "pt_BR")
        self.assertEqual(fitting("en", there, ["de"]), "")
        self.assertEqual(fitting("it", there, ["de"]), "")

    def test_a_broken_translation_or_none_is_english(self) -> None:
        settings = self.folder / "settings.json"
        self.assertEqual(speak(settings, (self.folder,)), "")
        (self.folder / "avelt_de.qm").write_bytes(b"no translation")
        settings.write_text('{"language": "de"}')
        with self.assertLogs("avelt", "WARNING"):
            self.assertEqual(speak(settings, (self.folder,)), "")
        settings.write_text("{")
        self.assertEqual(languages((self.folder,)), {"de": self.folder / "avelt_de.qm"})
        self.assertIn(speak(settings, (self.folder / "none",)), ("",))

    def test_qts_own_words_are_in_it_too(self) -> None:
        app = application()
        before = QCoreApplication.translate("QPlatformTheme", "Cancel")
        self.assertTrue(speak_qt(app, "de"))
        translator = app.findChildren(QTranslator)[-1]
        self.assertEqual(QCoreApplication.translate("QPlatformTheme", "Cancel"), "Abbrechen")
        app.removeTranslator(translator)
        self.assertEqual(QCoreApplication.translate("QPlatformTheme", "Cancel"), before)
        self.assertFalse(speak_qt(app, "xx"))

    def test_a_language_can_be_chosen_where_one_is_there(self) -> None:
        with mock.patch("avelt.window.common.language.languages", return_value={}):
            self.assertNotIn("language", [row.name for row in setting_rows()])
        with mock.patch("avelt.window.common.language.languages", return_value={"de": self.folder, "pl": self.folder}):
            (row,) = (row for row in setting_rows() if row.name == "language")
        self.assertEqual([value for value, _ in row.choices], ["system", "en", "de", "pl"])
        self.assertEqual(dict(row.choices)["de"], "Deutsch")

    def test_the_tool_says_what_is_wrong(self) -> None:
        self.assertEqual(main(["de", "--out", str(self.folder), "--release"]), 2)


class Window(unittest.TestCase):
    def test_the_whole_window_speaks_another_language_and_cuts_no_word(self) -> None:
        env = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": os.pathsep.join(sys.path)}
        words = [sys.executable, "-m", "tests.window.pseudo_walk"]
        done = subprocess.run(words, capture_output=True, text=True, env=env, cwd=ROOT)
        self.assertEqual(done.returncode, 0, done.stderr[-2000:])
        found = json.loads(done.stdout)
        self.assertEqual(found["same"], {}, "these words are in no other language")
        self.assertEqual(found["cut"], {}, "these words have no room")


if __name__ == "__main__":
    unittest.main()
