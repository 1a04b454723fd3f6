"""Pulls the plug while somebody types: at most the last key is missing then, and none is in another cell.

A hand writes amounts into a column at ten keys a second. At a moment that chance chooses the program is killed, or
hangs, or the window is closed; then all is started, or opened, again, and the sheet is held against the keys that were
pressed.
"""

import random
import signal
import sys
import tempfile
import time
from collections import Counter
from contextlib import suppress
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests.servers import Harbour, harbour, let_in, until

TIMES = 500
ROWS = 12
KEYS_A_SECOND = 10
BEGINS = 2.0
"""Seconds after which the plug is pulled at the latest."""
WAYS = ("kill", "hang", "close", "close without the program")


def sheet() -> bytes:
    lines = ["First name,Mobile,Berth,Due"]
    lines += [f"P{i},902-555-01{i:02},D{i:02},{i}.50" for i in range(1, ROWS + 1)]
    return "\n".join(lines).encode()


def new_round(office: Harbour) -> int:
    with office.client() as client:
        made = client.post("/api/rounds", files={"file": ("berths.csv", sheet())}).raise_for_status()
        return int(made.json()["id"])


def opened(page: Page, office: Harbour, number: int) -> Page:
    page.goto(f"{office.url}/rounds/{number}")
    expect(page.locator("#cell-1-0")).to_be_visible(timeout=30_000)
    return page


class Hand:
    """Types one amount a row from the chosen row on, and knows which keys were pressed."""

    def __init__(self, page: Page, chance: random.Random) -> None:
        self.page = page
        self.first = chance.randint(1, 4)
        self.amounts = [f"{chance.randint(10, 999)}.{chance.randint(10, 99)}" for _ in range(ROWS - self.first + 1)]
        self.keys = [(row, key) for row, amount in self.rows() for key in [*amount, "Enter"]]
        self.pressed: list[tuple[int, str]] = []

    def rows(self):
        return enumerate(self.amounts, self.first)

    def begin(self) -> None:
        heads = self.page.locator("[data-head]").all_inner_texts()
        place = next(at for at, words in enumerate(heads) if words.split("\n")[-1] == "Due")
        self.page.locator(f"#cell-{self.first}-{place}").click()

    def type_for(self, seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end and len(self.pressed) < len(self.keys):
            row, key = self.keys[len(self.pressed)]
            self.page.keyboard.press(key)
            self.pressed.append((row, key))
            time.sleep(1 / KEYS_A_SECOND)

    def written(self, keys: list[tuple[int, str]]) -> dict[int, str]:
        """What stands in each row once these keys were pressed; what is still written in as far as it was."""
        found: dict[int, str] = {}
        for row, key in keys:
            if key != "Enter":
                found[row] = found.get(row, "") + key
        return found


def seen_in(page: Page, office: Harbour, number: int) -> dict[int, str]:
    """What the program has, and the cell that is still written in over it, once nothing waits to be kept."""
    until(lambda: page.locator(".not-kept").count() == 0, "that all is kept", 60)
    with office.client() as client:
        rows = client.get(f"/api/rounds/{number}/rows").json()["rows"]
        names = [each["name"] for each in client.get(f"/api/rounds/{number}").json()["columns"]]
    at = names.index("Due")
    found = {row["number"]: row["cells"][at]["typed"] or row["cells"][at]["shown"].lstrip("$") for row in rows}
    others = [[row["cells"][names.index(name)]["shown"] for name in ("First name", "Berth")] for row in rows]
    assert others == [[f"P{i}", f"D{i:02}"] for i in range(1, ROWS + 1)], f"another column was written in: {others}"
    box = page.locator("input[aria-label^='Due of row']")
    if box.count():
        found[int(box.get_attribute("aria-label").rpartition(" ")[2])] = box.input_value()
    return found


def trial(office: Harbour, browser: Browser, chance: random.Random) -> tuple[str, str]:
    """One time; how the plug was pulled, and what became of it: "all there", "a key missing", or what was wrong."""
    way = chance.choice(WAYS)
    name, cookie, value = let_in(office.url, office.ledger)
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    context.add_cookies([{"name": name, "value": cookie, "url": office.url, "httpOnly": True, "sameSite": "Strict"}])
    context.add_init_script(f"localStorage.setItem('gentle-ledger-value', '{value}')")
    number = new_round(office)
    page = opened(context.new_page(), office, number)
    hand = Hand(page, chance)
    hand.begin()
    hand.type_for(chance.uniform(0, BEGINS))
    if way == "hang":
        office.program.process.send_signal(signal.SIGSTOP)
        hand.type_for(chance.uniform(0.2, 1.5))
        office.program.process.send_signal(signal.SIGCONT)
        hand.type_for(chance.uniform(0, 0.5))
    elif way != "close":
        office.program.kill()
        hand.type_for(chance.uniform(0, 1.5))
    if way.startswith("close"):
        page.close()
    if way in ("kill", "close without the program"):
        office.start()
    if way.startswith("close"):
        page = opened(context.new_page(), office, number)
    else:
        hand.type_for(chance.uniform(0, 0.5))
    began = {i: f"{i}.50" for i in range(1, ROWS + 1)}
    all_keys, but_one = ({**began, **hand.written(keys)} for keys in (hand.pressed, hand.pressed[:-1]))
    found = seen_in(page, office, number)
    with suppress(Exception):
        context.close()
    if found == all_keys:
        return way, "all there"
    return way, "a key missing" if found == but_one else f"WRONG: {found}, and not {all_keys}"


def main(times: int, seed: int) -> int:
    """So many times by one program; 1 where anything was wrong."""
    chance, came = random.Random(seed), Counter[tuple[str, str]]()
    with tempfile.TemporaryDirectory() as folder, harbour(Path(folder)) as office, sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox", "--disable-gpu"]
        )
        for each in range(times):
            way, what = trial(office, browser, chance)
            came[way, what] += 1
            if what.startswith("WRONG"):
                print(each, way, what, flush=True)
            elif each % 50 == 49:
                print(each + 1, dict(Counter(said for (_, said), n in came.items() for _ in range(n))), flush=True)
        browser.close()
    for (way, what), count in sorted(came.items()):
        print(f"{count:5} {way}: {what}", flush=True)
    return int(any(what.startswith("WRONG") for _, what in came))


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else TIMES, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
