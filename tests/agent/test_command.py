"""The command offline, against real files: placing, verifying, hosts that misbehave, and bad input."""

import json
import os
import shutil
import zipfile
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path

import pytest
from msgspec.structs import replace

from tests.conftest import convoy
from true_convoy.core import documents
from true_convoy.core.model import BuildFile, ContentFile, Entry, LoaderChoice, Need, Pack, Place, Sides
from true_convoy.core.release import digest_of, freeze

CHOSEN = ["deep-chart", "galley", "compass-rose", "harbour-master", "leviathan-rest"]


@pytest.fixture(scope="module")
def papers(tidewrack, tmp_path_factory) -> Path:
    """A folder with the catalogue, a pack, and its release 1.0.0; and 1.1.0, which drops one mod and adds another."""
    folder = tmp_path_factory.mktemp("papers")
    pack = Pack(
        slug="p", name="Papers", game="tidewrack", game_version="2.4.1",
        loader=LoaderChoice(slug="keel", version="0.9.3"), entries=tuple(Entry(mod=slug) for slug in CHOSEN),
    )  # fmt: skip
    (folder / "t.catalogue.json").write_bytes(documents.write(tidewrack))
    (folder / "p.pack.json").write_bytes(documents.write(pack))
    later = replace(pack, entries=(*(e for e in pack.entries if e.mod != "galley"), Entry(mod="fog-bank")))
    for version, value in (("1.0.0", pack), ("1.1.0", later)):
        release = freeze(value, tidewrack, version=version, published=datetime(2026, 11, 1, tzinfo=UTC))
        (folder / f"{version}.release.json").write_bytes(documents.write(release))
    return folder


@pytest.fixture
def rig(tmp_path) -> Path:
    folder = tmp_path / "game"
    (folder / "mods").mkdir(parents=True)
    (folder / "mods" / "mine.zip").write_bytes(b"a mod of my own")
    (folder / "saves").mkdir()
    (folder / "saves" / "world.dat").write_bytes(b"my world")
    return folder


def game_files(rig: Path) -> set[str]:
    return {p.relative_to(rig).as_posix() for p in rig.rglob("*") if p.is_file() and ".convoy" not in p.parts}


def test_resolve_prints_one_json_value_and_says_no_with_exit_code_1(papers, tmp_path):
    done = convoy("resolve", papers / "t.catalogue.json", papers / "p.pack.json", "--json")
    answer = json.loads(done.stdout)
    assert done.returncode == 0 and answer["outcome"] == "resolved" and "chart-kit" in answer["added"]
    assert answer["required_by"]["chart-kit"] == ["deep-chart"]
    clash = json.loads((papers / "p.pack.json").read_text())
    clash["entries"] = [{"mod": "engine-room"}, {"mod": "quiet-motor"}]
    (tmp_path / "clash.json").write_text(json.dumps(clash))
    done = convoy("resolve", papers / "t.catalogue.json", tmp_path / "clash.json", "--json")
    assert json.loads(done.stdout)["remedies"][0]["edit"]["do"] == "set-enabled"
    answer = json.loads(done.stdout)
    assert (
        done.returncode == 1 and answer["outcome"] == "impossible" and answer["mods"] == ["engine-room", "quiet-motor"]
    )
    assert any("both replace the motor block" in sentence for sentence in answer["explanation"])


def test_freeze_and_compare(papers, tmp_path):
    out = tmp_path / "one.release.json"
    words = ("freeze", papers / "t.catalogue.json", papers / "p.pack.json", "--version", "1.0.0", "-o", out)
    when = ("--published", "2026-11-01T00:00:00Z")
    assert convoy(*words, *when).returncode == 0
    assert out.read_bytes() == (papers / "1.0.0.release.json").read_bytes(), "the server and the command freeze alike"
    again = convoy(*words, *when)
    assert again.returncode == 2 and "never changes" in again.stderr
    told = convoy("compare", out, papers / "1.1.0.release.json", "--json")
    difference = json.loads(told.stdout)
    assert [change["mod"] for change in difference["removed"]] == ["galley"]
    assert "**Added**" in convoy("compare", out, papers / "1.1.0.release.json", "--markdown").stdout


