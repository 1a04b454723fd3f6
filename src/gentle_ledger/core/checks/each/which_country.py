"""Numbers of another country, among those of the round's own, of which nobody has said that they are right."""

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from gentle_ledger.core.cells.phones import country_code, country_name, regions_of
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.phrases import counted
from gentle_ledger.core.checks.view import RoundView

WHICH = reason_kind(
    "country in question", lambda country, region: f"the number is read as one of {country} ({region}): is that right?"
)


def foreign(view: RoundView, rows: Sequence[int]) -> dict[int, str]:
    """The rows whose number is of another country than it should be, by the code of that country (ISO 3166-1)."""
    phones, recipe = view.composer.phones, view.composer.recipe
    found = {}
    for row, region in zip(rows, regions_of(view.numbers[row].e164 for row in rows), strict=True):
        home = recipe.region if phones.country is None else phones.region(row)
        # Several countries may share a code.
        away = not view.numbers[row].e164.startswith(f"+{country_code(home)}")
        if (away or region not in {"", home}) and region not in recipe.countries:
            found[row] = region
    return found


def in_question(away: Mapping[int, str], rows: int) -> dict[str, list[int]]:
    """By country, the rows that are few beside all others: many say that the round is one of such numbers."""
    few = {region for region, n in Counter(away.values()).items() if 2 * n <= rows}
    found: dict[str, list[int]] = {}
    for row, region in away.items():
        if region in few:
            found.setdefault(region, []).append(row)
    return found


def _sentence(findings: Sequence[Finding]) -> str:
    countries = [country for country, _ in counted(findings, "country")]
    return f"{count(len(findings), 'number is', 'numbers are')} read as from another country: {listed(countries, 3)}"


@check(
    key="which country",
    level=Level.MAY_BE_RELEASED,
    place=55,
    label="abroad",
    doc="A number is of another country than the round's, and nobody has said that such numbers are right: it may be a "
    "slip. Where half of the round's numbers or more are of that country, they are only pointed out.",
    do="See whether it is theirs, and say at the top that numbers of that country are right; or mend it.",
    sentence=_sentence,
)
def which_country(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for region, mine in in_question(foreign(view, rows), len(view.numbers)).items():
        for row in mine:
            yield Finding("which country", row, WHICH(country=country_name(region), region=region), view.mobile_column)
