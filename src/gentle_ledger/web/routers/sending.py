"""Sending: the confirmation, start, pause, go on, stop, try again, and the stream of what happens."""

import asyncio
import contextlib
from collections.abc import AsyncIterator

from fastapi import APIRouter, Depends, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from sqlalchemy.orm import Session

from gentle_ledger.core.cells.words import count
from gentle_ledger.core.rounds.compute import Computed
from gentle_ledger.core.rounds.marks import Stage
from gentle_ledger.store.errors import NotNow
from gentle_ledger.store.lines import kept_away
from gentle_ledger.store.messages import (
    again,
    freeze,
    last_entry,
    stop_what_is_to_go,
)
from gentle_ledger.store.models import Round
from gentle_ledger.store.rounds import preparing_round, round_of
from gentle_ledger.web import schemas as out
from gentle_ledger.web.context import Context, Here, RoundId
from gentle_ledger.web.desks import from_the_newest
from gentle_ledger.web.tally import still_to_try, tally
from gentle_ledger.web.views import confirmation, seal_of

router = APIRouter(prefix="/api/rounds/{round_id}", tags=["sending"])

_LEAST_BETWEEN = 0.2
"""Seconds between two pictures of the same tally: a person sees no more."""
_LOOK_ANYWAY = 1.0
"""Seconds after which the tally is looked at even if nobody rang, so that another process's sending shows too."""


@router.get("/confirmation")
@from_the_newest
def confirm(here: Here, round_id: RoundId) -> out.Confirmation:
    """What there is to read before sending."""
    _, state = here.opened(round_id, preparing=True)
    return confirmation(here, state)


@router.post("/start")
def start(here: Here, round_id: RoundId, body: out.StartIn) -> out.TallyOut:
    """Freezes exactly what the seal stands for and starts sending; anything else is refused."""
    computed = _current(here, round_id)
    as_seen = seal_of(computed) == body.seal
    with here.database.writing() as session:
        found = preparing_round(session, round_id)
        state = here.desks.state(session, found)
        # The transaction keeps every change out: what was computed must still be what stands here.
        if state.counted is not computed or not as_seen or state.behind_the_record(session):
            raise NotNow(
                "Something changed since the slips were shown, so nothing was sent.", "Look at them once more and send."
            )
        if not computed.ready:
            raise NotNow("No row is ready to be sent.", "See what holds them under Worth a look.")
        freeze(session, found, computed, here.clock.now())
    return _after(here, round_id)


@from_the_newest
def _current(here: Context, round_id: int) -> Computed:
    _, state = here.opened(round_id, preparing=True)
    return state.computed()


def _after(here: Context, round_id: int) -> out.TallyOut:
    here.changed()
    return now(here, round_id)


def _stage(session: Session, round_id: int, before: set[Stage], to: Stage, refusal: str) -> Round:
    found = round_of(session, round_id)
    if found.stage not in before:
        raise NotNow(refusal)
    found.stage = to
    found.note = ""
    found.version += 1
    return found


@router.post("/pause")
def pause(here: Here, round_id: RoundId) -> out.TallyOut:
    """No further text leaves; one that is just being handed over still gets its mark."""
    with here.database.writing() as session:
        _stage(session, round_id, {Stage.SENDING}, Stage.PAUSED, "The round is not sending, so it cannot be paused.")
    return _after(here, round_id)


@router.post("/go-on")
def go_on(here: Here, round_id: RoundId) -> out.TallyOut:
    with here.database.writing() as session:
        _stage(session, round_id, {Stage.PAUSED}, Stage.SENDING, "The round is not paused.")
    return _after(here, round_id)


@router.post("/stop")
def stop(here: Here, round_id: RoundId) -> out.TallyOut:
    """Ends the round: what has not gone is left out, and can be taken up again."""
    with here.database.writing() as session:
        refusal = "The round is not sending, so it cannot be stopped."
        found = _stage(session, round_id, {Stage.SENDING, Stage.PAUSED}, Stage.STOPPED, refusal)
        at = here.clock.now()
        found.finished_at = at
        stop_what_is_to_go(session, round_id, at)
    return _after(here, round_id)


@router.post("/again")
def try_again(here: Here, round_id: RoundId, body: out.AgainIn) -> out.TallyOut:
    """Puts the failed rows that may succeed, or the stopped ones, back to To go, and sends them at the pace."""
    with here.database.writing() as session:
        found = round_of(session, round_id)
        failed = body.which == "failed"
        rows = still_to_try(here, session, found, failed=failed)
        if len(rows) != body.texts:
            raise NotNow(
                f"Something changed meanwhile: there are {count(len(rows), 'text')} now, not {body.texts:,}.",
                "Look once more and send.",
            )
        reason = "to be tried again" if failed else "taken up again"
        again(session, found, here.clock.now(), rows, reason)
        found.note = ""
    return _after(here, round_id)


@router.post("/ask")
def ask_carrier(here: Here, round_id: RoundId) -> out.TallyOut:
    """Has the sender ask the carrier now what became of the Unsure rows; hands nothing over.

    Only a wish is written down: the sender may be another process, and what it knows it alone writes.
    """
    with here.database.writing() as session:
        round_of(session, round_id).ask_wanted = True
    return _after(here, round_id)


@router.get("/tally")
def now(here: Here, round_id: RoundId) -> out.TallyOut:
    with here.database.reading() as session:
        return tally(here, session, round_of(session, round_id))


def _pulse(here: Context, round_id: int) -> object:
    """Something cheap that is another whenever the tally is: long rounds are not counted anew for nothing."""
    with here.database.reading() as session:
        found = round_of(session, round_id)
        return (
            found.version,
            last_entry(session),
            here.loop.has_the_lock,
            here.loop.trouble,
            kept_away(session, here.sender.line.identity),
            here.sender.waits_for_carrier(),
        )


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
        # The loop may be closing while the sender still rings.
        with contextlib.suppress(RuntimeError):
            loop.call_soon_threadsafe(rung.set)

    shown: object = None
    with here.bell.listening(listener):
        while not await request.is_disconnected():
            rung.clear()
            pulse = await asyncio.to_thread(_pulse, here, round_id)
            if pulse != shown:
                shown = pulse
                yield ServerSentEvent(data=await asyncio.to_thread(now, here, round_id), event="tally")
                await asyncio.sleep(_LEAST_BETWEEN)
            with contextlib.suppress(TimeoutError):
                await asyncio.wait_for(rung.wait(), _LOOK_ANYWAY)
