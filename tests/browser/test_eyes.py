"""Any window, any eyes: every screen, dialog, menu and panel, as it is, in forced colours, and at 200%.

At 640 by 400 a window has what a screen of 1280 by 800 has at 200% (WCAG 2.2, 1.4.4 and 1.4.10). The faults are those
that axe-core finds.
"""

import re

import httpx
import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import expect

from tests.browser.steps import bring_in, drop, open_menu, send, sheet, write

KINDS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]
# Menus and papers hang from the end of the page, outside its landmarks: the list of rules has that as advice alone.
RULES = {"region": {"enabled": False}}


COLOURS = "color-contrast"


def faults(page, colours=None):
    """What axe-core, the accessibility engine, counts as moderate or worse; of colours alone, or of all but colours."""
    rules = {**RULES, **({COLOURS: {"enabled": False}} if colours is False else {})}
    found = Axe().run(page, options={"runOnly": [COLOURS] if colours else KINDS, "rules": rules}).response["violations"]
    return [(v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found if v["impact"] != "minor"]


def cut(page):
    """Buttons and fields that stand off the page, or whose words are cut; and whether the page moves to the side."""
    return page.evaluate("""() => {
        const wide = document.documentElement.scrollWidth > innerWidth;
        const off = [...document.querySelectorAll('button, input, select, a[href]')].filter(it => {
            const box = it.getBoundingClientRect();
            if (!box.width || it.closest('[role=grid], .sr-only') || it.type === 'file') return false;
            const scrolls = it.closest('[role=group], .overflow-auto, .overflow-x-auto');
            return !scrolls && (box.right > innerWidth + 1 || box.left < -1);
        }).map(it => it.textContent || it.getAttribute('aria-label'));
        return [wide, off];
    }""")


PREPARED: dict[str, str] = {}
"""The address of the round that most views are of, by that of its office: it is prepared once."""


def see_through(page):
    """Amounts that stay in sight over other columns, with no opaque ground: two amounts would stand in one place."""
    return page.evaluate("""() => [...document.querySelectorAll('.pinned')].filter(it => {
        const style = getComputedStyle(it);
        const solid = !/rgba\\(.*, 0(\\.\\d+)?\\)|transparent/.test(style.backgroundColor);
        return !solid && !style.backgroundImage.includes('rgb(240, 245, 234)');
    }).map(it => it.textContent)""")


def desk_of(page, office):
    if office.url in PREPARED:
        page.goto(PREPARED[office.url])
    else:
        prepare(page, office)
        PREPARED[office.url] = page.url
    expect(page.get_by_role("columnheader", name="With tax")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile(r"^Send \d texts$"))).to_be_enabled()


def prepare(page, office):
    text = sheet(6, (2, "95")).replace("902-555-0103", "902-555-01").replace("902-555-0105", "902-555-0104")
    number = bring_in(page, office, text, "eyes.csv")
    computed = {"name": "With tax", "formula": "{Due} * 1.15"}
    httpx.put(f"{office.url}/api/rounds/{number}/columns/computed", json=computed, headers=office.own)
    write(page, "Hi ", "{First name}", " ’", "{Due}")


def key(*keys):
    def opened(page, office):
        desk_of(page, office)
        page.keyboard.press("Alt+s")
        for each in keys:
            page.keyboard.press(each)

    return opened


def glance(page, office):
    page.goto(office.url)
    page.wait_for_load_state("networkidle")
    drop(page, "Dear clerk, thank you\nfor the letter, and\n", "letter.txt")
    expect(page.get_by_role("dialog")).to_contain_text("seems to have mobile numbers. Is this the right file?")


def sending(page, office, every=600):
    number = bring_in(page, office, sheet(4, (3, "95")).replace("902-", "204-" if every > 1 else "250-"), "going.csv")
    write(page, "Hi ", "{First name}")
    expect(page.get_by_test_id("slip-text").first).to_have_text("Hi P1")
    pace = {"pace": {"every": every, "give_or_take": 0}}
    httpx.patch(f"{office.url}/api/rounds/{number}", json=pace, headers=office.own)
    page.reload()
    send(page, 4)
    expect(page.get_by_test_id("next")).to_contain_text("row" if every > 1 else "Done.", timeout=20_000)


def pasting(page, office):
    desk_of(page, office)
    page.keyboard.press("Alt+s")
    page.evaluate("""() => {
        const data = new DataTransfer(); data.setData('text/plain', 'x\\ty');
        document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true}));
    }""")
    expect(page.get_by_role("dialog")).to_contain_text("Paste over what is there?")


def field_list(page, office):
    prepare(page, office)
    page.get_by_label("Wording", exact=True).and_(page.locator(".cm-content")).click()
    page.keyboard.type("{")
    page.locator(".cm-tooltip-autocomplete").wait_for()


def changes(page, office):
    desk_of(page, office)
    page.goto(f"{page.url}/changes")
    expect(page.get_by_role("listitem").first).to_be_visible()


def texts(page, office):
    desk_of(page, office)
    page.keyboard.press("Alt+e")
    page.get_by_label("Texts to read").wait_for()
    page.keyboard.press("v")
    page.get_by_label("Find in the texts").wait_for()