def test_place_fills_a_folder_and_verify_says_how_it_stands(papers, rig, store, mod_host):
    one, two = papers / "1.0.0.release.json", papers / "1.1.0.release.json"
    told = json.loads(convoy("place", one, "--into", rig, "--json").stdout)
    assert told["state"] == "waiting" and [item["mod"] for item in told["awaited"]] == ["leviathan-rest"]
    assert [item["path"] for item in told["set_aside"]] == ["mods/mine.zip"]
    assert (rig / told["aside"] / "mods/mine.zip").read_bytes() == b"a mod of my own"
    assert (rig / "saves/world.dat").read_bytes() == b"my world"
    assert "harbour-master" not in " ".join(told["placed"]), "server mods do not go to players"
    shutil.copy(next((mod_host_files(mod_host, papers)).glob("leviathan-rest-1.1.1.zip")), rig / "fetched by hand")
    (rig / "down").mkdir()
    (rig / "fetched by hand").rename(rig / "down" / "any name.zip")
    done = convoy("place", one, "--into", rig, "--from", rig / "down", "--json")
    assert done.returncode == 0 and json.loads(done.stdout)["state"] == "in step"
    again = json.loads(convoy("place", one, "--into", rig, "--json").stdout)
    assert again["placed"] == [] and again["set_aside"] == []
    assert json.loads(convoy("verify", two, "--into", rig, "--json").stdout)["state"] == "behind"
    mods = sorted((rig / "mods").iterdir())
    mods[0].unlink()
    mods[0].write_bytes(b"altered")
    verified = convoy("verify", one, "--into", rig, "--json")
    assert verified.returncode == 1 and json.loads(verified.stdout)["state"] == "strayed"
    assert [(d["kind"], d["path"]) for d in json.loads(verified.stdout)["differences"]] == [
        ("changed", f"mods/{mods[0].name}")
    ]
    told = json.loads(convoy("place", two, "--into", rig, "--json").stdout)
    assert {"path": f"mods/{mods[0].name}", "reason": "was altered"} in told["set_aside"]
    assert any("galley" in item["path"] and item["reason"] == "no longer in the pack" for item in told["set_aside"])


def mod_host_files(mod_host, papers) -> Path:
    """Where the stand-in keeps its files; a person would fetch them from a page."""
    return next(path for path in papers.parent.glob("world*/files"))


def test_the_server_half_is_what_servers_need(papers, rig, store, mod_host):
    placed = json.loads(
        convoy("place", papers / "1.0.0.release.json", "--into", rig, "--side", "server", "--json").stdout
    )
    names = " ".join(placed["placed"])
    assert "harbour-master" in names and "compass-rose" not in names


@pytest.mark.parametrize(
    ("mode", "count", "said"),
    [
        ("down", 99, "answered with status 503"),
        ("truncate", 99, "broke off"),
        ("corrupt", 1, "its checksum differs"),
    ],
)
def test_a_host_that_misbehaves_changes_nothing(papers, rig, store, mod_host, mode, count, said):
    before = game_files(rig)
    mod_host.misbehave(mode, "deep-chart", count)
    done = convoy("place", papers / "1.0.0.release.json", "--into", rig)
    assert done.returncode == 1 and said in done.stderr and "Traceback" not in done.stderr
    assert game_files(rig) == before
    mod_host.behave()
    assert convoy("place", papers / "1.0.0.release.json", "--into", rig, "--json").returncode == 1, "waiting"
    assert len(game_files(rig)) > len(before)


def test_a_transfer_that_breaks_off_once_is_resumed(papers, rig, store, mod_host):
    mod_host.misbehave("truncate", "deep-chart")
    mod_host.misbehave("slow", "galley")
    told = json.loads(convoy("place", papers / "1.0.0.release.json", "--into", rig, "--json").stdout)
    assert any("deep-chart" in path for path in told["placed"])


