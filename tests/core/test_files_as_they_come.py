"""What a workbook's cells show counts, and what a text file leaves open is asked: formats, hidden rows, characters."""

import io
import re
import zipfile
from datetime import date
from decimal import Decimal

import pytest
import xlsxwriter
import xlwt

from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.reading import reader
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.unreadable import Unreadable
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.bring_in import Before, Choice, bring_in, glance

FORMATS = [
    # a number, its format in the workbook, and the cell that comes of it in a Canadian round
    (0.155, "0%", "15.5%"),
    (0.5, "0.00%", "50%"),
    (42, "00000", "00042"),
    (7, '"C-"000', "C-007"),
    (9025550101, "(000) 000-0000", "(902) 555-0101"),
    (50, "[$€-407] #,##0.00", "€ 50"),
    (50, "#,##0.00 [$EUR]", "EUR 50"),
    (50, '"US$"#,##0.00', "US$ 50"),
    (50, '#,##0.00 "z\u0142"', "z\u0142 50"),
    (50, "#,##0.00 [$kr-41D]", "kr 50"),
    (12, '0.0 "ft"', Decimal(12)),
    (50, "$#,##0.00", Decimal(50)),
    (50, "[$CAD] #,##0.00", Decimal(50)),
    (50, "#,##0.00_);[Red](#,##0.00)", Decimal(50)),
    (74, '0 "kWh"', Decimal(74)),
    (12.1, "0.0", Decimal("12.1")),
    (2026, "0", Decimal(2026)),
    (46356, "yyyy-mm-dd", date(2026, 11, 30)),
    (0.6, "h:mm", "14:24"),
    (1.75, "[h]:mm", "42:00"),
]


def as_xlsx(cells, **parts):
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        page = book.add_worksheet("Dues")
        page.write_row(0, 0, ["Name", "Due", "Note"])
        for row, (value, code) in enumerate(cells, 1):
            page.write(row, 0, f"P{row}")
            page.write_number(row, 1, value, book.add_format({"num_format": code}))
        for row in parts.get("hidden", ()):
            page.set_row(row, None, None, {"hidden": True})
    return out.getvalue()


def as_xls(cells, **parts):
    book = xlwt.Workbook()
    page = book.add_sheet("Dues")
    for column, name in enumerate(("Name", "Due", "Note")):
        page.write(0, column, name)
    for row, (value, code) in enumerate(cells, 1):
        page.write(row, 0, f"P{row}")
        page.write(row, 1, value, xlwt.easyxf(num_format_str=code))
    for row in parts.get("hidden", ()):
        page.row(row).hidden = True
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


@pytest.mark.parametrize(("make", "name"), [(as_xlsx, "a.xlsx"), (as_xls, "a.xls")])
def test_a_number_comes_in_as_its_format_shows_it(make, name):
    brought = bring_in(make([(value, code) for value, code, _ in FORMATS]), name)
    shown = {code: row[1] for (_, code, _), row in zip(FORMATS, brought.sheet.rows, strict=True)}
    assert shown == {code: cell for _, code, cell in FORMATS}


def test_an_amount_in_another_currency_is_held_as_in_a_text_file():
    data = as_xlsx([(50, "[$€-407] #,##0.00"), (60, "$#,##0.00")])
    euros = bring_in(data, "a.xlsx", currency="EUR").sheet
    assert [row[1] for row in euros.rows] == [Decimal(50), "$ 60"]
    read = reader([], Role.MONEY, "EUR", "de-DE")
    assert read(euros.rows[0][1]) == 50
    assert "is not in EUR" in read("$ 60").why


ODS = """<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
 xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"
 xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"
 xmlns:number="urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0"><office:automatic-styles>
 <number:number-style><number:number number:min-integer-digits="5"/></number:number-style></office:automatic-styles>
 <office:body><office:spreadsheet><table:table table:name="Dues">{}</table:table></office:spreadsheet></office:body>
 </office:document-content>"""
