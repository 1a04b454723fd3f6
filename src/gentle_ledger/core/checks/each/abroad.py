"""A few numbers are from another country."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.phones import countries_of, country_code, country_name
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

ABROAD = reason_kind("number from abroad", "the number is read as one of {country}")


def _sentence(findings: Sequence[Finding]) -> str:
    countries = [country for country, _ in counted(findings, "country")]
    return f"{count(len(findings), 'number is', 'numbers are')} read as from another country: {listed(countries, 3)}"


@check(
    key="abroad",
    level=Level.LOOK,
    place=90,
    label="abroad",
    doc="A number is of another country than the round's: perhaps a slip, or a code without its +.",
    do="See whether it is theirs; if not, write the number with its country code, such as +1 902 555 0128.",
    sentence=_sentence,
)
def abroad(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    phones, region = view.composer.phones, view.composer.recipe.region
    countries = countries_of(view.numbers[row].e164 for row in rows)
    for row, country in zip(rows, countries, strict=True):
        home = region if phones.country is None else phones.region(row)
        away = not view.numbers[row].e164.startswith(f"+{country_code(home)}")
        # Several countries may share a code.
        if away or country not in {"", country_name(home)}:
            yield Finding("abroad", row, ABROAD(country=country), view.mobile_column)
