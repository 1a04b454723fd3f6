"""A round walked as its clerk walks it, on the real screen."""

import csv
import io
import re
from collections import Counter

import httpx
import xlsxwriter
from playwright.sync_api import expect

from tests.browser.steps import bring_in, drop, prepare, send, sheet, write
from tests.servers import until


def test_from_a_sheet_to_marked_rows(desk, office):
    """Drop, write, look, send, watch, reload in the middle, retry, export."""
    number = prepare(desk, office, sheet(8, (2, "90"), (3, "95"), (4, "92"), (5, "94")), every=0.6)
    desk.keyboard.press("ArrowDown")
    expect(desk.get_by_test_id("slip-text").first).to_contain_text("berth D02 has $2.50")
    send(desk, 8)
    expect(desk.get_by_label("Tally")).to_contain_text("still to go")
    desk.reload()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("6 of 8 texts sent, 2 failed.", timeout=20_000)
    expect(desk.get_by_label("What did not go")).to_contain_text("The number is not in use")
    desk.get_by_role("button", name="Try the failed one again").click()
    desk.get_by_role("button", name="Send 1 text now").click()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("7 of 8 texts sent, 1 failed.", timeout=20_000)
    desk.get_by_role("button", name="Save the marked sheet").click()
    with desk.expect_download() as saved:
        desk.get_by_role("menuitem", name="Marked sheet as CSV").click()
    lines = list(csv.DictReader(io.StringIO(saved.value.path().read_text("utf-8-sig"))))
    assert [line["Mark"] for line in lines] == ["Sent", "Failed", *["Sent"] * 6]
    assert lines[4]["Text"] == "Hello P5, berth D05 has $5.50 to pay."
    mine = [text for _, text in office.arrived() if "Hello P" in text]
    assert all(n == 1 for n in Counter(mine).values())
    assert number


def test_killed_in_the_middle_nothing_twice_and_nothing_lost(desk, office):
    """SIGKILL while texts go out, twice; the program is started again and goes on by itself."""
    before = Counter(office.arrived())
    rows = 14
    text = sheet(rows).replace("P", "K").replace("902-", "506-")
    number = prepare(desk, office, text, every=0.25)
    send(desk, rows)
    for so_many in (4, 9):
        until(lambda n=so_many: (Counter(office.arrived()) - before).total() >= n, f"{so_many} texts")
        office.program.kill()
        office.start()
    tally = lambda: httpx.get(f"{office.url}/api/rounds/{number}/tally", headers=office.own).json()  # noqa: E731
    until(lambda: tally()["stage"] == "finished", "the end of the round")
    assert tally()["counts"] == [{"mark": "Sent", "rows": rows}]
    arrived = Counter(office.arrived()) - before
    assert arrived == Counter(
        {(f"+150655501{i:02}", f"Hello K{i}, berth D{i:02} has ${i}.50 to pay."): 1 for i in range(1, rows + 1)}
    )
    expect(desk.get_by_test_id("what-happened")).to_contain_text("All 14 texts sent.", timeout=15_000)


def test_a_second_window_sees_the_same_and_can_pause(desk, office, context):
    before = len(office.arrived())
    number = prepare(desk, office, sheet(6).replace("902-", "782-"), every=5)
    send(desk, 6)
    until(lambda: len(office.arrived()) > before, "the first text")
    other = context.new_page()
    other.goto(f"{office.url}/rounds/{number}")
    other.get_by_role("button", name="Pause").click()
    expect(desk.get_by_test_id("next")).to_contain_text("Paused before row")
    desk.get_by_role("button", name="Stop the round").click()
    expect(desk.get_by_role("dialog")).to_contain_text("not sent?")
    desk.get_by_role("button", name="Keep sending").click()
    expect(desk.get_by_test_id("next")).to_contain_text("Paused before row")
    desk.get_by_role("button", name="Stop the round").click()
    desk.get_by_role("button", name="Stop the round now").click()
    expect(other.get_by_test_id("what-happened")).to_contain_text("of 6 texts sent")
    expect(other.get_by_test_id("what-happened")).to_contain_text("stopped.")
    assert other.get_by_role("button", name="that did not go").is_visible()


