"""Chosen rows, a text to oneself, a rehearsal, and last time's amounts, on the real screen."""

import httpx
from playwright.sync_api import expect

from tests.browser.keys import Hands
from tests.browser.steps import prepare, send, sheet


def test_some_rows_are_chosen_by_the_keyboard_and_the_others_sent_later(desk, office):
    number = prepare(desk, office, sheet(6, (5, "40")), every=0.2)
    hands = Hands(desk)
    # The first row's mark, then with Shift two more; with Ctrl and the mouse another one.
    hands.press("Alt+s", "ArrowLeft", "Shift+ArrowDown", "Shift+ArrowDown", "Shift+ArrowUp")
    expect(desk.get_by_text("2 rows chosen")).to_be_visible()
    desk.get_by_role("gridcell", name="P5", exact=True).click(modifiers=["ControlOrMeta"])
    expect(desk.get_by_text("3 rows chosen")).to_be_visible()
    hands.press("Space")
    expect(desk.get_by_text("2 rows chosen")).to_be_visible()
    hands.press("Space")
    expect(desk.get_by_role("gridcell", name="Row 5, Ready, chosen for sending")).to_be_visible()
    desk.get_by_role("button", name="Send 3 chosen texts").click()
    dialog = desk.get_by_role("dialog")
    expect(dialog).to_contain_text("Send 3 chosen texts from Quay Office?")
    expect(dialog).to_contain_text("3 further texts stay ready")
    desk.get_by_role("button", name="Send 3 chosen texts now").click()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("All 3 texts sent. 3 still ready, not sent.")
    marks = [
        row["mark"] for row in httpx.get(f"{office.url}/api/rounds/{number}/rows", headers=office.own).json()["rows"]
    ]
    assert marks == ["Sent", "Sent", "Ready", "Ready", "Sent", "Ready"]

    desk.get_by_role("button", name="3 ready, not sent").click()
    expect(desk.get_by_role("gridcell", name="P1", exact=True)).to_have_count(0)
    desk.get_by_role("gridcell", name="P4", exact=True).click(modifiers=["ControlOrMeta"])
    desk.get_by_role("button", name="Send 1 chosen text").click()
    desk.get_by_role("button", name="Send 1 chosen text now").click()
    expect(desk.get_by_role("button", name="2 ready, not sent")).to_be_visible()
    desk.get_by_role("button", name="Send these 2 texts").click()
    expect(desk.get_by_role("dialog")).to_contain_text("none of them was sent before")
    desk.get_by_role("button", name="Send 2 texts now").click()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("All 6 texts sent.")
    arrived = httpx.get(office.carrier_url).text
    assert all(arrived.count(f"Hello P{i}, berth") == 1 for i in range(1, 7))


def test_what_was_held_is_mended_where_it_stands_and_sent_in_the_same_round(desk, office):
    """Held for its number, held for its amount, and failed for its number: each is mended by the keyboard and goes."""
    wrong = (
        sheet(6, (5, "90"))
        .replace("P2,902-555-0102", "P2,902-555-01")
        .replace("D03,3.50", "D03,three")
        .replace("902-", "709-")
        .replace("P", "M")
    )
    prepare(desk, office, wrong, every=0.2)
    send(desk, 4)
    happened = desk.get_by_test_id("what-happened")
    expect(happened).to_contain_text("3 of 4 texts sent, 1 failed. 2 held, not sent.")
    hands, line = Hands(desk), desk.get_by_test_id("chosen-cell")
    desk.get_by_role("button", name="Mend them").click()
    expect(line).to_contain_text("Mobile, row 2709-555-01: two digits short")
    hands.type("709-555-0132")
    hands.press("Enter")
    held, ready = (desk.get_by_role("region", name=name) for name in ("Held back", "Still ready"))
    expect(ready).to_contain_text("1 text was mended since sending began")
    held.get_by_role("button", name="Mend it").click()
    expect(line).to_contain_text('Due, row 3"three" is not an amount')
    hands.type("30.25")
    hands.press("Enter")
    expect(desk.get_by_text("No row is left of those: all rows are shown again.")).to_be_visible()
    expect(held).to_have_count(0)
    desk.get_by_role("region", name="What did not go").get_by_role("button", name="1 failed").click()
    expect(line).to_contain_text("Mobile, row 5")
    hands.type("709-555-0135")
    hands.press("Enter")
    expect(ready).to_contain_text("3 texts were mended since sending began")
    # What went is locked, and says so.
    desk.get_by_role("gridcell", name="M1", exact=True).click()
    hands.type("x")
    expect(line).to_contain_text("Row 1 was handed over: nothing of it can be changed any more.")
    ready.get_by_role("button", name="Send these 3 texts").click()
    expect(desk.get_by_role("dialog")).to_contain_text("locked as they stand now")
    desk.get_by_role("button", name="Send 3 texts now").click()
    expect(happened).to_contain_text("All 6 texts sent.")
    arrived = httpx.get(office.carrier_url).text
    assert all(arrived.count(f"Hello M{i}, berth") == 1 for i in range(1, 7))
    assert "Hello M3, berth D03 has $30.25 to pay." in arrived


