"""The demo's round with its faults, by the keyboard: until all odd ones are seen and nothing is held by mistake."""

import re
import time

import httpx
import pytest
from playwright.sync_api import expect

from gentle_ledger.demo.seed import seed
from gentle_ledger.web.settings import Settings
from tests.browser.keys import Hands
from tests.servers import harbour

MINUTES = 3
# The class that no tariff knows, and the length that is no number: what the clerk would find out by a call.
MENDED = {48: (4, "B", "Class"), 41: (5, "8.5", "Length (m)")}


@pytest.fixture(scope="module")
def office(tmp_path_factory):
    folder = tmp_path_factory.mktemp("demo")
    seed(Settings(data=folder / "ledger.sqlite3"), folder / "carrier.sqlite3")
    with harbour(folder) as made:
        yield made


def row_read(page, before):
    """The row that is on the slip now, once it is another one than before."""
    head = page.get_by_role("heading", level=2)
    expect(head).to_contain_text(re.compile(rf"^Row (?!{before}\b)\d+ "))
    return int(re.match(r"Row (\d+)", head.inner_text()).group(1))


def test_the_round_with_its_faults_is_ready_within_three_minutes_without_a_mouse(desk, office):
    [number] = [
        r["id"]
        for r in httpx.get(f"{office.url}/api/rounds", headers=office.own).json()
        if r["title"] == "November berth dues"
    ]
    desk.goto(f"{office.url}/rounds/{number}")
    expect(desk.get_by_role("button", name="Held 5")).to_be_visible()
    began, hands = time.monotonic(), Hands(desk)
    hands.press("Alt+e")
    foot = desk.locator("footer")
    expect(foot).to_contain_text("14 odd ones left")
    row = row_read(desk, 0)
    for _ in range(40):
        held = desk.get_by_label("Texts to read").locator("[aria-current=true]").get_by_text("Held:").count()
        if row in MENDED and held:
            down, typed, column = MENDED[row]
            hands.press("e", *["ArrowDown"] * down, "Enter")
            hands.type(typed)
            hands.press("Enter")
            expect(desk.get_by_label("The row", exact=True)).to_contain_text(
                re.compile(rf"{re.escape(column)}\s*{typed}")
            )
            expect(desk.get_by_test_id("slip-text")).to_contain_text("Due=")
        elif held:
            hands.press("l")
            expect(
                desk.get_by_label("Texts to read").get_by_role("button", name=re.compile(rf"^{row}\b"))
            ).to_have_count(0)
            row = row_read(desk, row)
            continue
        left = foot.inner_text()
        hands.press("Space")
        expect(foot).not_to_have_text(left)
        if "odd ones are seen" in foot.inner_text():
            break
        row = row_read(desk, row)
    expect(foot).to_contain_text("odd ones are seen")
    assert time.monotonic() - began < MINUTES * 60
    # Each key with a glance of four seconds at what it brought.
    assert hands.count() * 4 < MINUTES * 60
    hands.press("Escape")
    expect(desk.get_by_role("button", name="Ready 54")).to_be_visible()
    found = httpx.get(f"{office.url}/api/rounds/{number}", headers=office.own).json()
    assert {c["mark"]: c["rows"] for c in found["counts"]} == {"Ready": 54, "Held": 0, "Left out": 4}
    said = httpx.get(f"{office.url}/api/rounds/{number}/confirmation", headers=office.own).json()
    assert (said["unseen_odd"], said["held"]) == (0, 0)
