"""CSV and TSV by RFC 4180: quoted fields, either line end; comma, semicolon or tab; the encodings offices write."""

import csv
import io
from collections.abc import Iterator

from charset_normalizer import from_bytes

from gentle_ledger.core.errors import SheetError
from gentle_ledger.core.sheets.model import MAX_CELL_CHARACTERS, Cell

_SEPARATORS = (",", ";", "\t")
_BOMS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))
_UNUSED_CONTROLS = frozenset(range(0x20)) - {0x09, 0x0A, 0x0C, 0x0D}


def decode(data: bytes) -> str:
    """Text from the bytes of a spreadsheet's text file: UTF-8, UTF-16, else Windows-1252.

    Raises SheetError when the bytes are no text at all.
    """
    for bom, encoding in _BOMS:
        if data.startswith(bom):
            try:
                return data.decode(encoding)
            except UnicodeDecodeError as fault:
                raise _not_text() from fault
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        text = _decode_without_bom(data)
    else:
        if "\0" in text:
            text = _decode_without_bom(data)
    if any(ord(c) in _UNUSED_CONTROLS for c in text[:4096]):
        raise _not_text()
    return text


def _decode_without_bom(data: bytes) -> str:
    """UTF-16 shows by its many zero bytes; anything else that is not UTF-8 is Windows-1252, the office's habit."""
    if data.count(0) > len(data) // 4:
        encoding = "utf-16-le" if data[1::2].count(0) > data[::2].count(0) else "utf-16-be"
        try:
            return data.decode(encoding)
        except UnicodeDecodeError as fault:
            raise _not_text() from fault
    if 0 in data:
        raise _not_text()
    try:
        return data.decode("cp1252")
    except UnicodeDecodeError:
        best = from_bytes(data[: 1 << 20]).best()
        if best is None:
            raise _not_text() from None
        return data.decode(best.encoding, errors="strict")


def _not_text() -> SheetError:
    return SheetError(
        "The file is not a text file with separated values.",
        "Save the sheet as CSV or XLSX in the spreadsheet program and bring that in.",
    )


def separator_of(text: str) -> str:
    """The separator that the first line has most of, outside quotes; the comma when it has none."""
    quoted = False
    counts = dict.fromkeys(_SEPARATORS, 0)
    for c in text.lstrip("\r\n")[:65_536]:
        if c == '"':
            quoted = not quoted
        elif c in "\r\n" and not quoted:
            break
        elif c in counts and not quoted:
            counts[c] += 1
    return max(_SEPARATORS, key=lambda s: counts[s])


def _without_blank_end(text: str) -> str:
    """The text without the blank lines at its end: a stray format can leave millions of them."""
    filled = text.rstrip("\r\n,;\t ")
    end = text[len(filled) :]
    return filled + end[: min((at for at in (end.find("\r"), end.find("\n")) if at >= 0), default=len(end))]


def read_delimited(text: str) -> Iterator[list[Cell]]:
    """Rows of cells, every cell text as it stood; "" becomes None."""
    csv.field_size_limit(MAX_CELL_CHARACTERS * 8)
    text = _without_blank_end(text)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator_of(text), strict=True)
    while True:
        try:
            row = next(reader)
        except StopIteration:
            return
        except csv.Error as fault:
            raise SheetError(
                f"Line {reader.line_num} of the file cannot be read: {fault}.",
                "Look for a double quote that is opened and never closed.",
            ) from fault
        yield [cell or None for cell in row]
