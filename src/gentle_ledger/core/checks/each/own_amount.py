"""The text says an amount that is not one of the row's own."""

import re
from collections.abc import Iterator, Sequence
from decimal import Decimal
from functools import lru_cache

from babel.numbers import get_currency_symbol

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.suspects import found_in_texts
from gentle_ledger.core.checks.view import RoundView

OTHER = reason_kind("amount not the row's", "the text says {amount}, which is none of the row's own amounts")
_FIGURE = r"\d{1,3}(?:[,.'\u00a0\u202f ]?\d{3}){0,6}(?:[.,]\d{2})?(?![\d.,]{0,3}\d)"


@lru_cache(maxsize=8)
def _amounts(currency: str, locale: str) -> re.Pattern[str]:
    """An amount as it is written: a figure with the currency's sign or code at one of its sides."""
    signs = {"$", "€", "£", currency, get_currency_symbol(currency, locale=locale.replace("-", "_"))}
    sign = "|".join(sorted(map(re.escape, signs), key=len, reverse=True))
    return re.compile(
        rf"(?:{sign})[ \u00a0]?(?P<front>{_FIGURE})|(?<![\w.,])(?P<back>{_FIGURE})[ \u00a0\u202f]?(?:{sign})"
    )


def _sentence(findings: Sequence[Finding]) -> str:
    shown = [f"{amount} in {count(n, 'row')}" for amount, n in counted(findings, "amount")]
    return f"The text says {listed(shown, 3)}, which is none of the row's own amounts"


@check(
    key="own amount",
    level=Level.LOOK,
    place=16,
    label="with an amount not its own",
    doc="An amount in the text is typed, or stands in a cell of words, and is in none of the row's columns of money.",
    do="Take the amount from its column with a field, in place of typing it.",
    sentence=_sentence,
)
def own_amount(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer, recipe = view.composer, view.composer.recipe
    pattern = _amounts(recipe.currency, recipe.locale)
    for row, _ in found_in_texts(view, rows, pattern, pattern, frozenset({Role.MONEY, Role.LINK})):
        own = _own(view, row)
        for run in composer.runs(row):
            position = composer.columns.position(run.column) if run.column else None
            if position is not None and composer.roles[position] in {Role.MONEY, Role.LINK}:
                continue
            others = [m[0] for m in pattern.finditer(run.text) if _cents(m["front"] or m["back"]) not in own]
            if others:
                yield Finding("own amount", row, OTHER(amount=others[0].strip()), run.column)
                break


def _own(view: RoundView, row: int) -> set[str]:
    """The row's amounts as digits, cents included; those of all the rows where it is combined, and theirs together."""
    composer, groups = view.composer, view.composer.groups
    columns = [composer.column(at) for at, role in enumerate(composer.roles) if role is Role.MONEY]
    places = (groups.place(row), *groups.together(row))
    values = [value for column in columns for place in places if isinstance(value := column.values[place], Decimal)]
    return {_cents(f"{abs(value):.2f}") for value in values}


def _cents(figure: str) -> str:
    digits = "".join(character for character in figure if character.isdecimal()).lstrip("0")
    return digits if re.search(r"[.,]\d{2}$", figure) else f"{digits}00"
