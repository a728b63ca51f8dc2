"""Assembling a pack from the screen: finding, pasting, bringing, comparing, shaping; with the mouse and without."""

import zipfile

from PIL import Image
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.test_walk import rows
from tests.conftest import convoy

SHALLOWS = "/packs/saturday-shallows/assemble"


def field(reader, label: str):
    """The field with this label."""
    return reader.until(
        lambda: next((e for e in reader.all("input, textarea") if (e.accessible_name or "").strip(" *") == label), None)
    )


def send(reader, label: str, path) -> None:
    """Gives a file to the field with this name, which is not drawn itself."""
    reader.until(lambda: reader.all(f"input[type=file][aria-label='{label}']"))[0].send_keys(str(path))


def archive(path, **files: str):
    with zipfile.ZipFile(path, "w") as made:
        for name, text in files.items():
            made.writestr(name.replace("__", "/").replace("_", "."), text)
    return path


def test_the_catalogue_is_narrowed_and_says_what_suits(reader):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?look=catalogue")
    maren.see("60 mods, most installed first", "[aria-label=Results]")
    maren.toggle("Category: boats")
    maren.see("12 mods", "[aria-label=Results]")
    maren.toggle("Only what fits this draft")
    maren.see("11 mods", "[aria-label=Results]")
    assert "category=boats" in maren.driver.current_url and "fits=1" in maren.driver.current_url
    maren.driver.refresh()
    maren.see("11 mods", "[aria-label=Results]")
    maren.press("Show everything again")
    maren.fill("Search the catalogue", "brass shadr")
    maren.see("this is what matches “brass shader”", "[aria-label=Results]")
    maren.see("clashes with Clear Water", "[data-mod=brass-shader]")
    maren.press("Add Brass Shader")
    maren.see("It could be added so", "aside")
    maren.see("Turn off Clear Water", "[data-preview=ways]")


def test_a_list_from_a_chat_is_pasted_recognised_and_added_as_one(reader):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?sheet=paste")
    text = "[20:14] Idris: Deep Chart 3.0.0!\nhttps://x.example/kelp-farm\nGalley\nStrom Glas\nno such thing at all"
    field(maren, "Links, names, Package-URLs, a table, lines from a chat").send_keys(text)
    maren.press("Look at the lines")
    maren.see("2 recognised, 1 already in, 2 not recognised", "aside")
    maren.see("Deep Chart", "[data-line='1'][data-answer=found]")
    maren.press("Storm Glass", "[data-line='4']")
    maren.press("See what 3 mods would bring")
    maren.see("3.0.0", "[data-preview=add]")
    maren.find("[data-preview=add] [data-add]").click()
    maren.until(lambda: {"deep-chart", "kelp-farm", "storm-glass"} <= set(rows(maren)))
    maren.see("added Deep Chart, Kelp Farm, Storm Glass and", "footer")
    maren.undo()
    maren.until(lambda: "deep-chart" not in rows(maren))


def test_files_are_sent_judged_put_on_the_shelf_and_added(reader, tmp_path, world):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?sheet=bring")
    send(maren, "File to bring", archive(tmp_path / "bad.zip", **{"____out": "x"}))
    maren.see("cannot be placed safely, so it was not taken", "aside")
    send(maren, "File to bring", world / "files" / "kelp-farm-1.0.0.zip")
    maren.see("The catalogue has this file: it is Kelp Farm 1.0.0.", "aside")
    manifest = 'id = "tide-organ"\nname = "Tide Organ"\nversion = "2.1.0"\n'
    good = archive(tmp_path / "organ.zip", tidewrack_mod_toml=manifest, README_md="hum")
    send(maren, "File to bring", good)
    maren.until(lambda: field(maren, "Name").get_attribute("value") == "Tide Organ")
    maren.choose("Reach", "changes progression")
    maren.fill("Page where a person finds it", "https://organ.example/get")
    maren.fill("Description (CommonMark)", '<img src=x onerror="document.title=1"><b>low</b> **loud**')
    maren.press("Put it on the shelf")
    maren.see("It stands on the pack's own shelf now", "aside")
    maren.find("[data-preview=add] [data-add]").click()
    maren.until(lambda: "tide-organ" in rows(maren))
    maren.see("Until another curator has checked that, it counts as shared.", "aside")
    maren.see("loud", "aside strong")
    assert not maren.all("aside img") and maren.driver.title != "1", "HTML of others is not shown"
    idris = reader("idris")
    idris.go("/shelves")
    idris.press("The reach of Tide Organ is right")
    idris.miss("not checked yet", "[data-own=tide-organ]")
    maren.undo()


