"""Writes docs/checks.md, everything that is looked for, from the table: ``python -m avelt.tools.checks_page``."""

from __future__ import annotations

from pathlib import Path

from avelt.core.checks.table import CHECKS
from avelt.core.edits.mending import MENDS

PATH = Path(__file__).resolve().parents[3] / "docs" / "checks.md"
_HEAD = """# Checks

Made from the tables by `python -m avelt.tools.checks_page`.

After each edit Avelt looks for what is most likely not meant ([picture](screenshots/checks.png)).
The stations carry how many findings they have;
*Checks* at the lower right (Ctrl+Shift+C) lists them, leads to each, mends what can be mended by itself (Ctrl+M,
undo takes it back), and mutes what is meant so with a reason that is kept in the project.

`avelt check FILE` prints the same (`--json`, `--sarif` for build servers, `--muted` for the muted ones too, `--rules`
for this list) and ends with exit code 1 when something is found that is not muted. Codes are stable; in SARIF their
spaces are hyphens.

*error*: it does not play as it was made. *warning*: most likely not meant. *note*: worth a look.
"""


def text() -> str:
    """The whole page."""
    lines = [_HEAD, "| code | station | how bad | looks for | mends by itself |", "| --- | --- | --- | --- | --- |"]
    for check in CHECKS:
        mend = MENDS[check.code].words if check.code in MENDS else ""
        lines.append(f"| {check.code} | {check.station} | {check.severity} | {check.looks_for} | {mend} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PATH.write_text(text())
