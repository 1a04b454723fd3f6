"""All functions, in the order the help lists them."""

from gentle_ledger.core.formulas.functions import dates, logic, money, numbers, texts
from gentle_ledger.core.formulas.registry import Function

FUNCTIONS: tuple[Function, ...] = (
    *numbers.FUNCTIONS,
    *logic.FUNCTIONS,
    *dates.FUNCTIONS,
    *texts.FUNCTIONS,
    *money.FUNCTIONS,
)

BY_NAME = {function.name: function for function in FUNCTIONS}
