"""A rig's folder: what convoy keeps in it, what is there, and changing it under a journal.

Everything of ours is below ``.convoy``: ``rig.json`` (server and token, mode 600), ``release.json`` (the release the
rig is on), ``placed.json`` (what convoy placed: path to SHA-256), ``hashes.json`` (checksums of unchanged files),
``aside/DATE`` (what was set aside), and during a change ``staging`` and ``journal.json``.

A change has two halves. First every new file is made and checked in ``staging``; until then the folder is as it was.
Then the journal is written, the moves are carried out, each one a rename, and the journal is removed. When that is
interrupted, the next command finishes the moves, or takes them back if it cannot.
"""

import errno
import json
import os
import shutil
import stat
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from functools import cached_property
from pathlib import Path
from typing import Any

import msgspec
from filelock import FileLock, Timeout

from true_convoy.core import documents
from true_convoy.core.errors import DocumentError, UnsafePath
from true_convoy.core.model import Release, RigFile, Side
from true_convoy.core.paths import OWN_FOLDER, safe_path
from true_convoy.core.sync import governed_folders, wanted_files

from .problems import Failed, said
from .store import sha256_of


class Move(msgspec.Struct, kw_only=True, frozen=True):
    """One rename inside the folder. ``aside`` moves make room, the others put staged files in place."""

    origin: str
    target: str
    aside: bool


class Journal(msgspec.Struct, kw_only=True, frozen=True, dict=True):
    """A change that is being carried out, and what the folder's records say after it."""

    moves: list[Move]
    placed: dict[str, str]
    release: str

    @cached_property
    def making_room(self) -> dict[str, str]:
        """Where each file goes that is set aside, by the path it leaves."""
        return {move.origin: move.target for move in self.moves if move.aside}


