"""A wording names another month than the round's."""

import re
from collections.abc import Iterator, Sequence
from datetime import date
from functools import lru_cache

from babel import Locale

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.suspects import words_of
from gentle_ledger.core.checks.view import RoundView

OTHER = reason_kind("other month", "the wording says {month}, and the round is for {own}")


@lru_cache(maxsize=8)
def _months(locale: str) -> tuple[dict[str, int], re.Pattern[str]]:
    """The months by their names in a locale (CLDR, the wide ones), and a pattern that finds them as they are written.

    "may" and "march" are words as well: a name counts as it is written in CLDR, and "May" not in front of a verb.
    """
    months = Locale.parse(locale, sep="-").months
    names = {months[use]["wide"][n]: n for use in ("format", "stand-alone") for n in range(1, 13)}
    alternatives = "|".join(sorted(map(re.escape, names), key=len, reverse=True))
    return names, re.compile(rf"(?<!\w)({alternatives})(?!\w)(?! (?:we|you|I|it|they|he|she|be|also)\b)")


def months_in(text: str, locale: str) -> list[int]:
    """The months that a text names, 1 to 12, each once in their order."""
    names, pattern = _months(locale)
    return list(dict.fromkeys(names[match[1]] for match in pattern.finditer(text)))


def month_of_round(title: str, day: date | None, locale: str) -> int | None:
    """The month that a round is for: the one in its title, or that of its date; None where neither says."""
    named = months_in(title, locale)
    if len(named) == 1:
        return named[0]
    return None if named or day is None else day.month


def _sentence(findings: Sequence[Finding]) -> str:
    return f"{findings[0].reason.sentence[:1].upper()}{findings[0].reason.sentence[1:]} ({count(len(findings), 'row')})"


@check(
    key="other month",
    level=Level.LOOK,
    place=22,
    label="of another month",
    doc="The wording names a month that is not the round's: its words may be last month's.",
    do="See whether the wording is last month's, and mend the month.",
    mends=(),
    sentence=_sentence,
)
def other_month(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    recipe = view.composer.recipe
    own = month_of_round(recipe.title, view.today, recipe.locale)
    if own is None:
        return
    name_of = Locale.parse(recipe.locale, sep="-").months["stand-alone"]["wide"]
    for wording, mine in view.by_wording(rows):
        others = [month for month in months_in(words_of(wording), recipe.locale) if month != own]
        for row in mine if others else ():
            yield Finding("other month", row, OTHER(month=name_of[others[0]], own=name_of[own]))
