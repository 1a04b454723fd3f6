"""How fast the rules and the sender are, each beside a bare floor measured in the same run (`make bench`)."""

import io
import sqlite3
from contextlib import closing

import phonenumbers
import pytest
import xlsxwriter
from python_calamine import CalamineWorkbook
from sqlalchemy import create_engine, text

from gentle_ledger.core.columns.readings import Readings
from gentle_ledger.core.pace.decide import now_at
from gentle_ledger.core.recipe.model import ColumnSettings, ConditionalWording, Recipe
from gentle_ledger.core.recipe.pace import HoursSettings, PaceSettings
from gentle_ledger.core.rounds.ahead import ahead_as_csv, run_ahead
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.rounds.slip import slip_of
from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.core.wording.composer import Composer
from gentle_ledger.sending.sender import Sender
from gentle_ledger.store.database import Database
from gentle_ledger.store.history import Span, history_of_numbers
from gentle_ledger.store.rounds import add_round
from tests.bench.sheets import HEADER, WORDING, as_csv, rows
from tests.sending.world import START, CountingCarrier, HandClock, World

SIZES = (10_000, 100_000)
RECIPE = Recipe(wording=WORDING)


@pytest.fixture(scope="module", params=SIZES)
def workbook(request):
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"strings_to_urls": False, "constant_memory": True}) as book:
        page = book.add_worksheet()
        for r, row in enumerate((HEADER, *rows(request.param))):
            page.write_row(r, 0, row)
    return request.param, out.getvalue()


def as_sheet(n):
    return bring_in(as_csv(n), "a.csv").sheet


def test_bring_in(benchmark, workbook, tmp_path_factory):
    """Read, check, store, recognise roles and tidy every number."""
    n, data = workbook
    database = Database(tmp_path_factory.mktemp("bench") / "l.sqlite3")
    database.migrate()

    def bring():
        sheet = bring_in(data, "a.xlsx").sheet
        with database.writing() as session:
            add_round(session, sheet, RECIPE, "a.xlsx", None, START)
        readings = Readings(sheet)
        readings.recognised(RECIPE)
        return readings.numbers(2, RECIPE).whole()

    assert len(benchmark.pedantic(bring, rounds=2)) == n


def test_bring_in_floor(benchmark, workbook, tmp_path_factory):
    """calamine + phonenumbers + one insert, and nothing else."""
    n, data = workbook
    engine = create_engine(f"sqlite:///{tmp_path_factory.mktemp('floor') / 'f.sqlite3'}")

    def floor():
        grid = CalamineWorkbook.from_filelike(io.BytesIO(data)).get_sheet_by_index(0).to_python()[1:]
        kept = []
        for row in grid:
            number = phonenumbers.parse(row[2], "CA")
            phonenumbers.number_type(number)
            e164 = phonenumbers.format_number(number, phonenumbers.PhoneNumberFormat.E164)
            kept.append({"a": e164, "b": "\t".join(row)})
        with engine.begin() as connection:
            connection.execute(text("CREATE TABLE IF NOT EXISTS r (a, b)"))
            connection.execute(text("INSERT INTO r VALUES (:a, :b)"), kept)
        return kept

    assert len(benchmark.pedantic(floor, rounds=2)) == n


@pytest.mark.parametrize("n", SIZES)
def test_compute_all_rows_after_a_keystroke(benchmark, n):
    sheet = as_sheet(n)
    readings = Readings(sheet)
    compute_round(sheet, RECIPE, readings=readings)
    other = RECIPE.model_copy(update={"wording": WORDING + "!"})
    assert len(benchmark.pedantic(lambda: compute_round(sheet, other, readings=readings), rounds=3)) == n


@pytest.mark.parametrize("n", SIZES)
def test_compute_floor(benchmark, n):
    """`str.format_map` over the same rows."""
    dicts = [dict(zip(HEADER, row, strict=True)) for row in rows(n)]
    assert len(benchmark(lambda: [WORDING.format_map(row) for row in dicts])) == n


def test_keystroke_to_slip(benchmark):
    sheet = as_sheet(10_000)
    readings = Readings(sheet)
    slip_of(Composer(readings, RECIPE), 0)
    typed = iter(range(10_000_000))

    def keystroke():
        recipe = RECIPE.model_copy(update={"wording": f"{WORDING}{next(typed)}"})
        return slip_of(Composer(readings, recipe), 5_000)

    assert benchmark(keystroke).whole


