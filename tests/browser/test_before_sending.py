"""Chosen rows, a text to oneself, a rehearsal, and last time's amounts, on the real screen."""

import httpx
from playwright.sync_api import expect

from tests.browser.keys import Hands
from tests.browser.steps import prepare, sheet


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
    marks = [row["mark"] for row in httpx.get(f"{office.url}/api/rounds/{number}/rows").json()["rows"]]
    assert marks == ["Sent", "Sent", "Ready", "Ready", "Sent", "Ready"]

    desk.get_by_role("button", name="3 still ready").click()
    expect(desk.get_by_role("gridcell", name="P1", exact=True)).to_have_count(0)
    desk.get_by_role("gridcell", name="P4", exact=True).click(modifiers=["ControlOrMeta"])
    desk.get_by_role("button", name="Send 1 chosen text").click()
    desk.get_by_role("button", name="Send 1 chosen text now").click()
    expect(desk.get_by_role("button", name="2 still ready")).to_be_visible()
    desk.get_by_role("button", name="Send the other 2 texts").click()
    expect(desk.get_by_role("dialog")).to_contain_text("none of them was sent before")
    desk.get_by_role("button", name="Send 2 texts now").click()
    expect(desk.get_by_test_id("what-happened")).to_contain_text("All 6 texts sent.")
    arrived = httpx.get(office.carrier_url).text
    assert all(arrived.count(f"Hello P{i}, berth") == 1 for i in range(1, 7))