def test_path_rules_are_seen_on_the_tree_before_they_are_kept(reader):
    maren = reader("maren")
    maren.go("/packs/winter-table/assemble?sheet=mod&sel=dry-stone")
    maren.press("Take only some of its files")
    maren.see("to Mods/DryStone/Docs/notes.txt", "[aria-label='Files of the archive']")
    before = maren.text("[aria-label='Files of the archive']").count("to Mods/")
    maren.toggle("Take DryStone/Docs")
    maren.until(lambda: maren.text("[aria-label='Files of the archive']").count("to Mods/") == before - 1)
    assert field(maren, "Leave out").get_attribute("value") == "DryStone/Docs/**"
    maren.press("Keep these rules")
    maren.see("only some of its files", "[data-entry=dry-stone]")
    maren.see("changed the path rules of Dry Stone", "footer")
    maren.undo()


def test_mods_are_compared_side_by_side_and_one_is_taken(reader):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?look=catalogue&q=light")
    maren.toggle("Compare Lantern Works")
    maren.toggle("Compare Glowfish Light")
    maren.press("Compare 2")
    maren.see("2 mods side by side", "h1")
    maren.see("Lantern Works below 2.2 (both own the lamp registry)", "[data-compared=glowfish-light]")
    maren.see("CC-BY-4.0", "[data-compared=lantern-works]")
    maren.press("Add Glowfish Light")
    maren.find("[data-preview=add] [data-add]").click()
    maren.see("is in the draft", "[data-compared=glowfish-light]")
    maren.undo()


def test_two_who_change_the_same_see_both_values(reader):
    maren, idris = reader("maren"), reader("idris")
    # What the others do does not reach this page until it asks, as on a bad line.
    maren.driver.execute_cdp_cmd("Network.enable", {})
    maren.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/api/events*"]})
    for one in (maren, idris):
        one.go(f"{SHALLOWS}?sheet=mod&sel=net-and-line")
        one.see("Builds", "aside")
    for one, build in ((idris, "2.2.0"), (maren, "2.0.0")):
        one.press(f"Choose {build}", "aside")
    maren.see("Theirs stands; yours was not made.", "[data-clash]")
    maren.see("set Net and Line to 2.2.0", "[data-clash]")
    maren.see("set Net and Line to 2.0.0", "[data-clash]")
    maren.see("2.2.0", "[data-entry=net-and-line]")
    maren.press("Make mine after all")
    maren.see("2.0.0", "[data-entry=net-and-line]")
    maren.undo(2)


def test_any_two_revisions_are_compared_and_one_is_gone_back_to(reader):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?sheet=history")
    maren.see("began the draft", "aside")
    newest = maren.find("footer").get_attribute("data-revision")
    maren.toggle("Mark revision 1")
    maren.toggle(f"Mark revision {newest}")
    maren.see("Added (", "[data-compared]")
    maren.press("Go back to revision 1")
    maren.see("0 entries", "nav")
    maren.see("went back to revision 1", "footer")
    maren.undo()
    maren.see("12 entries", "nav")


def test_the_waybill_is_grouped_its_columns_chosen_and_many_changed_at_once(reader):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?group=side")
    maren.see("client only", "[data-group]")
    maren.press("Columns")
    maren.press("Licence", "[role=menu]")
    maren.driver.switch_to.active_element.send_keys(Keys.ESCAPE)
    maren.see("Licence", "[role=columnheader]")
    maren.driver.refresh()
    maren.see("Licence", "[role=columnheader]")
    maren.go(SHALLOWS)
    for name in ("Clear Water", "Compass Rose"):
        maren.toggle(f"Select {name}")
    maren.press("Change")
    maren.press("Offer as one of a group …", "[role=menu]")
    maren.fill("Name of the group", "Looks")
    maren.press("Offer", "aside")
    maren.see("one of “Looks”", "[data-entry=clear-water]")
    maren.toggle("Rope Library on or off")
    maren.see("cannot do without it", "aside")
    maren.press("Close the sheet")
    maren.toggle("Select Net and Line")
    maren.press("Copy to another pack")
    maren.choose("To the pack", "Thursday Deep")
    maren.press("Copy", "aside")
    maren.see("There already: Net and Line", "aside")
    maren.undo()


def test_a_new_pack_begins_with_a_starter_and_is_printed(reader):
    tove = reader("tove")
    tove.go("/new?game=emberline")
    tove.see("of 80 mods", "[data-version='3.2.1']")
    tove.fill("Name", "Quiet Year")
    tove.choose("Begin with", "a starter collection")
    tove.choose("Starter collection", "A quiet first year")
    tove.see("Three Fields", "form")
    tove.press("Begin the pack")
    tove.until(lambda: {"three-fields", "kindling"} <= set(rows(tove)))
    tove.go("/packs/quiet-year/print")
    tove.see("Three Fields", "table")
    tove.see("to download. Draft of revision", "body")


