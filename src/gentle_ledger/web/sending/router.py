"""Sending: the confirmation, start, pause, go on, stop, try again, and the stream of what happens."""

import asyncio
import contextlib
from collections.abc import AsyncIterator

from fastapi import APIRouter, Depends, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from gentle_ledger.app.commands.later import KeepBack, SettleByHand, TryAgain, still_to_try
from gentle_ledger.app.commands.sending import AskCarrier, GoByLine, GoOn, Pause, Stop
from gentle_ledger.app.commands.starting import Start, TakeBack
from gentle_ledger.app.counting.jobs import FreezeRows, Frozen
from gentle_ledger.app.counting.reading_texts import SumChosen
from gentle_ledger.app.edit import Command
from gentle_ledger.app.superseded import from_the_newest
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.rounds import round_of
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.forecast.ahead import run_ahead_now
from gentle_ledger.web.forecast.view import leaving_out
from gentle_ledger.web.rounds.schemas import Desk
from gentle_ledger.web.rounds.view import changed_desk, estimate
from gentle_ledger.web.sending.schemas import ChosenIn, ChosenSum, Confirmation, GoOnIn, LaterIn, StartIn, TallyOut
from gentle_ledger.web.sending.view import confirmation, later_confirmation, parts_of, pulse_of, run_later, tally

router = APIRouter(prefix="/api/rounds/{round_id}", tags=["sending"])

_LEAST_BETWEEN = 0.2
"""Seconds between two pictures of the same tally: a person sees no more."""
_LOOK_ANYWAY = 1.0
"""Seconds after which the tally is looked at even if nobody rang, so that another process's sending shows too."""


@router.get("/confirmation")
def confirm(here: Here, round_id: RoundId) -> Confirmation:
    """What there is to read before all that is ready is sent."""
    return _before_sending(here, round_id, None)


@router.post("/confirmation")
def confirm_chosen(here: Here, round_id: RoundId, body: LaterIn) -> Confirmation:
    """What there is to read before some rows are sent, also later, once others have gone."""
    return _before_sending(here, round_id, body.rows, all_the_same=body.all_the_same)


@from_the_newest
def _before_sending(
    here: Context, round_id: int, rows: list[RowNumber] | None, *, all_the_same: bool = False
) -> Confirmation:
    found, opened = here.opened(round_id)
    if found.stage == Stage.PREPARING:
        _, opened = here.opened(round_id, preparing=True)
        return confirmation(here, opened, rows)
    with here.database.reading() as session:
        return later_confirmation(here, session, found, opened, rows, all_the_same=all_the_same)


@router.post("/chosen")
def sum_chosen(here: Here, round_id: RoundId, body: ChosenIn) -> ChosenSum:
    """What some rows come to: how many of their texts may be sent, in how many parts, and when they leave."""
    found, opened = here.opened(round_id)
    rows, now = body.rows or [], here.moment()
    if found.stage == Stage.PREPARING:
        chosen = [row_of_number(row) for row in rows]
        texts, parts = here.counting.answer(opened, SumChosen(chosen))
        run = run_ahead_now(here, found, opened, now, chosen)
    else:
        with here.database.reading() as session:
            waiting = still_to_try(session, found, here.now(), "ready", rows)
            run = run_later(here, session, found, waiting, now)
        texts, parts = len(waiting), parts_of(waiting)
    start = opened.recipe.pace.as_pace(here.settings.zone).start
    sums = estimate(here, opened.recipe, texts, parts)
    return ChosenSum(**sums.model_dump(), ahead=leaving_out(here, run, now, start))


@router.post("/start")
def start(here: Here, round_id: RoundId, body: StartIn) -> TallyOut:
    """Freezes exactly what the seal stands for and starts sending; anything else is refused."""
    here.rehearsals.stop(round_id)
    frozen = _current(here, round_id)
    return _done(here, round_id, Start(seal=body.seal, rows=body.rows, frozen=frozen, office=here.settings.zone))


