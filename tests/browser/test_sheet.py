"""A sheet as it really comes, mended on the screen, and replaced by a newer version."""

import re

from playwright.sync_api import expect

from tests.browser.steps import bring_in, drop, open_menu, write

MESSY = """\
Saltmarsh Quay,,,
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,186.40
Bo,902-555-01,C15,50
Total,,,236.40
"""
NEWER = """\
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,200.00
Cal,902-555-0130,C17,12
"""


def test_a_glance_mending_with_undo_and_a_newer_version(desk, office):
    desk.goto(office.url)
    expect(desk.get_by_text("Drop a CSV, TSV, XLSX, XLS or ODS file here")).to_be_visible()
    drop(desk, MESSY, "january-dues.csv")
    dialog = desk.get_by_role("dialog")
    expect(dialog).to_contain_text("1 line above the column names and 1 row of totals left out")
    dialog.get_by_role("button", name="1 · left out").click()
    expect(dialog.get_by_role("alert")).to_contain_text("Row 1 has 4 cells, but there is only 1 column named")
    dialog.get_by_role("button", name="2", exact=True).click()
    dialog.get_by_role("button", name="Bring in 2 rows").click()
    row = desk.get_by_role("row").nth(2)
    expect(row).to_contain_text("Held")
    row.get_by_role("gridcell").nth(2).dblclick()
    desk.get_by_label("Mobile of row 2").fill("902-555-0129")
    desk.keyboard.press("Enter")
    expect(desk.get_by_text("+19025550129", exact=True)).to_be_visible()
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text(
        "902-555-0129, read as +19025550129 · in the file: 902-555-01"
    )
    desk.keyboard.press("ControlOrMeta+z")
    expect(desk.get_by_text("+19025550129", exact=True)).to_be_hidden()
    expect(desk.get_by_role("button", name="Undo the last change")).to_be_disabled()
    desk.get_by_role("button", name="Redo").click()
    expect(desk.get_by_text("+19025550129", exact=True)).to_be_visible()
    desk.get_by_role("button", name="Sheet", exact=True).click()
    desk.get_by_role("menuitem", name="Bring in a newer version").click()
    desk.get_by_label("Newer sheet file").set_input_files(
        {"name": "february-dues.csv", "mimeType": "text/csv", "buffer": NEWER.encode()}
    )
    expect(dialog).to_contain_text("186.40")
    dialog.get_by_role("button", name="Take the newer 2 rows").click()
    expect(desk.get_by_text("2 rows from february-dues.csv")).to_be_visible()
    expect(desk.get_by_role("row").nth(2)).to_contain_text("Cal")


OPEN = """\
First name,Mobile,Due,When
Ines,902-555-0128,"1,234",05/11/2026
Bo,902-555-0129,"12,50",06/11/2026
"""


def test_what_a_sheet_leaves_open_is_answered_in_one_press(desk, office):
    desk.goto(office.url)
    expect(desk.get_by_text("Drop a CSV, TSV, XLSX, XLS or ODS file here")).to_be_visible()
    drop(desk, OPEN, "two-offices.csv")
    dialog = desk.get_by_role("dialog")
    days = dialog.get_by_role("group", name="How is When read?")
    expect(days).to_contain_text("“05/11/2026” is May 11, 2026")
    days.get_by_role("button", name="day first").click()
    expect(days.get_by_role("button", name="day first")).to_have_attribute("aria-pressed", "true")
    dialog.get_by_role("button", name="Bring in 2 rows").click()
    write(desk, "{First name}", ": ", "{Due}", " by ", "{When}")
    row = desk.get_by_role("row").nth(1)
    expect(row).to_contain_text("Held")
    question = desk.get_by_role("region", name="Columns in question")
    expect(question).to_contain_text("how does this column write its figures?")
    expect(question).not_to_contain_text("When")
    question.get_by_role("button", name="decimal point").click()
    expect(question).to_be_hidden()
    expect(row).to_contain_text("$1,234.00")
    expect(row).to_contain_text("Ready")
    expect(desk.get_by_role("row").nth(2)).to_contain_text("$12.50")
    drop(desk, OPEN.replace('"', "").replace("When", "When,Note").replace("2026", "2026,"), "torn.csv")
    dialog.get_by_role("button", name="A newer version").click()
    commas = dialog.get_by_role("group", name="How are the commas in Due read?")
    expect(commas).to_contain_text("Line 2 has “1,234”, as in 1 more: is that 1,234 in Due, or 1 in Due, 234 in When?")
    commas.get_by_role("button", name="1,234 in Due").click()
    dialog.get_by_role("button", name="Take the newer 2 rows").click()
    expect(row).to_contain_text("$1,234.00")


