"""`gentle-ledger plan`: when each row would leave, and why not sooner, with bad input as in `compute`."""

import csv
import io
from datetime import datetime, timedelta

import pytest

from gentle_ledger.cli import main

SHEET = """Name,Mobile,Due,Remind on,Zone
Ann,902-555-0100,10.00,2026-11-27,
Bob,709-555-0101,20.00,2026-11-27 10:30,
Cy,416-555-0102,5.00,2026-11-26 09:00,
Di,902-555-0103,50.00,,
Gus,902-555-0106,7.50,2026-11-30 11:00,America/Chicago
"""
HOURS = '[pace.hours]\nfrom = "09:00"\nto = "17:00"\ndays = ["Mon", "Tue", "Wed", "Thu", "Fri"]\nholidays = "CA-NS"\n'
AT = "2026-11-26T16:00:00-04:00"


@pytest.fixture
def plan(tmp_path, monkeypatch, capfd):
    monkeypatch.setenv("GENTLE_LEDGER_ZONE", "America/Halifax")

    def run(pace, sheet=SHEET, at=AT, code=0):
        (tmp_path / "s.csv").write_text(sheet)
        (tmp_path / "r.toml").write_text(f'wording = "Hi {{Name}}, {{Due}} is due."\n[pace]\n{pace}')
        out = tmp_path / "plan.csv"
        given = ["plan", str(tmp_path / "s.csv"), "--recipe", str(tmp_path / "r.toml"), "--at", at, "--out", str(out)]
        assert main(given) == code
        said = capfd.readouterr().err
        if code:
            return said
        rows = list(csv.DictReader(io.StringIO(out.read_text(), newline="")))
        return [(row["mark"], row["planned_at"], row["why"]) for row in rows], said, rows

    return run


def test_each_row_has_its_zone_its_moment_with_that_offset_and_why(plan):
    found, said, rows = plan(f'every = 12\nat = "Remind on"\nzone = "Zone"\nlate = 120\n{HOURS}')
    assert found == [
        ("Ready", "2026-11-27T09:00:00-04:00", "its own moment"),
        ("Ready", "2026-11-27T10:30:00-04:00", "its own moment"),
        ("Ready", "", "left out: its own moment is over by more than 2 h 00 min"),
        ("Held", "", "Remind on is blank, so nobody can say when the text is to leave"),
        ("Ready", "2026-11-30T11:00:00-06:00", "its own moment"),
    ]
    assert [row["zone"] for row in rows] == [
        "America/Halifax",
        "America/Halifax America/St_Johns",
        "America/Toronto",
        "America/Halifax",
        "America/Chicago",
    ]
    assert rows[0]["number"] == "+19025550100"
    assert "1 text will be left out: more than 120 min after its moment." in said
    assert list(rows[0]) == ["row", "mark", "number", "zone", "planned_at", "why"]


def test_a_moment_with_an_offset_is_that_moment_wherever_its_recipient_is(plan):
    sheet = SHEET.splitlines()[0] + "\nHal,416-555-0107,5,2026-11-27T15:30:00Z,\nIda,416-555-0108,5,2026-11-27 15:30,\n"
    found, _, _ = plan(f'every = 12\nat = "Remind on"\n{HOURS}', sheet)
    assert [at for _, at, _ in found] == ["2026-11-27T10:30:00-05:00", "2026-11-27T15:30:00-05:00"]


def test_draws_are_zero_the_first_has_no_why_and_the_order_decides(plan):
    found, _, _ = plan('every = 12\ngive_or_take = 4\norder = "-Due"\n')
    begin = datetime.fromisoformat(AT)
    order = sorted(range(5), key=lambda row: -[10, 20, 5, 50, 7.5][row])
    for place, row in enumerate(order):
        assert datetime.fromisoformat(found[row][1]) == begin + timedelta(seconds=12 * place)
        assert found[row][2] == ("the pace" if place else "")


def test_a_cap_that_makes_the_round_last_for_weeks_is_said(plan):
    sheet = "Name,Mobile,Due\n" + "".join(f"P{n},902-555-01{n:02},5\n" for n in range(40))
    found, said, _ = plan("every = 1\nper_day = 1\n", sheet)
    assert [at[:10] for _, at, _ in found][:3] == ["2026-11-26", "2026-11-27", "2026-11-28"]
    assert {why for _, _, why in found[1:]} == {"the cap of 1 a day"}
    assert "The round lasts 5 weeks: the cap of 1 a day holds it up most." in said


@pytest.mark.parametrize(
    ("pace", "at", "says"),
    [
        ("every = 12\n", "2026-11-26T16:00:00", "has no offset from UTC"),
        ("every = 12\n", "soon", "is not a moment"),
        ('every = 12\nat = "Owed on"\n', AT, 'The pace goes by a column "Owed on" that the sheet lacks.'),
        ('every = 12\norder = "-Owed"\n', AT, 'The pace goes by a column "Owed" that the sheet lacks.'),
        ('every = 12\n[pace.hours]\nfrom = "18:00"\n', AT, "never come"),
    ],
)
def test_bad_input_is_said_in_a_sentence(plan, pace, at, says):
    assert says in plan(pace, at=at, code=2)