class RigFolder:
    """A folder that follows, or is about to follow, a pack."""

    def __init__(self, root: Path) -> None:
        self.root = root.expanduser().absolute()
        self.own = self.root / OWN_FOLDER
        self.staging = self.own / "staging"

    # --- opening -----------------------------------------------------------------------------------------------

    @contextmanager
    def opened(self) -> Iterator[str]:
        """Holds the folder for one command; gives what was said about an interrupted change, if there was one."""
        if not self.root.is_dir():
            raise Failed(f"There is no folder {self.root}. Nothing was done.")
        with said(self.root):
            self.own.mkdir(exist_ok=True)
            lock = FileLock(self.own / "lock")
            try:
                lock.acquire(timeout=0)
            except Timeout:
                raise Failed(f"Another convoy command is at work in {self.root}. Wait until it has ended.") from None
        try:
            with said(self.root):
                message = self.recover()
            yield message
        finally:
            lock.release()

    def recover(self) -> str:
        """Finishes or takes back a change that was interrupted; what happened, in a sentence, or nothing."""
        path = self.own / "journal.json"
        if not path.exists():
            shutil.rmtree(self.staging, ignore_errors=True)
            return ""
        journal = msgspec.json.decode(path.read_bytes(), type=Journal)
        if all(self._is_done(move, journal) or os.path.lexists(self._at(move.origin)) for move in journal.moves):
            try:
                self._carry_out(journal)
            except OSError:
                return "A change that was interrupted here could not be finished and was taken back."
            return "A change that was interrupted here was finished."
        self._take_back(journal)
        return "A change that was interrupted here was taken back."

    # --- records -----------------------------------------------------------------------------------------------

    def record(self, name: str) -> Any:
        """One of our records, or None."""
        try:
            return json.loads((self.own / f"{name}.json").read_text())
        except FileNotFoundError:
            return None
        except ValueError:
            raise Failed(f"{self.own / name}.json is damaged. Remove it and join again; no mod is lost.") from None

    def write_record(self, name: str, value: Any, *, mode: int = 0o644) -> None:
        """Writes a record so that it is whole, or as it was."""
        self._write(self.own / f"{name}.json", json.dumps(value, indent=1).encode(), mode)

    def release(self) -> Release | None:
        """The release the folder is on, as far as it knows."""
        try:
            data = (self.own / "release.json").read_bytes()
            return documents.read(Release, data).value
        except (FileNotFoundError, DocumentError):
            return None

    def placed(self) -> dict[str, str]:
        """What convoy placed here: path to SHA-256."""
        return self.record("placed") or {}

    def _write(self, path: Path, data: bytes, mode: int = 0o644) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        fresh = path.with_suffix(".new")
        with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode), "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        fresh.replace(path)

    # --- what is there -----------------------------------------------------------------------------------------

    def inside(self, path: str) -> Path:
        """Where a path of a document is here. Raises UnsafePath if it would lead out, by name or through a link."""
        target = self.root / safe_path(path)
        real = self.root.resolve()
        if not target.parent.resolve().is_relative_to(real):
            raise UnsafePath(f'"{path}" leads through a link out of the folder, so nothing was written there.')
        return target

    def stocktake(self, *releases: Release | None) -> tuple[RigFile, ...]:
        """The files that matter to these releases, with checksums; unchanged files are not read again."""
        known: dict[str, list[Any]] = self.record("hashes") or {}
        found, fresh = [], {}
        for path in sorted(self._paths(releases)):
            target = self.inside(path)
            facts = target.lstat()
            if stat.S_ISLNK(facts.st_mode):
                # A link is never what was placed, wherever it leads.
                found.append(RigFile(path=path, size=0, sha256="0" * 64))
                continue
            key = [facts.st_size, facts.st_mtime_ns, facts.st_ino]
            if path in known and known[path][:3] == key:
                sha256 = known[path][3]
            else:
                sha256 = sha256_of(target)
            if time.time_ns() - facts.st_mtime_ns > 2_000_000_000:
                fresh[path] = [*key, sha256]
            found.append(RigFile(path=path, size=facts.st_size, sha256=sha256))
        if fresh != known:
            self.write_record("hashes", fresh)
        return tuple(found)

    def _paths(self, releases: tuple[Release | None, ...]) -> set[str]:
        paths = set(self.placed())
        for release in releases:
            if release is None:
                continue
            for side in Side:
                paths |= wanted_files(release, side).keys()
            for folder in governed_folders(release):
                paths |= self._below(folder)
        return {path for path in paths if self._is_file(path)}

    def _is_file(self, path: str) -> bool:
        try:
            target = self.inside(path)
        except UnsafePath:
            return False
        return target.is_symlink() or target.is_file()

    def _below(self, folder: str) -> set[str]:
        found = set()
        for base, folders, names in os.walk(self.inside(folder)):
            linked = [name for name in folders if (Path(base) / name).is_symlink()]
            for name in [*names, *linked]:
                path = (Path(base) / name).relative_to(self.root).as_posix()
                try:
                    found.add(safe_path(path))
                except UnsafePath:
                    continue
        return found

    # --- changing it -------------------------------------------------------------------------------------------

    def stage(self, number: int) -> Path:
        """A free place in staging for the file with a number."""
        self.staging.mkdir(exist_ok=True)
        return self.staging / str(number)

    def change(self, set_aside: list[str], staged: Mapping[str, Path], placed: dict[str, str], release: bytes) -> str:
        """Carries a change out: moves files aside, puts staged files in place, writes the records.

        Gives the folder that holds what was set aside, relative to the rig, or an empty text. Raises Failed after
        taking everything back.
        """
        aside = f"{OWN_FOLDER}/aside/{datetime.now(UTC):%Y-%m-%d-%H%M%S-%f}"
        moves = [Move(origin=path, target=f"{aside}/{path}", aside=True) for path in set_aside]
        for path, source in staged.items():
            self.inside(path)
            moves.append(Move(origin=source.relative_to(self.root).as_posix(), target=path, aside=False))
        journal = Journal(moves=moves, placed=placed, release=release.decode())
        with said(self.root):
            self._write(self.own / "journal.json", msgspec.json.encode(journal))
            self._carry_out(journal)
        return aside if set_aside else ""

    def _at(self, path: str) -> Path:
        return self.root / path

    def _is_done(self, move: Move, journal: Journal) -> bool:
        if move.aside:
            return os.path.lexists(self._at(move.target))
        # What is at the target may still be the file that was to make room for this one.
        room = move.target not in journal.making_room or os.path.lexists(self._at(journal.making_room[move.target]))
        return room and not self._at(move.origin).exists() and os.path.lexists(self._at(move.target))

    def _carry_out(self, journal: Journal) -> None:
        try:
            for move in journal.moves:
                if not self._is_done(move, journal):
                    if os.path.lexists(self._at(move.target)):
                        raise FileExistsError(errno.EEXIST, f"{move.target} appeared meanwhile")
                    self._at(move.target).parent.mkdir(parents=True, exist_ok=True)
                    os.rename(self._at(move.origin), self._at(move.target))
            self.write_record("placed", journal.placed)
            self._write(self.own / "release.json", journal.release.encode())
        except OSError:
            self._take_back(journal)
            raise
        self._end_journal()

    def _take_back(self, journal: Journal) -> None:
        for move in reversed(journal.moves):
            if self._is_done(move, journal):
                self._at(move.origin).parent.mkdir(parents=True, exist_ok=True)
                os.rename(self._at(move.target), self._at(move.origin))
        self._end_journal()

    def _end_journal(self) -> None:
        (self.own / "journal.json").unlink(missing_ok=True)
        shutil.rmtree(self.staging, ignore_errors=True)