def test_last_months_set_up_with_a_column_called_otherwise(desk, office):
    desk.goto(office.url)
    drop(desk, NEWER, "march-dues.csv")
    desk.get_by_label("Wording", exact=True).first.wait_for()
    box = desk.get_by_label("Wording", exact=True).and_(desk.locator(".cm-content"))
    box.click()
    desk.keyboard.type("Berth {Berth}")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Berth C14")
    desk.goto(office.url)
    desk.get_by_label("Wording, formulas and pace").select_option(
        label=desk.locator("#like option", has_text="March dues").inner_text().strip()
    )
    drop(desk, NEWER.replace("Berth", "Slip no"), "april-dues.csv")
    desk.get_by_label("Berth is here").select_option("Slip no")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Berth C14")


TOGETHER = """\
First name,Mobile,Berth,Due
Ines,902-555-0128,C14,100
Bo,902-555-0111 ext 7,C15,50
Ines,902 555 0128,D02,30.50
"""


def test_numbers_are_tidied_and_rows_of_one_person_combined(desk, office):
    bring_in(desk, office, TOGETHER, "may-dues.csv")
    write(desk, "{First name}", ": ", "{Berth}", " ", "{Due}")
    desk.get_by_role("button", name="Sheet", exact=True).click()
    desk.get_by_role("menuitem", name="Check the numbers").click()
    dialog = desk.get_by_role("dialog")
    dialog.get_by_role("button", name="an extension, so it rings at a desk").click()
    expect(dialog.get_by_label("Number of row 2")).to_have_value("902-555-0111 ext 7")
    dialog.get_by_role("button", name="Take the extensions off").click()
    expect(dialog.get_by_role("table")).to_contain_text("+19025550111")
    dialog.get_by_role("button", name="Back to the desk").click()
    open_menu(desk, "Combine rows of one person")
    desk.get_by_role("button", name="Combine rows with the same Mobile").click()
    expect(desk.get_by_text("2 rows become 1 text.")).to_be_visible()
    desk.get_by_label("Berth in the text").select_option("listed")
    desk.get_by_label("Due in the text").select_option("sum")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Ines: C14 and D02 $130.50")
    expect(desk.get_by_role("heading", name="Rows 1, 3 in one text")).to_be_visible()
    expect(desk.get_by_role("button", name="Send 2 texts", exact=True)).to_be_enabled()


def test_cells_are_reached_and_mended_from_the_keyboard(desk, office):
    bring_in(desk, office, TOGETHER, "june-dues.csv")
    grid = desk.get_by_role("grid")
    grid.focus()
    for key in ("ArrowDown", "ArrowRight", "ArrowRight", "Enter"):
        desk.keyboard.press(key)
    expect(desk.get_by_label("Berth of row 2")).to_have_value("C15")
    desk.keyboard.type("E07")
    desk.keyboard.press("Escape")
    expect(grid.get_by_role("row").nth(2)).to_contain_text("C15")
    desk.keyboard.press("F2")
    desk.keyboard.type("E07")
    desk.keyboard.press("Enter")
    expect(grid.get_by_role("row").nth(2)).to_contain_text("E07")
    expect(grid.get_by_role("row").nth(2).get_by_role("gridcell").nth(3)).to_have_attribute(
        "title", "E07 · in the file: C15"
    )
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("Berth, row 3")
    desk.keyboard.press("ArrowUp")
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("Berth, row 2E07 · in the file: C15")
    desk.get_by_role("button", name="Sheet", exact=True).click()
    desk.get_by_role("menuitem", name="Add a row").click()
    expect(desk.get_by_text("4 rows from june-dues.csv")).to_be_visible()
    desk.get_by_role("button", name="Undo the last change").click()
    expect(desk.get_by_text("3 rows from june-dues.csv")).to_be_visible()


def test_the_chosen_row_and_cell_stay_in_sight(desk, office):
    wide = "First name,Mobile," + ",".join(f"Meter reading {i}" for i in range(12)) + "\n"
    wide += "".join(f"P{i},902-555-01{i:02},{',' * 11}\n" for i in range(60))
    bring_in(desk, office, wide, "meters.csv")
    desk.get_by_role("grid").focus()
    for key in ("PageDown", "PageDown", "ArrowDown", *("ArrowRight",) * 13):
        desk.keyboard.press(key)
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("Meter reading 11, row 32")
    chosen = desk.locator("[data-chosen]")
    expect(chosen).to_be_in_viewport(ratio=1)
    desk.keyboard.press("Control+Home")
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("row 1")
    expect(chosen).to_be_in_viewport(ratio=1)
    head = desk.get_by_role("columnheader").first.bounding_box()
    assert chosen.bounding_box()["y"] >= head["y"] + head["height"] - 1, "nor does the head stand over it"
    rows, held = re.compile(r"/rows\?"), []
    desk.route(rows, lambda route: held.append(route))  # noqa: PLW0108 -- it wants a function of ours
    desk.reload()
    desk.get_by_role("grid").focus()
    for key in ("PageDown", "PageDown", "ArrowDown", *("ArrowRight",) * 13):
        desk.keyboard.press(key)
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("Meter reading 11, row 32…")
    for each in held:
        each.continue_()
    desk.unroute(rows)
    expect(chosen).to_be_in_viewport(ratio=1)
    expect(desk.get_by_test_id("chosen-cell")).to_contain_text("Meter reading 11, row 32blank")
