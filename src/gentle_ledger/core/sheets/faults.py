"""What the reader for workbooks does not tell: error cells, formulas without a value, number formats, hidden rows.

A blank cell counts as nothing in a sum; a cell with an error, or whose formula was never worked out, must not. Only a
workbook that has one of these is read a second time, as a stream.
"""

import io
import re
import zipfile
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import timedelta
from decimal import Decimal, InvalidOperation
from typing import IO, Any

from defusedxml import DefusedXmlException, ElementTree

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.cells.errors import SheetError
from gentle_ledger.core.cells.figures import signs_of
from gentle_ledger.core.cells.spreadsheet_errors import NEVER_WORKED_OUT, is_fault
from gentle_ledger.core.formulas.values import plain
from gentle_ledger.core.sheets.cell_formats import as_decimal, as_shown, kind_of, sign_in, time_shown
from gentle_ledger.core.sheets.ods_styles import codes_of_styles


@dataclass(frozen=True, slots=True)
class Details:
    """What stands in some cells of a worksheet, by row and column from 0, and the rows that are not shown."""

    cells: dict[tuple[int, int], Cell] = field(default_factory=dict)
    hidden: set[int] = field(default_factory=set)


_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"


def details_of(data: bytes, worksheet: str, currency: str) -> Details:
    """The details of one worksheet of an XLSX or ODS workbook; `currency` is the round's."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = archive.namelist()
            if "content.xml" in names:
                content = archive.read("content.xml")
                styles = archive.read("styles.xml") if "styles.xml" in names else b""
                return _in_ods(content, worksheet, codes_of_styles(content, styles, currency), currency)
            member = member_of(archive, worksheet)
            return _in_xlsx(archive, member, currency) if member else Details()
    except DefusedXmlException as fault:
        # Entities that unfold without end have no place in a sheet.
        raise SheetError(
            "The workbook is built in a way that is not read.", "Save it anew as XLSX and bring that in."
        ) from fault
    except (ElementTree.ParseError, zipfile.BadZipFile, UnicodeDecodeError, EOFError) as fault:
        raise SheetError(
            "The workbook is damaged and cannot be read in full.", "Save it anew as XLSX and bring that in."
        ) from fault


def _parts(data: bytes, events: tuple[str, ...]) -> Iterator[tuple[str, Any]]:
    """The elements of an XML text, one after the other; a document type of its own is refused."""
    source: IO[bytes] = io.BytesIO(data)
    yield from ElementTree.iterparse(source, events=events, forbid_dtd=True)


def _local(tag: str) -> str:
    """An element's name without its namespace: strict workbooks have other ones than the usual (ECMA-376 part 1)."""
    return tag.rpartition("}")[2]


def member_of(archive: zipfile.ZipFile, worksheet: str) -> str:
    """Where a worksheet of an XLSX workbook lies in it; "" when that cannot be told."""
    names = archive.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return ""
    book = ElementTree.fromstring(archive.read("xl/workbook.xml"), forbid_dtd=True)
    wanted = next(
        (
            value
            for sheet in book.iter()
            if _local(sheet.tag) == "sheet" and sheet.get("name") == worksheet
            for name, value in sheet.items()
            if _local(name) == "id" and name != "id"
        ),
        None,
    )
    relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"), forbid_dtd=True)
    target = next((str(r.get("Target")) for r in relations if r.get("Id") == wanted), "")
    member = target.lstrip("/") if target.startswith("/") else f"xl/{target}"
    return member if member in names else ""


_BUILT_IN = {9: "0%", 10: "0.00%"}
"""Number formats that have a number only (ECMA-376 part 1, 18.8.30); those of money show whatever currency is local."""
_HIDDEN = re.compile(rb'<row\b[^>]*\bhidden="(?:1|true)"')
_FORMULA = re.compile(rb"</f>\s*(?:<v\s*/>|<v>\s*</v>)?\s*</c>|<f\b[^>]*/>\s*(?:<v\s*/>|<v>\s*</v>)?\s*</c>")


