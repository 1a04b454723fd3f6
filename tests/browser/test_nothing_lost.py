"""What is typed is kept: without the program, over a reload, in a closed window, and beside another window."""

import json
import re

from playwright.sync_api import Page, expect

from tests.browser.steps import bring_in, sheet


def cell(page: Page, row: int, column: str):
    """A cell of the sheet as it is drawn, by its row and the name of its column."""
    expect(page.locator("[data-head]").first).to_be_visible()
    heads = page.locator("[data-head]").all_inner_texts()
    place = next(at for at, words in enumerate(heads) if words.split("\n")[-1] == column)
    return page.locator(f"#cell-{row}-{place}")


def stands(office, number: int, row: int, column: str) -> str:
    """What the program has in a cell."""
    with office.client() as client:
        found = client.get(f"/api/rounds/{number}/rows", params={"offset": row - 1, "limit": 1}).json()["rows"][0]
        names = [each["name"] for each in client.get(f"/api/rounds/{number}").json()["columns"]]
    at = found["cells"][names.index(column)]
    return at["typed"] if at["typed"] is not None else at["shown"]


def changes(office, number: int) -> list[str]:
    with office.client() as client:
        return [each["what"] for each in client.get(f"/api/rounds/{number}/changes").json()["changes"]]


def another(desk: Page, office, number: int) -> Page:
    page = desk.context.new_page()
    page.goto(f"{office.url}/rounds/{number}")
    expect(page.get_by_label("Wording", exact=True).first).to_be_visible()
    expect(page.locator("#cell-1-0")).to_be_visible()
    return page


def test_typed_while_the_program_is_away_and_the_window_closed_it_is_kept_once(desk, office):
    number = bring_in(desk, office, sheet(4))
    expect(cell(desk, 3, "Due")).to_have_text("$3.50")
    cell(desk, 3, "Due").click()
    office.program.kill()
    try:
        desk.keyboard.type("77.25\n88.10\n")
        expect(cell(desk, 3, "Due")).to_have_text("77.25")
        expect(cell(desk, 3, "Due").locator(".not-kept")).to_be_visible()
        expect(desk.get_by_text("2 things not kept yet.")).to_be_visible()
        cell(desk, 2, "First name").click()
        desk.keyboard.type("Wil")
        desk.close()
    finally:
        office.start()
    page = another(desk, office, number)
    expect(cell(page, 3, "Due")).to_have_text("$77.25")
    expect(cell(page, 4, "Due")).to_have_text("$88.10")
    # What was begun is written on where it was begun.
    writing = page.get_by_label("First name of row 2")
    expect(writing).to_have_value("Wil")
    expect(writing).to_be_focused()
    page.keyboard.type("ma\n")
    expect(cell(page, 2, "First name")).to_have_text("Wilma")
    expect(page.locator(".not-kept")).to_have_count(0)
    assert [stands(office, number, 3, "Due"), stands(office, number, 2, "First name")] == ["77.25", "Wilma"]
    assert len(changes(office, number)) == 3
    assert stands(office, number, 1, "First name") == "P1"
    page.close()


def test_the_same_cell_written_in_two_windows_is_asked_about(desk, office):
    number = bring_in(desk, office, sheet(4))
    other = another(desk, office, number)
    cell(desk, 2, "Due").click()
    desk.keyboard.press("F2")
    cell(other, 2, "Due").click()
    other.keyboard.type("9\n")
    expect(cell(other, 2, "Due")).to_have_text("$9.00")
    desk.keyboard.type("12.50\n")
    asked = desk.get_by_label("Written here and elsewhere")
    expect(asked).to_contain_text("9")
    assert stands(office, number, 2, "Due") == "9"
    send = desk.get_by_role("button", name="Choose first what is to stand")
    expect(send).to_have_attribute("aria-disabled", "true")
    asked.get_by_role("button", name="Keep mine").click()
    expect(cell(desk, 2, "Due")).to_have_text("$12.50")
    expect(asked).to_be_hidden()
    assert stands(office, number, 2, "Due") == "12.50"
    # Undo names what was not done here, and leaves it where that is not wanted.
    other.keyboard.press("Control+z")
    named = other.get_by_role("dialog")
    expect(named).to_contain_text("not made in this window")
    expect(named).to_contain_text("12.50")
    other.keyboard.press("Escape")
    expect(named).to_be_hidden()
    assert stands(office, number, 2, "Due") == "12.50"
    other.keyboard.press("Control+z")
    named.get_by_role("button", name="Undo it all the same").click()
    expect(cell(other, 2, "Due")).to_have_text("$9.00")
    other.close()


def test_a_window_next_to_another_takes_nothing_of_what_is_written_there(desk, office):
    number = bring_in(desk, office, sheet(4))
    cell(desk, 2, "Due").click()
    desk.keyboard.type("5")
    other = another(desk, office, number)
    expect(other.get_by_label("Due of row 2")).to_have_count(0)
    other.close()
    desk.keyboard.type("5\n")
    expect(cell(desk, 2, "Due")).to_have_text("$55.00")


