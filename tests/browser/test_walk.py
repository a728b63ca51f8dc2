"""The whole purpose, walked in real Chromium with the real command and a real folder."""

import os
import shlex
from pathlib import Path
from urllib.parse import quote_plus

import pytest
from selenium.webdriver.common.by import By

from tests.conftest import convoy_process

PICTURES = os.environ.get("CONVOY_PICTURES")


def rows(reader, selector: str = "[data-entry]") -> list[str]:
    return [row.get_attribute("data-entry") for row in reader.all(selector)]


def add(curator, text: str, slug: str, name: str) -> None:
    curator.fill("Search the catalogue", text)
    # The results of what was typed must be there: a click on the ones before would miss.
    curator.until(lambda: f"q={quote_plus(text)}" in curator.driver.current_url)
    curator.see("best match first", "[aria-label=Results]")
    curator.press(f"Add {name}", f"[data-mod='{slug}']")
    curator.find("[data-preview=add] .MuiButton-contained").click()
    curator.see("is in the draft", f"[data-mod='{slug}']")


def publish(curator, version: str) -> None:
    curator.press("Publish", "footer")
    curator.until(lambda: curator.find("form input").get_attribute("value") == version)
    curator.press(f"Publish {version}")
    curator.see(f"{version} is published")


def test_a_pack_is_made_published_boarded_updated_and_kept_in_step(reader, application, tmp_path, store):
    curator = reader()
    curator.go("/sign-up")
    curator.fill("Name that others see", "Odile Winter")
    curator.fill("Email address", "odile@x.example")
    curator.fill("Password", "four lanterns lit")
    curator.press("Make the account")
    curator.see("No packs yet")
    curator.press("Begin a pack")
    curator.fill("Name", "Friday Fathoms")
    curator.choose("Game", "Tidewrack")
    curator.press("Begin the pack")
    curator.see("most installed first", "[aria-label=Results]")
    add(curator, "bouy", "better-buoys", "Better Buoys")
    curator.press("Back to the waybill")
    curator.until(lambda: "better-buoys" in rows(curator))
    assert {"rope-library", "tiny-config", "lantern-works"} <= set(rows(curator)), "what it needs came along"
    curator.see("needed by Better Buoys", "[data-entry=rope-library]")
    publish(curator, "1.0.0")

    curator.press("Roll it out")
    curator.press("New code")
    code = curator.find("[data-code]").text
    member = reader(width=390, height=844)
    member.go(f"/join/{code}")
    member.see("Friday Fathoms", "h1")
    command = member.find("[data-copyable=command]").text
    assert command == f"convoy join {application.address}/join/{code}"

    game = tmp_path / "game"
    (game / "saves").mkdir(parents=True)
    (game / "saves" / "world.dat").write_bytes(b"my world")
    words = shlex.split(command)[1:]
    joined = convoy_process(*words, "--into", game, "--name", "Desk in the attic", CONVOY_STORE=str(store))
    assert joined.returncode == 0 and "In step with Friday Fathoms 1.0.0" in " ".join(joined.stderr.split()), joined
    placed = {path.name for path in (game / "mods").iterdir()}
    assert any(name.startswith("better-buoys") for name in placed) and len(placed) >= 4
    curator.see("in step", "[data-rig='Desk in the attic'] [data-state]")

    curator.find("nav a[href$=assemble]").click()
    curator.press("Add mods")
    add(curator, "galley", "galley", "Galley")
    publish(curator, "1.1.0")
    curator.press("Roll it out")
    curator.see("behind", "[data-rig='Desk in the attic'] [data-state]")
    told = convoy_process("status", "--into", game, CONVOY_STORE=str(store))
    assert told.returncode == 1 and "behind" in told.stdout

    member.go(f"/join/{code}")
    member.see("Galley 1.3.0", "main li")
    assert "**" not in member.text(), "notes are shown as prose"

    synced = convoy_process("sync", "--into", game, CONVOY_STORE=str(store))
    assert synced.returncode == 0 and "In step with Friday Fathoms 1.1.0" in " ".join(synced.stderr.split()), synced
    curator.see("in step", "[data-rig='Desk in the attic'] [data-state]")
    assert any(path.name.startswith("galley") for path in (game / "mods").iterdir())

    next((game / "mods").glob("better-buoys*")).unlink()
    assert convoy_process("status", "--into", game, CONVOY_STORE=str(store)).returncode == 1
    curator.see("strayed", "[data-rig='Desk in the attic'] [data-state]")
    left = convoy_process("leave", "--into", game, CONVOY_STORE=str(store))
    assert left.returncode == 0 and "no longer follows Friday Fathoms" in left.stdout
    assert (game / "saves" / "world.dat").read_bytes() == b"my world"
    assert list((game / ".convoy" / "aside").rglob("galley*")), "set aside, not deleted"
    curator.miss("Desk in the attic")

    curator.press("Revoke")
    curator.see("revoked")
    member.go(f"/join/{code}")
    member.see("This boarding code was revoked")


