"""Text put into CSS, HTML, XML and scripts: one function for each context, used by every writer of a delivery.

Sources: CSS Syntax Level 3 (strings), CSSOM ("serialize a string"), XML 1.0 section 2.2 (characters),
HTML (restrictions on the contents of ``script`` and ``style``).
"""

from __future__ import annotations

import json
import re

_PLAIN = re.compile(r"[\w .,:;()#%/'+*=-]*", re.ASCII)
_NOT_XML = re.compile("[^\t\n\\x20-\\ud7ff\\ue000-\\ufffd\\U00010000-\\U0010ffff]")
#: What would end a CSS string, or the element that the sheet stands in; control characters, too.
_NOT_IN_STRING = re.compile(r"[\x00-\x1f\x7f'\"\\<>&\ud800-\udfff]")
_IN_SCRIPT = {"<": "\\u003c", ">": "\\u003e", "&": "\\u0026", "\u2028": "\\u2028", "\u2029": "\\u2029"}
_GENERIC = {"serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "ui-serif", "ui-sans-serif"}
_GENERIC |= {"ui-monospace", "ui-rounded", "math", "emoji", "fangsong"}


def escaped(text: str) -> str:
    """Text between tags or in a quoted attribute, in HTML and in XML; characters that XML has not are left out.

    >>> escaped('<b title="x">&')
    '&lt;b title=&quot;x&quot;&gt;&amp;'
    """
    if _PLAIN.fullmatch(text):
        return text
    kept = without_controls(text)
    return kept.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")


def without_controls(text: str) -> str:
    """The text without the characters that XML 1.0 does not allow."""
    return _NOT_XML.sub("", text)


def css_string(text: str) -> str:
    """A CSS string in single quotes. It can stand in a sheet of its own, in ``<style>`` and in an attribute.

    >>> css_string("O'Hara </style>")
    "'O\\\\27 Hara \\\\3c /style\\\\3e '"
    """
    return "'" + _NOT_IN_STRING.sub(_css_escape, text) + "'"


def css_families(families: str) -> str:
    """A list of font families as ``font-family`` reads it: generic names bare, all others as strings.

    >>> css_families('Hanken Grotesk, "Noto Sans", sans-serif')
    "'Hanken Grotesk', 'Noto Sans', sans-serif"
    """
    return ", ".join(name.lower() if name.lower() in _GENERIC else css_string(name) for name in family_names(families))


def family_names(families: str) -> list[str]:
    """The names in a list of font families, without their quotes; empty ones are left out."""
    names = (part.strip().strip("'\"").strip() for part in families.split(","))
    return [name for name in names if name]


def css_comment(text: str) -> str:
    """Text inside a CSS comment: on one line, and it cannot end the comment nor the element around the sheet."""
    kept = without_controls(text).replace("*/", "* /").replace("<", "‹")
    return " ".join(kept.split())


def script_json(value: object) -> str:
    """JSON inside ``<script>``: nothing in it can end the element or open a comment."""
    return re.sub("[<>&\u2028\u2029]", lambda m: _IN_SCRIPT[m[0]], json.dumps(value, ensure_ascii=False))


def escaped_style(sheet: str) -> str:
    """A style sheet inside the ``<style>`` of an XML document."""
    return without_controls(sheet).replace("&", "&amp;").replace("<", "&lt;").replace("]]>", "]]&gt;")


def _css_escape(match: re.Match[str]) -> str:
    code = ord(match[0])
    return "\\fffd " if code == 0 or 0xD800 <= code <= 0xDFFF else f"\\{code:x} "
