"""The error cells of a workbook (#REF! and the like), which the reader for workbooks leaves blank.

A blank cell counts as nothing in a sum; a cell with an error must not.
"""

import io
import re
import zipfile
from collections.abc import Iterator
from typing import IO, Any

from defusedxml import DefusedXmlException, ElementTree

from gentle_ledger.core.errors import SheetError

CODES = ("#NULL!", "#DIV/0!", "#VALUE!", "#REF!", "#NAME?", "#NUM!", "#N/A", "#GETTING_DATA", "#SPILL!", "#CALC!")
"""Error values of spreadsheets (ECMA-376 part 1, 18.17.3; the last three from memory)."""
_ERROR = re.compile(r"#(NULL!|DIV/0!|VALUE!|REF!|NAME\?|NUM!|N/A|GETTING_DATA|SPILL!|CALC!)|Err:5\d\d")

Faults = dict[tuple[int, int], str]
"""What stands in the error cells, by row and column from 0."""

_MAIN = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
_RELATION = "{http://schemas.openxmlformats.org/officeDocument/2006/relationships}id"
_TABLE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
_TEXT = "{urn:oasis:names:tc:opendocument:xmlns:text:1.0}"


def is_fault(text: str) -> bool:
    """True for the text of an error cell."""
    return text.startswith(("#", "Err:")) and bool(_ERROR.fullmatch(text.strip()))


def faults_of(data: bytes, worksheet: str) -> Faults:
    """The error cells of one worksheet of an XLSX or ODS workbook."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            names = archive.namelist()
            if "content.xml" in names:
                return _in_ods(archive.read("content.xml"), worksheet)
            member = member_of(archive, worksheet)
            return _in_xlsx(archive.read(member)) if member else {}
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


def member_of(archive: zipfile.ZipFile, worksheet: str) -> str:
    """Where a worksheet of an XLSX workbook lies in it; "" when that cannot be told."""
    names = archive.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return ""
    book = ElementTree.fromstring(archive.read("xl/workbook.xml"), forbid_dtd=True)
    wanted = next((s.get(_RELATION) for s in book.iter(f"{_MAIN}sheet") if s.get("name") == worksheet), None)
    relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"), forbid_dtd=True)
    target = next((str(r.get("Target")) for r in relations if r.get("Id") == wanted), "")
    member = target.lstrip("/") if target.startswith("/") else f"xl/{target}"
    return member if member in names else ""


def _in_xlsx(data: bytes) -> Faults:
    if b't="e"' not in data:
        return {}
    found: Faults = {}
    for _, cell in _parts(data, ("end",)):
        if cell.tag == f"{_MAIN}c":
            if cell.get("t") == "e":
                place = _place(cell.get("r") or "")
                if place:
                    found[place] = cell.findtext(f"{_MAIN}v") or "#VALUE!"
        elif cell.tag == f"{_MAIN}row":
            cell.clear()
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


def _in_ods(data: bytes, worksheet: str) -> Faults:
    if not _ERROR.search(data.decode("utf-8", "replace")):
        return {}
    found: Faults = {}
    row = column = 0
    inside = False
    for event, node in _parts(data, ("start", "end")):
        if node.tag == f"{_TABLE}table" and event == "start":
            inside, row = node.get(f"{_TABLE}name") == worksheet, 0
        elif node.tag == f"{_TABLE}table-row":
            if event == "start":
                column = 0
            else:
                row += int(node.get(f"{_TABLE}number-rows-repeated") or 1)
                node.clear()
        elif node.tag in {f"{_TABLE}table-cell", f"{_TABLE}covered-table-cell"} and event == "end":
            text = "".join(node.itertext()) if inside and node.find(f"{_TEXT}p") is not None else ""
            if is_fault(text):
                found[row, column] = text
            column += int(node.get(f"{_TABLE}number-columns-repeated") or 1)
    return found
