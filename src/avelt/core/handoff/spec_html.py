"""Spec sheets as one HTML page that prints on A4."""

from __future__ import annotations

from collections.abc import Sequence

from avelt.core.arrays import np
from avelt.core.curves import easing
from avelt.core.curves.text import number
from avelt.core.handoff.escaping import escaped
from avelt.core.handoff.spec import SpecCurve, SpecRow, SpecSheet
from avelt.core.model.curves import PlainCurve

_STYLE = """
@page { size: A4; margin: 16mm 14mm }
body { font: 13px/1.45 "Hanken Grotesk", system-ui, sans-serif; color: #17232b; margin: 32px auto; max-width: 182mm }
h1 { font-size: 24px; margin: 0 0 12px } h2 { font-size: 15px; margin: 28px 0 8px }
section { break-before: page } section:first-of-type { break-before: auto }
dl { display: flex; flex-wrap: wrap; gap: 6px 28px; margin: 0 } dt { color: #5f6f74 } dd { margin: 0 }
dl div { min-width: 30mm }
table { border-collapse: collapse; width: 100%; font-variant-numeric: tabular-nums }
th { text-align: left; font-weight: 500; color: #5f6f74; padding: 4px 8px 4px 0; border-bottom: 1px solid #d8d4c8 }
td { padding: 4px 8px 4px 0; border-bottom: 1px solid #ece8dd; vertical-align: top; overflow-wrap: anywhere }
tr, figure { break-inside: avoid } thead { display: table-header-group }
td.n { text-align: right; white-space: nowrap } code { font: 12px/1.4 ui-monospace, monospace; overflow-wrap: anywhere }
figure { margin: 0 0 10px; display: flex; gap: 16px; align-items: center }
figcaption { flex: 1 } svg { display: block } .quiet { color: #5f6f74 }
"""
_CHART_W, _LABEL_W, _LINE_H = 680.0, 190.0, 20.0


def spec_page(sheets: Sequence[SpecSheet], title: str) -> bytes:
    """The page."""
    body = "\n".join(_section(sheet) for sheet in sheets)
    return (
        f'<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>{escaped(title)}</title>'
        f"<style>{_STYLE}</style></head>\n<body>\n{body}\n</body></html>\n"
    ).encode()


def _section(sheet: SpecSheet) -> str:
    facts = "".join(f"<div><dt>{escaped(k)}</dt><dd>{escaped(v)}</dd></div>" for k, v in sheet.facts)
    parts = [f"<section><h1>{escaped(sheet.name)}</h1><dl>{facts}</dl>"]
    if sheet.rows:
        parts += ["<h2>When</h2>", chart(sheet), "<h2>From and to</h2>", _table(sheet)]
    if sheet.curves:
        parts.append("<h2>Curves</h2>" + "".join(_curve(k, c) for k, c in enumerate(sheet.curves, 1)))
    if sheet.loops:
        rows = "".join(
            f"<tr><td>{escaped(e.layer)}</td><td>{escaped(e.name)}</td><td class=n>{number(e.duration, 1)} ms</td>"
            f"<td>{escaped(e.says)}</td></tr>"
            for e in sheet.loops
        )
        parts.append(
            "<h2>Loops</h2><table><thead><tr><th>Layer<th>Loop<th>A round<th>How</thead><tbody>"
            + rows
            + "</tbody></table>"
        )
    return "\n".join([*parts, "</section>"])


def bars(sheet: SpecSheet) -> list[tuple[str, list[SpecRow]]]:
    """The rows of the chart: a layer each, with what it does."""
    made: dict[str, list[SpecRow]] = {}
    for row in sheet.rows:
        made.setdefault(row.layer, []).append(row)
    return list(made.items())


def ticks(duration: float) -> list[float]:
    """Moments to mark on a chart: six to twelve, at round numbers."""
    step = next(s for s in (10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 60_000, 1e9) if duration / s <= 12)
    return [float(v) for v in np.arange(0.0, duration + step * 0.25, step) if v <= duration + 1e-6]


