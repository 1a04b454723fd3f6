"""Sums, rounding and averages (OpenFormula: ODF 1.3 part 4, 6.16 to 6.18)."""

from datetime import date
from decimal import ROUND_CEILING, ROUND_DOWN, ROUND_FLOOR, ROUND_HALF_UP, ROUND_UP, Decimal

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.formulas.registry import Keeps, define
from gentle_ledger.core.formulas.rounding import rounded
from gentle_ledger.core.formulas.values import WORK, ZERO, Code, Wrong, days_between, not_a, number_in

_ROUNDING = "Rounding"
_SUMS = "Sums and powers"


@define(
    _ROUNDING,
    "ROUND",
    "number:number; [decimals:number]",
    "Rounded to so many decimals, a half away from zero; to tens or hundreds with -1 or -2.",
    ("ROUND(2.675; 2)", "2.68"),
    ("ROUND(-2.5)", "-3"),
    ("ROUND(1234; -2)", "1200"),
    keeps=Keeps.FIRST,
)
def round_(number: Decimal, decimals: Decimal = ZERO) -> Decimal:
    return rounded(number, decimals, ROUND_HALF_UP)


@define(
    _ROUNDING,
    "ROUNDUP",
    "number:number; [decimals:number]",
    "Rounded away from zero.",
    ("ROUNDUP(1.1; 0)", "2"),
    ("ROUNDUP(-1.1; 0)", "-2"),
    keeps=Keeps.FIRST,
)
def roundup(number: Decimal, decimals: Decimal = ZERO) -> Decimal:
    return rounded(number, decimals, ROUND_UP)


@define(
    _ROUNDING,
    "ROUNDDOWN",
    "number:number; [decimals:number]",
    "Cut off, towards zero.",
    ("ROUNDDOWN(1.45673; 2)", "1.45"),
    ("ROUNDDOWN(-9.9; 0)", "-9"),
    keeps=Keeps.FIRST,
)
def rounddown(number: Decimal, decimals: Decimal = ZERO) -> Decimal:
    return rounded(number, decimals, ROUND_DOWN)


@define(
    _ROUNDING,
    "INT",
    "number:number",
    "Down to the whole number below.",
    ("INT(1.9)", "1"),
    ("INT(-1.2)", "-2"),
    keeps=Keeps.FIRST,
)
def int_(number: Decimal) -> Decimal:
    return rounded(number, ZERO, ROUND_FLOOR)


def _multiple(number: Decimal, step: Decimal, way: str) -> Decimal:
    if not step or not number:
        return ZERO
    return WORK.multiply(rounded(WORK.divide(number, abs(step)), ZERO, way), abs(step))


@define(
    _ROUNDING,
    "CEILING",
    "number:number; [step:number]; [mode:number]",
    "Up to the next multiple of the step (1 when it is left out). With a mode other than 0, away from zero.",
    ("CEILING(2.5; 0.5)", "2.5"),
    ("CEILING(12.1; 1)", "13"),
    ("CEILING(-2.5; -2)", "-2"),
    ("CEILING(-2.5; -2; 1)", "-4"),
    keeps=Keeps.FIRST,
)
def ceiling(number: Decimal, step: Decimal = Decimal(1), mode: Decimal = ZERO) -> Decimal:
    _refuse_other_sign(number, step)
    return _multiple(number, step, ROUND_UP if mode else ROUND_CEILING)


@define(
    _ROUNDING,
    "FLOOR",
    "number:number; [step:number]; [mode:number]",
    "Down to a multiple of the step (1 when it is left out). With a mode other than 0, towards zero.",
    ("FLOOR(2.7; 1)", "2"),
    ("FLOOR(12.99; 0.25)", "12.75"),
    ("FLOOR(-2.5; -2)", "-4"),
    ("FLOOR(-2.5; -2; 1)", "-2"),
    keeps=Keeps.FIRST,
)
def floor(number: Decimal, step: Decimal = Decimal(1), mode: Decimal = ZERO) -> Decimal:
    _refuse_other_sign(number, step)
    return _multiple(number, step, ROUND_DOWN if mode else ROUND_FLOOR)


@define(
    _ROUNDING,
    "MROUND",
    "number:number; step:number",
    "To the nearest multiple of the step, a half away from zero.",
    ("MROUND(12.12; 0.05)", "12.1"),
    ("MROUND(7.5; 5)", "10"),
    ("MROUND(5; -2)", "#NUM!"),
    keeps=Keeps.FIRST,
)
def mround(number: Decimal, step: Decimal) -> Decimal:
    if number * step < 0:
        raise Wrong(Code.NUMBER, "the number and its step have different signs")
    return _multiple(number, step, ROUND_HALF_UP)


def _refuse_other_sign(number: Decimal, step: Decimal) -> None:
    if number > 0 > step:
        raise Wrong(Code.NUMBER, "the step is negative and the number is not")


@define(_SUMS, "ABS", "number:number", "The number without its sign.", ("ABS(-4)", "4"), keeps=Keeps.FIRST)
def abs_(number: Decimal) -> Decimal:
    return abs(number)


@define(_SUMS, "SIGN", "number:number", "1, 0 or -1.", ("SIGN(-4)", "-1"), ("SIGN(0)", "0"))
def sign(number: Decimal) -> Decimal:
    return Decimal((number > 0) - (number < 0))