def test_staff_change_what_is_known_of_a_game(reader, tmp_path):
    idris = reader("idris")
    idris.go("/games?game=quillmoor")
    idris.see("Quillmoor", "h1")
    (odd := tmp_path / "odd.json").write_text('{"slug": "odd", "versions": 3}')
    idris.all("input[type=file]")[0].send_keys(str(odd))
    idris.see("odd.json is not the document of a game. Nothing was taken from it.", "[role=alert]")
    size = field(idris, "Memory of the game, MiB")
    size.send_keys(Keys.CONTROL, "a")
    size.send_keys("5120")
    idris.press("Keep")
    idris.see("It is kept.", "main")
    maren = reader("maren")
    maren.go("/packs/quill-night/assemble")
    maren.see("5.1 GB", "[role=table]")
    maren.go("/games?game=quillmoor")
    maren.see("Quillmoor", "h1")
    assert not [b for b in maren.all("button") if b.text == "Keep"], "others only look"


def test_staff_write_a_game_from_nothing_and_a_pack_begins_on_it(reader):
    idris = reader("idris")
    idris.go("/games?game=new")
    idris.fill("Name", "Harbour Bell")
    idris.fill("Slug", "harbour-bell")
    empty = "[aria-label=Versions] input[type=text][value='']"
    for label in ("1.0", "1.1"):
        idris.press("Add a row", "[aria-label=Versions]")
        idris.until(lambda: idris.all(empty))[0].send_keys(label)
    idris.press("Add a row", "[aria-label=Loaders]")
    slug, name = idris.until(lambda: idris.all("[aria-label=Loaders] input[type=text]"))[:2]
    slug.send_keys("clapper")
    name.send_keys("Clapper")
    idris.press("Add a row", "[aria-label='Versions of the loader']")
    idris.until(lambda: idris.all("[aria-label='Versions of the loader'] input[type=text]"))[0].send_keys("7.2")
    idris.choose("Game from", "1.1")
    idris.press("Keep")
    idris.see("It is kept.", "main")
    idris.go("/new?game=harbour-bell")
    idris.see("0 of 0 mods", "[data-version='1.1']")
    idris.fill("Name", "Bells")
    idris.choose("Loader", "Clapper")
    idris.press("Begin the pack")
    idris.see("The catalogue has no mods for Harbour Bell yet.", "[aria-label=Results]")
    idris.go("/")
    idris.see("1.1, Clapper 7.2")


def test_staff_offer_a_pack_as_a_starter_collection_and_take_it_back(reader):
    idris = reader("idris")
    idris.go("/games?game=tidewrack")
    idris.press("Offer a pack as one", "main")
    idris.choose("Pack", "Thursday Deep")
    idris.fill("Name of the collection", "As on Thursdays")
    idris.press("Offer", "[aria-label='A new starter collection']")
    idris.see("As on Thursdays", "[aria-label='Starter collections']")
    tove = reader("tove")
    tove.go("/new?game=tidewrack")
    tove.choose("Begin with", "a starter collection")
    tove.choose("Starter collection", "As on Thursdays")
    tove.see("Barter Pier", "form")
    idris.press("Take back As on Thursdays")
    idris.miss("As on Thursdays", "[aria-label='Starter collections']")


def test_a_pack_is_assembled_without_a_mouse(reader):
    mods = ("star sextant", "moonpull", "reef garden", "seal colony", "kelp farm")
    tove = reader("tove")
    tove.go("/new?game=tidewrack")
    tove.fill("Name", "No Mouse")
    tove.keys(Keys.ENTER)
    tove.see("most installed first", "[aria-label=Results]")
    for number, mod in enumerate(mods, 1):
        if number > 1:
            tove.keys("/")
        tove.until(lambda: tove.driver.switch_to.active_element.get_attribute("data-search"))
        active = tove.driver.switch_to.active_element
        active.send_keys(Keys.CONTROL, "a")
        active.send_keys(mod)
        slug = mod.replace(" ", "-")
        tove.until(lambda s=slug: [e.get_attribute("data-mod") for e in tove.all("[data-mod]")][:1] == [s])
        tove.see("best match first", "[aria-label=Results]")
        active.send_keys(Keys.ENTER)
        tove.until(lambda: tove.all("[data-preview=add] [data-add]"))
        tove.driver.find_element(By.TAG_NAME, "body").send_keys("a")
        tove.see("is in the draft", f"[data-mod='{slug}']")
    entered = int(tove.text("nav").split("Assemble")[1].split()[0])
    assert entered >= len(mods) + 2, "what they need came along"


def test_load_order_is_moved_by_keys_in_the_waybill(reader):
    maren = reader("maren")
    maren.go("/packs/quill-night/assemble?sel=silent-halls")
    maren.until(lambda: "silent-halls" in rows(maren))
    before = rows(maren)
    maren.driver.find_element(By.TAG_NAME, "body").send_keys("J")
    maren.until(lambda: rows(maren).index("silent-halls") == before.index("silent-halls") + 1)
    maren.see("changed the load order", "footer")
    maren.undo()
    maren.until(lambda: rows(maren) == before)


