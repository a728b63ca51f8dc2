"""Drafts: edits as revisions, merged and refused; undo and redo; previews; releases and their permanence."""

import json
import threading

import pytest
from django.db import DatabaseError, connection, transaction
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.server.conftest import Caller, add, edit, entries, publish, revision
from true_convoy.core import documents
from true_convoy.core.model import Release as ReleaseValue
from true_convoy.core.release import digest_of
from true_convoy.server.packs import actions
from true_convoy.server.packs.models import Pack, Revision
from true_convoy.server.packs.queries import draft
from true_convoy.server.releases.models import Release


def test_adding_brings_everything_along_and_says_why(people, pack):
    owner = people["owner"]
    preview = owner("POST", f"packs/{pack}/preview-add", {"mods": ["deep-chart"]})[1]
    why = {row["mod"]: row["required_by"] for row in preview["coming"]}
    assert why["chart-kit"] == ["Deep Chart"] and why["brine-core"] == ["Chart Kit"] and why["deep-chart"] == []
    add(owner, pack, "deep-chart")
    rows = {row["mod"]: row for row in owner("GET", f"packs/{pack}/draft")[1]["entries"]}
    assert rows["chart-kit"]["required_by"] == ["Deep Chart"] and not rows["chart-kit"]["chosen"]
    assert people["member"]("GET", f"packs/{pack}/draft")[1]["undo"] == "added Deep Chart and 4 they need"


def test_edits_of_different_entries_both_stay_and_clashing_ones_are_refused_with_both_sides(people, pack):
    owner, curator = people["owner"], people["curator"]
    add(owner, pack, "deep-chart", "galley")
    base = revision(owner, pack)
    note = {"do": "set-note", "mod": "galley", "note": "soup on Thursdays"}
    assert edit(owner, pack, note, base)[0] == 201
    assert edit(curator, pack, {"do": "set-enabled", "mod": "deep-chart", "enabled": False}, base)[0] == 201
    status, refused = edit(curator, pack, {"do": "set-enabled", "mod": "galley", "enabled": False}, base)
    assert (status, refused["code"], refused["facts"]["by"]) == (409, "clash", "Owner")
    assert (
        refused["facts"]["theirs"] == "changed the note of Galley: soup on Thursdays"
        and "turned off Galley" in refused["detail"]
    )
    rows = {row["mod"]: row for row in owner("GET", f"packs/{pack}/draft")[1]["entries"]}
    assert rows["galley"]["note"] and rows["galley"]["enabled"] and not rows["deep-chart"]["enabled"]


def test_an_edit_that_does_not_apply_changes_nothing(people, pack):
    before = revision(people["owner"], pack)
    for change, code in (
        ({"do": "remove", "mod": "galley"}, "refused"),
        ({"do": "dance"}, "bad-request"),
        ({"do": "set-note", "mod": "galley", "note": 7}, "bad-request"),
    ):
        status, answer = edit(people["owner"], pack, change)
        assert status == 400 and answer["code"] == code and answer["detail"].endswith(".")
    assert revision(people["owner"], pack) == before


_steps = st.lists(st.sampled_from(["undo", "redo", *(f"note {i}" for i in range(3)), "off", "on"]), max_size=12)


@pytest.mark.usefixtures("pack")
@settings(max_examples=25, deadline=None, suppress_health_check=list(HealthCheck))
@given(_steps)
def test_undo_and_redo_walk_the_same_values_as_a_plain_stack(people, pack, steps):
    """The draft behaves as the two stacks everybody knows, however long its history."""
    row, owner = Pack.objects.get(slug=pack), people["owner"].user
    with transaction.atomic():
        actions.make_edit(row, owner, draft(row)[0].number, documents_edit({"do": "add", "mod": "galley"}))
        past, future, now = [], [], draft(row)[1]
        for step in steps:
            base = draft(row)[0].number
            if step in ("undo", "redo"):
                source, other = (past, future) if step == "undo" else (future, past)
                if not source:
                    continue
                getattr(actions, step)(row, owner, base)
                other.append(now)
                now = source.pop()
            else:
                change = {"do": "set-enabled", "mod": "galley", "enabled": step == "on"}
                if step.startswith("note"):
                    change = {"do": "set-note", "mod": "galley", "note": step}
                past.append(now)
                future.clear()
                actions.make_edit(row, owner, base, documents_edit(change))
                now = draft(row)[1]
            assert draft(row)[1] == now
        transaction.set_rollback(True)


def documents_edit(raw: dict):
    from true_convoy.core.edits import edit_from

    return edit_from(raw)


def test_a_long_history_reads_the_same_as_its_edits_replayed(people, pack):
    owner = people["owner"]
    add(owner, pack, "galley")
    for number in range(45):
        edit(owner, pack, {"do": "set-note", "mod": "galley", "note": f"note {number}"})
    row = Pack.objects.get(slug=pack)
    kept = row.revisions.exclude(value=None).count()
    assert 3 <= kept <= 5, "the whole value is kept only every so often"
    assert draft(row)[1].entry("galley").note == "note 44"
    assert owner("GET", f"packs/{pack}/history")[1]["revisions"][0]["words"].startswith("changed the note of Galley: ")


def test_what_was_undone_meanwhile_is_said(people, pack):
    owner = people["owner"]
    assert owner("POST", f"packs/{pack}/undo", {"base": revision(owner, pack)})[1]["code"] == "nothing"
    add(owner, pack, "galley")
    assert owner("POST", f"packs/{pack}/undo", {"base": 1})[1]["code"] == "moved"
    assert edit(owner, pack, {"do": "set-note", "mod": "galley", "note": "x"}, base=99)[1]["code"] == "too-old"


