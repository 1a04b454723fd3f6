"""Sending as the browser shows it: what is read before it, and where it stands."""

from collections import Counter
from collections.abc import Iterable, Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from gentle_ledger.app.commands.sending import still_to_try, waiting_texts
from gentle_ledger.app.counting.reading_texts import LookBeforeSending
from gentle_ledger.app.open_rounds import OpenRound
from gentle_ledger.core.cells.phones import countries_of, regions_of
from gentle_ledger.core.cells.rows import RowNumber, row_of_number
from gentle_ledger.core.cells.words import count, listed
from gentle_ledger.core.pace.decide import ANY_ROW, LineState, RoundState, Send, decide, last_leaves
from gentle_ledger.core.recipe.model import REST
from gentle_ledger.core.rounds.marks import Mark
from gentle_ledger.core.rounds.stages import Stage
from gentle_ledger.store.lines import kept_away, line_in_use
from gentle_ledger.store.looked_at import looked_at
from gentle_ledger.store.messages import (
    counts_of,
    failures_of,
    last_entry,
    marks_in_order,
    next_to_go,
    stopped_before_turn,
    texts_of,
)
from gentle_ledger.store.models import LineRecord, Message, Round
from gentle_ledger.store.rehearsals import rehearsal_of
from gentle_ledger.store.rounds import recipe_of, round_of
from gentle_ledger.store.senders import last_sender, somebody_sends, this_process
from gentle_ledger.web.context import Context
from gentle_ledger.web.rehearsal.view import rehearsed_then
from gentle_ledger.web.rounds.view import counts_out, estimate
from gentle_ledger.web.rows.view import planned_slip, sent_slip
from gentle_ledger.web.schemas import NextOut
from gentle_ledger.web.sending.schemas import AwayOut, Confirmation, FailureOut, SenderPlace, Share, ShownSlip, TallyOut
from gentle_ledger.web.strokes import strokes_of


def sentence_of(stage: Stage, texts: dict[Mark, int], stopped: int = 0) -> str:
    """What happened, in one sentence. Everything is counted in texts; several combined rows are one.

    `stopped` is how many of those left out were stopped before their turn: they belong to what was to be sent.
    """
    sent, failed, unsure = (texts.get(mark, 0) for mark in (Mark.SENT, Mark.FAILED, Mark.UNSURE))
    to_go = texts.get(Mark.TO_GO, 0) + texts.get(Mark.GOING, 0)
    whole = sent + failed + unsure + to_go + stopped
    if stage in {Stage.SENDING, Stage.PAUSED}:
        return f"{count(to_go, 'text')} still to go."
    if sent == whole and whole:
        said = f"All {count(sent, 'text')} sent." if sent > 1 else "The one text is sent."
    elif whole == stopped:
        said = f"Stopped before any of {count(whole, 'text')} was sent." if whole > 1 else "Stopped before it was sent."
    else:
        rest = [f"{n:,} {word}" for n, word in ((failed, "failed"), (unsure, "unsure"), (stopped, "stopped")) if n]
        said = f"{sent:,} of {count(whole, 'text')} sent, {listed(rest)}."
    held, left_out = texts.get(Mark.HELD, 0), texts.get(Mark.LEFT_OUT, 0) - stopped
    ready = texts.get(Mark.READY, 0)
    kept = [f"{n:,} {word}" for n, word in ((ready, "still ready"), (held, "held"), (left_out, "left out")) if n]
    return f"{said} {listed(kept)}, not sent." if kept else said


def absence_of(context: Context, session: Session, now: datetime) -> AwayOut | None:
    """Why nothing leaves although a round sends: the carrier is away, or the sender cannot work."""
    sender, line = last_sender(session), line_in_use(session)
    if trouble := context.signal.trouble or (sender.trouble if sender else ""):
        return AwayOut(reason=trouble, since=None, looks_in_ms=None)
    known = kept_away(line) if line else None
    if known is None:
        return None
    looks_in = max(0.0, (known.until - now).total_seconds())
    return AwayOut(reason=known.reason, since=known.since, looks_in_ms=round(looks_in * 1000))


def _line_state(line: LineRecord | None) -> LineState:
    """A line as the pace looks at it, told by civil time: the clock of whoever sends is its own."""
    if line is None:
        return LineState()
    last, until = line.last_hand_over_at, line.not_before
    return LineState(last.timestamp() if last else None, line.draw, until.timestamp() if until else None)


def _sender_place(context: Context, session: Session) -> SenderPlace:
    if not somebody_sends(context.database.path):
        return SenderPlace.NOWHERE
    sender = last_sender(session)
    return SenderPlace.HERE if sender and sender.process == this_process() else SenderPlace.ELSEWHERE


