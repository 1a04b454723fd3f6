"""The wordings of a round: put in, changed, taken out, tried in another order; stretches for some rows only."""

from typing import Annotated

from fastapi import APIRouter, Query

from gentle_ledger.app.commands.wordings import MakeStretch, OrderWordings, PutWording, RemoveWording
from gentle_ledger.web.context import Here, RoundId
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk

router = APIRouter(prefix="/api/rounds/{round_id}/wordings", tags=["wordings"])


@router.put("")
def put_in(here: Here, round_id: RoundId, body: PutWording) -> Desk:
    """Puts a wording in, or gives one another name or condition."""
    return changed_desk(here, round_id, body)


@router.delete("")
def remove_wording(here: Here, round_id: RoundId, name: Annotated[str, Query(max_length=100)]) -> Desk:
    """Takes a wording out."""
    return changed_desk(here, round_id, RemoveWording(name=name))


@router.post("/order")
def order_wordings(here: Here, round_id: RoundId, body: OrderWordings) -> Desk:
    """Has them tried in another order."""
    return changed_desk(here, round_id, body)


@router.post("/stretch")
def make_stretch(here: Here, round_id: RoundId, body: MakeStretch) -> Desk:
    """Makes marked words of a wording a computed column, for some rows only."""
    return changed_desk(here, round_id, body)
