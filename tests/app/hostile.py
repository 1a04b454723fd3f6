"""Workbooks written by hand, byte by byte, as no spreadsheet program would."""

import io
import zipfile

_MAIN = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
_OFFICE = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_PACKAGE = "http://schemas.openxmlformats.org/package/2006"
NAMES = ("Name", "Mobile")
ROW = ("Ines", "902-555-0101")


def _cells(number: int, texts: tuple[str, ...]) -> str:
    cells = "".join(f'<c r="{"AB"[i]}{number}" t="inlineStr"><is><t>{t}</t></is></c>' for i, t in enumerate(texts))
    return f'<row r="{number}">{cells}</row>'


def xlsx(more: str = "", prolog: str = "", packed: int = zipfile.ZIP_DEFLATED, padding: bytes = b"") -> bytes:
    """A workbook with one worksheet of one good row, and whatever stands below it."""
    rows = _cells(1, NAMES) + _cells(2, ROW) + more
    related = f'<Relationships xmlns="{_PACKAGE}/relationships"><Relationship Id="r1" Type="{_OFFICE}'
    return _zip(
        {
            "[Content_Types].xml": f'<Types xmlns="{_PACKAGE}/content-types">'
            '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
            '<Default Extension="xml" ContentType="application/xml"/></Types>',
            "_rels/.rels": f'{related}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
            "xl/workbook.xml": f'<workbook xmlns="{_MAIN}" xmlns:r="{_OFFICE}"><sheets>'
            '<sheet name="S" sheetId="1" r:id="r1"/></sheets></workbook>',
            "xl/_rels/workbook.xml.rels": f'{related}/worksheet" Target="worksheets/s.xml"/></Relationships>',
            "xl/worksheets/s.xml": f'{prolog}<worksheet xmlns="{_MAIN}"><sheetData>{rows}</sheetData></worksheet>',
        },
        packed,
        padding,
    )


def ods(more: str = "") -> bytes:
    """The same as an OpenDocument spreadsheet."""
    space = "urn:oasis:names:tc:opendocument:xmlns"
    spaces = " ".join(f'xmlns:{name}="{space}:{name}:1.0"' for name in ("office", "table", "text"))
    cell = '<table:table-cell office:value-type="string"><text:p>{}</text:p></table:table-cell>'
    row = "<table:table-row>{}</table:table-row>"
    rows = "".join(row.format("".join(cell.format(text) for text in texts)) for texts in (NAMES, ROW))
    return _zip(
        {
            "mimetype": "application/vnd.oasis.opendocument.spreadsheet",
            "META-INF/manifest.xml": f'<manifest:manifest xmlns:manifest="{space}:manifest:1.0"/>',
            "content.xml": f"<office:document-content {spaces}><office:body><office:spreadsheet>"
            f'<table:table table:name="S">{rows}{more}</table:table>'
            "</office:spreadsheet></office:body></office:document-content>",
        }
    )


def _zip(members: dict[str, str], packed: int = zipfile.ZIP_DEFLATED, padding: bytes = b"") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", packed) as archive:
        for name, text in members.items():
            archive.writestr(name, text)
        if padding:
            archive.writestr("xl/media/padding.bin", padding)
    return out.getvalue()


def repeated(rows: int, columns: int, value: str = "") -> str:
    filled = f'office:value-type="float" office:value="{value}" ' if value else ""
    return (
        f'<table:table-row table:number-rows-repeated="{rows}">'
        f'<table:table-cell {filled}table:number-columns-repeated="{columns}"/></table:table-row>'
    )


BILLION_LAUGHS = (
    '<!DOCTYPE z [<!ENTITY a0 "ha">' + "".join(f'<!ENTITY a{i + 1} "{f"&a{i};" * 10}">' for i in range(9)) + "]>"
)
"""CWE-776, the classic case of it (from memory)."""
