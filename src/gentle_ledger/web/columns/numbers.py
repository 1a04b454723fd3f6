"""The numbers of a round in one view, and what is done to a whole batch of them."""

from typing import Annotated

from fastapi import APIRouter, Query

from gentle_ledger.app.commands.rows import TidyNumbers
from gentle_ledger.app.counting.jobs import SortNumbers
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.cell import as_written
from gentle_ledger.core.cells.phones import country_name
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.columns.tidy import details_of
from gentle_ledger.web.columns.schemas import BatchAction, NumberBatch, NumberOut, NumbersOut, TidyIn
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk

router = APIRouter(prefix="/api/rounds/{round_id}/numbers", tags=["columns"])


@router.get("")
def numbers(
    here: Here,
    round_id: RoundId,
    batch: str | None = None,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> NumbersOut:
    """The batches, and a window of the rows of one of them."""
    _, opened = here.opened(round_id, preparing=True)
    found = here.counting.answer(opened, SortNumbers())
    rows = next((g.rows for g in found if g.key == batch), tuple(range(len(opened.readings.sheet.rows))))
    position = opened.composer.mobile
    return NumbersOut(
        column=None if position is None else opened.composer.columns.names[position],
        region=opened.recipe.region,
        batches=[
            NumberBatch(
                key=g.key,
                sentence=g.sentence,
                rows=len(g.rows),
                wrong=g.wrong,
                actions=[BatchAction(action=a, label=a.label) for a in g.actions],
            )
            for g in found
        ],
        total=len(rows) if position is not None else 0,
        rows=[] if position is None else [_number_out(opened, position, row) for row in rows[offset : offset + limit]],
    )


def _number_out(opened: OpenRound, position: int, row: int) -> NumberOut:
    number = opened.composer.phones.number(position, row)
    details = details_of(number.e164)
    computed = position >= opened.composer.columns.first_computed
    return NumberOut(
        row=number_of_row(row),
        label=opened.composer.label(row),
        typed="" if computed else as_written(opened.readings.sheet.rows[row][position]).strip(),
        e164=number.e164,
        country=country_name(details.country) if details.country else "",
        kind=details.kind,
        zone=details.zones[0] if len(details.zones) == 1 else "",
        problem=number.problem.sentence if number.problem else "",
    )


@router.post("")
def tidy(here: Here, round_id: RoundId, body: TidyIn) -> Desk:
    """Mends all numbers of a batch at once, which can be undone, or leaves their rows out."""
    return changed_desk(here, round_id, _tidying(here, round_id, body))


@from_the_newest
def _tidying(here: Context, round_id: int, body: TidyIn) -> TidyNumbers:
    _, opened = here.opened(round_id, preparing=True)
    batches = here.counting.answer(opened, SortNumbers())
    batch = next((each for each in batches if each.key == body.batch), None)
    return TidyNumbers(version=opened.version, batch=batch, action=body.action, country=body.country)
