"""The error cells of a workbook (#REF! and the like), which the reader for workbooks leaves blank.

A blank cell counts as nothing in a sum; a cell with an error must not.
"""

import io
import re
import zipfile
from xml.etree import ElementTree

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
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        names = archive.namelist()
        if "content.xml" in names:
            return _in_ods(_xml(archive, "content.xml"), worksheet)
        member = _member_of(archive, worksheet)
        return _in_xlsx(_xml(archive, member)) if member in names else {}


def _xml(archive: zipfile.ZipFile, name: str) -> bytes:
    data = archive.read(name)
    if b"<!DOCTYPE" in data[:4096] or b"<!ENTITY" in data:
        # Entities that unfold without end have no place in a sheet.
        raise SheetError("The workbook is built in a way that is not read.", "Save it anew as XLSX and bring that in.")
    return data


def _member_of(archive: zipfile.ZipFile, worksheet: str) -> str:
    names = archive.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return ""
    book = ElementTree.fromstring(_xml(archive, "xl/workbook.xml"))
    wanted = next((s.get(_RELATION) for s in book.iter(f"{_MAIN}sheet") if s.get("name") == worksheet), None)
    relations = ElementTree.fromstring(_xml(archive, "xl/_rels/workbook.xml.rels"))
    target = next((str(r.get("Target")) for r in relations if r.get("Id") == wanted), "")
    return target.lstrip("/") if target.startswith("/") else f"xl/{target}"


def _in_xlsx(data: bytes) -> Faults:
    if b't="e"' not in data:
        return {}
    found: Faults = {}
    for _, cell in ElementTree.iterparse(io.BytesIO(data), events=("end",)):
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
    for event, node in ElementTree.iterparse(io.BytesIO(data), events=("start", "end")):
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
