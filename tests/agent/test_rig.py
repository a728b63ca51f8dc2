"""Following a pack: the command against a real server, from boarding to leaving, and what a member keeps."""

import json
from pathlib import Path

import pytest

from tests.conftest import convoy
from true_convoy.core.edits import AddEntry, RemoveEntry, SetOptional
from true_convoy.core.model import LoaderChoice
from true_convoy.core.model import Pack as PackValue
from true_convoy.server.accounts.models import User
from true_convoy.server.catalogue.actions import take_in
from true_convoy.server.packs.actions import create_pack, make_edit
from true_convoy.server.packs.queries import draft
from true_convoy.server.releases.actions import publish
from true_convoy.server.rigs.actions import issue_code, revoke_code
from true_convoy.server.rigs.models import Rig
from true_convoy.server.rigs.queries import road

pytestmark = pytest.mark.django_db(transaction=True)


class Group:
    """A pack of its own on a running server, and the code to it."""

    def __init__(self, address: str, tidewrack) -> None:
        take_in(tidewrack)
        self.address = address
        self.owner = User.objects.create_user("o@x.example", name="O")
        loader = LoaderChoice(slug="keel", version="0.9.3")
        facts = {"slug": "night", "name": "Night Tide", "game": "tidewrack", "game_version": "2.4.1"}
        self.pack = create_pack(self.owner, PackValue(**facts, loader=loader, entries=()))
        self.code = issue_code(self.pack, self.owner).code

    def edit(self, *edits) -> None:
        for edit in edits:
            make_edit(self.pack, self.owner, draft(self.pack)[0].number, edit)

    def release(self, version: str) -> None:
        number = draft(self.pack)[0].number
        publish(self.pack, self.owner, revision=number, version=version, channel="steady", notes="")

    def seen(self) -> str:
        return road(self.pack).rigs[0].state


@pytest.fixture
def group(live_server, tidewrack, mod_host) -> Group:
    made = Group(live_server.url, tidewrack)
    made.edit(AddEntry(mod="galley"), AddEntry(mod="clear-water"), SetOptional(mod="clear-water", optional=True))
    made.release("1.0.0")
    return made


@pytest.fixture
def game(tmp_path) -> Path:
    folder = tmp_path / "game"
    (folder / "mods").mkdir(parents=True)
    return folder


def mods(game: Path) -> set[str]:
    return {path.name.rpartition("-")[0] for path in (game / "mods").iterdir()}


def join(group: Group, game: Path, *more: object):
    return convoy("join", f"{group.address}/join/{group.code}", "--into", game, "--name", "Desk", *more)


def test_join_sync_status_and_leave(group, game, store):
    joined = join(group, game)
    assert joined.returncode == 0 and "In step with Night Tide 1.0.0" in joined.stderr, joined
    assert mods(game) == {"galley", "clear-water"} and group.seen() == "in step"
    secret = game / ".convoy" / "rig.json"
    assert secret.stat().st_mode & 0o777 == 0o600
    again = convoy("sync", "--into", game)
    assert again.returncode == 0 and "Nothing to do: 2 files" in again.stderr
    group.edit(RemoveEntry(mod="galley"), AddEntry(mod="fog-bank"), AddEntry(mod="sound-horn"))
    group.release("2.0.0")
    assert group.seen() == "behind"
    told = convoy("status", "--into", game, "--json")
    assert told.returncode == 1 and json.loads(told.stdout)["state"] == "behind"
    assert convoy("sync", "--into", game).returncode == 0
    assert mods(game) == {"fog-bank", "sound-horn", "clear-water"}
    assert list((game / ".convoy" / "aside").rglob("galley*.zip")), "set aside, not deleted"
    left = convoy("leave", "--into", game)
    assert left.returncode == 0 and mods(game) == set() and not secret.exists()
    assert not Rig.objects.filter(ended=None).exists()


def test_what_is_a_members_own_stays_or_is_set_aside_but_never_lost(group, game, store):
    (game / "mods" / "bells-1.zip").write_bytes(b"my bells")
    (game / "mods" / "whistle-1.zip").write_bytes(b"my whistle")
    join(group, game)
    assert "bells" not in mods(game), "not in the pack, so set aside"
    kept = next((game / ".convoy" / "aside").rglob("bells-1.zip"))
    kept.rename(game / "mods" / "bells-1.zip")
    assert convoy("status", "--into", game).returncode == 1 and group.seen() == "strayed"
    assert convoy("keep", "mods/bells-1.zip", "--into", game).returncode == 0
    assert convoy("sync", "--into", game).returncode == 0 and group.seen() == "in step"
    assert (game / "mods" / "bells-1.zip").read_bytes() == b"my bells"
    convoy("keep", "mods/bells-1.zip", "--remove", "--into", game)
    assert convoy("sync", "--into", game).returncode == 0 and "bells" not in mods(game)
    asides = {path.read_bytes() for path in (game / ".convoy" / "aside").rglob("*.zip")}
    assert {b"my bells", b"my whistle"} <= asides
    assert convoy("keep", "../elsewhere", "--into", game).returncode == 2


