"""A figure far from the others."""

from collections.abc import Iterator, Sequence
from decimal import Decimal

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.checks.distance import FAR, Spread
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import first_and_more
from gentle_ledger.core.checks.view import RoundView

TIMES = 10
"""How many times the middle figure, or which part of it, is unusual whatever the others are; a figure of ours."""
ENOUGH = 5
"""From how many figures on there is a middle worth comparing with; a figure of ours."""


def _says(column: str, amount: str, times: str, usual: str, money: bool) -> str:
    what = "amount" if money else "figure"
    return f"{column} is {amount}, {f'{times} times the usual {what}' if times else f'most are near {usual}'}"


UNUSUAL = reason_kind("amount unusual", _says)


@check(
    key="unusual",
    level=Level.LOOK,
    place=70,
    label="unusual",
    doc=f"An amount or a number in the text is far from those of the other rows with the same wording: by a modified "
    f"z-score over {FAR}, or {TIMES} times the middle one, or a {TIMES}th of it. A slipped decimal mark, perhaps.",
    do="See whether the decimal mark is where it belongs, and mend the cell.",
    sentence=first_and_more,
)
def unusual(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    told = set[int]()
    groups = [mine for _, mine in view.by_wording(rows)]
    for column, role, figures in view.figures():
        for mine in groups:
            known = [(row, figure) for row in mine if (figure := figures[row]) is not None]
            others = [figure for _, figure in known]
            if len(known) < ENOUGH and len(groups) > 1:
                # Too few read this wording: they are compared with all that have the figure.
                others = [figure for row in rows if (figure := figures[row]) is not None]
            if len(others) < ENOUGH or not known:
                continue
            spread = Spread([float(figure) for figure in others])
            middle = Decimal(repr(spread.median))
            for row, figure in known:
                if row not in told and _is_far(figure, spread, middle):
                    told.add(row)
                    times = _times(figure, middle)
                    usual = f"{round(middle, 2):,f}"
                    amount = f"{figure:,f}"
                    reason = UNUSUAL(column=column, amount=amount, times=times, usual=usual, money=role is Role.MONEY)
                    yield Finding("unusual", row, reason, column)


def _is_far(figure: Decimal, spread: Spread, middle: Decimal) -> bool:
    if abs(spread.score(float(figure))) > FAR:
        return True
    return figure > 0 and middle > 0 and (figure >= TIMES * middle or figure * TIMES <= middle)


def _times(figure: Decimal, middle: Decimal) -> str:
    """How many times the middle figure it is, in as many digits as are read at a glance; "" where that says nothing."""
    if figure <= 0 or middle <= 0:
        return ""
    times = figure / middle
    if Decimal("0.95") < times < Decimal("1.05"):
        return ""
    if times >= TIMES:
        return f"{times:,.0f}"
    if times >= 1:
        return f"{times:.1f}"
    return f"{times:.2f}" if times >= Decimal("0.1") else f"{Decimal(f'{times:.1g}'):f}"
