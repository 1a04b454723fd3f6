"""How the cells of an OpenDocument sheet show their numbers, as number formats of the kind that XLSX has.

OpenDocument 1.3 part 3, 16.29 (number styles), 19.342 (min-integer-digits); from memory. A style names a data style, in
the content itself or in the styles beside it, where an office suite keeps those that somebody gave a name.
"""

import io
from collections.abc import Iterator
from typing import Any

from defusedxml import ElementTree

from gentle_ledger.core.sheets.cell_formats import kind_of

_STYLE = "{urn:oasis:names:tc:opendocument:xmlns:style:1.0}"
_NUMBER = "{urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0}"
_OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}"
_DATA_STYLES = frozenset(f"{_NUMBER}{name}-style" for name in ("number", "currency", "percentage"))
_MOST_DIGITS = 30
_MOST_PARENTS = 20


def codes_of_styles(content: bytes, styles: bytes, currency: str) -> dict[str, str]:
    """By the name of a cell's style, its number format where that shows more than a number; see `cell_formats`.

    Args:
        content: the document's content.xml, of which all before its body is read.
        styles: its styles.xml; may be empty.
        currency: the round's.
    """
    data: dict[str, str] = {}
    named: dict[str, tuple[str, str]] = {}
    for part in (styles, content):
        for node in _before_body(part) if part else ():
            name = node.get(f"{_STYLE}name") or ""
            if node.tag in _DATA_STYLES:
                data[name] = _code(node)
            elif node.tag == f"{_STYLE}style" and node.get(f"{_STYLE}family") == "table-cell":
                named[name] = node.get(f"{_STYLE}data-style-name") or "", node.get(f"{_STYLE}parent-style-name") or ""
    found = {name: data.get(_data_style(name, named), "") for name in named}
    return {name: code for name, code in found.items() if code and kind_of(code, currency)[0]}


def _before_body(data: bytes) -> Iterator[Any]:
    for event, node in ElementTree.iterparse(io.BytesIO(data), events=("start", "end"), forbid_dtd=True):
        if event == "start" and node.tag == f"{_OFFICE}body":
            return
        if event == "end":
            yield node


def _data_style(name: str, named: dict[str, tuple[str, str]]) -> str:
    """The data style of a cell style: its own, or that of the nearest one it is made from."""
    for _ in range(_MOST_PARENTS):
        own, parent = named.get(name, ("", ""))
        if own or not parent:
            return own
        name = parent
    return ""


def _code(node: Any) -> str:
    """A data style as a number format: words in quotes, digits, and a percent sign."""
    out = []
    for child in node:
        if child.tag == f"{_NUMBER}number":
            out.append(_digits(child))
        elif child.tag in {f"{_NUMBER}text", f"{_NUMBER}currency-symbol"} and (words := child.text or ""):
            out.append(words if words.strip() == "%" else '"' + words.replace('"', "") + '"')
    return "".join(out)


def _digits(node: Any) -> str:
    def count(name: str) -> int:
        value = node.get(f"{_NUMBER}{name}") or ""
        return min(int(value), _MOST_DIGITS) if value.isdecimal() else 0

    whole = "0" * max(count("min-integer-digits"), 1)
    grouped = f"#,##{whole}" if node.get(f"{_NUMBER}grouping") == "true" else whole
    return grouped + ("." + "0" * count("decimal-places") if count("decimal-places") else "")
