"""A team's shelf in a git repository: one file a preset, each version a commit, nothing merged by lines.

The repository here is a bare one: nothing that lies in it is ever written out as a file, so names and links in it can
do no harm. Local commits are on one branch, what is known of the others on another.
"""

from __future__ import annotations

import os
import shutil
import time
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from dulwich.client import FetchPackResult
from dulwich.errors import GitProtocolError, NotGitRepository
from dulwich.file import FileLocked
from dulwich.objects import Blob, Commit, Tree
from dulwich.repo import Repo, get_user_identity
from msgspec.structs import replace
from urllib3.exceptions import HTTPError

from avelt.core.errors import EditError, FormatError, NotFound
from avelt.core.presets.git_commits import Sha, branch_of, count_after, goes_on, make_repository, where_parted
from avelt.core.presets.git_login import talk
from avelt.core.presets.shelf import Listing, Trouble, file_name
from avelt.core.presets.team_state import (
    Conflict,
    Keep,
    Offline,
    Progress,
    Settled,
    State,
    Status,
    Version,
    alone,
    remembered,
)
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.words import tr

_MINE, _THEIRS, _REWRITTEN = b"refs/heads/mine", b"refs/heads/theirs", b"refs/heads/rewritten"
_FILE, _TREE = 0o100644, 0o040000
REPOSITORY = "repository.git"
_TRIES = 3  # to send, when others send at the same time
_SHOWN = 12  # letters of a version's id
_DEEP = 40  # folders in folders of a tree that is looked through
FORGOTTEN = 60.0  # s: who holds a lock for so long in a team's folder has left it there
_NETWORK = (OSError, GitProtocolError, NotGitRepository, HTTPError, ValueError, FileLocked)
Files = dict[bytes, Sha]