def to_myself(page, office):
    desk_of(page, office)
    page.keyboard.press("Alt+e")
    expect(page.get_by_label("Texts to read").locator("[aria-current=true]")).to_be_focused()
    expect(page.get_by_role("heading", level=2)).to_contain_text("Row ")
    page.keyboard.press("t")
    page.get_by_label("Your own mobile number").fill("902-555-0101")
    page.get_by_role("button", name="Send this text to me").click()
    expect(page.get_by_role("alert")).to_contain_text("is the number of row 1")


def rehearsal(page, office):
    desk_of(page, office)
    page.get_by_role("link", name="Rehearse").click()
    page.get_by_role("button", name=re.compile("^Rehearse")).click()
    expect(page.get_by_label("Texts handed over last")).to_contain_text("P6")


def beside(page, office):
    number = bring_in(page, office, sheet(5).replace("902-", "250-"), "again.csv")
    write(page, "Hello ", "{First name}", ", ", "{Due}")
    expect(page.get_by_test_id("slip-text").first).to_have_text("Hello P1, $1.50")
    page.goto(f"{office.url}/rounds/{number}/look/beside")
    expect(page.get_by_label("Rows beside last time")).to_contain_text("P5")


def some_sent(page, office):
    number = bring_in(page, office, sheet(4).replace("902-", "604-"), "some.csv")
    write(page, "Hi ", "{First name}")
    expect(page.get_by_test_id("slip-text").first).to_have_text("Hi P1")
    asked = {"rows": [2]}
    path, own = f"{office.url}/api/rounds/{number}", office.own
    seal = httpx.post(f"{path}/confirmation", json=asked, headers=own).json()["seal"]
    httpx.post(f"{path}/start", json={**asked, "seal": seal}, headers=own).raise_for_status()
    page.reload()
    expect(page.get_by_role("button", name="Send these 3 texts")).to_be_visible()


def drawer(page):
    page.get_by_role("button", name="Drawer").click()
    page.get_by_role("button", name="Second reminder").click()


def wording_panel(page):
    page.get_by_role("button", name="For some rows").click()
    page.get_by_role("menuitem", name="Another wording").click()


VIEWS = {
    "rounds": lambda page, office: page.goto(office.url),
    "formulas": lambda page, office: page.goto(f"{office.url}/functions"),
    "glance": glance,
    "desk": desk_of,
    "range": key("Shift+Space", "Shift+ArrowDown"),
    "cell written in": key("Enter"),
    "finding": key("Alt+l", "Enter"),
    "rows chosen": key("ArrowLeft", "Shift+ArrowDown"),
    "column": lambda page, office: (desk_of(page, office), page.get_by_title("Change what this column").first.click()),
    "set-up": lambda page, office: (desk_of(page, office), page.get_by_role("button", name="Canadian phone").click()),
    "field list": field_list,
    "compute": key("Alt+c"),
    "link": key("Alt+k"),
    "tables": key("Alt+t"),
    "combine": key("Alt+o", "Enter"),
    "rules": key("Alt+u"),
    "wording for some rows": lambda page, office: (desk_of(page, office), wording_panel(page)),
    "drawer": lambda page, office: (desk_of(page, office), drawer(page)),
    "weight": lambda page, office: (desk_of(page, office), page.get_by_title("What the texts weigh").click()),
    "checks": lambda page, office: (desk_of(page, office), page.get_by_role("button", name="What is checked").click()),
    "the look": key("Alt+e"),
    "one to myself": to_myself,
    "all texts": texts,
    "rehearsal": rehearsal,
    "texts to print": lambda page, office: (
        texts(page, office),
        page.get_by_role("button", name="A page to print").click(),
    ),
    "good practice": lambda page, office: page.goto(f"{office.url}/good-practice"),
    "no more texts": lambda page, office: page.goto(f"{office.url}/no-more-texts"),
    "compute menu": lambda page, office: (desk_of(page, office), open_menu(page, "Make a link")),
    "save menu": key("Control+s"),
    "undo list": key("Alt+z"),
    "pace": key("Alt+p", "Enter"),
    "numbers": key("Alt+n"),
    "newer": key("Alt+b"),
    "pasting": pasting,
    "palette": key("Control+k"),
    "keys": key("F1"),
    "confirmation": key("Alt+d", "Enter"),
    "settled": lambda page, office: sending(page, office, every=0.1),
    "beside last time": beside,
    "some sent": some_sent,
    "changes": changes,
    # The last one: its long gap is kept by the line, whatever round comes after it.
    "sending": sending,
}


@pytest.mark.parametrize("view", VIEWS)
def test_every_view_for_any_eyes(desk, office, view):
    VIEWS[view](desk, office)
    desk.wait_for_timeout(400)
    # What is counted again is paler for as long as that takes.
    expect(desk.locator("[aria-busy=true]")).to_have_count(0)
    assert faults(desk) == []
    assert see_through(desk) == []
    desk.emulate_media(forced_colors="active")
    assert faults(desk, colours=True) == []
    assert see_through(desk) == []
    desk.emulate_media(forced_colors="none")
    desk.set_viewport_size({"width": 640, "height": 400})
    desk.wait_for_timeout(200)
    assert cut(desk) == [False, []]
    assert faults(desk, colours=False) == []