def test_a_host_that_is_not_there_is_said(papers, rig, store, tidewrack, tmp_path):
    gone = json.loads((papers / "1.0.0.release.json").read_text())
    for entry in gone["entries"]:
        entry["file"]["url"] = entry["file"]["url"] and "http://127.0.0.1:9/x"
    gone["digest"] = digest_of(gone)
    (tmp_path / "gone.json").write_text(json.dumps(gone))
    done = convoy("place", tmp_path / "gone.json", "--into", rig)
    assert done.returncode == 1 and "127.0.0.1:9 cannot be reached" in done.stderr
    assert game_files(rig) == {"mods/mine.zip", "saves/world.dat"}


def test_the_store_is_shared_and_an_altered_copy_is_noticed(papers, rig, store, mod_host, tmp_path):
    convoy("place", papers / "1.0.0.release.json", "--into", rig)
    mod_host.misbehave("down", "/files", 99)
    second = tmp_path / "second"
    second.mkdir()
    assert "Traceback" not in convoy("place", papers / "1.0.0.release.json", "--into", second).stderr
    galley = next(path for path in (second / "mods").iterdir() if "galley" in path.name)
    assert galley.samefile(rig / "mods" / galley.name), "the same bytes on disk"
    galley.chmod(0o644)
    galley.write_bytes(b"spoilt in place")
    third = tmp_path / "third"
    third.mkdir()
    done = convoy("place", papers / "1.0.0.release.json", "--into", third)
    assert done.returncode == 1 and "503" in done.stderr, "the spoilt copy was not used"


def unpacked_release(papers: Path, archive: Path, places: tuple[Place, ...]) -> bytes:
    """A release whose one entry is unpacked from an archive."""
    release = documents.read(documents.Release, (papers / "1.0.0.release.json").read_bytes()).value
    digest = sha256(archive.read_bytes()).hexdigest()
    file = BuildFile(name=archive.name, size=archive.stat().st_size, sha256=digest, url=None)
    entry = replace(release.entries[0], file=file, places=places, sides=Sides(server=Need.OPTIONAL))
    raw = documents.to_builtins(replace(release, entries=(entry,)))
    raw["digest"] = digest_of(raw)
    return json.dumps(raw).encode()


def test_archives_are_unpacked_as_the_release_says_and_no_further(papers, rig, store, tmp_path):
    archive, source = tmp_path / "from" / "folder.zip", tmp_path / "from"
    source.mkdir()
    with zipfile.ZipFile(archive, "w") as made:
        made.writestr("Mod/mod.json", "{}")
        made.writestr("Mod/bomb.bin", b"\0" * 5_000_000, compress_type=zipfile.ZIP_DEFLATED)
        made.writestr("../../escaped.txt", "out")
    fine = ContentFile(path="Mod/mod.json", size=2, sha256=sha256(b"{}").hexdigest())
    place = Place(source=fine.path, target="Mods/Mod/mod.json", size=2, sha256=fine.sha256)
    paper = tmp_path / "r.json"
    cases = [
        ((place,), 0, ""),
        ((place, replace(place, source="Mod/bomb.bin", target="Mods/Mod/b")), 1, "is not what the release names"),
        ((replace(place, source="no/such", target="Mods/Mod/c"),), 1, "is damaged or not a zip archive"),
        ((replace(place, source="../../escaped.txt", target="../../escaped.txt"),), 2, "leads out of the folder"),
        ((replace(place, target=".convoy/rig.json"),), 2, "keeps for itself"),
        ((replace(place, target="Mods/NUL.txt"),), 2, "device name"),
    ]
    for places, code, said in cases:
        paper.write_bytes(unpacked_release(papers, archive, places))
        done = convoy("place", paper, "--into", rig, "--from", source)
        assert (done.returncode, said in done.stderr) == (code, True), done.stderr
    assert (rig / "Mods/Mod/mod.json").read_text() == "{}" and not (rig / "Mods/Mod/b").exists()
    assert not list(tmp_path.parent.rglob("escaped.txt"))