WORD = '<table:table-cell office:value-type="string"><text:p>{}</text:p></table:table-cell>'
IN_ODS = [
    ('office:value-type="percentage" office:value="0.155"', "16%", "15.5%"),
    ('office:value-type="currency" office:currency="EUR" office:value="50"', "€50.00", "EUR 50"),
    ('office:value-type="currency" office:currency="CAD" office:value="50"', "$50.00", Decimal(50)),
    ('office:value-type="currency" office:currency="USD" office:value="50"', "$50.00", Decimal(50)),  # [$$-409]
    ('office:value-type="currency" office:currency="USD" office:value="50"', "US$50.00", "USD 50"),
    ('office:value-type="currency" office:currency="USD" office:value="50"', "", "USD 50"),
    ('office:value-type="currency" office:currency="EUR" office:value="50"', "$50.00", "EUR 50"),
    ('office:value-type="float" office:value="42"', "00042", "00042"),
    ('office:value-type="float" office:value="74"', "74 kWh", Decimal(74)),
    ('office:value-type="boolean" office:boolean-value="true"', "TRUE", True),
    ('office:value-type="boolean" office:boolean-value="false"', "FALSE", False),
    ('office:value-type="time" office:time-value="PT14H24M00S"', "14:24", "14:24"),
    ('office:value-type="time" office:time-value="PT42H00M00S"', "42:00:00", "42:00"),
    ('table:formula="of:=[.A1]"', "", "#NOT WORKED OUT"),
    ('table:formula="of:=[.A1]" office:value-type="string" office:string-value=""', "", None),
    ('office:value-type="date" office:date-value="2026-11-30"', "30 Nov", date(2026, 11, 30)),
]


def as_ods(rows):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr("content.xml", ODS.format("".join(rows)))
    return out.getvalue()


def ods_row(*cells, more=""):
    return f"<table:table-row{more}>{''.join(cells)}</table:table-row>"


def test_the_cells_of_an_open_document_are_what_they_show():
    head = ods_row(*(WORD.format(name) for name in ("Name", "Due")))
    rows = [
        ods_row(WORD.format("P"), f"<table:table-cell {attributes}><text:p>{shown}</text:p></table:table-cell>")
        for attributes, shown, _ in IN_ODS
    ]
    brought = bring_in(as_ods([head, *rows]), "a.ods")
    assert [row[1] for row in brought.sheet.rows] == [cell for _, _, cell in IN_ODS]


def edited(data, change):
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            new.writestr(name, change(name, old.read(name)))
    return out.getvalue()


def as_strict(name, data):
    """As a strict workbook: other namespaces for the same things (ECMA-376 part 1, annex A, from memory)."""
    for loose, strict in (
        (
            b"http://schemas.openxmlformats.org/spreadsheetml/2006/main",
            b"http://purl.oclc.org/ooxml/spreadsheetml/main",
        ),
        (
            b"http://schemas.openxmlformats.org/officeDocument/2006/relationships",
            b"http://purl.oclc.org/ooxml/officeDocument/relationships",
        ),
    ):
        data = data.replace(loose, strict)
    return data


def with_formulas(formula_cell):
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        page = book.add_worksheet("Dues")
        page.write_row(0, 0, ["Name", "Due", "Paid"])
        page.write_row(1, 0, ["Ines", 186.4])
        page.write_formula(1, 2, "=1/0", None, "#DIV/0!")
        page.write_row(2, 0, ["Bo", 50, 20])
        page.write_formula(2, 2, "=10+10", None, 20)
    return edited(
        out.getvalue(),
        lambda name, data: re.sub(rb'(<c r="C3"[^>]*>)(<f>[^<]*</f>)<v>20</v>', rb"\1" + formula_cell, data),
    )


@pytest.mark.parametrize("strict", [False, True])
@pytest.mark.parametrize("formula_cell", [rb"\2", rb"\2<v></v>", rb"\2<v/>"])
def test_errors_and_formulas_without_a_value_are_no_blanks(strict, formula_cell):
    data = with_formulas(formula_cell)
    sheet = bring_in(edited(data, as_strict) if strict else data, "a.xlsx").sheet
    assert [row[2] for row in sheet.rows] == ["#DIV/0!", "#NOT WORKED OUT"]
    value = reader([], Role.MONEY, "CAD", "en-CA")("#NOT WORKED OUT")
    assert isinstance(value, Unreadable)
    assert "never worked out" in value.why
    assert bring_in(with_formulas(rb"\2<v>20</v>"), "a.xlsx").sheet.rows[1][2] == 20


