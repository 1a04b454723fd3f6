"""Words that follow a count: "1 day", "3 days" (CLDR plural rules, Unicode Technical Standard 35, part 3)."""

from decimal import Decimal
from functools import lru_cache

from babel import Locale
from babel.plural import PluralRule

from gentle_ledger.core.cells.cell import Cell
from gentle_ledger.core.formulas.registry import FormulaContext, define
from gentle_ledger.core.formulas.values import Code, Wrong, as_text

_CASES = ("zero", "one", "two", "few", "many", "other")


@lru_cache(maxsize=8)
def _rule(locale: str) -> PluralRule:
    return Locale.parse(locale, sep="-").plural_form


def plural_case(count: Decimal, locale: str) -> str:
    """The CLDR case of a count in a locale: "one", "other" and so on. 1.0 counts as 1, which is how it is written."""
    plain = count.normalize()
    exponent = plain.as_tuple().exponent
    return str(_rule(locale)(plain.quantize(Decimal(1)) if isinstance(exponent, int) and exponent > 0 else plain))


@define(
    "Texts",
    "PLURAL",
    "count:number; case:text; words:any…",
    "The words that go with a count in the round's language. A case of CLDR stands before the words for it: zero, one, "
    "two, few or many. The last words stand alone, for all other counts.",
    ('PLURAL(1; "one"; "day"; "days")', '"day"'),
    ('PLURAL(3; "one"; "day"; "days")', '"days"'),
    ('PLURAL(0; "one"; "day"; "days")', '"days"'),
    ('3 & " " & PLURAL(3; "one"; "day"; "days")', '"3 days"'),
    ('PLURAL(1; "single"; "day"; "days")', "#VALUE!"),
    in_context=True,
)
def plural(context: FormulaContext, count: Decimal, *words: Cell) -> Cell:
    if len(words) % 2 == 0:
        raise Wrong(Code.VALUE, "the words for all other counts are missing at the end")
    cases = [as_text(case).strip().casefold() for case in words[:-1:2]]
    for case in cases:
        if case not in _CASES:
            raise Wrong(Code.VALUE, f"'{case}' is none of the cases zero, one, two, few and many")
    found = plural_case(count, context.locale)
    return words[cases.index(found) * 2 + 1] if found in cases else words[-1]


PLACE = 45
"""Where these functions stand in the help, the smallest first."""
FUNCTIONS = (plural,)