COMPUTING = Recipe(
    wording="Hello {First name}, berth {Berth} has {To pay} to pay by {Due date}.",
    columns={"To pay": ColumnSettings(formula="ROUND({Length} * 14 + {Metered} * 0.31 + {Due}; 2)", format="money")},
)


def _changed(n):
    formula = f"ROUND({{Length}} * 14 + {{Metered}} * 0.31 + {{Due}} + {n}; 2)"
    return COMPUTING.with_column("To pay", ColumnSettings(formula=formula, format="money"))


@pytest.mark.parametrize("n", SIZES)
def test_compute_all_rows_after_a_changed_formula(benchmark, n):
    sheet = as_sheet(n)
    readings = Readings(sheet)
    compute_round(sheet, COMPUTING, readings=readings)
    typed = iter(range(1, 1_000))
    found = benchmark.pedantic(lambda: compute_round(sheet, _changed(next(typed)), readings=readings), rounds=3)
    assert found.texts[0].startswith("Hello P0, berth B0 has $")


FOUR = Recipe(
    title="November dues",
    sender="Saltmarsh Quay",
    wording=f"{WORDING} Saltmarsh Quay",
    wordings=tuple(
        ConditionalWording(name=f"over {most}", when=f"{{Metered}} > {most}", text=f"{most}: {WORDING} Saltmarsh Quay")
        for most in (120, 80, 40)
    ),
)


@pytest.mark.parametrize("n", SIZES)
def test_findings_after_a_changed_wording_of_four(benchmark, n):
    """All rows, each by its own wording, and every check: 400 ms for 10,000 rows and 4 s for 100,000 at the most."""
    sheet = as_sheet(n)
    readings = Readings(sheet)
    compute_round(sheet, FOUR, readings=readings)
    typed = iter(range(1_000))

    def changed():
        recipe = FOUR.model_copy(update={"wording": f"{FOUR.wording}{next(typed)}"})
        return compute_round(sheet, recipe, readings=readings)

    found = benchmark.pedantic(changed, rounds=3)
    assert len(found.texts) == n
    assert {found.wording_name(row) for row in range(200)} == {"over 120", "over 80", "over 40", None}


@pytest.mark.parametrize("n", SIZES)
def test_four_wordings_floor(benchmark, n):
    """The same texts made plainly: a choice by number and `str.format_map`, with nothing looked at."""
    dicts = [dict(zip(HEADER, row, strict=True)) for row in rows(n)]
    texts = [*((int(each.name[5:]), each.text) for each in FOUR.wordings), (-1, FOUR.wording)]

    def plainly():
        chosen = (next(text for most, text in texts if int(row["Metered"]) > most).format_map(row) for row in dicts)
        return list(chosen)

    assert len(benchmark.pedantic(plainly, rounds=3)) == n


@pytest.mark.parametrize("n", SIZES)
def test_how_odd_all_rows_are(benchmark, n):
    """What the look puts in order: made once for each change, when it is opened."""
    sheet = as_sheet(n)
    readings = Readings(sheet)
    made = benchmark.pedantic(
        lambda found: found.oddness, setup=lambda: ((compute_round(sheet, FOUR, readings=readings),), {}), rounds=3
    )
    assert len(made) == n


@pytest.mark.parametrize("n", SIZES)
def test_compute_all_rows_after_a_changed_wording_over_formulas(benchmark, n):
    sheet = as_sheet(n)
    readings = Readings(sheet)
    compute_round(sheet, COMPUTING, readings=readings)
    typed = iter(range(1, 1_000))

    def change():
        wording = f"{COMPUTING.wording}{'!' * next(typed)}"
        return compute_round(sheet, COMPUTING.model_copy(update={"wording": wording}), readings=readings)

    assert len(benchmark.pedantic(change, rounds=3)) == n


def test_a_changed_formula_to_the_slip(benchmark):
    readings = Readings(as_sheet(10_000))
    slip_of(Composer(readings, COMPUTING), 0)
    typed = iter(range(1, 10_000_000))
    assert benchmark(lambda: slip_of(Composer(readings, _changed(next(typed))), 5_000)).whole


