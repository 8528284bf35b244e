"""The icons as SVG: Avelt's mark, and a sheet with it for each kind of file."""

from __future__ import annotations

_LEAVES, _ARRIVES, _INK, _PAPER, _LINE = "#C9681C", "#0E7C74", "#22302F", "#FFFEFB", "#D9D2C3"


def _mark(x: float, y: float, size: float) -> str:
    """Two cards, one turning into the other, in a square."""
    side, radius, shift = size * 0.6, size * 0.14, size * 0.4
    corner = size * 0.24
    return (
        f'<rect x="{x:g}" y="{y:g}" width="{side:g}" height="{side:g}" rx="{radius:g}" fill="{_LEAVES}"/>'
        f'<rect x="{x + shift:g}" y="{y + shift:g}" width="{side:g}" height="{side:g}" rx="{radius:g}"'
        f' fill="{_ARRIVES}"/><rect x="{x + shift:g}" y="{y + shift:g}" width="{corner:g}" height="{corner:g}"'
        f' rx="{size * 0.06:g}" fill="{_INK}"/>'
    )


def _svg(body: str) -> bytes:
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="128" height="128" viewBox="0 0 128 128">'
    return f"{head}{body}</svg>\n".encode()


def application_icon() -> bytes:
    """The program's own."""
    return _svg(_mark(10.0, 10.0, 108.0))


#: What tells the sheets apart below the mark.
_SIGNS = {
    ".avelt": "",
    ".avelt-preset": f'<path d="M38 104C56 104 60 84 90 84" fill="none" stroke="{_INK}" stroke-width="6"'
    ' stroke-linecap="round"/>',
    ".avelt-pack": f'<path d="M38 86H90M38 96H90M38 106H90" stroke="{_INK}" stroke-width="5" stroke-linecap="round"/>',
    ".avelt-tape": f'<path d="M36 96H92" stroke="{_INK}" stroke-width="4" stroke-linecap="round"/>'
    f'<circle cx="48" cy="96" r="7" fill="{_INK}"/><circle cx="78" cy="96" r="7" fill="{_INK}"/>',
}


def file_icon(ending: str) -> bytes:
    """A sheet with the mark, and a sign of its kind."""
    sheet = f'<path d="M28 6H82L106 30V116A6 6 0 0 1 100 122H28A6 6 0 0 1 22 116V12A6 6 0 0 1 28 6Z" fill="{_PAPER}"'
    fold = f'<path d="M82 6V26A4 4 0 0 0 86 30H106Z" fill="{_LINE}"/>'
    sign = _SIGNS[ending]
    mark = _mark(44.0, 38.0, 40.0) if sign else _mark(38.0, 44.0, 52.0)
    return _svg(f'{sheet} stroke="{_LINE}" stroke-width="2"/>{fold}{mark}{sign}')