def test_a_member_with_an_account_comes_aboard_with_a_code_of_their_own(reader, application, tmp_path, store):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/roll-out")
    page = maren.find("[data-copyable='join page']").text
    member = reader(width=390, height=844)
    member.go(page.removeprefix(application.address))
    member.see("Paste this and press Enter")
    if PICTURES:
        member.picture(Path(PICTURES) / "join.png")
    member.press("make an account")
    member.fill("Name that others see", "Ilse Bell")
    member.fill("Email address", "ilse@x.example")
    member.fill("Password", "four lanterns lit")
    member.press("Make the account")
    member.press("Come aboard")
    words = shlex.split(member.find("[data-copyable=command]").text)[1:]
    (tmp_path / "game").mkdir()
    joined = convoy_process(*words, "--into", tmp_path / "game", "--name", "Ilse's rig", CONVOY_STORE=str(store))
    assert joined.returncode == 0 and "must be fetched by you" in joined.stderr
    member.go("/my-rigs")
    member.see("Ilse's rig: waiting", "h2")
    member.see("leviathan-rest-1.1.1.zip must be fetched by a person")


def test_two_curators_see_each_other_and_refusals_name_both_sides(reader):
    maren, idris = reader("maren"), reader("idris")
    for one in (maren, idris):
        one.go("/packs/saturday-shallows/assemble")
    maren.see("Also here: Idris Quell", "footer")
    idris.toggle("Galley on or off")
    maren.see("turned off Galley", "footer")
    maren.see("turned off", "[data-entry=galley]")
    idris.find("[data-entry=net-and-line]").click()
    idris.see("Builds", "aside")
    maren.press("Undo", "footer")
    idris.see("undid: turned off Galley", "footer")