def test_a_field_is_one_solid_token(desk, office):
    bring_in(desk, office, sheet(3))
    write(desk, "Hi ", "{First name}", "!")
    expect(desk.locator(".field-token")).to_have_text("First name")
    for _ in range(2):
        desk.keyboard.press("ArrowLeft")
    desk.keyboard.type("x")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Hi xP1!")
    desk.keyboard.press("Backspace")
    desk.keyboard.press("End")
    desk.keyboard.press("Backspace")
    desk.keyboard.press("Backspace")
    expect(desk.locator(".field-token")).to_have_count(0)
    desk.keyboard.press("Control+z")
    desk.keyboard.type(" {Debt}")
    expect(desk.locator(".field-unknown")).to_have_text("{Debt}")
    expect(desk.get_by_label("What is wrong with the wording")).to_contain_text('No column is called "Debt"')
    expect(desk.get_by_role("button", name="Send 0 texts")).to_be_disabled()
    desk.reload()
    expect(desk.locator(".cm-content")).to_contain_text("{Debt}")


def test_roles_fallbacks_and_rows_left_out(desk, office):
    bring_in(desk, office, "First name,Mobile,Due\nInes,902-555-0101,5\n,902-555-0102,6\nD’Arcy,902-555-01,7\n")
    write(desk, "Hello ", "{First name}", " ", "{Due}")
    look = desk.get_by_label("Worth a look before sending")
    expect(look).to_contain_text("First name is blank in 1 row")
    expect(look).to_contain_text("two digits short for Canada")
    desk.get_by_title("Change what this column is for").nth(0).click()
    desk.get_by_label("Text when blank").fill("there")
    desk.get_by_role("button", name="Done").click()
    expect(look).not_to_contain_text("a text when blank can be set")
    desk.get_by_title("Change what this column is for").nth(2).click()
    desk.get_by_role("radio", name="number", exact=False).nth(1).check()
    desk.keyboard.press("Escape")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Hello Ines $5.00")
    desk.get_by_title("Change what this column is for").nth(2).click()
    desk.get_by_role("radio", name="number", exact=False).nth(1).check()
    desk.get_by_role("button", name="Done").click()
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Hello Ines 5")
    desk.get_by_role("button", name="Leave this row out").click()
    expect(desk.get_by_role("button", name="Send 1 text", exact=True)).to_be_enabled()
    desk.get_by_role("button", name="Undo", exact=True).click()
    expect(desk.get_by_role("button", name="Send 2 texts", exact=True)).to_be_enabled()
    look.get_by_role("button", name="two digits short").click()
    expect(desk.get_by_role("grid").get_by_role("row")).to_have_count(2)


def test_a_bad_sheet_is_a_sentence_and_pasted_cells_come_in(desk, office):
    desk.goto(office.url)
    bad = {"name": "dues.xlsx", "mimeType": "application/zip", "buffer": b"no workbook"}
    desk.get_by_label("Sheet file").set_input_files(bad)
    expect(desk.get_by_role("alert")).to_contain_text("named as an XLSX workbook")
    desk.get_by_role("button", name="Paste cells").click()
    desk.get_by_label("Cells copied from a spreadsheet").fill("Name\tMobile\nInes\t902-555-0101")
    desk.get_by_role("button", name="Bring in the pasted cells").click()
    expect(desk.get_by_role("grid")).to_contain_text("Ines")


