"""A few numbers are from another country."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.phones import country_code, country_of
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

FEW = 0.1
"""Up to this share of rows a number from abroad may be a slip; a figure of ours."""

ABROAD = reason_kind("number from abroad", "the number is read as one of {country}")


def _sentence(findings: Sequence[Finding]) -> str:
    countries = [country for country, _ in counted(findings, "country")]
    return f"{count(len(findings), 'number is', 'numbers are')} read as from another country: {listed(countries, 3)}"


@check(
    key="abroad",
    level=Level.LOOK,
    place=90,
    label="abroad",
    doc="A few numbers are from another country: perhaps a slip, or a code without its +.",
    sentence=_sentence,
)
def abroad(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    phones = view.composer.phones
    home = f"+{country_code(view.composer.recipe.region)}"

    def at_home(row: int) -> str:
        return home if phones.country is None else f"+{country_code(phones.region(row))}"

    found = [row for row in rows if not view.numbers[row].e164.startswith(at_home(row))]
    # Where many numbers are from elsewhere, that is how the round is.
    if len(found) <= max(1, FEW * len(rows)):
        for row in found:
            yield Finding("abroad", row, ABROAD(country=country_of(view.numbers[row].e164)), view.mobile_column)
