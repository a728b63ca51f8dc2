"""The Check station: a draft is broken in six ways and mended from the screen; the other looks at it."""

import json

EDIT = """
const [edit, done] = [arguments[0], arguments[arguments.length - 1]];
const token = /convoy_csrf=([^;]*)/.exec(document.cookie)[1];
const pack = '/api/packs/thursday-deep';
fetch(pack + '/draft').then((r) => r.json()).then((draft) => fetch(pack + '/edits', {
  method: 'POST', headers: {'Content-Type': 'application/json', 'X-CSRFToken': token},
  body: JSON.stringify({base: draft.revision, edit}),
})).then((r) => done(r.status));
"""
BREAKS = [
    {"do": "remove", "mod": "rope-library"},
    {"do": "set-enabled", "mod": "signal-flags", "enabled": False},
    {"do": "set-build", "mod": "stacked-holds", "version": "2.0.0"},
    {"do": "add", "mod": "quiet-motor", "version": "1.1.0"},
    {"do": "remove", "mod": "deep-chart"},
    {
        "do": "set-sides",
        "mod": "compass-rose",
        "sides": {"client": "required", "server": "required"},
    },
]


def codes(reader) -> list[str]:
    return [element.get_attribute("data-code") for element in reader.all("[data-code]")]


def test_a_draft_broken_in_six_ways_is_mended_from_the_screen(reader):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/check")
    maren.see("Nothing", "h1")
    for edit in BREAKS:
        assert maren.driver.execute_async_script(EDIT, edit) == 201, json.dumps(edit)
    expected = {"missing-requirement", "requirement-off", "wrong-game-version", "clash", "dangling-bridge"}
    expected |= {"client-only-on-server"}
    maren.until(lambda: expected <= set(codes(maren)))
    maren.see("stops", "nav[aria-label='Stations of the pack']")
    maren.see("the game will not start with this draft", "h1")

    # The clash takes a decision: the sheet says what each way would do.
    maren.press("Engine Room clashes with Quiet Motor (both replace the motor block), and both are in the draft.")
    maren.see("turned off Quiet Motor", "aside")
    maren.press("Turn off Quiet Motor", "aside")
    maren.until(lambda: "clash" not in codes(maren))
    # The patch goes with the mod it was for; the rest has one safe answer and is mended as one.
    maren.press("Remove Buoys on the Chart")
    maren.until(lambda: "dangling-bridge" not in codes(maren))
    maren.press("Mend all that have one safe answer")
    maren.see("Add Rope Library", "aside")
    button = maren.find("aside .MuiButton-contained")
    assert button.text.startswith("Make ") and button.text.endswith(" as one")
    button.click()
    maren.until(lambda: not set(codes(maren)) & expected)
    maren.see("Nothing", "h1")
    maren.see("mended", "footer")
    maren.undo(len(BREAKS) + 3)
    maren.see("4 changes since 1.2.0", "footer")


def test_a_caution_is_accepted_with_a_reason_and_stays_in_sight(reader):
    idris = reader("idris")
    assert idris.driver.execute_async_script(EDIT, {"do": "set-fair", "fair": True}) == 201
    idris.go("/packs/thursday-deep/check")
    idris.press("Barter Pier changes progression, and the pack says that it plays fair.")
    idris.fill("Or accept it, because", "the club voted for it")
    idris.press("Accept", "aside")
    idris.see("Accepted: the club voted for it", "section[aria-label=Accepted]")
    idris.undo(2)


def test_the_fit_table_shows_where_everything_fits_and_moves_there_as_one_change(reader):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/check?look=fit")
    maren.see("the draft is here", "[data-ground='2.4.1/keel']")
    maren.find("[data-ground='2.4.1/outrigger']").click()
    maren.see("Turned off, as there is no build", "aside")
    maren.see("Leviathan's Rest", "aside")
    maren.press("Move to 2.4.1 with Outrigger", "aside")
    maren.see("the draft is here", "[data-ground='2.4.1/outrigger']")
    maren.see("moved to game version 2.4.1 with Outrigger", "footer")
    maren.press("Undo", "footer")
    maren.see("the draft is here", "[data-ground='2.4.1/keel']")


def test_who_needs_whom_is_drawn_and_listed(reader):
    maren = reader("maren")
    maren.go("/packs/thursday-deep/check?look=picture")
    maren.until(lambda: len(maren.all(".react-flow__node")) > 30)
    maren.fill("Find a mod in the picture", "brine")
    next(e for e in maren.all("[aria-label='Mods of the picture'] button") if "Brine Core" in e.text).click()
    maren.see("Needed by")
    maren.see("Tide Tables")
    maren.press("Tiny Config")
    maren.see("Needs nothing.")
    maren.go("/packs/thursday-deep/check?look=order")
    maren.see("No file is supplied twice", "h1")
    maren.see("Better Buoys", "[aria-label='Load order']")


def order_of(reader) -> list[str]:
    return [row.get_attribute("data-order") for row in reader.all("[data-order]")]


def test_where_the_order_decides_it_is_moved_and_what_authors_ask_for_holds(reader):
    maren = reader("maren")
    maren.go("/packs/quill-night/check")
    maren.see("Inkwell Wars and Overdue Fines both bring events/feuds.txt.")
    maren.go("/packs/quill-night/check?look=order")
    maren.see("2 files supplied more than once", "h1")
    first = order_of(maren)
    maren.see("Overdue Fines must come after it", "[data-contested='events/feuds.txt']")
    maren.see("Moats and Bridges wins", "[data-contested='maps/hall.map']")
    maren.press("Let Silent Halls win", "[data-contested='maps/hall.map']")
    maren.until(lambda: order_of(maren).index("silent-halls") > order_of(maren).index("moats-and-bridges"))
    maren.see("Silent Halls wins", "[data-contested='maps/hall.map']")
    maren.see("changed the load order", "footer")
    assert first.index("inkwell-wars") + 1 == first.index("overdue-fines")
    assert not maren.find("[aria-label='Move Overdue Fines up']").is_enabled(), "its author asks to come after"
    moved = order_of(maren)
    maren.press("Move Silent Halls up")
    maren.until(lambda: order_of(maren) != moved)
    maren.undo(2)
    maren.until(lambda: order_of(maren) == first)
