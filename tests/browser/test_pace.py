"""The pace and its forecast on the real screen: said, scheduled, taken back, and waited for."""

import re

import httpx
from playwright.sync_api import expect

from tests.browser.steps import prepare, sheet


def opened(desk):
    desk.get_by_role("button", name="hours, caps and more").click()
    return desk.get_by_role("dialog", name="The pace")


def pressed(paper, name):
    paper.get_by_role("button", name=name).click()


def filled(desk, value):
    field = desk.locator("input[data-first]:visible").last
    field.fill(value)
    field.press("Enter")


def test_the_pace_says_more_as_it_is_asked_and_the_forecast_follows(desk, office):
    prepare(desk, office, sheet(12), every=12)
    paper = opened(desk)
    expect(paper).to_contain_text("each stroke is a text")
    pressed(paper, "+ a cap of texts a day")
    paper.get_by_role("button", name="Texts a day: 300 a day").click()
    filled(desk, "5")
    paper.get_by_role("button", name=re.compile("Texts on the first days")).click()
    filled(desk, "2")
    expect(paper).to_contain_text("held up most by the cap of")
    # Two today, then five a day: as many strokes as texts, in the picture and in the table that is read out.
    expect(paper.locator("svg.forecast line.planned")).to_have_count(12)
    days = paper.get_by_role("table", name="When the texts leave").get_by_role("row")
    expect(days).to_have_count(4)
    assert [row.get_by_role("cell").first.inner_text() for row in days.all()[1:]] == ["2", "5", "5"]
    expect(paper).to_contain_text(re.compile(r"Row 1, .*: \d"))
    pressed(paper, "+ hours within which texts may leave")
    expect(paper.get_by_role("button", name="Texts leave from: 9:00")).to_be_visible()
    pressed(paper, "Do without the hours")
    pressed(paper, "Do without the cap")
    expect(paper.get_by_role("button", name="+ a cap of texts a day")).to_be_visible()
    desk.keyboard.press("Escape")
    expect(paper).to_have_count(0)


def test_a_scheduled_round_waits_in_sight_and_can_be_taken_back(desk, office):
    number = prepare(desk, office, sheet(3).replace("902-", "709-"), every=12)
    paper = opened(desk)
    pressed(paper, "+ a day and time to begin")
    expect(desk.get_by_role("button", name="Schedule 3 texts")).to_be_visible()
    desk.keyboard.press("Escape")
    expect(desk.get_by_role("grid").get_by_role("row").nth(1)).to_contain_text(re.compile(r"Ready \w+ 9:00"))
    expect(desk.get_by_test_id("leaves")).to_contain_text("not sooner because of the moment the round begins")
    desk.get_by_role("button", name="Schedule 3 texts").click()
    desk.get_by_role("dialog").get_by_role("button", name="Schedule 3 texts").click()
    expect(desk.get_by_test_id("next")).to_have_text("Scheduled: begins tomorrow 9:00.")
    desk.goto(office.url)
    line = desk.get_by_role("row").filter(has_text=f"No. {number}")
    expect(line).to_contain_text("Scheduled for tomorrow 9:00")
    line.get_by_role("link").click()
    desk.get_by_role("button", name="Take back").click()
    expect(desk.get_by_role("button", name="Schedule 3 texts")).to_be_visible()
    assert httpx.get(f"{office.url}/api/rounds/{number}", headers=office.own).json()["stage"] == "preparing"
    assert not [number for number, _ in office.arrived() if number.startswith("+1709")]
