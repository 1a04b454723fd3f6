"""Places in a text, as the browser counts them."""

from collections.abc import Sequence

from gentle_ledger.core.cells.fields import Where
from gentle_ledger.core.columns.column_set import ColumnSet
from gentle_ledger.core.formulas.parse import FormulaError
from gentle_ledger.core.sms.alphabet import utf16_units
from gentle_ledger.core.wording.parse import WordingProblem
from gentle_ledger.core.wording.spans import spans_in
from gentle_ledger.web.schemas import FieldOut, PlaceOut


def place_out(text: str, start: int, end: int, message: str, remedy: str) -> PlaceOut:
    """A place turned from code points into the UTF-16 units that the browser counts in."""
    return PlaceOut(start=utf16_units(text[:start]), end=utf16_units(text[:end]), message=message, remedy=remedy)


def fields_out(text: str, where: Where, columns: ColumnSet) -> list[FieldOut]:
    """The fields of a text as the browser draws them."""
    return [
        FieldOut(
            start=utf16_units(text[: span.start]),
            end=utf16_units(text[: span.end]),
            column=span.column,
            computed=span.computed,
            known=span.known,
        )
        for span in spans_in(text, where, columns)
    ]


def wording_problems(wording: str, problems: Sequence[WordingProblem]) -> list[PlaceOut]:
    return [place_out(wording, p.start, p.end, p.message, p.remedy) for p in problems]


def formula_problem(text: str | None, fault: FormulaError | None) -> PlaceOut | None:
    if fault is None:
        return None
    return place_out(text or "", fault.start, fault.end, fault.what, fault.remedy)
