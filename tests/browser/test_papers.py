"""Papers over the page: what decides is in sight, the hand is inside, Escape leaves, and it is back where it was."""

import re

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.browser.keys import focused
from tests.browser.steps import bring_in, drop, sheet, write
from tests.servers import until

SIZES = [(1280, 800), (640, 400), (360, 740)]

IN_SIGHT = """() => {
    const it = document.activeElement, paper = it?.closest('[role=dialog]');
    if (!paper) return 'the hand is not in the paper';
    const within = (e) => { const r = e.getBoundingClientRect();
        return r.top >= -1 && r.left >= -1 && r.bottom <= innerHeight + 1 && r.right <= innerWidth + 1; };
    if (it !== paper && !within(it)) return `not in sight: ${it.textContent || it.getAttribute('aria-label')}`;
    for (const button of paper.querySelectorAll('.dialog-foot button'))
        if (!within(button)) return `not in sight: ${button.textContent}`;
    return document.documentElement.scrollWidth > innerWidth + 1 ? 'the page is wider than the window' : '';
}"""


def holds(page: Page, what: str) -> None:
    expect(page.get_by_role("dialog")).to_be_visible()
    until(lambda: page.evaluate(IN_SIGHT) == "", f"{what}: {page.evaluate(IN_SIGHT)}", 5)


@pytest.mark.parametrize("size", SIZES)
def test_every_paper_at_every_size(desk, office, size):
    number = bring_in(desk, office, sheet(30), "papers.csv")
    write(desk, "Hello ", "{First name}", ", ", "{Due}", " to pay.")
    expect(desk.get_by_role("button", name="Send 30 texts", exact=True)).to_be_visible()
    desk.set_viewport_size({"width": size[0], "height": size[1]})
    desk.keyboard.press("Alt+s")
    for key in ("F1", "Control+k", "Alt+b", "Alt+n"):
        before = focused(desk)
        desk.keyboard.press(key)
        holds(desk, key)
        desk.keyboard.press("Escape")
        expect(desk.get_by_role("dialog")).to_have_count(0)
        assert focused(desk) == before, key
    desk.keyboard.press("Alt+d")
    desk.keyboard.press("Enter")
    expect(desk.get_by_role("dialog")).to_contain_text("30 texts")
    expect(desk.get_by_role("button", name="Send 30 texts now")).to_be_visible()
    holds(desk, "the confirmation")
    desk.keyboard.press("Escape")
    expect(desk.get_by_role("dialog")).to_have_count(0)
    assert focused(desk).startswith("dock: Send 30")
    with httpx.Client(headers=office.own) as client:
        assert client.get(f"{office.url}/api/rounds/{number}").json()["stage"] == "preparing"


@pytest.mark.parametrize("size", SIZES)
def test_the_glance_with_three_questions(desk, office, size):
    desk.set_viewport_size({"width": size[0], "height": size[1]})
    desk.goto(office.url)
    expect(desk.get_by_text("Drop a CSV, TSV, XLSX, XLS or ODS file here")).to_be_visible()
    lines = ["Name,Mobile,Due,Paid on,Lift-out day,Due by"]
    lines += [
        f'P{i},902-555-01{i:02},"1,{i:03}",0{i % 9 + 1}/04/2026,0{i % 7 + 1}/05/2026,0{i % 6 + 1}/03/2026'
        for i in range(1, 30)
    ]
    drop(desk, "\n".join(lines) + "\n", "asked.csv")
    holds(desk, "the glance")
    assert desk.get_by_role("dialog").get_by_role("group", name=re.compile("^How is")).count() >= 3
    desk.keyboard.press("Escape")
    expect(desk.get_by_role("dialog")).to_have_count(0)


def test_pages_that_are_looked_at_are_left_by_escape(desk, office):
    number = bring_in(desk, office, sheet(3), "pages.csv")
    write(desk, "Hello ", "{First name}", ".")
    here = f"/rounds/{number}"
    for address, back in (
        (f"{here}/changes", here),
        (f"{here}/look/texts", f"{here}/look"),
        (f"{here}/look", here),
    ):
        desk.goto(office.url + address)
        expect(desk.locator("main")).to_be_visible()
        expect(desk.locator("[data-region]").first).to_be_visible()
        expect(desk.locator(":focus")).to_have_count(1)
        desk.keyboard.press("Escape")
        desk.wait_for_url(office.url + back)
        expect(desk.locator(":focus")).to_have_count(1)
    desk.goto(f"{office.url}{here}")
    expect(desk.get_by_role("button", name="Send 3 texts", exact=True)).to_be_enabled()
    desk.keyboard.press("Alt+d")
    desk.keyboard.press("Enter")
    desk.get_by_role("link", name="What is good practice").click()
    expect(desk.get_by_role("heading", name="Good practice")).to_be_visible()
    expect(desk.locator(":focus")).to_have_count(1)
    desk.keyboard.press("Escape")
    desk.wait_for_url(office.url + here)


def test_the_hand_stays_in_the_line_of_the_pace_that_it_changes(desk, office):
    bring_in(desk, office, sheet(3), "pace.csv")
    desk.get_by_role("button", name="hours, caps and more").click()
    paper = desk.get_by_role("dialog")
    for offer, without in (
        ("a rest after some texts", "the rest"),
        ("a cap of texts a day", "the cap"),
        ("hours within which texts may leave", "the hours"),
        ("a day and time to begin", "the later beginning"),
    ):
        add = paper.get_by_role("button", name=f"+ {offer}")
        add.focus()
        desk.keyboard.press("Enter")
        away = paper.get_by_role("button", name=f"Do without {without}")
        expect(away).to_be_visible()
        line = away.locator("xpath=ancestor::div[1]")
        expect(line.locator(":focus")).to_have_count(1)
        away.focus()
        desk.keyboard.press("Enter")
        expect(add).to_be_focused()
