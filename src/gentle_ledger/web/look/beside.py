"""Beside last time: the rows of a round and of the earlier one that it came from, side by side."""

from collections import Counter
from dataclasses import asdict, replace
from decimal import Decimal
from typing import Annotated

from fastapi import APIRouter, Query

from gentle_ledger.app.counting.beside_jobs import StandNow, StoodAt, StoodThen
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.rows import number_of_row
from gentle_ledger.core.rounds.beside import Beside, Pair, Stood, beside
from gentle_ledger.store.earlier_rounds import earlier_rounds, likely_one
from gentle_ledger.store.errors import NotThere
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.look.schemas import BesideLine, BesideOut, EarlierOut

router = APIRouter(prefix="/api/rounds/{round_id}/beside", tags=["look"])


@router.get("")
@from_the_newest
def beside_last_time(
    here: Here,
    round_id: RoundId,
    other: Annotated[int | None, Query(ge=1, le=2**63 - 1)] = None,
    percent: Annotated[int, Query(ge=0, le=10_000)] = 25,
    kind: Beside | None = None,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=0, le=500)] = 100,
) -> BesideOut:
    """The rows of this round beside those of an earlier one: the likely one, or `other`.

    `percent` is by how much of last time's amount one must have changed to be listed as changed.
    """
    _, opened = here.opened(round_id, preparing=True)
    now = here.counting.answer(opened, StandNow())
    with here.database.reading() as session:
        choices = earlier_rounds(session, round_id, {stood.number for stood in now.rows if stood.number})
    chosen = likely_one(choices) if other is None else next((each for each in choices if each.id == other), None)
    if other is not None and chosen is None:
        raise NotThere("No number of this round stands in that one.", "Choose another round.")
    pairs: list[Pair] = []
    if chosen is not None:
        _, before = here.opened(chosen.id)
        then = here.counting.answer(before, StoodThen())
        pairs = beside(now.rows, _in_one_currency(then, now), Decimal(percent) / 100)
    counts = Counter(pair.kind for pair in pairs)
    listed = [pair for pair in pairs if kind is None or pair.kind is kind]
    return BesideOut(
        title=opened.recipe.title,
        other=EarlierOut(**asdict(chosen)) if chosen else None,
        choices=[EarlierOut(**asdict(each)) for each in choices],
        column=now.column,
        counts=dict(counts),
        total=len(listed),
        lines=[_line(pair) for pair in listed[offset : offset + limit]],
    )


def _in_one_currency(then: StoodAt, now: StoodAt) -> list[Stood]:
    """Amounts of another currency are no amounts to compare."""
    if then.currency == now.currency:
        return list(then.rows)
    return [replace(stood, amount=None) for stood in then.rows]


def _line(pair: Pair) -> BesideLine:
    now, before = pair.now, pair.before
    return BesideLine(
        kind=pair.kind,
        row=number_of_row(now.row) if now else None,
        label=(now.label if now else "") or (before.label if before else ""),
        number=now.number if now else "",
        before_number=before.number if before else "",
        before_label=before.label if before else "",
        before=before.shown if before else "",
        now=now.shown if now else "",
        percent=None if pair.share is None else round(pair.share * 100),
        why=pair.why,
    )