DRAG = """
const [from, to] = [arguments[0], arguments[1]].map((mod) => document.querySelector(`[data-entry='${mod}']`));
const carried = new DataTransfer();
for (const [element, name] of [[from, "dragstart"], [to, "dragover"], [to, "drop"]])
  element.dispatchEvent(new DragEvent(name, { bubbles: true, cancelable: true, dataTransfer: carried }));
"""


def test_load_order_is_dragged_in_the_waybill(reader):
    maren = reader("maren")
    maren.go("/packs/quill-night/assemble")
    maren.until(lambda: "moats-and-bridges" in rows(maren))
    before = rows(maren)
    maren.driver.execute_script(DRAG, "larger-print", "silent-halls")
    maren.until(lambda: rows(maren).index("larger-print") == before.index("silent-halls"))
    maren.see("changed the load order", "footer")
    maren.undo()
    maren.until(lambda: rows(maren) == before)


def test_removing_shows_what_is_left_behind_and_takes_it_along(reader):
    maren = reader("maren")
    maren.go(SHALLOWS)
    maren.toggle("Select Skiff and Tender")
    maren.press("Remove")
    maren.see("that nothing else needs", "aside")
    maren.see("Winch and Davit", "aside")
    maren.until(lambda: [b for b in maren.all("aside button") if b.text.startswith("Remove ")])[0].click()
    maren.until(lambda: not {"skiff-and-tender", "winch-and-davit", "drift-math"} & set(rows(maren)))
    maren.undo()
    maren.until(lambda: "winch-and-davit" in rows(maren))


def test_a_pack_is_named_labelled_and_given_a_picture(reader, tmp_path):
    maren = reader("maren")
    maren.go(f"{SHALLOWS}?sheet=details")
    maren.fill("Listed under", "Small boats")
    Image.new("RGB", (40, 30), "teal").save(tmp_path / "flag.png")
    send(maren, "Picture of the pack", tmp_path / "flag.png")
    maren.until(lambda: maren.all("aside img[src^='/pictures/']"))
    maren.press("Keep", "aside")
    maren.see('listed under "Small boats"', "footer")
    maren.go("/")
    maren.see("Saturday Shallows", "section[aria-label='Small boats']")
    assert maren.all("section[aria-label='Small boats'] img")
    (tmp_path / "no.png").write_bytes(b"no picture at all")
    maren.go(f"{SHALLOWS}?sheet=details")
    send(maren, "Picture of the pack", tmp_path / "no.png")
    maren.see("This is not a PNG, JPEG or WebP picture", "aside")
    maren.undo()


def test_entries_are_put_under_labels_and_grouped_by_them(reader):
    maren = reader("maren")
    maren.go(SHALLOWS)
    for name in ("Galley", "Net and Line"):
        maren.toggle(f"Select {name}")
    maren.press("Change")
    maren.press("Put under a label …", "[role=menu]")
    maren.fill("Label", "Food")
    maren.press("Put", "aside")
    maren.see("put under a label: 2 entries: Food", "footer")
    maren.go(f"{SHALLOWS}?group=label")
    maren.see("Food", "[data-group=Food]")
    maren.undo()
    maren.miss("Food", "[data-group]")


def test_a_pack_begins_as_a_copy_and_from_a_folder(reader, tmp_path, world):
    maren = reader("maren")
    maren.go("/new?game=tidewrack")
    maren.fill("Name", "Copied Shallows")
    maren.choose("Begin with", "a copy of another pack")
    maren.choose("Pack", "Saturday Shallows")
    maren.press("Begin the pack")
    maren.until(lambda: {"galley", "skiff-and-tender"} <= set(rows(maren)))
    (tmp_path / "game" / "mods").mkdir(parents=True)
    (tmp_path / "game" / "mods" / "x.zip").write_bytes((world / "files" / "kelp-farm-1.0.0.zip").read_bytes())
    (tmp_path / "game" / "mods" / "mine.zip").write_bytes(b"mine")
    assert convoy("stocktake", tmp_path / "game", "-o", tmp_path / "f.inventory.json").returncode == 0
    maren.go("/new?game=tidewrack")
    maren.fill("Name", "From a Folder")
    maren.choose("Begin with", "an existing folder")
    send(maren, "File of the inventory", tmp_path / "f.inventory.json")
    maren.see("f.inventory.json", "form")
    maren.press("Begin the pack")
    maren.see("1 of 2 files were recognised.")
    maren.see("Not recognised: mods/mine.zip.")
    maren.press("To the pack")
    maren.until(lambda: rows(maren) == ["kelp-farm"])
    maren.see("stop", "nav")
