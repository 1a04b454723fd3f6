"""Bringing in: every form a sheet comes in, and every refusal a sentence."""

import csv
import io
import zipfile
from datetime import date, datetime
from decimal import Decimal

import pytest
import xlsxwriter
from hypothesis import given, settings
from hypothesis import strategies as st

from gentle_ledger.core.cells.cell import is_blank
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.sheets.bring_in import Choice, bring_in
from gentle_ledger.core.sheets.model import MAX_BYTES, MAX_ROWS

MORNING = datetime(2026, 11, 30, 9, 30)  # noqa: DTZ001 - a cell has no zone
TEXT = "Name,Mobile\r\nZoë,902-555-0101\r\n"


def workbook(*pages, **options) -> bytes:
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd", **options}) as book:
        for name, rows in pages:
            page = book.add_worksheet(name)
            for r, row in enumerate(rows):
                for c, cell in enumerate(row):
                    page.write_string(r, c, cell) if isinstance(cell, str) else page.write(r, c, cell)
    return out.getvalue()


@pytest.mark.parametrize(
    "data",
    [
        TEXT.encode(),
        TEXT.encode("utf-8-sig"),
        TEXT.encode("utf-16"),
        TEXT.encode("utf-16-le"),
        TEXT.encode("cp1252"),
        TEXT.replace(",", ";").encode(),
        TEXT.replace(",", "\t").encode(),
        TEXT.replace("\r\n", "\n").encode(),
        ("\r\n" + TEXT + "\r\n,\r\n").encode(),
        TEXT.replace("\r\n", ",,\r\n").encode(),
        TEXT.replace("Zoë", '"Zoë"').encode(),
    ],
)
def test_text_files(data):
    sheet = bring_in(data, "dues.csv").sheet
    assert (sheet.columns, list(sheet.rows)) == (("Name", "Mobile"), [("Zoë", "902-555-0101")])


def test_a_column_may_be_called_by_its_year():
    assert bring_in(b"Name,2025,Q1 2026\nInes,1,2\n", "a.csv").sheet.columns == ("Name", "2025", "Q1 2026")


def test_quotes_line_ends_and_zeros_are_kept():
    sheet = bring_in(b'Berth,Note\r\n007,"two\r\nlines, a ""comma"""\r\n', "a.csv").sheet
    assert sheet.rows[0] == ("007", 'two\r\nlines, a "comma"')


def test_workbook_keeps_types():
    rows = [
        ("A", "B", "C", "D", "E"),
        ("007", 1.1 * 3, 19025550128.0, date(2026, 11, 30), True),
        (None, 0.1, 2, None, None),
    ]
    brought = bring_in(workbook(("First", rows), ("Second", [("X",), ("y",)])), "dues.xlsx")
    assert brought.worksheets == ("First", "Second")
    first, second = brought.sheet.rows
    assert first == ("007", Decimal("3.3"), Decimal(19025550128), date(2026, 11, 30), True)
    assert second == (None, Decimal("0.1"), Decimal(2), None, None)
    assert bring_in(
        workbook(("A", [("P",), ("q",)]), ("B", [("X",), ("y",)])), "d.xlsx", Choice("B")
    ).sheet.columns == ("X",)
    moment = bring_in(workbook(("T", [("When",), (MORNING,)])), "t.xlsx").sheet.rows[0][0]
    assert moment == MORNING


def bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b"<x/>")
        archive.writestr("xl/worksheets/sheet1.xml", b"0" * 40_000_000)
    return out.getvalue()


def zipped(name: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr(name, b"hello")
    return out.getvalue()


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.csv", b"", "is empty"),
        ("a.csv", b" \r\n ", "is empty"),
        ("a.csv", b"Name,Mobile\n", "no rows"),
        ("a.csv", b"902-555-0101,Ines\n902-555-0102,Bo\n", "no column names"),
        ("a.csv", b"Ines,C14,186.40\nBo,C15,9.10\n", 'column 3 starts with "186.40"'),
        ("a.csv", b"1,2\n3,4\n", "no column names"),
        ("a.csv", b"Name,name\na,b\n", 'both called "name"'),
        ("a.csv", b"Name,,Mobile\na,b,c\n", "Column 2 has no name, but row 1"),
        ("a.csv", b"Name,Mobile\na,b\nc,d,e\n", "Row 2 has 3 cells"),
        ("a.csv", b"A {b},C\n1,2\n", "curly brackets"),
        ("a.csv", b'A,B\n"open,2\n', "double quote"),
        ("a.csv", b"A\n" + b"1\n" * (MAX_ROWS + 1), "more than 200,000 rows"),
        ("a.csv", b"A\n" + b" " * MAX_BYTES, "at most 50 MB"),
        ("a.csv", b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR", "not a text file"),
        ("a.csv", b"%PDF-1.7 ...", "printed page"),
        ("a.csv", workbook(("S", [("A",), ("b",)])), "a workbook inside"),
        ("a.xlsx", TEXT.encode(), "named as an XLSX workbook"),
        ("a.xlsx", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "older or protected"),
        ("a.xlsx", b"PK\x03\x04 broken", "damaged"),
        ("a.xlsx", zipped("hello.txt"), "not a workbook"),
        ("a.xlsx", zipped("xl/workbook.xml"), "damaged"),
        ("a.xlsx", bomb(), "would unpack to"),
        ("a.pdf", b"%PDF", "not a kind of sheet"),
    ],
)
def test_refusals_are_sentences(name, data, says):
    with pytest.raises(SheetError) as refused:
        bring_in(data, name)
    assert says in refused.value.sentence
    assert refused.value.remedy


cells = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=12)


@settings(max_examples=60)
@given(st.lists(st.tuples(cells, cells), min_size=1, max_size=6), st.sampled_from(",;\t"))
def test_what_the_standard_writes_is_read_back(rows, separator):
    """RFC 4180, written by Python's own csv module with every cell quoted."""
    out = io.StringIO()
    writer = csv.writer(out, delimiter=separator, quoting=csv.QUOTE_ALL)
    writer.writerow(("One", "Two"))
    writer.writerow(("x", "y"))
    writer.writerows(rows)
    sheet = bring_in(out.getvalue().encode(), "a.csv").sheet
    read = [tuple(cell or "" for cell in row) for row in sheet.rows[1:]]
    assert read == [row for row in rows if not all(is_blank(cell) for cell in row)]
