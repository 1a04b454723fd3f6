"""The same sheet comes to the same texts and marks through CSV, XLSX, XLS and ODS, whoever wrote it."""

import csv
import io
import random
import zipfile
from datetime import date

import openpyxl
import pytest
import xlsxwriter
import xlwt

from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.compute import compute_round
from gentle_ledger.core.sheets.bring_in import bring_in

NAMES = ("Name", "Mobile", "Berth", "Due", "Share", "When")
FORMATS = {
    # by column: number formats that its figures may have, each with how a cell is shown in a text file
    "Berth": {"00000": "{:05}", '"C-"000': "C-{:03}", "0": "{}"},
    "Due": {
        "0.00": "{:.2f}",
        '"$"#,##0.00': "${:,.2f}",
        '"\u20ac"#,##0.00': "\u20ac{:,.2f}",
        '#,##0.00 "EUR"': "{:,.2f} EUR",
    },
    "Share": {"0.0%": "{:.1%}", "0.00": "{:.2f}"},
    "When": {"yyyy-mm-dd": "{}"},
}


def sheet_of(rng):
    """Rows of (value, number format or None) cells; one format a column, but for a cell here and there."""
    usual = {name: rng.choice(list(codes)) for name, codes in FORMATS.items()}
    rows = []
    for i in range(rng.randrange(4, 12)):
        made = {
            "Name": f"P{i}",
            "Mobile": f"902-555-01{i:02}",
            "Berth": rng.randrange(1, 900),
            "Due": rng.randrange(1, 300_000) / 100,
            "Share": rng.randrange(1, 100) / 100,
            "When": date(2026, rng.randrange(1, 13), rng.randrange(13, 29)),
        }
        row = []
        for name in NAMES:
            code = usual.get(name)
            if code and name == "Due" and rng.random() < 0.15:
                code = rng.choice(list(FORMATS[name]))
            blank = name in {"Berth", "Share"} and rng.random() < 0.1
            row.append((None, None) if blank else (made[name], code))
        rows.append(row)
    return rows


def as_csv(rows):
    out = io.StringIO(newline="")
    shown = [[shown_as(name, *cell) for name, cell in zip(NAMES, row, strict=True)] for row in rows]
    csv.writer(out).writerows([NAMES, *shown])
    return out.getvalue().encode()


def shown_as(name, value, code):
    return "" if value is None else FORMATS[name][code].format(value) if code else str(value)


def as_xlsx(rows):
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        page = book.add_worksheet()
        page.write_row(0, 0, NAMES)
        for r, row in enumerate(rows, 1):
            for c, (value, code) in enumerate(row):
                if value is not None:
                    page.write(r, c, value, book.add_format({"num_format": code}) if code else None)
    return out.getvalue()


def as_other_xlsx(rows):
    book, out = openpyxl.Workbook(), io.BytesIO()
    page = book.active
    page.append(NAMES)
    for r, row in enumerate(rows, 2):
        for c, (value, code) in enumerate(row, 1):
            cell = page.cell(r, c, value)
            if code:
                cell.number_format = code
    book.save(out)
    return out.getvalue()


def as_xls(rows):
    book, out = xlwt.Workbook(), io.BytesIO()
    page = book.add_sheet("Dues")
    for c, name in enumerate(NAMES):
        page.write(0, c, name)
    for r, row in enumerate(rows, 1):
        for c, (value, code) in enumerate(row):
            if value is not None:
                page.write(r, c, value, xlwt.easyxf(num_format_str=code) if code else xlwt.Style.default_style)
    book.save(out)
    return out.getvalue()


