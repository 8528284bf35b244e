"""Hostile text in a project: no delivery runs it, loads what it names, or is broken by it, in either browser."""

from __future__ import annotations

import unittest
from typing import Any
from xml.etree import ElementTree

import msgspec

from avelt.browser.engines import ENGINES, Shown, has_engine
from avelt.core.edits.loops import add_loop
from avelt.core.edits.parts import make_part
from avelt.core.formats.svg_in import read_svg
from avelt.core.handoff.delivery import Delivery, Wanted
from avelt.core.handoff.escaping import css_comment, css_families, css_string, escaped, script_json
from avelt.core.model.values import Project
from avelt.core.stopping import temporary_folder
from avelt.deliver.kinds import BY_KEY, Asked, delivery_of
from avelt.deliver.subjects import find_subject
from avelt.paint.fonts import measure_text
from avelt.paint.letters import QtLetters
from avelt.verify.compare import written
from tests.support import box, group, project_of, text

ATTACKS = (
    "</style><script>window.harmed = 1</script>",
    "</script><script>window.harmed = 1</script>",
    "</title><img src=x onerror='window.harmed=1'>",
    "\"><svg onload='window.harmed=1'>",
    "'; } @import url(https://avelt.invalid/a.css); x { y: '",
    "\\'); background: url(https://avelt.invalid/b.png); --x: (",
    "*/ body { background: url(https://avelt.invalid/c.png) } /*",
    "]]><script>window.harmed = 1</script>",
    "<!--<script>",
    "{title} ${window.harmed = 1} `",
    "a\x00b\x1b\x7f\x0c\u2028\u2029\ufffe",
    "javascript:window.harmed=1",
    'O\'Hara "Bold" \\ & Söhne',
)
FREE = {"name", "text", "family", "note"}
PAGES = {"css": "index.html", "svg": "", "waapi": "still.svg", "html": "", "spec": "spec.html"}
_DRAWN = """new Promise((done, failed) => { const wait = setInterval(() => {
  if (document.querySelector("svg *")) { clearInterval(wait); done(0) } }, 5)
  setTimeout(() => failed(new Error("the page does not begin")), 20000) })"""
ENGINES_HERE = [name for name in ENGINES if has_engine(name)]


def hostile(project: Project, attack: str) -> Project:
    """The project with every free text of it attacking."""

    def walk(value: Any) -> Any:
        if isinstance(value, dict):
            return {k: attack if k in FREE and isinstance(v, str) else walk(v) for k, v in value.items()}
        return [walk(entry) for entry in value] if isinstance(value, list) else value

    return msgspec.convert(walk(msgspec.to_builtins(project)), Project)


def subject() -> Project:
    """Text, a group, a loop, a part, a named curve: something of each that has a name or words."""
    left = (group("g", 0, 0, (box("a", 10, 10, 50, 50), text("t", "Grey Stack", 10, 80))), box("p", 100, 10, 40, 40))
    right = (group("g", 20, 0, (box("a", 60, 10, 80, 50), text("t", "Grey Stack", 40, 90))), box("p", 100, 90, 40, 40))
    project = project_of(left, right)
    project, _ = add_loop(project, "A", "a")
    project, _, _ = make_part(project, "A", ["p"], "Buoy")
    return project


def deliveries(project: Project, words: str) -> dict[str, Delivery]:
    """Each kind that people open, of the project's only route."""
    made = {}
    for kind in (*PAGES, "lottie", "tokens", "steps"):
        asked = Asked(project, find_subject(project), Wanted(name=project.name, words=words), QtLetters())
        made[kind] = delivery_of(BY_KEY[kind], asked)
    return made


