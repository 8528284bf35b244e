"""Commits of a repository and what comes after what; branches; a repository made."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any

from dulwich.client import FetchPackResult
from dulwich.repo import Repo

Sha = Any  # dulwich's ObjectID: forty hexadecimal digits as bytes


def ancestors(repo: Repo, head: Sha | None) -> set[Sha]:
    """A commit and all before it. Dates are not asked: clocks of machines go wrong."""
    found: set[Sha] = set()
    wanted = [head] if head is not None else []
    while wanted:
        sha = wanted.pop()
        if sha not in found:
            found.add(sha)
            wanted += _parents(repo, sha)
    return found


def _parents(repo: Repo, commit: Sha) -> list[Sha]:
    return list(repo[commit].parents)  # type: ignore[attr-defined]


def goes_on(repo: Repo, before: Sha, head: Sha | None) -> bool:
    """Whether a commit is a continuation of another, or it itself."""
    return before in ancestors(repo, head)


def where_parted(repo: Repo, mine: Sha | None, theirs: Sha | None) -> Sha | None:
    """Where two histories parted: of all that is in both, what nothing in both comes after."""
    both = ancestors(repo, mine) & ancestors(repo, theirs)
    last = both - {parent for commit in both for parent in _parents(repo, commit)}
    return min(last) if last else None


def count_after(repo: Repo, head: Sha | None, known: Sha | None) -> int:
    """How many commits of one history are not in another."""
    return len(ancestors(repo, head) - ancestors(repo, known))


def branch_of(result: FetchPackResult, usual: str) -> tuple[str, Sha | None]:
    """The branch that the repository shows first, and its head; the usual one of an empty repository."""
    refs: dict[bytes, Sha] = {bytes(name): sha for name, sha in result.refs.items() if sha is not None}
    shown = result.symrefs.get(b"HEAD") if result.symrefs else None  # type: ignore[call-overload]
    for ref in (f"refs/heads/{usual}".encode(), shown, b"refs/heads/main", b"refs/heads/master"):
        if ref is not None and bytes(ref) in refs:
            return bytes(ref).decode().removeprefix("refs/heads/"), refs[bytes(ref)]
    heads = sorted(ref for ref in refs if ref.startswith(b"refs/heads/"))
    if heads:
        return heads[0].decode().removeprefix("refs/heads/"), refs[heads[0]]
    return (bytes(shown).decode().removeprefix("refs/heads/") if shown else usual), None


def make_repository(path: Path) -> None:
    """An empty repository, there at once or not at all."""
    if path.is_dir():  # another window was first
        return
    part = path.with_suffix(".part")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True)
    Repo.init_bare(str(part)).close()
    part.rename(path)
