"""The whole project as one page that can be clicked: data, and the script that plays it."""

from __future__ import annotations

import json
import re
import zlib
from functools import lru_cache
from importlib.resources import files

from avelt.core.handoff.delivery import Delivery, Report, Wanted
from avelt.core.handoff.escaping import escaped, script_json
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.markup import Pictures
from avelt.core.handoff.page_data import Packed, parts_of, stage_of
from avelt.core.handoff.page_packing import DIGITS, as_text, beside_their_likes
from avelt.core.handoff.web import faces_of
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.quieter import quieter

_NAME = "page.html"
_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>{title}</title>
<style>
{faces}html, body {{ margin: 0 }}
svg {{ display: block; touch-action: none; user-select: none; overflow: hidden; text-rendering: geometricPrecision }}
:focus-visible {{ outline: 2px solid #0e7c74; outline-offset: 2px }}
form {{ position: fixed; right: 12px; top: 12px; font: 14px system-ui; display: grid; gap: 8px; padding: 12px }}
form {{ background: #fffefb }}
</style>
</head>
<body>
<svg xmlns="http://www.w3.org/2000/svg" role="application" aria-label="{title}"></svg>
<script>
const PICTURES = {pictures};
const PACKED = "{data}";
const DIGITS = "{digits}", LENGTH = {length};
{boot}
</script>
</body>
</html>
"""


def page(program: Program | None, project: Project, letters: Letters, wanted: Wanted) -> Delivery:
    """One page of the whole project; it asks nothing of the network."""
    packed = Packed(letters, wanted.words or "text")  # fonts are smaller than outlines of every word
    stage, parts = stage_of(packed, project, project.name), parts_of(packed, project)
    count = len(packed.programs)
    packed.prefix, less = "", project if wanted.calm else quieter(project)
    calm = stage_of(packed, less, less.name), parts_of(packed, less)
    differs = calm != (stage, parts)
    programs = beside_their_likes(packed.programs, count)
    # What is alike stands near, since deflating looks back over 32 kB only.
    data = {
        "lines": packed.lines,
        "layers": packed.layers,
        "order": programs,
        "programs": [packed.programs[k] for k in programs],
        "channels": packed.channels,
        "project": stage,
        "calmProject": calm[0] if differs else 0,
        "parts": parts,
        "calmParts": calm[1] if differs else 0,
        "curves": list(packed.curves),
        "conditions": packed.conditions,
        "player": script("player.js"),
    }
    text = json.dumps(data, ensure_ascii=False, separators=(",", ":"))
    squeezed = zlib.compressobj(9, zlib.DEFLATED, -15)
    deflated = squeezed.compress(text.encode()) + squeezed.flush()
    pictures = Pictures(project.assets)
    used = dict.fromkeys(re.findall(r"asset:([0-9a-f]+)", text))
    fonts = {key: "".join(sorted(letters_used)) for key, letters_used in sorted(packed.set.items())}
    made = _PAGE.format(
        title=escaped(project.name),
        faces=faces_of(fonts, letters, beside=False)[0],
        boot=script("boot.js"),
        pictures=script_json({ident: pictures.inside(ident) for ident in used}),
        data=as_text(deflated),
        digits=DIGITS,
        length=len(deflated),
    )
    return Delivery({_NAME: made.encode()}, _NAME, Report(left_out=tuple(packed.left_out)))


@lru_cache(maxsize=4)
def script(name: str) -> str:
    """A script as it goes into the page: without comments and without the space before its lines."""
    text = files("avelt.core.handoff").joinpath("page", name).read_text(encoding="utf-8")
    text = re.sub(r"^\s*/\*.*?\*/\n", "", text, flags=re.S | re.M)
    lines = (line.strip() for line in text.split("\n"))
    return "\n".join(line for line in lines if line and not line.startswith("//"))
