"""The text takes more parts than most."""

import statistics
from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.words import count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView

ENOUGH = 5
"""From how many rows on there is a usual length worth comparing with; a figure of ours."""

LONGER = reason_kind("text longer", "{parts} parts where most texts with its wording take {usual}")


@check(
    key="longer",
    level=Level.LOOK,
    place=130,
    label="cost more than most",
    label_of_one="costs more than most",
    doc="The text takes more parts than most texts with the same wording.",
    do="See which cell makes it longer than the others, and shorten that.",
    sentence=lambda findings: f"{count(len(findings), 'text takes', 'texts take')} more parts than most of the round",
)
def longer(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    for _, mine in view.by_wording(rows):
        if len(mine) >= ENOUGH:
            usual = statistics.median_low(view.measures[row].parts for row in mine)
            for row in mine:
                if (parts := view.measures[row].parts) > usual:
                    yield Finding("longer", row, LONGER(parts=parts, usual=usual))
