"""Rehearsals: the whole round to the stand-in carrier within the program, leaving nothing behind."""

from fastapi import APIRouter

from gentle_ledger.app.counting.jobs import FreezeRows, Frozen
from gentle_ledger.app.counting.reading_texts import SealWhole
from gentle_ledger.app.seal import seal_of_frozen
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.recipe.model import Recipe
from gentle_ledger.core.rounds.frozen import those_to_go
from gentle_ledger.core.rounds.rehearsed import FASTER
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.rehearsals import rehearsal_of
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.rehearsal.schemas import RehearsalOut
from gentle_ledger.web.rehearsal.view import changed_since, lasting_at_once, rehearsed_out, rehearsed_then

router = APIRouter(prefix="/api/rounds/{round_id}/rehearsal", tags=["rehearsal"])


@router.get("")
def rehearsal(here: Here, round_id: RoundId) -> RehearsalOut:
    """The rehearsal of a round as it stands, and whether the round is still as it was rehearsed."""
    _, opened = here.opened(round_id, preparing=True)
    counted = here.counting.counted(opened)
    running = here.rehearsals.look(round_id)
    with here.database.reading() as session:
        kept = rehearsal_of(session, round_id)
    # All texts are gone through for that: only where there is something to compare them with.
    seal = here.counting.answer(opened, SealWhole()) if kept else ""
    return RehearsalOut(
        title=opened.recipe.title,
        ready=counted.texts,
        lasting=lasting_at_once(opened.recipe, counted.texts),
        faster=FASTER,
        rehearsal=rehearsed_out(running) if running else None,
        kept=rehearsed_then(kept, seal, opened.recipe) if kept else None,
        changed=bool(kept and changed_since(kept, seal, opened.recipe)),
    )


_newest = from_the_newest(rehearsal)
"""The same, begun anew for as long as somebody changes the round meanwhile: for what is pressed once."""


@router.post("")
def begin_rehearsal(here: Here, round_id: RoundId) -> RehearsalOut:
    """Begins a rehearsal of all that is ready."""
    recipe, frozen = _frozen(here, round_id)
    going = those_to_go(frozen.rows)
    if not going:
        raise NotNow("No row is ready to be rehearsed.", "See what holds them under Worth a look.")
    here.rehearsals.begin(round_id, recipe, frozen.rows, seal_of_frozen(going))
    return _newest(here, round_id)


@from_the_newest
def _frozen(here: Context, round_id: int) -> tuple[Recipe, Frozen]:
    _, opened = here.opened(round_id, preparing=True)
    return opened.recipe, here.counting.answer(opened, FreezeRows(here.settings.zone))


@router.post("/stop")
def stop_rehearsal(here: Here, round_id: RoundId) -> RehearsalOut:
    """Stops the rehearsal of this round, if it is running."""
    here.rehearsals.stop(round_id)
    return _newest(here, round_id)
