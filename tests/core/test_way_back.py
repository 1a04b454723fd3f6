"""The marked sheet comes back as what it was, cell by cell, also where another program has saved it."""

import csv
import io

import pytest
import xlsxwriter
from hypothesis import given
from hypothesis import strategies as st
from python_calamine import CalamineWorkbook

from gentle_ledger.core.sheets.bring_in import bring_in
from gentle_ledger.core.sheets.export import MarkedRow, to_csv, to_xlsx

WRITERS = {"csv": to_csv, "xlsx": to_xlsx}
LETTERS = st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Cn", "Co", "Zl", "Zp"))
OPENINGS = ["=1+1", "-5 days", "+1 free?", "@gone", "'-5 days", "''=1", "'tis", "'12.50", "-12.50", "+19025550112"]
CELLS = st.sampled_from(OPENINGS) | st.text(LETTERS, min_size=1, max_size=12).filter(lambda text: text.strip())


def marked(cells):
    return [MarkedRow((cell,), "Sent", None, "", f"ref{i}", 1, "=Hello") for i, cell in enumerate(cells)]


def saved_anew(data, kind):
    """The same cells, written by another library, as an office suite would that opens the file and saves it."""
    if kind == "csv":
        out = io.StringIO(newline="")
        rows = csv.reader(io.StringIO(data.decode("utf-8-sig")))
        csv.writer(out, delimiter=";", quoting=csv.QUOTE_ALL).writerows(rows)
        return out.getvalue().encode()
    rows = CalamineWorkbook.from_filelike(io.BytesIO(data)).get_sheet_by_index(0).to_python()
    book = io.BytesIO()
    with xlsxwriter.Workbook(book, {"strings_to_formulas": False, "strings_to_urls": False}) as made:
        page = made.add_worksheet("Sheet1")
        for at, row in enumerate(rows):
            page.write_row(at, 0, row)
    return book.getvalue()


@pytest.mark.parametrize("kind", WRITERS)
@given(cells=st.lists(CELLS, min_size=1, max_size=8))
def test_what_the_marked_sheet_writes_is_read_back_as_what_it_was(kind, cells):
    data = WRITERS[kind](("-Note",), marked(cells))
    for found in (data, saved_anew(data, kind)):
        sheet = bring_in(found, f"a.{kind}").sheet
        assert sheet.columns[0] == "-Note"
        assert sheet.values(0) == cells
        assert set(sheet.values(6)) == {"=Hello"}


@pytest.mark.parametrize("cell", ["'tis", "'12.50", "'s-Gravenhage", "'", "''", "'98 Tern", "'-12.50"])
def test_an_apostrophe_that_protects_nothing_stays(cell):
    assert bring_in(f"Name,Note\nInes,{cell}\n".encode(), "a.csv").sheet.rows[0][1] == cell