class InDeliveries(unittest.TestCase):
    def open(self, browser: Shown, kind: str, delivery: Delivery) -> dict[str, Any]:
        with temporary_folder("avelt-look-") as folder:
            written(delivery.files, folder)
            browser.open(folder / (PAGES[kind] or delivery.main), 300, 300)
            if kind == "html":  # its data is unpacked by and by
                browser.run(_DRAWN)
            return browser.run(
                """({harmed: window.harmed || 0, scripts: document.querySelectorAll("script").length,
                asked: performance.getEntriesByType("resource").map(e => e.name).filter(n => n.includes("invalid")),
                handlers: document.querySelectorAll("[onload],[onerror]").length,
                shown: document.querySelectorAll("svg *").length})"""
            )

    @unittest.skipUnless(ENGINES_HERE, "there is no browser on this machine")
    def test_nothing_of_a_project_is_run_or_loads_anything(self) -> None:
        plain = subject()
        page = deliveries(plain, "text")["html"]
        scripts = self.open(self.browsers[ENGINES_HERE[0]], "html", page)["scripts"]
        for words in ("text", "outlines"):
            for attack in ATTACKS:
                made = deliveries(hostile(plain, attack), words)
                for engine in ENGINES_HERE if words == "text" else ENGINES_HERE[:1]:
                    browser = self.browsers[engine]
                    for kind in PAGES:
                        with self.subTest(attack=attack, kind=kind, engine=engine, words=words):
                            found = self.open(browser, kind, made[kind])
                            self.assertEqual(found["harmed"], 0)
                            self.assertEqual(found["asked"], [])
                            self.assertEqual(found["handlers"], 0)
                            self.assertEqual(found["scripts"], scripts if kind == "html" else 0)
                            self.assertGreater(found["shown"], 3)

    def test_drawings_are_well_formed_and_documents_are_read(self) -> None:
        for attack in ATTACKS:
            with self.subTest(attack):
                made = deliveries(hostile(subject(), attack), "text")
                ElementTree.fromstring(made["svg"].files[made["svg"].main])
                ElementTree.fromstring(made["waapi"].files["still.svg"])
                for kind in ("waapi", "lottie", "tokens", "steps"):
                    msgspec.json.decode(made[kind].files[made[kind].main])

    def test_a_font_of_an_imported_drawing_stays_a_font(self) -> None:
        drawing = (
            '<svg xmlns="http://www.w3.org/2000/svg" width="99" height="99">'
            '<text y="20" font-family="&lt;/style>&lt;script>window.harmed=1&lt;/script>">Sandray</text></svg>'
        )
        frame = read_svg(drawing.encode(), "a.svg", measure_text).frame
        project = project_of(frame.layers, frame.layers)
        for kind, delivery in deliveries(project, "text").items():
            for name, data in delivery.files.items():
                if not name.endswith((".json", ".woff", ".pdf")):
                    self.assertNotIn(b"<script>window", data, (kind, name))

    @classmethod
    def setUpClass(cls) -> None:
        cls.browsers: dict[str, Shown] = {}
        for name in ENGINES_HERE:
            browser = ENGINES[name].start()
            cls.browsers[name] = browser.__enter__()
            cls.addClassCleanup(browser.__exit__, None, None, None)


class OneFunctionForEachContext(unittest.TestCase):
    def test_css(self) -> None:
        self.assertEqual(css_string("a'b\\c\n"), "'a\\27 b\\5c c\\a '")
        self.assertEqual(css_string("\x00\ud800"), "'\\fffd \\fffd '")
        self.assertEqual(css_comment("a */ <b>\nc"), "a * / ‹b> c")
        self.assertEqual(css_families("Serif, A'B,, 'C D'"), "serif, 'A\\27 B', 'C D'")

    def test_markup_and_scripts(self) -> None:
        self.assertEqual(escaped('<a b="\'\x00\ufffe&">'), "&lt;a b=&quot;'&amp;&quot;&gt;")
        made = script_json({"</script><!--": "\u2028&"})
        self.assertEqual(made, '{"\\u003c/script\\u003e\\u003c!--": "\\u2028\\u0026"}')
        self.assertEqual(msgspec.json.decode(made), {"</script><!--": "\u2028&"})


if __name__ == "__main__":
    unittest.main()