def _in_xlsx(archive: zipfile.ZipFile, member: str, currency: str) -> Details:
    data = archive.read(member)
    formats = _formats_in(archive, currency)
    styled = re.compile(rb'\bs="(?:' + b"|".join(str(i).encode() for i in formats) + rb')"') if formats else None
    if not (
        b't="e"' in data
        or (styled is not None and styled.search(data))
        or (b"hidden=" in data and _HIDDEN.search(data))
        or (b"<f" in data and _FORMULA.search(data))
    ):
        return Details()
    found = Details()
    row = column = -1
    for event, node in _parts(data, ("start", "end")):
        name = _local(node.tag)
        if name == "row" and event == "start":
            # Some programs leave the places out: then each row and cell follows the one before.
            row, column = int(node.get("r")) - 1 if (node.get("r") or "").isdecimal() else row + 1, -1
            if node.get("hidden") in {"1", "true"}:
                found.hidden.add(row)
        elif name == "row":
            node.clear()
        elif name == "c" and event == "end":
            row, column = _place(node.get("r") or "") or (row, column + 1)
            cell = _cell_in_xlsx(node, formats, currency)
            if cell is not None:
                found.cells[row, column] = cell
    return found


def _cell_in_xlsx(node: Any, formats: dict[int, str], currency: str) -> Cell:
    """What a cell shows where that is not what the reader gives; None where it is."""
    children = {_local(child.tag): child.text or "" for child in node}
    kind, value = node.get("t") or "n", children.get("v", "").strip()
    if kind == "e":
        return value or "#VALUE!"
    if "f" in children and not value and kind != "str":
        return NEVER_WORKED_OUT
    style = node.get("s") or ""
    code = formats.get(int(style)) if style.isdecimal() else None
    if kind != "n" or code is None or not value:
        return None
    try:
        return as_shown(as_decimal(float(value)), code, currency)
    except (ValueError, InvalidOperation, OverflowError):
        return None


def _formats_in(archive: zipfile.ZipFile, currency: str) -> dict[int, str]:
    """By style, the number formats of a workbook that show more than a number."""
    if "xl/styles.xml" not in archive.namelist():
        return {}
    root = ElementTree.fromstring(archive.read("xl/styles.xml"), forbid_dtd=True)
    codes = dict(_BUILT_IN)
    for node in root.iter():
        if _local(node.tag) == "numFmt" and (node.get("numFmtId") or "").isdecimal():
            codes[int(node.get("numFmtId"))] = node.get("formatCode") or ""
    styles = next((node for node in root if _local(node.tag) == "cellXfs"), ())
    found = {}
    for index, style in enumerate(styles):
        number = style.get("numFmtId") or "0"
        code = codes.get(int(number), "") if number.isdecimal() else ""
        if code and kind_of(code, currency)[0]:
            found[index] = code
    return found


def _place(reference: str) -> tuple[int, int] | None:
    """ "C4" is row 3, column 2."""
    match = re.fullmatch(r"([A-Z]{1,3})(\d{1,7})", reference)
    if not match:
        return None
    column = 0
    for letter in match[1]:
        column = column * 26 + ord(letter) - 64
    return int(match[2]) - 1, column - 1


_ODS_DETAILS = re.compile(
    rb'value-type="(?:percentage|currency|boolean|time)"|visibility="(?:collapse|filter)"|table:formula='
    rb'|min-integer-digits="(?:[2-9]|\d\d)"|<number:text>|>#[A-Z]|>Err:5'
)
_MOST_REPEATED = 1000
"""Cells or rows that are looked at when one stands for several; more are a stray format."""