def test_a_workbook_may_leave_the_places_of_its_cells_out():
    def bare(name, data):
        return re.sub(rb'(<(?:c|row)) r="[A-Z]*\d+"', rb"\1", data) if "sheet1" in name else data

    sheet = bring_in(edited(with_formulas(rb"\2"), bare), "a.xlsx").sheet
    assert [row[2] for row in sheet.rows] == ["#DIV/0!", "#NOT WORKED OUT"]
    hidden = as_xlsx([(0.155, "0%"), (2, "0"), (3, "0")], hidden=[2])
    found = bring_in(edited(hidden, bare), "a.xlsx").sheet
    assert ([row[1] for row in found.rows], found.hidden) == (["15.5%", 2, 3], {1})


def test_whole_numbers_that_have_lost_digits_in_the_file_are_held():
    sheet = bring_in(as_xlsx([(1234567890123456, "0"), (123456789012345, "0")]), "a.xlsx").sheet
    read = reader([], Role.REFERENCE, "CAD", "en-CA")
    assert "more than 15 digits" in read(sheet.rows[0][1]).why
    assert read(sheet.rows[1][1]) == "123456789012345"


HIDING = [
    (as_xlsx([(1, "0"), (2, "0"), (3, "0")], hidden=[2]), "a.xlsx"),
    (as_xls([(1, "0"), (2, "0"), (3, "0")], hidden=[2]), "a.xls"),
    (
        as_ods(
            ods_row(WORD.format(f"P{n}"), WORD.format(n), more=' table:visibility="filter"' if n == 2 else "")
            for n in ("x", 1, 2, 3)
        ),
        "a.ods",
    ),
]


@pytest.mark.parametrize(("data", "name"), HIDING, ids=[name for _, name in HIDING])
def test_rows_that_are_not_shown_are_left_out_until_they_are_taken_back(data, name):
    brought = bring_in(data, name)
    assert (brought.sheet.hidden, brought.reading.sentence) == ({1}, "1 row hidden in the workbook left out")
    found = compute_round(brought.sheet, Recipe())
    assert [found.marks[1], found.reason(1)] == ["Left out", "hidden in the workbook"]
    assert "Left out" not in compute_round(brought.sheet, Recipe(leave_out_hidden=False)).marks


PEOPLE = "Name,Mobile,kWh,Due\nInes,902-555-0128,10,186.40\nBo,902-555-0111,20,50.00\n"
LAST = [
    ("Summe,,30,236.40", 2),
    ("Gesamt,,,236.40", 2),
    ("\u0418\u0442\u043e\u0433\u043e,,30,236.40", 2),
    (",,30,236.40", 2),
    ("Total,,,999.99", 2),
    ("Total Marine Ltd,902-555-0133,5,236.40", 3),
    ("Total,902-555-0133,30,236.40", 3),
    ("Total Marine Ltd,,5,40", 3),
    ("Zoe,,30,999.99", 3),
]


@pytest.mark.parametrize(("line", "rows"), LAST, ids=[line for line, _ in LAST])
def test_totals_are_the_sums_of_what_stands_above(line, rows):
    assert len(bring_in(f"{PEOPLE}{line}\n".encode(), "a.csv").sheet.rows) == rows


def test_totals_of_amounts_with_a_comma():
    text = "Name;Mobile;Due\nInes;902-555-0128;1.186,40\nBo;902-555-0111;50,00\nSumme;;1.236,40\n"
    assert len(bring_in(text.encode(), "a.csv").sheet.rows) == 2


def test_a_worksheet_with_a_table_is_chosen_before_an_empty_one_and_a_cover():
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        book.add_worksheet("Empty")
        cover = book.add_worksheet("Cover")
        cover.write_column(0, 0, ["Saltmarsh Quay", "November 2026", "Berth dues"])
        book.add_worksheet("Dues").write_row(0, 0, ["Name", "Mobile", "Due"])
        book.get_worksheet_by_name("Dues").write_row(1, 0, ["Ines", "902-555-0128", 5])
    assert bring_in(out.getvalue(), "a.xlsx").worksheet == "Dues"
    with pytest.raises(SheetError):
        bring_in(out.getvalue(), "a.xlsx", Choice("Empty"))


