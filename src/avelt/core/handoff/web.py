"""The deliveries for browsers that play by themselves: a folder with CSS, one moving SVG, Web Animations."""

from __future__ import annotations

import base64
import math
from typing import Any

from msgspec.structs import replace

from avelt.core.curves.measure import straight_pieces
from avelt.core.curves.text import css, number
from avelt.core.handoff import visibility
from avelt.core.handoff.delivery import Delivery, Report, Wanted, as_json
from avelt.core.handoff.drawn import drawn
from avelt.core.handoff.escaping import css_string, escaped, escaped_style, family_names
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.markup import Address, Pictures, xml
from avelt.core.handoff.nodes import Drawn, Fitted, Moved, Node, slug
from avelt.core.handoff.placing import SVG
from avelt.core.handoff.sheet import Sheet, name_all
from avelt.core.model.curves import Drawn as DrawnCurve
from avelt.core.model.curves import Drops, PlainCurve, Ring, Spring
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.words import tr

_TOLERANCE = 0.002
_LESS = "less-"  # in front of the names of the drawing with less motion
Fonts = dict[tuple[str, int, bool], str]


def css_folder(
    program: Program, project: Project, letters: Letters, wanted: Wanted, less: Program | None = None
) -> Delivery:
    """``index.html`` with the layers as SVG, ``motion.css`` that moves them, and their pictures beside.

    ``less`` is the same with less motion: a second drawing and ``quieter.css``, for people whose system asks for it
    (``prefers-reduced-motion``, Media Queries 5). What moves alike in both is there once.
    """
    made, root = _drawn(program, letters, wanted)
    pictures = Pictures(project.assets)
    drawing = _root(made, root, wanted, pictures.beside, sized=True)
    sheet = Sheet(made, root, wanted).text()
    report, faces_for, links, quieter = _report(made, wanted), dict(made.fonts), "", {}
    if less is not None:
        mild = replace(wanted, prefix=f"{wanted.prefix}{_LESS}")
        other, beside = _drawn(less, letters, mild)
        rules = Sheet(other, beside, mild, beside=root).text()
        if _as_one(rules, root, beside) != _as_one(sheet, root, beside):
            drawing += "\n" + _root(other, beside, mild, pictures.beside, sized=True)
            quieter = {"quieter.css": f".{root} {{ display: none }}\n.{beside} {{ display: block }}\n{rules}".encode()}
            links = (
                f"<style>.{beside} {{ display: none }}</style>\n"
                '<link rel="stylesheet" href="quieter.css" media="(prefers-reduced-motion: reduce)">\n'
            )
            faces_for, report = _with_fonts(faces_for, other.fonts), _with_lost(report, made, other)
    title = escaped(wanted.name)
    page = (
        '<!doctype html>\n<html lang="en">\n<head>\n<meta charset="utf-8">\n'
        f'<meta name="viewport" content="width=device-width">\n<title>{title}</title>\n'
        '<link rel="stylesheet" href="motion.css">\n<style>html, body { margin: 0 } svg { display: block }</style>\n'
        f"{links}</head>\n<body>\n{drawing}\n</body>\n</html>\n"
    )
    faces, fonts = faces_of(faces_for, letters, beside=True)
    styles = {"motion.css": (faces + sheet).encode(), **quieter}
    return Delivery({"index.html": page.encode(), **styles, **pictures.files, **fonts}, "index.html", report)


def styles(program: Program, letters: Letters, wanted: Wanted) -> str:
    """The style sheet alone, for who looks at it; the fonts that it may name are left out."""
    return Sheet(*_drawn(program, letters, wanted), wanted).text()


