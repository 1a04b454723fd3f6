"""Wordings for some rows, released rows, and the look, on the real screen."""

from playwright.sync_api import expect

from tests.browser.keys import Hands
from tests.browser.steps import bring_in, write, write_formula

LATE = """\
First name,Mobile,Due,Days late
Ines,902-555-0101,186.40,45
Bo,902-555-0102,20,3
Ada,902-555-0103,0,2
"""


def condition(page, label, *pieces):
    write_formula(page, page.get_by_label(label).and_(page.locator(".cm-content")), *pieces)


def slip_of(page, row):
    page.get_by_role("gridcell", name=row, exact=True).click()
    return page.get_by_test_id("slip-text").first


def test_two_wordings_by_condition_and_words_for_some_rows(desk, office):
    bring_in(desk, office, LATE)
    write(desk, "Hello ", "{First name}", ", ", "{Due}", " to pay. Come by soon.")
    desk.get_by_role("button", name="For some rows").click()
    desk.get_by_role("menuitem", name="Another wording for some rows").click()
    desk.get_by_label("What it is called").fill("Final reminder")
    condition(desk, "Condition of the wording", "{Day", " > 30")
    desk.get_by_role("radio", name="nothing").check()
    desk.get_by_role("button", name="Add the wording").click()
    names = desk.get_by_role("group", name="Wordings")
    expect(names.get_by_role("button", name="Final reminder 1")).to_have_attribute("aria-pressed", "true")
    write(desk, "{First name}", ": ", "{Due}", " is late.")
    expect(slip_of(desk, "Ines")).to_have_text("Ines: $186.40 is late.")
    expect(slip_of(desk, "Bo")).to_have_text("Hello Bo, $20.00 to pay. Come by soon.")
    expect(desk.get_by_role("button", name="Write the wording main wording")).to_be_visible()
    desk.get_by_role("button", name="Show these rows").click()
    expect(desk.get_by_text("Only rows that read “Final reminder”")).to_be_visible()
    expect(desk.get_by_role("gridcell", name="Bo", exact=True)).to_have_count(0)
    desk.get_by_role("button", name="Show all rows").first.click()

    names.get_by_role("button", name="main wording 2").click()
    box = desk.get_by_role("textbox", name="Wording", exact=True)
    expect(box).to_contain_text("Come by soon.")
    box.press("ControlOrMeta+End")
    for _ in " Come by soon.":
        box.press("Shift+ArrowLeft")
    box.press("Alt+m")
    condition(desk, "When the words stand in the text", "{Day", " > 2")
    desk.get_by_role("button", name="Make it so").click()
    expect(box).to_contain_text("Extra words")
    expect(slip_of(desk, "Bo")).to_have_text("Hello Bo, $20.00 to pay. Come by soon.")
    expect(slip_of(desk, "Ada")).to_have_text("Hello Ada, $0.00 to pay.")


def test_a_held_row_is_let_go_with_a_reason_in_words(desk, office):
    bring_in(desk, office, LATE)
    write(desk, "Hello ", "{First name}", ", ", "{Due}", " to pay.")
    expect(slip_of(desk, "Ada")).to_have_text("Hello Ada, $0.00 to pay.")
    desk.get_by_role("button", name="Send it all the same").click()
    expect(desk.get_by_role("button", name="Release this row")).to_be_disabled()
    desk.get_by_label("Why, for the ledger").fill("she asked for it")
    desk.keyboard.press("Enter")
    expect(desk.get_by_text("Released by hand: she asked for it")).to_be_visible()
    expect(desk.get_by_role("button", name="Ready 3")).to_be_visible()
    desk.get_by_role("button", name="Hold it again").click()
    expect(desk.get_by_role("button", name="Held 1")).to_be_visible()


def test_the_look_by_the_keyboard_until_all_odd_ones_are_seen(desk, office):
    sheet = "".join(f"Pia,902-555-01{i:02},{100 + i},1\n" for i in range(10, 20))
    bring_in(desk, office, f"{LATE}{sheet}TEST,902-555-0140,9000,1\n")
    write(desk, "Hello ", "{First name}", ", ", "{Due}", " to pay.")
    expect(desk.get_by_role("button", name="Held 1")).to_be_visible()
    hands = Hands(desk)
    hands.press("Alt+e")
    foot = desk.locator("footer")
    expect(foot).to_contain_text("Looked at 0 of 14")
    line = desk.get_by_label("Texts to read").locator("[aria-current=true]")
    expect(line).to_contain_text("Ada")
    expect(desk.get_by_text("Held: Due is nothing.")).to_be_visible()
    hands.press("Space")
    expect(line).to_contain_text("TEST")
    expect(line).to_be_focused()
    expect(desk.get_by_text("Due is 9,000, 78 times the usual amount.")).to_be_visible()
    hands.press("e", "ArrowDown", "ArrowDown", "Enter")
    hands.type("90")
    hands.press("Enter")
    expect(desk.get_by_test_id("slip-text")).to_have_text("Hello TEST, $90.00 to pay.")
    expect(line).to_be_focused()
    for row in (14, 2, 1):
        # What was not shown yet is not looked at, however fast the hand is.
        expect(line).to_contain_text(str(row))
        expect(desk.get_by_role("heading", level=2)).to_contain_text(f"Row {row} ")
        hands.press("Space")
    expect(foot).to_contain_text("odd ones are seen")
    hands.press("Escape")
    expect(desk.get_by_role("grid")).to_be_visible()
    hands.press("Alt+e")
    expect(foot).to_contain_text("odd ones are seen")


def test_a_replacement_that_saves_parts_at_one_press_and_back_in_one(desk, office):
    bring_in(desk, office, f"First name,Mobile,Note\nD’Arcy,902-555-0101,{'x' * 80}\nBo,902-555-0102,y\n")
    write(desk, "Hello ", "{First name}", ", ", "{Note}")
    desk.get_by_role("button", name="3 parts").click()
    panel = desk.get_by_role("region", name="What it weighs")
    expect(panel).to_contain_text("’ (right single quotation mark) can be ': 1 part less · 1 text, in First name")
    panel.get_by_role("button", name="Replace ’").click()
    expect(panel).to_contain_text("2 texts in 1 part.")
    expect(desk.get_by_test_id("slip-text").first).to_contain_text("Hello D'Arcy, xxx")
    desk.get_by_role("status").get_by_role("button", name="Undo").click()
    expect(desk.get_by_test_id("slip-text").first).to_contain_text("Hello D’Arcy, xxx")