class GitShelf:
    """The shelf of ``state``, whose repository and memory are in ``folder``."""

    def __init__(self, folder: Path, state: State) -> None:
        self.folder, self.state = folder, state
        self._depth = 0
        path = folder / REPOSITORY
        if not path.is_dir():
            with alone(folder):
                make_repository(path)
        self.repo = Repo(str(path))

    def close(self) -> None:
        """Let its files go."""
        self.repo.close()

    @contextmanager
    def _alone(self) -> Iterator[None]:
        """Nobody else of this machine changes the repository meanwhile; what a program that was killed left locked is
        free again."""
        if self._depth:
            yield
            return
        with alone(self.folder):
            for lock in (self.folder / REPOSITORY).rglob("*.lock"):
                lock.unlink(missing_ok=True)
            self._depth += 1
            try:
                yield
            finally:
                self._depth -= 1

    # What is in it

    def _head(self, ref: bytes) -> Sha | None:
        try:
            return self.repo.refs[ref]  # type: ignore[index]
        except KeyError:
            return None

    def _tree(self, commit: Sha | None) -> Tree:
        found = self.repo[self.repo[commit].tree] if commit is not None else Tree()  # type: ignore[attr-defined]
        assert isinstance(found, Tree)
        return found

    def _files(self, commit: Sha | None) -> Files:
        """The preset files of a commit and their blobs. ``FormatError`` when a name in it leads out of the tree."""
        tree = self._tree(commit)
        self._refuse(tree, 0)
        return {
            entry.path: entry.sha
            for entry in tree.iteritems()
            if entry.path.endswith(ENDING.encode()) and entry.mode == _FILE
        }

    def _refuse(self, tree: Tree, depth: int) -> None:
        for entry in tree.iteritems():
            name = entry.path.decode("utf-8", "replace")
            if name in ("", ".", "..") or name.lower() == ".git" or any(c in name for c in "/\\\0") or depth > _DEEP:
                raise FormatError(
                    tr("The repository has a name in it that leads out of it: {name!r}.", name=name), self.state.where
                )
            if entry.mode == _TREE and entry.sha in self.repo.object_store:
                inner = self.repo[entry.sha]
                if isinstance(inner, Tree):
                    self._refuse(inner, depth + 1)

    def _preset(self, blob: Sha, place: str) -> Preset:
        found = self.repo[blob]
        if not isinstance(found, Blob):
            raise FormatError(tr("This is not a file."), place)
        return from_json(found.data, place)

    def _known(self, blob: Sha | None, file: bytes) -> Preset | None:
        """A preset, or nothing when it was taken back or is none."""
        try:
            return None if blob is None else self._preset(blob, file.decode("utf-8", "replace"))
        except FormatError:
            return None

    def read(self) -> Listing:
        """The presets on it, with what waits to be sent."""
        presets: list[Preset] = []
        troubles: list[Trouble] = []
        try:
            files = self._files(self._head(_MINE))
        except FormatError as error:
            return Listing((), (Trouble(self.state.where, str(error)),))
        for file, blob in files.items():
            name = file.decode("utf-8", "replace")
            try:
                presets.append(self._preset(blob, name))
            except FormatError as error:
                troubles.append(Trouble(name, str(error)))
        return Listing(tuple(sorted(presets, key=lambda preset: preset.name.casefold())), tuple(troubles))

    def _file_of(self, name: str) -> bytes:
        """The file of the preset of a name; ``NotFound`` when there is none."""
        for file, blob in self._files(self._head(_MINE)).items():
            preset = self._known(blob, file)
            if preset is not None and preset.name.casefold() == name.strip().casefold():
                return file
        raise NotFound(tr("There is no preset {name!r} on the team's shelf.", name=name))

    # Changing it here

    def publish(self, presets: list[Preset]) -> None:
        """Commit presets here; they wait to be sent."""
        files: dict[bytes, bytes | None] = {}
        for preset in presets:
            try:
                file = self._file_of(preset.name)
            except NotFound:
                taken = {name.decode("utf-8", "replace") for name in (*self._tree(self._head(_MINE)), *files)}
                file = file_name(preset.name, taken).encode()
            files[file] = to_json(preset)
        self._commit(files, f"Publish {', '.join(preset.name for preset in presets)}")

    def take_back(self, name: str) -> None:
        """Take a preset off it, for all; its versions stay in the history."""
        self._commit({self._file_of(name): None}, f"Take back {name}")

    def restore(self, name: str, version: str) -> None:
        """An older version is put on it as a new one."""
        preset, file = self.version(name, version), self._of(name)
        self._commit({file: to_json(preset)}, f"Put {name} of {version[:_SHOWN]} back")

    def _commit(self, files: Mapping[bytes, bytes | None], message: str, also: Iterable[Sha] = ()) -> None:
        """A commit with other contents of some files; none where all are as they were and no other parent is."""
        with self._alone():
            self._commit_onto(self._head(_MINE), files, message, [*also])

    def _commit_onto(
        self, head: Sha | None, files: Mapping[bytes, bytes | None], message: str, parents: list[Sha]
    ) -> None:
        """The same after ``head``, which is what is here from then on."""
        tree = self._tree(head).copy() if head is not None else Tree()
        assert isinstance(tree, Tree)
        before = tree.id
        for file, data in files.items():
            if data is None:
                if file in tree:
                    del tree[file]
                continue
            blob = Blob.from_string(data)
            self.repo.object_store.add_object(blob)
            tree.add(file, _FILE, blob.id)
        if tree.id == before and not parents:
            self._point(_MINE, head)
            return
        self.repo.object_store.add_object(tree)
        made = Commit()
        made.tree = tree.id
        made.parents = [*([head] if head is not None else []), *parents]
        made.author = made.committer = get_user_identity(self.repo.get_config_stack())
        made.author_time = made.commit_time = int(time.time())
        made.author_timezone = made.commit_timezone = 0
        made.encoding = b"UTF-8"
        made.message = message.encode() + b"\n"
        self.repo.object_store.add_object(made)
        self.repo.refs[_MINE] = made.id  # type: ignore[index]

    # Between here and there

    def _three(self) -> tuple[Files, Files, Files]:
        """The files here, there, and where both began."""
        mine, theirs = self._head(_MINE), self._head(_THEIRS)
        return self._files(mine), self._files(theirs), self._files(where_parted(self.repo, mine, theirs))

    def _clashes(self) -> list[bytes]:
        """The files that were changed here and there, each in its own way, and are not settled."""
        mine, theirs, base = self._three()
        return [
            file
            for file in sorted({*mine, *theirs})
            if len({mine.get(file), theirs.get(file), base.get(file)}) == 3
            and not self._choice(file, mine.get(file), theirs.get(file))
        ]

    def _choice(self, file: bytes, mine: Sha | None, theirs: Sha | None) -> Keep | None:
        found = self.state.settled.get(file.decode("utf-8", "replace"))
        same = found is not None and (found.mine, found.theirs) == (_text(mine), _text(theirs))
        return found.keep if found is not None and same else None

    def status(self) -> Status:
        """How it stands, without asking anybody."""
        mine, theirs = self._head(_MINE), self._head(_THEIRS)
        here, there, base = self._three()
        waiting = [file for file in sorted({*here, *base}) if here.get(file) != base.get(file)]
        conflicts = []
        for file in self._clashes():
            ours, other = self._known(here.get(file), file), self._known(there.get(file), file)
            known = ours or other
            conflicts.append(Conflict(known.name if known is not None else file.decode(), file.decode(), ours, other))
        return Status(
            self.state.where,
            "git",
            count_after(self.repo, mine, theirs),
            count_after(self.repo, theirs, mine),
            tuple(self._title(here.get(file) or base.get(file), file) for file in waiting),
            tuple(conflicts),
            self.state.last_sync,
            bool(self.state.rewritten),
        )

    def _title(self, blob: Sha | None, file: bytes) -> str:
        known = self._known(blob, file)
        return known.name if known is not None else file.decode("utf-8", "replace")

    def sync(self, progress: Progress) -> Status:
        """Fetch, take what is new, send what waits. A clash or a rewritten history changes neither side."""
        for _ in range(_TRIES):
            progress(tr("Asking for what is new"))
            if not self._fetched():
                return self.status()
            with self._alone():
                mine, theirs = self._head(_MINE), self._head(_THEIRS)
                if theirs is not None and (mine is None or goes_on(self.repo, mine, theirs)):
                    self.repo.refs[_MINE] = theirs  # type: ignore[index]
                    break
                if theirs is not None and mine is not None and not goes_on(self.repo, theirs, mine):
                    if self._clashes():
                        return self.status()
                    self._merge()
            progress(tr("Sending what waits"))
            if mine is None or self._sent(theirs):
                break
        self._remember(last_sync=datetime.now(UTC).isoformat(timespec="seconds"), settled={})
        return self.status()

    def _remember(self, **changes: object) -> None:
        with self._alone():
            self.state = remembered(self.folder, self.state, changes)

    def _fetched(self) -> bool:
        """Fetch; whether what is there is a continuation of what was."""
        result = self._asked()
        with self._alone():
            return self._taken(*branch_of(result, self.state.branch))

    def _taken(self, branch: str, head: Sha | None) -> bool:
        """What was fetched is theirs from now on, where it is a continuation of what was."""
        known = self._head(_THEIRS)
        continued = known is None or goes_on(self.repo, known, head)
        if not continued:
            if head is not None:
                self.repo.refs[_REWRITTEN] = head  # type: ignore[index]
            self._remember(branch=branch, rewritten=_text(head) or "gone")
            return False
        self._files(head)  # a tree that is to be refused is, before it is taken for theirs
        if head is not None:
            self.repo.refs[_THEIRS] = head  # type: ignore[index]
        self._remember(branch=branch, rewritten="")
        return True

    def _asked(self) -> FetchPackResult:
        try:
            return talk(self.state.where, lambda client, path: client.fetch(path, self.repo))
        except _NETWORK as error:
            raise Offline(
                tr("The team's shelf cannot be reached: {error}.", error=_plain(error)), self.state.where
            ) from None

    def _sent(self, expected: Sha | None) -> bool:
        """Send the commits here in the place of ``expected``; whether that is what was there."""
        ref, head = f"refs/heads/{self.state.branch}".encode(), self._head(_MINE)
        met: list[bool] = []

        def update(refs: Any) -> Any:
            there = refs.get(ref)
            met.append(there == expected)
            return {ref: head} if met[-1] and there != head else {}

        pack: Any = self.repo.generate_pack_data

        def send() -> Any:
            return talk(self.state.where, lambda client, path: client.send_pack(path.encode(), update, pack))

        try:
            try:
                result = send()
            except FileLocked as error:
                if not _forgotten(error):
                    raise
                result = send()
        except _NETWORK as error:
            raise Offline(
                tr("The team's shelf cannot be sent to: {error}.", error=_plain(error)), self.state.where
            ) from None
        refused = [words for words in (result.ref_status or {}).values() if words]
        if refused:
            raise Offline(tr("The team's shelf does not take it: {refused}.", refused=refused[0]), self.state.where)
        if met and met[-1] and head is not None:
            self.repo.refs[_THEIRS] = head  # type: ignore[index]
            return True
        return False

    def _merge(self) -> None:
        """One commit of both: what was changed on one side only is taken from there, the rest as it was settled."""
        mine, theirs, base = self._three()
        changes: dict[bytes, bytes | None] = {}
        for file in sorted({*mine, *theirs}):
            ours, other, first = mine.get(file), theirs.get(file), base.get(file)
            if other in (ours, first):
                continue
            keep = self._choice(file, ours, other) if ours != first else "theirs"
            if keep in ("theirs", "both"):
                changes[file] = self.repo[other].data if other is not None else None  # type: ignore[attr-defined]
            if keep == "both" and ours is not None:
                preset = self._preset(ours, file.decode("utf-8", "replace"))
                taken = {*mine, *theirs, *changes}
                number = next(n for n in range(2, 10_000) if _numbered(preset.name, n) not in taken)
                changes[_numbered(preset.name, number)] = to_json(replace(preset, name=f"{preset.name} {number}"))
                if other is None:
                    changes[file] = None
        others = dict(self._others(self._head(_THEIRS)))
        self._commit(changes | others, "Bring both together", [self._head(_THEIRS)])

    def _others(self, commit: Sha | None) -> Iterator[tuple[bytes, bytes]]:
        """Files there that are no presets and are not here: they stay."""
        mine = self._tree(self._head(_MINE))
        for entry in self._tree(commit).iteritems():
            if entry.mode == _FILE and entry.path not in mine and not entry.path.endswith(ENDING.encode()):
                yield entry.path, self.repo[entry.sha].data  # type: ignore[attr-defined]

    def settle(self, name: str, keep: Keep) -> None:
        """Choose between two versions. With the last choice both histories are brought together here."""
        with self._alone():
            self._settle(name, keep)

    def _settle(self, name: str, keep: Keep) -> None:
        mine, theirs, _ = self._three()
        wanted = name.strip().casefold()
        for clash in self.status().conflicts:
            if wanted in (clash.name.casefold(), clash.file.casefold()):
                file = clash.file.encode()
                settled = Settled(keep, _text(mine.get(file)), _text(theirs.get(file)))
                self._remember(settled=self.state.settled | {clash.file: settled})
                if not self._clashes():
                    self._merge()
                return
        raise NotFound(tr("Nothing is to be settled about {name!r}.", name=name))

    def settle_history(self, keep: Keep) -> None:
        """Choose between two histories. ``theirs``: what of ours was not sent comes on top of it; ``mine``: ours takes
        its place there."""
        if not self.state.rewritten:
            raise EditError(tr("The history there was not rewritten."))
        theirs = self._head(_REWRITTEN) if self.state.rewritten != "gone" else None
        if keep == "mine":
            if not self._sent(theirs):
                raise EditError(tr("Somebody sent in the meantime: sync again."))
        elif keep == "theirs":
            with self._alone():
                self._on_top_of(theirs)
        else:
            raise EditError(tr("Of two histories one is kept: mine or theirs."))
        self._remember(rewritten="")

    def _on_top_of(self, theirs: Sha | None) -> None:
        """Their history, with what of ours was not sent as one commit after it."""
        here, _, base = self._three()
        unsent = {file: here.get(file) for file in {*here, *base} if here.get(file) != base.get(file)}
        datas = {file: self.repo[b].data if b is not None else None for file, b in unsent.items()}  # type: ignore[attr-defined]
        self._commit_onto(theirs, datas, "What was not sent yet", [])
        self._point(_THEIRS, theirs)

    def _point(self, ref: bytes, head: Sha | None) -> None:
        if head is None:
            self.repo.refs.remove_if_equals(ref, None)  # type: ignore[arg-type]
        else:
            self.repo.refs[ref] = head  # type: ignore[index]

    # Versions

    def _of(self, name: str) -> bytes:
        """The file of a preset, also of one that was taken back."""
        try:
            return self._file_of(name)
        except NotFound:
            return file_name(name).encode()

    def history(self, name: str) -> tuple[Version, ...]:
        """The versions of a preset, newest first."""
        found = tuple(version for version, _ in self._versions(self._of(name)))
        if not found:
            raise NotFound(tr("There is no preset {name!r} on the team's shelf.", name=name))
        return found

    def _versions(self, file: bytes) -> Iterator[tuple[Version, Sha | None]]:
        head = self._head(_MINE)
        if head is None:
            return
        for step in self.repo.get_walker([head], order="topo"):
            commit = step.commit
            own = self._blob(commit.id, file)
            before = [self._blob(parent, file) for parent in commit.parents] or [None]
            if own in before:
                continue
            when = datetime.fromtimestamp(commit.author_time, UTC).isoformat(timespec="seconds")
            who = commit.author.decode("utf-8", "replace").split(" <")[0]
            known = self._known(own, file)
            yield Version(_text(commit.id)[:_SHOWN], who, when, known.name if known is not None else ""), own

    def _blob(self, commit: Sha, file: bytes) -> Sha | None:
        tree = self._tree(commit)
        return tree[file][1] if file in tree else None

    def version(self, name: str, version: str) -> Preset:
        """A preset as it was."""
        file = self._of(name)
        for found, blob in self._versions(file):
            if blob is not None and version and found.version.startswith(version.lower()[:_SHOWN]):
                return self._preset(blob, name)
        raise NotFound(tr("There is no version {version!r} of {name!r}.", version=version, name=name))

    def leave(self) -> None:
        """Forget it: what was published stays there."""
        self.close()
        shutil.rmtree(self.folder / REPOSITORY, ignore_errors=True)


def _numbered(name: str, number: int) -> bytes:
    return file_name(f"{name} {number}").encode()


def _text(sha: Sha | None) -> str:
    return sha.decode() if sha is not None else ""


def _forgotten(error: FileLocked) -> bool:
    """Whether a lock in a team's folder was left by a program that was stopped; then it is gone. One that writes holds
    it for a moment only."""
    lock = Path(os.fsdecode(error.lockfilename))
    try:
        if time.time() - lock.stat().st_mtime < FORGOTTEN:
            return False
        lock.unlink()
    except OSError:
        return False
    return True


def _plain(error: Exception) -> str:
    """An error of the network in one line, without anything secret in it."""
    if isinstance(error, FileLocked):
        return tr(
            "somebody writes there, or was stopped while writing and left {lockfilename}",
            lockfilename=os.fsdecode(error.lockfilename),
        )
    words = str(error).splitlines() or [type(error).__name__]
    return (words[0] or type(error).__name__).rstrip(".")[:160]
