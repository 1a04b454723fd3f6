"""An amount has more decimals than are written."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from gentle_ledger.core.cells.reading import Value
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.writing import money_rounded
from gentle_ledger.core.formulas.values import as_text
from gentle_ledger.core.recipe.format import FormatKind

SHORTENED = reason_kind("amount rounded", "{column} is {amount}, and is written with fewer decimals")


def _sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    amounts = count(len(findings), "amount has", "amounts have")
    where = f"{first.column} is {first.about('amount')} in row {number_of_row(first.row)}"
    return f"{amounts} more decimals than are written ({where}); ROUND in its formula makes them what is written"


@check(
    key="shortened",
    level=Level.LOOK,
    place=40,
    label="rounded",
    doc="An amount has more decimals than its currency. It is written rounded; sums made from it are not.",
    do="See whether the amount is meant so, and round it in its formula.",
    sentence=_sentence,
)
def shortened(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer, open_rows = view.composer, set(rows)
    for position in composer.used:
        column = composer.column(position)
        if column.format is None or column.format.kind is not FormatKind.MONEY:
            continue
        currency = column.format.detail or composer.recipe.currency
        read = view.by_row(column.values)

        def longer(read: Sequence[Value] = read, currency: str = currency) -> dict[int, str]:
            return {
                row: as_text(value)
                for row, value in enumerate(read)
                if isinstance(value, Decimal) and value != money_rounded(value, currency)
            }

        key = ("shortened", column.key, currency, composer.groups.key)
        for row, amount in composer.evaluation.kept(key, [column], longer).items():
            if row in open_rows:
                yield Finding("shortened", row, SHORTENED(column=column.name, amount=amount), column.name)
