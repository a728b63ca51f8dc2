"""Screens of the curator beyond the walk: many entries at once, people, rigs, imports, and a very long waybill."""

import json
import os

import psycopg
import pytest

from tests.browser.conftest import DATABASE
from tests.conftest import convoy_process


def entries(reader) -> list[str]:
    return [row.get_attribute("data-entry") for row in reader.all("[data-entry]")]


def test_many_entries_are_turned_off_and_on_as_one_change(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble?sort=name")
    for name in ("Galley", "Net and Line"):
        maren.toggle(f"Select {name}")
    maren.see("2 entries selected")
    maren.press("Turn off")
    maren.see("turned off 2 entries", "footer")
    maren.see("turned off", "[data-entry=net-and-line]")
    maren.press("Undo", "footer")
    maren.until(lambda: "turned off" not in maren.text("[data-entry=net-and-line]"))


def test_the_address_holds_what_is_shown(reader):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/assemble?filter=boats&sort=name")
    maren.until(lambda: "broad-beam" in entries(maren) and "galley" not in entries(maren))
    maren.find("[data-entry=broad-beam] button").click()
    maren.see("Builds", "aside")
    assert "filter=boats" in maren.driver.current_url and "sel=broad-beam" in maren.driver.current_url
    maren.fill("Filter the waybill", "nothing like this")
    maren.see("No entry matches this filter.")


def test_an_entry_is_pinned_with_a_reason_and_takes_no_other_build_then(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble?sheet=mod&sel=net-and-line")
    maren.fill("Pin at this build, because", "the club likes this one")
    maren.press("Pin", "aside")
    maren.see("pinned: the club likes this one", "[data-entry=net-and-line]")
    maren.see("Let the pin go to take another build.")
    assert not [b for b in maren.all("aside button") if (b.get_attribute("aria-label") or "").startswith("Choose ")]
    maren.press("Unpin", "aside")
    maren.miss("pinned:", "[data-entry=net-and-line]")
    older = next(b for b in maren.all("aside button") if (b.get_attribute("aria-label") or "").startswith("Choose "))
    version = older.get_attribute("aria-label").removeprefix("Choose ")
    older.click()
    maren.see(version, "[data-entry=net-and-line]")
    maren.see("newer:", "[data-entry=net-and-line]")
    maren.undo(3)


def test_history_tells_every_revision_in_words(reader):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/assemble?sheet=history")
    maren.see("Idris Quell removed Gull Speak", "aside")
    maren.see("Maren Aldous began the draft", "aside")


def test_people_get_roles_and_members_see_no_way_to_change_anything(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/roll-out?tab=people")
    maren.fill("Address of an account", "tove@lantern-lane.example")
    maren.press("Put on the roster")
    maren.see("Tove Lindqvist-Bray", "[aria-label=People]")
    maren.press("Take Tove Lindqvist-Bray off the roster")
    maren.miss("Tove Lindqvist-Bray", "[aria-label=People]")
    maren.press("Take Maren Aldous off the roster")
    maren.see("A pack needs an owner. Make somebody else the owner first.", "[role=alert]")
    maren.fill("Address of an account", "nobody@lantern-lane.example")
    maren.press("Put on the roster")
    maren.see("Nobody has an account with the address nobody@lantern-lane.example.")
    agnes = reader("agnes")
    agnes.go("/packs/thursday-deep/assemble?sheet=mod&sel=galley")
    agnes.see("Builds", "aside")
    words = agnes.text("nav[aria-label='Stations of the pack']") + agnes.text("aside") + agnes.text("footer")
    assert not [word for word in ("Publish", "Turn off", "Remove", "Undo", "Pin") if word in words]
    agnes.go("/packs/thursday-deep/roll-out")
    agnes.see("in step with 1.2.0", "h1")
    assert "Boarding code" not in agnes.text()


def test_a_rig_is_opened_from_the_road_and_signed_off(reader, application, tmp_path, store):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/roll-out")
    code = maren.find("[data-code]").text
    (tmp_path / "game").mkdir()
    words = ("join", code, "--server", application.address, "--into", tmp_path / "game", "--name", "Old laptop")
    assert convoy_process(*words, CONVOY_STORE=str(store)).returncode == 0
    maren.see("1 of 1 in step with 1.0.0", "h1")
    maren.find("svg g[role=button]").send_keys("\n")
    maren.see("It has exactly what the release has.", "aside")
    maren.see("came aboard without an account", "aside")
    maren.press("Sign this rig off", "aside")
    maren.see("No rigs aboard yet", "h1")
    told = convoy_process("sync", "--into", tmp_path / "game", CONVOY_STORE=str(store))
    assert told.returncode == 1 and "signed off" in told.stderr


def test_staff_import_a_catalogue_in_the_background(reader, running_host):
    idris = reader("idris")
    idris.go("/account")
    idris.fill("Address of the feed", "ftp://mods.example")
    idris.press("Import", "main")
    idris.see("The address of a catalogue begins with http:// or https://.", "[role=alert]")
    idris.fill("Address of the feed", running_host.feed)
    idris.press("Import", "main")
    idris.see("Importing the catalogue: done, 200 mods", "[aria-label=Imports]")


def test_a_new_pack_stands_on_the_recommended_ground_and_may_be_moved_to_the_other_loader(reader):
    maren = reader("maren")
    maren.go("/new")
    maren.choose("Game", "Tidewrack")
    maren.see("0.9.3 (recommended)")
    maren.fill("Name", "Other Loader")
    maren.choose("Loader", "Outrigger")
    maren.see("3.4 (recommended)")
    maren.press("Begin the pack")
    maren.fill("Search the catalogue", "twin")
    maren.see("fits with 1.2.", "[data-mod=outrigger-floats]")


@pytest.fixture
def very_long(application, running_host):
    """A draft of 2,000 entries, put into the database as one revision."""
    slugs = [f"made-up-{number:04}" for number in range(2000)]
    place = {"host": os.environ["CONVOY_DB_HOST"], "port": os.environ.get("CONVOY_DB_PORT", "5432")}
    with psycopg.connect(user="convoy", dbname=DATABASE, **place) as connection:
        value = connection.execute(
            "SELECT r.pack_id, r.number, r.value FROM packs_revision r JOIN packs_pack p ON p.id = r.pack_id"
            " WHERE p.slug = 'saturday-shallows' AND r.number = 1"
        ).fetchone()
        document = value[2] | {"slug": "very-long", "name": "Very Long"}
        document["entries"] = [
            {"mod": slug, "version": "1.0.0", "chosen": True, "enabled": True, "optional": False} for slug in slugs
        ]
        pack = connection.execute(
            "INSERT INTO packs_pack (slug, name, game, created) VALUES ('very-long', 'Very Long', 'tidewrack', now())"
            " RETURNING id"
        ).fetchone()[0]
        connection.execute(
            "INSERT INTO packs_membership (pack_id, user_id, role, since)"
            " SELECT %s, id, 'owner', now() FROM accounts_user WHERE email LIKE 'maren@%%'",
            [pack],
        )
        connection.execute(
            "INSERT INTO packs_revision (pack_id, number, words, value, same_as, undone, made)"
            " VALUES (%s, 1, 'began the draft', %s, 1, '{}', now())",
            [pack, json.dumps(document)],
        )


def test_two_thousand_entries_are_one_sheet_of_which_only_the_seen_rows_are_drawn(reader, very_long):
    maren = reader("maren")
    maren.go("/packs/very-long/assemble?sort=added")
    maren.see("2,000 entries", "nav")
    maren.until(lambda: 10 < len(entries(maren)) < 80)
    maren.until(lambda: entries(maren)[0] == "made-up-0000")
    maren.driver.execute_script(
        "const sheet = document.querySelector('[role=rowgroup]').parentElement; sheet.scrollTop = sheet.scrollHeight"
    )
    maren.until(lambda: "made-up-1999" in entries(maren))
    maren.until(lambda: len(entries(maren)) < 80)
    maren.see("2,000 stops: the game will not start with this draft.")