@from_the_newest
def _current(here: Context, round_id: int) -> Frozen:
    _, opened = here.opened(round_id, preparing=True)
    return here.counting.answer(opened, FreezeRows(here.settings.zone))


def _done(here: Context, round_id: int, command: Command) -> TallyOut:
    here.editor.edit(round_id, command, deed=here.deed)
    here.changed()
    return now(here, round_id)


@router.post("/pause")
def pause(here: Here, round_id: RoundId) -> TallyOut:
    """No further text leaves; one that is just being handed over still gets its mark."""
    return _done(here, round_id, Pause())


@router.post("/go-on")
def go_on(here: Here, round_id: RoundId, body: GoOnIn | None = None) -> TallyOut:
    """Goes on sending after a pause. Where it has to be looked at first, it has to be said that this was done."""
    return _done(here, round_id, GoOn(looked=body is not None and body.looked))


@router.post("/settle")
def settle(here: Here, round_id: RoundId, body: SettleByHand) -> TallyOut:
    """Settles texts that are unsure by hand: they went, or surely did not, and can be tried again then."""
    return _done(here, round_id, body)


@router.post("/line")
def go_by_line(here: Here, round_id: RoundId, body: GoByLine) -> TallyOut:
    """Has a round that was confirmed for another line go by the one in use now."""
    return _done(here, round_id, body)


@router.post("/take-back")
def take_back_sending(here: Here, round_id: RoundId) -> Desk:
    """Brings a round of which nothing went back to being prepared."""
    return changed_desk(here, round_id, TakeBack())


@router.post("/stop")
def stop(here: Here, round_id: RoundId) -> TallyOut:
    """Ends the round: what has not gone is left out, and can be taken up again."""
    return _done(here, round_id, Stop())


@router.post("/again")
def try_again(here: Here, round_id: RoundId, body: TryAgain) -> TallyOut:
    """Sends failed rows that may succeed, stopped ones, or those not chosen at first; they leave at the pace."""
    return _done(here, round_id, body)


@router.post("/keep-back")
def keep_rest_back(here: Here, round_id: RoundId) -> TallyOut:
    """Leaves out what was not among those chosen to go; it can be taken up again."""
    return _done(here, round_id, KeepBack())


@router.post("/ask")
def ask_carrier(here: Here, round_id: RoundId) -> TallyOut:
    """Has the sender ask the carrier now what became of the Unsure rows; hands nothing over."""
    return _done(here, round_id, AskCarrier())


@router.get("/tally")
def now(here: Here, round_id: RoundId) -> TallyOut:
    """A whole picture of where a started round stands."""
    with here.database.reading() as session:
        return tally(here, session, round_of(session, round_id))


def _there(here: Here, round_id: RoundId) -> None:
    """A stream cannot say any more that there is no such round."""
    with here.database.reading() as session:
        round_of(session, round_id)


@router.get(
    "/events", dependencies=[Depends(_there)], response_class=EventSourceResponse, responses={200: {"model": None}}
)
async def events(here: Here, round_id: RoundId, request: Request) -> AsyncIterator[ServerSentEvent]:
    """A whole tally whenever something changed: any one of them is right by itself, after a lost connection too."""
    loop = asyncio.get_running_loop()
    rung = asyncio.Event()

    def listener() -> None:
        # The loop may be closing while somebody still signals.
        with contextlib.suppress(RuntimeError):
            loop.call_soon_threadsafe(rung.set)

    shown: object = None
    with here.signal.listening(listener):
        while not (here.signal.closed or await request.is_disconnected()):
            rung.clear()
            pulse = await asyncio.to_thread(pulse_of, here, round_id)
            if pulse != shown:
                shown = pulse
                yield ServerSentEvent(data=await asyncio.to_thread(now, here, round_id), event="tally")
                await asyncio.sleep(_LEAST_BETWEEN)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(rung.wait(), _LOOK_ANYWAY)