def test_bad_input_is_said_in_a_sentence_with_exit_code_2(papers, rig, tmp_path):
    altered = tmp_path / "altered.json"
    altered.write_text((papers / "1.0.0.release.json").read_text().replace("Deep Chart", "Deep Chore"))
    (tmp_path / "broken.json").write_text("{")
    cases = [
        (("verify", altered, "--into", rig), "was altered after it was published"),
        (("verify", tmp_path / "broken.json", "--into", rig), "not a JSON document"),
        (("verify", tmp_path / "none.json", "--into", rig), "cannot be read"),
        (("resolve", papers / "p.pack.json", papers / "p.pack.json"), "$.format"),
        (("join", "K7MPR", "--into", rig), "has 10 characters"),
        (("join", "ftp://127.0.0.1/join/K7MPR-3XWTC", "--into", rig), "begins with http"),
        (("frobnicate",), "No such command"),
    ]
    for words, said in cases:
        done = convoy(*words)
        assert (done.returncode, said in done.stderr) == (2, True), (words, done.stderr)
    done = convoy("status", "--into", rig)
    assert done.returncode == 1 and "does not follow a pack" in done.stderr
    assert convoy("join", "22222-22222", "--into", rig, "--server", "http://127.0.0.1:9").returncode in (1, 2)


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write everywhere; the error itself is tested on the folder")
def test_a_folder_that_may_not_be_written_to_is_said(papers, rig, store, mod_host):
    rig.chmod(0o500)
    done = convoy("place", papers / "1.0.0.release.json", "--into", rig)
    rig.chmod(0o700)
    assert done.returncode == 1 and "may not be written to" in done.stderr


def test_a_release_larger_than_the_disk_is_refused_before_anything_is_fetched(papers, rig, store, tmp_path):
    huge = json.loads((papers / "1.0.0.release.json").read_text())
    for place in huge["entries"][0]["places"]:
        place["size"] = 1 << 49
    huge["digest"] = digest_of(huge)
    (tmp_path / "huge.json").write_text(json.dumps(huge))
    done = convoy("place", tmp_path / "huge.json", "--into", rig)
    assert done.returncode == 1 and "of disk space" in done.stderr and not store.exists()


def test_check_prints_findings_as_json_and_as_sarif_and_says_no_where_something_stops(papers, tmp_path):
    whole = convoy("resolve", papers / "t.catalogue.json", papers / "p.pack.json", "--json")
    builds = json.loads(whole.stdout)["builds"]
    pack = documents.read(Pack, (papers / "p.pack.json").read_bytes()).value
    entries = tuple(Entry(mod=mod, version=version, chosen=mod in CHOSEN) for mod, version in builds.items())
    good, bad = tmp_path / "good.pack.json", tmp_path / "bad.pack.json"
    good.write_bytes(documents.write(replace(pack, entries=entries)))
    bad.write_bytes(documents.write(replace(pack, entries=tuple(e for e in entries if e.mod != "rope-library"))))
    done = convoy("check", papers / "t.catalogue.json", good, "--json")
    assert done.returncode == 0
    assert not [one for one in json.loads(done.stdout)["findings"] if one["grade"] == "stop"]
    done = convoy("check", papers / "t.catalogue.json", bad, "--json")
    stop = json.loads(done.stdout)["findings"][0]
    assert done.returncode == 1 and stop["code"] == "missing-requirement" and "rope-library" in stop["mods"]
    assert stop["fixes"][0]["edit"] == {"do": "add", "mod": "rope-library", "version": "2.3.1", "chosen": False}
    log = json.loads(convoy("check", papers / "t.catalogue.json", bad, "--sarif").stdout)
    assert log["runs"][0]["results"][0]["ruleId"] == "missing-requirement"
    lost = convoy("check", papers / "t.catalogue.json", bad, "--last", papers / "1.0.0.release.json")
    assert "Add Rope Library 2.3.1" in lost.stdout and lost.returncode == 1


def test_fit_prints_the_table(papers):
    done = convoy("fit", papers / "t.catalogue.json", papers / "p.pack.json", "--json")
    cells = {(c["game_version"], c["loader"]): c for c in json.loads(done.stdout)["cells"]}
    assert done.returncode == 0 and cells["2.4.1", "keel"]["here"] and cells["2.4.1", "keel"]["missing"] == []
    assert cells["2.4.1", "outrigger"]["missing"] == ["leviathan-rest"]
    assert (
        "2.4.1 keel 0.9.3: 5 of 5 (the pack is here)"
        in convoy("fit", papers / "t.catalogue.json", papers / "p.pack.json").stdout
    )
