"""Mods of a team's own, who sees them; what a new pack begins with; the editing of game definitions; pasted lists."""

from tests.server.conftest import add, edit, entries
from true_convoy.core import documents
from true_convoy.core.model import Inventory, RigFile
from true_convoy.server.catalogue.models import Build, Contents, Mod
from true_convoy.server.catalogue.tasks import reground_mods
from true_convoy.server.jobs.models import Job
from true_convoy.server.packs.models import Membership, Pack
from true_convoy.server.packs.queries import draft

RECORDED = {"name": "Secret Reef", "version": "1.0.0", "file_name": "reef.zip", "size": 5, "sha256": "d" * 64}
RECORDED |= {"page": "https://x.example/reef", "game_versions": ["2.4.1"], "reach": "progress"}
GROUND = {"name": "Fresh", "game": "tidewrack", "game_version": "2.4.1", "loader": {"slug": "keel", "version": "0.9.3"}}

# Where the catalogue is asked.
KNOWN = "mods"


def found(caller, text: str) -> list[str]:
    return [mod["slug"] for mod in caller("GET", f"{KNOWN}?game=tidewrack&q={text}")[1]["mods"]]


def test_only_its_team_finds_a_mod_on_a_shelf(people, pack):
    assert people["curator"]("POST", f"packs/{pack}/own-mods", RECORDED)[0] == 201
    assert found(people["owner"], "secret reef") == ["secret-reef"]
    for other in ("member", "stranger"):
        assert found(people[other], "secret reef") == []
        assert people[other]("GET", f"{KNOWN}/tidewrack/secret-reef")[0] == 404
    status, made = people["stranger"]("POST", "packs", GROUND)
    theirs = made["slug"]
    status, answer = people["stranger"]("POST", f"packs/{theirs}/preview-add", {"mods": ["secret-reef"]})
    assert status == 404 and "not in the catalogue" in answer["detail"]
    adding = {"do": "add", "mod": "secret-reef", "version": "1.0.0", "chosen": True}
    assert edit(people["stranger"], theirs, adding)[0] == 404
    pasted = people["stranger"]("POST", f"packs/{theirs}/pasted", {"text": "secret reef"})[1]
    assert pasted["lines"][0]["answer"] == "unknown" and "secret-reef" not in pasted["lines"][0]["near"]
    add(people["owner"], pack, "secret-reef")
    status, seen = people["member"]("GET", f"{KNOWN}/tidewrack/secret-reef?pack={pack}")
    assert status == 200 and seen["name"] == "Secret Reef", "once it is in their pack, members see it"


def test_a_reach_shows_once_a_second_curator_has_checked_it(people, pack):
    people["curator"]("POST", f"packs/{pack}/own-mods", RECORDED)
    path = "mods/tidewrack/secret-reef"
    before = people["curator"]("GET", path)[1]
    assert (before["reach"], before["reach_open"], before["may_check_reach"]) == ("shared", "progress", False)
    status, answer = people["curator"]("POST", f"{path}/reach")
    assert status == 403 and "Somebody else" in answer["detail"]
    assert people["stranger"]("POST", f"{path}/reach")[0] == 404
    assert people["owner"]("POST", f"{path}/reach")[0] == 200
    assert people["owner"]("GET", path)[1]["reach"] == "progress"
    assert people["owner"]("POST", f"{path}/reach")[0] == 409
    again = RECORDED | {"mod": "secret-reef", "version": "1.1.0", "sha256": "e" * 64}
    assert people["curator"]("POST", f"packs/{pack}/own-mods", again)[0] == 201
    after = people["owner"]("GET", path)[1]
    assert after["reach"] == "progress" and [b["version"] for b in after["builds"]] == ["1.1.0", "1.0.0"]
    status, answer = people["curator"]("POST", f"packs/{pack}/own-mods", again)
    assert status == 409 and "has a build 1.1.0 already" in answer["detail"]


def test_a_shelf_has_a_team_that_keeps_itself(people):
    owner, stranger = people["owner"], people["stranger"]
    shelf = owner("POST", "shelves", {"name": "Attic"})[1]["id"]
    assert stranger("PUT", f"shelves/{shelf}/people", {"email": "stranger@x.example"})[0] == 404
    assert owner("PUT", f"shelves/{shelf}/people", {"email": "nobody@x.example"})[0] == 404
    team = owner("PUT", f"shelves/{shelf}/people", {"email": "stranger@x.example"})[1]["people"]
    assert [person["name"] for person in team] == ["Owner", "Stranger"]
    status, made = stranger("POST", f"shelves/{shelf}/mods", RECORDED | {"game": "tidewrack"})
    assert status == 201 and stranger("GET", "shelves")[1]["shelves"][0]["mods"][0]["slug"] == made["mod"]
    assert stranger("DELETE", f"shelves/{shelf}/people/{people['owner'].user.pk}")[0] == 200
    assert owner("GET", "shelves")[1]["shelves"] == []
    assert stranger("DELETE", f"shelves/{shelf}/people/{stranger.user.pk}")[0] == 409


