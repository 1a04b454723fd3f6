"""Takes the pictures of `docs/screenshots/` from the demo's own data (`make screenshots`)."""

import os
import subprocess
import sys
import tempfile
from pathlib import Path

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
            take(page, url, f"http://127.0.0.1:{carrier_port}")
            browser.close()
        finally:
            program.terminate()
            program.wait(15)


def take(page: Page, url: str, carrier: str) -> None:
    def picture(name: str) -> None:
        page.wait_for_timeout(500)
        page.screenshot(path=PICTURES / f"{name}.png")

    page.goto(url)
    page.get_by_role("table").wait_for()
    picture("rounds")
    page.get_by_role("link", name="November berth dues").click()
    page.get_by_test_id("slip-size").first.wait_for()
    page.get_by_role("row").nth(16).click()
    picture("desk")
    page.get_by_title("Change what this column is for").nth(1).click()
    picture("column")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Send 53 texts").click()
    page.get_by_role("button", name="Send 53 texts now").wait_for()
    picture("confirmation")
    page.goto(url)
    page.get_by_role("link", name="Winter lift-out").click()
    page.get_by_role("button", name="Send 12 texts").click()
    page.get_by_role("button", name="Send 12 texts now").click()
    page.get_by_text("Failed 1").wait_for(timeout=60_000)
    page.get_by_role("row").nth(4).click()
    picture("sending")
    page.goto(url)
    page.get_by_role("link", name="October shore power").click()
    page.get_by_role("button", name="Failed 5").click()
    page.get_by_role("row").nth(3).click()
    picture("settled")
    page.goto(carrier)
    picture("carrier")


if __name__ == "__main__":
    main()