def chart(sheet: SpecSheet) -> str:
    """The timing chart as SVG."""
    rows = bars(sheet)
    h = _LINE_H * (len(rows) + 1) + 6
    wide = _CHART_W - _LABEL_W - 24
    scale = wide / max(sheet.duration, 1.0)
    parts = [f'<svg viewBox="0 0 {_CHART_W:g} {h:g}" width="100%" font-size="11" role="img" aria-label="Timing chart">']
    for ms in ticks(sheet.duration):
        x = _LABEL_W + ms * scale
        parts.append(
            f'<line x1="{x:.1f}" y1="16" x2="{x:.1f}" y2="{h:g}" stroke="#e3dfd3"/>'
            f'<text x="{x:.1f}" y="11" fill="#5f6f74" text-anchor="middle">{number(ms, 0)}</text>'
        )
    for k, (layer, own) in enumerate(rows):
        y = _LINE_H * (k + 1)
        parts.append(f'<text x="0" y="{y + 13:g}" fill="#17232b">{escaped(_short(layer))}</text>')
        for n, row in enumerate(own):
            each = 12.0 / len(own)
            x, w = _LABEL_W + row.delay * scale, max(1.5, row.duration * scale)
            parts.append(
                f'<rect x="{x:.1f}" y="{y + 3 + n * each:.2f}" width="{w:.1f}" height="{max(1, each - 0.6):.2f}"'
                f' rx="1" fill="#1f7a6b"><title>{escaped(row.prop)}</title></rect>'
            )
    return "".join(parts) + "</svg>"


def _short(text: str) -> str:
    return text if len(text) <= 30 else f"{text[:29]}…"


def _table(sheet: SpecSheet) -> str:
    body = []
    for row in sheet.rows:
        said = f"{escaped(row.last)}{f'<br><span class=quiet>{escaped(row.note)}</span>' if row.note else ''}"
        body.append(
            f"<tr><td>{escaped(row.layer)}</td><td>{escaped(row.prop.replace('_', ' '))}</td>"
            f"<td class=n>{number(row.delay, 1)}</td><td class=n>{number(row.duration, 1)}</td>"
            f"<td class=n>{row.curve + 1}</td><td>{escaped(row.first)}</td><td>{said}</td></tr>"
        )
    return (
        "<table><thead><tr><th>Layer<th>Property<th>Starts, ms<th>Lasts, ms<th>Curve<th>From<th>To</thead><tbody>"
        + "".join(body)
        + "</tbody></table>"
    )


def _curve(place: int, entry: SpecCurve) -> str:
    return (
        f"<figure>{curve_drawing(entry.curve)}<figcaption><b>{place}  {escaped(entry.name)}</b><br>"
        f"{escaped(entry.feels)}<br><code>{escaped(entry.css)}</code></figcaption></figure>"
    )


def curve_points(curve: PlainCurve) -> np.ndarray:
    """A curve as points (97, 2) in 0..1, time and value."""
    t = np.linspace(0.0, 1.0, 97)
    return np.stack([t, easing.at(curve, t)], -1)


def curve_drawing(curve: PlainCurve) -> str:
    """A curve as SVG."""
    points = curve_points(curve)
    low, high = min(0.0, float(points[:, 1].min())), max(1.0, float(points[:, 1].max()))
    height = 64.0 * (high - low)
    line = " ".join(f"{96 * t:.1f},{64 * (high - v):.1f}" for t, v in points.tolist())
    return (
        f'<svg width="98" height="{height + 2:.0f}" viewBox="-1 -1 98 {height + 2:.1f}">'
        f'<path d="M0 {64 * high:.1f}H96M0 {64 * (high - 1):.1f}H96" stroke="#d8d4c8" fill="none"/>'
        f'<polyline points="{line}" fill="none" stroke="#1f7a6b" stroke-width="1.6"/></svg>'
    )