def begin(caller, **start):
    return caller("POST", "packs", GROUND | {"start": start})


def test_a_pack_begins_with_a_list_and_says_what_was_not_recognised(people):
    text = "Better Buoys\nbouyancy tank\nhttps://x.example/deep-chart\nGalley 1.2.0\nTwin Floats"
    status, made = begin(people["owner"], text=text)
    assert status == 201
    there = entries(people["owner"], made["slug"])
    assert {"better-buoys", "deep-chart", "rope-library"} <= there.keys() and there["galley"] == "1.2.0"
    notes = " ".join(made["notes"])
    assert "bouyancy tank" in notes and "Left out" in notes and "Twin Floats" in notes
    assert begin(people["owner"], text="nothing known here")[1]["notes"][0].startswith("No mod was recognised")


def test_a_pack_begins_as_a_copy_or_from_a_document(people, pack):
    owner = people["owner"]
    add(owner, pack, "galley", "clear-water")
    edit(owner, pack, {"do": "set-note", "mod": "galley", "note": "stew"})
    setting = {"file": "config/a.toml", "key": "a", "value": 1, "rule": "seed"}
    edit(owner, pack, {"do": "set-setting", "setting": setting})
    plain = draft(Pack.objects.get(slug=begin(owner, pack=pack)[1]["slug"]))[1]
    assert plain.entry("galley").note == "stew" and plain.settings == () and plain.name == "Fresh"
    with_settings = draft(Pack.objects.get(slug=begin(owner, pack=pack, parts=["settings"])[1]["slug"]))[1]
    assert len(with_settings.settings) == 1
    assert begin(people["member"], pack=pack)[0] == 403 and begin(people["stranger"], pack=pack)[0] == 404
    document = documents.to_builtins(draft(Pack.objects.get(slug=pack))[1])
    document["entries"] = [*document["entries"], {"mod": "never-heard-of"}]
    status, made = begin(owner, document=document)
    assert status == 201 and "never-heard-of" in made["notes"][0]
    status, answer = begin(owner, document={"format": "true-convoy/pack", "format_version": 1})
    assert status == 400 and answer["detail"].startswith("$.")


def test_a_pack_begins_from_a_folder_of_whole_and_of_unpacked_mods(people):
    owner = people["owner"]
    whole = Build.objects.get(mod__slug="galley", version="1.2.0").sha256
    files = [
        RigFile(path="mods/stew.zip", size=1, sha256=whole),
        RigFile(path="mods/mine.zip", size=1, sha256="f" * 64),
    ]
    status, made = begin(owner, inventory=documents.to_builtins(Inventory(files=tuple(files))))
    assert status == 201 and entries(owner, made["slug"]) == {"galley": "1.2.0"}
    assert "1 of 2 files were recognised" in made["notes"][0] and "mods/mine.zip" in made["notes"][1]
    build = Build.objects.get(mod__slug="dry-stone", version="1.3.0")
    inside = Contents.objects.get(build=build).files
    files = [RigFile(path=f"Mods/{one['path']}", size=one["size"], sha256=one["sha256"]) for one in inside]
    ground = {"name": "Outpost", "game": "emberline", "game_version": "3.2.1"}
    inventory = documents.to_builtins(Inventory(files=tuple(files)))
    made = owner("POST", "packs", ground | {"start": {"inventory": inventory}})[1]
    assert entries(owner, made["slug"]) == {"dry-stone": "1.3.0"}


def test_starters_are_offered_by_staff_and_begin_packs(people):
    value = {"format": "true-convoy/pack", "format_version": 1, "slug": "s", "name": "S", "game": "tidewrack"}
    value |= {"game_version": "2.4.1", "entries": [{"mod": "galley"}, {"mod": "better-buoys"}]}
    assert people["owner"]("POST", "starters", {"name": "First", "document": value})[0] == 403
    status, listed = people["staff"]("POST", "starters", {"name": "First", "about": "x", "document": value})
    assert status == 201 and listed["starters"][0]["mods"] == ["Galley", "Better Buoys"]
    made = begin(people["owner"], starter=listed["starters"][0]["id"])[1]
    assert {"galley", "better-buoys", "rope-library"} <= entries(people["owner"], made["slug"]).keys()
    assert begin(people["owner"], starter=10**6)[0] == 404


