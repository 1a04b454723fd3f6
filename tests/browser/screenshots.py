"""Takes the pictures of `docs/screenshots/` from the demo's own data (`make screenshots`)."""

import os
import re
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

from tests.servers import answers, free_port, until

PICTURES = Path(__file__).parents[2] / "docs" / "screenshots"


def main() -> None:
    port, carrier_port = free_port(), free_port()
    url = f"http://127.0.0.1:{port}"
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        command = [sys.executable, "-m", "gentle_ledger.cli", "demo", "--data", folder]
        command += ["--port", str(port), "--carrier-port", str(carrier_port)]
        program = subprocess.Popen(command, stdout=subprocess.DEVNULL, env=dict(os.environ))
        try:
            until(lambda: answers(f"{url}/api/rounds"), "the demo")
            args = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=args)
            page = browser.new_page(viewport={"width": 1280, "height": 800}, locale="en-CA")
            take(page, url, f"http://127.0.0.1:{carrier_port}", program)
            browser.close()
        finally:
            program.terminate()
            program.wait(15)


def take(page: Page, url: str, carrier: str, program: subprocess.Popen) -> None:
    preparing(page, url)
    computing(page, url)
    sending(page, url, program)
    page.goto(carrier)
    picture(page, "carrier")


def picture(page: Page, name: str) -> None:
    page.wait_for_timeout(500)
    page.screenshot(path=PICTURES / f"{name}.png")


def preparing(page: Page, url: str) -> None:
    page.goto(url)
    page.get_by_role("table").wait_for()
    picture(page, "rounds")
    page.get_by_role("link", name="November berth dues").click()
    page.get_by_test_id("slip-size").first.wait_for()
    page.get_by_role("row").nth(16).click()
    picture(page, "desk")
    page.get_by_role("columnheader", name="Due").last.get_by_role("button").click()
    page.get_by_text("2 rows have no value").wait_for()
    picture(page, "formula")
    page.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Sheet", exact=True).click()
    page.get_by_role("menuitem", name="Check the numbers").click()
    page.get_by_text("have no country code").click()
    picture(page, "numbers")
    page.keyboard.press("Escape")
    pacing(page, url)
    reading(page)
    page.get_by_role("link", name="Rehearse").click()
    page.get_by_role("button", name="Rehearse 52 texts").click()
    page.get_by_role("heading", name=re.compile("^3[0-9] taken")).wait_for(timeout=60_000)
    picture(page, "rehearsal")
    page.get_by_text("Rehearsed to the last text.").wait_for(timeout=60_000)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Send 52 texts").click()
    page.get_by_role("button", name="Send 52 texts now").wait_for()
    picture(page, "confirmation")


HOURS = {
    "from": "09:00",
    "to": "17:00",
    "days": ["Mon", "Tue", "Wed", "Thu", "Fri"],
    "where": "recipient",
    "holidays": "CA-NS",
}


def pacing(page: Page, url: str) -> None:
    """All that a pace can say, with its forecast; then it says as little as before."""
    number = httpx.get(f"{url}/api/rounds").json()[0]["id"]
    plain = httpx.get(f"{url}/api/rounds/{number}").json()["pace"]
    more = {"after": 10, "rest": 600, "per_day": [20, 25], "order": "-Due", "hours": HOURS}
    for pace in (plain | more, plain):
        change = httpx.patch(f"{url}/api/rounds/{number}", json={"pace": pace}, headers={"origin": url})
        change.raise_for_status()
        if pace is not plain:
            page.reload()
            page.get_by_role("button", name="4 more").click()
            page.get_by_text("held up most by").wait_for()
            picture(page, "pace")
    page.reload()
    page.get_by_role("button", name="hours, caps and more").wait_for()


def reading(page: Page) -> None:
    """The look, with a few texts read already, and all of them in a table."""
    page.keyboard.press("Alt+e")
    page.get_by_label("Texts to read").wait_for()
    for row in (48, 37, 3, 12, 41):
        page.get_by_role("heading", name=f"Row {row} ").wait_for()
        page.keyboard.press("Space")
    page.get_by_role("heading", name="Row 25 ").wait_for()
    picture(page, "look")
    page.keyboard.press("b")
    page.get_by_label("Rows beside last time").wait_for()
    picture(page, "beside")
    page.keyboard.press("Escape")
    page.get_by_label("Texts to read").wait_for()
    page.keyboard.press("Escape")
    page.get_by_role("group", name="Wordings").wait_for()
    page.get_by_role("button", name="Drawer").click()
    page.get_by_role("button", name="Second reminder").click()
    picture(page, "drawer")
    page.get_by_role("button", name="Close").click()