def tally(context: Context, session: Session, found: Round) -> TallyOut:
    """A whole picture of where a started round stands."""
    counts = counts_of(session, found.id)
    texts = texts_of(session, found.id)
    stage = Stage(found.stage)
    strokes, each = strokes_of(marks_in_order(session, found.id))
    stopped = len(stopped_before_turn(session, found.id))
    over = stage in {Stage.STOPPED, Stage.FINISHED}
    coming = next_to_go(session, found.id) if stage in {Stage.SENDING, Stage.PAUSED} else None
    seconds = last = None
    now = context.moment()
    away = absence_of(context, session, now.civil) if stage in {Stage.SENDING, Stage.PAUSED} else None
    if coming is not None and stage is Stage.SENDING:
        line, round_ = _line_state(line_in_use(session)), RoundState(recipe_of(found).pace.as_pace())
        decision = decide(line, round_, ANY_ROW, now)
        until = now.forward if isinstance(decision, Send) else decision.until
        seconds = None if until is None else max(0.0, until - now.forward)
        # Rounds that send at the same time take turns on the line.
        sharing = session.scalar(select(func.count()).select_from(Round).where(Round.stage == Stage.SENDING)) or 1
        # Nobody can say how long a carrier stays away.
        last = None if away else last_leaves(line, round_, texts.get(Mark.TO_GO, 0) * sharing, now)
    return TallyOut(
        stage=stage,
        version=found.version,
        entry=last_entry(session) or 0,
        note=found.note,
        sentence=sentence_of(stage, texts, stopped),
        counts=counts_out(counts),
        texts=counts_out(texts),
        strokes=strokes,
        texts_a_stroke=each,
        next=NextOut(row=coming.row, label=coming.label) if coming else None,
        next_in_ms=None if seconds is None else round(seconds * 1000),
        away=away,
        sender=_sender_place(context, session),
        last_leaves_at=last,
        failures=[
            FailureOut(reason=reason, texts=texts, may_retry=may)
            for reason, texts, may in failures_of(session, found.id)
        ],
        may_try_again=len(still_to_try(session, found, context.now(), "failed")) if over else 0,
        may_take_up=len(still_to_try(session, found, context.now(), "stopped")) if over else 0,
        ready=texts.get(Mark.READY, 0),
        unsure=texts.get(Mark.UNSURE, 0),
    )


def confirmation(context: Context, state: OpenRound, rows: list[RowNumber] | None) -> Confirmation:
    """What the clerk reads before sending some rows, or all: how many, to whom, how long, and slips worth reading."""
    chosen = None if rows is None else [row_of_number(row) for row in rows]
    with context.database.reading() as session:
        seen = looked_at(session, state.round_id)
        kept = rehearsal_of(session, state.round_id)
    before = context.counting.answer(state, LookBeforeSending(seen, chosen))
    sums = estimate(context, state.recipe, before.texts, before.parts)
    return Confirmation(
        seal=before.seal,
        locked_at=None,
        line=context.line_name(),
        texts=before.texts,
        parts=sums.parts,
        numbers=before.numbers,
        countries=_shares(before.countries),
        wordings=[Share(name=name or REST, texts=texts) for name, texts in before.wordings],
        odd=before.odd,
        unseen_odd=before.unseen_odd,
        unseen=before.unseen,
        changed=before.changed,
        held=before.held,
        left_out=before.left_out,
        waiting=before.waiting,
        given_way=0,
        superseded=0,
        rehearsed=kept and rehearsed_then(kept, before.whole_seal, state.recipe),
        lasting=sums.lasting,
        last_leaves_at=sums.last_leaves_at,
        cost=sums.cost,
        slips=[ShownSlip(why=why, slip=planned_slip(context, state, row)) for why, row in before.worth_reading],
    )


def _shares(counted: Iterable[tuple[str, int]]) -> list[Share]:
    return [Share(name=name, texts=texts) for name, texts in counted]


def parts_of(messages: Sequence[Message]) -> dict[str, int]:
    """In how many parts frozen texts are carried to numbers of each country (ISO 3166-1)."""
    found: Counter[str] = Counter()
    for message, region in zip(messages, regions_of(message.address for message in messages), strict=True):
        found[region] += message.parts
    return dict(found)


def later_confirmation(
    context: Context,
    session: Session,
    found: Round,
    state: OpenRound,
    rows: list[RowNumber] | None,
    *,
    all_the_same: bool,
) -> Confirmation:
    """What the clerk reads before sending what was not chosen at first: texts that were locked when sending began.

    `all_the_same` has those among them about which another round texted since.
    """
    now = context.now()
    may_go = still_to_try(session, found, now, "ready", rows, all_the_same=True)
    not_doubtful = still_to_try(session, found, now, "ready", rows)
    going = may_go if all_the_same else not_doubtful
    waiting = waiting_texts(session, found, "ready")
    mine = waiting if rows is None else waiting_texts(session, found, "ready", rows)
    sums = estimate(context, state.recipe, len(going), parts_of(going))
    picks = {} if not going else {going[0].row: "The first", max(going, key=lambda m: len(m.text)).row: "The longest"}
    shown = [(picks[message.row], message) for message in going if message.row in picks]
    return Confirmation(
        seal="",
        locked_at=found.started_at,
        line=context.line_name(),
        texts=len(going),
        parts=sums.parts,
        numbers=len({message.address for message in going}),
        countries=_shares(Counter(countries_of(message.address for message in going)).most_common()),
        wordings=[],
        odd=0,
        unseen_odd=0,
        unseen=0,
        changed=0,
        held=0,
        left_out=0,
        waiting=len(waiting) - len(mine),
        given_way=len(mine) - len(may_go),
        superseded=len(may_go) - len(not_doubtful),
        rehearsed=None,
        lasting=sums.lasting,
        last_leaves_at=sums.last_leaves_at,
        cost=sums.cost,
        slips=[ShownSlip(why=why, slip=sent_slip(context, state, message)) for why, message in shown],
    )


def pulse_of(here: Context, round_id: int) -> object:
    """Something cheap that is another whenever the tally is: long rounds are not counted anew for nothing."""
    now = here.now()
    with here.database.reading() as session:
        found = round_of(session, round_id)
        sender, line = last_sender(session), line_in_use(session)
        away = kept_away(line) if line else None
        return (
            found.version,
            last_entry(session),
            sender and (sender.process, sender.trouble),
            somebody_sends(here.database.path),
            here.signal.trouble,
            away and (away, away.until > now),
        )
