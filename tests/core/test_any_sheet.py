"""Sheets as they really come: titles above, totals below, error cells, every kind of workbook, either decimal mark."""

import io
import zipfile
from datetime import date
from decimal import Decimal

import pytest
import xlsxwriter
import xlwt
from hypothesis import given
from hypothesis import strategies as st

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.order import Order
from gentle_ledger.core.cells.reading import column_reading, reader
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.columns.recognise import recognise_roles
from gentle_ledger.core.sheets.bring_in import Choice, bring_in, glance
from gentle_ledger.core.sheets.model import Sheet
from gentle_ledger.core.sheets.versions import compare

HEAD = "Name,Mobile,Berth,Due\n"
ROWS = "Ines,902-555-0128,C14,186.40\nBo,902-555-0111,C15,50\n"
READINGS = [
    # the file, the header's line, the rows, what is said
    (HEAD + ROWS, 1, 2, ""),
    ("Saltmarsh Quay\n\n" + HEAD + ROWS, 3, 2, "1 line above the column names left out"),
    ("Saltmarsh Quay,,,November\n" + HEAD + ROWS, 2, 2, "1 line above the column names left out"),
    (HEAD + "\n" + ROWS + "\n\n", 1, 2, "1 blank row left out"),
    (HEAD + ROWS + "Total,,,236.40\n", 1, 2, "1 row of totals left out"),
    (HEAD + ROWS + ",,,236.40\n", 1, 2, "1 row of totals left out"),
    (HEAD + ROWS + ",,,236.40\nGrand total,,,236.40\n", 1, 2, "2 rows of totals left out"),
    (HEAD + ROWS + ",,,999.99\n", 1, 3, ""),
    (HEAD + ROWS + "Total,902-555-0133,C16,5\n", 1, 3, ""),
]


@pytest.mark.parametrize(("text", "header", "rows", "said"), READINGS)
def test_lines_that_are_no_rows_are_left_out_and_said(text, header, rows, said):
    brought = bring_in(text.encode(), "a.csv")
    assert (brought.reading.header, len(brought.sheet.rows), brought.reading.sentence) == (header, rows, said)
    assert brought.sheet.columns == ("Name", "Mobile", "Berth", "Due")


def test_the_header_can_be_chosen():
    text = b"Name,Phone\nHolder,Mobile\nInes,902-555-0128\n"
    assert bring_in(text, "a.csv").sheet.columns == ("Name", "Phone")
    assert bring_in(text, "a.csv", Choice(header=2)).sheet.columns == ("Holder", "Mobile")
    assert glance(text, "a.csv").lines[1] == ("Holder", "Mobile")
    with pytest.raises(SheetError, match="Line 9 has nothing in it"):
        bring_in(text, "a.csv", Choice(header=9))


def xlsx():
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        page = book.add_worksheet("Dues")
        page.write_row(2, 1, ["Name", "Due", "When", "Boat"])
        page.write_row(3, 1, ["Ines", 186.4])
        page.write_datetime(3, 3, date(2026, 11, 30), book.add_format({"num_format": "yyyy-mm-dd"}))
        page.merge_range(3, 4, 4, 4, "Dunlin")
        page.write(4, 1, "Bo")
        page.write_formula(4, 2, "=1/0", None, "#DIV/0!")
        page.write_formula(4, 3, "=DATE(2026,12,1)", book.add_format({"num_format": "yyyy-mm-dd"}), 46357)
    return out.getvalue()


def xls():
    book = xlwt.Workbook()
    page = book.add_sheet("Dues")
    day = xlwt.easyxf(num_format_str="YYYY-MM-DD")
    for column, name in enumerate(("Name", "Due", "When", "Boat")):
        page.write(0, column, name)
    for column, cell in enumerate(("Ines", 186.4)):
        page.write(1, column, cell)
    page.write(1, 2, date(2026, 11, 30), day)
    page.write(1, 3, "Dunlin")
    page.write(2, 0, "Bo")
    page.row(2).set_cell_error(1, 0x07)
    page.write(2, 2, date(2026, 12, 1), day)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


_NAMES = "urn:oasis:names:tc:opendocument:xmlns"
_CELL = '<table:table-cell office:value-type="string"><text:p>{}</text:p></table:table-cell>'


