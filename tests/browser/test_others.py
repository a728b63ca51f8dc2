"""The same screens for members, who look and do not change; on a phone; and with an empty or a failing catalogue."""

import pytest

from tests.browser.test_walk import rows

DEEP = "/packs/thursday-deep/assemble"


def offered(reader) -> set[str]:
    """What the buttons and links of the page are called."""
    found = reader.all("main :is(button, a, input)")
    return {(one.get_attribute("aria-label") or one.text).strip() for one in found} - {""}


def test_a_member_looks_through_everything_and_changes_nothing(reader):
    tove = reader("tove")
    tove.go(f"{DEEP}?look=catalogue&q=light")
    tove.see("fits with", "[data-mod=glowfish-light]")
    assert not {"Add Glowfish Light", "Paste a list", "Bring a file"} & offered(tove)
    tove.find("[data-mod=glowfish-light] button").click()
    tove.see("Who needs it", "aside")
    assert not tove.all("[data-preview=add]")
    tove.go(f"{DEEP}?sheet=mod&sel=better-buoys")
    tove.see("Chosen", "aside")
    assert not {"Pin", "Turn off", "Remove", "Take only some of its files"} & offered(tove)
    tove.go(f"{DEEP}?sheet=history")
    tove.see("began the draft", "aside")
    assert "Go back to revision 1" not in offered(tove)
    assert not tove.all("[role=table] input[type=checkbox]:not([disabled])")


@pytest.mark.parametrize(
    ("path", "sign"),
    [
        (DEEP, "Barter Pier"),
        (f"{DEEP}?look=catalogue&q=light", "Glowfish Light"),
        (f"{DEEP}?look=compare&beside=lantern-works,glowfish-light", "CC-BY-4.0"),
        (f"{DEEP}?sheet=mod&sel=deep-chart", "Builds"),
        ("/new", "Game version"),
        ("/packs/thursday-deep/check", "Nothing"),
        ("/packs/quill-night/check?look=order", "Inkwell Wars"),
        ("/packs/thursday-deep/print", "Better Buoys"),
    ],
)
def test_curator_pages_can_be_read_on_a_phone(reader, path, sign):
    maren = reader("maren", width=390, height=844)
    maren.go(path)
    maren.see(sign)
    overflow = maren.driver.execute_script("return document.documentElement.scrollWidth - window.innerWidth")
    assert overflow <= 0


def test_results_are_narrowed_on_a_phone(reader):
    maren = reader("maren", width=390, height=844)
    maren.go(f"{DEEP}?look=catalogue")
    maren.press("Narrow")
    maren.toggle("Category: weather")
    maren.press("Show the results")
    maren.see("5 mods", "[aria-label=Results]")


def test_nothing_found_and_a_server_that_is_gone_are_said_in_sentences(reader):
    maren = reader("maren")
    maren.go(f"{DEEP}?look=catalogue&q=qqqqqqqq")
    maren.see("Nothing in the catalogue matches. Try fewer letters, or show everything again.")
    maren.go(f"{DEEP}?filter=qqqq")
    maren.see("No entry matches this filter.")
    maren.driver.execute_cdp_cmd("Network.enable", {})
    maren.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/api/mods*"]})
    maren.go(f"{DEEP}?look=catalogue")
    maren.see("The server cannot be reached. Nothing was lost; try again in a moment.")
    maren.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": []})
    maren.press("Try again")
    maren.see("mods, most installed first", "[aria-label=Results]")


def test_an_edit_that_does_not_reach_the_server_goes_back_and_says_so(reader):
    maren = reader("maren")
    maren.go("/packs/saturday-shallows/assemble")
    maren.see("Galley", "[data-entry=galley]")
    maren.driver.execute_cdp_cmd("Network.enable", {})
    maren.driver.execute_cdp_cmd("Network.setBlockedURLs", {"urls": ["*/edits"]})
    maren.toggle("Galley on or off")
    maren.see("The server cannot be reached. Nothing was lost", "[role=alert]")
    maren.miss("turned off", "[data-entry=galley]")
    assert "galley" in rows(maren)


def test_the_keys_are_listed_and_the_lists_walked_by_them(reader):
    maren = reader("maren")
    maren.go(f"{DEEP}?look=catalogue&sheet=mod&sel=ballast")
    maren.see("Ballast", "aside")
    maren.driver.execute_script("document.activeElement.blur()")
    body = maren.find("body")
    body.send_keys("?")
    maren.see("add the mod that is open", "[aria-label=Keys]")
    body.send_keys("?")
    maren.miss("add the mod that is open")
    first = maren.all("[data-mod]")[0].get_attribute("data-mod")
    body.send_keys("j")
    maren.until(lambda: f"sel={first}" in maren.driver.current_url)
    body.send_keys("c")
    maren.see(first, "[aria-label='To compare']")
