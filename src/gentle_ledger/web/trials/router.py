"""One to myself: trials of a round's texts, and what became of them."""

from fastapi import APIRouter
from sqlalchemy.orm import Session

from gentle_ledger.app.counting.reading_texts import ReadForTrial, TrialText
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.app.trials import own_number_of, try_on_oneself
from gentle_ledger.core.cells.rows import row_of_number
from gentle_ledger.store.errors import NotThere
from gentle_ledger.store.rounds import preparing_round, round_of
from gentle_ledger.store.trials import own_number, trials_left, trials_of
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.trials.schemas import TrialIn, TrialOut, TrialsOut

router = APIRouter(prefix="/api/rounds/{round_id}/trials", tags=["trials"])


def _out(here: Context, session: Session, round_id: int) -> TrialsOut:
    return TrialsOut(
        own=own_number(session),
        left=trials_left(session, here.clock.now()),
        trials=[
            TrialOut(
                id=trial.id,
                row=trial.row,
                number=trial.address,
                mark=trial.mark,
                reason=trial.reason,
                parts=trial.parts,
                at=trial.marked_at,
            )
            for trial in trials_of(session, round_id)
        ],
    )


@router.get("")
def trials(here: Here, round_id: RoundId) -> TrialsOut:
    """The trials of this round's texts."""
    with here.database.reading() as session:
        round_of(session, round_id)
        return _out(here, session, round_id)


@router.post("", status_code=201)
def try_one(here: Here, round_id: RoundId, body: TrialIn) -> TrialsOut:
    """Has a row's text sent to a number of the clerk's own, by the round's line and at its pace.

    It belongs to no row's history. The number of anybody in the round is refused; one that stands in another round is
    asked about.
    """
    number, text = _read(here, round_id, body)
    with here.database.writing() as session:
        preparing_round(session, round_id)
        try_on_oneself(session, round_id, text, number, body.fingerprint, here.clock.now(), sure=body.sure)
    here.changed()
    with here.database.reading() as session:
        return _out(here, session, round_id)


@from_the_newest
def _read(here: Context, round_id: int, body: TrialIn) -> tuple[str, TrialText]:
    found, opened = here.opened(round_id, preparing=True)
    if body.row > found.row_count:
        raise NotThere(f"There is no row {body.row} in this round.", row=body.row)
    number = own_number_of(body.number, opened.recipe.region)
    return number, here.counting.answer(opened, ReadForTrial(row_of_number(body.row), number))