def test_a_row_s_real_text_goes_to_oneself_from_the_look(desk, office):
    number = prepare(desk, office, sheet(2, (1, "31"), (2, "32")), every=0.2)
    hands = Hands(desk)
    hands.press("Alt+e")
    expect(desk.locator("footer")).to_contain_text("Looked at 0 of 2")
    expect(desk.get_by_role("heading", level=2)).to_contain_text("Row 1 ")
    hands.press("t")
    box = desk.get_by_label("Your own mobile number")
    expect(box).to_be_focused()
    own = desk.get_by_role("dialog", name="One to myself")
    hands.press("Enter")
    expect(own).to_contain_text("Type your own mobile number first.")
    hands.type("902-555-0132")
    hands.press("Enter")
    expect(own).to_contain_text("+19025550132 is the number of row 2")
    box.fill("902-555-0199")
    own.get_by_role("button", name="Send this text to me").click()
    expect(own.get_by_label("Trials so far")).to_contain_text("Row 1 to +19025550199")
    expect(own.get_by_label("Trials so far")).to_contain_text("Sent")
    box.press("Enter")
    expect(own).to_contain_text("This one went already: the button hands another one over.")
    expect(own).to_contain_text("9 to yourself left")
    hands.press("Escape")
    expect(own).to_have_count(0)
    rows = httpx.get(f"{office.url}/api/rounds/{number}/rows", headers=office.own).json()["rows"]
    assert [row["mark"] for row in rows] == ["Ready", "Ready"]
    assert "Hello P1, berth D01 has $1.50 to pay." in httpx.get(office.carrier_url).text


def test_a_rehearsal_shows_what_would_become_of_the_round_and_leaves_nothing_behind(desk, office):
    number = prepare(desk, office, sheet(5, (1, "41"), (2, "90"), (3, "43"), (4, "44"), (5, "45")), every=5)
    before = httpx.get(office.carrier_url).text
    desk.get_by_role("link", name="Rehearse").click()
    expect(desk.get_by_text("Nothing leaves this machine.")).to_be_visible()
    begin = desk.get_by_role("button", name="Rehearse 5 texts")
    expect(begin).to_be_focused()
    desk.keyboard.press("Enter")
    expect(desk.get_by_text("Rehearsed to the last text.")).to_be_visible()
    expect(desk.get_by_label("Texts that were not taken")).to_contain_text("The number is not in use")
    expect(desk.get_by_label("Texts handed over last")).to_contain_text("Hello P5, berth D05 has $5.50 to pay.")
    expect(desk.get_by_text("4 of 5 texts taken and 1 failed. Nothing changed since.")).to_be_visible()
    # The rows are as they were, and the carrier got nothing.
    assert httpx.get(office.carrier_url).text == before
    rows = httpx.get(f"{office.url}/api/rounds/{number}/rows", headers=office.own).json()["rows"]
    assert {row["mark"] for row in rows} == {"Ready"}

    # One that takes long is stopped.
    slow = {"pace": {"every": 3600, "give_or_take": 0}}
    httpx.patch(f"{office.url}/api/rounds/{number}", json=slow, headers=office.own).raise_for_status()
    desk.get_by_role("button", name="Rehearse 5 texts again").click()
    expect(desk.get_by_text("1 taken")).to_be_visible()
    desk.get_by_role("button", name="Stop the rehearsal").click()
    expect(desk.get_by_text("Stopped before its end.")).to_be_visible()
    desk.keyboard.press("Escape")
    expect(desk.get_by_role("link", name="Rehearsed")).to_be_visible()
    desk.get_by_role("button", name="Send 5 texts", exact=True).click()
    expect(desk.get_by_role("dialog")).to_contain_text(
        "not to its end: 1 of 5 texts taken and 4 not reached. Nothing changed since."
    )
