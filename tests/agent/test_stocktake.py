"""Writing down what is in a folder: everything that is a file of the game, and nothing in it is changed."""

import hashlib
import os
import zipfile

import pytest

from tests.conftest import convoy
from true_convoy.core import documents
from true_convoy.core.model import Inventory


def tree(folder) -> dict[str, tuple[bytes, int]]:
    return {
        p.relative_to(folder).as_posix(): (p.read_bytes(), p.stat().st_mtime_ns)
        for p in folder.rglob("*")
        if p.is_file()
    }


@pytest.fixture
def game(tmp_path):
    folder = tmp_path / "game"
    for path, data in {
        "mods/a.zip": b"a",
        "config/a.toml": b"x = 1",
        ".convoy/rig.json": b"{}",
        "worlds/w/1": b"w",
    }.items():
        (folder / path).parent.mkdir(parents=True, exist_ok=True)
        (folder / path).write_bytes(data)
    return folder


def test_every_file_of_the_game_is_written_down_and_none_touched(game, tmp_path):
    (game / "mods" / "link.zip").symlink_to(tmp_path / "elsewhere")
    (tmp_path / "elsewhere").write_bytes(b"not of the game")
    before = tree(game)
    done = convoy("stocktake", game, "-o", tmp_path / "game.inventory.json")
    assert done.returncode == 0 and "3 files written down" in done.stderr
    value = documents.read(Inventory, (tmp_path / "game.inventory.json").read_bytes()).value
    assert {file.path: file.sha256 for file in value.files} == {
        path: hashlib.sha256(data).hexdigest()
        for path, data in (("mods/a.zip", b"a"), ("config/a.toml", b"x = 1"), ("worlds/w/1", b"w"))
    }
    assert tree(game) == before and value.release is None and value.side == "client"


def test_files_that_no_rig_could_hold_are_left_out_and_named(game, tmp_path):
    (game / "mods" / "what?.zip").write_bytes(b"x")
    done = convoy("stocktake", game, "-o", tmp_path / "i.json", "--side", "server")
    assert done.returncode == 0 and "Left out:" in done.stderr
    value = documents.read(Inventory, (tmp_path / "i.json").read_bytes()).value
    assert len(value.files) == 3 and value.side == "server"


def test_what_is_no_folder_is_said(tmp_path):
    done = convoy("stocktake", tmp_path / "none", "-o", tmp_path / "i.json")
    assert done.returncode == 2 and "is not a folder" in done.stderr and not (tmp_path / "i.json").exists()


def test_an_inventory_of_the_worlds_files_names_the_builds(world, tmp_path, tidewrack):
    """What the catalogue says of a build is what a stocktake finds of it, whole and unpacked."""
    game = tmp_path / "game"
    whole = next(mod for mod in tidewrack.mods if mod.slug == "galley").builds[-1]
    (game / "mods").mkdir(parents=True)
    os.link(world / "files" / whole.file.name, game / "mods" / "renamed.zip")
    unpacked = next(mod for mod in tidewrack.mods if mod.slug == "dry-stone").builds[-1]
    with zipfile.ZipFile(world / "files" / unpacked.file.name) as archive:
        archive.extractall(game / "Mods")
    convoy("stocktake", game, "-o", tmp_path / "i.json")
    files = documents.read(Inventory, (tmp_path / "i.json").read_bytes()).value.files
    sums = {file.path: file.sha256 for file in files}
    assert sums["mods/renamed.zip"] == whole.file.sha256
    assert {path.removeprefix("Mods/"): found for path, found in sums.items() if path.startswith("Mods/")} == {
        item.path: item.sha256 for item in unpacked.contents
    }