def ods():
    """Written by hand: ODF 1.3 part 3, with the error cell as office programs store it."""

    def row(*cells):
        return "<table:table-row>" + "".join(cells) + "</table:table-row>"

    head = row(*(_CELL.format(name) for name in ("Name", "Due", "When", "Boat")))
    day = '<table:table-cell office:value-type="date" office:date-value="{}"/>'
    ines = row(
        _CELL.format("Ines"),
        '<table:table-cell office:value-type="currency" office:value="186.4"/>',
        day.format("2026-11-30"),
        _CELL.format("Dunlin"),
    )
    fault = '<table:table-cell table:formula="of:=1/0" office:value-type="string" office:string-value="">'
    bo = row(_CELL.format("Bo"), fault + "<text:p>#DIV/0!</text:p></table:table-cell>", day.format("2026-12-01"))
    content = (
        f'<office:document-content xmlns:office="{_NAMES}:office:1.0" xmlns:table="{_NAMES}:table:1.0" '
        f'xmlns:text="{_NAMES}:text:1.0"><office:body><office:spreadsheet><table:table table:name="Dues">'
        f"{head}{ines}{bo}</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    manifest = (
        f'<manifest:manifest xmlns:manifest="{_NAMES}:manifest:1.0">'
        f'<manifest:file-entry manifest:full-path="/" manifest:media-type="{kind}"/></manifest:manifest>'
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, text in (("mimetype", kind), ("META-INF/manifest.xml", manifest), ("content.xml", content)):
            archive.writestr(name, text)
    return out.getvalue()


@pytest.mark.parametrize(("make", "name"), [(xlsx, "a.xlsx"), (xls, "a.xls"), (ods, "a.ods")])
def test_every_kind_of_workbook_reads_the_same(make, name):
    brought = bring_in(make(), name)
    assert (brought.worksheets, brought.worksheet) == (("Dues",), "Dues")
    assert brought.sheet.columns == ("Name", "Due", "When", "Boat")
    assert list(brought.sheet.rows) == [
        ("Ines", Decimal("186.4"), date(2026, 11, 30), "Dunlin"),
        ("Bo", "#DIV/0!", date(2026, 12, 1), None),
    ], "formulas and merged cells by their stored value, an error as an error"
    value = reader([], Role.TEXT, "CAD", "en-CA")("#DIV/0!")
    assert isinstance(value, Unreadable)


def test_a_hostile_workbook_is_refused():
    with pytest.raises(SheetError, match=r"damaged|password"):
        bring_in(b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600, "a.xls")
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(xlsx())) as old, zipfile.ZipFile(out, "w") as new:
        for item in old.namelist():
            data = old.read(item)
            if item.endswith("sheet1.xml"):
                data = data.replace(b"<worksheet", b'<!DOCTYPE x [<!ENTITY a "b">]><worksheet', 1)
            new.writestr(item, data)
    with pytest.raises(SheetError):
        bring_in(out.getvalue(), "a.xlsx")


@given(st.lists(st.decimals(0, 99_999, places=2), min_size=1, max_size=8), st.sampled_from([",", "."]))
def test_amounts_are_read_as_they_were_written_with_either_mark(amounts, mark):
    group = "." if mark == "," else ","
    typed = [f"{amount:,.2f}".replace(",", "g").replace(".", mark).replace("g", group) for amount in amounts]
    read = reader(typed, Role.MONEY, "CAD", "en-CA")
    assert [read(cell) for cell in typed] == amounts


def test_years_of_two_digits_are_asked_about_and_read_by_posix():
    cells = ["30/11/26", "01/12/26", "31/12/68", "31/12/69"]
    sheet = Sheet(("Due date",), [(cell,) for cell in cells])
    assert recognise_roles(sheet, "CA", "en-CA") == (Role.DATE,)
    assert column_reading(cells[:2], Role.DATE, "CAD", "en-CA").question
    read = reader(cells, Role.DATE, "CAD", "en-CA", Order.DAY_FIRST)
    assert [read(cell).isoformat() for cell in cells] == ["2026-11-30", "2026-12-01", "2068-12-31", "1969-12-31"]
    assert reader(cells, Role.DATE, "CAD", "en-CA", Order.MONTH_FIRST)(cells[0]).asks  # all others speak against it


CODES = st.lists(st.text("abc", min_size=1, max_size=2), unique=True, max_size=6)


@given(CODES, CODES, st.data())
def test_comparing_versions_accounts_for_every_row(old, new, data):
    amounts = data.draw(st.lists(st.integers(0, 3), min_size=12, max_size=12))
    older = Sheet(("Key", "Due"), [(key, str(amounts[i])) for i, key in enumerate(old)])
    newer = Sheet(("Key", "Due"), [(key, str(amounts[6 + i])) for i, key in enumerate(new)])
    found = compare(older, newer, "key")
    assert {new[i] for i in found.new} == set(new) - set(old)
    assert {old[i] for i in found.gone} == set(old) - set(new)
    was = {row[0]: row[1] for row in older.rows}
    assert {new[c.row] for c in found.changes} == {k for k, due in newer.rows if k in was and was[k] != due}
