"""From the key to the slip on the real screen of a 10,000-row round (`make bench`).

Keys come at uneven times, so that many of them land while all rows are being counted anew. Beside each lot stands the
floor of the same minute: a bare request from the same page, answered by the same program without looking at a row.
"""

import random
import tempfile
from pathlib import Path

import httpx
from playwright.sync_api import Page, sync_playwright

from gentle_ledger.store.key import read_key
from gentle_ledger.web.keyring import Keyring
from gentle_ledger.web.way_in.router import address_with
from tests.bench.sheets import WORDING, as_csv
from tests.servers import Harbour, harbour

ROWS = 10_000
KEYS = 200
PROMISED = 100
"""Milliseconds from a key to its slip."""

WATCH = """
() => {
  const paper = () => document.querySelector('[data-testid=slip-text]').textContent;
  const [waiting, took] = [[], []];
  let typed = '#', row = 1;
  // The event's own time is when the browser got the key, before the page had its turn.
  addEventListener('keydown', (e) => {
    if (e.key.length === 1) typed += e.key;
    if (e.key === 'ArrowDown') row += 1;
    const now = `https://pay.saltmarsh.example/B${row - 1} ${typed}`;
    waiting.push({at: e.timeStamp, shows: (text) => text.includes(now)});
  }, true);
  new MutationObserver(() => {
    const text = paper();
    // A slip that shows a later key answers the earlier ones too.
    const last = waiting.findLastIndex((key) => key.shows(text));
    for (const key of waiting.splice(0, last + 1)) took.push(performance.now() - key.at);
  }).observe(document.body, {subtree: true, childList: true, characterData: true});
  window.keys = {waiting, took};
}
"""
BARE = """
async () => {
  const headers = {'Gentle-Ledger-Value': localStorage.getItem('gentle-ledger-value')};
  const at = performance.now();
  if (!(await fetch('/api/samples', {headers})).ok) throw new Error('not let in');
  return performance.now() - at;
}
"""


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, harbour(Path(folder)) as office, sync_playwright() as playwright:
        number = prepare(office)
        args = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=args)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address_with(office.url, Keyring(read_key(office.folder / "ledger.sqlite3"), office.port).new_code()))
        page.get_by_role("heading", name="Rounds").wait_for()
        page.goto(f"{office.url}/rounds/{number}")
        page.get_by_test_id("slip-text").wait_for(timeout=120_000)
        page.locator(".cm-content").click()
        page.keyboard.press("Control+End")
        page.keyboard.type("#")
        page.wait_for_timeout(3_000)
        page.evaluate(WATCH)
        print(f"key to slip, {ROWS:,} rows, {KEYS} keys each (ms)      median     95%   worst   over {PROMISED}")
        before = processor_time()
        report("typing", *press(page, lambda i: "abcdefghijklmnopqrstuvwxyz"[i % 26], 0.05, 0.7))
        page.get_by_role("grid").focus()
        report("stepping", *press(page, lambda _: "ArrowDown", 0.03, 0.25))
        used, withheld = (now - then for now, then in zip(processor_time(), before, strict=True))
        print(f"processor time that this machine's host withheld meanwhile: {withheld / (used + withheld or 1):.0%}")
        browser.close()


def processor_time() -> tuple[int, int]:
    """Ticks used, and ticks the host withheld ("steal", proc(5)); zeros where that is not told."""
    try:
        ticks = [int(n) for n in Path("/proc/stat").read_text().split("\n", 1)[0].split()[1:]]
    except OSError:
        return 0, 0
    return sum(ticks[:3]), ticks[7]


def prepare(office: Harbour) -> int:
    """Brings the sheet in and words it through the interface."""
    with httpx.Client(base_url=office.url, timeout=300, headers=office.own) as client:
        number = int(client.post("/api/rounds", files={"file": ("a.csv", as_csv(ROWS))}).json()["id"])
        client.put(f"/api/rounds/{number}/wording", json={"wording": f"{WORDING} ", "row": 1}).raise_for_status()
        client.get(f"/api/rounds/{number}").raise_for_status()
    return number


def press(page: Page, key, least: float, most: float) -> tuple[list[float], list[float], int]:
    """Presses KEYS keys with pauses between `least` and `most` seconds; the bare requests go between them."""
    rng = random.Random(5)
    page.evaluate("keys.took.length = keys.waiting.length = 0")
    bare = []
    for i in range(KEYS):
        page.keyboard.press(key(i))
        page.wait_for_timeout(rng.uniform(least, most) * 1000)
        if i % 4 == 3:
            bare.append(page.evaluate(BARE))
    page.wait_for_timeout(3_000)
    return page.evaluate("keys.took"), bare, page.evaluate("keys.waiting.length")


def report(what: str, took: list[float], bare: list[float], unanswered: int) -> None:
    for name, times in ((what, took), ("  a bare request beside it", bare)):
        times.sort()
        over = sum(ms > PROMISED for ms in times)
        at = (times[len(times) // 2], times[int(len(times) * 0.95)], times[-1])
        print(f"{name:<48} {at[0]:7.0f} {at[1]:7.0f} {at[2]:7.0f} {over:9}")
    if unanswered:
        print(f"  {unanswered} keys were never answered")


if __name__ == "__main__":
    main()