def test_the_keyboard_is_enough(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble")
    maren.see("Galley", "[data-entry=galley]")
    first = rows(maren)[0]
    maren.keys("j")
    maren.until(lambda: maren.all("[data-entry][aria-selected=true]"))
    maren.keys("x")
    maren.see("1 entry selected")
    maren.press("Turn off")
    maren.see("turned off", f"[data-entry={first}]")
    maren.driver.execute_script("document.activeElement.blur()")
    maren.find("body").send_keys("u")
    maren.until(lambda: "turned off" not in maren.text(f"[data-entry={first}]"))
    maren.find("body").send_keys("U")
    maren.see("turned off", f"[data-entry={first}]")
    maren.find("body").send_keys("u")
    maren.find("body").send_keys("?")
    maren.see("next and previous row")
    maren.find("body").send_keys("?")
    maren.find("body").send_keys("/")
    assert maren.driver.switch_to.active_element.get_attribute("aria-label") == "Search packs and mods"


def test_removing_offers_the_libraries_nothing_else_needs_and_can_be_undone(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble?sheet=remove&sel=skiff-and-tender")
    maren.see("Also remove 3 mods that nothing else needs")
    maren.press("Remove 4 entries")
    maren.until(lambda: "hull-frame" not in rows(maren))
    maren.press("Undo", "footer")
    maren.until(lambda: "hull-frame" in rows(maren))


def test_what_does_not_fit_says_why_before_it_is_added(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble?look=catalogue&q=twin")
    maren.see("needs Outrigger; the draft uses Keel", "[data-mod=outrigger-floats]")
    maren.press("Add Twin Floats")
    maren.see("It cannot be added to this draft")
    maren.see("Twin Floats is to be added and has no build for game version 2.4.1")


def test_wrong_passwords_unknown_pages_and_lost_servers_are_said(reader):
    person = reader()
    person.go("/packs/thursday-deep/publish")
    person.fill("Email address", "maren@lantern-lane.example")
    person.fill("Password", "guesswork")
    person.press("Sign in", "form")
    person.see("The address or the password is wrong.", "[role=alert]")
    person.fill("Password", "lantern-lane-demo")
    person.press("Sign in", "form")
    person.see("changes since 1.2.0", "h1")
    person.go("/packs/no-such-pack/assemble")
    person.see("There is nothing at this address, or you have no access to it.")
    person.go("/nowhere")
    person.see("There is no such page", "h1")
    person.go("/join/22222-22222")
    person.see("No pack has this boarding code.")


PICTURED = {"packs", "new-pack", "assemble", "assemble-entry", "assemble-catalogue", "catalogue-dark", "compare"}
PICTURED |= {"games", "fit-table", "who-needs-whom", "publish", "roll-out", "roll-out-dark", "my-rigs", "account"}
PICTURED |= {"sign-in"}
VIEWS = [
    ("packs", "/", "Thursday Deep", {}),
    ("new-pack", "/new", "New pack", {}),
    ("assemble", "/packs/thursday-deep/assemble", "Barter Pier", {}),
    ("assemble-entry", "/packs/thursday-deep/assemble?sheet=mod&sel=deep-chart", "Builds", {}),
    ("assemble-catalogue", "/packs/thursday-deep/assemble?look=catalogue&q=light", "Lantern Works", {}),
    ("compare", "/packs/thursday-deep/assemble?look=compare&beside=lantern-works,glowfish-light", "CC-BY-4.0", {}),
    ("catalogue-dark", "/packs/quill-night/assemble?look=catalogue&category=maps", "Footpaths", {"dark": True}),
    ("path-rules", "/packs/winter-table/assemble?sheet=mod&sel=kindling", "Keep it in any case", {}),
    ("paste", "/packs/saturday-shallows/assemble?sheet=paste", "Look at the lines", {}),
    ("bring", "/packs/saturday-shallows/assemble?sheet=bring", "Choose a file", {"dark": True}),
    ("history", "/packs/saturday-shallows/assemble?sheet=history", "began the draft", {}),
    ("about", "/packs/saturday-shallows/assemble?sheet=details", "Emblem", {}),
    ("print", "/packs/saturday-shallows/print", "Net and Line", {}),
    ("shelves", "/shelves", "Shelves", {}),
    ("games", "/games?game=tidewrack", "Kinds of content", {"person": "idris"}),
    ("check", "/packs/thursday-deep/check", "Nothing", {}),
    ("check-dark", "/packs/saturday-shallows/check", "Nothing", {"dark": True}),
    ("fit-table", "/packs/thursday-deep/check?look=fit&sheet=move&sel=2.4.1/outrigger", "Turned off", {}),
    ("load-order", "/packs/thursday-deep/check?look=order", "No file is supplied twice", {}),
    ("who-needs-whom", "/packs/thursday-deep/check?look=picture", "Squared", {}),
    ("publish", "/packs/thursday-deep/publish", "changes since", {}),
    ("roll-out", "/packs/thursday-deep/roll-out", "Boarding code", {}),
    ("roll-out-dark", "/packs/thursday-deep/roll-out", "Boarding code", {"dark": True}),
    ("my-rigs", "/my-rigs", "Maren's desktop", {"width": 390, "height": 844}),
    ("account", "/account", "Change the password", {"dark": True}),
    ("sign-in", "/sign-in", "Sign in", {"person": None}),
]


@pytest.mark.parametrize(("name", "path", "sign", "window"), VIEWS, ids=[view[0] for view in VIEWS])
def test_no_view_has_anything_serious_against_it(reader, name, path, sign, window):
    """axe-core on every main view; with CONVOY_PICTURES naming a folder, also takes its picture."""
    one = reader(**({"person": "maren"} | window))
    one.go(path)
    one.see(sign)
    axe = Path("web/node_modules/axe-core/axe.min.js").read_text()
    one.driver.execute_script(axe)
    found = one.driver.execute_async_script(
        "const done = arguments[arguments.length - 1]; axe.run(document, {resultTypes: ['violations']}).then(done)"
    )
    serious = [
        (violation["id"], [node["html"][:160] for node in violation["nodes"][:3]])
        for violation in found["violations"]
        if violation["impact"] in ("serious", "critical")
    ]
    assert serious == []
    width = one.driver.execute_script("return document.documentElement.scrollWidth - window.innerWidth")
    assert width <= 0, "nothing is cut off at the side"
    assert one.driver.find_element(By.TAG_NAME, "main")
    if PICTURES and name in PICTURED:
        one.picture(Path(PICTURES) / f"{name}.png")
