"""A sheet as it really comes, mended on the screen, and replaced by a newer version."""

from playwright.sync_api import expect

from tests.browser.steps import drop

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
    desk.get_by_label("Content of the cell").fill("902-555-0129")
    desk.keyboard.press("Enter")
    expect(desk.get_by_text("+19025550129")).to_be_visible()
    desk.keyboard.press("ControlOrMeta+z")
    expect(desk.get_by_text("+19025550129")).to_be_hidden()
    expect(desk.get_by_role("button", name="Undo the last change")).to_be_disabled()
    desk.get_by_role("button", name="Do the change again").click()
    expect(desk.get_by_text("+19025550129")).to_be_visible()
    desk.get_by_role("button", name="Sheet", exact=True).click()
    desk.get_by_role("menuitem", name="Bring in a newer version").click()
    desk.get_by_label("Newer sheet file").set_input_files(
        {"name": "february-dues.csv", "mimeType": "text/csv", "buffer": NEWER.encode()}
    )
    expect(dialog).to_contain_text("186.40")
    dialog.get_by_role("button", name="Take the newer 2 rows").click()
    expect(desk.get_by_text("2 rows from february-dues.csv")).to_be_visible()
    expect(desk.get_by_role("row").nth(2)).to_contain_text("Cal")


def test_last_months_set_up_with_a_column_called_otherwise(desk, office):
    desk.goto(office.url)
    drop(desk, NEWER, "march-dues.csv")
    desk.get_by_label("Wording", exact=True).first.wait_for()
    box = desk.get_by_label("Wording", exact=True).and_(desk.locator(".cm-content"))
    box.click()
    desk.keyboard.type("Berth {Berth}")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Berth C14")
    desk.goto(office.url)
    desk.get_by_label("Wording, formulas and pace").select_option("the same as in March dues")
    drop(desk, NEWER.replace("Berth", "Slip no"), "april-dues.csv")
    desk.get_by_label("Berth is here").select_option("Slip no")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Berth C14")