def test_a_starter_is_made_of_a_draft_without_what_others_cannot_find_and_taken_back(people, pack):
    staff, asked = people["staff"], {"name": "Deep", "pack": pack}
    people["owner"]("POST", f"packs/{pack}/own-mods", RECORDED)
    add(people["owner"], pack, "better-buoys", "secret-reef")
    assert staff("POST", "starters", asked)[0] == 404
    membership = Membership.objects.create(pack=Pack.objects.get(slug=pack), user=staff.user, role="member")
    assert staff("POST", "starters", asked)[0] == 403
    Membership.objects.filter(pk=membership.pk).update(role="curator")
    (made,) = staff("POST", "starters", asked)[1]["starters"]
    assert made["mods"] == ["Better Buoys"] and made["game"] == "tidewrack"
    edit(people["owner"], pack, {"do": "set-enabled", "mod": "better-buoys", "enabled": False})
    assert staff("POST", "starters", asked | {"name": "Hidden"})[0] == 409
    assert staff("POST", "starters", {"name": "Nothing"})[0] == 400
    assert staff("DELETE", f"starters/{made['id']}") == (200, {"starters": []})


def test_staff_change_game_definitions_that_packs_still_stand_on(people, pack):
    games = {game["slug"]: game for game in people["staff"]("GET", "games")[1]["games"]}
    game = {key: value for key, value in games["tidewrack"].items() if key not in ("mods", "ready")}
    assert games["tidewrack"]["mods"] == 60 and games["tidewrack"]["ready"]["2.4.1|keel"] > 50
    assert people["owner"]("PUT", "games", {"game": game})[0] == 403
    fewer = game | {"versions": [v for v in game["versions"] if v["label"] != "2.4.1"]}
    status, answer = people["staff"]("PUT", "games", {"game": fewer})
    assert status == 409 and "Thursday Deep stands on version 2.4.1" in answer["detail"]
    bad = game | {"kinds": [{"slug": "mod", "name": "Mod", "folder": "../out"}]}
    status, answer = people["staff"]("PUT", "games", {"game": bad})
    assert status == 400 and "$.games[0].kinds[0].folder" in answer["detail"]
    more = game | {"versions": [*game["versions"], {"label": "2.4.9", "channel": "stable"}]}
    assert people["staff"]("PUT", "games", {"game": more})[0] == 200
    job = Job.objects.get(owner=people["staff"].user)
    reground_mods(job.pk, "tidewrack")
    job.refresh_from_db()
    assert (job.state, job.done, job.total) == ("done", 60, 60)
    assert people["staff"]("PUT", "games", {"game": more})[0] == 200 and Job.objects.count() == 1
    assert "2.4.9|keel||s" in Mod.objects.get(slug="deep-chart").grounds, "what mods are for was worked out again"


def test_two_hundred_lines_are_recognised_together(people, pack):
    add(people["owner"], pack, "galley")
    names = list(Mod.objects.filter(game__slug="tidewrack").values_list("name", flat=True))
    text = "\n".join((names * 4)[:200])
    lines = people["owner"]("POST", f"packs/{pack}/pasted", {"text": text})[1]["lines"]
    tally = {answer: sum(line["answer"] == answer for line in lines) for answer in ("found", "already", "twice")}
    assert tally == {"found": 59, "already": 1, "twice": 140}
    near = people["owner"]("POST", f"packs/{pack}/pasted", {"text": "Bettr Bouys"})[1]["lines"][0]
    assert near["answer"] == "unknown" and near["near"][0] == "better-buoys"
    status, answer = people["owner"]("POST", f"packs/{pack}/pasted", {"text": "x\n" * 10_000})
    assert status == 400 and "in parts" in answer["detail"]