def moving_svg(
    program: Program, project: Project, letters: Letters, wanted: Wanted, less: Program | None = None
) -> Delivery:
    """One SVG with its style sheet and its pictures inside; it fills what it is put into. ``less``: as in the folder,
    a second drawing that is seen instead of the first."""
    made, root = _drawn(program, letters, wanted)
    sheet, fonts, report = Sheet(made, root, wanted).text(), dict(made.fonts), _report(made, wanted)
    around = ("", "")
    inside = Pictures(project.assets).inside
    if less is not None:
        mild = replace(wanted, prefix=f"{wanted.prefix}{_LESS}")
        other, within = _drawn(less, letters, mild)
        rules = Sheet(other, within, mild, inside=root).text()
        if _as_one(rules, root, within) != _as_one(sheet, root, within):
            full = f"{root}-full"
            around = f'<g class="{full}">\n', f'\n</g>\n<g class="{within}">\n{_content(other, inside)}\n</g>'
            sheet += f".{within} {{ display: none }}\n@media (prefers-reduced-motion: reduce) {{\n"
            sheet += f".{full} {{ display: none }}\n.{within} {{ display: inline }}\n"
            # Browsers move what is not seen of a drawing, too.
            sheet += f".{root}, .{full} * {{ animation: none !important }}\n{rules}}}\n"
            fonts, report = _with_fonts(fonts, other.fonts), _with_lost(report, made, other)
    faces = faces_of(fonts, letters, beside=False)[0]
    drawing = _root(made, root, wanted, inside, sized=False, sheet=faces + sheet, around=around)
    return Delivery({f"{root}.svg": (drawing + "\n").encode()}, f"{root}.svg", report)


def _as_one(rules: str, root: str, second: str) -> str:
    """Rules of the first or the second drawing, as they would be if it were the only one."""
    rules = rules.replace(f".{root}.play + .{second}", f".{second}.play")
    for start in (".play", ":hover", ":focus-within"):
        rules = rules.replace(f".{root}{start} .{second}", f".{second}{start}")
    lines = (line for line in rules.replace(_LESS, "").split("\n") if "cursor: pointer" not in line)
    return "\n".join(line for line in lines if "timeline-trigger" not in line)


def _with_fonts(fonts: Fonts, others: Fonts) -> Fonts:
    """The letters of both drawings."""
    made = dict(fonts)
    for font, used in others.items():
        made[font] = "".join(sorted({*made.get(font, ""), *used}))
    return made


def _with_lost(report: Report, made: Drawn, other: Drawn) -> Report:
    """The report with what is left out of the second drawing only."""
    lost = tuple(words for words in other.left_out if words not in made.left_out)
    return replace(report, left_out=report.left_out + lost)


def web_animations(program: Program, project: Project, letters: Letters, wanted: Wanted) -> Delivery:
    """``still.svg`` as it is before anything moves, and ``motion.json`` for ``element.animate()``."""
    made, root = _drawn(program, letters, wanted)
    faces = faces_of(made.fonts, letters, beside=False)[0]
    still = _root(made, root, wanted, Pictures(project.assets).inside, sized=True, sheet=faces)
    layers = []
    if made.root_moved:
        layers.append(_animated(f".{root}", "", made.root_moved))
    for node in made.walk():
        if node.moved:
            layers.append(_animated(f"#{node.name or node.attrs['id']}", node.layer, tuple(node.moved)))
    document = {"duration": round(made.duration, 3), "layers": layers}
    files = {"still.svg": (still + "\n").encode(), "motion.json": as_json(document)}
    return Delivery(files, "motion.json", _report(made, wanted))


def faces_of(fonts: Fonts, letters: Letters, beside: bool) -> tuple[str, dict[str, bytes]]:
    """The fonts of what is set as text: rules that name them, and their files where they lie beside."""
    rules, files = "", {}
    for (family, weight, italic), used in fonts.items():
        data = letters.font(family, weight, italic, used)
        if data is None:
            continue
        name = next(iter(family_names(family)), "")
        file = f"fonts/{slug(name)}-{weight}{'-italic' if italic else ''}.woff"
        address = file if beside else f"data:font/woff;base64,{base64.b64encode(data).decode()}"
        if beside:
            files[file] = data
        style = "italic" if italic else "normal"
        face = f"font-family: {css_string(name)}; font-weight: {weight}; font-style: {style}; src: url({address})"
        rules += f"@font-face {{ {face} }}\n"
    return rules, files


