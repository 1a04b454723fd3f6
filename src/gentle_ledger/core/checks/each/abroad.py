"""Many numbers are from another country."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.phones import country_name
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.each.which_country import foreign
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
    doc="Half of the round's numbers or more are of another country: the round's own country may be set wrongly.",
    do="See whether they are theirs; if not, write them with their country code, such as +1 902 555 0128.",
    sentence=_sentence,
)
def abroad(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for row, region in foreign(view, rows).items():
        yield Finding("abroad", row, ABROAD(country=country_name(region)), view.mobile_column)