def test_what_is_written_in_panels_is_there_again(desk, office):
    bring_in(desk, office, sheet(4))
    expect(cell(desk, 1, "Due")).to_be_visible()
    for _ in range(2):
        desk.keyboard.press("Alt+c")
        name = desk.locator("#computed-name")
        expect(name).to_be_focused()
        if name.input_value() == "":
            desk.keyboard.type("Twice")
            desk.keyboard.press("Tab")
            desk.keyboard.type("{Due} * 2")
            desk.keyboard.press("Escape")
        else:
            expect(name).to_have_value("Twice")
            expect(desk.get_by_label("Formula", exact=True)).to_contain_text("* 2")
        desk.keyboard.press("Escape")
        expect(name).to_be_hidden()
        expect(desk.get_by_role("grid", name="Rows")).to_be_focused()
    desk.reload()
    expect(cell(desk, 1, "Due")).to_be_visible()
    desk.keyboard.press("Alt+c")
    expect(desk.locator("#computed-name")).to_have_value("Twice")
    desk.keyboard.press("Escape")
    # Escape puts the bracket away that only opened the list.
    desk.get_by_role("button", name="Insert a field").click()
    expect(desk.locator(".cm-tooltip-autocomplete")).to_be_visible()
    desk.keyboard.press("Escape")
    expect(desk.locator(".cm-tooltip-autocomplete")).to_be_hidden()
    expect(desk.locator(".cm-content .cm-placeholder")).to_be_visible()
    # The column's paper: Escape keeps what is chosen, as Done does.
    head = desk.locator("[data-head]", has_text="Berth").get_by_role("button")
    head.click()
    paper = desk.get_by_label("Column Berth")
    paper.get_by_label("Text when blank").fill("no berth")
    desk.keyboard.press("Escape")
    expect(head).to_contain_text("when blank: no berth")


def test_letters_typed_while_the_desk_opens_change_nothing(desk, office):
    number = bring_in(desk, office, sheet(4))
    desk.goto(office.url)
    desk.get_by_role("link", name=re.compile("december", re.I)).first.click()
    desk.keyboard.type("abcdefghij", delay=40)
    expect(cell(desk, 1, "First name")).to_have_text("P1")
    expect(desk.get_by_label("First name of row 1")).to_have_count(0)
    assert changes(office, number) == []
    # Once the hand is seen, letters write: after a moment, or behind a key that moves it.
    desk.keyboard.press("ArrowDown")
    desk.keyboard.type("Bea\n", delay=5)
    expect(cell(desk, 2, "First name")).to_have_text("Bea")


def test_keys_that_come_while_a_panel_is_loaded_go_into_it(desk, office):
    number = bring_in(desk, office, sheet(4))
    desk.reload()
    held = []

    def hold(route):
        held.append(route)

    desk.route(re.compile("ComputePanel"), hold)
    expect(cell(desk, 1, "Due")).to_be_visible()
    desk.keyboard.press("Alt+c")
    desk.keyboard.type("Twice")
    desk.wait_for_timeout(100)
    for route in held:
        route.continue_()
    assert held, "the panel came before the keys"
    expect(desk.locator("#computed-name")).to_have_value("Twice")
    assert changes(office, number) == []


def test_the_wording_survives_a_closed_window_and_a_program_that_is_away(desk, office):
    number = bring_in(desk, office, sheet(4))
    box = desk.get_by_label("Wording", exact=True).and_(desk.locator(".cm-content"))
    box.click()
    desk.keyboard.type("Hello ")
    office.program.kill()
    try:
        desk.keyboard.type("there, all of you")
        desk.close()
    finally:
        office.start()
    page = another(desk, office, number)
    expect(page.locator(".cm-content")).to_have_text("Hello there, all of you")
    expect(page.get_by_role("alert")).to_have_count(0)
    with office.client() as client:
        assert client.get(f"/api/rounds/{number}").json()["wording"] == "Hello there, all of you"
    page.close()


def test_a_program_that_hangs_is_asked_again_and_does_it_once(desk, office):
    number = bring_in(desk, office, sheet(4))
    dropped = []

    def lose(route):
        # It comes to the program, and its answer is lost on the way.
        if len(dropped) < 2:
            dropped.append(json.loads(route.request.post_data or "null"))
            route.fetch()
            route.abort()
        else:
            route.continue_()

    desk.route(re.compile(r"/rows$"), lose)
    desk.get_by_role("button", name="Sheet").click()
    desk.get_by_role("menuitem", name=re.compile("Add a row")).click()
    expect(cell(desk, 5, "Due")).to_be_visible()
    expect(desk.get_by_text("kept yet")).to_have_count(0)
    assert len(dropped) == 2
    with office.client() as client:
        assert client.get(f"/api/rounds/{number}").json()["rows"] == 5