@define(
    _SUMS,
    "MOD",
    "number:number; divisor:number",
    "What is left after dividing, with the sign of the divisor.",
    ("MOD(-2; 3)", "1"),
    ("MOD(-2; -3)", "-2"),
    ("MOD(5; 0)", "#DIV/0!"),
    keeps=Keeps.FIRST,
)
def mod(number: Decimal, divisor: Decimal) -> Decimal:
    times = WORK.divide(number, divisor)
    if times.adjusted() >= _MOST_TIMES:
        raise Wrong(Code.NUMBER, "the number is too large for its divisor")
    return WORK.subtract(number, WORK.multiply(divisor, rounded(times, ZERO, ROUND_FLOOR)))


_MOST_TIMES = 28
"""Digits of a whole quotient, past which its last ones, and with them what is left over, are not known."""


def _known(values: tuple[Decimal | None, ...]) -> list[Decimal]:
    return [value for value in values if value is not None]


def _total(values: list[Decimal]) -> Decimal:
    total = ZERO
    for value in values:
        total = WORK.add(total, value)
    return total


@define(
    _SUMS,
    "SUM",
    "number:counted…",
    "All of them added.",
    ("SUM(1; 2; 3)", "6"),
    ("SUM(TRUE; 2; 3)", "6"),
    keeps=Keeps.ALL,
)
def sum_(*values: Decimal | None) -> Decimal:
    return _total(_known(values))


@define(
    _SUMS,
    "PRODUCT",
    "number:counted…",
    "All of them multiplied; blank cells are passed over.",
    ("PRODUCT(2; 3; 4)", "24"),
)
def product(*values: Decimal | None) -> Decimal:
    known = _known(values)
    found = Decimal(1) if known else ZERO
    for value in known:
        found = WORK.multiply(found, value)
    return found


@define(
    _SUMS,
    "AVERAGE",
    "number:counted…",
    "Their mean; blank cells do not count.",
    ("AVERAGE(2; 4)", "3"),
    keeps=Keeps.ALL,
)
def average(*values: Decimal | None) -> Decimal:
    known = _known(values)
    if not known:
        raise Wrong(Code.DIVISION, "there is nothing to take the average of")
    return WORK.divide(_total(known), Decimal(len(known)))


def _outermost(values: tuple[Decimal | date | None, ...], largest: bool) -> Cell:
    """The smallest or largest: of numbers or of days, never of both."""
    known = [value for value in values if value is not None]
    if not known:
        return ZERO
    found = known[0]
    for value in known[1:]:
        if isinstance(value, Decimal) and isinstance(found, Decimal):
            further = value > found if largest else value < found
        elif isinstance(value, date) and isinstance(found, date):
            apart = days_between(value, found)
            further = apart > 0 if largest else apart < 0
        else:
            raise not_a("a date", value if isinstance(value, Decimal) else found, None)
        if further:
            found = value
    return found


@define(
    _SUMS,
    "MIN",
    "value:ordered…",
    "The smallest number or the earliest date; blank cells do not count.",
    ("MIN(2; 4; 1; -8)", "-8"),
    ("MIN(DATE(2026; 11; 30); DATE(2026; 12; 1))", "DATE(2026; 11; 30)"),
    keeps=Keeps.ALL,
)
def min_(*values: Decimal | date | None) -> Cell:
    return _outermost(values, largest=False)


@define(
    _SUMS,
    "MAX",
    "value:ordered…",
    "The largest number or the latest date; blank cells do not count.",
    ("MAX(2; 4; 1; -8)", "4"),
    ("MAX(0; -3.20)", "0"),
    keeps=Keeps.ALL,
)
def max_(*values: Decimal | date | None) -> Cell:
    return _outermost(values, largest=True)


@define(
    _SUMS,
    "COUNT",
    "value:any…",
    "How many of them are numbers or dates; a text that is plainly a number counts, as SUM adds it.",
    ('COUNT(1; "x"; 3)', "2"),
    ('COUNT(1; "2"; "x")', "2"),
)
def count(*values: Cell) -> Decimal:
    texts = sum(number_in(value) is not None for value in values if isinstance(value, str))
    return Decimal(texts + sum(isinstance(value, (Decimal, date)) for value in values))


@define(
    _SUMS,
    "COUNTA",
    "value:any…",
    "How many of them are not blank.",
    ('COUNTA(1; "x"; "")', "3"),
)
def counta(*values: Cell) -> Decimal:
    return Decimal(sum(value is not None for value in values))


@define(
    _SUMS,
    "POWER",
    "base:number; exponent:number",
    "The base raised to the exponent, as with ^.",
    ("POWER(2; 10)", "1024"),
    ("POWER(-8; 1/3)", "#NUM!"),
)
def power(base: Decimal, exponent: Decimal) -> Decimal:
    if not base and exponent < 0:
        raise Wrong(Code.DIVISION, "0 cannot be raised to a negative power")
    return WORK.power(base, exponent)


@define(_SUMS, "SQRT", "number:number", "The square root.", ("SQRT(16)", "4"), ("SQRT(-1)", "#NUM!"))
def sqrt(number: Decimal) -> Decimal:
    if number < 0:
        raise Wrong(Code.NUMBER, "a negative number has no square root")
    return WORK.sqrt(number)


PLACE = 10
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (
    sum_,
    product,
    average,
    min_,
    max_,
    count,
    counta,
    round_,
    roundup,
    rounddown,
    int_,
    ceiling,
    floor,
    mround,
    abs_,
    sign,
    mod,
    power,
    sqrt,
)
