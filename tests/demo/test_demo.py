"""The demo plays with fiction only, and shows what every screen needs."""

import csv
import io
import re
from collections import Counter
from datetime import date
from pathlib import Path

import pytest

from gentle_ledger.carrier.records import Records
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.columns.recognise import recognise_roles
from gentle_ledger.core.formulas.starting_points import STARTING_POINTS
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.demo import harbour
from gentle_ledger.demo.seed import sample_sheet, seed
from gentle_ledger.store.database import Database
from gentle_ledger.store.rounds import list_rounds, recipe_of
from gentle_ledger.web.settings import Settings
from tests.servers import Process, answers, free_port, until

SHEETS = {
    "november-berth-dues.csv": harbour.november,
    "november-berth-dues.xlsx": harbour.november_workbook,
    "october-berth-dues.csv": harbour.october,
    "winter-lift-out.xlsx": harbour.lift_out,
}


DUES = Recipe(
    as_of=date(2026, 11, 24),
    wording=harbour.DUES_WORDING,
    columns=harbour.DUES_COLUMNS,
    leave_out=harbour.DUES_RULES,
    lookups={"Tariff": harbour.TARIFF},
    countries=harbour.COUNTRIES,
)


@pytest.mark.parametrize("name", SHEETS)
def test_numbers_and_hosts_are_reserved_for_fiction(name):
    """555-0100 to 555-0199 (North American Numbering Plan) and .example (RFC 2606)."""
    sheet = bring_in(SHEETS[name](), name).sheet
    mobile = sheet.position("Mobile")
    for row in sheet.rows:
        digits = re.sub(r"\D", "", as_written(row[mobile])).removeprefix("1")
        if digits:
            assert re.fullmatch(r"(902|506|782|709|207)55501\d\d?", digits)
        for cell in row:
            for host in re.findall(r"https?://([^/\s]+)", as_written(cell)):
                assert host.endswith(".example")


@pytest.mark.parametrize("name", ["november-berth-dues.csv", "november-berth-dues.xlsx", "winter-lift-out.xlsx"])
def test_sample_sheets_are_what_the_harbour_writes(name):
    shipped, made = (bring_in(data, name).sheet for data in (sample_sheet(name), SHEETS[name]()))
    assert (shipped.columns, list(shipped.rows)) == (made.columns, list(made.rows))


def test_november_has_the_faults_real_sheets_have():
    computed = compute_round(bring_in(harbour.november(), "a.csv").sheet, DUES)
    found = Counter(finding.check for finding in computed.findings)
    assert set(found) >= {
        "number",
        "unreadable",
        "counted blank",
        "alphabet",
        "same number",
        "unusual",
        "longer",
    }
    reasons = " ".join(computed.reason(row) for row in range(len(computed)))
    faults = ("one digit short for Canada", "landline", "no mobile number", "Tariff has nothing for 'D'", "ask Hamish")
    for fault in faults:
        assert fault in reasons
    assert len(computed.ready) > 45


def test_the_sample_computes_the_same_from_either_file():
    by_text, by_book = (
        compute_round(bring_in(data, name).sheet, DUES)
        for data, name in ((harbour.november(), "a.csv"), (harbour.november_workbook(), "a.xlsx"))
    )
    assert by_text.texts == by_book.texts
    assert by_text.marks == by_book.marks


def test_the_way_described_leads_to_the_demo_round():
    described = (Path(__file__).parents[2] / "docs" / "november.md").read_text("utf-8")
    for settings in harbour.DUES_COLUMNS.values():
        for piece in (settings.formula, settings.template, settings.fallback):
            assert piece is None or piece in described
    assert all(f"`{key}` {value}" in described for key, value in harbour.TARIFF.items())
    assert harbour.DUES_WORDING.splitlines()[0] in described
    sheet = bring_in(harbour.november(), "a.csv").sheet
    marks = Counter(compute_round(sheet, DUES).marks)
    assert (marks["Ready"], marks["Held"], marks["Left out"]) == (52, 5, 1)
    assert "52 texts are ready. 5 rows are held" in described
    rows = [list(row) for row in sheet.rows]
    rows[40][sheet.columns.index("Length (m)")], rows[47][sheet.columns.index("Class")] = "8.5", "B"
    mended = compute_round(Sheet(sheet.columns, [tuple(row) for row in rows]), DUES)
    assert (mended.marks[40], mended.marks[47]) == ("Ready", "Ready"), "as the last lines promise"
    points = {point.key: point for point in STARTING_POINTS}
    late = points["late percent"].filled(sheet.columns, recognise_roles(sheet, "CA", "en-CA"))
    assert late == harbour.DUES_COLUMNS["Late charge"].formula


def test_the_small_round_takes_half_a_minute():
    recipe = Recipe(wording=harbour.LIFT_WORDING, countries=harbour.COUNTRIES)
    computed = compute_round(bring_in(harbour.lift_out(), "a.xlsx").sheet, recipe)
    assert len(computed.ready) == len(computed) == 12


def test_seeding_makes_three_rounds_once(tmp_path):
    settings = Settings(data=tmp_path / "l.sqlite3")
    for _ in range(2):
        seed(settings, tmp_path / "c.sqlite3")
    database = Database(settings.data)
    with database.reading() as session:
        rounds = {recipe_of(found).title: (found.stage, counts) for found, counts in list_rounds(session)}
    database.close()
    assert {title: stage for title, (stage, _) in rounds.items()} == {
        "November berth dues": "preparing",
        "Winter lift-out": "preparing",
        "October berth dues": "finished",
    }
    records = Records(tmp_path / "c.sqlite3")
    arrived = len(records.arrived())
    records.close()
    assert rounds["October berth dues"][1] == {"Sent": arrived, "Failed": 5, "Held": 1}


def test_the_sheet_is_plain_rfc_4180():
    lines = list(csv.reader(io.StringIO(harbour.november().decode()), strict=True))
    assert len({len(line) for line in lines}) == 1


def test_the_demo_command_opens_both_and_leaves_no_carrier_behind(tmp_path):
    """However the demo ends, SIGKILL included, its carrier ends too and its port is free again."""
    port, carrier_port = free_port(), free_port()
    carrier = f"http://127.0.0.1:{carrier_port}"
    command = ("demo", "--data", str(tmp_path), "--port", str(port), "--carrier-port", str(carrier_port))
    demo = Process(*command, url=f"http://127.0.0.1:{port}/api/rounds").answering()
    until(lambda: answers(carrier), "the carrier")
    demo.kill()
    until(lambda: not answers(carrier), "the end of the carrier")