def test_a_workbook_asks_which_worksheet(desk, office):
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        for name in ("Notes", "Berths"):
            book.add_worksheet(name).write_column(0, 0, ("Mobile", "902-555-0101", name))
    desk.goto(office.url)
    desk.get_by_label("Sheet file").set_input_files({"name": "dues.xlsx", "mimeType": "", "buffer": out.getvalue()})
    desk.get_by_label("Which worksheet?").get_by_role("button", name="Berths").click()
    desk.get_by_role("button", name="Bring in 2 rows").click()
    expect(desk.get_by_text("worksheet Berths")).to_be_visible()
    write(desk, "Gone with its round")
    desk.get_by_role("button", name="Save or remove").click()
    desk.get_by_role("menuitem", name="Remove this round").click()
    gone = desk.get_by_role("status").filter(has_text="The round Dues is removed.")
    expect(desk.get_by_role("heading", name="Rounds")).to_be_visible()
    gone.get_by_role("button", name="Undo").click()
    expect(desk.locator(".cm-content")).to_contain_text("Gone with its round")
    desk.get_by_role("button", name="Save or remove").click()
    desk.get_by_role("menuitem", name="Remove this round").click()
    expect(desk.get_by_role("region", name="Removed lately")).to_contain_text("Dues")
    drop(desk, sheet(2), "another.csv")
    expect(desk.get_by_role("grid")).to_contain_text("D01")
    expect(desk.locator(".cm-content")).not_to_contain_text("Gone")


def test_two_programs_on_one_ledger_send_once(desk, office):
    """A second process on the same database waits; when the first one dies it takes the sending over."""
    before = Counter(office.arrived())
    number = prepare(desk, office, sheet(8).replace("902-", "709-").replace("P", "T"), every=0.4)
    with office.another() as second, office.client(second.url.removesuffix("/api/rounds")) as other:
        send(desk, 8)
        until(lambda: (Counter(office.arrived()) - before).total() >= 3, "three texts")
        path = f"/api/rounds/{number}"
        tally = lambda: other.get(f"{path}/tally").json()  # noqa: E731
        assert tally()["sender"] == "there"
        office.kill_sender()
        office.program.kill()
        until(lambda: tally()["stage"] == "finished", "the end of the round")
        # What was under way when the sender was killed may never have reached the carrier: it is Failed, and a clerk
        # decides. Nothing else may be.
        if failed := tally()["may_try_again"]:
            assert failed == 1
            again = {"which": "failed", "texts": failed, "seal": tally()["seal_of_failed"]}
            other.post(f"{path}/again", json=again).raise_for_status()
            until(lambda: tally()["stage"] == "finished", "the end of the second try")
        office.start()
    arrived = Counter(office.arrived()) - before
    assert len(arrived) == 8
    assert set(arrived.values()) == {1}


ROUND = re.compile(r"/api/rounds/\d+$")


def left_behind(page):
    """The window hears nothing new of its round until ROUND is unrouted; it looks again when clicked."""
    page.route(ROUND, lambda route: None if route.request.method == "GET" else route.fallback())


def test_two_windows_write_one_wording(desk, office, context):
    """The one that is behind says so and shows the other's words; what was typed in either is kept until chosen."""
    number = bring_in(desk, office, sheet(3).replace("902-", "204-"))
    other = context.new_page()
    other.goto(f"{office.url}/rounds/{number}")
    expect(other.get_by_role("button", name="Insert a field")).to_be_visible()
    left_behind(other)
    write(desk, "Good day ", "{First name}")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Good day P1")
    left_behind(desk)
    write(other, "Ahoy ", "{First name}")
    behind = other.get_by_role("alert").filter(has_text="Another window has changed the wording")
    expect(behind).to_contain_text("Good day {First name}")
    expect(other.get_by_role("button", name="Choose the wording first")).to_be_disabled()
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Good day P1")
    other.unroute(ROUND)
    other.get_by_role("button", name="Keep mine").click()
    expect(other.get_by_test_id("slip-text").first).to_have_text("Ahoy P1")
    write(desk, "Good evening")
    expect(desk.get_by_role("alert").filter(has_text="Another window")).to_contain_text("Ahoy {First name}")
    desk.unroute(ROUND)
    desk.get_by_role("button", name="Take the other window").click()
    expect(desk.locator(".cm-content")).to_contain_text("Ahoy")
    expect(desk.get_by_test_id("slip-text").first).to_have_text("Ahoy P1")
    expect(desk.get_by_role("button", name="Send 3 texts")).to_be_enabled()


