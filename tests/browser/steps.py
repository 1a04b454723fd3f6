"""What a clerk does, in words the tests share."""

import re

import httpx
from playwright.sync_api import Locator, Page, expect

from tests.servers import Harbour


def sheet(rows: int, *special: tuple[int, str]) -> str:
    """A berth sheet; `special` gives rows (from 1) the last two digits of their numbers."""
    endings = dict(special)
    lines = ["First name,Mobile,Berth,Due"]
    lines += [f"P{i},902-555-01{endings.get(i, f'{i:02}')},D{i:02},{i}.50" for i in range(1, rows + 1)]
    return "\n".join(lines) + "\n"


def drop(page: Page, text: str, name: str) -> None:
    """Drops a file on the page, as a hand does with the mouse."""
    held = page.evaluate_handle(
        "([text, name]) => { const held = new DataTransfer(); held.items.add(new File([text], name)); return held; }",
        [text, name],
    )
    for event in ("dragover", "drop"):
        page.dispatch_event("main", event, {"dataTransfer": held})


def bring_in(page: Page, office: Harbour, text: str, name: str = "december-berths.csv") -> int:
    page.goto(office.url)
    expect(page.get_by_text("Drop a CSV, TSV, XLSX, XLS or ODS file here")).to_be_visible()
    drop(page, text, name)
    page.wait_for_url(re.compile(r"/rounds/\d+$"))
    expect(page.get_by_label("Wording", exact=True).first).to_be_visible()
    return int(page.url.rsplit("/", 1)[-1])


def write(page: Page, *pieces: str) -> None:
    """Types a wording; a piece in braces is chosen from the list of columns."""
    box = page.get_by_label("Wording", exact=True).and_(page.locator(".cm-content"))
    box.click()
    for piece in pieces:
        if piece.startswith("{"):
            page.keyboard.type("{" + piece[1:4])
            page.locator(".cm-tooltip-autocomplete li", has_text=piece[1:-1]).first.wait_for()
            page.keyboard.press("Enter")
        else:
            page.keyboard.type(piece)


def write_formula(page: Page, box: Locator, *pieces: str) -> None:
    """Types a formula; of a piece that begins with a bracket the first column of the list is taken."""
    box.click()
    for piece in pieces:
        page.keyboard.type(piece)
        if piece.startswith("{"):
            page.locator(".cm-tooltip-autocomplete li").first.wait_for()
            page.keyboard.press("Enter")


def prepare(page: Page, office: Harbour, text: str, every: float) -> int:
    """Brings a sheet in, words it, and sets the pace through the interface."""
    number = bring_in(page, office, text)
    write(page, "Hello ", "{First name}", ", berth ", "{Berth}", " has ", "{Due}", " to pay.")
    expect(page.get_by_test_id("slip-text").first).to_contain_text("berth D01 has $1.50 to pay.")
    pace = {"pace": {"every": every, "give_or_take": 0}}
    httpx.patch(f"{office.url}/api/rounds/{number}", json=pace, headers=office.own).raise_for_status()
    page.reload()
    expect(page.get_by_test_id("slip-text").first).to_contain_text("berth D01")
    return number


def send(page: Page, texts: int) -> None:
    page.get_by_role("button", name=f"Send {texts} texts", exact=True).click()
    expect(page.get_by_role("dialog")).to_contain_text("from Quay Office?")
    page.get_by_role("button", name=f"Send {texts} texts now").click()
    expect(page.get_by_label("Tally")).to_be_visible()


def open_menu(page: Page, item: str) -> None:
    page.get_by_role("button", name="Compute", exact=True).click()
    page.get_by_role("menuitem", name=item).click()
