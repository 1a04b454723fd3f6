"""Cells of a row that stand in one another's place, as after a cell was taken out of it, put in, or dragged."""

from collections.abc import Iterator, Sequence

from gentle_ledger.core.cells.cell import as_written, same_cell
from gentle_ledger.core.cells.reasons import reason_kind
from gentle_ledger.core.cells.roles import Role
from gentle_ledger.core.cells.words import clipped, count
from gentle_ledger.core.checks.model import Finding, Level, check
from gentle_ledger.core.checks.view import RoundView
from gentle_ledger.core.columns.shapes import shape_of

SLIPPED = reason_kind(
    "slipped cell",
    lambda column, typed, other: f'"{clipped(typed)}" in {column} looks like {other}: did the row slip?',
)
_AS_IT_STANDS = frozenset({Role.NAME, Role.REFERENCE, Role.TEXT})


@check(
    key="slipped",
    level=Level.MAY_BE_RELEASED,
    place=95,
    label="perhaps slipped",
    doc="A cell that the wording uses looks otherwise than nearly all of its column and like those of another one, and "
    "the row's own cell there is the same one, is missing, or looks otherwise too: the row may have slipped.",
    do="See whether each cell of the row stands in its own column, and mend it; or let the row go.",
    sentence=lambda findings: f"{count(len(findings), 'row')} may have slipped: {findings[0].reason.sentence}",
)
def slipped(view: RoundView, rows: Sequence[int]) -> Iterator[Finding]:
    composer, readings = view.composer, view.composer.readings
    own = range(composer.columns.first_computed)
    used = [i for i in composer.used if i in own and composer.roles[i] in _AS_IT_STANDS]
    odd = {position: found for position in used if (found := readings.odd_shapes(position))}
    wanted = frozenset(rows) if odd else frozenset[int]()
    names, found_in = composer.columns.names, dict[int, Finding]()
    for position, found in odd.items():
        for row in sorted(found):
            bears = view.lead(row)
            if bears in wanted and bears not in found_in and (other := _in_place_of(view, row, position)) is not None:
                typed = as_written(readings.sheet.rows[row][position])
                reason = SLIPPED(column=names[position], typed=typed, other=names[other])
                found_in[bears] = Finding("slipped", bears, reason, names[position])
    yield from (found_in[row] for row in sorted(found_in))


def _in_place_of(view: RoundView, row: int, position: int) -> int | None:
    """The column that a cell seems to be from; None where it may well be of its own."""
    readings = view.composer.readings
    cells = readings.sheet.rows[row]
    shape = shape_of(cells[position])
    for other in range(len(cells)):
        if other != position and readings.shapes(other).usual is shape:
            missing = readings.shapes(other).looks_otherwise(cells[other])
            if missing or same_cell(cells[other], cells[position]):
                return other
    return None