CHARACTERS = [
    ("Łukasz Żółty", "windows-1250"),
    ("Dvořák Růžička", "windows-1250"),
    ("Иван Петров", "windows-1251"),
    ("José Núñez", "mac-roman"),
    ("Müller Zoé", "cp850"),
    ("山田 太郎", "shift_jis"),
]


@pytest.mark.parametrize(("name", "characters"), CHARACTERS, ids=[c for _, c in CHARACTERS])
def test_characters_that_a_file_leaves_open_are_asked_about(name, characters):
    data = f"Name,Mobile\n{name},902-555-0128\nBo,902-555-0111\n".encode(characters)
    with pytest.raises(SheetError, match="does not say how its characters are to be read"):
        bring_in(data, "a.csv")
    seen = glance(data, "a.csv")
    assert characters in [reading for reading, _ in seen.characters[:3]]
    assert any(word in name.split() for reading, word in seen.characters if reading == characters)
    assert bring_in(data, "a.csv", Choice(characters=characters)).sheet.rows[0][0] == name


PLAIN = [
    "Zoé Ünal",
    "François d’Arcy",
    "Ñandú",
    "Åse Øyvind",
    "Çelik",
    "€50",
    "12½",
    "Kraków",
    "5 °C",
    "Smith™",
    "“so”",
]


@pytest.mark.parametrize("name", PLAIN)
def test_what_is_plainly_western_asks_nothing(name):
    data = f"Name,Mobile\n{name},902-555-0128\n"
    assert bring_in(data.encode("cp1252"), "a.csv").sheet.rows[0][0] == name
    assert glance(data.encode("cp1252"), "a.csv").characters == ()
    assert bring_in(data.encode(), "a.csv").sheet.rows[0][0] == name


def test_a_control_character_refuses_no_file():
    assert bring_in(b"Name,Mobile\nIn\x01es\x1a,902-555-0128\n", "a.csv").sheet.rows[0][0] == "Ines"
    with pytest.raises(SheetError, match="not a text file"):
        bring_in(bytes(range(1, 32)) * 40, "a.csv")


PAGE = """<html><head><meta charset="utf-8"></head><body><table><tr><td>Menu</td></tr></table>
<table><tr><th>Name</th><th>Mobile<th>Due</tr><tr><td>Ines &amp; Bo<br>Okafor</td><td>902-555-0128</td>
<td>1,186.40</td></tr>
<tr><td>Zoé</td><td colspan=2>902-555-0111</td></tr></table></body></html>"""


def test_pages_and_text_under_the_name_of_a_workbook_are_read_as_what_they_are():
    page = bring_in(PAGE.encode(), "portal.xls").sheet
    assert page.columns == ("Name", "Mobile", "Due")
    assert list(page.rows) == [("Ines & Bo Okafor", "902-555-0128", "1,186.40"), ("Zoé", "902-555-0111", None)]
    text = "Name\tMobile\nInes\t902-555-0128\n"
    assert bring_in(text.encode("utf-16"), "portal.xls").sheet.rows[0] == ("Ines", "902-555-0128")
    with pytest.raises(SheetError, match="no workbook inside"):
        bring_in(text.encode(), "portal.xlsx")


def test_a_locked_workbook_is_said_to_be_locked():
    locked = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + b"\0" * 600 + "EncryptedPackage".encode("utf-16-le")
    for name in ("a.xls", "a.xlsx"):
        with pytest.raises(SheetError, match="protected by a password"):
            bring_in(locked, name)


