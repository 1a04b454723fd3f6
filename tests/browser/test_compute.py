"""A newcomer works an amount out from a raw sheet, on the real screen."""

from playwright.sync_api import expect

from tests.browser.steps import bring_in, open_menu, write, write_formula

RAW = """\
First name,Mobile,Berth,Class,Length (m),Metered (kWh),Paid
Ines,902-555-0128,C14,A,12.10,118,
Bo,902-555-0111,C15,B,oops,0,10
Cal,902-555-0112,C16,B,7,0,100
"""


def formula(page, *pieces):
    write_formula(page, page.locator(".formula .cm-content"), *pieces)


def test_amounts_links_and_rules_from_a_raw_sheet(desk, office):
    bring_in(desk, office, RAW)
    open_menu(desk, "Tables")
    for line, (key, value) in enumerate((("A", "14.00"), ("B", "12.50")), 1):
        desk.get_by_label(f"Key of line {line}").fill(key)
        desk.get_by_label(f"Value of line {line}").fill(value)
    desk.get_by_role("button", name="Keep the table").click()

    open_menu(desk, "Compute a column")
    desk.get_by_role("button", name="Start from…").click()
    desk.get_by_role("menuitem", name="Length times a tariff by class").click()
    expect(desk.get_by_test_id("formula-result")).to_contain_text("12.10 m × $14.00 = $169.40")
    desk.get_by_label("Name", exact=True).fill("Due")
    desk.locator(".formula .cm-content").press("ControlOrMeta+End")
    desk.keyboard.type(" + ")
    desk.keyboard.type("{Met")
    desk.locator(".cm-tooltip-autocomplete li", has_text="Metered (kWh)").wait_for()
    desk.keyboard.press("Enter")
    desk.keyboard.type(" * 0.31 - {Paid}")
    expect(desk.get_by_test_id("formula-result")).to_contain_text("= $205.98")
    expect(desk.get_by_text("1 row has no value, first")).to_contain_text("Length (m) is 'oops', not a number")
    desk.get_by_role("button", name="Add column").click()

    open_menu(desk, "Make a link")
    desk.get_by_label("Name", exact=True).fill("Pay link")
    formula(desk, "https://pay.saltmarsh.example/", "{Ber", "{?Du")
    link = desk.get_by_test_id("formula-result").get_by_role("link")
    expect(link).to_have_attribute("href", "https://pay.saltmarsh.example/C14?Due=205.98")
    desk.get_by_role("button", name="Add column").click()

    open_menu(desk, "Leave rows out by a rule")
    formula(desk, "{Due", " <= 0")
    desk.get_by_label("The reason, shown in the row").fill("nothing to pay")
    desk.get_by_role("button", name="Add the rule").click()
    expect(desk.get_by_role("button", name="Left out 1")).to_be_visible()
    desk.get_by_role("region", name="Rules").get_by_role("button", name="Close").click()

    write(desk, "{First name}", ": ", "{Due}", " ", "{Pay link}")
    slip = desk.get_by_test_id("slip-text").first
    expect(slip).to_have_text("Ines: $205.98 https://pay.saltmarsh.example/C14?Due=205.98")
    expect(desk.get_by_text("Due has no value in 1 row; in row 2, Length (m) is 'oops', not a number")).to_be_visible()
    expect(desk.get_by_role("button", name="Send 1 text", exact=True)).to_be_visible()

    desk.get_by_role("columnheader", name="Due").get_by_role("button").click()
    desk.locator(".formula .cm-content").press("ControlOrMeta+End")
    desk.keyboard.type(" + (")
    expect(desk.get_by_role("alert")).to_contain_text("A column, a number or a function was expected")
    expect(desk.get_by_role("button", name="Change the column")).to_be_disabled()


def test_every_function_is_in_the_help(desk, office):
    desk.goto(f"{office.url}/functions")
    expect(desk.get_by_role("article")).to_have_count(76)
    desk.get_by_label("Find a function").fill("networkdays")
    expect(desk.get_by_role("article")).to_have_count(2)