def test_optional_mods_may_be_left_out_and_taken_again(group, game, store):
    join(group, game)
    assert convoy("sync", "--without", "clear-water", "--into", game).returncode == 0
    assert mods(game) == {"galley"} and group.seen() == "in step"
    convoy("sync", "--without", "galley", "--into", game)
    assert mods(game) == {"galley"}, "what is not optional stays"
    convoy("sync", "--with", "clear-water", "--into", game)
    assert mods(game) == {"galley", "clear-water"}


def test_what_is_not_there_by_default_comes_when_it_is_asked_for(group, game, store):
    group.edit(SetOptional(mod="clear-water", optional=True, by_default=False))
    group.release("1.1.0")
    join(group, game)
    assert mods(game) == {"galley"} and group.seen() == "in step"
    assert convoy("sync", "--into", game, "--with", "clear-water").returncode == 0
    assert mods(game) == {"galley", "clear-water"} and group.seen() == "in step"
    convoy("sync", "--into", game, "--without", "clear-water")
    assert mods(game) == {"galley"} and group.seen() == "in step"


def test_of_a_group_a_rig_has_exactly_one(group, game, store):
    for number, slug in enumerate(("fog-bank", "steady-camera", "paint-locker")):
        choice = SetOptional(mod=slug, optional=True, by_default=number == 1, one_of="Sights")
        group.edit(AddEntry(mod=slug), choice)
    group.release("1.1.0")
    join(group, game)
    sights = {"fog-bank", "steady-camera", "paint-locker"}
    assert mods(game) & sights == {"steady-camera"} and group.seen() == "in step"
    for asked in ("paint-locker", "fog-bank"):
        convoy("sync", "--into", game, "--with", asked)
        assert mods(game) & sights == {asked} and group.seen() == "in step"


def test_leaving_can_keep_the_files_and_altered_ones_are_never_taken(group, game, store):
    join(group, game)
    altered = next((game / "mods").glob("galley*"))
    altered.unlink()
    altered.write_bytes(b"changed by hand")
    assert convoy("leave", "--into", game).returncode == 0
    assert mods(game) == {"galley"} and altered.read_bytes() == b"changed by hand"
    join(group, game)
    assert convoy("leave", "--keep-files", "--into", game).returncode == 0
    assert mods(game) == {"galley", "clear-water"}


def test_codes_that_lead_nowhere_leave_no_trace(group, game, store):
    revoke_code(group.pack, group.code)
    refused = join(group, game)
    assert refused.returncode == 1 and "was revoked" in refused.stderr
    assert not (game / ".convoy" / "rig.json").exists() and not Rig.objects.exists()
    unknown = convoy("join", "22222-22222", "--server", group.address, "--into", game)
    assert unknown.returncode == 1 and "No pack has this boarding code" in unknown.stderr


def test_a_folder_follows_one_pack_only(group, game, store):
    join(group, game)
    assert "follows Night Tide already" in join(group, game).stderr
    assert Rig.objects.count() == 1


def test_a_rig_that_was_signed_off_is_told_so(group, game, store):
    join(group, game)
    Rig.objects.update(ended="2026-01-01T00:00:00Z")
    told = convoy("sync", "--into", game)
    assert told.returncode == 1 and "no longer follows the pack" in told.stderr
    assert mods(game) == {"galley", "clear-water"}


def test_a_download_that_fails_leaves_a_joined_rig_to_sync_later(group, game, store, mod_host):
    mod_host.misbehave("corrupt", "galley", 1)
    failed = join(group, game)
    assert failed.returncode == 1 and "its checksum differs" in failed.stderr and mods(game) == set()
    assert group.seen() == "behind"
    assert convoy("sync", "--into", game).returncode == 0 and group.seen() == "in step"


def test_without_the_server_status_says_how_the_folder_stands(group, game, store):
    join(group, game)
    record = game / ".convoy" / "rig.json"
    facts = json.loads(record.read_text()) | {"server": "http://127.0.0.1:9"}
    record.write_text(json.dumps(facts))
    told = convoy("status", "--into", game)
    assert told.returncode == 0 and "in step" in told.stdout and "cannot be reached" in told.stderr
    synced = convoy("sync", "--into", game)
    assert synced.returncode == 1 and "cannot be reached" in synced.stderr and "galley" in mods(game)
    record.write_text("{")
    assert "is damaged" in convoy("status", "--into", game).stderr