def _two_sheets(kind, hidden):
    """A workbook of two tables, "Old" and "Now", of which some are not shown."""
    out = io.BytesIO()
    if kind == "xlsx":
        with xlsxwriter.Workbook(out) as book:
            for name in ("Old", "Now"):
                page = book.add_worksheet(name)
                page.write_row(0, 0, ["Name", "Mobile", "Due"])
                page.write_row(1, 0, [name, "902-555-0128", 5])
                (page.hide if name in hidden else page.activate)()
    elif kind == "xls":
        book = xlwt.Workbook()
        for name in ("Old", "Now"):
            page = book.add_sheet(name)
            for c, cells in enumerate((("Name", name), ("Mobile", "902-555-0128"), ("Due", 5))):
                page.write(0, c, cells[0])
                page.write(1, c, cells[1])
            page.visibility = 1 if name in hidden else 0
        book.active_sheet = 0 if "Now" in hidden else 1
        book.save(out)
    else:
        style = '<style:style style:name="{}" style:family="table"><style:table-properties table:display="{}"/>'
        style += "</style:style>"
        styles = "".join(style.format(name, "false" if name in hidden else "true") for name in ("Old", "Now"))
        rows = {
            n: ods_row(*map(WORD.format, ("Name", "Due"))) + ods_row(*map(WORD.format, (n, "5")))
            for n in ("Old", "Now")
        }
        tables = "".join(
            f'<table:table table:name="{n}" table:style-name="{n}">{r}</table:table>' for n, r in rows.items()
        )
        content = re.sub(r"<table:table .*</table:table>", "{}", ODS, flags=re.DOTALL).format(tables)
        content = content.replace("<office:document-content", f'<office:document-content xmlns:style="{STYLE}"', 1)
        content = content.replace("<office:automatic-styles>", f"<office:automatic-styles>{styles}", 1)
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
            archive.writestr("META-INF/manifest.xml", "<manifest/>")
            archive.writestr("content.xml", content)
    return out.getvalue()


STYLE = "urn:oasis:names:tc:opendocument:xmlns:style:1.0"


@pytest.mark.parametrize("kind", ["xlsx", "xls", "ods"])
@pytest.mark.parametrize(("hidden", "read"), [(("Old",), "Now"), ((), "Old"), (("Now",), "Old")])
def test_a_worksheet_that_is_not_shown_is_not_read(kind, hidden, read):
    data = _two_sheets(kind, hidden)
    brought = bring_in(data, f"a.{kind}")
    assert (brought.worksheet, brought.unseen, brought.sheet.rows[0][0]) == (read, hidden, read)
    other = "Old" if read == "Now" else "Now"
    hidden_word = " (hidden)" if hidden else ""
    assert brought.said_of_worksheets == f"Worksheet {read} is read; the workbook has {other}{hidden_word} as well."
    assert bring_in(data, f"a.{kind}", Choice("Old")).worksheet == "Old"
    # What was read of an earlier file is read again where it is shown.
    before = Choice(before=Before("Now"))
    assert bring_in(data, f"a.{kind}", before).worksheet == ("Old" if "Now" in hidden else "Now")


QUOTED = [
    "'Mobile','Name','Due'\n'902-555-0101','Ada','12,50'\n'902-555-0102','O''Ray, Bo','1 \"x\"'\n",
    "'Mobile';'Name';'Due'\n'902-555-0101'; 'Ada' ;'12,50'\n'902-555-0102';'O\\'Ray, Bo';'1 \"x\"'",
    '“Mobile”,“Name”,“Due”\r\n“902-555-0101”,“Ada”,“12,50”\r\n“902-555-0102”,“O\'Ray, Bo”,“1 "x"”\r\n',
    '«Mobile»|«Name»|«Due»\n«902-555-0101»|«Ada»|«12,50»\n«902-555-0102»|«O\'Ray, Bo»|«1 "x"»\n',
    '`Mobile`,`Name`,`Due`\n`902-555-0101`,`Ada`,`12,50`\n`902-555-0102`,`O\'Ray, Bo`,`1 "x"`\n',
    "'Mobile','Name','Due'\n902-555-0101,'Ada','12,50'\n902-555-0102,'O'Ray, Bo','1 \"x\"'\n",
]