NUMBER = '<number:number number:min-integer-digits="{}" number:decimal-places="{}" number:grouping="{}"/>'
WRITTEN = {
    "00000": ("number", NUMBER.format(5, 0, "false")),
    '"C-"000': ("number", "<number:text>C-</number:text>" + NUMBER.format(3, 0, "false")),
    "0": ("number", NUMBER.format(1, 0, "false")),
    "0.00": ("number", NUMBER.format(1, 2, "false")),
    '"$"#,##0.00': ("number", "<number:text>$</number:text>" + NUMBER.format(1, 2, "true")),
    '"\u20ac"#,##0.00': ("number", "<number:text>\u20ac</number:text>" + NUMBER.format(1, 2, "true")),
    '#,##0.00 "EUR"': ("number", NUMBER.format(1, 2, "true") + "<number:text> EUR</number:text>"),
    "0.0%": ("percentage", NUMBER.format(1, 1, "false") + "<number:text>%</number:text>"),
}
SPACES = " ".join(
    f'xmlns:{name}="urn:oasis:names:tc:opendocument:xmlns:{name if name != "number" else "datastyle"}:1.0"'
    for name in ("office", "table", "text", "style", "number")
)


def ods_styles():
    out = []
    for i, (kind, inside) in enumerate(WRITTEN.values()):
        out.append(f'<number:{kind}-style style:name="N{i}">{inside}</number:{kind}-style>')
        out.append(f'<style:style style:name="ce{i}" style:family="table-cell" style:data-style-name="N{i}"/>')
    return "".join(out)


def as_ods(rows, *, named=False, words=True):
    """As an office suite keeps it: its styles in the content, or in styles.xml and for whole columns."""
    styles, codes = ods_styles(), list(WRITTEN)
    columns, usual = "", {}
    for c in range(len(NAMES)):
        used = [row[c][1] for row in rows if row[c][1]]
        usual[c] = max(set(used), key=used.count) if named and used and used[0] in codes else None
        style = f' table:default-cell-style-name="ce{codes.index(usual[c])}"' if usual[c] else ""
        columns += f"<table:table-column{style}/>"
    lines = [
        "".join(f'<table:table-cell office:value-type="string"><text:p>{n}</text:p></table:table-cell>' for n in NAMES)
    ]
    for row in rows:
        cells = []
        for c, (value, code) in enumerate(row):
            style = f' table:style-name="ce{codes.index(code)}"' if code in codes and code != usual[c] else ""
            shown = f"<text:p>{shown_as(NAMES[c], value, code)}</text:p>" if words or isinstance(value, str) else ""
            kind, what = "float", f' office:value="{value}"'
            if isinstance(value, str):
                kind, what = "string", ""
            elif isinstance(value, date):
                kind, what = "date", f' office:date-value="{value}"'
            elif code and code.endswith("%"):
                kind = "percentage"
            inside = f'office:value-type="{kind}"{what}{style}>{shown}' if value is not None else ">"
            cells.append(f"<table:table-cell {inside}</table:table-cell>")
        lines.append("".join(cells))
    table = columns + "".join(f"<table:table-row>{line}</table:table-row>" for line in lines)
    body = f'<office:spreadsheet><table:table table:name="Dues">{table}</table:table></office:spreadsheet>'
    body = f"<office:body>{body}</office:body>"
    mine = f"<office:automatic-styles>{'' if named else styles}</office:automatic-styles>"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr("content.xml", f"<office:document-content {SPACES}>{mine}{body}</office:document-content>")
        named_styles = f"<office:styles>{styles if named else ''}</office:styles>"
        archive.writestr("styles.xml", f"<office:document-styles {SPACES}>{named_styles}</office:document-styles>")
    return out.getvalue()


WRITERS = {
    "xlsx": as_xlsx,
    "xlsx, another library": as_other_xlsx,
    "xls": as_xls,
    "ods": as_ods,
    "ods, named styles": lambda rows: as_ods(rows, named=True),
    "ods, without the words": lambda rows: as_ods(rows, named=True, words=False),
}
RECIPE = Recipe(wording="{Name}: {Berth} {Due} {Share} {When}")


@pytest.mark.parametrize("seed", range(12))
def test_the_same_sheet_comes_to_the_same_in_every_format(seed):
    rows = sheet_of(random.Random(seed))
    by_text = compute_round(bring_in(as_csv(rows), "a.csv").sheet, RECIPE)
    for what, write in WRITERS.items():
        found = compute_round(bring_in(write(rows), f"a.{what.split(',')[0]}").sheet, RECIPE)
        assert (found.marks, found.texts) == (by_text.marks, by_text.texts), what