def test_hand_overs_without_a_pace(benchmark, tmp_path):
    """How many texts a second leave when the pace asks for none: two durable commits and one call each."""
    world = World(tmp_path, rows=90, pace=PaceSettings(every=0.1, give_or_take=0))

    def all_of_them():
        while world.sender.act() is not None:
            world.clock.passed += 1

    benchmark.pedantic(all_of_them, rounds=1)
    assert len(world.carrier.arrived) == 90


ENTRIES = 1_000_000


@pytest.fixture(scope="module")
def long_record(tmp_path_factory):
    """A ledger of a million texts, to 100,000 numbers, in the last 60 days."""
    database = Database(tmp_path_factory.mktemp("record") / "l.sqlite3")
    database.migrate()
    with database.writing() as session:
        run = session.connection().exec_driver_sql
        run(
            "INSERT INTO rounds (id, stage, recipe, columns, row_count, file_name, note, version, created_at) "
            "VALUES (1, 'finished', '{}', '[]', 1, 'a.csv', '', 1, '2026-01-01T00:00:00+00:00')"
        )
        run(
            "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ?) INSERT INTO messages "
            "(id, round_id, row, label, address, text, parts, mark, reason, may_retry, tries, marked_at, codes) "
            "SELECT i, 1, "
            "i, '', printf('+1902%07d', i % 100000), 'Hello, berth ' || i || ' has $186.40 to pay.', 1, 'Sent', '', 0, "
            "1, strftime('%Y-%m-%dT%H:%M:%f000+00:00', '2026-11-24', '-' || (i % 60) || ' days'), '[\"c14\"]' FROM n",
            (ENTRIES,),
        )
    yield database
    database.close()


def test_history_in_a_million_texts(benchmark, long_record):
    """What went to the numbers of a round of 1,000 rows, out of a million texts."""
    numbers = {f"+1902{i * 97 % 100_000:07}" for i in range(1_000)}

    def look():
        with long_record.reading() as session:
            return history_of_numbers(session, 2, numbers, Span(30, 7), START)

    assert len(benchmark.pedantic(look, rounds=3).texts) > 3_000


def test_history_in_a_million_texts_floor(benchmark, long_record):
    """The same rows fetched by the bare driver."""
    numbers = [f"+1902{i * 97 % 100_000:07}" for i in range(1_000)]

    def look():
        with closing(sqlite3.connect(long_record.path)) as connection:
            marks = ",".join("?" * len(numbers))
            wanted = f"SELECT address, text, codes, row FROM messages WHERE address IN ({marks}) AND marked_at >= ?"
            return connection.execute(wanted, [*numbers, "2026-10-25"]).fetchall()

    assert len(benchmark.pedantic(look, rounds=3)) > 3_000


def test_a_step_of_the_sender_in_a_million_texts(benchmark, long_record):
    """Looking for something to do, with nothing to do: what the sender does every second."""
    sender = Sender(long_record, CountingCarrier(HandClock()), HandClock())
    assert benchmark(sender.act) is None


@pytest.fixture(scope="module", params=SIZES)
def paced(request):
    recipe = Recipe(
        wording=WORDING,
        pace=PaceSettings(
            every=12,
            give_or_take=4,
            after=20,
            per_day=[50, 300],
            hours=HoursSettings(days=["Mon", "Fri"], holidays="CA-NS"),
        ),
    )
    return request.param, compute_round(as_sheet(request.param), recipe)


def test_a_forecast(benchmark, paced):
    """Every row's moment, with rests, a cap and hours by recipient."""
    texts, computed = paced
    ahead = benchmark.pedantic(lambda: run_ahead(computed, "America/Halifax", now_at(0.0, START)), rounds=2)
    assert len(ahead.forecast.planned) <= texts


def test_a_forecast_floor(benchmark, paced):
    """The moments of so many texts added up one after the other, and nothing asked."""
    texts, _ = paced

    def add_up():
        at, left = 0.0, []
        for _ in range(texts):
            left.append((at, None))
            at += 12.0
        return left

    assert len(benchmark.pedantic(add_up, rounds=2)) == texts


def test_the_lines_of_a_plan(benchmark, paced):
    """The forecast as `gentle-ledger plan` writes it, run ahead before."""
    _, computed = paced
    ahead = run_ahead(computed, "America/Halifax", now_at(0.0, START))
    assert benchmark.pedantic(lambda: ahead_as_csv(computed, ahead), rounds=2)
