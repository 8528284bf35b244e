"""``avelt shelf ...``: the shelf of a team from the command line."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from avelt.cli_common import Arguments, print_result
from avelt.core.errors import EditError
from avelt.core.presets.shelf import Shelf
from avelt.core.presets.team import join, joined, leave, team_of
from avelt.core.presets.team_state import Status, TeamShelf

UNSETTLED = 3  # the exit code where something is to be settled


def build_shelf(parser: argparse.ArgumentParser) -> None:
    """The actions of ``shelf``."""
    actions = parser.add_subparsers(dest="action", required=True)

    def add(name: str, words: str, run: Callable[[Arguments], None]) -> argparse.ArgumentParser:
        made = actions.add_parser(name, help=words, description=words)
        made.set_defaults(run=run)
        return made

    made = add("join", "join a shelf: a git repository or a folder that others can reach", _join)
    made.add_argument("where", metavar="URL|FOLDER")
    made.add_argument("--name", default="", help="what it is called here")
    add("status", "how it stands, without asking anybody", _status).add_argument("--json", action="store_true")
    add("sync", "send what waits and take what is new", _sync)
    add("publish", "put presets on it; they wait to be sent", _publish).add_argument("names", nargs="+", metavar="NAME")
    add("take-back", "take a preset off it, for all", _take_back).add_argument("name")
    made = add("history", "the versions of a preset, newest first", _history)
    made.add_argument("name")
    made.add_argument("--json", action="store_true")
    made = add("restore", "put an older version on it as a new one", _restore)
    made.add_argument("name")
    made.add_argument("version")
    made = add("settle", "choose between two versions, or two histories", _settle)
    made.add_argument("name", nargs="?", default="")
    made.add_argument("--keep", choices=("mine", "theirs", "both"))
    made.add_argument("--history", choices=("theirs", "mine"))
    add("leave", "leave it: what was published stays there", _leave)


def _place(text: str) -> str:
    """An address as it is; a folder as somebody means it from here."""
    return str(Path(text).absolute()) if "://" not in text and Path(text).exists() else text


def _join(args: Arguments) -> None:
    with closing(join(Shelf(), _place(args.where), args.name)) as team:
        _told(team.status())


def _told(status: Status) -> None:
    """Say how it stands; ends with 3 when something is to be settled."""
    print(f"{status.where}: {status.words}")
    for clash in status.conflicts:
        print(f"To settle: {clash.name} was changed here and there.", file=sys.stderr)
    if status.rewritten:
        print("The history there was rewritten: avelt shelf settle --history theirs|mine.", file=sys.stderr)
    if status.conflicts or status.rewritten:
        raise SystemExit(UNSETTLED)


def _status(args: Arguments) -> None:
    team = team_of(Shelf())
    if team is None:
        nothing: dict[str, object] = {"where": "", "kind": None, "ahead": 0, "behind": 0}
        empty = nothing | {"waiting": [], "conflicts": [], "last_sync": ""}
        print_result(args, empty, ["No team's shelf was joined yet."])
        return
    with closing(team):
        status = team.status()
    if not args.json:
        _told(status)
        return
    print_result(args, _plain(status), [])
    if status.conflicts or status.rewritten:
        raise SystemExit(UNSETTLED)


def _plain(status: Status) -> dict[str, object]:
    return {
        "where": status.where,
        "kind": status.kind,
        "ahead": status.ahead,
        "behind": status.behind,
        "waiting": list(status.waiting),
        "conflicts": [
            {
                "name": clash.name,
                "mine": clash.mine.name if clash.mine is not None else None,
                "theirs": clash.theirs.name if clash.theirs is not None else None,
            }
            for clash in status.conflicts
        ],
        "last_sync": status.last_sync,
    }


def _sync(args: Arguments) -> None:
    with closing(joined(Shelf())) as team:
        _told(team.sync(lambda words: print(f"{words} ...", file=sys.stderr)))


def _changed(change: Callable[[TeamShelf], None]) -> None:
    """Change it, and say how it stands then."""
    with closing(joined(Shelf())) as team:
        change(team)
        print(f"{team.state.where}: {team.status().words}")


def _publish(args: Arguments) -> None:
    presets = [Shelf().find(name, "mine") for name in args.names]
    _changed(lambda team: team.publish(presets))


def _take_back(args: Arguments) -> None:
    _changed(lambda team: team.take_back(args.name))


def _history(args: Arguments) -> None:
    with closing(joined(Shelf())) as team:
        versions = team.history(args.name)
    rows = [{"version": v.version, "who": v.who, "when": v.when, "name": v.name} for v in versions]
    lines = [f"{v.version}  {v.when}  {v.who}: {v.name or 'taken back'}" for v in versions]
    print_result(args, {"versions": rows}, lines)


def _restore(args: Arguments) -> None:
    _changed(lambda team: team.restore(args.name, args.version))


def _settle(args: Arguments) -> None:
    if args.history and not args.name:
        _changed(lambda team: team.settle_history(args.history))
    elif args.name and args.keep:
        _changed(lambda team: team.settle(args.name, args.keep))
    else:
        raise EditError("Say NAME and --keep mine|theirs|both, or --history theirs|mine.")


def _leave(args: Arguments) -> None:
    leave(Shelf())
    print("The team's shelf was left.")