@pytest.mark.parametrize("text", QUOTED)
def test_a_file_in_other_quotes_is_read_without_them(text):
    sheet = bring_in(text.encode(), "a.csv", Choice(characters="UTF-8")).sheet
    assert sheet.columns == ("Mobile", "Name", "Due")
    assert sheet.rows == [("902-555-0101", "Ada", "12,50"), ("902-555-0102", "O'Ray, Bo", '1 "x"')]
    book = io.BytesIO()
    with xlsxwriter.Workbook(book) as made:
        page = made.add_worksheet()
        for row, cells in enumerate([("'Mobile'", "'Name'", "'Due'"), ("'902-555-0101'", "'-5 days'", 12.5)]):
            page.write_row(row, 0, cells)
    assert bring_in(book.getvalue(), "a.xlsx").sheet.rows == [("902-555-0101", "-5 days", Decimal("12.5"))]


UNQUOTED = ["'Bo',ask", "'tis,late'", "'-5,'x'", "'Bo' the mate,'C1'", "“Bo”,ask"]


@pytest.mark.parametrize("line", UNQUOTED)
def test_a_lone_quote_is_part_of_its_cell(line):
    sheet = bring_in(f"Name,Berth\n{line}\nIna,C2\nCy,C3\n".encode(), "a.csv").sheet
    assert sheet.rows[0] == tuple(line.split(","))


def test_one_line_in_other_quotes_is_read_without_them_and_no_other():
    text = "Name,Mobile,Note\n'Ada','902-555-0101','a, b'\n'-5 days,902-555-0102,'x'\nCy,902-555-0103,y\n"
    rows = bring_in(text.encode(), "a.csv").sheet.rows
    assert rows == [
        ("Ada", "902-555-0101", "a, b"),
        ("-5 days", "902-555-0102", "'x'"),
        ("Cy", "902-555-0103", "y"),
    ]


def test_words_above_words_are_no_groups():
    with pytest.raises(SheetError, match="Column 2 has no name"):
        bring_in(b"Title,,Note\nMs,Ada,late\nMr,Bo,call\n", "a.csv")


def test_a_quote_that_is_not_closed_names_its_line():
    with pytest.raises(SheetError, match=r"Line 3 .* a quote .'. is opened and not closed"):
        bring_in(b"'Name','Due'\n'Ada','12'\n'Bo,'13'\n'Cy','14'\n", "a.csv")
    with pytest.raises(SheetError, match="Line 2 "):
        bring_in(b"'Name','Due'\n" + b"'Bo,13\n" * 50_000, "a.csv")


ROWS = "\nAda,902-555-0101,12.50\nBo,902-555-0102,7\n"
GROUPED = [
    "Contact,,Charges\nName,Mobile,Due",
    "Contact,Contact,Charges\nName,Mobile,Due",
    ",Contact,\nName,Mobile,Due",
    "Saltmarsh Quay,,\n\nContact,,Charges\nName,Mobile,Due",
    "Berth holders,,\nContact,,Charges\nName,Mobile,Due",
]


@pytest.mark.parametrize("above", GROUPED)
def test_a_line_that_groups_the_names_is_left_out_like_a_title(above):
    brought = bring_in((above + ROWS).encode(), "a.csv")
    assert brought.sheet.columns == ("Name", "Mobile", "Due")
    assert len(brought.sheet.rows) == 2
    assert "above the column names left out" in brought.reading.sentence
    book = io.BytesIO()
    with xlsxwriter.Workbook(book) as made:
        page = made.add_worksheet()
        page.merge_range(0, 0, 0, 1, "Contact")
        page.merge_range(0, 2, 0, 3, "Charges")
        for row, line in enumerate(
            [["Name", "Mobile", "Due", "Late"], ["Ada", "902-555-0101", 12.5, 1], ["Bo", "", 7, 2]], 1
        ):
            page.write_row(row, 0, line)
    assert bring_in(book.getvalue(), "a.xlsx").sheet.columns == ("Name", "Mobile", "Due", "Late")


# Names all the same: a gap in them, rows of words, or a first row that lacks what the others have.
NAMES = ["Name,Mobile,Due", "Name,Mobile,Due\nCy,ask,ask", "Name,Mobile,Note\nCy,Di,Ed", "Name,Mobile,Due\nCy,,"]


@pytest.mark.parametrize("above", NAMES)
def test_names_are_no_groups(above):
    assert bring_in((above + ROWS).encode(), "a.csv").reading.header == 1
