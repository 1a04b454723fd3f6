"""Functions that choose, and that ask what a value is (OpenFormula: ODF 1.3 part 4, 6.15 and 6.13)."""

from datetime import date
from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.formulas.registry import Evaluate, Keeps, define
from gentle_ledger.core.formulas.values import ERRORS, Code, Wrong, as_truth, equal, wrong_of

_CHOICE = "Choosing"
_ASKING = "Asking what a value is"


@define(
    _CHOICE,
    "IF",
    "condition:truth; then:any; [otherwise:any]",
    "One value when the condition is true, another when it is not. Only the chosen one is worked out.",
    ("IF(2 > 1; 7; 8)", "7"),
    ('IF(0; "late")', "FALSE"),
    ("IF(TRUE; 1; 1/0)", "1"),
    lazy=True,
    keeps=Keeps.REST,
)
def if_(row: int, condition: Evaluate, then: Evaluate, otherwise: Evaluate | None = None) -> Cell:
    if as_truth(condition(row)):
        return then(row)
    return otherwise(row) if otherwise else False


@define(
    _CHOICE,
    "IFS",
    "condition:truth; value:any…",
    "The value behind the first condition that is true: conditions and values by turns. #N/A when none is.",
    ('IFS(5 > 9; "large"; 5 > 3; "middling"; TRUE; "small")', '"middling"'),
    ("IFS(FALSE; 1)", "#N/A"),
    lazy=True,
    keeps=Keeps.ALL,
)
def ifs(row: int, *pairs: Evaluate) -> Cell:
    for condition, value in zip(pairs[::2], pairs[1::2], strict=False):
        if as_truth(condition(row)):
            return value(row)
    raise Wrong(Code.NOT_AVAILABLE, "none of the conditions is true")


@define(
    _CHOICE,
    "SWITCH",
    "value:any; match:any; result:any…",
    "The result behind the match that equals the value: matches and results by turns, and at the end, if you like, "
    "what else. #N/A when nothing matches.",
    ('SWITCH("B"; "A"; 14; "B"; 12; 10)', "12"),
    ('SWITCH("X"; "A"; 14; "B"; 12; 10)', "10"),
    ('SWITCH("X"; "A"; 14)', "#N/A"),
    lazy=True,
    keeps=Keeps.REST,
)
def switch(row: int, value: Evaluate, *pairs: Evaluate) -> Cell:
    wanted = value(row)
    for match, result in zip(pairs[::2], pairs[1::2], strict=False):
        if equal(wanted, match(row)):
            return result(row)
    if len(pairs) % 2:
        return pairs[-1](row)
    raise Wrong(Code.NOT_AVAILABLE, "nothing matches the value")


@define(
    _CHOICE,
    "AND",
    "condition:truth…",
    "True when every condition is.",
    ("AND(TRUE; 2 > 1)", "TRUE"),
    ("AND(TRUE; FALSE)", "FALSE"),
)
def and_(*conditions: bool) -> bool:
    return all(conditions)


@define(
    _CHOICE,
    "OR",
    "condition:truth…",
    "True when at least one condition is.",
    ("OR(FALSE; 2 > 1)", "TRUE"),
    ("OR(FALSE; 0)", "FALSE"),
)
def or_(*conditions: bool) -> bool:
    return any(conditions)


@define(_CHOICE, "NOT", "condition:truth", "True when the condition is not.", ("NOT(FALSE)", "TRUE"))
def not_(condition: bool) -> bool:
    return not condition


@define(
    _CHOICE,
    "XOR",
    "condition:truth…",
    "True when an odd number of the conditions are.",
    ("XOR(TRUE; FALSE)", "TRUE"),
    ("XOR(TRUE; TRUE)", "FALSE"),
)
def xor(*conditions: bool) -> bool:
    return sum(conditions) % 2 == 1


@define(_CHOICE, "TRUE", "", "True.", ("TRUE()", "TRUE"))
def true() -> bool:
    return True


@define(_CHOICE, "FALSE", "", "False.", ("FALSE()", "FALSE"))
def false() -> bool:
    return False


@define(
    _CHOICE,
    "IFERROR",
    "value:any; instead:any",
    "The value, or something else when it is an error.",
    ("IFERROR(7; 5)", "7"),
    ("IFERROR(1/0; 5)", "5"),
    lazy=True,
    keeps=Keeps.ALL,
)
def iferror(row: int, value: Evaluate, instead: Evaluate) -> Cell:
    try:
        return value(row)
    except ERRORS:
        return instead(row)


@define(
    _CHOICE,
    "IFNA",
    "value:any; instead:any",
    "The value, or something else when nothing was found; other errors stay.",
    ('IFNA(SWITCH("X"; "A"; 1); 0)', "0"),
    ("IFNA(1/0; 0)", "#DIV/0!"),
    lazy=True,
    keeps=Keeps.ALL,
)
def ifna(row: int, value: Evaluate, instead: Evaluate) -> Cell:
    try:
        return value(row)
    except ERRORS as fault:
        if wrong_of(fault).code is not Code.NOT_AVAILABLE:
            raise
        return instead(row)


@define(
    _ASKING,
    "ISBLANK",
    "value:any",
    "True when the cell has nothing in it. A text without characters is not blank.",
    ('ISBLANK("")', "FALSE"),
    ("ISBLANK(0)", "FALSE"),
)
def isblank(value: Cell) -> bool:
    return value is None


@define(
    _ASKING,
    "NEEDED",
    "value:needed",
    "The value; an error where the cell has nothing in it, so that the row is held and not sent without it.",
    ('"Pay by " & NEEDED("Friday")', '"Pay by Friday"'),
    ("NEEDED(5)", "5"),
    keeps=Keeps.FIRST,
)
def needed(value: Cell) -> Cell:
    return value


def _or_error(row: int, value: Evaluate) -> Cell | Wrong:
    try:
        return value(row)
    except ERRORS as fault:
        return wrong_of(fault)


@define(
    _ASKING,
    "ISNUMBER",
    "value:any",
    "True for a number, and for a date as well.",
    ("ISNUMBER(5)", "TRUE"),
    ('ISNUMBER("5")', "FALSE"),
    ("ISNUMBER(1/0)", "FALSE"),
    lazy=True,
)
def isnumber(row: int, value: Evaluate) -> bool:
    return isinstance(_or_error(row, value), (Decimal, date))


@define(
    _ASKING,
    "ISTEXT",
    "value:any",
    "True for a text.",
    ('ISTEXT("oops")', "TRUE"),
    ("ISTEXT(5)", "FALSE"),
    lazy=True,
)
def istext(row: int, value: Evaluate) -> bool:
    return isinstance(_or_error(row, value), str)


@define(
    _ASKING,
    "ISERROR",
    "value:any",
    "True for an error.",
    ("ISERROR(1/0)", "TRUE"),
    ("ISERROR(1)", "FALSE"),
    lazy=True,
)
def iserror(row: int, value: Evaluate) -> bool:
    return isinstance(_or_error(row, value), Wrong)


PLACE = 20
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (
    if_,
    ifs,
    switch,
    and_,
    or_,
    not_,
    xor,
    true,
    false,
    iferror,
    ifna,
    isblank,
    needed,
    isnumber,
    istext,
    iserror,
)