def computing(page: Page, url: str) -> None:
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Compute", exact=True).click()
    page.get_by_role("menuitem", name="Combine rows of one person").click()
    page.get_by_role("button", name="Combine rows with the same Mobile").click()
    for column, how in (("First name", "first"), ("Berth", "listed"), ("Due", "sum")):
        page.get_by_label(f"{column} in the text").select_option(how)
        page.wait_for_timeout(400)
    page.get_by_placeholder("Find in rows").fill("207-555-0136")
    page.get_by_text("Kofi").first.click()
    picture(page, "combine")
    page.get_by_role("button", name="Do not combine").click()
    page.get_by_role("button", name="Close").click()
    page.get_by_role("textbox", name="Wording").click()
    page.keyboard.press("Control+End")
    page.keyboard.insert_text(" Thank you.")
    page.wait_for_timeout(500)
    page.keyboard.press("Control+z")
    page.wait_for_timeout(500)
    page.get_by_role("button", name="Save or remove").click()
    page.get_by_role("menuitem", name="See what was changed").click()
    page.get_by_role("listitem").first.wait_for()
    picture(page, "changes")
    page.get_by_role("link", name="Formulas").click()
    page.get_by_role("article").first.wait_for()
    picture(page, "functions")
    asked(page, url)


def asked(page: Page, url: str) -> None:
    """A sheet that contradicts itself: the question at the glance is left for the desk."""
    lines = ["Saltmarsh Quay,,,,", "First name,Mobile,Berth,Due,Due date"]
    cells = [("1,234", "05/11/2026"), ("1,180", "06/11/2026"), ("12,50", "13/11/2026"), ("7", "2026-11-30")]
    names = ("Ines", "Bo", "Farida", "Tobias")
    for i, (name, (due, day)) in enumerate(zip(names, cells, strict=True)):
        lines.append(f'{name},902-555-01{20 + i},C{10 + i},"{due}",{day}')
    page.goto(url)
    page.get_by_label("Sheet file").set_input_files(
        {"name": "two-offices.csv", "mimeType": "text/csv", "buffer": "\n".join(lines).encode()}
    )
    page.get_by_role("button", name="day first").click()
    picture(page, "bring-in")
    page.get_by_role("button", name="Bring in 4 rows").click()
    page.get_by_role("textbox", name="Wording").click()
    page.keyboard.insert_text("Hello {First name}, berth {Berth}: {Due} is due by {Due date}. Saltmarsh Quay office")
    page.get_by_role("region", name="Columns in question").wait_for()
    picture(page, "questions")


def carriers_of(program: subprocess.Popen) -> list[int]:
    """The carrier that the demo started, by its process number."""
    found = subprocess.run(
        ["pgrep", "-P", str(program.pid), "-f", "gentle_ledger.cli carrier"], capture_output=True, text=True, check=True
    )
    return [int(number) for number in found.stdout.split()]


def sending(page: Page, url: str, program: subprocess.Popen) -> None:
    page.goto(url)
    page.get_by_role("link", name="Winter lift-out").click()
    page.get_by_role("button", name="Send 12 texts").click()
    page.get_by_role("button", name="Send 12 texts now").click()
    page.get_by_role("button", name="Failed 1", exact=True).wait_for(timeout=60_000)
    page.get_by_role("row").nth(4).click()
    picture(page, "sending")
    page.goto(url)
    page.get_by_role("link", name="November berth dues").click()
    page.get_by_role("button", name="Seconds between two texts").click()
    page.get_by_role("textbox", name="Seconds between two texts").fill("2")
    page.get_by_role("button", name="Set", exact=True).click()
    page.get_by_role("button", name="Send 52 texts").click()
    page.get_by_role("button", name="Send 52 texts now").click()
    page.get_by_role("heading", name=re.compile("^([4-9]|1[0-9]) sent")).wait_for(timeout=60_000)
    for carrier in carriers_of(program):
        os.kill(carrier, signal.SIGSTOP)
    page.get_by_text("No row is lost by it").wait_for(timeout=30_000)
    picture(page, "outage")
    for carrier in carriers_of(program):
        os.kill(carrier, signal.SIGCONT)
    page.goto(url)
    page.get_by_role("link", name="October berth dues").click()
    page.get_by_role("button", name="Failed 5").click()
    page.get_by_role("row").nth(3).click()
    picture(page, "settled")


if __name__ == "__main__":
    main()