# One walk through one stream: cut in two it would be read twice.
def _in_ods(data: bytes, worksheet: str, codes: dict[str, str], currency: str) -> Details:  # noqa: C901
    if not codes and not _ODS_DETAILS.search(data):
        return Details()
    found = Details()
    here: dict[int, Cell] = {}
    row = column = 0
    inside = False
    by_column = _Stretches()
    of_row = ""
    for event, node in _parts(data, ("start", "end")):
        if node.tag == f"{_TABLE}table" and event == "start":
            inside, row, by_column = node.get(f"{_TABLE}name") == worksheet, 0, _Stretches()
        elif node.tag == f"{_TABLE}table-column" and event == "end":
            by_column.add(node.get(_USUAL_STYLE) or "", _repeated(node, "columns"))
        elif node.tag == f"{_TABLE}table-row":
            if event == "start":
                column, here, of_row = 0, {}, node.get(_USUAL_STYLE) or ""
                continue
            repeated = _repeated(node, "rows")
            if inside:
                for other in range(row, row + min(repeated, _MOST_REPEATED) if here else row):
                    found.cells.update({(other, place): cell for place, cell in here.items()})
                if node.get(f"{_TABLE}visibility") in {"collapse", "filter"}:
                    found.hidden.update(range(row, row + min(repeated, _MOST_REPEATED)))
            row += repeated
            node.clear()
        elif node.tag in {f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"} and event == "end":
            repeated = _repeated(node, "columns")
            style = node.get(f"{_TABLE}style-name") or of_row or by_column.at(column)
            cell = _cell_in_ods(node, codes.get(style, ""), currency) if inside else None
            if cell is not None:
                for place in range(column, column + min(repeated, _MOST_REPEATED)):
                    here[place] = cell
            column += repeated
    return found


_USUAL_STYLE = f"{_TABLE}default-cell-style-name"


class _Stretches:
    """The usual styles of the columns, each over a stretch of them."""

    def __init__(self) -> None:
        self._ends: list[int] = []
        self._styles: list[str] = []

    def add(self, style: str, columns: int) -> None:
        """Adds so many columns of one style."""
        self._ends.append((self._ends[-1] if self._ends else 0) + columns)
        self._styles.append(style)

    def at(self, column: int) -> str:
        """The style of a column; "" where none is said."""
        place = bisect_right(self._ends, column)
        return self._styles[place] if place < len(self._styles) else ""


def _repeated(node: Any, what: str) -> int:
    number = node.get(f"{_TABLE}number-{what}-repeated") or "1"
    return int(number) if number.isdecimal() else 1


_SPAN = re.compile(r"(-)?PT(\d+)H(\d+)M(\d+)(?:[.,]\d+)?S")


def _cell_in_ods(node: Any, code: str, currency: str) -> Cell:
    """What a cell shows, by its format or by its words, where that is not what the reader gives; None where it is."""
    kind, value = node.get(f"{_OFFICE}value-type") or "", node.get(f"{_OFFICE}value") or ""
    shown = "\n".join("".join(line.itertext()) for line in node.findall(f"{_TEXT}p"))
    if is_fault(shown):
        return shown.strip()
    if not kind:
        return NEVER_WORKED_OUT if node.get(f"{_TABLE}formula") and not shown else None
    if kind == "boolean":
        return bool(node.get(f"{_OFFICE}boolean-value") == "true")
    if kind == "time":
        return _span(node.get(f"{_OFFICE}time-value") or "", shown)
    try:
        number = as_decimal(float(value)) if value else None
    except (ValueError, OverflowError):
        number = None
    if number is None:
        return None
    if kind == "percentage":
        return f"{plain(number.scaleb(2))}%"
    sign = node.get(f"{_OFFICE}currency") or ""
    if kind == "currency" and sign:
        # A sign of both is the round's, as it is in any other format: an office suite's own country may be another one.
        both = sign_in(shown) in signs_of(sign) & signs_of(currency)
        return None if both or sign in signs_of(currency) else f"{sign} {plain(number)}"
    if code:
        return as_shown(number, code, currency)
    return shown.strip() if _is_code(shown.strip(), number) else None


def _is_code(shown: str, number: Decimal) -> bool:
    """Whether a number is shown with noughts or a word in front of its digits."""
    return number == number.to_integral_value() and bool(re.match(r"0\d|[^\W\d_][^\d]{0,20}\d", shown))


def _span(value: str, shown: str) -> Cell:
    match = _SPAN.fullmatch(value)
    if not match:
        return shown or None
    span = timedelta(hours=int(match[2]), minutes=int(match[3]), seconds=int(match[4]))
    return time_shown(-span if match[1] else span).zfill(len("00:00")) if span < timedelta(days=1) else time_shown(span)
