"""``avelt check``: what is wrong with a project, for people, scripts and build servers."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from avelt import __version__
from avelt.cli_common import Arguments, print_result
from avelt.core.checks.table import CHECKS, Finding, findings
from avelt.core.formats.project_file import open_project

#: SARIF's word for how bad it is (OASIS SARIF 2.1.0, 3.58.6).
_LEVELS = {"error": "error", "warning": "warning", "note": "note"}


def build_check(parser: argparse.ArgumentParser) -> None:
    """``avelt check FILE [--json | --sarif] [--muted]``; exit code 1 when there is a problem that is not muted."""
    parser.add_argument("file", type=Path)
    how = parser.add_mutually_exclusive_group()
    how.add_argument("--json", action="store_true")
    how.add_argument("--sarif", action="store_true", help="SARIF 2.1.0, for build servers")
    how.add_argument("--rules", action="store_true", help="what is looked for, with the codes")
    parser.add_argument("--muted", action="store_true", help="show the muted ones, too")
    parser.set_defaults(run=_check)


def _check(args: Arguments) -> int:
    if args.rules:
        for check in CHECKS:
            print(f"{check.code:16} {check.severity:8} {check.station:9} {check.looks_for}")
        return 0
    found = findings(open_project(args.file))
    open_ones = [entry for entry in found if not entry.reason]
    if args.sarif:
        print(json.dumps(sarif(found, str(args.file)), ensure_ascii=False))
        return 1 if open_ones else 0
    shown = found if args.muted else open_ones
    lines = [_line(entry) for entry in shown]
    if not open_ones:
        lines.append("Nothing is wrong.")
    print_result(args, {"problems": [plain(entry) for entry in shown]}, lines)
    return 1 if open_ones else 0


def _line(entry: Finding) -> str:
    muted = f" (muted: {entry.reason})" if entry.reason else ""
    return f"{entry.line} [{entry.check.code}]{muted}"


def plain(entry: Finding) -> dict[str, Any]:
    """A finding in the words of ``--json``."""
    trouble = entry.trouble
    made: dict[str, Any] = {
        "code": trouble.code,
        "severity": entry.check.severity,
        "station": entry.check.station,
        "says": trouble.says,
        "routes": list(trouble.routes),
        "frames": list(trouble.frames),
    }
    more = {"part": entry.part_name, "phases": list(trouble.phases), "layers": list(trouble.layers)}
    more |= {"loops": list(trouble.loops), "muted": entry.reason}
    return made | {key: value for key, value in more.items() if value}


def sarif(found: tuple[Finding, ...], file: str) -> dict[str, Any]:
    """The findings as a SARIF log; what is muted is a result that is suppressed."""
    results: list[dict[str, Any]] = []
    for entry in found:
        ids = ":".join((entry.check.code, *entry.about))
        result: dict[str, Any] = {
            "ruleId": rule_id(entry.check.code),
            "level": _LEVELS[entry.check.severity],
            "message": {"text": entry.line},
            "locations": [
                {
                    "physicalLocation": {"artifactLocation": {"uri": Path(file).as_posix()}},
                    "logicalLocations": [{"fullyQualifiedName": entry.line.partition(": ")[0], "kind": "element"}],
                }
            ],
            "partialFingerprints": {"avelt/v1": ids},
        }
        if entry.reason:
            result["suppressions"] = [{"kind": "inSource", "justification": entry.reason}]
        results.append(result)
    rules = [
        {
            "id": rule_id(check.code),
            "shortDescription": {"text": f"Looks for {check.looks_for}"},
            "defaultConfiguration": {"level": _LEVELS[check.severity]},
        }
        for check in CHECKS
    ]
    driver = {"name": "Avelt", "version": __version__, "rules": rules}
    return {
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{"tool": {"driver": driver}, "columnKind": "unicodeCodePoints", "results": results}],
    }


def rule_id(code: str) -> str:
    """A check's code without spaces."""
    return code.replace(" ", "-").replace("/", "-")