def _animated(selector: str, name: str, moved: tuple[Moved, ...]) -> dict[str, Any]:
    animations = []
    for entry in moved:
        for k, run in enumerate(entry.runs):
            keyframes = []
            for key in run.keys:
                frame: dict[str, Any] = {"offset": round(key.at, 9), _camel(entry.prop): key.text}
                if (easing := css(key.curve)) != "linear":
                    frame["easing"] = easing
                keyframes.append(frame)
            options: dict[str, Any] = {
                "delay": round(run.delay, 3),
                "duration": round(run.duration, 3),
                "fill": "forwards" if k else "both",
            }
            if run.iterations != 1.0:
                options["iterations"] = "Infinity" if math.isinf(run.iterations) else run.iterations
            animations.append({"keyframes": keyframes, "options": options})
    return {"selector": selector, "name": name, "animations": animations}


def _camel(prop: str) -> str:
    head, *rest = prop.split("-")
    return head + "".join(word.capitalize() for word in rest)


def _drawn(program: Program, letters: Letters, wanted: Wanted) -> tuple[Drawn, str]:
    made = drawn(program, letters, wanted.prefix, wanted.background, wanted.words or "outlines")
    visibility.settle((*made.defs, *made.layers))
    root = f"{wanted.prefix}{slug(wanted.name, 'motion')}"
    name_all(made, root)
    return made, root


def _root(
    made: Drawn,
    root: str,
    wanted: Wanted,
    address: Address,
    sized: bool,
    sheet: str = "",
    around: tuple[str, str] = ("", ""),
) -> str:
    """The SVG element and all in it; ``around`` is what stands before and after the drawing, when it is not alone."""
    w, h = (number(v, 3) for v in (made.most if not sized else (made.w, made.h)))
    attrs = {"xmlns": SVG, "class": root}
    if sized:
        attrs |= {"width": w, "height": h}
    else:
        attrs |= {"viewBox": f"0 0 {w} {h}"}
    if wanted.start == "click":
        attrs["tabindex"] = "0"
    attrs |= {"role": "img", "aria-label": wanted.name}
    words = "".join(f' {key}="{escaped(value)}"' for key, value in attrs.items())
    style = f"<style>\n{escaped_style(sheet)}</style>\n" if sheet else ""
    return f"<svg{words}>\n{style}{around[0]}{_content(made, address)}{around[1]}\n</svg>"


def _content(made: Drawn, address: Address) -> str:
    """What is drawn, without the element around it."""
    parts = []
    if made.defs:
        parts.append(xml(Node("defs", children=list(made.defs)), address))
    layers = list(made.layers)
    if made.isolates:
        layers = [Node("g", style={"isolation": "isolate"}, children=layers)]
    if made.ground.style.get("fill") != "none" or made.ground.moved:
        parts.append(xml(made.ground, address))
    return "\n".join([*parts, *(xml(node, address) for node in layers)])


def _report(made: Drawn, wanted: Wanted) -> Report:
    curves: dict[PlainCurve, float] = {}
    for node in made.walk():
        for entry in node.moved:
            for run in entry.runs:
                for key in run.keys:
                    if isinstance(key.curve, Spring | Drops | Ring | DrawnCurve) and key.curve not in curves:
                        curves[key.curve] = straight_pieces(key.curve, _TOLERANCE)[1]
    fitted = tuple(
        Fitted("", tr("a {lower} curve as linear()", lower=type(curve).__name__.lower()), error, "share")
        for curve, error in curves.items()
    )
    notes: tuple[str, ...] = ()
    if wanted.start == "view":
        notes = ("Browsers without view-triggered animations play it when it is loaded.",)
    return Report(made.fitted + fitted, made.left_out, notes)
