"""The marked sheet brought in again, in whatever state it comes back: who was texted is not ready, the others are."""

import csv
import io
import random

import pytest
import xlsxwriter

from tests.web.office import WORDING

NAMES = ("Ines", "Bo", "Ada", "Cy", "Dot")
SHEET = "First name,Mobile,Berth,Due\n" + "".join(
    f"{name},902-555-01{20 + i},C{14 + i},{50 + i}.00\n" for i, name in enumerate(NAMES)
)
WENT = {"Bo", "Cy"}


def without(*names):
    def change(table, _rng):
        kept = [i for i, name in enumerate(table[0]) if name not in names]
        return [[row[i] for i in kept] for row in table]

    return change


def called(before, after):
    return lambda table, _rng: [[after if name == before else name for name in table[0]], *table[1:]]


def written_over(mark):
    def change(table, _rng):
        at, of = table[0].index("Mark"), [i for i, row in enumerate(table) if row[0] == "Bo"]
        return [[mark if c == at and r in of else cell for c, cell in enumerate(row)] for r, row in enumerate(table)]

    return change


def reordered(table, rng):
    order = rng.sample(range(len(table[0])), len(table[0]))
    return [[row[i] for i in order] for row in table]


def both(*changes):
    def change(table, rng):
        for each in changes:
            table = each(table, rng)
        return table

    return change


CHANGES = {
    "as it is": lambda table, _rng: table,
    "sorted": lambda table, rng: [table[0], *rng.sample(table[1:], len(table) - 1)],
    "filtered": lambda table, _rng: [row for row in table if row[0] != "Ines"],
    "columns in another order": reordered,
    "without references": without("Reference"),
    "without marks": without("Mark"),
    "without marks and times": without("Mark", "Time", "Reason"),
    "marks alone": without("Time", "Reason", "Reference", "Parts", "Text"),
    "references alone": without("Mark", "Time", "Reason", "Parts", "Text"),
    "texts alone": without("Mark", "Time", "Reason", "Parts", "Reference"),
    "mark called status": both(without("Time", "Reference", "Text"), called("Mark", "Status")),
    "mark called anything": both(without("Time", "Reference", "Text"), called("Mark", "Column5")),
    "a mark written over": written_over("called her"),
    "a mark taken away": written_over(""),
    "a mark and the reference gone": both(written_over("called her"), without("Reference", "Time")),
    "reference called otherwise": both(without("Mark", "Time"), called("Reference", "Ref no")),
}


@pytest.fixture
def sent(office):
    number = office.bring(SHEET)
    path = f"/api/rounds/{number}"
    office.call("PUT", f"{path}/wording", json={"wording": WORDING, "row": 1})
    rows = [NAMES.index(name) + 1 for name in sorted(WENT)]
    asked = office.call("POST", f"{path}/confirmation", json={"rows": rows})
    office.call("POST", f"{path}/start", json={"seal": asked["seal"], "rows": rows})
    office.run()
    return path


def saved(table, kind):
    """A table as another program writes it."""
    if kind == "xlsx":
        out = io.BytesIO()
        with xlsxwriter.Workbook(out) as book:
            page = book.add_worksheet()
            for r, row in enumerate(table):
                page.write_row(r, 0, row)
        return out.getvalue()
    out = io.StringIO(newline="")
    csv.writer(out, delimiter=";" if kind == "csv;" else ",", lineterminator="\n").writerows(table)
    return out.getvalue().encode("cp1252")


@pytest.mark.parametrize("kind", ["csv", "csv;", "xlsx"])
def test_no_row_that_was_sent_is_ready_again(office, sent, kind):
    marked = office.client.get(f"{sent}/marked-sheet.csv").content.decode("utf-8-sig")
    rng = random.Random(kind)
    for what, change in CHANGES.items():
        table = change(list(csv.reader(io.StringIO(marked))), rng)
        file = {"file": (f"back.{kind[:4].rstrip(';')}", saved(table, kind))}
        made = office.call("POST", "/api/rounds", 201, files=file)["id"]
        path = f"/api/rounds/{made}"
        office.call("PUT", f"{path}/wording", json={"wording": "{First name}, a word about {Berth}.", "row": 1})
        at = table[0].index("First name")
        stands = {row["cells"][at]["shown"]: row["mark"] for row in office.call("GET", f"{path}/rows")["rows"]}
        assert {name for name, mark in stands.items() if mark != "Ready"} == WENT, (what, stands)
