"""The error values that a spreadsheet writes into a cell."""

import re

NEVER_WORKED_OUT = "#NOT WORKED OUT"
"""What stands for a formula that was saved without a value; ours."""
_ERROR = re.compile(r"#(NULL!|DIV/0!|VALUE!|REF!|NAME\?|NUM!|N/A|GETTING_DATA|SPILL!|CALC!|NOT WORKED OUT)|Err:5\d\d")
"""Error values of spreadsheets (ECMA-376 part 1, 18.17.3; the last ones from memory)."""


def is_fault(text: str) -> bool:
    """True for the text of an error cell."""
    return text.startswith(("#", "Err:")) and bool(_ERROR.fullmatch(text.strip()))
