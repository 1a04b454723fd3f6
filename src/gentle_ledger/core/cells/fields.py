"""A field: a column's name in curly brackets, on one line. The one pattern of it, wherever it may stand."""

import re
from collections.abc import Iterator
from enum import StrEnum

FIELD = r"\{[^{}\n]*\}"
"""A field in a wording or a formula, brackets included."""

_IN_WORDING = re.compile(rf"\{{\{{|\}}\}}|({FIELD})")
_IN_FORMULA = re.compile(rf'"(?:[^"]|"")*"?|({FIELD})')
_IN_LINK = re.compile(r"(\{[+#./;?&]?[^{}]*\})")


class Where(StrEnum):
    """What a field can stand in."""

    WORDING = "wording"
    FORMULA = "formula"
    LINK = "link"


_PATTERNS = {Where.WORDING: _IN_WORDING, Where.FORMULA: _IN_FORMULA, Where.LINK: _IN_LINK}


def fields_between(text: str, where: Where) -> Iterator[tuple[str, int, int]]:
    """What stands between brackets, and from where to where, brackets included; also in what cannot be used yet.

    Two brackets of a kind write one in a wording; a text in double quotes within a formula is a text.
    """
    for match in _PATTERNS[where].finditer(text):
        if match[1] is not None:
            yield match[1][1:-1], match.start(1), match.end(1)