@pytest.mark.django_db(transaction=True)
def test_two_edits_at_the_very_same_time_both_stay(tidewrack):
    from true_convoy.server.accounts.models import User
    from true_convoy.server.catalogue.actions import take_in
    from true_convoy.server.packs.models import Membership

    take_in(tidewrack)
    users = [User.objects.create_user(f"u{i}@x.example", name=f"U{i}") for i in range(2)]
    body = {"name": "Race", "game": "tidewrack", "game_version": "2.4.1"}
    pack = Caller(users[0])("POST", "packs", body)[1]["slug"]
    Membership.objects.create(pack=Pack.objects.get(slug=pack), user=users[1], role="curator")
    base, answers, gate = revision(Caller(users[0]), pack), [], threading.Barrier(2)

    def one(user, mod):
        caller = Caller(user)
        gate.wait()
        answers.append(edit(caller, pack, {"do": "add", "mod": mod}, base)[0])
        connection.close()

    threads = [threading.Thread(target=one, args=pair) for pair in zip(users, ("galley", "ballast"), strict=True)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert answers == [201, 201] and set(entries(Caller(users[0]), pack)) == {"galley", "ballast"}


def test_publishing_freezes_and_proposes_the_next_number(people, pack):
    owner = people["owner"]
    assert publish(owner, pack, "1.0.0")[1]["code"] == "empty"
    add(owner, pack, "deep-chart")
    assert owner("GET", f"packs/{pack}/proposal")[1]["version"] == "1.0.0"
    assert publish(owner, pack, "1.0.0")[0] == 201
    status, refused = publish(owner, pack, "1.0.0")
    assert (status, refused["code"]) == (409, "version-used") and "higher number" in refused["detail"]
    add(owner, pack, "galley")
    proposal = owner("GET", f"packs/{pack}/proposal")[1]
    assert proposal["version"] == "1.1.0" and proposal["notes"] == "**Added**\n\n- Galley 1.3.0\n"
    stale = {"revision": 1, "version": "1.1.0"}
    assert owner("POST", f"packs/{pack}/releases", stale)[1]["code"] == "moved"
    for version in ("", "1 0", "v" * 70, "-1"):
        assert publish(owner, pack, version)[1]["code"] == "version"
    assert publish(owner, pack, "1.1.0")[0] == 201
    document = owner("GET", f"packs/{pack}/releases/1.1.0/document")[1]
    assert digest_of(document) == document["digest"]
    first = owner("GET", f"packs/{pack}/releases/1.0.0/document")[1]
    assert document["previous"] == first["digest"]
    value = documents.read(ReleaseValue, json.dumps(document)).value
    assert {entry.mod for entry in value.entries} == set(entries(owner, pack))
    assert owner("GET", f"packs/{pack}/draft")[1]["since"]["count"] == 0


def test_a_draft_that_does_not_fit_together_is_not_published(people, pack):
    owner = people["owner"]
    for mod in ("engine-room", "quiet-motor"):
        edit(owner, pack, {"do": "add", "mod": mod})
    assert any("replace the motor block" in line for line in owner("GET", f"packs/{pack}/draft")[1]["problems"])
    status, refused = publish(owner, pack, "1.0.0")
    assert status == 400 and "does not fit together" in refused["detail"] and not Release.objects.exists()


@pytest.mark.parametrize("command", ["UPDATE releases_release SET notes = 'x'", "DELETE FROM releases_release"])
def test_the_database_itself_refuses_to_change_a_release(people, pack, command):
    add(people["owner"], pack, "galley")
    publish(people["owner"], pack, "1.0.0")
    with pytest.raises(DatabaseError, match="A release never changes"), transaction.atomic(), connection.cursor() as c:
        c.execute(command)


def test_roles_are_given_and_a_pack_keeps_an_owner(people, pack):
    owner = people["owner"]
    give = {"email": "Stranger@x.example ", "role": "curator"}
    assert owner("PUT", f"packs/{pack}/roster", give)[0] == 200
    add(people["stranger"], pack, "galley")
    me = owner.user
    assert owner("PUT", f"packs/{pack}/roster", {"email": me.email, "role": "member"})[1]["code"] == "last-owner"
    assert owner("DELETE", f"packs/{pack}/roster/{me.pk}")[1]["code"] == "last-owner"
    assert owner("DELETE", f"packs/{pack}/roster/{people['stranger'].user.pk}")[0] == 200
    assert people["stranger"]("GET", f"packs/{pack}/draft")[0] == 404
    assert owner("PUT", f"packs/{pack}/roster", {"email": "no@x.example", "role": "member"})[1]["code"] == "nobody"
    addresses = [person["email"] for person in people["member"]("GET", f"packs/{pack}/roster")[1]["people"]]
    assert addresses == ["", "", ""], "members do not see addresses"


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"name": "  "}, "name"),
        ({"name": ""}, "bad-request"),
        ({"game": "chess"}, "no-game"),
        ({"game_version": "9"}, "game-version"),
        ({"loader": {"slug": "sail", "version": "1"}}, "loader"),
    ],
)
def test_a_new_pack_on_no_ground_is_refused(people, change, code):
    body = {"name": "P", "game": "tidewrack", "game_version": "2.4.1"}
    status, answer = people["owner"]("POST", "packs", body | change)
    assert status in (400, 404) and answer["code"] == code
    assert not Revision.objects.exists()


def test_packs_of_the_same_name_get_addresses_of_their_own(people):
    body = {"name": "Größe & Gull", "game": "tidewrack", "game_version": "2.4.1"}
    slugs = [people["owner"]("POST", "packs", body)[1]["slug"] for _ in range(2)]
    assert slugs[0] == "groe-gull" and slugs[1].startswith("groe-gull-")