def test_an_outage_is_said_and_costs_no_row(desk, office):
    """The carrier is killed while texts go out: the screen says why it waits, and all goes on when it is back."""
    before = Counter(office.arrived())
    prepare(desk, office, sheet(6).replace("902-", "418-").replace("P", "Q"), every=0.8)
    send(desk, 6)
    until(lambda: (Counter(office.arrived()) - before).total() >= 2, "two texts")
    office.carrier.kill()
    expect(desk.get_by_label("Tally")).to_contain_text("No row is lost by it", timeout=15_000)
    expect(desk.get_by_label("Tally")).not_to_contain_text("failed")
    # The row that was tried and not taken is the next one, and no slip calls it sent.
    expect(desk.get_by_role("region", name="Slip")).to_contain_text("as it is locked")
    office.start_carrier()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("All 6 texts sent.", timeout=30_000)
    arrived = Counter(office.arrived()) - before
    assert (len(arrived), set(arrived.values())) == (6, {1})


def test_undo_names_what_another_window_did_and_the_page_says_what_was_changed(desk, office):
    number = bring_in(desk, office, sheet(3))
    write(desk, "Hi ", "{First name}")
    slip = desk.get_by_test_id("slip-text").first
    expect(slip).to_have_text("Hi P1")
    here = f"{office.url}/api/rounds/{number}"
    mend = {"column": "First name", "typed": "Ines"}
    httpx.patch(f"{here}/rows/1/cells", json=mend, headers=office.own).raise_for_status()
    # The editor has the focus: its undo is the round's. What another window did is named, and undone when that is said.
    desk.keyboard.press("Control+z")
    named = desk.get_by_role("dialog")
    expect(named).to_contain_text("row 1, First name")
    named.get_by_role("button", name="Undo it all the same").click()
    expect(named).to_be_hidden()
    desk.get_by_label("Wording", exact=True).and_(desk.locator(".cm-content")).click()
    desk.keyboard.press("Control+End")
    desk.keyboard.type("!")
    expect(slip).to_have_text("Hi P1!")
    assert httpx.get(f"{here}/rows", headers=office.own).json()["rows"][0]["cells"][0]["shown"] == "P1"
    desk.get_by_role("button", name="Save or remove").click()
    desk.get_by_role("menuitem", name="See what was changed").click()
    # Whether the last letter is a change of its own depends on the pause before it.
    lines = desk.get_by_role("listitem")
    expect(lines.filter(has_text="row 1, First name")).to_contain_text("undone")
    expect(lines.filter(has_text="The wording").first).to_contain_text("Hi {First name}!")
    expect(lines.filter(has_text="The wording").first).not_to_contain_text("undone")
    desk.get_by_role("link", name="December berths").click()
    expect(slip).to_have_text("Hi P1!")
    desk.get_by_role("button", name="Undo the last change").click()
    expect(slip).not_to_have_text("Hi P1!")


def test_a_page_that_cannot_be_drawn_says_so_with_a_way_back(desk, office):
    number = bring_in(desk, office, sheet(2))

    def broken(route):
        route.fulfill(json={"title": "x", "changes": None, "more": False})

    # A page of its own: on the fixture's every error is a failure.
    page = desk.context.new_page()
    page.route("**/api/rounds/*/changes*", broken)
    page.goto(f"{office.url}/rounds/{number}/changes")
    expect(page.get_by_role("alert")).to_contain_text("This page cannot be shown")
    page.get_by_role("button", name="Back to the rounds").click()
    expect(page.get_by_role("heading", name="Rounds")).to_be_visible()