def test_turning_off_copying_and_lists(people, pack):
    owner = people["owner"]
    add(owner, pack, "better-buoys", "galley")
    preview = owner("POST", f"packs/{pack}/preview-off", {"mods": ["rope-library"]})[1]
    assert preview["names"] == ["Better Buoys"] and len(preview["edit"]["edits"]) == 2
    other = owner("POST", "packs", GROUND | {"name": "Other"})[1]["slug"]
    edit(owner, pack, {"do": "set-pin", "mod": "galley", "pin": {"reason": "stew"}})
    edit(owner, pack, {"do": "set-path-rules", "mod": "galley", "keep": [], "drop": ["docs/**"]})
    copied = owner("POST", f"packs/{pack}/copy", {"mods": ["galley", "rope-library"], "to": other})[1]
    assert copied == {"count": 2, "already": [], "name": "Other"}
    entry = draft(Pack.objects.get(slug=other))[1].entry("galley")
    assert (entry.pin.reason, entry.drop) == ("stew", ("docs/**",))
    assert owner("POST", f"packs/{pack}/copy", {"mods": ["galley"], "to": other})[1]["already"] == ["Galley"]
    Membership.objects.filter(pack__slug=other).update(role="member")
    assert owner("POST", f"packs/{pack}/copy", {"mods": ["galley"], "to": other})[0] == 403
    answer = owner("GET", f"packs/{pack}/list?as=csv")[1]
    assert answer["Content-Type"].startswith("text/csv") and b"Better Buoys,better-buoys" in answer.content
    assert b"- [Galley]" in owner("GET", f"packs/{pack}/list?as=markdown")[1].content


def test_path_rules_are_tried_before_they_are_kept(people):
    ground = {"name": "Outpost", "game": "emberline", "game_version": "3.2.1"}
    outpost = people["owner"]("POST", "packs", ground)[1]["slug"]
    add(people["owner"], outpost, "dry-stone")
    rules = {"mod": "dry-stone", "version": "1.4.1", "keep": [], "drop": ["**/Docs/**"]}
    files = people["owner"]("POST", f"packs/{outpost}/path-rules", rules)[1]["files"]
    dropped = [file["path"] for file in files if not file["target"]]
    assert dropped == ["DryStone/Docs/notes.txt"] and all(
        f["target"].startswith("Mods/DryStone/") for f in files if f["target"]
    )
    assert people["owner"]("POST", f"packs/{outpost}/path-rules", rules | {"mod": "kindled"})[0] == 404


def test_going_back_is_a_revision_that_can_be_undone_and_any_two_are_compared(people, pack):
    owner = people["owner"]
    add(owner, pack, "galley")
    number = owner("GET", f"packs/{pack}/draft")[1]["revision"]
    add(owner, pack, "clear-water")
    edit(owner, pack, {"do": "set-note", "mod": "galley", "note": "stew"})
    base = owner("GET", f"packs/{pack}/draft")[1]["revision"]
    compared = owner("GET", f"packs/{pack}/history/compared?one={number}&two={base}")[1]
    assert [change["mod"] for change in compared["added"]] == ["clear-water"]
    assert owner("POST", f"packs/{pack}/go-back", {"base": number, "to": 1})[0] == 409
    assert owner("POST", f"packs/{pack}/go-back", {"base": base, "to": 999})[0] == 404
    status, made = owner("POST", f"packs/{pack}/go-back", {"base": base, "to": number})
    assert status == 201 and entries(owner, pack).keys() == {"galley"} and f"revision {number}" in made["words"]
    assert owner("POST", f"packs/{pack}/undo", {"base": made["revision"]})[0] == 201
    assert "clear-water" in entries(owner, pack)
    page = owner("GET", f"packs/{pack}/history?before=3")[1]
    assert [row["number"] for row in page["revisions"]] == [2, 1] and not page["more"]


def test_a_mod_that_a_feed_no_longer_lists_stays_and_says_so(people, pack, mod_host):
    from true_convoy.server.catalogue.actions import _withdraw_unlisted
    from true_convoy.server.catalogue.models import Source

    add(people["owner"], pack, "galley")
    source = Source.objects.create(address=mod_host.feed)
    Mod.objects.filter(game__slug="tidewrack").update(source=source)
    seen = {("tidewrack", slug) for slug in Mod.objects.filter(source=source).values_list("slug", flat=True)}
    _withdraw_unlisted(source, seen - {("tidewrack", "galley")})
    findings = people["owner"]("GET", f"packs/{pack}/findings")[1]["findings"]
    withdrawn = [finding for finding in findings if finding["code"] == "withdrawn-build"]
    assert [finding["mods"] for finding in withdrawn] == [["galley"]]
    assert "it is no longer offered" in withdrawn[0]["message"]
    _withdraw_unlisted(source, seen)
    assert Mod.objects.get(slug="galley").grounds == []
