"""It cannot be said when the text may leave."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import Reason
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.own_times import NO_HOURS, NO_SUCH_COLUMN, OwnTimes
from gentle_ledger.core.pace.civil import day_begins, zone_named
from gentle_ledger.core.pace.hours import Hours
from gentle_ledger.core.pace.why import clock_said
from gentle_ledger.core.wording.uses import paced_by


def _sentence(findings: Sequence[Finding]) -> str:
    first = findings[0]
    where = f"in row {number_of_row(first.row)}, {first.reason.sentence}"
    return f"When {count(len(findings), 'text')} may leave cannot be said: {where}"


@check(
    key="own time",
    level=Level.HOLDS,
    place=75,
    doc="The pace goes by a column of moments, or by the hours where the recipient is, and this row's moment or time "
    "zone cannot be read, or its hours never come.",
    do="Mend the moment in its cell, name the time zone in a column that the pace goes by, or change the hours.",
    sentence=_sentence,
)
def own_time(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer = view.composer
    times = OwnTimes(composer.evaluation, composer.recipe)
    names = composer.columns.names
    missing = [name for name in paced_by(composer.recipe, names) if composer.columns.position(name) is None]
    if missing:
        for row in rows:
            yield Finding("own time", row, NO_SUCH_COLUMN(column=missing[0]), missing[0])
        return
    if times.at is None and not times.by_recipient:
        return
    hours = composer.recipe.pace.hours
    rules = hours.as_hours() if hours else None
    for row in rows:
        # Which zone the office is in changes when a text leaves, and never whether that can be said.
        state = times.state(row, view.numbers[row].e164, "UTC")
        if isinstance(state, Reason):
            yield Finding("own time", row, state, composer.recipe.pace.at or composer.recipe.pace.zone)
        elif rules is not None and times.by_recipient and not _come(view, rules, state.zones):
            opens, closes = clock_said(rules.opens), clock_said(rules.closes)
            reason = NO_HOURS(opens=opens, closes=closes, zones=len(state.zones))
            yield Finding("own time", row, reason)


def _come(view: RoundView, hours: Hours, zones: tuple[str, ...]) -> bool:
    if view.today is None:
        return True
    return hours.window(zones, day_begins(view.today, zone_named(zones[0]))) is not None
