"""Instalments, and the small tables kept with a round."""

from decimal import Decimal

from gentle_ledger.core.cells.cell import Cell, column_key
from gentle_ledger.core.cells.words import clipped, listed
from gentle_ledger.core.formulas.registry import FormulaContext, Keeps, define
from gentle_ledger.core.formulas.values import ONE, WORK, ZERO, Code, Wrong, as_text, number_in

_MONEY = "Tariffs and instalments"


@define(
    _MONEY,
    "PMT",
    "rate:number; payments:number; amount:number; [left over:number]; [at start:number]",
    "The equal payment that pays an amount off, with interest at a rate per payment; negative, as money going out "
    "(ODF 1.3 part 4, 6.12). 1 at the end when payments fall at the start of each period.",
    ("ROUND(PMT(0.12/12; 12; 1000); 2)", "-88.85"),
    ("PMT(0; 4; 1000)", "-250"),
    keeps=Keeps.ALL,
)
def pmt(
    rate: Decimal, payments: Decimal, amount: Decimal, left_over: Decimal = ZERO, at_start: Decimal = ZERO
) -> Decimal:
    if not payments:
        raise Wrong(Code.NUMBER, "there has to be at least one payment")
    if rate <= -1:
        raise Wrong(Code.NUMBER, f"{as_text(rate)} is not a rate: nothing would be left after one payment")
    if not rate:
        return WORK.divide(-WORK.add(amount, left_over), payments)
    growth = WORK.power(WORK.add(ONE, rate), payments)
    owed = WORK.add(WORK.multiply(amount, growth), left_over)
    each = WORK.divide(WORK.multiply(owed, rate), WORK.subtract(growth, ONE))
    return -(WORK.divide(each, WORK.add(ONE, rate)) if at_start else each)


@define(
    _MONEY,
    "FROMTABLE",
    "table:text; wanted:any; [otherwise:any]",
    "The value that a table kept with the round has for a key: a tariff by berth class. Capitals and small letters are "
    "alike. #N/A, or what else you give, when the table has no such key.",
    ('FROMTABLE("Tariff"; "b")', "12.5"),
    ('FROMTABLE("Tariff"; "Z"; 0)', "0"),
    ('FROMTABLE("Tariff"; "Z")', "#N/A"),
    in_context=True,
)
def fromtable(around: FormulaContext, name: str, wanted: Cell, *otherwise: Cell) -> Cell:
    table = around.tables.get(column_key(name))
    if table is None:
        kept = f"; there is {listed(list(around.tables), 3)}" if around.tables else ""
        raise Wrong(Code.NOT_AVAILABLE, f"no table '{clipped(name)}' is kept with the round{kept}")
    key = column_key(as_text(wanted))
    found = table.get(key)
    if found is None and (number := number_in(key)) is not None:
        # "7.0" and "7" are one key when they are numbers.
        found = next((value for k, value in table.items() if number_in(k) == number), None)
    if found is not None:
        return found
    if otherwise:
        return otherwise[0]
    raise Wrong(Code.NOT_AVAILABLE, f"the table {name} has nothing for '{clipped(as_text(wanted))}'")


PLACE = 50
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (fromtable, pmt)
