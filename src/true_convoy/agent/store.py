"""The shared store: every file is downloaded and kept once per machine, by its SHA-256, however many rigs use it.

A file gets its name only after its checksum was right. Files are kept read-only; one that was altered all the same is
noticed by its size or time, checked again, and thrown out of the store if it is not what its name says.
"""

import hashlib
import json
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import platformdirs


def default_store() -> "Store":
    """The store of this account; ``CONVOY_STORE`` names another folder."""
    given = os.environ.get("CONVOY_STORE")
    return Store(Path(given) if given else Path(platformdirs.user_data_dir("true-convoy")) / "store")


def sha256_of(path: Path) -> str:
    """The SHA-256 of a file's bytes."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


class Store:
    """A folder of files named by their SHA-256."""

    def __init__(self, root: Path) -> None:
        self.root = root

    def path(self, sha256: str) -> Path:
        """Where a file is, or would be."""
        return self.root / sha256[:2] / sha256

    def partial(self, sha256: str) -> Path:
        """Where a file is while it is being downloaded."""
        return self.root / "partial" / sha256

    def has(self, sha256: str) -> bool:
        """Whether the store has a file and it is unaltered since it was put there."""
        path = self.path(sha256)
        try:
            facts = path.stat()
        except FileNotFoundError:
            return False
        if json.loads(self._seal(sha256).read_text() or "[]") == [facts.st_size, facts.st_mtime_ns]:
            return True
        if sha256_of(path) == sha256:
            self._write_seal(sha256)
            return True
        path.unlink()
        return False

    def take_in(self, path: Path, sha256: str) -> None:
        """Moves a file whose checksum was found right into the store."""
        target = self.path(sha256)
        target.parent.mkdir(parents=True, exist_ok=True)
        path.chmod(0o444)
        path.replace(target)
        self._write_seal(sha256)

    def copy_in(self, path: Path, sha256: str) -> None:
        """Copies a file whose checksum was found right into the store."""
        self.partial(sha256).parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, self.partial(sha256))
        self.take_in(self.partial(sha256), sha256)

    def give(self, sha256: str, target: Path) -> None:
        """Puts a file of the store at ``target``: the same bytes on disk where possible, a copy otherwise."""
        try:
            os.link(self.path(sha256), target)
        except OSError:
            shutil.copyfile(self.path(sha256), target)

    def _seal(self, sha256: str) -> Path:
        seal = self.path(sha256).with_suffix(".seal")
        if not seal.exists():
            seal.touch()
        return seal

    def _write_seal(self, sha256: str) -> None:
        facts = self.path(sha256).stat()
        self._seal(sha256).write_text(json.dumps([facts.st_size, facts.st_mtime_ns]))


def files_below(folder: Path) -> Iterator[Path]:
    """All plain files below a folder, without following links."""
    for base, _, names in os.walk(folder):
        for name in sorted(names):
            path = Path(base) / name
            if path.is_file() and not path.is_symlink():
                yield path
