"""What asks to be looked at on the real screen: a copy that was put back, and texts of which nobody can say a thing."""

import sqlite3
from contextlib import closing

import httpx
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from gentle_ledger.store.key import read_key
from gentle_ledger.web.keyring import Keyring
from tests.browser.steps import prepare, send, sheet

WHY = "An older copy of the ledger was put back: 1 text of December berths went, or may have gone, since it was made."


def doubt(office, number):
    """As a copy that was put back leaves it: the round at rest, and two rows that went by a line nobody knows here."""
    with closing(sqlite3.connect(office.folder / "ledger.sqlite3", timeout=20)) as ledger, ledger:
        ledger.execute("UPDATE rounds SET look_first = ?, version = version + 1 WHERE id = ?", (WHY, number))
        line = ledger.execute(
            "INSERT INTO lines (kind, name, identity, settings, abilities, draw, reason, failures, wait, asked, "
            "in_a_row, slowed) VALUES ('', '', ?, '{}', '{}', 0, '', 0, 0, 0, 0, 1)",
            (f"unknown {number}",),
        ).lastrowid
        for row in (2, 3):
            of = "(SELECT id FROM messages WHERE round_id = ? AND row = ?)"
            ledger.execute(
                "INSERT INTO attempts (message_id, line_id, reference, at, state, carrier_id, answer, beyond_proof) "
                f"VALUES ({of}, ?, ?, '2026-11-03T12:00:00.000000+00:00', 'open', '', '', 0)",
                (number, row, line, f"r{number}-{row}"),
            )
            ledger.execute(
                "UPDATE messages SET mark = 'Unsure', uncertain = 1 WHERE round_id = ? AND row = ?", (number, row)
            )


def test_a_copy_put_back_is_looked_at_and_what_nobody_can_say_is_settled_by_hand(desk, office):
    number = prepare(desk, office, sheet(4).replace("902-", "782-"), every=3600)
    send(desk, 4)
    expect(desk.get_by_label("Tally")).to_contain_text("1 sent", timeout=20_000)
    desk.get_by_role("button", name="Pause").click()
    expect(desk.get_by_role("button", name="Go on")).to_be_visible()
    doubt(office, number)
    expect(desk.get_by_label("Tally")).to_contain_text(WHY)
    expect(desk.get_by_role("button", name="I have looked: go on")).not_to_be_focused()
    settle = desk.get_by_label("What did not go")
    expect(settle).to_contain_text("2 unsure")
    assert Axe().run(desk).violations_count == 0
    settle.get_by_role("button", name="2 unsure").click()
    expect(desk.get_by_role("grid").get_by_role("row")).to_have_count(3)
    desk.get_by_role("grid").get_by_role("row").nth(1).click()
    settle.get_by_role("button", name="Settle by hand").click()
    paper = desk.get_by_role("dialog", name="Settle by hand")
    # What is said has to be known from somewhere.
    expect(paper.get_by_role("button", name="It went")).to_be_disabled()
    paper.get_by_label("How it is known").fill("Ada was asked")
    paper.get_by_role("button", name="It surely did not").click()
    expect(settle).to_contain_text("Said by hand not to have gone: Ada was asked · can be tried again")
    # Another window settles the other one.
    other = {"went": True, "reason": "stands on the carrier's page", "texts": 1, "rows": [3]}
    own = office.own
    httpx.post(f"{office.url}/api/rounds/{number}/settle", json=other, headers=own).raise_for_status()
    expect(settle).not_to_contain_text("unsure")
    expect(desk.get_by_label("Tally")).to_contain_text("2 sent")
    arrived = len(office.arrived())
    desk.get_by_role("button", name="I have looked: go on").click()
    expect(desk.get_by_role("button", name="Pause")).to_be_visible()
    expect(desk.get_by_label("Tally")).not_to_contain_text("older copy")
    assert len(office.arrived()) == arrived, "its gap is an hour"
    desk.get_by_role("button", name="Stop the round").click()
    desk.get_by_role("button", name="Stop the round now").click()
    desk.get_by_role("link", name="Rounds").click()
    expect(desk.get_by_role("link", name="Save a copy")).to_be_visible()
    with desk.expect_download() as saved:
        desk.get_by_role("link", name="Save a copy").click()
    with closing(sqlite3.connect(saved.value.path())) as copy:
        assert copy.execute("SELECT count(*) FROM messages WHERE mark = 'Sent'").fetchone()[0] >= 2


def test_a_browser_without_the_key_is_told_how_to_get_in_and_stays_in(office, browser):
    keyring = Keyring(read_key(office.ledger), office.port)
    with closing(browser.new_context()) as context:
        page = context.new_page()
        page.goto(f"{office.url}/functions")
        expect(page.get_by_role("main")).to_contain_text("type gentle-ledger address")
        code = keyring.new_code()
        for shown, said in ((code[:-1], "was used before"), ("", "was used before"), (code, None)):
            # Each in the same window, where nothing but the end of the address is another one.
            page.goto(f"{office.url}/in#{shown}")
            if said:
                expect(page.get_by_role("alert")).to_contain_text(said)
        expect(page).to_have_url(f"{office.url}/")
        expect(page.get_by_role("navigation", name="Main")).to_be_visible()
        page.goto(f"{office.url}/functions")
        expect(page.get_by_role("heading").first).to_be_visible()
        expect(page.get_by_text("no key")).to_have_count(0)
        # The cookie alone lets nobody change anything: what a page keeps for itself is gone.
        page.evaluate("localStorage.clear()")
        page.goto(office.url)
        expect(page.get_by_role("heading")).to_have_text("This window has no key")
