"""Changing a folder under its journal: interrupted anywhere, nothing half-done stays and nothing is lost."""

import errno
import json
import os
import random
from pathlib import Path

import pytest

from true_convoy.agent.folder import RigFolder
from true_convoy.agent.problems import Failed
from true_convoy.core.errors import UnsafePath

OLD = {"mods/a.zip": b"old a", "mods/b.zip": b"old b", "mods/mine.zip": b"mine", "saves/w.dat": b"world"}
NEW = {"mods/a.zip": b"new a", "mods/c.zip": b"new c", "deep/er/d.txt": b"new d"}
ASIDE = ["mods/a.zip", "mods/b.zip"]
AFTER = {"mods/a.zip": b"new a", "mods/c.zip": b"new c", "deep/er/d.txt": b"new d"} | {
    path: OLD[path] for path in ("mods/mine.zip", "saves/w.dat")
}


class Stopped(BaseException):
    """The machine stops here."""


@pytest.fixture
def root(tmp_path) -> Path:
    folder = tmp_path / "game"
    for path, data in OLD.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_bytes(data)
    return folder


def contents(root: Path) -> dict[str, bytes]:
    """The files of the game; ours left out."""
    paths = [path for path in root.rglob("*") if path.is_file() and ".convoy" not in path.parts]
    return {path.relative_to(root).as_posix(): path.read_bytes() for path in paths}


def everything(root: Path) -> set[bytes]:
    return {path.read_bytes() for path in root.rglob("*") if path.is_file()}


def change(folder: RigFolder) -> str:
    staged = {}
    for number, (path, data) in enumerate(NEW.items()):
        staged[path] = folder.stage(number)
        staged[path].write_bytes(data)
    return folder.change(ASIDE, staged, {"mods/a.zip": "0" * 64}, b'{"release": 2}')


def test_a_change_sets_aside_and_places(root):
    folder = RigFolder(root)
    with folder.opened() as said:
        aside = change(folder)
    assert said == "" and contents(root) == AFTER
    assert {path: (root / aside / path).read_bytes() for path in ASIDE} == {path: OLD[path] for path in ASIDE}
    assert json.loads((root / ".convoy/placed.json").read_text()) == {"mods/a.zip": "0" * 64}
    assert not (root / ".convoy/journal.json").exists() and not (root / ".convoy/staging").exists()


@pytest.mark.parametrize("at", range(1, 12))
def test_interrupted_at_any_rename_the_next_command_finishes_or_takes_back(root, monkeypatch, at):
    folder, real, calls = RigFolder(root), os.rename, []

    def rename(origin, target):
        calls.append(origin)
        if len(calls) == at:
            raise Stopped
        real(origin, target)

    monkeypatch.setattr(os, "rename", rename)
    stopped = False
    try:
        with folder.opened():
            change(folder)
    except Stopped:
        stopped = True
    monkeypatch.setattr(os, "rename", real)
    with RigFolder(root).opened() as said:
        assert contents(root) == AFTER
        assert said == ("A change that was interrupted here was finished." if stopped else "")
    assert set(OLD.values()) <= everything(root), "nothing is lost"
    assert stopped == (at <= 5), "each of the five renames was interrupted once"


@pytest.mark.parametrize("at", range(1, 6))
@pytest.mark.parametrize(
    ("error", "said"),
    [
        (OSError(errno.ENOSPC, "No space left on device"), r"The disk is full\. Nothing was changed"),
        (PermissionError(errno.EACCES, "Permission denied"), r"may not be written to\. Nothing was changed"),
    ],
)
def test_an_error_while_moving_takes_everything_back(root, monkeypatch, at, error, said):
    folder, real, calls = RigFolder(root), os.rename, []

    def rename(origin, target):
        calls.append(origin)
        if len(calls) == at:
            raise error
        real(origin, target)

    monkeypatch.setattr(os, "rename", rename)
    with folder.opened(), pytest.raises(Failed, match=said):
        change(folder)
    assert contents(root) == OLD
    with RigFolder(root).opened() as told:
        assert told == "" and contents(root) == OLD


def test_interrupted_while_staging_the_folder_is_as_it_was(root):
    folder = RigFolder(root)
    with folder.opened():
        folder.stage(0).write_bytes(b"half")
    with RigFolder(root).opened() as said:
        assert said == "" and contents(root) == OLD and not folder.staging.exists()


def test_what_was_staged_is_gone_so_the_change_is_taken_back(root, monkeypatch):
    folder = RigFolder(root)
    monkeypatch.setattr(os, "rename", lambda *_: (_ for _ in ()).throw(Stopped))
    with pytest.raises(Stopped), folder.opened():
        change(folder)
    monkeypatch.undo()
    (folder.staging / "1").unlink()
    with RigFolder(root).opened() as said:
        assert said == "A change that was interrupted here was taken back." and contents(root) == OLD


def test_a_file_that_appears_meanwhile_is_never_written_over(root):
    folder = RigFolder(root)
    (root / "mods/c.zip").write_bytes(b"just saved")
    with folder.opened(), pytest.raises(Failed):
        change(folder)
    assert contents(root) == OLD | {"mods/c.zip": b"just saved"}


def test_links_that_lead_out_are_never_followed(root, tmp_path):
    outside = tmp_path / "outside"
    outside.mkdir()
    (root / "linked").symlink_to(outside)
    folder = RigFolder(root)
    with pytest.raises(UnsafePath, match="leads through a link out of the folder"):
        folder.inside("linked/x.zip")
    with folder.opened(), pytest.raises(UnsafePath):
        folder.change([], {"linked/x.zip": folder.stage(0)}, {}, b"{}")
    assert list(outside.iterdir()) == []


def test_two_commands_do_not_work_at_the_same_time(root):
    with RigFolder(root).opened(), pytest.raises(Failed, match="Another convoy command"), RigFolder(root).opened():
        pass


def test_unchanged_files_are_not_read_again_and_changed_ones_are(root, monkeypatch):
    from true_convoy.agent import folder as module

    read, real = [], module.sha256_of
    monkeypatch.setattr(module, "sha256_of", lambda path: read.append(path.name) or real(path))
    folder = RigFolder(root)
    with folder.opened():
        folder.write_record("placed", dict.fromkeys(OLD, "0" * 64))
        for path in OLD:
            os.utime(root / path, (1_700_000_000, 1_700_000_000))
        first = folder.stocktake()
        assert folder.stocktake() == first and len(read) == len(OLD)
        (root / "mods/a.zip").write_bytes(random.Random(1).randbytes(5))
        assert folder.stocktake() != first and read[len(OLD) :] == ["a.zip"]


def test_a_missing_folder_is_said(tmp_path):
    with pytest.raises(Failed, match="There is no folder"), RigFolder(tmp_path / "nowhere").opened():
        pass
